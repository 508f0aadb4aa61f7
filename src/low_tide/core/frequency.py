"""The frequency grid and what the programme weighs on it."""

from __future__ import annotations

from functools import lru_cache
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

Real: TypeAlias = NDArray[np.float64]
Complex: TypeAlias = NDArray[np.complex128]

POINTS = 481


@lru_cache(maxsize=4)
def frequency_grid(points: int = POINTS) -> Real:
    """Frequencies in Hz, shape (points,), 20 Hz to 20 kHz, evenly spaced in their logarithm; read-only."""
    grid = np.geomspace(20.0, 20_000.0, points)
    grid.setflags(write=False)
    return grid


@lru_cache(maxsize=4)
def programme_weights(points: int = POINTS) -> Real:
    """Power weights of an electric guitar's programme on `frequency_grid(points)`, summing to 1.

    Pink between a 2nd-order Butterworth high-pass at 80 Hz and low-pass at 5 kHz; |H|² of each is
    1/(1+(f0/f)⁴) and 1/(1+(f/f0)⁴). On a logarithmic grid pink noise has equal power per point.
    """
    f = frequency_grid(points)
    weights = 1 / (1 + (80 / f) ** 4) / (1 + (f / 5000) ** 4)
    weights = weights / weights.sum()
    weights.setflags(write=False)
    return np.asarray(weights)


def programme_level_db(transfer: Complex, reference: Complex) -> float:
    """Programme-weighted level of `transfer` against `reference` in dB; both shape (points,), complex.

    The ratio of the two weighted mean squares, so a peak counts with its power.
    """
    weights = programme_weights(len(transfer))
    power = float(weights @ np.abs(transfer) ** 2) / float(weights @ np.abs(reference) ** 2)
    return float(10 * np.log10(power)) if power > 0 else -float("inf")


def difference_db(first: Complex, second: Complex, output_impedance: float) -> Real:
    """Change of jack voltage in dB when `second` is replaced by `first` behind `output_impedance` (Ω).

    `first` and `second` are impedances in Ω, same shape: 20·log10|H1/H2| with H = Z/(Z+Z_out).
    """
    h1 = first / (first + output_impedance)
    h2 = second / (second + output_impedance)
    return np.asarray(20 * np.log10(np.abs(h1 / h2)))
