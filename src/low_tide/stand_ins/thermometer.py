"""A simulated thermometer on the case of a box: its true warmth is near the estimate, but not it."""

from __future__ import annotations

from math import exp
from zlib import crc32

import numpy as np

from low_tide.core.thermal.heating import Warming

NAME = "simulated thermometer"
NOISE_K = 0.3


def _factor(seed: str, spread: float) -> float:
    """A factor that stays the same for the same seed, 1 ± spread."""
    return 1 + spread * (2 * (crc32(seed.encode()) % 10_000) / 10_000 - 1)


def read(unit: str, box: Warming, minutes: float, rng: np.random.Generator) -> float:
    """°C shown after so many minutes of playing from cold."""
    rise = (box.settled - box.ambient) * _factor(f"{unit}/rise", 0.3)
    tau = box.minutes * _factor(f"{unit}/tau", 0.4)
    return round(box.ambient + rise * (1 - exp(-minutes / tau)) + float(rng.normal(0, NOISE_K)), 1)
