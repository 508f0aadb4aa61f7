"""A take inspected: everything that can be told of the sound by itself, in two readings, block by block."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal, TypeAlias

import numpy as np

from low_tide.core.audio.clipping import LOOK, Clip, Runs, clipped_runs, places
from low_tide.core.audio.dynamics import FRAME_S, Attack, Levels, Onsets, Silence, SoundPart
from low_tide.core.audio.frames import Block, Planes, Windows, planes
from low_tide.core.audio.hum import LEAST_S, Hum, find_hum, windows_of
from low_tide.core.audio.hum import RATE as HUM_RATE
from low_tide.core.audio.loudness import SURE_RANGE_S, Loudness
from low_tide.core.audio.metering import TRUE_PEAK_TAPS, Measures, decibels, power_db, true_peak
from low_tide.core.audio.speaker_sound import SpeakerSound, speaker_sound
from low_tide.core.audio.spectrum import Real, Spectra, a_weighting, band_centres, band_levels
from low_tide.core.audio.waveform import Bins, Extremes

MOST_STRETCHES = 60
LOUD_WITHIN_DB = 10.0
"""Windows are loud that lie at most so far under L10."""
GATE_UNDER_LOUD_DB = 20.0
"""Notes count whose first 20 ms come at least so near to L10."""
MOST_QUIET_S = 20.0
"""So much quiet is looked at for hum, the longest parts first."""
EMPTY_PEAK, EMPTY_UNDER = 10 ** (-60 / 20), 10 ** (-50 / 20)
"""A channel is empty whose peak stays under the first and so far under the other's."""
SAME_WITHIN = 2.0**-15

Channels: TypeAlias = Literal["mono", "stereo", "same", "left only", "right only"]


@dataclass(frozen=True)
class Sound:
    """Sound that can be read again: its form, and blocks of shape (n, channels) that each begin with the last
    `overlap` samples of the one before. `lsb`: one step of the file by amplitude, 0 for floating point.

    Of a block at least `LOOK` samples are new, but for the last.
    """

    rate: int
    channels: int
    frames: int
    lsb: float
    blocks: Callable[[int], Iterator[Block]]


@dataclass(frozen=True)
class Noise:
    """Noise floor, dBFS: what a tenth of the 50 ms frames stay under; and the quiet part A-weighted, if any."""

    dbfs: float
    a_weighted_dbfs: float | None


@dataclass(frozen=True)
class Dynamics:
    """L10 − L90 of the 50 ms levels of what is played (dB), and how its notes begin."""

    range_db: float | None
    attack: Attack | None


@dataclass(frozen=True)
class Spectrum:
    """Levels (dBFS) in sixths of an octave of the loud and of the quiet windows, over their centres (Hz)."""

    frequency: tuple[float, ...]
    loud: tuple[float, ...]
    quiet: tuple[float, ...]


@dataclass(frozen=True)
class Inspection:
    """What a take holds. None where the sound gives no answer; `hum_why` says why none is given for hum.

    `dc_dbfs`: the mean of the channel that is furthest off. `loudness_range_sure`: there was enough of it.
    `loud_dbfs`: L10. `quiet`: parts in which nothing is played. `crest_db`: of the loud windows.
    """

    measures: Measures
    loudness_range_lu: float | None
    loudness_range_sure: bool
    dc_dbfs: float | None
    clips: tuple[Clip, ...]
    loud_dbfs: float | None
    crest_db: float | None
    noise: Noise | None
    quiet: tuple[SoundPart, ...]
    hum: Hum | None
    hum_why: str
    dynamics: Dynamics
    speaker: SpeakerSound
    silence: Silence
    channels: Channels
    spectrum: Spectrum


@dataclass(frozen=True)
class Inspected:
    """An inspection, and what the waveform is drawn from."""

    inspection: Inspection
    extremes: Extremes


class _First:
    """What one reading finds without knowing the whole."""

    def __init__(self, sound: Sound) -> None:
        self.sound = sound
        self.highest, self.lowest = np.full(sound.channels, -np.inf), np.full(sound.channels, np.inf)
        self.sums, self.squares = np.zeros(sound.channels), np.zeros(sound.channels)
        self.count, self.over, self.apart = 0, 0.0, 0.0
        self.loudness, self.bins, self.onsets = Loudness(sound.rate, sound.channels), Bins(), Onsets(sound.rate)
        size = round(FRAME_S * sound.rate)
        self._frames = Windows(size, size)
        self._means: list[Real] = []
        self._powers: list[Real] = []

    def add(self, block: Block) -> None:
        whole = planes(block)
        fresh = whole[:, TRUE_PEAK_TAPS if self.count else 0 :]
        self.highest, self.lowest = (
            np.maximum(self.highest, fresh.max(axis=1)),
            np.minimum(self.lowest, fresh.min(axis=1)),
        )
        self.sums += fresh.sum(axis=1, dtype=np.float64)
        self.squares += np.square(fresh, dtype=np.float64).sum(axis=1)
        self.count += fresh.shape[1]
        self.over = true_peak(whole.T, self.over)
        if self.sound.channels == 2:
            self.apart = max(self.apart, float(np.abs(fresh[0] - fresh[1]).max()))
        self.loudness.add(fresh.T)
        self.bins.add(fresh)
        self.onsets.add(fresh)
        frames = self._frames.of(fresh)
        self._means.append(frames.mean(axis=2, dtype=np.float64))
        self._powers.append(np.square(frames, dtype=np.float64).mean(axis=2))

    @property
    def peak(self) -> float:
        return float(max(self.highest.max(), -self.lowest.min()))

    @property
    def means(self) -> Real:
        return np.asarray(self.sums / self.count)

    @property
    def sounding(self) -> list[int]:
        """Channels that hold anything; all where none does."""
        peaks = np.maximum(self.highest, -self.lowest)
        empty = (peaks < EMPTY_PEAK) & (peaks < EMPTY_UNDER * peaks.max())
        return [i for i in range(self.sound.channels) if not empty[i]]

    @property
    def channels(self) -> Channels:
        if self.sound.channels == 1:
            return "mono"
        if len(self.sounding) < 2:
            return "left only" if self.sounding == [0] else "right only"
        return "same" if self.apart < SAME_WITHIN and self.peak > 0 else "stereo"

    def levels(self) -> Levels:
        """Mean squares of frames about each frame's own mean, so that DC hides no quiet part."""
        about = np.concatenate(self._powers, axis=1) - np.square(np.concatenate(self._means, axis=1))
        return Levels(np.maximum(about[self.sounding].mean(axis=0), 0.0))


def inspect(sound: Sound) -> Iterator[float | Inspected]:
    """The part that is done, time after time, and last what was found. Read twice: what is loudest and what is quiet
    first, then what is held against that."""
    first = _First(sound)
    for block in sound.blocks(TRUE_PEAK_TAPS):
        first.add(block)
        yield min(1.0, first.count / max(1, sound.frames)) / 2
    first.loudness.end()
    levels, sounding = first.levels(), first.sounding
    loud = levels.loud()
    second = _Second(sound, first, levels, loud)
    for block in sound.blocks(LOOK):
        second.add(block)
        yield 0.5 + min(1.0, second.count / max(1, sound.frames)) / 2
    second.end()
    runs = second.runs
    noise_floor = levels.noise_floor()
    density = second.spectra.density("quiet")
    hum, why = _hum(second.stretches(), len(sounding))
    range_lu = first.loudness.loudness_range()
    yield Inspected(
        Inspection(
            measures=_measures(sound, first, len(runs)),
            loudness_range_lu=range_lu,
            loudness_range_sure=first.count / sound.rate >= SURE_RANGE_S,
            dc_dbfs=decibels(float(np.abs(first.means).max())),
            clips=places(runs, sound.rate),
            loud_dbfs=loud,
            crest_db=second.spectra.loud_crest_db(),
            noise=None if noise_floor is None else Noise(noise_floor, _a_weighted(density, second.spectra.frequency)),
            quiet=tuple(sorted(sorted(levels.quiet(), key=_length)[-MOST_STRETCHES:], key=lambda s: s.start)),
            hum=hum,
            hum_why=why,
            dynamics=Dynamics(
                levels.range_db(), None if loud is None else first.onsets.attack(loud - GATE_UNDER_LOUD_DB)
            ),
            speaker=speaker_sound(
                second.spectra.density("loud"),
                density,
                second.spectra.frequency,
                sound.rate,
                second.spectra.loud_crest_db(),
            ),
            silence=levels.silence(),
            channels=first.channels,
            spectrum=_spectrum(second.spectra, sound.rate),
        ),
        first.bins.all(),
    )


def _length(stretch: SoundPart) -> float:
    return stretch.stop - stretch.start


class _Second:
    """What is held against what the first reading found."""

    def __init__(self, sound: Sound, first: _First, levels: Levels, loud: float | None) -> None:
        self._sound, self._first = sound, first
        self._sounding = first.sounding
        self.count, self._runs = 0, list[Runs]()
        self._begin = 0
        self._held: Planes | None = None
        quiet = levels.quiet_under()
        self.spectra = Spectra(sound.rate, None if loud is None else loud - LOUD_WITHIN_DB, quiet)
        wanted, budget = [], MOST_QUIET_S
        for each in sorted(levels.quiet(), key=_length, reverse=True):
            if budget < 1.0 or _length(each) < 1.0:
                break
            taken = min(_length(each), budget)
            budget -= taken
            wanted.append((round(each.start * sound.rate), round((each.start + taken) * sound.rate)))
        self._wanted = sorted(wanted)
        self._pieces: dict[int, list[Block]] = {start: [] for start, _ in self._wanted}

    def add(self, block: Block) -> None:
        if self._held is not None:
            self._clips(self._held, self._held.shape[1] - LOOK // 2)
        self._held = planes(block)
        sounding = self._held[self._sounding, LOOK if self.count else 0 :]
        self.spectra.add(sounding)
        fresh = sounding.shape[1]
        for start, stop in self._wanted:
            a, b = max(start, self.count), min(stop, self.count + fresh)
            if a < b:
                self._pieces[start].append(sounding[:, a - self.count : b - self.count].T)
        self.count += fresh

    def end(self) -> None:
        if self._held is not None:
            self._clips(self._held, self._held.shape[1])

    def _clips(self, block: Planes, end: int) -> None:
        """What lies across the seam of two blocks is seen whole in both and counted in one."""
        at = self.count - block.shape[1]
        extremes = np.array([self._first.highest, self._first.lowest])
        found = clipped_runs(block.T, self._sound.rate, self._sound.lsb, extremes, self._begin, end)
        self._runs.append(found + np.array([at, at, 0, 0]))
        self._begin = LOOK // 2

    @property
    def runs(self) -> Runs:
        """All clipped runs of the sound."""
        return np.concatenate(self._runs)

    def stretches(self) -> list[Block]:
        """Quiet stretches at the rate hum is looked for, shape (n, channels)."""
        import soxr

        whole = [np.concatenate(pieces) for pieces in self._pieces.values() if pieces]
        return [soxr.resample(each, self._sound.rate, HUM_RATE) for each in whole]


def _hum(stretches: list[Block], channels: int) -> tuple[Hum | None, str]:
    """The strongest hum of any channel; else why nothing is said, empty where there is none."""
    found = []
    for channel in range(channels):
        windows = windows_of(each[:, channel].astype(np.float64) for each in stretches)
        if len(windows) < 2:
            there = sum(len(each) for each in stretches) / HUM_RATE
            short = f"{there:.1f} s of quiet are not enough" if there else "there is no quiet part of a second"
            return None, f"{short}; {LEAST_S:g} s are wanted"
        found.append(find_hum(windows))
    return max((hum for hum in found if hum), key=lambda hum: hum.total_dbfs, default=None), ""


def _measures(sound: Sound, first: _First, runs: int) -> Measures:
    level = decibels(first.peak)
    mean = power_db(float(first.squares.sum()) / (first.count * sound.channels))
    return Measures(
        seconds=first.count / sound.rate,
        rate=sound.rate,
        channels=sound.channels,
        peak_dbfs=level,
        true_peak_dbtp=decibels(max(first.over, first.peak)),
        rms_dbfs=mean,
        loudness_lufs=first.loudness.integrated(),
        crest_db=level - mean if level is not None and mean is not None else None,
        clipped_runs=runs,
    )


def _a_weighted(density: Real | None, frequency: Real) -> float | None:
    if density is None:
        return None
    return power_db(float((density * a_weighting(frequency)).sum() * (frequency[1] - frequency[0])))


def _spectrum(spectra: Spectra, rate: int) -> Spectrum:
    loud, quiet = spectra.density("loud"), spectra.density("quiet")
    return Spectrum(
        tuple(band_centres(rate).tolist()),
        () if loud is None else tuple(band_levels(loud, rate).tolist()),
        () if quiet is None else tuple(band_levels(quiet, rate).tolist()),
    )
