"""Measures of recorded audio that are plain arithmetic on samples."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

CLIPPED_RUN = 3
"""This many equal extreme samples in a row are a clipped run, also below full scale: a limiter."""


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


def clipped_runs(samples: NDArray[np.float32]) -> int:
    """Runs of three or more equal samples at the channel's own extreme, samples shaped (n, channels).

    The extreme is the largest magnitude of each polarity. Silence and a channel that never leaves one
    value have none.
    """
    count = 0
    for channel in samples.T:
        for extreme in (channel.max(initial=0), channel.min(initial=0)):
            if abs(extreme) < 1e-3:
                continue
            at = np.concatenate(([False], channel == extreme, [False]))
            edges = np.flatnonzero(at[1:] != at[:-1])
            lengths = edges[1::2] - edges[::2]
            if len(lengths) and lengths.max() < len(channel):
                count += int((lengths >= CLIPPED_RUN).sum())
    return count


def true_peak(samples: NDArray[np.float32]) -> float:
    """Largest magnitude after 4-fold oversampling with a 48-tap filter (ITU-R BS.1770-4, annex 2).

    `samples` is (n, channels). The filter is taken apart into four phases of twelve taps, so that a block
    is one matrix product.
    """
    from scipy.signal import firwin

    phases = (4 * firwin(48, 1 / 4)).astype(np.float32).reshape(12, 4)[::-1]
    block, best = 1 << 14, float(np.abs(samples).max(initial=0))
    for channel in samples.T:
        padded = np.pad(channel, 11)
        for start in range(0, len(padded) - 11, block):
            windows = sliding_window_view(padded[start : start + block + 11], 12)
            best = max(best, float(np.abs(windows @ phases).max()))
    return best
