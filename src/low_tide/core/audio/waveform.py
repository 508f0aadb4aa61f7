"""What a waveform is drawn from: the least and the greatest sample of every so many."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.frames import Block, Planes, Windows

Extremes: TypeAlias = NDArray[np.int16]
"""Shape (bins, channels, 2): least and greatest, full scale 32767."""

BIN = 256
"""Samples in a bin. What is drawn finer is read from the sound itself."""
FULL = 32_767
MOST_COLUMNS = 2_000


@dataclass(frozen=True)
class Trace:
    """A part of the sound as it is drawn: from and to (s), and for every channel its least and greatest, ±32767.

    `points`: least and greatest are the same, since every column is one sample.
    """

    start: float
    stop: float
    points: bool
    low: tuple[tuple[int, ...], ...]
    high: tuple[tuple[int, ...], ...]


def whole(samples: Block) -> NDArray[np.int16]:
    """Samples on a scale of whole numbers; what is over full scale stays at it."""
    return np.clip(np.round(samples * FULL), -FULL, FULL).astype(np.int16)


class Bins:
    """Least and greatest of every bin, of sound that comes block by block."""

    def __init__(self) -> None:
        self._windows = Windows(BIN, BIN)
        self._found: list[Extremes] = []

    def add(self, block: Planes) -> None:
        """The next samples, shape (channels, n)."""
        windows = self._windows.of(block)
        low, high = whole(windows.min(axis=2)).T, whole(windows.max(axis=2)).T
        self._found.append(np.stack((low, high), axis=2))

    def all(self) -> Extremes:
        """What was found so far; a last bin that is not full is not among it."""
        return np.concatenate(self._found) if self._found else np.zeros((0, 1, 2), np.int16)


def trace(extremes: Extremes, start: float, stop: float, columns: int) -> Trace:
    """Extremes (bins or samples, channels, 2) of a part from and to (s), as at most so many columns."""
    edges = np.unique(np.linspace(0, len(extremes), min(columns, len(extremes)) + 1).astype(int))[:-1]
    if not len(edges):
        return Trace(start, stop, False, (), ())
    low = np.minimum.reduceat(extremes[..., 0], edges, axis=0).T
    high = np.maximum.reduceat(extremes[..., 1], edges, axis=0).T
    return Trace(start, stop, bool((low == high).all()), *(tuple(map(tuple, side.tolist())) for side in (low, high)))
