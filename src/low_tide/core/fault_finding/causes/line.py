"""Causes on the line: the tap, the microphone, their leads and their earths."""

from __future__ import annotations

from low_tide.core.fault_finding.causes.registry import Cause, Own, register
from low_tide.core.fault_finding.situation import Situation
from low_tide.core.rig.changes import Change, SetControl


def _line(s: Situation) -> bool:
    return s.has_line


def _lift(s: Situation) -> tuple[Change, ...]:
    """The first audio-earth lift on the way in its other position."""
    return tuple(SetControl(unit, control, not s.rig.settings(unit)[control]) for unit, control in s.lifts[:1])


def _pot_up(s: Situation) -> tuple[Change, ...]:
    """A line out's pot fully up, where it has one that is not."""
    for unit, _ in s.rig.units():
        control = s.rig.control(unit, "line.pot")
        if control and "line" in s.rig.plugged(unit) and float(s.rig.settings(unit)["line.pot"]) < control.high:
            return (SetControl(unit, "line.pot", control.high),)
    return ()


register(
    (
        Cause(
            "line-lead",
            "The line’s lead is broken or half out",
            "line",
            "breaks",
            3,
            {"nothing": 0.45, "crackle": 0.4, "hum": 0.1, "quiet": 0.1, "thin": 0.1},
            Own("With another lead from the tap or microphone: is it gone?", "swap"),
            "Put the lead aside with a tag on it, and use another.",
            there=_line,
        ),
        Cause(
            "line-down",
            "The line out is turned down, or its box stands in another mode",
            "line",
            "loss",
            3,
            {"nothing": 0.2, "quiet": 0.65},
            Own("Does the line’s pot, pad or mode stand lower than on the sheet?", "look"),
            "Set the line’s pot, pad and mode as on the sheet.",
            there=lambda s: s.has_tap,
            fix=_pot_up,
        ),
        Cause(
            "tap-clips",
            "The tap’s limiter, or the box on the line, is at its end",
            "line",
            "overload",
            1.5,
            {"distorted": 0.5, "harsh": 0.1},
            Own("The line’s pot down by 6 dB and the input up by as much: is it clean?", "turn"),
            "Less from the tap; the input brings it back.",
            there=lambda s: s.has_tap,
            checks=("limiter-works", "speaker-into-input", "input-damage"),
        ),
        Cause(
            "no-phantom",
            "A box or microphone wants 48 V and gets none",
            "line",
            "loss",
            2,
            {"nothing": 0.6, "distorted": 0.15, "quiet": 0.2},
            Own("Does something on this line run on 48 V, and is it off at the input?", "look"),
            "Monitors down, 48 V on, wait a few seconds.",
            there=lambda s: any(
                getattr(getattr(g, "line_out", None), "phantom", "") == "needs" or g.kind in ("microphone", "line_box")
                for _, g in s.rig.units()
            ),
            checks=("phantom-needed",),
        ),
        Cause(
            "earth-loop",
            "An earth loop: two audio earths in one path",
            "line",
            "noise",
            4,
            {"hum": 0.7, "buzz": 0.4},
            Own("The audio-earth lift in its other position: is it gone?", "turn"),
            "Leave the lift where it is quiet. Mains earth stays connected, always.",
            there=lambda s: bool(s.lifts),
            fix=_lift,
            checks=("earth-loop",),
        ),
        Cause(
            "earth-loop-lead",
            "An earth loop, and no switch to lift it",
            "line",
            "noise",
            4,
            {"hum": 0.7, "buzz": 0.4},
            Own("With a balanced lead whose screen is cut at one end, or an isolating box: is it gone?", "swap"),
            "A balanced lead with its screen cut at one end, or an isolating box. Mains earth stays connected, always.",
            there=lambda s: s.has_line and not s.lifts,
            checks=("earth-loop",),
        ),
        Cause(
            "no-earth",
            "Nothing is earthed, or a screen is cut where it is the way back",
            "line",
            "noise",
            1.5,
            {"buzz": 0.5, "hum": 0.35},
            Own("Is a lift on at both ends, or the screen of a lead cut where it is the way back?", "look"),
            "One audio earth, and only one: lift off, a lead with its screen at both ends.",
            there=_line,
            checks=("nothing-earthed", "screen-cut", "no-mains-earth"),
        ),
        Cause(
            "unscreened",
            "A speaker lead, or another unscreened one, carries the line",
            "line",
            "noise",
            1.2,
            {"hum": 0.35, "buzz": 0.4, "crackle": 0.05},
            Own("Is the lead to the interface thick, plain and not marked as screened?", "look"),
            "A screened or balanced lead in its place.",
            there=_line,
            checks=("speaker-lead-as-signal",),
        ),
        Cause(
            "no-speaker",
            "There is no speaker in the sound",
            "line",
            "tone",
            4,
            {"harsh": 0.8, "thin": 0.1},
            Own(
                "Is no cab filter on, no impulse response in software, and no microphone at a speaker?",
                "look",
            ),
            "A cab filter in the box, or an impulse response by Cab blend: exactly one.",
            there=lambda s: s.has_tap,
            checks=("no-speaker-sound",),
        ),
        Cause(
            "two-speakers",
            "A speaker is in the sound twice",
            "line",
            "tone",
            2,
            {"boomy": 0.4, "hollow": 0.2, "thin": 0.1},
            Own("Are a cab filter and an impulse response, or a cabinet and one, both on?", "look"),
            "One of the two speakers in the sound off.",
            there=_line,
            checks=("doubled-speaker-sound",),
        ),
        Cause(
            "preamp-out",
            "What is recorded lies before the power stage",
            "line",
            "tone",
            1.2,
            {"thin": 0.25, "harsh": 0.25},
            Own("Does the line come from the amp’s own output, and does the load make no difference?", "look"),
            "Take the line behind the power stage: off the load or the speaker lead.",
            there=lambda s: any("line" in s.rig.plugged(unit) for unit, _ in s.rig.amps()),
            checks=("power-stage-not-recorded",),
        ),
        Cause(
            "mic-place",
            "The microphone stands where it catches too much or too little",
            "line",
            "tone",
            2,
            {"boomy": 0.4, "harsh": 0.25, "thin": 0.25, "quiet": 0.1},
            Own("The microphone moved a hand’s width: does it change by a lot?", "turn"),
            "Move it until it sounds as in front of the cabinet, and note the place.",
            there=lambda s: s.microphones > 0,
            shows={"in_room": 0.04},
        ),
        Cause(
            "mic-clips",
            "The microphone, or its line box, gets more than it stands",
            "line",
            "overload",
            1.2,
            {"distorted": 0.5},
            Own("The microphone twice as far away: is it clean?", "turn"),
            "Further away, or its pad on.",
            there=lambda s: s.microphones > 0,
            checks=("mic-overload",),
        ),
        Cause(
            "mics-apart",
            "Two ways of the same sound arrive against each other",
            "line",
            "tone",
            2,
            {"hollow": 0.6, "thin": 0.4},
            Own("One of the two inputs muted: is the body back?", "turn"),
            "Turn one over, and line them up by Compare or Cab blend.",
            there=lambda s: s.several_inputs,
            phase=True,
        ),
    )
)
