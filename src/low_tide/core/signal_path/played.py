"""What arrives at an input when something is played: through the amp into its load, and along the line."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf, sqrt

import numpy as np

from low_tide.core.audio.correction import ANALOGUE_RATE, Band, bands_gain, programme_gain
from low_tide.core.audio.rendering import Samples, cab_filter, coloured
from low_tide.core.circuit.network import input_impedance
from low_tide.core.frequency import Complex, Real, frequency_grid, programme_level_db
from low_tide.core.gear.base import STAGE
from low_tide.core.inventory import Interface, Microphone
from low_tide.core.power.driven_load import driven, fitted
from low_tide.core.power.speaker_network import Output, real_network
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.graph import Edge
from low_tide.core.signal_path.levels import LinePoint, levels
from low_tide.core.units import from_db_voltage

SPEAKER_PEAKS_DB = 5.5
"""By so much the stand-in for a speaker raises the peaks of a driven wave over its level; found by trying."""
ROLL_OFF_HZ = 4_000.0
"""Where a tone roll-off begins; second order. An illustration, as the cab filter is."""


@dataclass(frozen=True)
class Played:
    """What arrives at an input: samples in V at its jack, and why nothing does where `samples` is None."""

    samples: Samples | None
    why: str = ""


def played(rig: Rig, point: LinePoint, dry: Samples, drive_db: float, rate: int) -> Played:
    """A dry track (peaks at 1, shape (n,), at `rate` Hz) played into the line that ends at an input.

    Where a power stage is on the way, its peaks reach the limit of its jack `drive_db` over what a resistor of its tap
    would take without bending; the limit is the peak that is predicted for this load, so both agree when it is driven.
    Elsewhere the peaks are those of what feeds the line. Tails are left out.
    """
    there = levels(rig)
    way = there.loudest_way(point.input)
    if point.dbfs is None or not way:
        return Played(None, point.why or "nothing reaches this input")
    start = there.at(way[0].a).normal or 0.0
    # Sound from a cabinet to a microphone counts in Pa; levels are the same either way.
    if way[0].a.socket == STAGE:
        output = next(e.output for e in there.graph.edges if e.output and e.a == way[0].a)
        sound = _at_the_jack(rig, output, dry, drive_db, start, rate)
        sound = _into_the_network(rig, output, way, sound, rate)
    else:
        sound = dry * start
    for edge in way:
        sound = _along(rig, edge, sound, rate)
    return Played(sound)


def _at_the_jack(rig: Rig, output: Output, dry: Samples, drive_db: float, limit: float, rate: int) -> Samples:
    frequency = frequency_grid()
    impedance = input_impedance(real_network(rig, frequency), output.node)
    z_out = output.tap / output.damping_factor
    load, fit = fitted(impedance, frequency)
    # The open-circuit volts whose peak on a resistor of the tap is the limit, and the drive over it.
    open_peak = sqrt(2 * output.label_power * output.tap) * (1 + z_out / output.tap)
    source = dry * open_peak * from_db_voltage(drive_db)
    bent = driven(source, z_out, limit, load, rate)
    # What the fitted load misses of the true one, where both are linear.
    missed = (impedance / (impedance + z_out)) / (fit / (fit + z_out))
    return bent if float(np.abs(np.abs(missed) - 1).max()) < 1e-3 else coloured(bent, _Table(missed), rate)


@dataclass(frozen=True, eq=False)
class _Table:
    """A response given over `frequency_grid()`, at any frequencies (Hz); its ends are held."""

    values: Complex

    def __call__(self, frequency: Real) -> Complex:
        grid = np.log(frequency_grid(len(self.values)))
        at = np.log(np.maximum(frequency, 1.0))
        return np.asarray(np.interp(at, grid, self.values.real) + 1j * np.interp(at, grid, self.values.imag))


def _into_the_network(rig: Rig, output: Output, way: tuple[Edge, ...], sound: Samples, rate: int) -> Samples:
    """From the jack to where the line leaves the speaker side."""
    edge = way[0]
    if edge.output is None:
        return sound
    net = real_network(rig, frequency_grid())
    node = f"{edge.b.unit}.{edge.b.socket}"
    if net.find(node) == net.find(output.node):
        return sound
    return coloured(sound, _Table(net.gain(node, output.node)), rate)


def _along(rig: Rig, edge: Edge, sound: Samples, rate: int) -> Samples:
    transfer = edge.transfer
    if transfer is not None:
        gear = rig.gear[edge.a.unit]
        if transfer.speaker and not isinstance(gear, Interface):
            sound = coloured(sound, _speaker, rate)
        if transfer.rolled_off:
            sound = coloured(sound, _rolled_off, rate)
        if transfer.tone:
            # The level of the programme is in the gain already.
            level = programme_gain(transfer.tone)
            sound = coloured(sound, lambda f: _toned(transfer.tone, f, -level), rate)
        sound = sound * from_db_voltage(transfer.gain_db or 0.0)
        if transfer.limit_v < inf:
            sound = np.clip(sound, -transfer.limit_v, transfer.limit_v)
        return sound
    if edge.link is None:
        return sound
    source, into = rig.socket(edge.a), rig.socket(edge.b)
    if source.level == "air":
        return sound * _before(rig, edge)
    return sound * (into.ohms / (into.ohms + source.ohms) if into.ohms > 0 else 1.0)


def _before(rig: Rig, edge: Edge) -> float:
    """From a cabinet's sound at 1 m to the capsule, as its level is predicted."""
    there = levels(rig)
    at, here = there.at(edge.a).normal, there.at(edge.b).normal
    assert isinstance(rig.gear[edge.b.unit], Microphone)
    return here / at if at and here else 0.0


def _speaker(frequency: Real) -> Complex:
    """The stand-in for a speaker, at the peaks its line is predicted with: it changes tone and not level."""
    grid = frequency_grid()
    level = programme_level_db(cab_filter(grid), np.ones(len(grid), np.complex128))
    return np.asarray(cab_filter(frequency) * from_db_voltage(-level - SPEAKER_PEAKS_DB))


def _toned(bands: tuple[Band, ...], frequency: Real, level: float) -> Complex:
    return np.asarray(10 ** ((bands_gain(bands, frequency, ANALOGUE_RATE) + level) / 20), np.complex128)


def _rolled_off(frequency: Real) -> Complex:
    s = 1j * frequency / ROLL_OFF_HZ
    return np.asarray(1 / (s**2 + 1.4 * s + 1))
