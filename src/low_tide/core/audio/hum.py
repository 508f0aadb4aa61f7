"""Hum of the mains in the quiet part of a take: a comb of lines at multiples of one frequency."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Real = NDArray[np.float64]

RATE = 4_000
"""Lines are looked for at this rate: the twentieth of 60 Hz lies at 1,212 Hz at the most."""
LEAST_S = 1.5
"""Less quiet than this gives no answer."""
LINES = 20
FIRST_LINES = 8
MAINS_HZ = ((49.4, 50.6), (59.4, 60.6))
BESIDE_HZ = 0.4
"""The search goes so far past both ends: what fits best out there is a note, not the mains."""
AT_THE_END_HZ = 0.15
"""What fits best so little past an end still is the mains: in a second or two it is told no more closely."""
SEARCH_STEP_HZ = 0.02
FINER = 8
"""Bins a Hz, by zero padding."""
NEAR_HZ, FAR_HZ = 4, 16
"""The noise beside a line is the median of what lies so far from it, on both sides."""
HANN_BINS = 1.5
"""Equivalent noise bandwidth of a Hann window, bins."""
BUZZ_LINE, BUZZ_WITHIN_DB = 8, 12.0

THRESHOLDS = (
    (2, 3.4, 6.55),
    (3, 2.8, 5.45),
    (4, 2.45, 4.65),
    (6, 1.95, 3.9),
    (9, 1.62, 3.2),
    (15, 1.25, 2.55),
    (30, 0.9, 1.9),
)
"""Windows; from which median over the lines, and third of the first eight (dB), it is hum. White noise reaches each of
the two in one search of four hundred, found by trying thousands."""


@dataclass(frozen=True)
class Hum:
    """Hum that was found: the mains frequency (Hz), the line that is strongest, and levels.

    `line` 1 or 2: the fundamental of what is heard is so many times the mains. `dbfs` is that line's RMS level,
    `total_dbfs` that of all twenty; `over_noise_db` the line's power over the noise in 1 Hz. `buzz`: lines from the
    eighth on within 12 dB of it. `lines_dbfs`: levels of the lines, −200 where there is none.
    """

    mains_hz: float
    line: int
    dbfs: float
    total_dbfs: float
    over_noise_db: float
    buzz: bool
    lines_dbfs: tuple[float, ...]

    @property
    def nominal_hz(self) -> int:
        """50 or 60."""
        return 50 if self.mains_hz < 55 else 60


def windows_of(stretches: Iterable[Real]) -> Real:
    """Windows of 1 s, half over each other, of stretches at `RATE`, each shape (n,); shape (windows, RATE)."""
    found = [stretch[at : at + RATE] for stretch in stretches for at in range(0, len(stretch) - RATE + 1, RATE // 2)]
    return np.array(found) if found else np.zeros((0, RATE))


@lru_cache(maxsize=4)
def _search(low: float, high: float) -> Real:
    count = round((high - low + 2 * BESIDE_HZ) / SEARCH_STEP_HZ) + 1
    return np.linspace(low - BESIDE_HZ, high + BESIDE_HZ, count)


@dataclass(frozen=True)
class Comb:
    """How well a comb fits best: its frequency (Hz), and by how much its lines stand out of the noise, dB."""

    frequency: float
    median_db: float
    third_db: float


def _periodogram(windows: Real) -> tuple[Real, Real]:
    """Mean power of the windows at eighths of a Hz, and the noise beside every whole Hz, by bin of a 1 s window."""
    spectra = np.abs(np.fft.rfft(windows * np.hanning(RATE), FINER * RATE, axis=1))
    power = np.square(spectra).mean(axis=0)
    whole = power[::FINER]
    offsets = np.concatenate((np.arange(-FAR_HZ, -NEAR_HZ + 1), np.arange(NEAR_HZ, FAR_HZ + 1)))
    beside = np.abs(np.arange(len(whole))[:, None] + offsets)
    return power, np.median(whole[np.minimum(beside, len(whole) - 1)], axis=1)


def _ratios(power: Real, noise: Real, fundamentals: Real) -> Real:
    """Lines over the noise beside them, shape (fundamentals, LINES)."""
    lines = fundamentals[:, None] * np.arange(1, LINES + 1)
    at = np.interp(lines * FINER, np.arange(len(power)), power)
    return np.asarray(at / np.maximum(noise[np.round(lines).astype(int)], 1e-30))


def best_comb(windows: Real, mains: tuple[float, float]) -> tuple[Comb, Comb]:
    """The comb of highest median over its lines, and that of the highest third of its first eight, in one search."""
    return _best(*_periodogram(windows), mains)


def _best(power: Real, noise: Real, mains: tuple[float, float]) -> tuple[Comb, Comb]:
    searched = _search(*mains)
    ratios = 10 * np.log10(np.maximum(_ratios(power, noise, searched), 1e-12))
    median, third = np.median(ratios, axis=1), np.sort(ratios[:, :FIRST_LINES], axis=1)[:, -3]
    found = [Comb(float(searched[i]), float(median[i]), float(third[i])) for i in (median.argmax(), third.argmax())]
    return found[0], found[1]


def thresholds(windows: int) -> tuple[float, float]:
    """From which median, and third of the first eight (dB), so many windows tell hum from noise."""
    counts, medians, thirds = zip(*THRESHOLDS, strict=True)
    at = np.log(min(max(windows, counts[0]), counts[-1]))
    return float(np.interp(at, np.log(counts), medians)), float(np.interp(at, np.log(counts), thirds))


def find_hum(windows: Real) -> Hum | None:
    """Hum in quiet windows of 1 s at `RATE`, shape (windows, RATE); None where none stands out of the noise.

    A comb at k·f0, k to 20, f0 searched near 50 and 60 Hz: its lines against the median of their neighbours. It is
    hum where the median over the lines, or the third of the first eight, is more than noise alone brings in one
    search of two hundred. ValueError for fewer than two windows.
    """
    if len(windows) < 2:
        raise ValueError(f"{LEAST_S:g} s of quiet are wanted")
    power, noise = _periodogram(windows)
    of_median, of_third = thresholds(len(windows))
    found: list[tuple[float, Comb]] = []
    for low, high in MAINS_HZ:
        by_median, by_third = _best(power, noise, (low, high))
        for comb, over in ((by_median, by_median.median_db - of_median), (by_third, by_third.third_db - of_third)):
            if over > 0 and low - AT_THE_END_HZ <= comb.frequency <= high + AT_THE_END_HZ:
                found.append((over, comb))
    if not found:
        return None
    return _told(power, noise, max(found, key=lambda f: f[0])[1].frequency)


def _told(power: Real, noise: Real, mains: float) -> Hum:
    lines = mains * np.arange(1, LINES + 1)
    at = np.interp(lines * FINER, np.arange(len(power)), power)
    beside = noise[np.round(lines).astype(int)]
    # A sine of amplitude A gives (A·Σw/2)² at its own bin; its mean square is A²/2.
    gain = float(np.square(np.hanning(RATE).sum()))
    means = np.maximum(at - beside, 0) * 2 / gain
    levels = 10 * np.log10(np.maximum(means, 1e-20))
    line = 1 if levels[0] >= levels[1] else 2
    in_one_hz = beside[line - 1] * 2 / gain / HANN_BINS
    return Hum(
        mains_hz=mains,
        line=line,
        dbfs=float(levels[line - 1]),
        total_dbfs=float(10 * np.log10(max(means.sum(), 1e-20))),
        over_noise_db=float(levels[line - 1] - 10 * np.log10(max(in_one_hz, 1e-20))),
        buzz=bool((levels[BUZZ_LINE - 1 :] >= levels[line - 1] - BUZZ_WITHIN_DB).any()),
        lines_dbfs=tuple(float(x) for x in levels),
    )
