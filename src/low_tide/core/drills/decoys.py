"""Decoys: what looks wrong in a hook-up and is not. Each is one change; the judge decides whether it is harmless."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from random import Random
from typing import TypeAlias

from low_tide.core.drills.mistakes.ways import free_speaker_ends, hanging, moved, swapped
from low_tide.core.gear.base import Control
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Interface, Load, Unit
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import Judgement, judge
from low_tide.core.rig.changes import AddUnit, Change, Guard, SetControl, changed
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.rig import Rig


@dataclass(frozen=True)
class Decoy:
    """What looks wrong: its change, the units and leads it is at, and why it is nothing, as a sentence."""

    changes: tuple[Change, ...]
    at: tuple[str, ...]
    why: str


Kind: TypeAlias = Callable[[Rig], Iterator[Decoy]]


def _long_lead(rig: Rig) -> Iterator[Decoy]:
    for twist in swapped(rig, lambda level: level == "speaker", lambda lead: lead.construction == "speaker"):
        name = rig.gear[twist.at[0]].name
        yield Decoy(twist.changes, twist.at, f"{name} is a speaker lead, and loses too little to matter.")


def _hanging(rig: Rig) -> Iterator[Decoy]:
    for end in free_speaker_ends(rig):
        for twist in hanging(rig, end):
            why = f"A lead that hangs in {rig.label(end)} and leads nowhere changes nothing there."
            yield Decoy(twist.changes, twist.at, why)


def _unused_phantom(rig: Rig) -> Iterator[Decoy]:
    for unit, gear in rig.units():
        used = rig.plugged(unit)
        for control in gear.controls() if isinstance(gear, Interface) else ():
            socket, _, what = control.id.partition(".")
            if what == "phantom" and socket not in used:
                change = SetControl(unit, control.id, True)
                yield Decoy((change,), (unit,), f"48 V is on at an input of {gear.name} that nothing is plugged into.")


def _taped(rig: Rig) -> Iterator[Decoy]:
    for unit, gear in rig.units():
        for control in gear.controls():
            if control.can_be_taped() and not rig.is_guarded(unit, control.id):
                why = f"Tape on the {control.label.lower()} of {gear.name} keeps it where it stands; that is all."
                yield Decoy((Guard(unit, control.id),), (unit,), why)


def _lifted(rig: Rig) -> Iterator[Decoy]:
    for twist in moved(rig, lambda unit, control: control.id.split(".")[-1] == "lift"):
        name = rig.name(twist.at[0])
        yield Decoy(twist.changes, twist.at, f"The audio-earth lift of {name} may stand either way here.")


def _idle(rig: Rig) -> Iterator[Decoy]:
    for gear in rig.gear.values():
        if isinstance(gear, Load | Cabinet | Attenuator) and not rig.has(gear.id) and not gear.archived:
            if isinstance(gear, Cabinet) and gear.own_lead is not None:
                continue
            yield Decoy((AddUnit(gear.id),), (gear.id,), f"{gear.name} stands there with nothing plugged into it.")


def _harmless(which: Callable[[Unit, Control], bool], why: str) -> Kind:
    """A control in a position that looks wrong; `why` with {name} and {what}."""

    def found(rig: Rig) -> Iterator[Decoy]:
        for twist in moved(rig, which):
            unit, change = twist.at[0], twist.changes[0]
            control = rig.control(unit, change.control) if isinstance(change, SetControl) else None
            what = control.label.lower() if control else ""
            yield Decoy(twist.changes, twist.at, why.format(name=rig.name(unit), what=what))

    return found


KINDS: tuple[Kind, ...] = (
    _long_lead,
    _hanging,
    _unused_phantom,
    _taped,
    _lifted,
    _idle,
    _harmless(
        lambda unit, control: isinstance(unit, Amp) and control.id == "mode",
        "{name} may be played in any of its modes into this: what hangs on it fits, and stands it.",
    ),
    _harmless(
        lambda unit, control: isinstance(unit, Attenuator) and control.id == "step",
        "The {what} of {name} may stand there: nothing gets more than it stands.",
    ),
    _harmless(
        lambda unit, control: control.id.split(".")[-1] in ("pot", "gain", "distance", "volume"),
        "The {what} of {name} is unusual, and no level along the way is too high or too low.",
    ),
    _harmless(
        lambda unit, control: control.id in ("place", "curve"),
        "The {what} of {name} changes the sound, not whether it is safe.",
    ),
)


def harmless(judged: Judgement, decoy: Decoy) -> Judgement | None:
    """The hook-up with a decoy in it, judged; None where the judge finds anything that was not there before."""
    before = {(f.id, f.units, f.which) for f in judged.findings if f.severity != "fine"}
    try:
        after = judge(changed(judged.case.rig, decoy.changes), judged.case.preferences)
    except HookupError:
        return None
    new = (f for f in after.findings if f.severity != "fine" and (f.id, f.units, f.which) not in before)
    worse = RANK[after.verdict.severity] > RANK[judged.verdict.severity]
    return None if worse or any(True for _ in new) else after


def with_decoys(
    judged: Judgement, count: int, lots: Random, but: frozenset[str] = frozenset()
) -> tuple[Judgement, tuple[Decoy, ...]]:
    """A sound hook-up with so many decoys put in, or as many as it takes, each at something of its own.

    `but`: ids of units and leads at which there is to be none.
    """
    put: list[Decoy] = []
    for kind in lots.sample(KINDS, len(KINDS)):
        if len(put) == count:
            break
        taken = but.union(*(decoy.at for decoy in put))
        found = [d for d in kind(judged.case.rig) if not taken & set(d.at)]
        for decoy in lots.sample(found, min(2, len(found))):
            after = harmless(judged, decoy)
            if after is not None:
                judged, put = after, [*put, decoy]
                break
    return judged, tuple(put)
