"""Where checks are registered, once; the run, the schema and the docs all read this list."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cached_property

from low_tide.core.capture import LinePoint, line_points
from low_tide.core.circuit import network
from low_tide.core.finding import RANK, Finding
from low_tide.core.hookup import Rig
from low_tide.core.network import Network
from low_tide.core.power import Seen, Share, seen_by, shares
from low_tide.core.preferences import Preferences


@dataclass(frozen=True)
class Case:
    """Everything a check may look at: the rig, the schools, and the nominal network's results."""

    rig: Rig
    preferences: Preferences

    @cached_property
    def network(self) -> Network:
        return network(self.rig)

    @cached_property
    def seen(self) -> tuple[Seen, ...]:
        return seen_by(self.rig, self.network)

    @cached_property
    def shares(self) -> tuple[Share, ...]:
        return shares(self.rig)

    @cached_property
    def line_points(self) -> tuple[LinePoint, ...]:
        return line_points(self.rig, self.network)


Run = Callable[[Case], Iterable[Finding]]


@dataclass(frozen=True)
class Check:
    """One rule: its id, its family, what makes it fire in one sentence, and the function."""

    id: str
    family: str
    when: str
    run: Run


REGISTRY: dict[str, Check] = {}


def check(id: str, family: str, when: str) -> Callable[[Run], Run]:
    """Register a check under its id. A second one of the same id raises ValueError."""

    def register(run: Run) -> Run:
        if id in REGISTRY:
            raise ValueError(f"check {id} is registered twice")
        REGISTRY[id] = Check(id, family, when, run)
        return run

    return register


def run_all(case: Case) -> tuple[Finding, ...]:
    """Every finding of every check, worst first, then in the order of registration."""
    found = [finding for each in REGISTRY.values() for finding in each.run(case)]
    return tuple(sorted(found, key=lambda f: -RANK[f.severity]))
