"""Over frequency: what each amp sees, and who takes how much of it; and the same in watts, by rating."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from low_tide.core.circuit.network import NetworkError, input_impedance
from low_tide.core.frequency import Real, frequency_grid
from low_tide.core.power.shares import powers_of, seen_by
from low_tide.core.power.speaker_network import outputs, real_network
from low_tide.core.rig.rig import Rig
from low_tide.core.units import db


@dataclass(frozen=True)
class UnitShare:
    """A unit's part of an amp's power at every frequency, 0 to 1. Leads count as one."""

    unit: str
    name: str
    fraction: tuple[float, ...]


@dataclass(frozen=True)
class AmpSpectrum:
    """What one output sees at every frequency: magnitude in Ω, phase in degrees; both empty when it is open.

    `low` and `high` bound what its tap takes as a match, Ω.
    """

    unit: str
    name: str
    tap: float
    low: float
    high: float
    magnitude: tuple[float, ...]
    phase: tuple[float, ...]
    shares: tuple[UnitShare, ...]


@dataclass(frozen=True)
class PowerRow:
    """What one unit takes of an amp's power by rating: W at the label and flat out, dB under the whole."""

    unit: str
    name: str
    label: float
    flat: float
    db: float | None


@dataclass(frozen=True)
class AmpPower:
    """Where one output's power goes. The rows add up to `flat`, or to nothing when it is open."""

    unit: str
    name: str
    tap: float
    label: float
    flat: float
    rows: tuple[PowerRow, ...]


@dataclass(frozen=True)
class Spectra:
    """Curves over `frequency` (Hz), and the balance of power."""

    frequency: tuple[float, ...]
    amps: tuple[AmpSpectrum, ...]
    power: tuple[AmpPower, ...]


MATCH_BAND = (0.8, 1.25)


def _floats(values: Real) -> tuple[float, ...]:
    return tuple(float(f"{v:.5g}") for v in values)


def spectra(rig: Rig) -> Spectra:
    """Curves from the real network, watts from the nominal one: a curve never decides a match or a rating."""
    frequency = frequency_grid()
    return Spectra(_floats(frequency), _amps(rig, frequency), _power(rig))


def _amps(rig: Rig, frequency: Real) -> tuple[AmpSpectrum, ...]:
    net = real_network(rig, frequency)
    found = []
    for output, nominal in zip(outputs(rig), seen_by(rig), strict=True):
        seen = input_impedance(net, output.node)
        shares: dict[str, Real] = {}
        # A lead that hangs free still has a capacitance; that is no load.
        is_open = not np.isfinite(nominal.impedance) or not np.isfinite(np.abs(seen)).all()
        if not is_open:
            try:
                taken = net.powers(output.node)
            except NetworkError:
                taken = np.zeros((net.points, 0))
            whole = taken.sum(axis=1)
            for element, watts in zip(net.elements, taken.T, strict=False):
                key = "" if element.part in ("lead", "capacitance") else element.unit
                shares[key] = shares.get(key, np.zeros(net.points)) + np.divide(
                    watts, whole, out=np.zeros_like(watts), where=whole > 0
                )
        found.append(
            AmpSpectrum(
                output.amp,
                rig.name(output.amp),
                output.wanted,
                output.wanted * MATCH_BAND[0],
                output.wanted * MATCH_BAND[1],
                () if is_open else _floats(np.abs(seen)),
                () if is_open else _floats(np.degrees(np.angle(seen))),
                tuple(
                    UnitShare(unit, rig.name(unit) if unit else "leads", _floats(fraction))
                    for unit, fraction in shares.items()
                    if fraction.max() > 1e-4
                ),
            )
        )
    return tuple(found)


def _power(rig: Rig) -> tuple[AmpPower, ...]:
    found = []
    for output in outputs(rig):
        units: dict[str, tuple[float, float]] = {}
        for (unit, _), (label, flat) in powers_of(rig, output).items():
            before = units.get(unit, (0.0, 0.0))
            units[unit] = (before[0] + label, before[1] + flat)
        whole = sum(flat for _, flat in units.values())
        rows = tuple(
            PowerRow(unit, rig.name(unit), label, flat, db(flat / whole) if flat > 0 else None)
            for unit, (label, flat) in sorted(units.items(), key=lambda item: -item[1][1])
        )
        found.append(AmpPower(output.amp, rig.name(output.amp), output.tap, sum(r.label for r in rows), whole, rows))
    return tuple(found)
