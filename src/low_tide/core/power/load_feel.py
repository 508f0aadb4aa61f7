"""What each load does to an amp's own output, before any microphone: curves, differences, words."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from low_tide.core.circuit.attenuator import l_pad
from low_tide.core.circuit.impedance import MeasuredCurve, driver_impedance
from low_tide.core.circuit.network import Network, input_impedance
from low_tide.core.frequency import Complex, Real, frequency_grid, programme_level_db, programme_weights
from low_tide.core.gear.base import Curve, Site
from low_tide.core.inventory import Attenuator, Cabinet, Load, ReAmp, Unit
from low_tide.core.units import figure, in_ohms, level_figure

RESISTOR = "resistor"
BASS_BAND = (50.0, 220.0)
PRESENCE_BAND = (2000.0, 5000.0)
PAD_STEPS_DB = (0.0, 3.0, 6.0, 10.0, 16.0, 20.0, 30.0)

Impedance = Callable[[Real], Complex]


@dataclass(frozen=True)
class Contender:
    """A load in one of its modes, or a cabinet: its impedance (Ω) at any frequencies (Hz), and its rating (Ω).

    `switch`: the position of its curve switch, where it has one.
    """

    id: str
    unit: str
    name: str
    mode: str
    kind: str
    nominal: float
    typical: bool
    impedance: Impedance
    switch: str = ""

    @property
    def label(self) -> str:
        """Its name, with the mode where it has one."""
        return f"{self.name}, {self.mode}" if self.mode else self.name


def _of_curve(curve: Curve) -> Impedance:
    if isinstance(curve, MeasuredCurve):
        return curve.impedance
    return lambda frequency: driver_impedance(curve, frequency)


def resistor(ohms: float) -> Contender:
    """A plain resistor: what a resistive load is."""
    return Contender(
        RESISTOR,
        "",
        f"{in_ohms(ohms)} resistor",
        "",
        "resistor",
        ohms,
        False,
        lambda f: np.full(len(f), ohms, np.complex128),
    )


def _cabinet(unit: Cabinet) -> Impedance:
    def impedance(frequency: Real) -> Complex:
        settings = {c.id: c.default for c in unit.controls()}
        parts = unit.parts(Site(unit.id, settings, frozenset({"in1"}), frequency))
        return input_impedance(Network(parts.elements, parts.joints, len(frequency)), f"{unit.id}.in1")

    return impedance


def _loads(unit: Load) -> Iterator[Contender]:
    for ohms in unit.impedances:
        several = in_ohms(ohms) if len(unit.impedances) > 1 else ""
        if unit.behaviour == "resistive":
            plain = resistor(ohms)
            yield replace(plain, id=f"{unit.id}|{ohms:g}", unit=unit.id, name=unit.name, mode=several, kind="load")
            continue
        for mode in unit.modes or (None,):
            data = unit.data(mode.name if mode else None)
            words = ", ".join(filter(None, (several, mode.name if mode else "")))
            key = f"{unit.id}|{ohms:g}|{mode.name if mode else ''}"
            known = data.complete()
            yield Contender(
                key,
                unit.id,
                unit.name,
                words,
                "load",
                ohms,
                not known,
                _of_curve(data.curve(ohms)),
                mode.name if mode else "",
            )


def contenders(gear: Mapping[str, Unit]) -> tuple[Contender, ...]:
    """Every load in every mode, every re-amplifier's load and every cabinet of the locker, and a plain 8 Ω resistor."""
    found = [resistor(8.0)]
    for unit in gear.values():
        if unit.archived:
            continue
        if isinstance(unit, Load):
            found += _loads(unit)
        elif isinstance(unit, ReAmp):
            curve = unit.curve.curve(unit.impedance)
            impedance = _of_curve(curve) if unit.behaviour == "reactive" else resistor(unit.impedance).impedance
            typical = unit.behaviour == "reactive" and not unit.curve.complete()
            found.append(Contender(unit.id, unit.id, unit.name, "", "load", unit.impedance, typical, impedance))
        elif isinstance(unit, Cabinet):
            typical = any(not d.data.complete() for d in unit.drivers)
            found.append(Contender(unit.id, unit.id, unit.name, "", "cabinet", unit.nominal(), typical, _cabinet(unit)))
    return tuple(found)


def tap_for(nominal: float, taps: tuple[float, ...]) -> float:
    """The tap (Ω) nearest a rating (Ω)."""
    return min(taps, key=lambda t: abs(np.log(t / nominal)))


def jack_response(contender: Contender, tap: float, damping_factor: float, frequency: Real) -> Complex:
    """Voltage at the jack against that of the label power in the tap's own load: (1+1/DF)·Z/(Z+Z_out)."""
    z = contender.impedance(frequency)
    return np.asarray((1 + 1 / damping_factor) * z / (z + tap / damping_factor))


@dataclass(frozen=True)
class Feel:
    """What one contender makes of the amp, against the reference, dB over the grid's frequencies.

    `bass` at `bass_hz` the largest difference in the bass, `presence` the mean from 2 to 5 kHz, `level` over
    the programme. `magnitude`: |Z| in Ω. `figures`: those three in a line.
    """

    id: str
    unit: str
    label: str
    kind: str
    nominal: float
    tap: float
    typical: bool
    difference: tuple[float, ...]
    magnitude: tuple[float, ...]
    bass: float
    bass_hz: float
    presence: float
    level: float
    words: str
    figures: str


@dataclass(frozen=True)
class FeelSet:
    """Every contender on one amp against one reference. `frequency` in Hz."""

    frequency: tuple[float, ...]
    damping_factor: float
    reference: str
    feels: tuple[Feel, ...]


NO_DIFFERENCE_DB = 0.05
"""Less than this shows as nothing in a figure with one decimal."""


def _amount(value: float, where: str) -> str:
    if abs(value) < 0.25:
        return ""
    return f"{figure(abs(value), 2)} dB {'more' if value > 0 else 'less'} {where}"


def summary_words(bass: float, bass_hz: float, presence: float, level: float, reference: str) -> str:
    """'4 dB more at the bass peak, 6 dB more from 2 to 5 kHz, 1.5 dB louder than the resistor.'"""
    said = [_amount(bass, f"at the bass peak ({figure(bass_hz, 2)} Hz)"), _amount(presence, "from 2 to 5 kHz")]
    if abs(level) >= 0.25:
        said.append(f"{figure(abs(level), 2)} dB {'louder' if level > 0 else 'quieter'} over all")
    told = [s for s in said if s]
    if not told:
        return f"No difference one would hear from {reference}."
    return f"Against {reference}: {', '.join(told)}."


def _figures(bass: float, bass_hz: float, presence: float, level: float) -> str:
    if max(abs(bass), abs(presence), abs(level)) < NO_DIFFERENCE_DB:
        return "no difference"
    return (
        f"{level_figure(bass)} dB at {bass_hz:.0f} Hz, {level_figure(presence)} dB from 2 to 5 kHz,"
        f" {level_figure(level)} dB over all"
    )


def _within(frequency: Real, band: tuple[float, float]) -> NDArray[np.bool_]:
    return (frequency >= band[0]) & (frequency <= band[1])


def _presence(levels: Real) -> float:
    """Mean of levels (dB on the grid) from 2 to 5 kHz, as the programme weighs them."""
    band = _within(frequency_grid(), PRESENCE_BAND)
    return float(np.average(levels[band], weights=programme_weights()[band]))


def feel_set(
    found: tuple[Contender, ...], taps: tuple[float, ...], damping_factor: float, reference: str = RESISTOR
) -> FeelSet:
    """What an amp with these taps (Ω) and damping factor does with every contender; KeyError without the reference.

    A linear model at low level: it shows tone, not feel.
    """
    f = frequency_grid()
    in_bass = _within(f, BASS_BAND)
    against = next((c for c in found if c.id == reference), None)
    if against is None:
        raise KeyError(reference)
    name = " ".join(filter(None, (against.name, f"({against.mode})" if against.mode else "")))
    name = f"the {name}" if against.kind == "resistor" else name
    base = jack_response(against, tap_for(against.nominal, taps), damping_factor, f)
    feels = []
    for c in found:
        tap = tap_for(c.nominal, taps)
        h = jack_response(c, tap, damping_factor, f)
        difference = 20 * np.log10(np.abs(h / base))
        at = int(np.argmax(np.where(in_bass, np.abs(difference), -1)))
        presence, level = _presence(difference), programme_level_db(h, base)
        bass, bass_hz = float(difference[at]), float(f[at])
        feels.append(
            Feel(
                c.id,
                c.unit,
                c.label,
                c.kind,
                c.nominal,
                tap,
                c.typical,
                tuple(difference.tolist()),
                tuple(np.abs(c.impedance(f)).tolist()),
                bass,
                bass_hz,
                presence,
                level,
                "The reference." if c.id == reference else summary_words(bass, bass_hz, presence, level, name),
                "the reference" if c.id == reference else _figures(bass, bass_hz, presence, level),
            )
        )
    return FeelSet(tuple(f.tolist()), damping_factor, reference, tuple(feels))


@dataclass(frozen=True)
class PadStep:
    """A pad at one attenuation before a cabinet: dB at the speaker over frequency, its programme mean taken off.

    `bass` and `presence`: what is left of the cabinet's own curve there, dB. `moves`: how far the magnitude of
    what the amp sees still moves, ± dB.
    """

    down_db: float
    response: tuple[float, ...]
    bass: float
    presence: float
    moves: float


@dataclass(frozen=True)
class PadSet:
    """How a pad takes the cabinet's own curve away, step by step. `frequency` in Hz."""

    frequency: tuple[float, ...]
    name: str
    cabinet: str
    steps: tuple[PadStep, ...]
    words: str


def pad_set(pad: Attenuator, cabinet: Contender, damping_factor: float) -> PadSet:
    """A pad of this kind before a cabinet at several attenuations, on the tap nearest the pad's impedance."""
    f, weights = frequency_grid(), programme_weights()
    z = cabinet.impedance(f)
    curve = _of_curve(pad.curve.curve(pad.impedance))(f) if pad.behaviour == "reactive" else pad.impedance + 0j
    middle = int(np.argmin(np.abs(f - 400)))
    in_bass = _within(f, BASS_BAND)
    z_out = pad.impedance / damping_factor
    found = []
    for down in PAD_STEPS_DB:
        if down == 0:
            into, ratio = z, np.ones_like(z)
        else:
            series, shunt = (k * curve for k in l_pad(down, 1.0))
            behind = shunt * z / (shunt + z)
            into, ratio = series + behind, behind / (series + behind)
        level = 20 * np.log10(np.abs(into / (into + z_out) * ratio))
        level = level - 10 * np.log10(weights @ 10 ** (level / 10))
        size = 20 * np.log10(np.abs(into))
        found.append(
            PadStep(
                down,
                tuple(level.tolist()),
                float(level[in_bass].max() - level[middle]),
                _presence(level) - float(level[middle]),
                float(size.max() - size.min()) / 2,
            )
        )
    first, deep = found[0], found[-1]
    words = (
        f"Straight on, {cabinet.name} has {figure(first.bass, 2)} dB at its bass peak and"
        f" {figure(first.presence, 2)} dB from 2 to 5 kHz over 400 Hz; behind {figure(deep.down_db)} dB"
        f" {figure(deep.bass, 2)} and {figure(deep.presence, 2)} dB are left."
    )
    return PadSet(tuple(f.tolist()), pad.name, cabinet.name, tuple(found), words)
