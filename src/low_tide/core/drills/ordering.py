"""Steps to put in order: from a run sheet, those of which one must come before another."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from itertools import islice
from random import Random
from typing import TypeAlias

from low_tide.core.drills.bases import Stock
from low_tide.core.rig.rig import Rig
from low_tide.core.session.run_sheet import Standing, run_sheet
from low_tide.core.session.steps import Does, Step

MOST_AFTER = 3
LEAST_STEPS, MOST_STEPS = 3, 6


@dataclass(frozen=True)
class ToOrder:
    """A step to be put in its place. Those of one `rank` may be done in any order among themselves."""

    id: str
    text: str
    rank: int


@dataclass(frozen=True)
class Ordering:
    """Steps as they are dealt, and what they lead to."""

    ask: str
    steps: tuple[ToOrder, ...]

    def in_order(self) -> tuple[ToOrder, ...]:
        """The steps as the run sheet has them."""
        return tuple(sorted(self.steps, key=lambda step: step.rank))

    def is_right(self, ids: tuple[str, ...]) -> bool:
        """Whether all of them are there and none comes before one it must come after."""
        rank = {step.id: step.rank for step in self.steps}
        if sorted(ids) != sorted(rank):
            return False
        ranks = [rank[each] for each in ids]
        return ranks == sorted(ranks)


ON: dict[Does, int] = {
    "speaker_lead": 1,
    "ohms": 2,
    "box_on": 2,
    "amp_on": 3,
    "standby": 4,
    "softly": 5,
    "working_level": 6,
    "record": 7,
}
RE_PLUG: dict[Does, int] = {
    "turn_down": 1,
    "amp_off": 2,
    "speaker_lead": 3,
    "line_lead": 4,
    "ohms": 5,
    "amp_on": 6,
    "standby": 7,
    "softly": 8,
}
OFF: dict[Does, int] = {"turn_down": 1, "amp_off": 2, "box_off": 3, "stay_plugged": 4}

Source: TypeAlias = Callable[[Stock, Random], Iterator[Ordering]]


@dataclass(frozen=True)
class Order:
    """A kind of order: what it is called, the rule, the section of the physics, a hint, and where it comes from."""

    id: str
    name: str
    rule: str
    page: str
    hint: str
    make: Source


def _rigs(of: Stock, lots: Random, amp: str = "") -> Iterator[Rig]:
    """Sound hook-ups of one amp, in a drawn order; of a certain `amp`, where one is wanted."""
    for number in lots.sample(range(len(of.recipes)), len(of.recipes)):
        raw = of.raw(number)
        amps = [unit for unit, _ in raw.amps()] if raw else []
        if len(amps) != 1 or (amp and amps != [amp]):
            continue
        judged = of.sound(number)
        if judged is not None:
            yield judged.case.rig


def _dealt(ask: str, steps: tuple[Step, ...], ranks: dict[Does, int], lots: Random) -> Ordering | None:
    """One step of each kind at the most, shuffled; None where there are too few, or they lie as they should."""
    found: dict[Does, ToOrder] = {}
    for step in steps:
        if step.does in ranks:
            found.setdefault(step.does, ToOrder(step.id, step.text, ranks[step.does]))
    chosen = list(found.values())
    if len(chosen) < LEAST_STEPS:
        return None
    chosen = lots.sample(chosen, min(MOST_STEPS, len(chosen)))
    for _ in range(8):
        if [each.rank for each in chosen] != sorted(each.rank for each in chosen):
            return Ordering(ask, tuple(chosen))
        lots.shuffle(chosen)
    return None


def _switch_on(of: Stock, lots: Random) -> Iterator[Ordering]:
    for rig in _rigs(of, lots):
        steps = tuple(s for s in run_sheet(rig, of.preferences) if s.phase != "switch_off")
        made = _dealt(f"{_names(rig)}: from nothing plugged in to a take.", steps, ON, lots)
        if made:
            yield made


def _switch_off(of: Stock, lots: Random) -> Iterator[Ordering]:
    for rig in _rigs(of, lots):
        steps = tuple(s for s in run_sheet(rig, of.preferences) if s.phase == "switch_off")
        made = _dealt(f"{_names(rig)}: the last take is done.", steps, OFF, lots)
        if made:
            yield made


def _re_plug(of: Stock, lots: Random) -> Iterator[Ordering]:
    for before in _rigs(of, lots):
        for after in islice(_rigs(of, lots, next(before.amps())[0]), MOST_AFTER):
            steps = run_sheet(after, of.preferences, Standing(before, True))
            steps = tuple(s for s in steps if s.phase != "switch_off")
            made = _dealt(f"{_names(before)} plays; next: {_names(after)}.", steps, RE_PLUG, lots)
            if made:
                yield made


def _names(rig: Rig) -> str:
    """'Godwit 45 into Groyne R8': the amp, and what it works into."""
    amp = next(iter(rig.amps()))[0]
    rest = [g.name for u, g in rig.units() if u != amp and g.kind in ("load", "attenuator", "reamp", "cabinet")]
    return f"{rig.name(amp)} into {rest[0]}" if rest else rig.name(amp)


ORDERS: dict[str, Order] = {
    each.id: each
    for each in (
        Order(
            "switching-on",
            "Switching on",
            "First the load, then the ohms at the plug, then mains, then standby, and only then sound, softly.",
            "readings-at-steps",
            "What must be true before the amp may be on comes first.",
            _switch_on,
        ),
        Order(
            "re-plugging",
            "Re-plugging",
            "Down, off, dark; the speaker side before the line; the ohms before mains.",
            "readings-at-steps",
            "Nothing at speaker level is touched before the amp is off and dark.",
            _re_plug,
        ),
        Order(
            "switching-off",
            "Switching off",
            "What listens goes down first, then the amp, then its box; the load stays in until all is dark.",
            "readings-at-steps",
            "The load is the last thing the amp may lose.",
            _switch_off,
        ),
    )
}
