"""Which of several expected sounds a recording is, by its spectrum: level and clock apart."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from low_tide.core.audio.rendering import Samples
from low_tide.core.audio.spectrum import band_centres, band_levels
from low_tide.core.comparing.aligning import RATE
from low_tide.core.comparing.loud_spectra import loud_spectra, loud_windows

BAND_HZ = (80.0, 8_000.0)
PLAYED_WITHIN_DB = 40.0
"""Bands count that lie at most so far under the loudest one."""
FARTHEST_DB, LEAST_APART_DB = 4.0, 0.3
"""It is none of them that is farther off than the first; two that are no more apart than the second cannot be told."""


def _bands(samples: Samples) -> Samples | None:
    found = loud_spectra(samples, loud_windows(samples))
    return None if found is None else band_levels(found.whole, RATE)


def distance(first: Samples, second: Samples) -> float:
    """Between two spectra (dB in sixths of an octave), dB RMS, with the mean difference taken off."""
    centres = band_centres(RATE)
    loud = np.minimum(first - first.max(), second - second.max()) >= -PLAYED_WITHIN_DB
    counts = loud & (centres >= BAND_HZ[0]) & (centres <= BAND_HZ[1])
    apart = (first - second)[counts]
    return float(apart.std()) if counts.any() else np.inf


def whose(recording: Samples, expected: Sequence[Samples]) -> int | None:
    """The place of the expected sound (one channel, 48 kHz) that a recording is nearest to.

    None where it is near to none of them, or to two as much.
    """
    heard = _bands(recording)
    bands = [_bands(each) for each in expected]
    if heard is None or not bands:
        return None
    far = [np.inf if each is None else distance(heard, each) for each in bands]
    best, *rest = sorted(far)
    if best > FARTHEST_DB or (rest and rest[0] - best < LEAST_APART_DB):
        return None
    return far.index(best)
