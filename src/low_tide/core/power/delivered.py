"""What is delivered: by each output into what hangs on it, and to each cabinet, against the amp straight into it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from math import isfinite

import numpy as np

from low_tide.core.circuit.network import Solution, input_impedance
from low_tide.core.frequency import Complex, frequency_grid, programme_level_db, programme_weights
from low_tide.core.inventory import Amp, Cabinet, PowerStage, ReAmp
from low_tide.core.power.shares import Seen, powers, seen_by
from low_tide.core.power.speaker_network import Output, outputs, real_network, sources
from low_tide.core.rig.kept import kept
from low_tide.core.rig.rig import Rig
from low_tide.core.units import db


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


def _speaker_results(rig: Rig, solution: Solution) -> tuple[SpeakerResult, ...]:
    taken = powers(rig)
    found = []
    for unit, cabinet in rig.cabinets():
        watts = sum(flat for (u, _), (_, flat) in taken.items() if u == unit)
        if watts <= 0:
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


@dataclass(frozen=True)
class Delivered:
    """What the real network delivers. `curves`: what an output sees (Ω, complex, shape (F,)), by its node."""

    amps: tuple[AmpResult, ...]
    speakers: tuple[SpeakerResult, ...]
    curves: Mapping[str, Complex]


@kept(seen_by, outputs, powers)
def delivered(rig: Rig) -> Delivered:
    """Results at every output and cabinet, by the real network. Raises NetworkError where it has no single solution."""
    real = real_network(rig, frequency_grid())
    seen = tuple(s for s in seen_by(rig) if not s.idle)
    curves = {s.output.node: input_impedance(real, s.output.node) for s in seen}
    solution = real.solve(sources(tuple(s.output for s in seen if real.connected(s.output.node)), real.points))
    return Delivered(_amp_results(rig, seen, curves), _speaker_results(rig, solution), curves)


def node_voltages(rig: Rig) -> dict[str, Complex]:
    """Voltage (V RMS, complex, shape (F,)) at every node of the real network, small signal, at label power.

    Every source is on. Nodes are named by unit and socket. Raises NetworkError where there is no single solution.
    """
    net = real_network(rig, frequency_grid())
    used = tuple(o for o in outputs(rig) if net.find(o.node) in net.nodes)
    solution = net.solve(sources(used, net.points))
    return {name: solution.voltage(name) for name in net.names if net.find(name) in net.nodes}
