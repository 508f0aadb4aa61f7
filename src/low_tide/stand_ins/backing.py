"""What plays beside the built-in take, from formulas: bass, drums, a harmonium and a bell buoy, in its time and key."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

Samples: TypeAlias = NDArray[np.float64]

RATE = 48_000
SECONDS = 14.0
ROUND_S, STEP_S = 3.5, 0.35
"""A round of the built-in take, ten steps of it."""
BASS = ((41.2, 0), (41.2, 3), (49.0, 5), (36.7, 8))
"""Notes: Hz, and the step they begin at."""
KICK, SNARE = (0, 3, 5, 8), (2, 7)
TOP_HZ = 7_000.0
CHORD = (164.8, 196.0, 246.9, 329.6, 493.9)
BELL = ((587.3, 1.0), (1_174.7, 0.6), (1_405.0, 0.45), (1_760.0, 0.25), (2_350.0, 0.2), (3_130.0, 0.12))
BELL_STEPS = (4, 9)


def _at(whole: Samples, start_s: float, sound: Samples) -> None:
    first = round(start_s * RATE)
    there = whole[first : first + len(sound)]
    there += sound[: len(there)]


def _time(seconds: float) -> Samples:
    return np.asarray(np.arange(round(seconds * RATE)) / RATE)


def _rounds(steps: tuple[int, ...], sound: Callable[[int], Samples]) -> Samples:
    whole = np.zeros(round(SECONDS * RATE))
    for again in range(round(SECONDS / ROUND_S)):
        for number, step in enumerate(steps):
            _at(whole, again * ROUND_S + step * STEP_S, sound(number))
    return whole


def _bass() -> Samples:
    def note(number: int) -> Samples:
        t, hz = _time(1.0), BASS[number][0]
        tone = sum(np.sin(2 * np.pi * hz * k * t) * np.exp(-t * (1.5 + 0.9 * k)) / k**1.1 for k in range(1, 12))
        return np.asarray(tone * np.minimum(1, t / 0.005) * np.clip((1.0 - t) / 0.05, 0, 1))

    return _rounds(tuple(step for _, step in BASS), note)


def _drums() -> Samples:
    rng = np.random.default_rng(3)
    t = _time(0.35)
    hiss = rng.standard_normal(len(t))
    bright = np.diff(hiss, prepend=0.0)
    kick = np.sin(2 * np.pi * (52 * t + 2.4 * (1 - np.exp(-t * 40)))) * np.exp(-t * 12)
    snare = 0.45 * hiss * np.exp(-t * 16) + 0.5 * np.sin(2 * np.pi * 185 * t) * np.exp(-t * 22)
    hat = 0.3 * bright * np.exp(-t * 14)
    return np.asarray(
        _rounds(KICK, lambda _: kick) + _rounds(SNARE, lambda _: snare) + _rounds(tuple(range(10)), lambda _: hat)
    )


def _reed(hz: float, t: Samples) -> Samples:
    """All partials of a reed under 7 kHz, each from the two before it: sin kx = 2·cos x·sin (k−1)x − sin (k−2)x."""
    x = 2 * np.pi * hz * t
    turn, before, now = 2 * np.cos(x), np.zeros(len(t)), np.sin(x)
    total = now.copy()
    for k in range(2, int(TOP_HZ / hz) + 1):
        before, now = now, turn * now - before
        total += now / k**0.8
    return total


def _harmonium() -> Samples:
    t = _time(SECONDS)
    breath = 0.75 + 0.25 * np.sin(2 * np.pi * t / ROUND_S)
    # Reeds that were tuned by hand beat a little.
    reeds = sum(_reed(hz * (1 + 0.0008 * place), t) for place, hz in enumerate(CHORD))
    return np.asarray(reeds * breath)


def _bell() -> Samples:
    t = _time(2.5)
    strike = sum(gain * np.sin(2 * np.pi * hz * t) * np.exp(-t * (1.2 + hz / 1_500)) for hz, gain in BELL)
    return _rounds(BELL_STEPS, lambda _: np.asarray(strike * np.minimum(1, t / 0.002)))


PARTS: dict[str, Callable[[], Samples]] = {
    "bass": _bass,
    "drums": _drums,
    "harmonium": _harmonium,
    "bell buoy": _bell,
}
PEAKS_DBFS = {"bass": -7.0, "drums": -6.0, "harmonium": -10.0, "bell buoy": -14.0}


@lru_cache(maxsize=len(PARTS))
def backing(part: str) -> Samples:
    """One of `PARTS`, shape (14 s · 48 kHz,), at the level it is mixed with."""
    found = PARTS[part]()
    found = found * (10 ** (PEAKS_DBFS[part] / 20) / np.abs(found).max())
    found.setflags(write=False)
    return np.asarray(found)
