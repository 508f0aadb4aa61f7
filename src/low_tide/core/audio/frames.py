"""Windows over sound that comes block by block: the same ones, wherever a block ends."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import TypeAlias

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

Block: TypeAlias = NDArray[np.float32]
"""Samples, shape (n, channels), full scale 1."""


Planes: TypeAlias = NDArray[np.float32]
"""The same, shape (channels, n), a channel in one piece: what runs along time is several times as quick on it."""


def planes(block: Block) -> Planes:
    """A block with each channel in one piece."""
    return np.ascontiguousarray(block.T)


@dataclass
class Windows:
    """Cuts blocks into windows of `size` samples, one every `hop` (no more); what is left waits for the next block."""

    size: int
    hop: int
    _left: Planes | None = field(init=False, default=None)

    def of(self, block: Planes) -> NDArray[np.float32]:
        """Windows that are whole now, shape (channels, windows, size); a view where a block can be looked at so."""
        whole = block if self._left is None else np.concatenate((self._left, block), axis=1)
        count = max(0, (whole.shape[1] - self.size) // self.hop + 1)
        self._left = whole[:, count * self.hop :].copy()
        if self.size == self.hop:
            return whole[:, : count * self.size].reshape(len(whole), count, self.size)
        if not count:
            return np.zeros((len(whole), 0, self.size), np.float32)
        return sliding_window_view(whole, self.size, axis=1)[:, : (count - 1) * self.hop + 1 : self.hop]


def runs(flags: NDArray[np.bool_]) -> Iterator[tuple[int, int]]:
    """Runs of what is true: first index, and the one after the last."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], flags, [False])).astype(np.int8)))
    return zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)
