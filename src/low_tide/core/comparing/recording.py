"""A recording as it is compared: one channel at one rate, and what keeps it from being compared."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.dynamics import Levels, Onsets
from low_tide.core.audio.frames import planes
from low_tide.core.audio.rendering import Samples
from low_tide.core.comparing.aligning import LEAST_S, RATE, one_channel
from low_tide.core.comparing.level_match import Loudnesses, loudnesses
from low_tide.core.comparing.loud_spectra import levels_of

TOO_QUIET_DBFS = -60.0
NOTE_UNDER_LOUD_DB = 20.0
"""Notes count whose beginning comes at least so near to L10."""


@dataclass(frozen=True, eq=False)
class Recorded:
    """One channel at 48 kHz, shape (n,), and the rate (Hz) it was recorded at. What is worked out of it is kept."""

    samples: Samples
    rate: int

    @cached_property
    def levels(self) -> Levels:
        """Levels of 50 ms frames."""
        return levels_of(self.samples)

    @cached_property
    def loudness(self) -> Loudnesses:
        """Everything of loudness."""
        return loudnesses(self.samples)

    @cached_property
    def onsets(self) -> Onsets:
        """Where its notes may begin."""
        return self._onsets(True)

    @cached_property
    def fine_levels(self) -> Onsets:
        """Its levels every millisecond, for notes that were found elsewhere."""
        return self.__dict__.get("onsets") or self._onsets(False)

    def _onsets(self, finds: bool) -> Onsets:
        found = Onsets(RATE, finds)
        block = 2 * RATE
        for start in range(0, len(self.samples), block):
            found.add(planes(self.samples[start : start + block, None].astype(np.float32)))
        return found

    @cached_property
    def notes(self) -> list[int]:
        """Where its notes begin, ms."""
        loud = self.levels.loud()
        return [] if loud is None else self.onsets.begins(loud - NOTE_UNDER_LOUD_DB)

    @property
    def seconds(self) -> float:
        """How long it is, s."""
        return len(self.samples) / RATE

    def unusable(self) -> str:
        """What keeps it from being compared with anything, as the rest of a sentence; empty where nothing does."""
        if self.seconds < LEAST_S:
            return f"lasts {self.seconds:.2g} s; at least {LEAST_S:g} s are wanted"
        loud = self.levels.loud()
        if loud is None or not self.samples.any():
            return "holds nothing to hear"
        if loud < TOO_QUIET_DBFS:
            return f"is too quiet: its loud parts lie at {loud:.0f} dBFS, {TOO_QUIET_DBFS:g} dBFS are wanted"
        return ""


def recorded(samples: NDArray[np.floating], rate: int) -> Recorded:
    """Samples (n,) or (n, channels) as they are compared: channels that hold anything as one, at 48 kHz, DC off."""
    return Recorded(one_channel(samples, rate), rate)
