"""Everything a screen shows of one hook-up: judgement, figures, the tide line, curves."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import isfinite

import numpy as np

from low_tide.core.circuit.network import NetworkError
from low_tide.core.frequency import Complex, frequency_grid
from low_tide.core.judging.findings import Finding, Verdict, verdict
from low_tide.core.judging.judge import Judgement, judge, with_fixes
from low_tide.core.judging.over_scenes import InScene
from low_tide.core.power.delivered import AmpResult, SpeakerResult, delivered
from low_tide.core.power.shares import Share, carried
from low_tide.core.power.speaker_network import outputs
from low_tide.core.preferences import Preferences
from low_tide.core.presentation.asked import Ask, Stake, TypicalValue, asks_of, stakes_of, typical_values
from low_tide.core.presentation.facts import Fact, UnitMark, facts_of, unit_marks
from low_tide.core.presentation.tide_line import Stage, stages_of, tide_words
from low_tide.core.rig.hookup import Scene
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.scenes import stands_now
from low_tide.core.signal_path.levels import LinePoint
from low_tide.core.units import in_watts, level_figure


@dataclass(frozen=True)
class Curve:
    """A complex impedance (Ω) over frequency (Hz): real and imaginary parts, same length."""

    unit: str
    frequency: tuple[float, ...]
    real: tuple[float, ...]
    imaginary: tuple[float, ...]


@dataclass(frozen=True)
class LineResult:
    """Level at one converter input; `dbfs` None where it cannot be computed, `why` says so."""

    unit: str
    socket: str
    name: str
    source: str
    lead: str
    peak_volts: float
    peak_dbu: float | None
    dbfs: float | None
    damage_dbu: float | None
    absolute_max: float
    limited: bool
    why: str


@dataclass(frozen=True)
class Flow:
    """What a lead carries, in words for its label in the picture; `severity` of the worst finding about it."""

    lead: str
    text: str
    severity: str


@dataclass(frozen=True)
class SceneResult:
    """A scene, its verdict and its lines. `stands`: the hook-up is set like it now."""

    scene: Scene
    stands: bool
    verdict: Verdict
    lines: tuple[LineResult, ...]


@dataclass(frozen=True)
class Analysis:
    """Everything computed for a hook-up, ready to be shown or written out.

    `verdict`: over all scenes; `without_scenes`: of the hook-up as it stands, whatever its scenes are.
    """

    verdict: Verdict
    without_scenes: Verdict
    findings: tuple[Finding, ...]
    facts: tuple[Fact, ...]
    stages: tuple[Stage, ...]
    tide: str
    marks: tuple[UnitMark, ...]
    amps: tuple[AmpResult, ...]
    shares: tuple[Share, ...]
    speakers: tuple[SpeakerResult, ...]
    lines: tuple[LineResult, ...]
    flows: tuple[Flow, ...]
    curves: tuple[Curve, ...]
    typical: tuple[TypicalValue, ...]
    asks: tuple[Ask, ...]
    stakes: tuple[Stake, ...]
    scenes: tuple[SceneResult, ...] = ()


def _line_result(rig: Rig, point: LinePoint) -> LineResult:
    finite = isfinite(point.peak_dbu)
    return LineResult(
        unit=point.input.unit,
        socket=point.input.socket,
        name=rig.label(point.input),
        source=rig.label(point.source),
        lead=point.lead,
        peak_volts=point.peak_v,
        peak_dbu=point.peak_dbu if finite else None,
        dbfs=point.dbfs,
        damage_dbu=point.damage_dbu if isfinite(point.damage_dbu) else None,
        absolute_max=point.absolute_max,
        limited=point.limited,
        why=point.why,
    )


def _scene_result(rig: Rig, there: InScene) -> SceneResult:
    lines = tuple(_line_result(there.case.rig, point) for point in there.case.line_points)
    return SceneResult(there.scene, stands_now(rig, there.scene), there.verdict, lines)


def _flows(rig: Rig, judged: Judgement) -> tuple[Flow, ...]:
    levels = {p.lead: p.peak_dbu for p in judged.case.inputs if p.peak_dbu is not None}
    speaker = set(rig.speaker_links)
    found = []
    for link in rig.hookup.links:
        severity = next((f.severity for f in judged.findings if link.lead in f.leads), "fine")
        text = ""
        if link.b is None:
            text = "free end"
        elif link.lead in levels:
            text = f"{level_figure(levels[link.lead])} dBu"
        elif link in speaker:
            through = carried(rig).get(link.lead)
            text = in_watts(through.watts) if through and through.watts >= 0.001 else ""
        found.append(Flow(link.lead, text, severity))
    return tuple(found)


def _curve(unit: str, values: Complex) -> Curve:
    grid = frequency_grid(len(values))
    return Curve(
        unit,
        tuple(float(f) for f in grid),
        tuple(float(x) for x in values.real),
        tuple(float(x) for x in values.imag),
    )


def at_a_glance(rig: Rig, preferences: Preferences | None = None) -> Analysis:
    """Everything but curves and fixes, which take longer than an edit may: findings say whether any are sought."""
    judged = judge(rig, preferences)
    findings = tuple(replace(f, fixes=(), sought=bool(f.fixes)) for f in judged.findings)
    alone = verdict(tuple(f for f in findings if not f.scenes and f.id != "scene-amiss"))
    marks = unit_marks(rig, judged)
    stakes = stakes_of(rig, findings, judged.case.preferences.currency)
    try:
        there, stages = delivered(rig), stages_of(rig, judged)
        return Analysis(
            verdict=judged.verdict,
            without_scenes=alone,
            findings=findings,
            facts=facts_of(rig, judged, there.speakers),
            stages=stages,
            tide=tide_words(stages),
            marks=marks,
            amps=there.amps,
            shares=judged.case.shares,
            speakers=there.speakers,
            lines=tuple(_line_result(rig, p) for p in judged.case.line_points),
            flows=_flows(rig, judged),
            curves=(),
            typical=typical_values(rig),
            asks=asks_of(rig, findings),
            stakes=stakes,
            scenes=tuple(_scene_result(rig, each) for each in judged.scenes),
        )
    except NetworkError:
        # The judge has said so already; results that rest on the network are left out, not guessed.
        return Analysis(
            judged.verdict,
            alone,
            findings,
            (),
            (),
            "",
            marks,
            (),
            (),
            (),
            (),
            (),
            (),
            typical_values(rig),
            asks_of(rig, findings),
            stakes,
        )


def with_their_fixes(
    rig: Rig, preferences: Preferences | None = None, between: Callable[[], None] = lambda: None
) -> tuple[Finding, ...]:
    """The findings of a rig, each with the fix that mends it. `between`: called between one try and the next."""
    return with_fixes(judge(rig, preferences), between).findings


def analyse(rig: Rig, preferences: Preferences | None = None) -> Analysis:
    """The full analysis: nominal network for match and ratings, real one for curves and clean levels."""
    glance = at_a_glance(rig, preferences)
    curves = delivered(rig).curves if glance.amps else {}
    by_amp = ((o.amp, curves[o.node]) for o in outputs(rig) if o.node in curves)
    return replace(
        glance,
        findings=with_their_fixes(rig, preferences),
        curves=tuple(_curve(amp, z) for amp, z in by_amp if np.isfinite(np.abs(z)).all()),
    )
