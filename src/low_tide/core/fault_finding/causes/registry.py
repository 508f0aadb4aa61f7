"""What a cause is, and where causes are registered: once."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Literal, TypeAlias

from low_tide.core.fault_finding.situation import Situation, anywhere
from low_tide.core.rig.changes import Change

Stretch: TypeAlias = Literal[
    "guitar", "front", "preamp", "loop", "power", "load", "line", "input", "software", "hearing"
]
STRETCHES: tuple[Stretch, ...] = (
    "guitar",
    "front",
    "preamp",
    "loop",
    "power",
    "load",
    "line",
    "input",
    "software",
    "hearing",
)
"""Stretches of the signal's way, in its order."""

Effect: TypeAlias = Literal["loss", "noise", "overload", "breaks", "tone", "time", "side"]
"""What a fault does: takes signal away, adds noise, bends what is loud, comes and goes, changes the tone, delays or
doubles, takes one side."""

Way: TypeAlias = Literal["look", "turn", "listen", "swap", "measure", "re_plug"]
EFFORT: Mapping[Way, float] = {"look": 1, "turn": 2, "listen": 2, "swap": 4, "measure": 4, "re_plug": 5}
TOUCHES_LEADS: frozenset[Way] = frozenset({"swap", "measure", "re_plug"})
"""Ways of testing that move a plug: only with the amp off and dark."""


def no_change(_: Situation) -> tuple[Change, ...]:
    """What mends it is no change to the hook-up."""
    return ()


@dataclass(frozen=True)
class Own:
    """How one tells a cause by itself: a question whose yes means it. `sure`: how often it says so where it is this;
    `false`: how often it says so where it is something else."""

    asks: str
    way: Way
    sure: float = 0.97
    false: float = 0.015


@dataclass(frozen=True)
class Cause:
    """A fault that may be in a hook-up.

    `at` and `does`: where on the signal's way it lies, and what it does. `symptoms`: how likely each is under it.
    `prior`: how often it is met, against the others. `there`: whether it can be in a hook-up. `remedy`: what mends it,
    in words; `fix`: the same as changes, where it is one. `technician`: nobody else mends it. `checks`: those that tell
    of it before anything is switched on. `grows`: it comes with time. `ohms`: a multimeter sees it. `phase`: it is a
    matter of two that cancel. `shows`: what probes say under it where its place and effect do not tell.
    """

    id: str
    name: str
    at: Stretch
    does: Effect
    prior: float
    symptoms: Mapping[str, float]
    own: Own
    remedy: str
    there: Callable[[Situation], bool] = anywhere
    fix: Callable[[Situation], tuple[Change, ...]] = no_change
    checks: tuple[str, ...] = ()
    technician: bool = False
    grows: bool = False
    ohms: bool = False
    phase: bool = False
    shows: Mapping[str, float] = field(default_factory=dict)

    @property
    def place(self) -> int:
        """Where on the way it lies, counted from the guitar."""
        return STRETCHES.index(self.at)


CAUSES: dict[str, Cause] = {}


def register(causes: Iterable[Cause]) -> None:
    """Add causes to those that are known; ValueError for an id that is there already."""
    for cause in causes:
        if cause.id in CAUSES:
            raise ValueError(f"There are two causes called {cause.id}.")
        CAUSES[cause.id] = cause
