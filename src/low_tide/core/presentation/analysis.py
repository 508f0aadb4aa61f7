"""The whole result for one hook-up: judgement, what each amp sees, powers, levels, the tide line."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite

import numpy as np

from low_tide.core.acoustics.exposure import level_left
from low_tide.core.circuit.network import NetworkError, Solution, input_impedance
from low_tide.core.frequency import Complex, frequency_grid, programme_level_db, programme_weights
from low_tide.core.inventory import Amp, Cabinet, PowerStage, ReAmp
from low_tide.core.judging.findings import Finding, Verdict
from low_tide.core.judging.judge import Judgement, judge, with_fixes
from low_tide.core.power.shares import Seen, Share, carried, powers
from low_tide.core.power.speaker_network import Output, outputs, real_network, sources
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import Rig
from low_tide.core.signal_path.levels import WINDOW_DBFS, LinePoint
from low_tide.core.thermal.heating import DUTY
from low_tide.core.units import db, figure, level_figure


@dataclass(frozen=True)
class AmpResult:
    """What one output sees, and its watts and volts at the jack into the tap's own load.

    `sees` and `ratio` are None when open; `mean_real` is the programme-mean |Z|.
    """

    unit: str
    tap: float
    wanted: float
    sees: float | None
    ratio: float | None
    label_power: float
    flat_power: float
    jack_volts: float
    damping_factor: float
    mean_real: float | None
    typical: tuple[str, ...]


@dataclass(frozen=True)
class Curve:
    """A complex impedance (Ω) over frequency (Hz): real and imaginary parts, same length."""

    unit: str
    frequency: tuple[float, ...]
    real: tuple[float, ...]
    imaginary: tuple[float, ...]


@dataclass(frozen=True)
class SpeakerResult:
    """What reaches a cabinet. dB are against this cabinet straight on the amp's nearest tap.

    `clipped_db`: by the nominal network, the amp flat out. `clean_db`: small signal, real network,
    programme-weighted. Between them lies what one hears. `watts`: flat out, as set.
    """

    unit: str
    watts: float
    clipped_db: float
    clean_db: float | None
    typical: tuple[str, ...]


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
class Stage:
    """A column of the tide line: dB relative to its limit (0 = at the limit), and its floor if it has one."""

    id: str
    name: str
    value: str
    spare: str
    level_db: float
    floor_db: float | None
    severity: str
    units: tuple[str, ...]


@dataclass(frozen=True)
class Fact:
    """A key number for the strip above the hook-up."""

    id: str
    name: str
    value: str
    unit: str
    remark: str
    severity: str


@dataclass(frozen=True)
class Analysis:
    """Everything computed for a hook-up, ready to be shown or written out."""

    verdict: Verdict
    findings: tuple[Finding, ...]
    facts: tuple[Fact, ...]
    stages: tuple[Stage, ...]
    amps: tuple[AmpResult, ...]
    shares: tuple[Share, ...]
    speakers: tuple[SpeakerResult, ...]
    lines: tuple[LineResult, ...]
    flows: tuple[Flow, ...]
    curves: tuple[Curve, ...]
    typical: tuple[str, ...]


def _severity(findings: tuple[Finding, ...], checks: set[str], unit: str) -> str:
    """Severity of the worst of these checks for a unit; findings come worst first."""
    return next((f.severity for f in findings if f.id in checks and unit in f.units), "fine")


def _amp_results(rig: Rig, seen: tuple[Seen, ...], curves: dict[str, Complex]) -> tuple[AmpResult, ...]:
    found = []
    for each in seen:
        o = each.output
        is_open = not isfinite(each.impedance)
        curve = curves.get(o.node)
        mean = None
        if curve is not None and np.isfinite(np.abs(curve)).all():
            mean = float(np.sqrt(programme_weights(len(curve)) @ np.abs(curve) ** 2))
        found.append(
            AmpResult(
                unit=o.amp,
                tap=o.tap,
                wanted=o.wanted,
                sees=None if is_open else each.impedance,
                ratio=None if is_open else each.ratio,
                label_power=o.jack_label,
                flat_power=o.jack_flat,
                jack_volts=float(np.sqrt(o.jack_label * o.tap)),
                damping_factor=o.damping_factor,
                mean_real=mean,
                typical=rig.gear[o.amp].assumptions(),
            )
        )
    return tuple(found)


def direct_voltage(amp: PowerStage, output: Output, cabinet: Cabinet, curve: Complex) -> Complex:
    """Small-signal voltage (V) at a cabinet plugged straight into the amp's tap nearest its rating."""
    nominal = cabinet.nominal()
    taps = (amp.inner_into,) if isinstance(amp, ReAmp) else tuple(t.impedance for t in amp.taps)
    tap = min(taps, key=lambda t: abs(np.log(t / nominal)))
    e = np.sqrt(output.label_power * tap) * (1 + 1 / output.damping_factor)
    return np.asarray(e * curve / (curve + tap / output.damping_factor))


def _speaker_results(rig: Rig, solution: Solution | None) -> tuple[SpeakerResult, ...]:
    taken = powers(rig)
    found = []
    for unit, cabinet in rig.cabinets():
        watts = sum(flat for (u, _), (_, flat) in taken.items() if u == unit)
        if watts <= 0 or solution is None:
            continue
        node = f"{unit}.in1"
        jacks = {solution.network.find(f"{unit}.{s.id}") for s in cabinet.sockets() if s.level == "speaker"}
        feeding = [o for o in outputs(rig) if jacks & solution.network.connected(o.node)]
        if not feeding:
            continue
        if len(feeding) > 1:
            # A half each: together they give what all of them give.
            given = sum(o.flat_power for o in feeding)
            found.append(SpeakerResult(unit, watts, db(watts / given), None, cabinet.assumptions()))
            continue
        output = feeding[0]
        amp = rig.gear[output.amp]
        assert isinstance(amp, Amp | ReAmp)
        own = {e for e in solution.network.elements if e.unit == unit}
        current = sum(
            ((solution.voltage(e.a) - solution.voltage(e.b)) / e.impedance for e in own if e.a == node),
            np.zeros(solution.network.points, np.complex128),
        )
        voltage = solution.voltage(node)
        clean = None
        if np.abs(current).min() > 0:
            clean = programme_level_db(voltage, direct_voltage(amp, output, cabinet, voltage / current))
        if isinstance(amp, ReAmp):
            # Told against the amp that feeds its load: a re-amplifier may be quieter than that, or louder.
            into = solution.network.find(f"{output.amp}.in")
            output = next((o for o in outputs(rig) if into in solution.network.connected(o.node)), output)
            clean = None
        found.append(SpeakerResult(unit, watts, db(watts / output.flat_power), clean, cabinet.assumptions()))
    return tuple(found)


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


MATCH_CHECKS = {"open-output", "mismatch", "below-minimum", "shorted-output", "two-taps-used"}


def _match_stage(rig: Rig, seen: Seen, findings: tuple[Finding, ...]) -> Stage:
    severity = _severity(findings, MATCH_CHECKS, seen.output.amp)
    off = abs(db(seen.ratio)) if 0 < seen.ratio < np.inf else 12.0
    if not isfinite(seen.impedance):
        value, spare = "no load", "fix first"
    else:
        wanted = "a tap not known" if seen.output.doubtful else f"{figure(seen.output.wanted)} Ω"
        value = f"{figure(seen.impedance)} Ω on {wanted}"
        spare = {"stop": "fix first", "caution": "look first"}.get(severity, "matches")
    # The limit is 2:1, 3 dB off; severity, not the height, tells what a school makes of it.
    level = min(off - db(2.0), 12.0) if off > 0.01 else -24.0
    if severity == "stop":
        level = max(level, 0.5)
    return Stage(
        f"match:{seen.output.amp}:{seen.output.tap:g}",
        f"{rig.name(seen.output.amp)} match",
        value,
        spare,
        level,
        None,
        severity,
        (seen.output.amp,),
    )


def _is_tightest(share: Share, shares: tuple[Share, ...]) -> bool:
    """Whether a share is the one to tell: of a cabinet and its drivers that with least room, the whole if equal."""
    rivals = [s for s in shares if s.unit == share.unit and s.margin_db is not None]
    return share is min(rivals, key=lambda s: (round(s.margin_db or 0.0, 2), s.part))


NOTHING_LEFT_DB = 60.0
"""How far over its limit a level stands where nothing is allowed any more."""


def _ears_stages(judged: Judgement) -> list[Stage]:
    """The place that is nearest its limit, or furthest over it; and the loudest place one's own ears are at."""
    found = []
    limited = [h for h in judged.case.heard if h.over is not None]
    worst = max(limited, key=lambda h: h.over or 0.0, default=None)
    units = tuple(s.unit for s in judged.case.soundings)
    if worst is not None and worst.limit is not None and worst.dba is not None and worst.over is not None:
        spare = f"{abs(worst.over):.1f} dB {'over' if worst.over > 0 else 'spare'}"
        found.append(
            Stage(
                f"place:{worst.place}",
                f"{worst.name} from {worst.limit.start}",
                f"{figure(worst.dba, 2)} / {figure(worst.limit.level)} dBA",
                spare,
                worst.over,
                None,
                "fine" if worst.over <= 0 else "caution" if worst.hour_said else "note",
                units,
            )
        )
    ears = max((h for h in judged.case.heard if h.ears and h.dba is not None), key=lambda h: h.dba or 0, default=None)
    if ears is not None and ears.dba is not None:
        occasion, used = judged.case.rig.hookup.occasion, judged.case.rig.known.dose
        bound = level_left(occasion.hours * DUTY[occasion.playing][1], judged.case.preferences.listening, used)
        level = min(ears.most - bound, NOTHING_LEFT_DB)
        found.append(
            Stage(
                f"ears:{ears.place}",
                f"Ears, {ears.name}",
                f"{figure(ears.dba, 2)} / {figure(bound, 2)} dBA" if isfinite(bound) else f"{figure(ears.dba, 2)} dBA",
                f"{abs(level):.1f} dB {'over' if level > 0 else 'spare'}" if isfinite(bound) else "no time left",
                level,
                None,
                "caution" if level > 0 else "fine",
                units,
            )
        )
    return found


def _stages(rig: Rig, judged: Judgement) -> tuple[Stage, ...]:
    found = []
    for seen in judged.case.seen:
        amp = rig.gear[seen.output.amp]
        if isinstance(amp, Amp) and amp.technology == "valve":
            found.append(_match_stage(rig, seen, judged.findings))
    for share in judged.case.shares:
        if share.rating is None or share.margin_db is None or not _is_tightest(share, judged.case.shares):
            continue
        part = f", {share.part}" if share.part.startswith("driver") else ""
        found.append(
            Stage(
                f"power:{share.unit}:{share.part}",
                f"{rig.name(share.unit)}{part} power",
                f"{figure(share.flat)} / {figure(share.rating)} W",
                f"{level_figure(share.margin_db)} dB spare",
                -share.margin_db,
                None,
                _severity(judged.findings, {"load-rating", "load-mode-tap"}, share.unit),
                (share.unit,),
            )
        )
    found += _ears_stages(judged)
    for point in judged.case.line_points:
        if point.dbfs is not None:
            checks = {"converter-clips", "converter-low", "input-damage"}
            found.append(
                Stage(
                    f"line:{point.input.unit}:{point.input.socket}",
                    f"{rig.label(point.input)} peak",
                    f"{level_figure(point.dbfs)} dBFS",
                    f"{abs(point.dbfs):.1f} dB {'to clip' if point.dbfs <= 0 else 'clipped'}",
                    point.dbfs,
                    WINDOW_DBFS[0],
                    _severity(judged.findings, checks, point.input.unit),
                    (point.source.unit, point.input.unit),
                )
            )
    return tuple(found)


def _facts(rig: Rig, judged: Judgement, speakers: tuple[SpeakerResult, ...]) -> tuple[Fact, ...]:
    case, found = judged.case, []
    worst = max(case.seen, key=lambda s: (s.output.doubtful, abs(np.log(max(s.ratio, 1e-6)))), default=None)
    if worst:
        severity = _severity(judged.findings, MATCH_CHECKS, worst.output.amp)
        name = f"{rig.name(worst.output.amp)} sees" if len(case.seen) > 1 else "Amp sees"
        tap = "a tap not known" if worst.output.doubtful else f"the {figure(worst.output.tap)} Ω tap"
        remark = f"on {tap}, by rating"
        if isfinite(worst.impedance):
            found.append(Fact("sees", name, figure(worst.impedance), "Ω", remark, severity))
        else:
            found.append(Fact("sees", name, "no load", "", remark, severity))
    rated = [s for s in case.shares if s.margin_db is not None and s.rating is not None]
    if rated:
        hot = min(rated, key=lambda s: (round(s.margin_db or 0.0, 2), s.part))
        severity = _severity(judged.findings, {"load-rating", "load-mode-tap"}, hot.unit)
        what = rig.name(hot.unit) + (f", {hot.part}" if hot.part else "")
        remark = f"{what}: {figure(hot.flat)} of {figure(hot.rating or 0)} W"
        found.append(Fact("hottest", "Least spare, flat out", level_figure(hot.margin_db or 0), "dB", remark, severity))
    if speakers:
        loud = max(speakers, key=lambda s: s.watts)
        down = f"{figure(-loud.clipped_db)} dB down" if loud.clipped_db < -0.05 else "all of it"
        if loud.clipped_db > 0.05:
            down = f"{figure(loud.clipped_db)} dB more than the amp gives"
        if loud.clean_db is not None and loud.clipped_db < -0.05:
            clipped, clean = figure(-loud.clipped_db, 2), figure(-loud.clean_db, 2)
            down = f"{clipped} dB down clipped, {clean} clean" if clipped != clean else f"{clipped} dB down"
        found.append(Fact("speaker", "Into the speaker", figure(loud.watts), "W", down, "fine"))
    elif case.seen:
        found.append(Fact("speaker", "Into the speaker", "none", "", "no speaker is driven", "fine"))
    points = [p for p in case.line_points if p.dbfs is not None]
    if points:
        high = max(points, key=lambda p: p.dbfs or 0.0)
        severity = _severity(judged.findings, {"converter-clips", "converter-low", "input-damage"}, high.input.unit)
        remark = f"peaks, {level_figure(high.peak_dbu)} dBu in"
        found.append(Fact("converter", "At the converter", level_figure(high.dbfs or 0), "dBFS", remark, severity))
    elif case.line_points:
        found.append(Fact("converter", "At the converter", "not known", "", case.line_points[0].why, "caution"))
    return tuple(found)


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
            text = f"{figure(through.watts)} W" if through and through.watts >= 0.001 else ""
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


def node_voltages(rig: Rig) -> dict[str, Complex]:
    """Voltage (V RMS, complex, shape (F,)) at every node of the real network, small signal, at label power.

    Every source is on. Nodes are named by unit and socket. Raises NetworkError where there is no single solution.
    """
    net = real_network(rig, frequency_grid())
    used = tuple(o for o in outputs(rig) if net.find(o.node) in net.nodes)
    solution = net.solve(sources(used, net.points))
    return {name: solution.voltage(name) for name in net.names if net.find(name) in net.nodes}


def _typical(rig: Rig) -> tuple[str, ...]:
    found = [said for _, gear in rig.units() for said in gear.assumptions()]
    found += [f"{gear.name}: {field} typical, not measured" for _, gear in rig.units() for field in gear.typical]
    return tuple(dict.fromkeys(found))


def analyse(rig: Rig, preferences: Preferences | None = None) -> Analysis:
    """The full analysis: nominal network for match and ratings, real one for curves and clean levels."""
    judged = with_fixes(judge(rig, preferences))
    frequency = frequency_grid()
    curves: dict[str, Complex] = {}
    solution: Solution | None = None
    try:
        real = real_network(rig, frequency)
        curves = {s.output.node: input_impedance(real, s.output.node) for s in judged.case.seen}
        used = tuple(s.output for s in judged.case.seen if real.connected(s.output.node))
        solution = real.solve(sources(used, real.points))
        speakers = _speaker_results(rig, solution)
        amps = _amp_results(rig, judged.case.seen, curves)
        stages, facts = _stages(rig, judged), _facts(rig, judged, speakers)
        shared, lines = judged.case.shares, tuple(_line_result(rig, p) for p in judged.case.line_points)
    except NetworkError:
        # The judge has said so already; results that rest on the network are left out, not guessed.
        return Analysis(judged.verdict, judged.findings, (), (), (), (), (), (), (), (), _typical(rig))
    return Analysis(
        verdict=judged.verdict,
        findings=judged.findings,
        facts=facts,
        stages=stages,
        amps=amps,
        shares=shared,
        speakers=speakers,
        lines=lines,
        flows=_flows(rig, judged),
        curves=tuple(
            _curve(s.output.amp, curves[s.output.node])
            for s in judged.case.seen
            if np.isfinite(np.abs(curves[s.output.node])).all()
        ),
        typical=_typical(rig),
    )
