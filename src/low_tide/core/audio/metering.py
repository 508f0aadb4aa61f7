"""Measures of recorded audio that are plain arithmetic on samples."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray


@dataclass(frozen=True)
class Measures:
    """What was measured. dB re full scale; `loudness` in LUFS; None where the signal gives no answer."""

    seconds: float
    rate: int
    channels: int
    peak_dbfs: float | None
    true_peak_dbtp: float | None
    rms_dbfs: float | None
    loudness_lufs: float | None
    crest_db: float | None
    clipped_runs: int


def decibels(value: float) -> float | None:
    """20·log10 of an amplitude, or None for silence."""
    return float(20 * np.log10(value)) if value > 0 else None


def power_db(power: float) -> float | None:
    """10·log10 of a mean square, or None for silence."""
    return float(10 * np.log10(power)) if power > 0 else None


TRUE_PEAK_TAPS = 11
"""Samples before a block that its oversampling still rests on."""
PIECE = 1 << 12


@lru_cache(maxsize=1)
def _phases() -> tuple[NDArray[np.float32], float]:
    """The 48-tap filter in four phases of twelve taps, and by how much it can exceed the samples it rests on."""
    from scipy.signal import firwin

    phases = (4 * firwin(48, 1 / 4)).astype(np.float32).reshape(12, 4)[::-1]
    return phases, float(np.abs(phases).sum(axis=0).max())


def true_peak(samples: NDArray[Any], least: float = 0.0) -> float:
    """Largest magnitude after 4-fold oversampling with a 48-tap filter (ITU-R BS.1770-4, annex 2), or `least`.

    `samples` is (n, channels). A piece whose samples lie too low for anything between them to be the largest is not
    oversampled at all; the rest is one matrix product a piece.
    """
    phases, gain = _phases()
    best = max(least, float(np.abs(samples).max(initial=0)))
    for channel in samples.T:
        padded = np.pad(channel, TRUE_PEAK_TAPS)
        for start in range(0, len(padded) - TRUE_PEAK_TAPS, PIECE):
            piece = padded[start : start + PIECE + TRUE_PEAK_TAPS]
            if gain * float(np.abs(piece).max()) <= best:
                continue
            best = max(best, float(np.abs(sliding_window_view(piece, 12) @ phases).max()))
    return best
