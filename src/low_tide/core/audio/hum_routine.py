"""Two positions held against each other by what they hum: which is quieter, and whether that can be told."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.hum import RATE as HUM_RATE
from low_tide.core.audio.hum import Hum, find_hum, windows_of
from low_tide.core.spec import Spec
from low_tide.core.units import figure, level_figure

WINDOWS = 3
SETTLES_S = 0.5
"""What switching does to the sound is over by then."""
LEAST_SECONDS = 2.0 + SETTLES_S
TYPED_REPEATS_DB = 1.0
"""How well a level repeats that was read off a meter once."""

Quieter: TypeAlias = Literal["A", "B", "neither"]


@dataclass(frozen=True)
class HumReading:
    """What one position hums: levels of three short windows, or one that was read off a meter (dB), and what it is."""

    levels: Annotated[tuple[Annotated[float, Spec("Level", "dB", -200, 140)], ...], Spec("Levels", ge=1, le=WINDOWS)]
    hum: Hum | None = None

    @property
    def level(self) -> float:
        """Its level, dB."""
        return float(np.mean(self.levels))

    @property
    def repeats(self) -> float:
        """How far its windows lie apart, dB."""
        return max(self.levels) - min(self.levels) if len(self.levels) > 1 else TYPED_REPEATS_DB


@dataclass(frozen=True)
class HumAnswer:
    """Which position is quieter, by how much (dB) and how well that repeats (dB), in words; and what hums."""

    quieter: Quieter
    by: float
    repeats: float
    text: str
    kind: str


def reading(samples: NDArray[np.floating], rate: int) -> HumReading:
    """What a recording with nothing played holds, samples (n,) or (n, channels): RMS (dBFS) of its three thirds.

    The first half second is left out. ValueError for less than two and a half seconds.
    """
    import soxr

    sound = np.asarray(samples, np.float64)
    sound = sound if sound.ndim == 1 else sound[:, int(np.argmax(np.square(sound).sum(axis=0)))]
    if len(sound) < LEAST_SECONDS * rate:
        raise ValueError(f"{LEAST_SECONDS:g} s are wanted to tell hum by")
    kept = sound[round(SETTLES_S * rate) :]
    levels = tuple(float(10 * np.log10(max(float(np.var(part)), 1e-20))) for part in np.array_split(kept, WINDOWS))
    windows = windows_of([np.asarray(soxr.resample(kept, rate, HUM_RATE))])
    return HumReading(levels, find_hum(windows) if len(windows) > 1 else None)


def compared(a: HumReading, b: HumReading) -> HumAnswer:
    """Position A against position B."""
    by, repeats = a.level - b.level, max(a.repeats, b.repeats)
    loud = a if by >= 0 else b
    kind = "" if loud.hum is None else _kind(loud.hum)
    if abs(by) <= repeats:
        text = (
            f"No difference that can be told: {figure(abs(by), 2)} dB, and each repeats within {_within(repeats)} dB."
            " Leave it as it was."
        )
        return HumAnswer("neither", abs(by), repeats, text, kind)
    quieter: Quieter = "B" if by > 0 else "A"
    text = (
        f"{quieter} is quieter by {figure(abs(by), 2)} dB ({level_figure(min(a.level, b.level))} against"
        f" {level_figure(max(a.level, b.level))}), and each repeats within {_within(repeats)} dB."
    )
    return HumAnswer(quieter, abs(by), repeats, text, kind)


def _kind(hum: Hum) -> str:
    what = "a buzz: its high harmonics are nearly as strong" if hum.buzz else "a hum, without much above it"
    return f"{hum.nominal_hz} Hz mains, strongest at {hum.line * hum.nominal_hz} Hz; {what}."


def _within(repeats: float) -> str:
    """To a tenth of a decibel, upwards: no meter says more."""
    return figure(max(0.1, round(repeats + 0.05, 1)), 2)
