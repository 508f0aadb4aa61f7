"""Impulse responses that are alike, folded under one that stands for them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from low_tide.core.cab.impulse import LIKE_HZ, within

DISTANCE_DB = 1.5
"""How far apart they may be in one group unless another bound is chosen; two at random lie about 3.7 dB apart."""
SAME_DB = 0.01


@dataclass(frozen=True)
class Group:
    """Impulse responses that are alike: the one that stands for them, and the others, by their names."""

    stands: str
    folded: tuple[str, ...]


def tone(responses: NDArray[np.float64]) -> NDArray[np.float64]:
    """Responses (dB, a row each over `band_centres(RATE)`) from 70 Hz to 8 kHz, each about its own mean: level-free."""
    found = responses[:, within(LIKE_HZ)]
    return np.asarray(found - found.mean(axis=1, keepdims=True))


def distances(responses: NDArray[np.float64]) -> NDArray[np.float64]:
    """Log-spectral distances of all pairs of rows, dB RMS, shape (n, n)."""
    rows = tone(responses)
    squares = np.square(rows).sum(axis=1)
    # In place, since of thousands each of these is large.
    found = rows @ rows.T
    found *= -2
    found += squares[:, None]
    found += squares[None, :]
    np.maximum(found, 0.0, out=found)
    found /= rows.shape[1]
    np.sqrt(found, out=found)
    np.fill_diagonal(found, 0.0)
    return np.asarray(found)


def thinned(
    names: Sequence[str],
    responses: NDArray[np.float64],
    within_db: float = DISTANCE_DB,
    first: frozenset[str] = frozenset(),
) -> tuple[Group, ...]:
    """Groups whose means lie no farther apart than `within_db`: average linkage (Sokal and Michener, 1958).

    The one with the least mean distance to its group stands for it, one of `first` before all others. The order in
    which they come changes nothing.
    """
    from scipy.cluster.hierarchy import fcluster, linkage
    from scipy.spatial.distance import squareform

    order = sorted(range(len(names)), key=lambda i: names[i])
    sorted_names = [names[i] for i in order]
    if len(names) < 2:
        return tuple(Group(name, ()) for name in sorted_names)
    apart = distances(np.asarray(responses)[order])
    # What differs by less than arithmetic does is the same, so that no chance decides which pair comes first.
    np.round(apart, 6, out=apart)
    label = fcluster(linkage(squareform(apart, checks=False), "average"), max(within_db, SAME_DB), "distance")
    groups = []
    for each in dict.fromkeys(label.tolist()):
        inside = np.flatnonzero(label == each)
        mean = apart[np.ix_(inside, inside)].mean(axis=1)
        best = min(
            range(len(inside)),
            key=lambda k: (sorted_names[inside[k]] not in first, round(float(mean[k]), 6), sorted_names[inside[k]]),
        )
        stands = sorted_names[inside[best]]
        groups.append(Group(stands, tuple(sorted_names[i] for i in inside if sorted_names[i] != stands)))
    return tuple(groups)
