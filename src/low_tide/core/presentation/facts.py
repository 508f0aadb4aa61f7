"""The few figures that stand beside the verdict."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite

import numpy as np

from low_tide.core.judging.findings import Finding
from low_tide.core.judging.judge import Judgement
from low_tide.core.power.delivered import SpeakerResult
from low_tide.core.rig.doubts import on_unknown_steps
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.levels import LinePoint
from low_tide.core.signal_path.playing_level import learned_at
from low_tide.core.units import figure, in_ohms, in_watts, level_figure


@dataclass(frozen=True)
class Fact:
    """A key number for the strip above the hook-up."""

    id: str
    name: str
    value: str
    unit: str
    remark: str
    severity: str


def severity_about(findings: tuple[Finding, ...], checks: set[str], unit: str) -> str:
    """Severity of the worst of these checks for a unit; findings come worst first."""
    return next((f.severity for f in findings if f.id in checks and unit in f.units), "fine")


def tone(severity: str, over: bool) -> str:
    """How a level is drawn: as its finding says, and what is over a limit never as what floats.

    "stop", "caution" or "floats". A level may be over its limit without a finding that warns: at an hour nobody
    gave, or where a school allows it.
    """
    if severity in ("stop", "caution"):
        return severity
    return "caution" if over else "floats"


@dataclass(frozen=True)
class UnitMark:
    """How a unit is marked in the picture: the worst finding about it and about what it sees; the tone of its power."""

    unit: str
    severity: str
    match: str
    power: str


POWER_CHECKS = {"load-rating", "load-mode-tap"}


def unit_marks(rig: Rig, judged: Judgement) -> tuple[UnitMark, ...]:
    """Marks of all units, in the order of the hook-up; findings come worst first."""
    found = judged.findings
    over = {s.unit for s in judged.case.shares if s.margin_db is not None and s.margin_db < 0}
    return tuple(
        UnitMark(
            unit,
            next((f.severity for f in found if unit in f.units), "fine"),
            severity_about(found, MATCH_CHECKS, unit),
            tone(severity_about(found, POWER_CHECKS, unit), unit in over),
        )
        for unit, _ in rig.units()
    )


MATCH_CHECKS = {"open-output", "mismatch", "below-minimum", "shorted-output", "two-taps-used"}


def facts_of(rig: Rig, judged: Judgement, speakers: tuple[SpeakerResult, ...]) -> tuple[Fact, ...]:
    """The figures of a judged rig, those without a meaning left out."""
    case, found = judged.case, []
    worst = max(case.seen, key=lambda s: (s.output.doubtful, abs(np.log(max(s.ratio, 1e-6)))), default=None)
    if worst:
        severity = severity_about(judged.findings, MATCH_CHECKS, worst.output.amp)
        name = f"{rig.name(worst.output.amp)} sees" if len(case.seen) > 1 else "Amp sees"
        tap = "a tap not known" if worst.output.doubtful else f"the {in_ohms(worst.output.tap)} tap"
        remark = f"on {tap}, by rating"
        if isfinite(worst.impedance):
            value, unit = in_ohms(worst.impedance).rsplit(" ", 1)
            found.append(Fact("sees", name, value, unit, remark, severity))
        else:
            found.append(Fact("sees", name, "no load", "", remark, severity))
    rated = [s for s in case.shares if s.margin_db is not None and s.rating is not None]
    if rated:
        hot = min(rated, key=lambda s: (round(s.margin_db or 0.0, 2), s.part))
        severity = severity_about(judged.findings, POWER_CHECKS, hot.unit)
        what = rig.name(hot.unit) + (f", {hot.part}" if hot.part else "")
        remark = f"{what}: {figure(hot.flat)} of {in_watts(hot.rating or 0)}"
        found.append(Fact("hottest", "Least spare, flat out", level_figure(hot.margin_db or 0), "dB", remark, severity))
    if speakers:
        loud = max(speakers, key=lambda s: s.watts)
        down = f"{figure(-loud.clipped_db)} dB down" if loud.clipped_db < -0.05 else "all of it"
        if loud.clipped_db > 0.05:
            down = f"{figure(loud.clipped_db)} dB more than the amp gives"
        if loud.clean_db is not None and loud.clipped_db < -0.05:
            clipped, clean = figure(-loud.clipped_db, 2), figure(-loud.clean_db, 2)
            down = f"{clipped} dB down clipped, {clean} clean" if clipped != clean else f"{clipped} dB down"
        if on_unknown_steps(rig):
            down = "at most; the step is not known"
        value, unit = in_watts(loud.watts).rsplit(" ", 1)
        found.append(Fact("speaker", "Into the speaker", value, unit, down, "fine"))
    elif case.seen:
        found.append(Fact("speaker", "Into the speaker", "none", "", "no speaker is driven", "fine"))
    points = [p for p in case.line_points if p.dbfs is not None]
    if points:
        high = max(points, key=lambda p: p.dbfs or 0.0)
        severity = severity_about(
            judged.findings, {"converter-clips", "converter-low", "input-damage"}, high.input.unit
        )
        remark = f"peaks, {level_figure(high.peak_dbu)} dBu in{_learned(case.rig, high)}"
        found.append(Fact("converter", "At the converter", level_figure(high.dbfs or 0), "dBFS", remark, severity))
    elif case.line_points:
        found.append(Fact("converter", "At the converter", "not known", "", case.line_points[0].why, "caution"))
    return tuple(found)


def _learned(rig: Rig, point: LinePoint) -> str:
    """That a level rests on takes, where it does."""
    words = learned_at(rig, point)
    return f", {words}" if words else ""
