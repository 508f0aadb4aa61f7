"""Impedance curves of drivers, closed boxes and reactive loads."""

from __future__ import annotations

from dataclasses import dataclass, replace
from itertools import pairwise
from math import hypot, isfinite, pi, sqrt
from typing import Annotated

import numpy as np

from low_tide.core.frequency import Complex, Real
from low_tide.core.spec import Spec

BOX_LOSS_Q = 7.0
"""Q of a closed box's own losses, in parallel with the driver's mechanical Q."""


@dataclass(frozen=True)
class DriverModel:
    """Electrical equivalent of a moving-coil driver, or of a load built like one.

    Ω, Hz, H. `r_e` coil resistance, `f_s` resonance, `q_ms` and `q_es` its mechanical and electrical Q,
    `l_1` series inductance, `l_2` with `r_2` across it the lossy inductance that flattens in the treble.
    """

    r_e: float
    f_s: float
    q_ms: float
    q_es: float
    l_1: float
    l_2: float
    r_2: float


MOST_NEGATIVE = 0.02
"""How far Re Z may fall under 0, as a part of |Z|, and still count as a measuring error."""


@dataclass(frozen=True)
class MeasuredCurve:
    """An impedance as it was measured: Ω over frequency (Hz, rising), the same length each.

    `reconstructed`: no phase was given; it is the minimum phase that belongs to the magnitude.
    """

    frequency: Annotated[tuple[float, ...], Spec("Frequency", "Hz", 2, 20_000)]
    real: Annotated[tuple[float, ...], Spec("Real part", "Ω", 2, 20_000)]
    imaginary: Annotated[tuple[float, ...], Spec("Imaginary part", "Ω", 2, 20_000)]
    reconstructed: Annotated[bool, Spec("Phase reconstructed")] = False

    def __post_init__(self) -> None:
        if not len(self.frequency) == len(self.real) == len(self.imaginary):
            raise ValueError("Measured curve: its columns differ in length.")
        if any(b <= a for a, b in pairwise(self.frequency)) or (self.frequency and self.frequency[0] <= 0):
            raise ValueError("Measured curve: frequencies must be over 0 and rise from line to line.")
        values = (*self.frequency, *self.real, *self.imaginary)
        if not all(isfinite(v) for v in values):
            raise ValueError("Measured curve: a number in it is not finite.")
        for f, re, im in zip(self.frequency, self.real, self.imaginary, strict=True):
            if re < -MOST_NEGATIVE * hypot(re, im) or hypot(re, im) <= 0:
                raise ValueError(f"Measured curve: at {f:g} Hz the real part is negative, which no load can be.")

    def impedance(self, frequency: Real) -> Complex:
        """Impedance in Ω at any frequencies (Hz): the complex value interpolated over log f, the ends held.

        A real part under 0 by no more than a measuring error counts as 0.
        """
        at = np.log(frequency)
        known = np.log(np.array(self.frequency))
        real = np.maximum(np.interp(at, known, self.real), 1e-6)
        return np.asarray(real + 1j * np.interp(at, known, self.imaginary))


PHASE_GRID = 4096
PHASE_DECADES_BEYOND = 3.0


def minimum_phase(frequency: Real, magnitude: Real) -> Real:
    """Phase (rad) of the minimum-phase impedance with this magnitude (Ω), both shape (F,), `frequency` (Hz) rising.

    Bode's gain and phase relation: φ(u0) = 1/π ∫ d ln|Z|/du · ln coth(|u−u0|/2) du over u = ln f. Outside the
    data the slope at the end goes on, at most ±1, as a coil or a capacitor would have it.
    """
    beyond = PHASE_DECADES_BEYOND * np.log(10)
    known = np.log(frequency)
    u = np.linspace(known[0] - beyond, known[-1] + beyond, PHASE_GRID)
    step = float(u[1] - u[0])
    slope = np.gradient(np.interp(u, known, np.log(magnitude)), u)
    first, last = (
        float(np.clip((np.log(magnitude[i]) - np.log(magnitude[j])) / (known[i] - known[j]), -1, 1))
        for i, j in ((1, 0), (-1, -2))
    )
    slope = np.where(u < known[0], first * (u > known[0] - beyond / 3), np.where(u > known[-1], last, slope))
    distance = step * np.arange(1, PHASE_GRID)
    side = -np.log(np.tanh(distance / 2))
    # Over the cell around 0 the kernel's mean is 1 + ln(4/step): it goes to infinity, its integral does not.
    kernel = np.concatenate((side[::-1], [1 + np.log(4 / step)], side))
    phase = np.convolve(slope, kernel)[PHASE_GRID - 1 : 2 * PHASE_GRID - 1]
    return np.asarray(np.interp(known, u, phase * step / np.pi))


WHOLE_FROM_HZ = 20.0
"""A curve that begins no higher shows the resonance whole, and its minimum phase with it."""


def phase_doubt(frequency: Real, magnitude: Real) -> float:
    """How far (degrees) the minimum phase of a curve may be off at its low end for what lies below it; 0 from 20 Hz.

    Below its first point the magnitude could fall as a resonance does, down to 20 Hz, or stay where it is: the greatest
    difference those two make within the curve's own range. An estimate.
    """
    if frequency[0] <= WHOLE_FROM_HZ or len(frequency) < 2:
        return 0.0
    below = np.geomspace(WHOLE_FROM_HZ, frequency[0], 12)[:-1]
    least = min(float(magnitude.min()), float(magnitude[0]))
    falling = np.geomspace(least, magnitude[0], 12)[:-1]
    both = [
        minimum_phase(np.concatenate((below, frequency)), np.concatenate((there, magnitude)))[len(below) :]
        for there in (falling, np.full(len(below), magnitude[0]))
    ]
    own = minimum_phase(frequency, magnitude)
    return float(np.degrees(max(np.abs(own - each).max() for each in both)))


def typical_driver(nominal_impedance: float) -> DriverModel:
    """A usual guitar driver of the given rated impedance (Ω), for where nothing is known: an estimate."""
    scale = nominal_impedance / 8
    return DriverModel(
        r_e=0.82 * nominal_impedance,
        f_s=85.0,
        q_ms=5.0,
        q_es=0.75,
        l_1=0.15e-3 * scale,
        l_2=0.7e-3 * scale,
        r_2=7.5 * nominal_impedance,
    )


def driver_impedance(model: DriverModel, frequency: Real) -> Complex:
    """Impedance in Ω, shape of `frequency` (Hz): R_e + jωL_1 + (R_2 ∥ jωL_2) + (R_es ∥ jωL_ces ∥ 1/jωC_mes).

    The motional branch is Small (1972), Direct-Radiator Loudspeaker System Analysis:
    R_es = R_e·Q_ms/Q_es, C_mes = Q_es/(2πF_s·R_e), L_ces = R_e/(2πF_s·Q_es).
    """
    s = 2j * pi * frequency
    r_es = model.r_e * model.q_ms / model.q_es
    c_mes = model.q_es / (2 * pi * model.f_s * model.r_e)
    l_ces = model.r_e / (2 * pi * model.f_s * model.q_es)
    motional = 1 / (1 / r_es + 1 / (s * l_ces) + s * c_mes)
    coil = model.r_2 * s * model.l_2 / (model.r_2 + s * model.l_2)
    return np.asarray(model.r_e + s * model.l_1 + coil + motional)


def closed_box(model: DriverModel, compliance_ratio: float) -> DriverModel:
    """The same driver in a closed box with α = n·V_as/V_b = `compliance_ratio` (Small 1972).

    F_s and the Qs rise by √(1+α), which leaves R_es and C_mes alone and divides L_ces by 1+α;
    the box's own losses then lie in parallel with Q_ms.
    """
    if compliance_ratio < 0:
        raise ValueError("compliance_ratio must not be negative")
    rise = sqrt(1 + compliance_ratio)
    q_ms = 1 / (1 / (model.q_ms * rise) + 1 / BOX_LOSS_Q)
    return replace(model, f_s=model.f_s * rise, q_ms=q_ms, q_es=model.q_es * rise)


def lowest_in_rating_band(impedance: Complex, frequency: Real) -> float:
    """Least |Z| in Ω between 80 Hz and 5 kHz, which IEC 60268-5 holds to at least 80 % of the rated value."""
    band = (frequency >= 80) & (frequency <= 5000)
    return float(np.abs(impedance[band]).min())
