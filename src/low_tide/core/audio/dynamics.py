"""Level over time: the quiet and the loud of a take, how far apart they are, and how notes begin."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise
from math import log10
from typing import Any

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.frames import Planes, Windows, runs

Real = NDArray[np.float64]

FRAME_S = 0.05
"""Levels are RMS over so long."""
ABSOLUTE_GATE_DB, RELATIVE_GATE_DB = -70.0, -20.0
"""Frames under the first (dBFS), or by the second under the mean of the rest, are no part of what is played."""
QUIET_OVER_FLOOR_DB = 6.0
QUIET_UNDER_LOUD_DB = 15.0
"""A quiet part lies near the noise floor, and so far under what is played; else nothing in the take is quiet."""
LEAST_QUIET_FRAMES = 5
"""Fewer than these is a gap between two notes."""
NOT_PLAYED_DBFS = -40.0
"""A take that never gets over this level holds nothing but noise."""
DIGITAL_SILENCE = 1e-7
"""A frame whose RMS is under this holds nothing a converter made: it was cut or faded."""


@dataclass(frozen=True)
class SoundPart:
    """A part of the sound, from and to, s."""

    start: float
    stop: float


@dataclass(frozen=True)
class Levels:
    """Mean squares of windows of 50 ms, shape (frames,), over the channels that hold anything."""

    power: Real

    @property
    def db(self) -> Real:
        """Level of every frame, dBFS; digital silence far below everything."""
        return np.asarray(10 * np.log10(np.maximum(self.power, 1e-30)))

    def noise_floor(self) -> float | None:
        """Level (dBFS) that a tenth of the frames stay under, digital silence left out; None where all is that."""
        sound = self.power[self.power > DIGITAL_SILENCE**2]
        return float(10 * np.log10(np.percentile(sound, 10))) if len(sound) else None

    def played(self) -> Real:
        """Levels (dBFS) of the frames in which something is played, by the two gates."""
        heard = self.power[self.db >= ABSOLUTE_GATE_DB]
        if not len(heard):
            return np.zeros(0)
        gate = 10 * log10(float(heard.mean())) + RELATIVE_GATE_DB
        levels = np.asarray(10 * np.log10(heard))
        return np.asarray(levels[levels >= gate])

    def loud(self) -> float | None:
        """L10, the level (dBFS) exceeded in a tenth of what is played."""
        played = self.played()
        return float(np.percentile(played, 90)) if len(played) else None

    def range_db(self) -> float | None:
        """L10 − L90 of what is played, dB; None where there are fewer than ten frames of it."""
        played = self.played()
        return float(np.percentile(played, 90) - np.percentile(played, 10)) if len(played) >= 10 else None

    def quiet_under(self) -> float | None:
        """The level (dBFS) that frames of a quiet part stay under; None where nothing in the take is quiet."""
        floor, loud = self.noise_floor(), self.loud()
        if floor is None:
            return None
        if loud is None or float(self.db.max()) < NOT_PLAYED_DBFS:
            return 0.0
        return min(floor + QUIET_OVER_FLOOR_DB, loud - QUIET_UNDER_LOUD_DB)

    def quiet(self) -> tuple[SoundPart, ...]:
        """Quiet parts, digital silence left out, each as long as it lasts."""
        under = self.quiet_under()
        if under is None:
            return ()
        flags = (self.db <= under) & (self.power > DIGITAL_SILENCE**2)
        long = ((a, b) for a, b in runs(flags) if b - a >= LEAST_QUIET_FRAMES)
        return tuple(SoundPart(a * FRAME_S, b * FRAME_S) for a, b in long)

    def silence(self) -> Silence:
        """How long nothing is played, at the head, at the tail and at the longest."""
        under = self.quiet_under()
        flags = self.power <= DIGITAL_SILENCE**2 if under is None else self.db <= under
        spans = list(runs(flags))
        total = len(self.power)
        head = spans[0][1] if spans and spans[0][0] == 0 else 0
        tail = total - spans[-1][0] if spans and spans[-1][1] == total else 0
        longest = max((b - a for a, b in spans), default=0)
        return Silence(head * FRAME_S, tail * FRAME_S, longest * FRAME_S)


@dataclass(frozen=True)
class Silence:
    """How long nothing is played, s."""

    head: float
    tail: float
    longest: float


ONSET_WINDOW_S, ONSET_HOP_S = 0.02, 0.01
ATTACK_S = 0.02
SUSTAIN_S = (0.1, 0.3)
NEIGHBOURS = 8
"""Flux frames on either side that an onset must stand out from."""
COMPRESSION = 1000.0
FINE_S = 0.001


@dataclass(frozen=True)
class Attack:
    """Peak of a note's first 20 ms over the RMS of 100 to 300 ms after it, dB: the median, over how many notes."""

    median_db: float
    notes: int


class Onsets:
    """Finds where notes begin, by spectral flux, and how hard, in sound that comes block by block.

    Flux: the sum over frequency of what log(1 + γ|X|) rises by from one 20 ms window to the next, 10 ms on (Dixon,
    Onset detection revisited, 2006, with compressed magnitudes). Levels are kept for every millisecond. Without `finds`
    only those: for notes that were found elsewhere.
    """

    def __init__(self, rate: int, finds: bool = True) -> None:
        self._finds = finds
        self._rate = rate
        size, self._hop = round(rate * ONSET_WINDOW_S), max(1, round(rate * ONSET_HOP_S))
        self._windows = Windows(size, self._hop)
        self._window = np.hanning(size).astype(np.float32) * np.float32(2 / size)
        self._before: NDArray[Any] | None = None
        self._flux: list[NDArray[Any]] = []
        self._fine = Windows(max(1, round(rate * FINE_S)), max(1, round(rate * FINE_S)))
        self._peak: list[NDArray[Any]] = []
        self._power: list[NDArray[Any]] = []

    def add(self, block: Planes) -> None:
        """The next samples, shape (channels, n)."""
        from scipy.fft import rfft

        fine = self._fine.of(block)
        self._peak.append(np.abs(fine).max(axis=2).max(axis=0))
        self._power.append(np.square(fine).mean(axis=2).max(axis=0))
        if not self._finds:
            return
        windows = self._windows.of(block)
        if not windows.shape[1]:
            return
        power = np.square(np.abs(rfft(windows * self._window, axis=2))).sum(axis=0)
        heard = np.log1p(COMPRESSION * np.sqrt(power))
        before = heard[:1] if self._before is None else self._before
        self._flux.append(np.maximum(np.diff(heard, axis=0, prepend=before), 0).sum(axis=1))
        self._before = heard[-1:].copy()

    def attack(self, gate_dbfs: float) -> Attack | None:
        """Attack over sustain of the notes that reach a level (dBFS); None where there are none."""
        return self.attack_at(self.begins(gate_dbfs))

    def begins(self, gate_dbfs: float) -> list[int]:
        """Milliseconds at which the notes begin that reach a level (dBFS)."""
        return self._begins(np.concatenate(self._peak), 10 ** (gate_dbfs / 20)) if self._peak else []

    def attack_at(self, begins: list[int]) -> Attack | None:
        """The same of notes that begin there (ms), wherever that was found; None where there are none."""
        peak = np.concatenate(self._peak) if self._peak else np.zeros(0)
        power = np.concatenate(self._power) if self._power else np.zeros(0)
        found = []
        for at, following in pairwise([*begins, len(peak)]):
            start, stop = (at + round(s / FINE_S) for s in SUSTAIN_S)
            # A note that the next one cuts short has no sustain to be held against.
            if stop > following:
                continue
            held = float(power[start:stop].mean())
            if held > 0:
                top = float(peak[at : at + round(ATTACK_S / FINE_S)].max())
                found.append(20 * log10(max(top, 1e-9)) - 10 * log10(held))
        return Attack(float(np.median(found)), len(found)) if found else None

    def _begins(self, peak: NDArray[Any], gate: float) -> list[int]:
        """Milliseconds at which notes begin."""
        if not self._flux:
            return []
        flux = np.concatenate(self._flux)
        padded = np.pad(flux, NEIGHBOURS)
        around = np.lib.stride_tricks.sliding_window_view(padded, 2 * NEIGHBOURS + 1)
        stands_out = (flux >= around.max(axis=1)) & (flux > 1.5 * np.median(around, axis=1) + 0.1 * flux.max(initial=0))
        found: list[int] = []
        fine = round(self._rate * FINE_S)
        for frame in np.flatnonzero(stands_out & (flux > 0)).tolist():
            # The window in which it rises most begins before the note does: the note is where the level rises there.
            first = frame * self._hop // fine
            near = peak[first : first + round((ONSET_WINDOW_S + ONSET_HOP_S) / FINE_S)]
            if len(near) < 2 or near.max() < gate:
                continue
            at = first + int(np.argmax(np.diff(near))) + 1
            if not found or at - found[-1] > NEIGHBOURS:
                found.append(at)
        return found
