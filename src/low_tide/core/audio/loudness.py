"""Loudness of programmes: integrated, and its range."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

LOUDNESS_RATE = 48_000
STEP_S = 0.1
"""A gating block of 400 ms is four of these, and begins one of these after the one before."""
GATING_STEPS = 4
SHORT_TERM_STEPS = 30
"""Steps in a short-term window of 3 s."""
ABSOLUTE_LUFS, RELATIVE_LU, RANGE_RELATIVE_LU = -70.0, -10.0, -20.0
SURE_RANGE_S = 60.0
PIECE_S = 8
"""A loudness range of less sound than this is not reliable."""


class Loudness:
    """Loudness of sound that comes block by block, at any rate: ITU-R BS.1770-4, EBU R 128 and EBU Tech 3342.

    The K-weighting holds at 48 kHz alone, so everything is brought there first; its coefficients are pyloudnorm's.
    """

    def __init__(self, rate: int, channels: int) -> None:
        import pyloudnorm
        import soxr

        weighting = pyloudnorm.Meter(LOUDNESS_RATE, filter_class="DeMan")._filters.values()
        self._weighting = [(np.asarray(f.b), np.asarray(f.a)) for f in weighting]
        self._state = [np.zeros((2, channels)) for _ in self._weighting]
        self._rate = soxr.ResampleStream(rate, LOUDNESS_RATE, channels, dtype="float64")
        self._left = np.zeros((0, channels))
        self._steps: list[float] = []

    def add(self, block: NDArray[Any], last: bool = False) -> None:
        """The next samples, shape (n, channels)."""
        from scipy.signal import lfilter

        sound = self._rate.resample_chunk(np.ascontiguousarray(block, np.float64), last=last)
        for i, (b, a) in enumerate(self._weighting):
            if len(sound):
                sound, self._state[i] = lfilter(b, a, sound, axis=0, zi=self._state[i])
        sound = np.concatenate((self._left, sound))
        step = round(STEP_S * LOUDNESS_RATE)
        whole = len(sound) // step
        power = np.square(sound[: whole * step]).reshape(whole, step, sound.shape[1]).mean(axis=1)
        self._steps += power.sum(axis=1).tolist()
        self._left = sound[whole * step :]

    def end(self) -> None:
        """All is there: nothing may be added after it."""
        self.add(np.zeros((0, self._left.shape[1])), last=True)

    def integrated(self) -> float | None:
        """LUFS; None under 0.4 s of sound, or where there is none to hear."""
        heard = self._heard(GATING_STEPS, RELATIVE_LU)
        return float(lufs(heard.mean())) if len(heard) else None

    def loudness_range(self) -> float | None:
        """LU between the 10 % and the 95 % of short-term loudness; None under 3 s, or where there is none to hear."""
        heard = self._heard(SHORT_TERM_STEPS, RANGE_RELATIVE_LU)
        if not len(heard):
            return None
        low, high = np.percentile(lufs(heard), (10, 95))
        return float(high - low)

    def power(self, steps: int) -> NDArray[np.float64]:
        """K-weighted power of windows of so many steps, one each step; none where there is less sound than that."""
        if len(self._steps) < steps:
            return np.zeros(0)
        return np.convolve(np.array(self._steps), np.ones(steps) / steps, mode="valid")

    def _heard(self, steps: int, relative: float) -> NDArray[np.float64]:
        power = self.power(steps)
        return power[gated(power, relative)]


def gated(power: NDArray[np.float64], relative: float = RELATIVE_LU) -> NDArray[np.bool_]:
    """Which windows count towards loudness: those over −70 LUFS, and of them those not far under their mean (LU)."""
    heard = lufs(power) >= ABSOLUTE_LUFS
    if heard.any():
        heard &= lufs(power) >= lufs(power[heard].mean()) + relative
    return np.asarray(heard)


def lufs(power: Any) -> Any:
    """Loudness (LUFS) of a K-weighted power."""
    return -0.691 + 10 * np.log10(np.maximum(power, 1e-15))


def measured(samples: NDArray[Any], rate: int) -> Loudness:
    """The loudness meter after all of samples (n,) or (n, channels)."""
    sound = samples if samples.ndim > 1 else samples[:, None]
    meter = Loudness(rate, sound.shape[1])
    # Piece by piece, so that a long one needs little room beside itself.
    for start in range(0, len(sound), PIECE_S * rate):
        meter.add(sound[start : start + PIECE_S * rate])
    meter.end()
    return meter


def loudness(samples: NDArray[Any], rate: int) -> float | None:
    """Integrated loudness in LUFS of samples (n,) or (n, channels); None under 0.4 s of sound, or without any."""
    return measured(samples, rate).integrated()
