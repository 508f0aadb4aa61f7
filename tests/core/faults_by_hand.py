"""What somebody would answer to each test where a fault is there: written apart from the finder's own tables.

Ohms, levels and who gets power are worked out by the core's physics from the fault put into the hook-up; the rest is
written down here, test by test.
"""

from __future__ import annotations

from math import inf

from low_tide.core.fault_finding.causes import Cause
from low_tide.core.fault_finding.chances import Said
from low_tide.core.fault_finding.probes import Probe
from low_tide.core.fault_finding.situation import Situation
from low_tide.core.inventory import Amp, Attenuator
from low_tide.core.rig.rig import Rig
from low_tide.core.session.expected import Expected, answer
from low_tide.core.session.meter import meter_expected, meter_ohms
from low_tide.core.session.run_sheet import run_sheet
from low_tide.core.signal_path.levels import levels

OPEN = {"speaker-lead", "switched-out", "cut-out", "box-off"}
HALF_OHMS = {"wrong-ohms", "reversed"}
DOUBLE_OHMS = {"speaker-hurt"}
GONE = inf
LOST = {
    "guitar-down",
    "guitar-battery",
    "pedal-unpowered",
    "pedal-down",
    "loop-open",
    "no-mains",
    "standby",
    "amp-fuse",
    "speaker-lead",
    "switched-out",
    "cut-out",
    "box-off",
    "line-lead",
    "no-phantom",
    "guitar-lead",
    "pedal-lead",
}
"""Nothing comes through at all."""
LOST_DB: dict[str, float] = dict.fromkeys(LOST, GONE) | {
    "amp-down": 35.0,
    "loop-down": 30.0,
    "other-channel": 20.0,
    "line-down": 30.0,
    "input-down": 40.0,
    "input-kind": 25.0,
    "reversed": 25.0,
    "low-power": 10.0,
}
AFTER_THE_INPUT = {
    "track-off",
    "small-buffer",
    "large-buffer",
    "slow-plug-in",
    "double-monitoring",
    "ir-off",
    "blend-apart",
    "ir-wrong",
    "plug-in-clips",
    "software-echo",
    "monitors-down",
    "phones-lead",
    "balance",
    "mono-as-stereo",
    "bare-tap-heard",
    "listening-room",
    "late-speakers",
    "monitor-hum",
    "monitor-hurt",
}
NO_POWER = {"speaker-lead", "switched-out", "cut-out", "box-off", "no-mains", "standby", "amp-fuse", "guitar-down"}

YES: dict[str, str] = {
    "old_take": "monitors-down phones-lead listening-room monitor-hum monitor-hurt late-speakers",
    "guitar_down": "guitar-down guitar-battery pickup-hum interference",
    "pedals_off": "pedal-unpowered pedal-lead pedal-down pedal-clips pedal-supply tails-in-front",
    "loop_off": "loop-open loop-down loop-level return-clips comes-back loop-pedal-noise",
    "master_down": "guitar-lead guitar-battery pickup-hum interference pedal-lead pedal-supply gain-high preamp-valve"
    " worn-knob loop-level comes-back loop-pedal-noise",
    "plug_ins_off": "blend-apart ir-wrong plug-in-clips slow-plug-in software-echo bare-tap-heard",
    "mono": "speakers-apart mics-apart double-monitoring blend-apart",
    "other_guitar": "guitar-down guitar-lead guitar-battery pickup-hum interference",
    "other_input": "input-down input-clips input-kind phantom-on clocks",
    "both_meters": "phones-lead",
}
NO: dict[str, str] = {
    "lamp": "no-mains amp-fuse",
    "gain_up": "gain-lifts-noise phantom-on monitor-hum",
    "softly": "pedal-clips gain-high return-clips flat-out tap-clips mic-clips input-clips plug-in-clips",
    "first_minute": "guitar-battery preamp-valve amp-fuse power-valve cut-out thin-lead",
    "tuner": "guitar-down guitar-lead guitar-battery",
    "follows_playing": "box-fan amp-transformer pickup-hum interference pedal-supply preamp-valve loop-pedal-noise"
    " comes-back power-valve amp-hum earth-loop earth-loop-lead no-earth unscreened phantom-on gain-lifts-noise"
    " monitor-hum",
    "record_hear": "large-buffer slow-plug-in double-monitoring bare-tap-heard late-speakers",
}
MAYBE: dict[str, str] = {
    "old_take": "small-buffer clocks balance mono-as-stereo",
    "guitar_down": "guitar-lead pedal-lead",
    "direct": "listening-room monitor-hum monitor-hurt phones-lead monitors-down balance mono-as-stereo",
    "in_room": "load-curve tails-in-front",
    "record_hear": "ir-off software-echo blend-apart ir-wrong plug-in-clips listening-room mono-as-stereo",
    "master_down": "clocks power-valve small-buffer",
    "loop_off": "tails-in-front",
}


def _listed(table: dict[str, str], probe: str, cause: str) -> bool:
    return cause in table.get(probe, "").split()


def _reading(cause: str, expected: Expected) -> float:
    """What a multimeter shows at the plug with the fault there."""
    if cause in OPEN:
        return inf
    return expected.value * (0.5 if cause in HALF_OHMS else 2.0 if cause in DOUBLE_OHMS else 1.0)


def _ohms(rig: Rig, cause: str) -> Said:
    for link in rig.hookup.links:
        for end in link.ends():
            if isinstance(rig.gear[end.unit], Amp) and rig.socket(end).level == "speaker":
                found = meter_ohms(rig, link, end)
                if found is not None:
                    expected = meter_expected(rig, found)
                    return "yes" if answer(expected, _reading(cause, expected)) == "inside" else "no"
    return "unknown"


def _deeper(rig: Rig) -> Rig:
    """The same with its attenuator on the step that takes most."""
    for unit, gear in rig.units():
        control = rig.control(unit, "step")
        if isinstance(gear, Attenuator) and control and control.options:
            deepest = max((o.value for o in control.options if o.value.replace(".", "").isdigit()), key=float)
            return rig.moved({unit: {"step": deepest}})
    return rig


PEAKS: dict[int, Expected | None] = {}
"""What is expected at the input, by the rig's identity: a sheet takes long to make, and is asked for often."""


def _peak(rig: Rig) -> Expected | None:
    if id(rig) not in PEAKS:
        found = (s.reads for s in run_sheet(rig) if s.reads is not None and s.reads.quantity == "dbfs")
        PEAKS[id(rig)] = next(found, None)
    return PEAKS[id(rig)]


def _input_meter(rig: Rig, cause: str) -> Said:
    reads = _peak(rig)
    if reads is None:
        return "unknown"
    if cause == "step-deep":
        point = next((p for p in levels(_deeper(rig)).line_points if p.input.name == reads.of), None)
        shown = -inf if point is None or point.dbfs is None else point.dbfs
    else:
        shown = reads.value - LOST_DB.get(cause, 0.0)
    return "yes" if shown > -inf and answer(reads, max(shown, -140.0)) == "inside" else "no"


def said(situation: Situation, cause: Cause, probe: Probe) -> Said:
    """What is answered to a test where the cause is there."""
    if probe.of:
        return "yes" if probe.of == cause.id else "no"
    if probe.id == "ohms":
        return _ohms(situation.rig, cause.id)
    if probe.id == "input_meter":
        return _input_meter(situation.rig, cause.id)
    if probe.id == "sounds_there":
        lost = LOST_DB.get(cause.id) == GONE and cause.id not in ("line-lead", "no-phantom")
        return "no" if cause.id in NO_POWER or lost or cause.id in ("amp-down", "loop-down") else "yes"
    if _listed(MAYBE, probe.id, cause.id):
        return "unknown"
    if probe.id in YES:
        return "yes" if _listed(YES, probe.id, cause.id) else "no"
    if probe.id in NO:
        return "no" if _listed(NO, probe.id, cause.id) else "yes"
    if probe.id == "track_meter":
        lost = cause.id in LOST_DB or cause.id == "track-off"
        return "no" if lost else "yes"
    if probe.id == "direct":
        return "no" if cause.id in AFTER_THE_INPUT - {"bare-tap-heard"} else "yes"
    if probe.id == "in_room":
        before = cause.at in ("guitar", "front", "preamp", "loop", "power", "load")
        return "yes" if before else "no"
    raise AssertionError(f"Nobody has written down what {probe.id} says.")
