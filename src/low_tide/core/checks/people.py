"""Cautions for people, and for what gets hot or wears."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.changes import SetControl, describe, touches_speaker_side
from low_tide.core.checks.registry import Case, check
from low_tide.core.finding import Finding, Fix
from low_tide.core.heat import DUTY
from low_tide.core.power import powers
from low_tide.core.units import figure
from low_tide.core.warm import warm_boxes

FAMILY = "Heat and hands"
WARM_WATTS = 0.5


@check("runs-hot", FAMILY, "A load, attenuator or re-amplifier is predicted to get hotter than its case may.")
def runs_hot(case: Case) -> Iterator[Finding]:
    occasion = case.rig.hookup.occasion
    for unit, box in warm_boxes(case.rig):
        if box is None:
            yield Finding(
                "runs-hot",
                "caution",
                f"How hot {case.rig.name(unit)} gets is not known.",
                "Neither its rating nor its thermal resistance is on record. Find out, or feel it often: a hot case"
                " burns.",
                (unit,),
            )
            continue
        end = box.at(occasion.hours * 60)
        if end <= box.limit:
            continue
        yield Finding(
            "runs-hot",
            "caution",
            f"{case.rig.name(unit)} gets to about {figure(end)} °C.",
            f"Flat out with {DUTY[occasion.playing][0]} about {figure(box.watts)} W stay in it; its case passes"
            f" {figure(box.limit)} °C after about {figure(box.reaches_limit, 2)} min. Then let it rest for about"
            f" {figure(box.rest, 2)} min. Air all round; a hot case burns.",
            (unit,),
            typical=tuple(f"{case.rig.name(unit)}: {said}, an estimate" for said in box.estimate),
        )


@check("no-air", FAMILY, "A box that turns power into heat is stacked or covered.")
def no_air(case: Case) -> Iterator[Finding]:
    taken = powers(case.rig)
    for unit, gear in case.rig.units():
        heat = sum(flat for (u, _), (_, flat) in taken.items() if u == unit)
        if case.rig.settings(unit).get("air") != "stacked" or heat < WARM_WATTS:
            continue
        yield Finding(
            "no-air",
            "note",
            f"{gear.name} is stacked or covered, and gets hot.",
            f"Flat out about {figure(heat)} W becomes heat in it. Leave air all round and its vents free;"
            " a hot case burns.",
            (unit,),
            fixes=(Fix(f"{gear.name} stands with air all round now", (SetControl(unit, "air", "free"),)),),
        )


@check(
    "re-plug-live",
    FAMILY,
    "A speaker lead, tap or selector is to be changed while the amp is on; standby counts as on.",
)
def re_plug_live(case: Case) -> Iterator[Finding]:
    for change in case.live_changes:
        if touches_speaker_side(change, case.rig):
            yield Finding(
                "re-plug-live",
                "stop",
                "The amp is on, and this would change its speaker side.",
                f"“{describe(change, case.rig)}” has to wait: speaker leads, taps and selectors stay as they are until"
                " the run sheet says it is off. Standby counts as on.",
            )


@check("long-full-power", FAMILY, "A valve amp is set to run flat out: for hours on end that wears its valves.")
def long_full_power(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        if amp.technology != "transistor" and case.rig.settings(unit).get("flat_out"):
            yield Finding(
                "long-full-power",
                "note",
                f"{amp.name} runs flat out: rest it.",
                "Hours of it wear output valves and heat everything. Bias and valves are a qualified technician's job.",
                (unit,),
            )


@check("case-closed", FAMILY, "A valve amp is in the hook-up: its case stays closed.")
def case_closed(case: Case) -> Iterator[Finding]:
    valves = [(u, a) for u, a in case.rig.amps() if a.technology != "transistor"]
    if valves:
        pulled = any(a.mode(case.rig.settings(u)).technician for u, a in valves)
        yield Finding(
            "case-closed",
            "note",
            "The case stays closed.",
            "Valve (tube) amps hold lethal voltages, also switched off. Bias, valves and anything inside are"
            " a qualified technician's."
            + (" This power mode needs one to confirm it before it is used." if pulled else ""),
            tuple(u for u, _ in valves),
        )
