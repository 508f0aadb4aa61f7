"""Causes at the interface's inputs."""

from __future__ import annotations

from low_tide.core.fault_finding.causes.registry import Cause, Own, register
from low_tide.core.fault_finding.situation import Situation


def _line(s: Situation) -> bool:
    return s.has_line


register(
    (
        Cause(
            "input-down",
            "The input’s gain is down, or it is another input",
            "input",
            "loss",
            3,
            {"nothing": 0.3, "quiet": 0.6},
            Own("Is the gain of this input down, its pad on, or is another input open?", "look"),
            "The gain as on the sheet, and the input the lead is in.",
            there=_line,
            checks=("converter-low",),
        ),
        Cause(
            "input-clips",
            "The input clips",
            "input",
            "overload",
            3,
            {"distorted": 0.6, "harsh": 0.15, "crackle": 0.1},
            Own("Does the input’s meter reach the top?", "look"),
            "Gain down until the loudest part stays under −6 dBFS.",
            there=_line,
            checks=("converter-clips",),
        ),
        Cause(
            "input-kind",
            "The input is set for another kind of signal",
            "input",
            "tone",
            1.2,
            {"quiet": 0.2, "distorted": 0.2, "thin": 0.2, "hiss": 0.2},
            Own("Is the input set to microphone or instrument where a line comes in, or the other way round?", "look"),
            "Set it to what comes in.",
            there=_line,
            shows={"input_meter": 0.4, "softly": 0.6, "gain_up": 0.5},
        ),
        Cause(
            "phantom-on",
            "48 V is on where it must not be",
            "input",
            "noise",
            1.2,
            {"crackle": 0.25, "hum": 0.15, "distorted": 0.15, "hiss": 0.05, "quiet": 0.05},
            Own("Is 48 V on at an input with a passive tap or an unbalanced lead?", "look"),
            "48 V off, monitors down first; wait a minute before you plug anything.",
            there=_line,
            checks=("phantom-on",),
            shows={"input_meter": 0.8},
        ),
        Cause(
            "gain-lifts-noise",
            "The input’s gain makes up for too little from the tap",
            "input",
            "noise",
            3,
            {"hiss": 0.8},
            Own("Is the input’s gain over 30 dB for a line?", "look"),
            "More from the tap, less at the input: best setting in Capture.",
            there=_line,
            checks=("noise-lift",),
        ),
        Cause(
            "clocks",
            "Two digital units keep different time",
            "input",
            "breaks",
            1.5,
            {"crackle": 0.6, "nothing": 0.1},
            Own("Do two digital units both lead, or stand at two rates?", "look"),
            "One leads, the others follow, all at one rate.",
            there=lambda s: s.has_digital,
            checks=("clock-source", "not-digital"),
            shows={"input_meter": 0.9, "softly": 0.97, "guitar_down": 0.3, "master_down": 0.3},
        ),
    )
)
