"""Where the tops of waves are cut off: at full scale by a converter, below it by a limiter."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.frames import Block, runs

CLIPPED_RUN = 3
"""At least so many equal extreme samples in a row are a clipped run, also below full scale: a limiter."""
SLOW_HZ = 41.0
"""The lowest note there may be: where no partial is found, the top of a wave is taken to be as slow as that."""
LOOK = 4096
"""Samples that must stand around a run, half on either side, for its strongest partial to be looked for."""
CELL = LOOK // 4
"""Runs that begin in the same so many samples share one look: a take clipped all through has a great many."""
WOBBLE = 2 * 2.0**-15
"""How far a flat top that was limited before the converter may wobble: two steps of 16 bits."""
LEAST_EXTREME = 1e-3
NEAR_S = 0.05
"""Runs nearer than this to each other are one place."""
MOST_PLACES = 400

By: TypeAlias = Literal["converter", "limiter"]


Runs: TypeAlias = NDArray[np.float64]
"""Runs, shape (n, 4): first sample, the one after the last, channel, and the amplitude it is cut off at."""
NO_RUNS: Runs = np.zeros((0, 4))


@dataclass(frozen=True)
class Clip:
    """A place where tops are cut off: s, how many runs of samples, at which level (dBFS), and by what."""

    start: float
    stop: float
    runs: int
    dbfs: float
    by: By


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
    samples: Block, rate: int, lsb: float, extremes: NDArray[Any], first: int = 0, end: int | None = None
) -> Runs:
    """Runs of samples at a channel's own extreme that neither quantisation nor noise explains; samples (n, channels).

    They are equal, or wobble by two steps of 16 bits. `lsb`: one step of the file, as a part of full scale; 0 for
    floating point. `extremes`: the greatest and least of every channel, shape (2, channels), of which these samples
    may be only a part. Told are those that begin from `first` on and before `end`. Silence has none.
    """
    until = len(samples) if end is None else end
    found = [NO_RUNS]
    for number, (channel, most) in enumerate(zip(samples.T, extremes.T, strict=True)):
        look = _Look(channel, rate)
        for extreme in most.tolist():
            if abs(extreme) < LEAST_EXTREME:
                continue
            near = channel >= extreme - WOBBLE if extreme > 0 else channel <= extreme + WOBBLE
            if not near.any():
                continue
            wobbling = look.clipped(near, abs(extreme), max(lsb, WOBBLE))
            equal = look.clipped(channel == extreme, abs(extreme), lsb)
            inside = np.searchsorted(wobbling[:, 0], equal[:, 0], side="right") - 1
            covered = (
                (inside >= 0) & (equal[:, 0] < wobbling[inside, 1]) if len(wobbling) else np.zeros(len(equal), bool)
            )
            both = np.concatenate((wobbling, equal[~covered]))
            both = both[(both[:, 0] >= first) & (both[:, 0] < until)]
            rest = np.broadcast_to((number, extreme), (len(both), 2))
            found.append(np.hstack((both, rest)))
    return np.concatenate(found)


class _Look:
    """Tells clipped runs of one channel from the tops of waves, by the strongest partial around them."""

    def __init__(self, channel: NDArray[Any], rate: int) -> None:
        self._channel, self._rate = channel, rate
        self._partials: dict[int, float] = {}

    def clipped(self, flags: NDArray[np.bool_], peak: float, step: float) -> NDArray[np.int64]:
        """Start and stop of the runs of `flags` that are longer than a step of so much makes the top of a wave."""
        spans = np.array(list(runs(flags)), np.int64).reshape(-1, 2)
        length = spans[:, 1] - spans[:, 0]
        fast, slow = (longest_flat(peak, step, hz, self._rate) for hz in (self._rate / 2, SLOW_HZ))
        sure = length > slow
        for i in np.flatnonzero((length > fast) & ~sure).tolist():
            sure[i] = length[i] > longest_flat(peak, step, self._partial(int(spans[i, 0])), self._rate)
        return spans[sure & (length >= CLIPPED_RUN) & (length < len(self._channel))]

    def _partial(self, start: int) -> float:
        cell = start // CELL
        if cell not in self._partials:
            around = self._channel[max(0, (cell - 1) * CELL) : (cell + 2) * CELL]
            self._partials[cell] = strongest_partial(around, self._rate)
        return self._partials[cell]


def places(found: Runs, rate: int) -> tuple[Clip, ...]:
    """Runs as places in the sound, those near each other together, at most `MOST_PLACES` of them: the fullest kept."""
    if not len(found):
        return ()
    ordered = found[np.argsort(found[:, 0], kind="stable")]
    reached = np.maximum.accumulate(ordered[:, 1])
    apart = np.flatnonzero(ordered[1:, 0] - reached[:-1] > NEAR_S * rate) + 1
    groups = np.split(ordered, apart)
    kept = sorted(sorted(groups, key=len, reverse=True)[:MOST_PLACES], key=lambda g: float(g[0, 0]))
    return tuple(_place(group, rate) for group in kept)


def _place(group: Runs, rate: int) -> Clip:
    most = float(np.abs(group[:, 3]).max())
    by: By = "converter" if most >= 1 - WOBBLE else "limiter"
    start, stop = float(group[0, 0]) / rate, float(group[:, 1].max()) / rate
    return Clip(start, stop, len(group), float(20 * np.log10(most)), by)
