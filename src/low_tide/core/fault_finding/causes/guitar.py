"""Causes before the amp: the guitar, its lead, pedals in front."""

from __future__ import annotations

from low_tide.core.fault_finding.causes.registry import Cause, Own, register
from low_tide.core.fault_finding.situation import Situation


def _pedals(s: Situation) -> bool:
    return s.in_front


register(
    (
        Cause(
            "guitar-down",
            "The guitar is turned down, or its selector stands between",
            "guitar",
            "loss",
            3,
            {"nothing": 0.5, "quiet": 0.4},
            Own("Is the guitar’s volume down, or its selector between two positions?", "look"),
            "Turn the guitar’s volume up and set its selector.",
        ),
        Cause(
            "guitar-lead",
            "The guitar’s lead is broken or half out",
            "guitar",
            "breaks",
            3,
            {"nothing": 0.4, "crackle": 0.5, "hum": 0.15},
            Own("With another lead from the guitar: is it gone?", "swap"),
            "Put the lead aside with a tag on it, and use another.",
            shows={"guitar_down": 0.5},
        ),
        Cause(
            "guitar-battery",
            "The guitar’s battery is flat",
            "guitar",
            "loss",
            0.6,
            {"nothing": 0.2, "quiet": 0.3, "distorted": 0.3, "fades": 0.25},
            Own("Has the guitar a battery, and is it old?", "look"),
            "A fresh battery; pull the plug out of the guitar after playing.",
            grows=True,
            shows={"softly": 0.6},
        ),
        Cause(
            "pickup-hum",
            "The pickups catch the field of a transformer or a screen",
            "guitar",
            "noise",
            3,
            {"hum": 0.7, "buzz": 0.4, "hiss": 0.1},
            Own("Guitar turned a quarter where you stand: does it change by a lot?", "turn"),
            "Stand further from amps and screens, and turned to where it is least.",
        ),
        Cause(
            "interference",
            "Dimmers, screens or chargers near the guitar",
            "guitar",
            "noise",
            2,
            {"buzz": 0.7, "hum": 0.2, "crackle": 0.1},
            Own("Lamps on dimmers, screens and chargers off: is it gone?", "turn"),
            "Leave them off while recording, or play further away.",
        ),
        Cause(
            "pedal-unpowered",
            "A pedal has no power",
            "front",
            "loss",
            2,
            {"nothing": 0.6, "quiet": 0.1},
            Own("Is the lamp of a pedal dark when it is on?", "look"),
            "Power to the pedal, or take it out of the way.",
            there=_pedals,
        ),
        Cause(
            "pedal-lead",
            "A short lead between pedals is broken",
            "front",
            "breaks",
            1.5,
            {"nothing": 0.4, "crackle": 0.5, "hum": 0.1},
            Own("Guitar straight into the amp, past the pedals: is it gone?", "re_plug"),
            "Change the short leads one by one.",
            there=_pedals,
            shows={"pedals_off": 0.2},
        ),
        Cause(
            "pedal-down",
            "A pedal’s level, or a volume pedal, is down",
            "front",
            "loss",
            1.5,
            {"nothing": 0.3, "quiet": 0.5},
            Own("Is the level of a pedal, or a volume pedal, turned down?", "look"),
            "Turn it up, or bypass the pedal.",
            there=_pedals,
        ),
        Cause(
            "pedal-clips",
            "A pedal gets more than it takes cleanly, or drives the amp",
            "front",
            "overload",
            2,
            {"distorted": 0.6, "harsh": 0.15},
            Own("The pedal’s level down by half: is it clean?", "turn"),
            "Turn down what feeds the pedal, or its own level.",
            there=_pedals,
            checks=("pedal-clips",),
        ),
        Cause(
            "pedal-supply",
            "The pedals’ power supply hums or whines",
            "front",
            "noise",
            1.5,
            {"buzz": 0.5, "hum": 0.35, "hiss": 0.2},
            Own("Pedals on batteries, or one supply for each: is it gone?", "swap"),
            "A supply with parted outputs, or batteries.",
            there=_pedals,
        ),
        Cause(
            "tails-in-front",
            "Delay or reverb lies before what distorts",
            "front",
            "tone",
            3,
            {"tails": 0.7},
            Own("Delay and reverb before the amp off: are the tails gone with their dirt?", "turn"),
            "Put delay and reverb behind the power stage: in the recorder, or after the tap.",
            there=lambda s: any(pedal.does == "tails" for pedal in s.pedals),
            checks=("tails-before-drive",),
        ),
    )
)
