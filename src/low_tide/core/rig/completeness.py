"""What is missing from a unit's record, and what that does to the results."""

from __future__ import annotations

import numpy as np

from low_tide.core.circuit.amplifier import DAMPING_PRESETS
from low_tide.core.circuit.impedance import driver_impedance, typical_driver
from low_tide.core.frequency import frequency_grid
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Interface, Lead, Load, Microphone, ReAmp, Switcher, Unit
from low_tide.core.rig.needs import inferred_of
from low_tide.core.units import figure

DAMPING_SPREAD = 1.6
"""A typical damping factor may be off by about this factor either way."""


def damping_doubt_db(damping_factor: float, tap: float) -> float:
    """How far the treble an amp gives an ordinary speaker may be off, in dB, when its damping factor is only typical.

    Difference of the mean level from 2 to 5 kHz against 400 Hz, between the damping factor at either end of its spread.
    """
    frequency = frequency_grid()
    z = driver_impedance(typical_driver(tap), frequency)
    band = (frequency >= 2000) & (frequency <= 5000)
    middle = int(np.argmin(np.abs(frequency - 400)))

    def lift(df: float) -> float:
        level = 20 * np.log10(np.abs(z / (z + tap / df)))
        return float(level[band].mean() - level[middle])

    return abs(lift(damping_factor / DAMPING_SPREAD) - lift(damping_factor * DAMPING_SPREAD)) / 2


def gaps(unit: Unit) -> tuple[str, ...]:
    """Sentences that name what is not known of a unit and what follows from it; empty when nothing is missing."""
    found: list[str] = []
    if isinstance(unit, Amp):
        found += _amp(unit)
    elif isinstance(unit, Load | Attenuator | ReAmp):
        found += _box(unit)
    elif isinstance(unit, Cabinet):
        found += _cabinet(unit)
    elif isinstance(unit, Switcher):
        if unit.idle == "unknown" and unit.inputs > 1:
            found.append("What it does with an amp that is not selected is not known: check first.")
        if unit.gap == "unknown":
            found.append("Whether it leaves a moment without load is not known: check first.")
    elif isinstance(unit, Interface):
        if any(i.absolute_max is None for i in unit.inputs):
            found.append("Absolute maximum of an input not known: 6 dB over full scale is taken for damage.")
        if unit.earthed == "unknown":
            found.append("Whether its audio is earthed is not known: hum advice stays vague.")
    elif isinstance(unit, Microphone) and unit.max_level is None:
        found.append("Its maximum sound pressure is not known: overload cannot be told.")
    if inferred_of(unit):
        found.append(f"Inferred from ohms at the plug, not read off a label: {', '.join(inferred_of(unit))}.")
    if unit.typical and not isinstance(unit, Lead):
        found.append(f"Typical, not measured: {', '.join(unit.typical)}.")
    return tuple(found)


def _amp(unit: Amp) -> list[str]:
    found = []
    if unit.damping_factor is None:
        df = DAMPING_PRESETS[unit.feedback]
        off = damping_doubt_db(df, unit.taps[0].impedance)
        found.append(
            f"Damping factor typical ({figure(df)}), not measured: the treble into a speaker may be off by about"
            f" {figure(off, 2)} dB."
        )
    if unit.safe_without_load == "unknown" and unit.technology != "transistor":
        found.append("Whether it may run without a load is not known: it counts as no.")
    if unit.mains_earth == "unknown":
        found.append("Whether it has a mains earth is not known: every hook-up with it is check first.")
    if unit.technology != "valve" and unit.minimum_load is None:
        found.append("Its minimum load is not known: every hook-up with it is check first.")
    if unit.jack_wiring == "unknown" and max(t.jacks for t in unit.taps) > 1:
        found.append("How its jacks are wired is not known: using two of them is check first.")
    return found


def _box(unit: Load | Attenuator | ReAmp) -> list[str]:
    found = []
    if unit.rating is None:
        found.append("Its rating is not known: every hook-up with it is check first.")
    elif unit.rating_kind == "unknown":
        found.append("What kind of watts its rating counts is not known: near the limit it is check first.")
    if unit.cutout == "unknown":
        found.append("Whether a cut-out or fuse opens under heat is not known.")
    if unit.behaviour == "reactive" and not unit.curve.complete():
        found.append("Its curve is typical, not measured: tone is an estimate.")
    if isinstance(unit, Attenuator) and unit.has_unknown():
        found.append("The dB of some of its positions are not known: judged at their worst, and check first.")
    if isinstance(unit, Load) and unit.through == "unknown":
        found.append("What its through socket does is not known: using it is check first.")
    if isinstance(unit, ReAmp) and unit.load_needs_mains == "unknown":
        found.append("Whether its load stays without mains is not known: it counts as gone.")
    return found


def _cabinet(unit: Cabinet) -> list[str]:
    found = []
    if unit.rating is None and any(d.rating is None for d in unit.drivers):
        found.append("Its rating is not known: every hook-up with it is check first.")
    if any(not d.data.complete() for d in unit.drivers):
        found.append("Its curve is typical, not measured: tone is an estimate.")
    if any(d.sensitivity is None for d in unit.drivers):
        found.append("Sensitivity of a driver not known: levels at a microphone and in rooms cannot be computed.")
    if unit.jack_wiring == "unknown" and unit.jacks > 1:
        found.append("How its jacks are wired is not known: using two of them is check first.")
    return found
