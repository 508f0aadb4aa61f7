"""What an equaliser can do: the linear filter that makes one recording most like another, and what it leaves."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.rendering import Samples
from low_tide.core.comparing.aligning import RATE

TAPS, LEAD = 2_048, 64
"""Length of the filter, and how much of it lies before its middle, samples."""
BLOCK_S = 1.0
"""It is fitted on every other block of so long, and tried on the rest."""
LEAST_BLOCKS = 4
RIDGE = 1e-9
"""Of the reference's power: what is so far under it is no part of what is fitted."""
MOST_ROUNDS, CLOSE_ENOUGH = 8, 1e-6
"""It is as good as found when a further step would take so little (of the first one's part) away from what is left."""
FRAME = 16_384
HOP = FRAME - TAPS + 1
AT_A_TIME = 64


@dataclass(frozen=True, eq=False)
class FittedFilter:
    """The filter that brings the reference nearest to a take, and what is left of the take after it.

    `taps`: shape (TAPS,), its middle at LEAD. `left`: the take less the filtered reference, shape (n,). `tried`: which
    samples it was not fitted on.
    """

    taps: Samples
    left: Samples
    tried: NDArray[np.bool_]

    def gain(self, size: int) -> Samples:
        """|H|² at the bins of a transform of `size` samples, no fewer than there are taps."""
        return np.asarray(np.square(np.abs(np.fft.rfft(self.taps, size))))


def _rows(samples: Samples, first: int, size: int) -> Samples:
    """Frames of `size` that follow each other by HOP from `first` on, as many as are worked on at a time.

    Past either end there is nothing.
    """
    found = np.zeros((AT_A_TIME - 1) * HOP + size)
    start, stop = max(0, first), min(len(samples), first + len(found))
    if start < stop:
        found[start - first : stop - first] = samples[start:stop]
    return np.lib.stride_tricks.sliding_window_view(found, size)[::HOP]


def _spectra(x: Samples, lead: int = LEAD) -> Iterator[tuple[int, NDArray[np.complex128]]]:
    """Where each row of blocks begins, and the spectra of what a filter with its middle at `lead` sees of x there."""
    from scipy.fft import rfft

    for start in range(0, len(x), AT_A_TIME * HOP):
        yield start, rfft(_rows(x, start - (TAPS - 1 - lead), FRAME), axis=1, workers=-1)


def _against(piece: Samples, spectra: NDArray[np.complex128]) -> NDArray[np.complex128]:
    """Cross spectrum of a piece, as long as the blocks are or shorter, with what a filter sees of x there."""
    from scipy.fft import rfft

    rows = np.zeros(AT_A_TIME * HOP)
    rows[: len(piece)] = piece
    made: NDArray[np.complex128] = np.conj(rfft(rows.reshape(-1, HOP), FRAME, axis=1, workers=-1))
    made *= spectra
    return np.asarray(made.sum(axis=0))


def _lags(total: NDArray[np.complex128]) -> Samples:
    """The correlation over the lags of a filter, from that over a frame."""
    from scipy.fft import irfft

    return np.asarray(irfft(total, FRAME)[TAPS - 1 :: -1])


def _correlated(error: Samples, counts: NDArray[np.bool_], x: Samples, lead: int = LEAD) -> Samples:
    """Σ error[n]·x[n − k] over what counts, for k from −lead on, shape (TAPS,)."""
    total = np.zeros(FRAME // 2 + 1, np.complex128)
    for start, spectra in _spectra(x, lead):
        at = slice(start, min(len(error), start + AT_A_TIME * HOP))
        total += _against(np.where(counts[at], error[at], 0.0), spectra)
    return _lags(total)


def _through(samples: Samples, taps: Samples) -> Iterator[tuple[slice, Samples, NDArray[np.complex128]]]:
    """Samples through a filter whose middle lies at LEAD, piece by piece: where each lies, and the spectra it is of."""
    from scipy.fft import irfft, rfft

    response = rfft(taps, FRAME)
    for start, spectra in _spectra(samples):
        made = irfft(spectra * response, FRAME, axis=1, workers=-1)[:, TAPS - 1 :].ravel()
        stop = min(len(samples), start + len(made))
        yield slice(start, stop), made[: stop - start], spectra


def filtered(samples: Samples, taps: Samples) -> Samples:
    """Samples through a filter whose middle lies at LEAD, as many of them."""
    found = np.zeros(len(samples))
    for at, made, _ in _through(samples, taps):
        found[at] = made
    return found


def _matched(x: Samples, counts: NDArray[np.bool_], taps: Samples) -> Samples:
    """What `_correlated` finds of x through a filter, which is never there as a whole."""
    total = np.zeros(FRAME // 2 + 1, np.complex128)
    for at, made, spectra in _through(x, taps):
        total += _against(np.where(counts[at], made, 0.0), spectra)
    return _lags(total)


def fit_filter(reference: Samples, take: Samples) -> FittedFilter | None:
    """The filter by least squares on alternate blocks of a second; None under four of them, or without sound.

    Both in line, one channel at 48 kHz, shape (n,). By conjugate gradients (Hestenes and Stiefel, 1952), each step
    led by the normal equations as Toeplitz ones (Levinson), which they all but are.
    """
    from scipy.linalg import solve_toeplitz

    if len(reference) < LEAST_BLOCKS * BLOCK_S * RATE:
        return None
    seconds = np.arange(len(reference), dtype=np.int32)
    seconds //= round(BLOCK_S * RATE)
    tried = seconds % 2 == 1
    fitted_on = ~tried
    del seconds
    # Of what it is fitted on alone: a true autocorrelation, whose matrix cannot turn a step the wrong way.
    alone = np.where(fitted_on, reference, 0.0)
    column = _correlated(alone, fitted_on, alone, 0)
    del alone
    if column[0] <= 0:
        return None
    column[0] *= 1 + RIDGE
    taps, gradient = np.zeros(TAPS), _correlated(take, fitted_on, reference)
    first = 0.0
    ahead, before = np.zeros(TAPS), 0.0
    for _ in range(MOST_ROUNDS):
        step = solve_toeplitz(column, gradient)
        size = float(gradient @ step)
        if before and size < CLOSE_ENOUGH * first:
            break
        first = first if before else size
        ahead, before = step + (size / before if before else 0.0) * ahead, size
        moved = _matched(reference, fitted_on, ahead)
        curve = float(ahead @ moved)
        if curve <= 0:
            break
        taps = taps + size / curve * ahead
        gradient = gradient - size / curve * moved
    left = filtered(reference, taps)
    return FittedFilter(taps, np.subtract(take, left, out=left), tried)
