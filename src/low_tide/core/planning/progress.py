"""How far a project has come: what is done, what it took against what was planned, what may be left out first."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from statistics import median

from low_tide.core.planning.project import ROLES, Part, Project
from low_tide.core.units import figure

LEAST_TIMED = 2
"""So many parts of a role have to be timed before the others are reckoned by them."""
WITHIN = (0.5, 3.0)
"""No part is reckoned at less or more than this, whatever two of its kind took."""
FIRST_TO_GO: dict[str, int] = {"double": 0, "harmony": 1, "other": 2, "guide": 3, "lead": 4, "main": 5}


@dataclass(frozen=True)
class Ratio:
    """What parts of a role took against what was planned: the median, of how many, and in words."""

    role: str
    ratio: float
    parts: int
    words: str


def planned(part: Part, project: Project) -> int:
    """Minutes a part was planned at."""
    return part.play + (part.find if project.school == "commit" else 0)


def ratios(project: Project) -> tuple[Ratio, ...]:
    """Roles of which enough parts are done and timed."""
    found = []
    for role, name in ROLES.items():
        of_it = [p.took / planned(p, project) for _, p in project.parts() if p.role == role and p.done and p.took]
        if len(of_it) >= LEAST_TIMED:
            typical = min(max(median(of_it), WITHIN[0]), WITHIN[1])
            words = f"{name}: {figure(typical, 2)} × what was planned, the median of {len(of_it)}"
            found.append(Ratio(role, typical, len(of_it), words))
    return tuple(found)


def by_role(project: Project) -> Mapping[str, float]:
    """Role → how much longer its parts took than was planned."""
    return {each.role: each.ratio for each in ratios(project)}


def first_to_go(project: Project) -> tuple[str, ...]:
    """Parts that are not done and need not be in, those first that are missed least: doubles before harmonies before
    leads, what nothing else waits for before what something does, the longest first."""
    waited_for = {first for _, part in project.parts() if not part.done for first in (*part.after, part.double_of)}
    open_parts = [part for _, part in project.parts() if not part.done and not part.must]
    ranked = sorted(open_parts, key=lambda p: (p.id in waited_for, FIRST_TO_GO[p.role], -planned(p, project), p.id))
    return tuple(part.id for part in ranked)
