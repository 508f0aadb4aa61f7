"""Measures of recorded audio that are plain arithmetic on samples."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
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
    """Largest magnitude after 4-fold oversampling (ITU-R BS.1770-4, annex 2); samples (n, channels).

    Only stretches whose sample peak comes within 6 dB of the overall peak are oversampled: between
    samples a band-limited signal of guitar-like spectrum rises by far less than that.
    """
    from scipy.signal import resample_poly

    if samples.size == 0:
        return 0.0
    peak = float(np.abs(samples).max())
    if peak == 0:
        return 0.0
    block, margin = 4096, 64
    best = peak
    for channel in samples.T:
        for start in range(0, len(channel), block):
            if np.abs(channel[start : start + block]).max() < peak / 2:
                continue
            piece = channel[max(0, start - margin) : start + block + margin]
            best = max(best, float(np.abs(resample_poly(piece.astype(np.float64), 4, 1)).max()))
    return best
