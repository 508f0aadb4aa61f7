"""Noise along a line: thermal, of a preamp and its converter, of the amp itself."""

from __future__ import annotations

from math import inf, log, log10, sqrt

import numpy as np
from numpy.typing import NDArray

from low_tide.core.units import dbu

BOLTZMANN = 1.380649e-23
KELVIN = 290.0
BANDWIDTH_HZ = 20_000.0
LOG_OF_A_DB = log(10) / 10
"""A dB of power as a natural logarithm."""


def thermal_noise(ohms: float) -> float:
    """Level (dBu) of the thermal noise of a resistance (Ω) over 20 kHz at 290 K: √(4kTRB). −∞ for none.

    10 kΩ make −112.7 dBu. Johnson (1928), Nyquist (1928).
    """
    return dbu(sqrt(4 * BOLTZMANN * KELVIN * ohms * BANDWIDTH_HZ)) if ohms > 0 else -inf


def preamp_noise(gain: float, full_scale: float, equivalent_input: float, converter: float) -> float:
    """Noise (dBFS) of a preamp and its converter, `gain` dB above the least: both summed in power.

    `full_scale`: dBu of the sine whose peak is 0 dBFS at the least gain; `equivalent_input`: dBu at the input;
    `converter`: dBFS.
    """
    return 10 * log10(10 ** ((equivalent_input + gain - full_scale) / 10) + 10 ** (converter / 10))


def in_power(a: NDArray[np.float64] | float, b: NDArray[np.float64] | float) -> NDArray[np.float64]:
    """Two uncorrelated levels (dB) together, element by element; −∞ for none."""
    return np.asarray(np.logaddexp(a * LOG_OF_A_DB, b * LOG_OF_A_DB) / LOG_OF_A_DB)
