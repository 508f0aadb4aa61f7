"""The line from the jack to the converter, point by point: each between what it stands and its noise; and the setting
of its controls that keeps the most distance from both."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import inf, isfinite, sqrt
from typing import Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.gear.abilities import line_out_of
from low_tide.core.gear.base import STAGE, Control
from low_tide.core.gear.interface import Input
from low_tide.core.inventory import Interface, Microphone
from low_tide.core.rig.changes import Change, SetControl
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.graph import Edge
from low_tide.core.signal_path.levels import TARGET_DBFS, WINDOW_DBFS, Levels, LinePoint, levels
from low_tide.core.signal_path.noise import in_power, thermal_noise
from low_tide.core.signal_path.playing_level import learned_at, played_at
from low_tide.core.units import db_voltage, dbu, figure, level_figure, parallel, volts

PLAYING_RANGE_DB = 20.0
"""From played softly to flat out, where no take has shown it."""
TYPICAL_NOISE_UNDER_LABEL_DB = 60.0
AWAY_DB = 6.0
"""How far a best setting keeps from every ceiling."""
AS_GOOD_DB = 0.01
"""Distances to the noise that differ by less than this are the same."""
MOST_GATES = 4
"""Controls that are tried together in every position; with more, the ones nearest the source stay as they are."""

Kind: TypeAlias = Literal["clips", "limiter", "takes"]
Grid: TypeAlias = NDArray[np.float64]


@dataclass(frozen=True)
class Gate:
    """A control that sets the level at a point: how it is called, where it stands, how far it goes (dB, or on and off).

    `down`: what a switch takes when it is on, dB. `taped`: it is not to be moved.
    """

    unit: str
    control: str
    label: str
    value: float | bool
    low: float
    high: float
    step: float
    down: float
    taped: bool

    @property
    def positions(self) -> tuple[float | bool, ...]:
        """Everything it can be set to; of a range, in its steps."""
        if self.taped:
            return (self.value,)
        if self.down:
            return (False, True)
        count = int((self.high - self.low) / self.step + 1e-9)
        found = {round(self.low + i * self.step, 6) for i in range(count + 1)} | {self.high, float(self.value)}
        return tuple(sorted(found))

    def gain(self, value: float | bool) -> float:
        """What it adds there, dB."""
        return -self.down * bool(value) if self.down else float(value)


@dataclass(frozen=True)
class Ceiling:
    """What a point must stay under, dBu: where it clips, where a limiter holds it, or what an input takes cleanly."""

    dbu: float
    kind: Kind


@dataclass(frozen=True)
class Rung:
    """One point of the line: levels of its peaks from played softly to flat out, its ceiling, and the noise there, dBu.

    `name` is the unit or lead, `what` the part of it. `gate` stands before it. `flyback`: what an overdriven output
    stage may bring there, shown where the line begins. `typical`: what of it nobody has measured.
    """

    unit: str
    name: str
    what: str
    soft: float
    loud: float
    noise: float
    ceiling: Ceiling | None
    gate: Gate | None
    flyback: float | None
    typical: tuple[str, ...]


@dataclass(frozen=True)
class GateMove:
    """One control of a best setting: from where to where, in words, and what that does."""

    label: str
    was: str
    to: str


@dataclass(frozen=True)
class BestSetting:
    """The setting with the most distance between peak and noise: what it takes, and what it comes to (dBFS, dB)."""

    moves: tuple[GateMove, ...]
    changes: tuple[Change, ...]
    peak: float
    noise: float
    label: str


@dataclass(frozen=True)
class LineLadder:
    """The line to one input. `peak` and `noise` in dBFS; `over_noise` dB; None where its level is not known: `why`.

    `full_scale`: dBu at the converter that is 0 dBFS. `best` None where no setting keeps every bound: `no_best` says
    which forbids it and what would mend it; both empty where it stands best already. `learned`: from which takes its
    level is, in words.
    """

    input: str
    name: str
    rungs: tuple[Rung, ...]
    full_scale: float
    window: tuple[float, ...]
    peak: float | None
    noise: float | None
    over_noise: float | None
    why: str
    best: BestSetting | None
    no_best: str
    learned: str


@dataclass(frozen=True)
class _Step:
    """A step of the line: `gain` dB and a gate's, a hard bound (dBu) behind it, a ceiling, and noise of its own (dBu)
    that enters before its gain and after it."""

    unit: str
    name: str
    what: str
    gain: float = 0.0
    gate: Gate | None = None
    bound: float = inf
    ceiling: Ceiling | None = None
    noise_in: float = -inf
    noise_out: float = -inf
    flyback: float | None = None
    typical: tuple[str, ...] = ()


def _sine_dbu(peak: float) -> float:
    return dbu(peak / sqrt(2)) if peak > 0 else -inf


def _gate(rig: Rig, unit: str, control: Control | None, down: float = 0.0) -> Gate | None:
    if control is None or (control.kind == "range" and (control.unit != "dB" or control.affects != "signal")):
        return None
    value = rig.settings(unit)[control.id]
    assert not isinstance(value, str)
    taped = rig.is_guarded(unit, control.id)
    return Gate(unit, control.id, control.label, value, control.low, control.high, control.step, down, taped)


def _level_control(rig: Rig, unit: str) -> Control | None:
    """What sets the level inside a pedal or a box."""
    return next((c for name in ("level", "volume") if (c := rig.control(unit, name)) is not None), None)


def _before(there: Levels, edge: Edge) -> Iterator[_Step]:
    """Where the line begins: at the jack of the power stage, at a microphone, or at what plays or is played."""
    rig, unit = there.rig, edge.a.unit
    start = there.at(edge.a)
    if edge.a.socket != STAGE:
        gear = rig.gear[unit]
        trim = rig.control(unit, f"{edge.a.socket}.trim")
        yield _Step(
            unit, gear.name, rig.socket(edge.a).label, _sine_dbu(start.normal or 0.0), gate=_source(rig, unit, trim)
        )
        return
    own = getattr(rig.gear[unit], "noise_under_label", TYPICAL_NOISE_UNDER_LABEL_DB)
    output = next(e.output for e in there.graph.edges if e.output and e.a == edge.a)
    label = dbu(volts(output.label_power, output.tap))
    damage = there.at(edge.a).damage.likely
    yield _Step(
        unit,
        rig.name(unit),
        "speaker jack",
        _sine_dbu(start.normal or 0.0),
        noise_out=label - own,
        flyback=_sine_dbu(damage) if damage else None,
        typical=_typical(own == TYPICAL_NOISE_UNDER_LABEL_DB, f"noise of {rig.name(unit)} typical, not measured"),
    )


def _typical(is_usual: bool, words: str) -> tuple[str, ...]:
    """A figure that stands at its usual value was measured by nobody, whoever put it there."""
    return (words,) if is_usual else ()


def _source(rig: Rig, unit: str, control: Control | None) -> Gate | None:
    """A source's own level control is shown and not tried: how loud it plays is part of what is played."""
    found = _gate(rig, unit, control)
    return None if found is None else replace(found, taped=True)


def _inside(there: Levels, edge: Edge) -> Iterator[_Step]:
    """A unit's own steps."""
    rig, unit, transfer = there.rig, edge.a.unit, edge.transfer
    assert transfer is not None
    gear, bound = rig.gear[unit], _sine_dbu(transfer.limit_v) if isfinite(transfer.limit_v) else inf
    line = line_out_of(gear) if edge.b.socket == "line" else None
    gain = transfer.gain_db or 0.0
    limiter = Ceiling(bound, "limiter") if isfinite(bound) else None
    if line is None:
        # What is bypassed sets no level.
        bypassed = rig.settings(unit).get("on") is False
        gate = None if bypassed else _gate(rig, unit, _level_control(rig, unit))
        set_to = gate.gain(gate.value) if gate else 0.0
        yield _Step(unit, gear.name, rig.socket(edge.b).label, gain - set_to, gate, bound, limiter)
        return
    pot = _gate(rig, unit, rig.control(unit, "line.pot"))
    rolled = ", rolled off" if transfer.rolled_off else ""
    tap = f"tap, {level_figure(line.ratio_db)} dB{rolled}"
    if pot is None:
        yield _Step(unit, gear.name, tap, line.ratio_db, None, bound, limiter)
        return
    yield _Step(unit, gear.name, tap, line.ratio_db)
    yield _Step(unit, gear.name, f"{pot.label[:1].lower()}{pot.label[1:]}", 0.0, pot, bound, limiter)


def _through(there: Levels, edge: Edge) -> _Step:
    """A lead, with what the input at its end takes."""
    rig, link = there.rig, edge.link
    assert link is not None
    source, into = rig.socket(edge.a), rig.socket(edge.b)
    divider = into.ohms / (into.ohms + source.ohms) if into.ohms > 0 else 1.0
    heard = parallel(source.ohms, into.ohms) if into.ohms > 0 else source.ohms
    most = into.max_dbu
    conductor = rig.conductor(link)
    length = getattr(conductor, "length", None)
    return _Step(
        link.lead,
        conductor.name,
        f"{figure(length)} m" if length else "lead",
        db_voltage(divider),
        ceiling=None if most is None else Ceiling(most, "takes"),
        noise_out=thermal_noise(heard),
    )


def _recording(rig: Rig, point: LinePoint) -> Iterator[_Step]:
    """Preamp and converter of the input."""
    unit, socket = point.input.unit, point.input.socket
    gear = rig.gear[unit]
    assert isinstance(gear, Interface)
    each = gear.input(socket)
    pad = _gate(rig, unit, rig.control(unit, f"{socket}.pad"), each.pad or 0.0) if each.pad else None
    gain = _gate(rig, unit, rig.control(unit, f"{socket}.gain"))
    clips = Ceiling(each.max_level, "clips")
    yield _Step(unit, gear.name, f"{each.name}{', pad' if pad else ''}", 0.0, pad, ceiling=clips)
    yield _Step(
        unit,
        "converter",
        f"0 dBFS = {level_figure(each.max_level)} dBu",
        -each.least_gain if gain else 0.0,
        gain,
        ceiling=clips,
        noise_in=each.input_noise,
        noise_out=each.max_level + each.converter_noise,
        typical=_typical(
            (each.input_noise, each.converter_noise) == (Input.input_noise, Input.converter_noise),
            f"noise of {gear.name} typical, not measured",
        ),
    )


def _steps(there: Levels, point: LinePoint) -> tuple[_Step, ...]:
    """The line to an input, from where its level comes; empty where that is not known."""
    way = there.loudest_way(point.input)
    if not way:
        return ()
    rig = there.rig
    mics = [i for i, edge in enumerate(way) if edge.transfer and isinstance(rig.gear[edge.a.unit], Microphone)]
    found: list[_Step] = []
    if mics:
        # Before the capsule it is sound, and no level on a line.
        edge = way[mics[-1]]
        found.append(_microphone(there, edge))
        way = way[mics[-1] + 1 :]
    else:
        found += _before(there, way[0])
    for edge in way:
        if edge.output:
            jack, here = there.at(edge.a).normal, there.at(edge.b).normal
            lower = db_voltage(here / jack) if jack and here else 0.0
            if abs(lower) >= 0.05:
                found.append(_Step(edge.b.unit, rig.name(edge.b.unit), rig.socket(edge.b).label, lower))
        elif edge.transfer:
            found += _inside(there, edge)
        elif rig.socket(edge.a).level != "air":
            found.append(_through(there, edge))
    return (*found, *_recording(rig, point))


def _microphone(there: Levels, edge: Edge) -> _Step:
    rig, unit = there.rig, edge.a.unit
    transfer = edge.transfer
    assert transfer is not None
    at = there.at(edge.a).normal or 0.0
    level = _sine_dbu(at) + (transfer.gain_db or 0.0)
    bound = _sine_dbu(transfer.limit_v) if isfinite(transfer.limit_v) else inf
    cabinet = there.graph.into(edge.a)[0].a.unit
    stage = next((e for e in there.graph.stages if e in there.graph.upstream(edge.a)), None)
    own = getattr(rig.gear[stage.unit], "noise_under_label", TYPICAL_NOISE_UNDER_LABEL_DB) if stage else inf
    output = next((e.output for e in there.graph.edges if e.output and e.a == stage), None)
    jack = there.at(stage).normal if stage else None
    # The amp's noise comes out of the speaker as far under its peaks as it is at the jack.
    under = _sine_dbu(jack) - dbu(volts(output.label_power, output.tap)) + own if output and jack else inf
    return _Step(
        unit,
        rig.name(unit),
        f"{figure(float(rig.settings(unit)['distance']))} cm before {rig.name(cabinet)}",
        level,
        bound=bound,
        ceiling=Ceiling(bound, "clips") if isfinite(bound) else None,
        noise_out=level - under,
        typical=_typical(own == TYPICAL_NOISE_UNDER_LABEL_DB, "noise of the amp typical, not measured"),
    )


@dataclass(frozen=True)
class _Line:
    """Levels along steps for gates at any values: every array has an axis a gate."""

    loud: tuple[Grid, ...]
    unbound: tuple[Grid, ...]
    noise: tuple[Grid, ...]


def _run(steps: tuple[_Step, ...], gains: dict[int, Grid]) -> _Line:
    level: Grid = np.zeros(())
    noise: Grid = np.asarray(-inf)
    loud, unbound, noises = [], [], []
    for n, step in enumerate(steps):
        gain = step.gain + gains.get(n, 0.0)
        free = np.asarray(level + gain)
        level = np.minimum(free, step.bound) if isfinite(step.bound) else free
        # Level is where the line begins, not a gain, so no noise goes through the first step.
        noise = _with(noise, step.noise_in) + gain if n else _with(noise, step.noise_in)
        noise = _with(noise, step.noise_out)
        loud.append(level)
        unbound.append(free)
        noises.append(noise)
    return _Line(tuple(loud), tuple(unbound), tuple(noises))


def _with(noise: Grid, own: float) -> Grid:
    """Most steps add no noise of their own."""
    return in_power(noise, own) if own > -inf else noise


def _as_set(steps: tuple[_Step, ...]) -> dict[int, Grid]:
    return {n: np.asarray(step.gate.gain(step.gate.value)) for n, step in enumerate(steps) if step.gate and n}


def as_it_stands(rig: Rig, point: LinePoint, playing_range: float | None = None) -> LineLadder:
    """The line to an input of an interface, as it is set, without looking for its best setting.

    `playing_range`: dB from played softly to flat out; as takes have shown it, or 20, where left out. Noise: the amp's
    own, the thermal noise of each source, and the preamp's; that of pedals and boxes is not known and left out.
    """
    return _as_it_stands(rig, point, _line_steps(rig, point), playing_range)


def ladder(rig: Rig, point: LinePoint, playing_range: float | None = None) -> LineLadder:
    """The same with its best setting."""
    steps = _line_steps(rig, point)
    found = _as_it_stands(rig, point, steps, playing_range)
    if not steps:
        return found
    best, no_best = _best(rig, steps, found.full_scale)
    return replace(found, best=best, no_best=no_best)


def _line_steps(rig: Rig, point: LinePoint) -> tuple[_Step, ...]:
    return _steps(levels(rig), point) if point.dbfs is not None else ()


def _as_it_stands(rig: Rig, point: LinePoint, steps: tuple[_Step, ...], playing_range: float | None) -> LineLadder:
    gear = rig.gear[point.input.unit]
    assert isinstance(gear, Interface)
    full = gear.input(point.input.socket).max_level
    named = point.input.name, rig.label(point.input)
    if not steps:
        why = point.why or "nothing of a known level reaches this input"
        return LineLadder(*named, (), full, WINDOW_DBFS, None, None, None, why, None, "", "")
    played = played_at(rig, point)
    span = playing_range or (played and played.playing_range) or PLAYING_RANGE_DB
    line = _run(steps, _as_set(steps))
    rungs = tuple(
        Rung(
            step.unit,
            step.name,
            step.what,
            float(loud) - span,
            float(loud),
            float(noise),
            step.ceiling,
            step.gate,
            step.flyback,
            step.typical,
        )
        for step, loud, noise in zip(steps, line.loud, line.noise, strict=True)
    )
    peak, noise = rungs[-1].loud - full, rungs[-1].noise - full
    return LineLadder(*named, rungs, full, WINDOW_DBFS, peak, noise, peak - noise, "", None, "", learned_at(rig, point))


def ladders(rig: Rig, playing_range: float | None = None) -> tuple[LineLadder, ...]:
    """The lines to all inputs that something is plugged into."""
    return tuple(ladder(rig, point, playing_range) for point in levels(rig).line_points)


def _tried(steps: tuple[_Step, ...]) -> dict[int, Gate]:
    """Gates that are tried, by their step; those nearest the converter where there are too many."""
    found = {n: step.gate for n, step in enumerate(steps) if n and step.gate and not step.gate.taped}
    return dict(list(found.items())[-MOST_GATES:])


def _grid(steps: tuple[_Step, ...], tried: dict[int, Gate]) -> dict[int, Grid]:
    """Gains of every gate, those that are tried each along an axis of its own."""
    gains = _as_set(steps)
    for axis, (n, gate) in enumerate(tried.items()):
        shape = [1] * len(tried)
        values = np.array([gate.gain(value) for value in gate.positions])
        shape[axis] = len(values)
        gains[n] = values.reshape(shape)
    return gains


def _best(rig: Rig, steps: tuple[_Step, ...], full: float) -> tuple[BestSetting | None, str]:
    """The setting with the most distance between peak and noise; of equals the least gain, then the fewest moves."""
    tried = _tried(steps)
    line = _run(steps, _grid(steps, tried))
    shape = tuple(len(gate.positions) for gate in tried.values())

    def whole(grid: Grid) -> Grid:
        return np.broadcast_to(grid, shape)

    peak = whole(line.loud[-1]) - full
    allowed = (peak >= WINDOW_DBFS[0] - 1e-9) & (peak <= WINDOW_DBFS[1] + 1e-9)
    for step, free in zip(steps, line.unbound, strict=True):
        if step.ceiling and isfinite(step.ceiling.dbu):
            allowed &= whole(free) <= step.ceiling.dbu - AWAY_DB + 1e-9
    if not allowed.any():
        return None, _why_none(steps, line, whole, full)
    over = np.where(allowed, peak - (whole(line.noise[-1]) - full), -inf)
    good = np.argwhere(over >= over.max() - AS_GOOD_DB)
    gain_axis = next((axis for axis, n in enumerate(tried) if n == len(steps) - 1), None)

    def order(at: tuple[int, ...]) -> tuple[float, int, float]:
        gain = 0.0 if gain_axis is None else float(at[gain_axis])
        moved = sum(g.positions[i] != g.value for g, i in zip(tried.values(), at, strict=True))
        return gain, moved, abs(float(peak[at]) - TARGET_DBFS)

    at = min((tuple(int(i) for i in each) for each in good), key=order)
    settings = [(gate, gate.positions[i]) for gate, i in zip(tried.values(), at, strict=True)]
    moved = [(gate, value) for gate, value in settings if value != gate.value]
    if not moved:
        return None, ""
    moves = tuple(
        GateMove(_called(rig, gate), _stands(gate, gate.value), _stands(gate, value)) for gate, value in moved
    )
    return (
        BestSetting(
            moves,
            tuple(SetControl(gate.unit, gate.control, value) for gate, value in moved),
            float(peak[at]),
            float(whole(line.noise[-1])[at] - full),
            "Set " + _listed([f"{move.label} to {move.to}" for move in moves]),
        ),
        "",
    )


def _listed(words: list[str]) -> str:
    return " and ".join(filter(None, (", ".join(words[:-1]), words[-1])))


def _called(rig: Rig, gate: Gate) -> str:
    return f"{gate.label[:1].lower()}{gate.label[1:].split(' −')[0]} of {rig.name(gate.unit)}"


def _stands(gate: Gate, value: float | bool) -> str:
    if gate.down:
        return "in" if value else "out"
    return f"{level_figure(float(value))} dB"


def _why_none(steps: tuple[_Step, ...], line: _Line, whole: object, full: float) -> str:
    """Which ceiling or floor forbids every setting, and what would mend it."""
    for step, free in zip(steps, line.unbound, strict=True):
        if step.ceiling is None:
            continue
        least = float(np.min(free))
        if least > step.ceiling.dbu - AWAY_DB + 1e-9:
            over = least - step.ceiling.dbu
            what = {"clips": "clips", "limiter": "is held by its limiter", "takes": "takes no more"}[step.ceiling.kind]
            near = (
                f"and still gets {figure(over, 2)} dB more"
                if over > 0
                else f"and is left {figure(-over, 2)} dB of the {figure(AWAY_DB)} dB it should have"
            )
            return (
                f"{step.name}, {step.what}, {what} at {level_figure(step.ceiling.dbu)} dBu with everything before it at"
                f" its least, {near}. A pad or a line box before it mends that, or less from the source."
            )
    most, least = float(np.max(line.loud[-1])) - full, float(np.min(line.loud[-1])) - full
    if most < WINDOW_DBFS[0]:
        return (
            f"With everything up the peaks reach {level_figure(most)} dBFS, {figure(WINDOW_DBFS[0] - most, 2)} dB under"
            " the window. A preamp with more gain before it mends that, or a tap that takes less off."
        )
    if least > WINDOW_DBFS[1]:
        return (
            f"With everything down the peaks reach {level_figure(least)} dBFS, {figure(least - WINDOW_DBFS[1], 2)} dB"
            " over the window. A pad or a line box before the input mends that."
        )
    return (
        "What keeps every ceiling does not come into the window, and what comes into it does not keep them: a ceiling"
        " on the way lies too low for the gain that is left behind it. A preamp with more gain mends that, or a way"
        " without that box."
    )
