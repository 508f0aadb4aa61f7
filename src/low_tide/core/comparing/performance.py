"""Whether two recordings are of the same piece, when they are not of the same performance."""

from __future__ import annotations

from math import inf

import numpy as np

from low_tide.core.audio.rendering import Samples
from low_tide.core.comparing.aligning import RATE

PITCH_RATE, PITCH_WINDOW, PITCH_HOP_S = 8_000, 2_048, 0.1
LOWEST_NOTE_HZ, NOTES = 80.0, 48
PLAYED_WITHIN_DB = 40.0
LEAST_FRAMES = 10
LEAST_LIKENESS, LEAST_MORE = 0.4, 0.1
"""How alike notes must be along the way, and how much more so than with one of the two turned back to front.

Pieces of random notes come to 0.22 to 0.28 either way round, the same notes played again to 0.53 to 0.65.
"""


def _notes(samples: Samples) -> Samples:
    """How strong every semitone from 80 Hz up is, ten times a second, shape (frames, notes): each frame at one length,
    and what all frames have in common left out."""
    import soxr
    from scipy.fft import rfft

    sound = np.asarray(soxr.resample(samples, RATE, PITCH_RATE))
    if len(sound) < PITCH_WINDOW:
        return np.zeros((0, NOTES))
    windows = np.lib.stride_tricks.sliding_window_view(sound, PITCH_WINDOW)[:: round(PITCH_HOP_S * PITCH_RATE)]
    power = np.square(np.abs(rfft(windows * np.hanning(PITCH_WINDOW), axis=1)))
    frequency, width = np.fft.rfftfreq(PITCH_WINDOW, 1 / PITCH_RATE), PITCH_RATE / PITCH_WINDOW / 2
    centres, half = LOWEST_NOTE_HZ * 2 ** (np.arange(NOTES) / 12), 2 ** (1 / 24)
    # A note takes in the bins it lies between, since low ones are narrower than those.
    among = (frequency[:, None] >= centres / half - width) & (frequency[:, None] < centres * half + width)
    bands = power @ among.astype(np.float64)
    total = bands.sum(axis=1)
    played = total > total.max(initial=0.0) * 10 ** (-PLAYED_WITHIN_DB / 10)
    strength = np.sqrt(bands[played])
    strength /= np.maximum(np.linalg.norm(strength, axis=1, keepdims=True), 1e-12)
    return np.asarray(strength - strength.mean(axis=0)) if len(strength) else strength


def _along(first: Samples, second: Samples) -> float:
    """Mean likeness (cosine) of frames along the best way through both, neither going back: Sakoe and Chiba (1978)."""
    a, b = (each / np.maximum(np.linalg.norm(each, axis=1, keepdims=True), 1e-12) for each in (first, second))
    cost = 1 - a @ b.T
    rows, columns = cost.shape
    best = np.full((rows + 1, columns + 1), inf)
    best[0, 0] = 0.0
    for diagonal in range(2, rows + columns + 1):
        i = np.arange(max(1, diagonal - columns), min(rows, diagonal - 1) + 1)
        j = diagonal - i
        here = cost[i - 1, j - 1]
        best[i, j] = np.minimum(best[i - 1, j - 1] + 2 * here, np.minimum(best[i - 1, j] + here, best[i, j - 1] + here))
    return float(1 - best[rows, columns] / (rows + columns))


def same_piece(reference: Samples, take: Samples) -> bool:
    """Whether the notes of two recordings (one channel, 48 kHz) come in the same order, at whatever pace.

    They are held against each other with time warped, and against one of them back to front: two pieces of one key
    are as alike that way as the right way round.
    """
    a, b = _notes(reference), _notes(take)
    if min(len(a), len(b)) < LEAST_FRAMES:
        return False
    alike = _along(a, b)
    return alike >= LEAST_LIKENESS and alike >= _along(a, b[::-1]) + LEAST_MORE
