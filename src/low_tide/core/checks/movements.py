"""One movement from a stop: a single control that a hand may move, and what that would lead to until it is taped."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import isinf

from low_tide.core.checks.leads import HARMLESS_WATTS, most_through
from low_tide.core.checks.load import harmed_when_open, is_open
from low_tide.core.checks.match import beyond_every_school, is_below_minimum
from low_tide.core.checks.moves import standing_words, tape
from low_tide.core.checks.power import rated_name, severity_of
from low_tide.core.checks.registry import Case, check
from low_tide.core.circuit import Output
from low_tide.core.finding import Finding
from low_tide.core.gear import Amp, ReAmp, Switcher
from low_tide.core.gear.base import Setting
from low_tide.core.hookup import Rig
from low_tide.core.power import Seen, seen_by
from low_tide.core.units import figure
from low_tide.core.words import in_sentence
from low_tide.core.worst_case import Reached

FAMILY = "One movement away"


@dataclass(frozen=True)
class _Consequence:
    """What moving one control brings about: where it goes, what then happens (a clause), to which units."""

    unit: str
    control: str
    value: Setting
    what: str
    about: tuple[str, ...]
    mark: str


def _what_it_sees(rig: Rig, output: Output, ohms: float, before: Seen | None) -> str:
    """The clause that says what is wrong with what an output would see; empty for what is no stop in any school."""
    amp = rig.gear[output.amp]
    assert isinstance(amp, Amp | ReAmp)
    there = Seen(output, ohms, ohms / output.wanted)
    sees = f"{amp.name} would see {figure(ohms)} Ω on its {figure(output.wanted)} Ω"
    if output.doubtful:
        return ""
    if there.ratio < 0.1:
        return "" if before and before.ratio < 0.1 else f"{amp.name} would be as good as shorted"
    if is_open(there):
        if not harmed_when_open(amp) or (before and is_open(before)):
            return ""
        return f"{amp.name} would have no load" if isinf(ohms) else f"{sees}, as good as none"
    if amp.technology == "valve":
        was = before is not None and beyond_every_school(before.impedance, before.output.wanted, output.permitted)
        return sees if beyond_every_school(ohms, output.wanted, output.permitted) and not was else ""
    was = before is not None and is_below_minimum(amp, before.impedance)
    return f"{sees}, under its minimum" if is_below_minimum(amp, ohms) and not was else ""


def _sights(case: Case, whole: Reached) -> Iterator[_Consequence]:
    """Open, shorted, beyond 2:1, joined or backwards; an open position of a speaker switch is told elsewhere."""
    joint, rig = whole.as_set, case.rig
    now = {(s.output.amp, s.output.tap): s for s in seen_by(rig) if not s.idle}
    for row, unit, control, value in whole.single():
        for key in whole.slots(row):
            output, ohms = joint.output(key, row), float(joint.slots[key].ohms[row])
            what = _what_it_sees(rig, output, ohms, now.get((output.amp, output.tap)))
            open_by_switch = isinstance(rig.gear[unit], Switcher) and ohms > 4 * output.wanted
            if what and not open_by_switch:
                yield _Consequence(unit, control, value, what, (key[0],), f"sees:{key}")
        for pair in set(joint.shapes[row].meeting) - set(joint.shapes[0].meeting):
            what = f"the outputs of {' and '.join(rig.name(u) for u in pair)} would meet"
            yield _Consequence(unit, control, value, what, pair, f"joined:{pair}")
        for box, backwards in joint.reversed_.items():
            if backwards[row] and not backwards[0]:
                what = f"power would come to the speaker side of {rig.name(box)}"
                yield _Consequence(unit, control, value, what, (box,), f"reversed:{box}")


def _overloads(case: Case) -> Iterator[_Consequence]:
    """Over a rating once one switch of another kind is moved, whatever is turned besides."""
    school = case.preferences.margin
    now = {(s.unit, s.part): s for s in case.shares}
    for share in case.switched_shares:
        before = now.get((share.unit, share.part))
        switch = next(m for m in share.moves if _is_switch(case.rig, m[0], m[1]))
        if share.rating is None:
            what = f"{rated_name(case.rig, share)} would get {figure(share.label)} W, and its rating is not known"
            is_new = before is None
        else:
            most = share.played if share.label <= share.rating else share.label
            what = f"{rated_name(case.rig, share)} would get {figure(most)} W, over its {figure(share.rating)} W"
            is_new = severity_of(share, school) == "stop" and (before is None or severity_of(before, school) != "stop")
        if is_new:
            yield _Consequence(*switch, what, (share.unit,), f"over:{share.unit}")


def _thin_leads(case: Case, whole: Reached) -> Iterator[_Consequence]:
    """Over a watt through a lead made for a signal, once one switch of another kind is moved."""
    for lead in whole.as_set.through:
        by_turning, by_switching = most_through(whole, lead, 0), most_through(whole, lead, 1)
        if by_turning is None or by_switching is None or by_turning.value >= HARMLESS_WATTS:
            continue
        if by_switching.value >= HARMLESS_WATTS:
            switch = next(m for m in by_switching.moves() if _is_switch(case.rig, m[0], m[1]))
            what = f"{figure(by_switching.value)} W would go through {case.rig.gear[lead].name}, a screened lead"
            yield _Consequence(*switch, what, (), f"lead:{lead}")


def _is_switch(rig: Rig, unit: str, control: str) -> bool:
    found = rig.control(unit, control)
    return found is not None and found.hand == "switched"


@check(
    "one-movement",
    FAMILY,
    "One control that is not taped, moved, leads to a stop: open, shorted, beyond 2:1, backwards, outputs that meet, or"
    " over a rating by a switch that is no step, knob or speaker switch.",
)
def one_movement(case: Case) -> Iterator[Finding]:
    found: dict[tuple[str, str], dict[str, _Consequence]] = {}
    for whole in case.reached:
        for each in (*_sights(case, whole), *_thin_leads(case, whole)):
            found.setdefault((each.unit, each.control), {}).setdefault(each.mark, each)
    for each in _overloads(case):
        found.setdefault((each.unit, each.control), {}).setdefault(each.mark, each)
    for (unit, control), consequences in found.items():
        label = case.rig.control(unit, control)
        assert label is not None
        said = "; ".join(
            f"{label.label} {standing_words(case.rig, unit, control, c.value)}: {c.what}" for c in consequences.values()
        )
        yield Finding(
            "one-movement",
            "caution",
            f"One movement from a stop: {in_sentence(label.label)} of {case.rig.name(unit)}.",
            f"{said}. Tape or lock it where it stands.",
            tuple(dict.fromkeys((unit, *(u for c in consequences.values() for u in c.about)))),
            fixes=(tape(case.rig, unit, control),),
        )
