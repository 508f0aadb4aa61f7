"""What is wished for, and what comes of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, TypeAlias

from low_tide.core.gear.base import identity
from low_tide.core.inventory import Lead
from low_tide.core.rig.hookup import Hookup
from low_tide.core.rig.worth import Worth
from low_tide.core.spec import Spec

Goal: TypeAlias = Literal["silent", "down", "about_3", "reamped", "cupboard", "loop", "barely", "direct"]
Way: TypeAlias = Literal[
    "load", "attenuator", "split", "reamp", "cabinet", "mode", "loop", "master", "inline", "barely", "direct"
]


@dataclass(frozen=True)
class GoalInfo:
    """A goal by name. `levelled`: a number of dB goes with it. `always_line`: without a line it makes no sense."""

    id: Goal
    name: str
    levelled: bool = False
    always_line: bool = False


GOALS: tuple[GoalInfo, ...] = (
    GoalInfo("silent", "Silent capture", always_line=True),
    GoalInfo("down", "Quieter, through the real speaker", levelled=True),
    GoalInfo("about_3", "About 3 dB down"),
    GoalInfo("reamped", "Loaded and re-amplified"),
    GoalInfo("cupboard", "The real cabinet in a cupboard", always_line=True),
    GoalInfo("loop", "Turned down in the effects loop", levelled=True),
    GoalInfo("barely", "The amp barely turned up, through its speaker"),
    GoalInfo("direct", "No valve power stage at all", always_line=True),
)
_BY_ID = {info.id: info for info in GOALS}

WAYS_OF: dict[Goal, tuple[Way, ...]] = {
    "silent": ("load", "direct"),
    "down": ("attenuator", "reamp", "split", "mode", "loop", "master", "inline"),
    "about_3": ("split", "attenuator", "mode"),
    "reamped": ("reamp",),
    "cupboard": ("cabinet",),
    "loop": ("loop",),
    "barely": ("barely",),
    "direct": ("direct",),
}
"""Ways that can serve a goal, the first being what practitioners usually mean by it."""

ABOUT_3_DB = 3.0


@dataclass(frozen=True)
class Wish:
    """What a hook-up should do. `amp`, `cabinet`: a gear id, or empty for any. `down_db`: under full, at the speaker;
    `down_said`: the same in words, which then counts."""

    goal: Annotated[Goal, Spec("Goal", names={info.id: info.name for info in GOALS})] = "silent"
    down_db: Annotated[float, Spec("Down by", "dB", 0, 60)] = 12.0
    down_said: Annotated[str, Spec("Down by, in words", le=60)] = ""
    line: Annotated[bool, Spec("And a line to the desk")] = True
    amp: Annotated[str, identity("Amp", "|")] = ""
    cabinet: Annotated[str, identity("Cabinet", "|")] = ""
    most_price: Annotated[float | None, Spec("If bought, at most", "", 0, 10_000_000)] = None
    most_weight: Annotated[float | None, Spec("If bought, at most", "kg", 0.1, 1000)] = None

    def wanted_db(self) -> float | None:
        """dB down at the speaker; None where no certain level is wished for."""
        if _BY_ID[self.goal].levelled:
            return self.down_db
        return ABOUT_3_DB if self.goal == "about_3" else None

    def wants_line(self) -> bool:
        """Whether a line to the desk is wanted, said or implied by the goal."""
        return self.line or _BY_ID[self.goal].always_line


@dataclass(frozen=True)
class Proposal:
    """A hook-up that passes the checks, with what speaks for it and what it costs.

    `margin_db`: least room to a rating, flat out. `down_db`: at the speaker, None without one. `dbfs`: peaks at
    the converter. `likeness_db`: how far the curve the amp sees strays from the chosen cabinet's (RMS over the
    programme), None without one. `changes`: leads that differ from the hook-up on the bench. Lower `score` is
    better. `figures`: those worth a line, in words. `needs`: leads it takes that nobody owns yet. `worth`: what all of
    it costs and weighs.
    """

    way: Way
    name: str
    hookup: Hookup
    severity: str
    words: str
    score: float
    margin_db: float | None
    down_db: float | None
    off_db: float | None
    dbfs: float | None
    likeness_db: float | None
    changes: int
    figures: tuple[str, ...]
    why: tuple[str, ...]
    costs: tuple[str, ...]
    needs: tuple[Lead, ...] = ()
    worth: Worth | None = None
    worth_words: str = ""


@dataclass(frozen=True)
class RuledOut:
    """Gear that will not do, and the reason with its numbers."""

    unit: str
    name: str
    why: str


@dataclass(frozen=True)
class WayAdvice:
    """A way to turn down: whether it serves here, and what speaks for and against it."""

    way: Way
    name: str
    possible: bool
    standing: str
    pro: str
    con: str


@dataclass(frozen=True)
class Specification:
    """What would do it, where nothing owned does: no product, only figures."""

    text: str
    ohms: float
    watts: float
    watts_kind: str
    sockets: str
    steps: str
