"""How loud two recordings are against each other, and how that runs over time."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.loudness import GATING_STEPS, SHORT_TERM_STEPS, STEP_S, gated, lufs, measured
from low_tide.core.audio.rendering import Samples
from low_tide.core.comparing.aligning import RATE

UNGATED_S = 3.0
"""Less sound than this is measured whole."""
PARTS = 8
OVER_TIME_S = 0.5


@dataclass(frozen=True)
class LevelDifference:
    """How much louder (LU, K-weighted) a take is than the reference; `spread`: ± between parts of them, LU."""

    lu: float
    spread: float


@dataclass(frozen=True)
class LoudnessOverTime:
    """Short-term loudness (3 s, LUFS) at times (s), each in the middle of its window."""

    times: tuple[float, ...]
    lufs: tuple[float, ...]


@dataclass(frozen=True, eq=False)
class Loudnesses:
    """K-weighted power of a recording's gating blocks, its integrated loudness and its range, and it over time."""

    power: Samples
    integrated: float | None
    range_lu: float | None
    over_time: LoudnessOverTime


def loudnesses(samples: Samples) -> Loudnesses:
    """Everything of loudness of one channel at 48 kHz."""
    meter = measured(samples, RATE)
    short = meter.power(SHORT_TERM_STEPS)[:: round(OVER_TIME_S / STEP_S)]
    times = np.arange(len(short)) * OVER_TIME_S + SHORT_TERM_STEPS * STEP_S / 2
    return Loudnesses(
        meter.power(GATING_STEPS),
        meter.integrated(),
        meter.loudness_range(),
        LoudnessOverTime(tuple(np.round(times, 2).tolist()), tuple(np.round(lufs(short), 2).tolist())),
    )


def _counted(power: Samples) -> NDArray[np.bool_]:
    return np.ones(len(power), bool) if len(power) * STEP_S < UNGATED_S else gated(power)


def _by_parts(power: Samples) -> Samples:
    parts = [p for p in np.array_split(power, PARTS) if len(p)]
    return np.asarray(lufs(np.array([p.mean() for p in parts])))


def in_line(reference: Loudnesses, take: Loudnesses) -> LevelDifference | None:
    """Of the same performance in line: what counts in the reference counts in both (ITU-R BS.1770-4, whole under 3 s).

    None where nothing is loud enough to count, in either.
    """
    count = min(len(reference.power), len(take.power))
    heard = _counted(reference.power[:count])
    a, b = reference.power[:count][heard], take.power[:count][heard]
    if not len(a) or not a.mean() > 0 or not b.mean() > 0:
        return None
    between = _by_parts(b) - _by_parts(a)
    return LevelDifference(
        float(lufs(b.mean()) - lufs(a.mean())), float(between.std(ddof=1)) if len(between) > 1 else 0.0
    )


def apart(reference: Loudnesses, take: Loudnesses) -> LevelDifference | None:
    """Of the same played again: each by its own gates, ± the standard error of both together."""
    a, b = (each.power[_counted(each.power)] for each in (reference, take))
    if not len(a) or not len(b) or not a.mean() > 0 or not b.mean() > 0:
        return None
    parts = [_by_parts(each) for each in (a, b)]
    error = sum(float(p.var(ddof=1)) / len(p) for p in parts if len(p) > 1)
    return LevelDifference(float(lufs(b.mean()) - lufs(a.mean())), error**0.5)
