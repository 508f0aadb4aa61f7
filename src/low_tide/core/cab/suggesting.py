"""Blends of a few trusted impulse responses that come nearest to a reference."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import combinations, product

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.spectrum import band_centres
from low_tide.core.cab.blend import GAIN_DB, BlendPart, amount, apart
from low_tide.core.cab.impulse import LIKE_HZ, RATE, Real, Samples, bins, spectrum, within
from low_tide.core.cab.lining_up import by_best_sum

MOST_FROM = 8
GAINS_DB = (0.0, -3.0, -6.0, -9.0, -12.0)
MOST_TOGETHER = 3
SIZE = 1 << 14


@dataclass(frozen=True)
class Suggestion:
    """A blend and how far its tone lies from the reference, dB RMS in sixths of an octave from 70 Hz to 8 kHz."""

    parts: tuple[BlendPart, ...]
    distance: float


def _edges() -> NDArray[np.intp]:
    """Bins at which the sixths of an octave begin, and where the last ends."""
    centres = band_centres(RATE)[within(LIKE_HZ)]
    half = 2 ** (1 / 12)
    return np.round(np.append(centres / half, centres[-1] * half) * SIZE / RATE).astype(np.intp)


def _gains(count: int) -> NDArray[np.float64]:
    """Gains (as factors) of so many parts, the loudest of them at 0 dB, shape (choices, count)."""
    every = [g for g in product(GAINS_DB, repeat=count) if max(g) == 0]
    return np.asarray(10 ** (np.array(every) / 20))


def suggested(
    impulses: Sequence[int], sounds: Sequence[Samples], reference: Real, most: int = 5
) -> Iterator[float | tuple[Suggestion, ...]]:
    """All ones, pairs and threes of impulse responses, gains 0 to −12 dB in steps of 3, brought into line by best sum
    and turned over where they run against the first, ranked by their distance from a reference.

    `reference`: dB over `band_centres(RATE)`. Yields the part that is done (0 to 1), and last the nearest. ValueError
    for more than eight.
    """
    if len(sounds) > MOST_FROM:
        raise ValueError(f"at most {MOST_FROM} are tried together")
    # As loud as each other to begin with, or gains would say nothing.
    levels = [float(np.sqrt(np.square(s).sum())) for s in sounds]
    target = reference[within(LIKE_HZ)]
    target = target - target.mean()
    edges = _edges()
    low, high = int(edges[0]), int(edges[-1])
    hz = bins(SIZE)[low:high]
    counts = np.diff(edges)
    groups = [g for n in range(1, MOST_TOGETHER + 1) for g in combinations(range(len(sounds)), n)]
    spectra = [spectrum(s[:SIZE], SIZE)[low:high] / level for s, level in zip(sounds, levels, strict=True)]
    found: list[Suggestion] = []
    for done, group in enumerate(groups):
        if done % 8 == 0:
            yield done / len(groups)
        base = [BlendPart(impulses[k], inverted=k != group[0] and apart(sounds[group[0]], sounds[k])[1]) for k in group]
        lined = by_best_sum([sounds[k] / levels[k] for k in group], base)
        late = np.exp(-2j * np.pi * np.outer([p.delay for p in lined], hz) / 1000)
        rows = np.array([amount(p) * spectra[k] for p, k in zip(lined, group, strict=True)]) * late
        gains = _gains(len(group))
        power = np.square(np.abs(gains @ rows))
        bands = 10 * np.log10(np.add.reduceat(power, edges[:-1] - low, axis=1) / counts + 1e-30)
        off = bands - bands.mean(axis=1, keepdims=True) - target
        far = np.sqrt(np.square(off).mean(axis=1))
        best = int(np.argmin(far))
        wanted = [20 * np.log10(g * levels[group[0]] / levels[k]) for g, k in zip(gains[best], group, strict=True)]
        # All together may stand anywhere: it is the tone that counts.
        over = max(0.0, max(wanted) - GAIN_DB[1])
        parts = tuple(
            replace(part, gain=round(max(GAIN_DB[0], float(gain - over)), 2))
            for part, gain in zip(lined, wanted, strict=True)
        )
        found.append(Suggestion(parts, float(far[best])))
    yield tuple(sorted(found, key=lambda s: (round(s.distance, 6), len(s.parts)))[:most])
