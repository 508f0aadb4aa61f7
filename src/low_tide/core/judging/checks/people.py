"""Cautions for people, and for what gets hot or wears."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.power.shares import powers
from low_tide.core.power.warm_boxes import warm_boxes
from low_tide.core.rig.changes import SetControl, describe, touches_speaker_side
from low_tide.core.thermal.heating import DUTY, TOUCH_C, TOUCH_GENTLE_C
from low_tide.core.units import figure, in_watts

FAMILY = "Heat and hands"
WARM_WATTS = 0.5


@check(
    "runs-hot",
    FAMILY,
    "A load, attenuator or re-amplifier is predicted to get hotter than its case may.",
    reads=("leads", "speaker", "signal", "standing", "occasion"),
    asks=("warms", "rating"),
)
def runs_hot(case: Case) -> Iterator[Finding]:
    occasion = case.rig.hookup.occasion
    for unit, box in warm_boxes(case.rig):
        if box is None:
            yield Finding(
                id="runs-hot",
                severity="caution",
                text=f"How hot {case.rig.name(unit)} gets is not known.",
                reason="Neither its rating nor its thermal resistance is on record. Find out, or"
                " feel it often: a hot case"
                " burns.",
                units=(unit,),
            )
            continue
        end, most = box.at(occasion.hours * 60), box.at_most(occasion.hours * 60)
        room, name = case.rig.room_of(unit), case.rig.name(unit)
        touch = TOUCH_GENTLE_C if room is not None and room.gentle else TOUCH_C
        if most <= min(box.limit, touch):
            continue
        played = f"Flat out with {DUTY[occasion.playing][0]} about {in_watts(box.watts)} stay in it"
        rest = f"Then let it rest for about {figure(box.rest, 2)} min. Air all round; a hot case burns."
        if end > box.limit:
            text = f"{name} gets to about {figure(end)} °C."
            after = f"after about {figure(box.reaches_limit, 2)} min"
            reason = f"{played}; its case passes {figure(box.limit)} °C {after}. {rest}"
        elif end > touch:
            text = f"{name} gets too hot to touch, about {figure(end)} °C."
            gentle = " where children or pets are" if touch < TOUCH_C else ""
            reason = (
                f"{played}; bare metal over {figure(touch)} °C burns a hand{gentle}, from about"
                f" {figure(box.reaches(touch), 2)} min on. Keep hands off it and air all round."
            )
        else:
            bound = box.limit if most > box.limit else touch
            what = "too hot" if most > box.limit else "too hot to touch"
            text = f"{name} may get {what}: about {figure(end)} °C, up to {figure(most)} °C."
            reason = (
                f"{played}; from {figure(bound)} °C on it is {what}. What that rests on is typical: find its thermal"
                " figures, or take two readings of its case (Loudness, Heat)."
            )
        yield Finding(
            id="runs-hot",
            severity="caution",
            text=text,
            reason=reason,
            units=(unit,),
            typical=tuple(f"{name}: {said}, an estimate" for said in box.estimate),
        )


@check(
    "no-air",
    FAMILY,
    "A box that turns power into heat is stacked or covered.",
    reads=("leads", "speaker", "signal"),
)
def no_air(case: Case) -> Iterator[Finding]:
    taken = powers(case.rig)
    for unit, gear in case.rig.units():
        heat = sum(flat for (u, _), (_, flat) in taken.items() if u == unit)
        if case.rig.settings(unit).get("air") != "stacked" or heat < WARM_WATTS:
            continue
        yield Finding(
            id="no-air",
            severity="note",
            text=f"{gear.name} is stacked or covered, and gets hot.",
            reason=f"Flat out about {in_watts(heat)} becomes heat in it. Leave air all round and its vents free;"
            " a hot case burns.",
            units=(unit,),
            fixes=(Fix(f"{gear.name} stands with air all round now", (SetControl(unit, "air", "free"),)),),
        )


@check(
    "re-plug-live",
    FAMILY,
    "A speaker lead, tap or selector is to be changed while the amp is on; standby counts as on.",
    reads=(),
    may_stop=True,
)
def re_plug_live(case: Case) -> Iterator[Finding]:
    for change in case.live_changes:
        if touches_speaker_side(change, case.rig):
            yield Finding(
                id="re-plug-live",
                severity="stop",
                text="The amp is on, and this would change its speaker side.",
                reason=f"“{describe(change, case.rig)}” has to wait: speaker leads, taps and"
                " selectors stay as they are until"
                " the run sheet says it is off. Standby counts as on.",
            )


@check(
    "long-full-power",
    FAMILY,
    "A valve amp is set to run flat out: for hours on end that wears its valves.",
    reads=("leads", "speaker"),
)
def long_full_power(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        if amp.technology != "transistor" and case.rig.settings(unit).get("flat_out"):
            yield Finding(
                id="long-full-power",
                severity="note",
                text=f"{amp.name} runs flat out: rest it.",
                reason="Hours of it wear output valves and heat everything. Bias and valves are a"
                " qualified technician's job.",
                units=(unit,),
            )


@check(
    "case-closed",
    FAMILY,
    "A valve amp is in the hook-up: its case stays closed.",
    reads=("leads", "speaker"),
)
def case_closed(case: Case) -> Iterator[Finding]:
    valves = [(u, a) for u, a in case.rig.amps() if a.technology != "transistor"]
    if valves:
        pulled = any(a.mode(case.rig.settings(u)).technician for u, a in valves)
        yield Finding(
            id="case-closed",
            severity="note",
            text="The case stays closed.",
            reason="Valve (tube) amps hold lethal voltages, also switched off. Bias, valves and anything inside are"
            " a qualified technician's."
            + (" This power mode needs one to confirm it before it is used." if pulled else ""),
            units=tuple(u for u, _ in valves),
        )


@check(
    "suspect-unit",
    FAMILY,
    "A unit was in a hook-up that was wrong and switched on, and nobody has cleared it since.",
    reads=("known", "leads"),
)
def suspect_unit(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        why = case.rig.known.suspects.get(unit)
        if why:
            yield Finding(
                id="suspect-unit",
                severity="caution",
                text=f"{gear.name} is suspect.",
                reason=f"{why} Measure it by itself, or have it looked at, and clear it with a word.",
                units=(unit,),
            )
