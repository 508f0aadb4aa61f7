"""Impulse responses brought into line: as recorded, by their onsets, or so that they sum to most."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from itertools import product
from typing import Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.cab.blend import DELAY_MS, BlendPart, amount
from low_tide.core.cab.impulse import RATE, Samples, onset

LineUp: TypeAlias = Literal["recorded", "onset", "sum"]
SUM_HZ = (80.0, 1_000.0)
WITHIN_MS, STEP_MS = 1.0, 0.01
ROUNDS = 12
FLIP_DB = 1.0
"""Turning one over is worth saying where it gains more than this."""


def _held(parts: Sequence[BlendPart], delays: Sequence[float]) -> tuple[BlendPart, ...]:
    """Parts with their delays, the first at none, within what a blend may have."""
    return tuple(
        replace(part, delay=round(float(np.clip(delay - delays[0], *DELAY_MS)), 4))
        for part, delay in zip(parts, delays, strict=True)
    )


def by_onset(sounds: Sequence[Samples], parts: Sequence[BlendPart]) -> tuple[BlendPart, ...]:
    """All begin with the first of them."""
    return _held(parts, [-onset(sound) / RATE * 1000 for sound in sounds])


class _Sums:
    """Summed power of parts between 80 Hz and 1 kHz for any delays (ms), by the pairs' cross-spectra."""

    def __init__(self, sounds: Sequence[Samples], parts: Sequence[BlendPart]) -> None:
        from scipy.fft import next_fast_len, rfft

        size = next_fast_len(max(max(len(s) for s in sounds), RATE // 10), real=True)
        hz = np.arange(size // 2 + 1) * (RATE / size)
        at = (hz >= SUM_HZ[0]) & (hz <= SUM_HZ[1])
        self._turn = -2j * np.pi * hz[at] / 1000
        self._spectra = np.array([amount(p) * rfft(s, size)[at] for s, p in zip(sounds, parts, strict=True)])

    def power(self, delays: NDArray[np.float64], signs: NDArray[np.float64] | float = 1.0) -> float:
        """Of one set of delays, shape (parts,)."""
        turned = self._spectra * np.exp(np.outer(delays, self._turn))
        return float(np.square(np.abs((turned.T * signs).sum(axis=1))).sum())

    def best(self, place: int, delays: NDArray[np.float64], tries: NDArray[np.float64]) -> float:
        """Which of several delays of one part sums to most with the others where they are."""
        turned = self._spectra * np.exp(np.outer(delays, self._turn))
        rest = turned.sum(axis=0) - turned[place]
        cross = np.real((np.conj(rest) * self._spectra[place]) @ np.exp(np.outer(self._turn, tries)))
        return float(tries[int(np.argmax(cross))])


def by_best_sum(sounds: Sequence[Samples], parts: Sequence[BlendPart]) -> tuple[BlendPart, ...]:
    """The delays, within 1 ms of where all begin together and to 0.01 ms, that sum to most between 80 Hz and 1 kHz.

    One part after the other is put where it sums to most with the rest until none moves, from several beginnings.
    """
    begun = by_onset(sounds, parts)
    if len(parts) < 2:
        return begun
    sums = _Sums(sounds, parts)
    middle = np.array([p.delay for p in begun])
    count = round(WITHIN_MS / STEP_MS)
    tries = np.arange(-count, count + 1) * STEP_MS
    best, most = middle, -1.0
    for start in _starts(len(parts)):
        delays = middle + start
        for _ in range(ROUNDS):
            before = delays.copy()
            for place in range(1, len(parts)):
                delays[place] = sums.best(place, delays, middle[place] + tries)
            if np.array_equal(before, delays):
                break
        found = sums.power(delays)
        if found > most * (1 + 1e-12):
            best, most = delays, found
    return _held(parts, best.tolist())


def _starts(count: int) -> list[NDArray[np.float64]]:
    """Where the search begins: together, and with each of the others a good part of a millisecond off either way."""
    if count <= 3:
        steps = (-0.66, 0.0, 0.66)
        return [np.array((0.0, *offs)) for offs in product(steps, repeat=count - 1)]
    one_off = [np.eye(count)[k] * by for k in range(1, count) for by in (-0.66, 0.66)]
    return [np.zeros(count), *one_off]


def lined_up(how: LineUp, sounds: Sequence[Samples], parts: Sequence[BlendPart]) -> tuple[BlendPart, ...]:
    """Parts with the delays that bring them into line."""
    if how == "recorded":
        return tuple(replace(part, delay=0.0) for part in parts)
    return by_onset(sounds, parts) if how == "onset" else by_best_sum(sounds, parts)


def better_turned(sounds: Sequence[Samples], parts: Sequence[BlendPart]) -> tuple[int, ...]:
    """Places of parts that, turned over as they stand, would make the sum between 80 Hz and 1 kHz more than 1 dB
    stronger; the first stays as it is."""
    if len(parts) < 2:
        return ()
    sums = _Sums(sounds, parts)
    delays = np.array([p.delay for p in parts])
    now = sums.power(delays)
    found = []
    for place in range(1, len(parts)):
        signs = np.ones(len(parts))
        signs[place] = -1
        if sums.power(delays, signs) > now * 10 ** (FLIP_DB / 10):
            found.append(place)
    return tuple(found)
