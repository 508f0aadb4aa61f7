"""Where kinds of mistake are registered, once: how a hand makes one, the rule it breaks, the checks that find it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TypeAlias

from low_tide.core.judging.findings import Severity
from low_tide.core.rig.changes import Change
from low_tide.core.rig.rig import Rig


@dataclass(frozen=True)
class Twist:
    """One way a mistake may be made in a hook-up.

    `changes` make it and `undo` takes it back, each as one act of a hand. `at`: ids of units and leads that it moves.
    `size`: how obvious it is among its like, larger being more so.
    """

    changes: tuple[Change, ...]
    at: tuple[str, ...]
    undo: tuple[Change, ...] = ()
    size: float = 1.0


Ways: TypeAlias = Callable[[Rig], Iterator[Twist]]


@dataclass(frozen=True)
class Mistake:
    """A kind of mistake: what it is called, the rule in one sentence, the section of the physics that explains it, the
    checks that may find it, and `wants`: what it takes to make it, in words. `least`: a finding is at least this.
    `shows`: it is to be seen in a picture of the hook-up, and may be pointed at and mended there."""

    id: str
    name: str
    rule: str
    page: str
    checks: tuple[str, ...]
    wants: str
    ways: Ways
    least: Severity = "caution"
    shows: bool = True


MISTAKES: dict[str, Mistake] = {}


def mistake(
    id: str,
    name: str,
    rule: str,
    page: str,
    checks: tuple[str, ...],
    wants: str,
    least: Severity = "caution",
    shows: bool = True,
) -> Callable[[Ways], Ways]:
    """Register a kind of mistake under its id. A second one of an id raises ValueError."""

    def register(ways: Ways) -> Ways:
        if id in MISTAKES:
            raise ValueError(f"mistake {id} is registered twice")
        MISTAKES[id] = Mistake(id, name, rule, page, checks, wants, ways, least, shows)
        return ways

    return register
