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
        yield start, rfft(_rows(x, start - (TAPS - 1 - lead), FRAME), axis=1)


def _correlated(error: Samples, counts: NDArray[np.bool_], x: Samples, lead: int = LEAD) -> Samples:
    """Σ error[n]·x[n − k] over what counts, for k from −lead on, shape (TAPS,)."""
    from scipy.fft import irfft, rfft

    total = np.zeros(FRAME // 2 + 1, np.complex128)
    for start, spectra in _spectra(x, lead):
        stop = min(len(error), start + AT_A_TIME * HOP)
        rows = np.zeros(AT_A_TIME * HOP)
        rows[: stop - start] = np.where(counts[start:stop], error[start:stop], 0.0)
        total += (np.conj(rfft(rows.reshape(-1, HOP), FRAME, axis=1)) * spectra).sum(axis=0)
    return np.asarray(irfft(total, FRAME)[TAPS - 1 :: -1])


def filtered(samples: Samples, taps: Samples) -> Samples:
    """Samples through a filter whose middle lies at LEAD, as many of them."""
    from scipy.fft import irfft, rfft

    found, response = np.zeros(len(samples)), rfft(taps, FRAME)
    for start, spectra in _spectra(samples):
        made = irfft(spectra * response, FRAME, axis=1)[:, TAPS - 1 :].ravel()
        stop = min(len(found), start + len(made))
        found[start:stop] = made[: stop - start]
    return found


def energy(samples: Samples, counts: NDArray[np.bool_]) -> float:
    """Σ of squares over what counts."""
    return float(np.einsum("i,i,i->", samples, samples, counts))


def fit_filter(reference: Samples, take: Samples) -> FittedFilter | None:
    """The filter by least squares on alternate blocks of a second; None under four of them, or without sound.

    Both in line, one channel at 48 kHz, shape (n,). By conjugate gradients (Hestenes and Stiefel, 1952), each step
    led by the normal equations as Toeplitz ones (Levinson), which they all but are.
    """
    from scipy.linalg import solve_toeplitz

    if len(reference) < LEAST_BLOCKS * BLOCK_S * RATE:
        return None
    tried = (np.arange(len(reference), dtype=np.int32) // round(BLOCK_S * RATE)) % 2 == 1
    fitted_on = ~tried
    # Of what it is fitted on alone: a true autocorrelation, whose matrix cannot turn a step the wrong way.
    alone = np.where(fitted_on, reference, 0.0)
    column = _correlated(alone, fitted_on, alone, 0)
    del alone
    if column[0] <= 0:
        return None
    column[0] *= 1 + RIDGE
    taps, left = np.zeros(TAPS), take.copy()
    first = 0.0
    ahead, before = np.zeros(TAPS), 0.0
    for _ in range(MOST_ROUNDS):
        gradient = _correlated(left, fitted_on, reference)
        step = solve_toeplitz(column, gradient)
        size = float(gradient @ step)
        if before and size < CLOSE_ENOUGH * first:
            break
        first = first if before else size
        ahead, before = step + (size / before if before else 0.0) * ahead, size
        moved = filtered(reference, ahead)
        curve = energy(moved, fitted_on)
        if curve <= 0:
            break
        taps = taps + size / curve * ahead
        moved *= size / curve
        left -= moved
    return FittedFilter(taps, left, tried)
