"""One movement from a stop: a single control that a hand may move, and what that would lead to until it is taped."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import isinf

import numpy as np

from low_tide.core.inventory import Amp, ReAmp, Switcher
from low_tide.core.judging.checks.leads import HARMLESS_WATTS, most_through
from low_tide.core.judging.checks.load import harmed_when_open, is_open
from low_tide.core.judging.checks.match import beyond_every_school, is_below_minimum
from low_tide.core.judging.checks.moves import standing_words, tape
from low_tide.core.judging.checks.power import rated_name, severity_of
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding
from low_tide.core.power.joint_states import Joint
from low_tide.core.power.shares import Seen, Share, seen_by, shares_over
from low_tide.core.power.speaker_network import Output
from low_tide.core.power.worst_case import Reached, Worst, moved_by, turned, two_moved
from low_tide.core.rig.changes import SetControl
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.words import in_sentence
from low_tide.core.units import in_ohms, in_watts

FAMILY = "One movement away"


@dataclass(frozen=True)
class Consequence:
    """What moving one control, or two, brings about: which check would stop it, a clause that says so, about whom."""

    check: str
    moves: tuple[SetControl, ...]
    what: str
    about: tuple[str, ...]

    @property
    def mark(self) -> tuple[str, ...]:
        """What is the same of one consequence, whatever leads to it."""
        return self.check, *self.about


def _what_it_sees(rig: Rig, output: Output, ohms: float, before: Seen | None) -> tuple[str, str] | None:
    """The check that would stop what an output would see, and a clause that says why; None where no school would."""
    amp = rig.gear[output.amp]
    assert isinstance(amp, Amp | ReAmp)
    if output.doubtful:
        return None
    there = Seen(output, ohms)

    def sees() -> str:
        return f"{amp.name} would see {in_ohms(ohms)} on its {in_ohms(output.wanted)}"

    if there.ratio < 0.1:
        was_shorted = before is not None and before.ratio < 0.1
        return None if was_shorted else ("shorted-output", f"{amp.name} would be as good as shorted")
    if is_open(there):
        if not harmed_when_open(amp) or (before and is_open(before)):
            return None
        return "open-output", f"{amp.name} would have no load" if isinf(ohms) else f"{sees()}, as good as none"
    if amp.technology == "valve":
        if not beyond_every_school(ohms, output.wanted, output.permitted):
            return None
        was = before is not None and beyond_every_school(before.impedance, before.output.wanted, output.permitted)
        return None if was else ("mismatch", sees())
    was = before is not None and is_below_minimum(amp, before.impedance)
    return ("below-minimum", f"{sees()}, under its minimum") if is_below_minimum(amp, ohms) and not was else None


def _sights(rig: Rig, whole: Reached, joint: Joint, moved: int) -> Iterator[Consequence]:
    """Open, shorted, beyond 2:1, joined or backwards with so many controls moved, and not as it is set.

    An open position of a speaker switch is a stop already, and told by its own check.
    """
    now = {(s.output.amp, s.output.tap): s for s in seen_by(rig) if not s.idle}
    meeting = set(whole.as_set.shapes[0].meeting)
    for row in np.flatnonzero(joint.moved == moved).tolist():
        state = Worst(0.0, joint, row)
        for key, slot in joint.slots.items():
            if not slot.there[row] or slot.idle[row]:
                continue
            output = joint.output(key, row)
            found = _what_it_sees(rig, output, float(slot.ohms[row]), now.get((output.amp, output.tap)))
            if found and not (found[0] == "open-output" and _is_turned_open(rig, state.moves())):
                yield Consequence(found[0], state.moves(), found[1], (key[0],))
        for pair in joint.shapes[row].meeting:
            if pair not in meeting:
                what = f"the outputs of {' and '.join(rig.name(u) for u in pair)} would meet"
                yield Consequence("outputs-joined", state.moves(), what, pair)
        for box, backwards in joint.reversed_.items():
            if backwards[row] and not whole.as_set.reversed_[box][0]:
                what = f"power would come to the speaker side of {rig.name(box)}"
                yield Consequence("reversed-attenuator", state.moves(), what, (box,))


def _is_turned_open(rig: Rig, moves: tuple[SetControl, ...]) -> bool:
    return len(moves) == 1 and isinstance(rig.gear[moves[0].unit], Switcher)


def _overload(case: Case, share: Share) -> Consequence | None:
    """A share that is over its rating where it is not over it by turning alone."""
    school = case.preferences.margin
    before = next((s for s in case.shares if (s.unit, s.part) == (share.unit, share.part)), None)
    switched = tuple(m for m in share.moves if _is_switch(case.rig, m.unit, m.control))
    name = rated_name(case.rig, share)
    if share.rating is None:
        what = f"{name} would get {in_watts(share.label)}, and its rating is not known"
        return None if before else Consequence("load-rating", switched, what, (share.unit,))
    if severity_of(share, school) != "stop" or (before and severity_of(before, school) == "stop"):
        return None
    most = share.played if share.label <= share.rating else share.label
    what = f"{name} would get {in_watts(most)}, over its {in_watts(share.rating)}"
    return Consequence("load-rating", switched, what, (share.unit,))


def _which(move: SetControl) -> tuple[str, str]:
    """The control that is moved."""
    return move.unit, move.control


def _is_switch(rig: Rig, unit: str, control: str) -> bool:
    found = rig.control(unit, control)
    return found is not None and found.hand == "switched"


def _thin_leads(case: Case, whole: Reached) -> Iterator[Consequence]:
    """Over a watt through a lead made for a signal, once one switch of another kind is moved."""
    for lead in whole.as_set.through:
        by_turning = most_through(whole, lead, turned)
        if by_turning is not None and by_turning.value >= HARMLESS_WATTS:
            continue
        for move in whole.switches():
            most = most_through(whole, lead, moved_by(*move))
            if most is not None and most.value >= HARMLESS_WATTS:
                switched = tuple(m for m in most.moves() if _which(m) == move)
                what = f"{in_watts(most.value)} would go through {case.rig.gear[lead].name}, a screened lead"
                yield Consequence("screened-speaker-lead", switched, what, (lead,))


def of_one(case: Case) -> Iterator[Consequence]:
    """What every single movement of a hand would lead to."""
    for whole in case.reached:
        yield from _sights(case.rig, whole, whole.as_set, 1)
        yield from _thin_leads(case, whole)
    for share in case.switched_shares:
        found = _overload(case, share)
        if found:
            yield found


def of_two(case: Case) -> Iterator[Consequence]:
    """What two movements together would lead to, and neither of them alone; once for every pair of controls."""
    told: set[tuple[object, object]] = {(each.mark, _which(each.moves[0])) for each in of_one(case)}
    for each in _of_two(case):
        pair = tuple(_which(move) for move in each.moves)
        if (each.mark, pair) not in told and not any((each.mark, move) in told for move in pair):
            told.add((each.mark, pair))
            yield each


def _of_two(case: Case) -> Iterator[Consequence]:
    for whole in case.reached:
        twice = two_moved(whole)
        for joint in (whole.as_set, twice) if twice else (whole.as_set,):
            yield from _sights(case.rig, whole, joint, 2)
        if twice:
            for share in shares_over(case.rig, replace(whole, joints=(twice,)), lambda joint: joint.switched == 2):
                over = _overload(case, share)
                if over:
                    yield over


@check(
    "one-movement",
    FAMILY,
    "One control that is not taped, moved, leads to a stop: open, shorted, beyond 2:1, backwards, outputs that meet, or"
    " over a rating by a switch that is no step, knob or speaker switch.",
    reads=("shares", "switched_shares", "reached"),
    asks=("rating", "load_watts"),
)
def one_movement(case: Case) -> Iterator[Finding]:
    found: dict[tuple[str, str], dict[object, Consequence]] = {}
    for each in of_one(case):
        (move,) = each.moves
        found.setdefault(_which(move), {}).setdefault(each.mark, each)
    for (unit, control), consequences in found.items():
        label = case.rig.control(unit, control)
        assert label is not None
        said = "; ".join(
            f"{label.label} {standing_words(case.rig, unit, control, c.moves[0].value)}: {c.what}"
            for c in consequences.values()
        )
        units = (u for c in consequences.values() for u in c.about if case.rig.has(u))
        yield Finding(
            id="one-movement",
            severity="caution",
            text=f"One movement from a stop: {in_sentence(label.label)} of {case.rig.name(unit)}.",
            reason=f"{said}. Tape or lock it where it stands.",
            units=tuple(dict.fromkeys((unit, *units))),
            fixes=(tape(case.rig, unit, control),),
            which=control,
        )
