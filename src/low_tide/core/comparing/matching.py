"""The measured difference of two recordings as something an equaliser is fitted to."""

from __future__ import annotations

import numpy as np

from low_tide.core.comparing.loud_spectra import SpectrumDifference
from low_tide.core.frequency import Real, frequency_grid

MOST_DB = 18.0
LEAST_BANDS = 6
"""Fewer bands that are told than these are no curve."""


def target(found: SpectrumDifference) -> Real | None:
    """What brings a take to the reference, dB over `frequency_grid()`; None where too little of it is told.

    No more than ± 18 dB, and only where both stand over their noise: beyond that the ends are held.
    """
    told = np.array(found.told)
    if told.sum() < LEAST_BANDS:
        return None
    wanted = np.clip(-np.array(found.db)[told], -MOST_DB, MOST_DB)
    return np.asarray(np.interp(np.log(frequency_grid()), np.log(np.array(found.frequency)[told]), wanted))
