"""A simulated sound level meter: it knows the room better than the prediction does, and is never quite steady."""

from __future__ import annotations

from dataclasses import dataclass
from math import log10
from zlib import crc32

import numpy as np

from low_tide.core.acoustics.rooms import Weighting, weighted_level
from low_tide.core.frequency import Real

NAME = "simulated meter"
ROOM_ERROR_DB = 4.0
NOISE_DB = {"slow": 0.3, "fast": 1.3}
BACKGROUND_DBA = (24.0, 34.0)
RESOLUTION_DB = 0.1


@dataclass(frozen=True)
class Shown:
    """What the display shows (dB), and what it shows with nothing played."""

    level: float
    background: float


def _hidden(seed: str, low: float, high: float) -> float:
    """A number between two bounds that stays the same for the same seed."""
    return low + (high - low) * (crc32(seed.encode()) % 10_000) / 10_000


def room_error(place: str) -> float:
    """What the prediction for this place is really off by, dB; nobody is told."""
    return _hidden(f"{place}/room", -ROOM_ERROR_DB, ROOM_ERROR_DB)


def read(bands: Real, place: str, weighting: Weighting, response: str, rng: np.random.Generator) -> Shown:
    """A reading at a place whose predicted octave levels are `bands` (dB, shape (8,))."""
    quiet = _hidden(f"{place}/background", *BACKGROUND_DBA) + (8 if weighting != "A" else 0)
    level = weighted_level(bands, weighting) + room_error(place) + rng.normal(0, NOISE_DB[response])
    total = 10 * log10(10 ** (level / 10) + 10 ** (quiet / 10))
    return Shown(round(total / RESOLUTION_DB) * RESOLUTION_DB, round(quiet + rng.normal(0, 0.2), 1))
