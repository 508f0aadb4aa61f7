"""Measures of recorded audio that are plain arithmetic on samples."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

CLIPPED_RUN = 3
"""At least so many equal extreme samples in a row are a clipped run, also below full scale: a limiter."""
SLOW_HZ = 41.0
"""The lowest note there may be: where no partial is found, the top of a wave is taken to be as slow as that."""
LOOK = 4096
"""Samples that must stand around a run, half on either side, for its strongest partial to be looked for."""
CELL = LOOK // 4
"""Runs that begin in the same so many samples share one look: a take clipped all through has a great many."""


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


def longest_flat(peak: float, lsb: float, frequency: float, rate: int) -> int:
    """How many equal samples quantisation alone makes at the top of a sine: ⌈2·√(2δ/A)/(2πf)·rate⌉ + 1.

    `peak` A and `lsb` δ by amplitude, `frequency` f in Hz: so long it stays within one step of its peak.
    """
    return int(np.ceil(2 * np.sqrt(2 * lsb / peak) / (2 * np.pi * frequency) * rate)) + 1


def strongest_partial(samples: NDArray[Any], rate: int) -> float:
    """Frequency (Hz) of the strongest partial from 41 Hz up in a stretch of one channel; 41 where it is too short."""
    if len(samples) < 64:
        return SLOW_HZ
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(len(samples))))
    frequency = np.fft.rfftfreq(len(samples), 1 / rate)
    heard = np.flatnonzero(frequency >= SLOW_HZ)
    return float(frequency[heard[np.argmax(spectrum[heard])]]) if len(heard) else SLOW_HZ


def clipped_runs(
    samples: NDArray[Any],
    rate: int,
    lsb: float,
    extremes: NDArray[Any] | None = None,
    first: int = 0,
    end: int | None = None,
) -> int:
    """Runs of equal samples at a channel's own extreme that quantisation does not explain, samples (n, channels).

    `lsb`: one step of the file, as a part of full scale; 0 for floating point. `extremes`: the greatest and least of
    every channel, shape (2, channels), where these samples are only part of it. Counted are those that begin from
    `first` on and before `end`. Silence has none.
    """
    until = len(samples) if end is None else end
    bounds = np.array([samples.max(axis=0), samples.min(axis=0)]) if extremes is None else extremes
    count = 0
    for channel, most in zip(samples.T, bounds.T, strict=True):
        partials: dict[int, float] = {}
        for extreme in most:
            if abs(extreme) < 1e-3:
                continue
            at = np.concatenate(([False], channel == extreme, [False]))
            edges = np.flatnonzero(at[1:] != at[:-1])
            for start, stop in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True):
                if first <= start < until and CLIPPED_RUN <= stop - start < len(channel):
                    count += _is_clipped(channel, start, stop, float(abs(extreme)), rate, lsb, partials)
    return count


def _is_clipped(
    channel: NDArray[Any], start: int, end: int, peak: float, rate: int, lsb: float, partials: dict[int, float]
) -> bool:
    if end - start > longest_flat(peak, lsb, SLOW_HZ, rate):
        return True
    if end - start <= longest_flat(peak, lsb, rate / 2, rate):
        return False
    cell = start // CELL
    if cell not in partials:
        around = channel[max(0, (cell - 1) * CELL) : (cell + 2) * CELL]
        partials[cell] = strongest_partial(around, rate)
    return end - start > longest_flat(peak, lsb, partials[cell], rate)


def true_peak(samples: NDArray[Any]) -> float:
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
