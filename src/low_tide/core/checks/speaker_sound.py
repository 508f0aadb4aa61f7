"""A speaker in the sound: once, not never and not twice."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.capture import line_links, line_out_of
from low_tide.core.changes import SetControl
from low_tide.core.checks.registry import Case, check
from low_tide.core.finding import Finding, Fix
from low_tide.core.gear.line_out import LineOut
from low_tide.core.hookup import End, Link

FAMILY = "Speaker sound and monitoring"


def _paths(case: Case) -> Iterator[tuple[Link, End, End, LineOut, bool, bool]]:
    """Every recorded line with its box's cab filter and the IR in software: on or off."""
    for link, source, target in line_links(case.rig):
        line = line_out_of(case.rig, source.unit)
        if line is not None:
            box = line.filter_on(case.rig.settings(source.unit))
            yield link, source, target, line, box, bool(case.rig.settings(target.unit)[f"{target.socket}.ir"])


@check("no-speaker-sound", FAMILY, "Neither cab filter nor IR lies between the power stage and the monitors.")
def no_speaker_sound(case: Case) -> Iterator[Finding]:
    for link, source, target, line, box, ir in _paths(case):
        if box or ir:
            if not (box and ir):
                what = "the cab filter in the box" if box else "the IR in software"
                yield Finding(
                    "no-speaker-sound",
                    "fine",
                    f"One speaker in the sound at {case.rig.label(target)}.",
                    f"It is {what}.",
                    (source.unit, target.unit),
                    (link.lead,),
                )
            continue
        fixes = [Fix("Load an IR on this track", (SetControl(target.unit, f"{target.socket}.ir", True),))]
        if line.filter == "switchable":
            label = f"Switch on the cab filter of {case.rig.name(source.unit)}"
            fixes.append(Fix(label, (SetControl(source.unit, "line.filter", True),)))
        yield Finding(
            "no-speaker-sound",
            "caution",
            f"No speaker in the sound at {case.rig.label(target)}.",
            "The bare tap is harsh: a guitar speaker passes little over 5 kHz, and nothing here does its work.",
            (source.unit, target.unit),
            (link.lead,),
            fixes=tuple(fixes),
        )


@check("doubled-speaker-sound", FAMILY, "Cab filter and IR are in series.")
def doubled_speaker_sound(case: Case) -> Iterator[Finding]:
    for link, source, target, line, box, ir in _paths(case):
        if not (box and ir):
            continue
        fixes = []
        if line.filter == "switchable":
            label = f"Switch off the cab filter of {case.rig.name(source.unit)}"
            fixes.append(Fix(label, (SetControl(source.unit, "line.filter", False),)))
        fixes.append(Fix("Take the IR off this track", (SetControl(target.unit, f"{target.socket}.ir", False),)))
        yield Finding(
            "doubled-speaker-sound",
            "caution",
            f"Two speakers in the sound at {case.rig.label(target)}.",
            "The box's cab filter and the IR are in series: dull, and not what the IR was made for.",
            (source.unit, target.unit),
            (link.lead,),
            fixes=tuple(fixes),
        )
