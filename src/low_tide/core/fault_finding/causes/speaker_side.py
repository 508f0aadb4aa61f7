"""Causes between the amp and what it drives, and in the room."""

from __future__ import annotations

from low_tide.core.fault_finding.causes.registry import Cause, Own, register
from low_tide.core.fault_finding.situation import Situation
from low_tide.core.inventory import Attenuator, Load
from low_tide.core.rig.changes import Change, SetControl

ONE_UP_DB = 3.0
"""A knob is brought back by so much at a time: all of it at once is loud."""


def _one_step_up(s: Situation) -> tuple[Change, ...]:
    """The next step that takes less away; of a knob some dB. Ears come before speed, so never more than one."""
    for unit, gear in s.rig.units():
        control = s.rig.control(unit, "step") if isinstance(gear, Attenuator) and s.rig.plugged(unit) else None
        if control is None:
            continue
        now = s.rig.settings(unit)["step"]
        if control.kind == "range" and float(now) > control.low:
            return (SetControl(unit, "step", max(control.low, float(now) - ONE_UP_DB)),)
        known = sorted((float(o.value), o.value) for o in control.options if o.value.replace(".", "").isdigit())
        less = [value for decibels, value in known if str(now).replace(".", "").isdigit() and decibels < float(now)]
        if less:
            return (SetControl(unit, "step", less[-1]),)
    return ()


register(
    (
        Cause(
            "speaker-lead",
            "A speaker lead is out, or broken",
            "load",
            "breaks",
            2,
            {"nothing": 0.5, "crackle": 0.35, "fades": 0.15},
            Own("Off and dark: does a speaker lead sit loose, or read far off at its plug?", "measure"),
            "Stay off until it reads right: a valve amp is never on without a load. Another speaker lead.",
            checks=("open-output", "jack-does-not-fit", "nothing-to-judge"),
            ohms=True,
        ),
        Cause(
            "switched-out",
            "A plug has switched the load out",
            "load",
            "loss",
            1.5,
            {"nothing": 0.5, "one_side": 0.1},
            Own("Is there a plug in a through or second socket that leads nowhere?", "look"),
            "Off and dark, then that plug out. Measure before it is on again.",
            there=lambda s: any(
                getattr(g, "through", "none") in ("switching", "unknown") or getattr(g, "jack_wiring", "") != "parallel"
                for _, g in s.rig.units()
                if g.kind in ("load", "attenuator", "amp", "cabinet")
            ),
            checks=(
                "switched-out-load",
                "inner-speaker-off",
                "empty-shorting-jack",
                "switcher-leaves-open",
                "jack-unknown",
            ),
            ohms=True,
        ),
        Cause(
            "wrong-ohms",
            "The tap and what hangs on it do not match",
            "load",
            "tone",
            2,
            {"thin": 0.3, "quiet": 0.2, "harsh": 0.15, "boomy": 0.15, "fades": 0.15, "distorted": 0.1},
            Own("Off and dark: do the ohms at the plug differ from the sheet’s?", "measure"),
            "Off and dark, then the tap or the load as on the sheet.",
            checks=(
                "mismatch",
                "shorted-output",
                "below-minimum",
                "two-taps-used",
                "dips-low",
                "outputs-joined",
                "bridged-into-earthed",
                "mode-unconfirmed",
            ),
            ohms=True,
            shows={"softly": 0.9},
        ),
        Cause(
            "cut-out",
            "A box got hot and its cut-out has opened",
            "load",
            "loss",
            2,
            {"fades": 0.7, "nothing": 0.25},
            Own("Is the case of a load or attenuator too hot to touch?", "look"),
            "Amp off at once: it has no load now. Let it cool with air all round; then less power into it.",
            there=lambda s: bool(s.boxes) and any(getattr(g, "cutout", "none") != "none" for _, g in s.rig.units()),
            checks=("load-may-open", "runs-hot", "no-air", "load-rating", "load-mode-tap", "uneven-split"),
            grows=True,
            ohms=True,
        ),
        Cause(
            "step-deep",
            "The attenuator takes more than meant",
            "load",
            "loss",
            2.5,
            {"quiet": 0.7, "thin": 0.15},
            Own("Does the attenuator stand on a deeper step than on the sheet?", "look"),
            "The step that is meant, and a reading of it.",
            there=lambda s: bool(s.kinds(Attenuator)),
            fix=_one_step_up,
            checks=("step-unknown", "step-too-coarse"),
        ),
        Cause(
            "reversed",
            "In and out of the attenuator are swapped",
            "load",
            "loss",
            0.8,
            {"quiet": 0.35, "fades": 0.2, "thin": 0.15},
            Own("Does the amp’s lead sit in the socket that is for the speaker?", "look"),
            "Off and dark, then swap them: full power across the wrong part may have hurt it. Measure first.",
            there=lambda s: bool(s.kinds(Attenuator)),
            checks=("reversed-attenuator",),
            ohms=True,
        ),
        Cause(
            "speaker-hurt",
            "A speaker is torn, rubs, or is open",
            "load",
            "breaks",
            1.2,
            {"crackle": 0.3, "distorted": 0.3, "thin": 0.15, "harsh": 0.05, "boomy": 0.05},
            Own("Off and dark, with another cabinet of the same ohms: is it gone?", "re_plug"),
            "Leave the cabinet out, tagged, until somebody has looked at its drivers.",
            there=lambda s: s.has_cabinet,
            checks=("reamp-over-speaker",),
            ohms=True,
            shows={"in_room": 0.97, "softly": 0.7},
        ),
        Cause(
            "speakers-apart",
            "Two cabinets, or halves, move against each other",
            "load",
            "tone",
            1.5,
            {"hollow": 0.45, "thin": 0.35},
            Own("One cabinet turned over at its plugs: is the body back?", "re_plug"),
            "Turn one of them over: its lead, or the switch for it.",
            there=lambda s: s.cabinets > 1,
            phase=True,
            shows={"in_room": 0.9},
        ),
        Cause(
            "load-curve",
            "The load’s curve takes the body",
            "load",
            "tone",
            1.5,
            {"thin": 0.3, "harsh": 0.3, "boomy": 0.3},
            Own("The load’s curve switch in its other position: is it gone?", "swap"),
            "Another position of the curve switch, or a filter by Load feel.",
            there=lambda s: bool(s.kinds(Load)) or bool(s.kinds(Attenuator)),
            shows={"in_room": 0.5},
        ),
        Cause(
            "thin-lead",
            "A screened lead carries the amp’s power, or one too thin",
            "load",
            "breaks",
            1,
            {"fades": 0.2, "crackle": 0.2, "thin": 0.15, "hiss": 0.02},
            Own("Is a lead on the speaker side not marked as a speaker lead, or warm?", "look"),
            "Off and dark, then a speaker lead in its place.",
            checks=("screened-speaker-lead", "lead-loss", "hard-wired-combo", "lead-choice"),
            grows=True,
        ),
        Cause(
            "box-off",
            "A box that needs mains for its load or its speaker is off",
            "load",
            "loss",
            1.5,
            {"nothing": 0.5, "quiet": 0.2},
            Own("Is the lamp of a box that wants mains dark?", "look"),
            "Amp off first, then mains to the box, then the amp by its run sheet.",
            there=lambda s: any(g.kind == "reamp" for _, g in s.rig.units()),
            checks=("unpowered-reamp",),
            ohms=True,
        ),
        Cause(
            "box-fan",
            "A box’s fan or transformer sounds",
            "load",
            "noise",
            3,
            {"box_noise": 0.7, "hum": 0.08},
            Own("Volume of the amp down: does the box sound on?", "listen"),
            "Further away, on something soft, with air all round; never covered.",
            there=lambda s: bool(s.boxes),
            checks=("not-silent",),
            shows={"in_room": 0.97, "follows_playing": 0.03},
        ),
        Cause(
            "box-sings",
            "A load sings along: its coil moves with the music",
            "load",
            "noise",
            3,
            {"box_noise": 0.6},
            Own("Is it the tune itself, thin and small, from the box?", "listen"),
            "That is usual for a reactive load. Further away, on something soft; never covered.",
            there=lambda s: bool(s.boxes),
            shows={"in_room": 0.97, "follows_playing": 0.97},
        ),
        Cause(
            "rattle",
            "Something in the room rattles along",
            "load",
            "noise",
            2,
            {"box_noise": 0.4, "buzz": 0.1, "crackle": 0.05},
            Own("A hand on lamps, snares and loose things: does it stop?", "turn"),
            "Take it away, or put something soft under it.",
            shows={"in_room": 0.97, "follows_playing": 0.97},
        ),
        Cause(
            "amp-transformer",
            "The amp’s own transformer hums in the room",
            "power",
            "noise",
            1.5,
            {"box_noise": 0.35},
            Own("Ear near the amp, all volumes down: is it the amp’s own case?", "listen"),
            "On something soft. If it is new or louder than before, a technician.",
            shows={"in_room": 0.97, "follows_playing": 0.03, "lamp": 0.97},
        ),
        Cause(
            "floor",
            "The floor carries the cabinet’s low end",
            "load",
            "tone",
            1.5,
            {"boomy": 0.5},
            Own("The cabinet on something soft, off the floor: is it gone?", "swap"),
            "A mount under it, and away from the corner.",
            there=lambda s: s.has_cabinet,
            checks=("floor-borne",),
            shows={"in_room": 0.97},
        ),
    )
)
