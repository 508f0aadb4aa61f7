"""Impulse responses brought into line: as recorded, by their onsets, or so that they sum to most."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache
from itertools import product
from typing import Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.cab.blend import DELAY_MS, BlendPart, amount
from low_tide.core.cab.impulse import RATE, Samples, onset

LineUp: TypeAlias = Literal["recorded", "onset", "sum"]
SUM_HZ = (80.0, 1_000.0)
WITHIN_MS, STEP_MS = 1.0, 0.01
MIDDLE = round(WITHIN_MS / STEP_MS)
STEPS_MS = np.arange(-MIDDLE, MIDDLE + 1) * STEP_MS
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


@lru_cache(maxsize=4)
def _turned(size: int) -> tuple[NDArray[np.intp], NDArray[np.complex128]]:
    """Bins from 80 Hz to 1 kHz of a transform, and what each step of delay turns them by, shape (bins, steps)."""
    hz = np.arange(size // 2 + 1) * (RATE / size)
    at = np.flatnonzero((hz >= SUM_HZ[0]) & (hz <= SUM_HZ[1]))
    return at, np.exp(-2j * np.pi * np.outer(hz[at], STEPS_MS) / 1000)


def _spectra(sounds: Sequence[Samples], parts: Sequence[BlendPart]) -> tuple[NDArray[np.complex128], int]:
    """Parts from 80 Hz to 1 kHz as they stand, shape (parts, bins), and the size of the transform."""
    from scipy.fft import next_fast_len, rfft

    size = int(next_fast_len(max(RATE // 10, *(len(s) for s in sounds)), real=True))
    at, _ = _turned(size)
    hz = at * (RATE / size)
    rows = [
        amount(part) * rfft(sound, size)[at] * np.exp(-2j * np.pi * hz * part.delay / 1000)
        for sound, part in zip(sounds, parts, strict=True)
    ]
    return np.array(rows), size


def by_best_sum(sounds: Sequence[Samples], parts: Sequence[BlendPart]) -> tuple[BlendPart, ...]:
    """The delays, within 1 ms of where all begin together and to 0.01 ms, that sum to most between 80 Hz and 1 kHz.

    One part after the other is put where it sums to most with the rest until none moves, from several beginnings.
    """
    begun = by_onset(sounds, parts)
    if len(parts) < 2:
        return begun
    spectra, size = _spectra(sounds, begun)
    _, table = _turned(size)
    best, most = np.full(len(parts), MIDDLE), -1.0
    for start in _starts(len(parts)):
        steps = start.copy()
        moved = spectra * table[:, steps].T
        for _ in range(ROUNDS):
            before = steps.copy()
            for place in range(1, len(parts)):
                rest = moved.sum(axis=0) - moved[place]
                steps[place] = int(np.argmax(np.real((np.conj(rest) * spectra[place]) @ table)))
                moved[place] = spectra[place] * table[:, steps[place]]
            if np.array_equal(before, steps):
                break
        found = float(np.square(np.abs(moved.sum(axis=0))).sum())
        if found > most * (1 + 1e-12):
            best, most = steps, found
    return _held(parts, [part.delay + float(STEPS_MS[k]) for part, k in zip(begun, best, strict=True)])


def _starts(count: int) -> list[NDArray[np.intp]]:
    """Where the search begins: together, and with each of the others a good part of a millisecond off either way."""
    off = round(0.66 / STEP_MS)
    if count <= 3:
        sets = [(0, *offs) for offs in product((-off, 0, off), repeat=count - 1)]
    else:
        one_off = [[by if k == place else 0 for k in range(count)] for place in range(1, count) for by in (-off, off)]
        sets = [(0,) * count, *map(tuple, one_off)]
    return [np.array(each, np.intp) + MIDDLE for each in sets]


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
    spectra, _ = _spectra(sounds, parts)
    now = np.square(np.abs(spectra.sum(axis=0))).sum()
    return tuple(
        place
        for place in range(1, len(parts))
        if np.square(np.abs(spectra.sum(axis=0) - 2 * spectra[place])).sum() > now * 10 ** (FLIP_DB / 10)
    )
