"""Spectra of what is loud in a recording, part by part, and of its noise; the difference of two."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.dynamics import DIGITAL_SILENCE, FRAME_S, Levels
from low_tide.core.audio.rendering import Samples
from low_tide.core.audio.spectrum import band_centres, band_levels
from low_tide.core.comparing.aligning import PHASE_WINDOW, RATE
from low_tide.core.frequency import frequency_grid, programme_weights

PARTS = 8
OVER_NOISE_DB = 20.0
"""A band is told where both stand so far over their noise."""
USABLE_SHARE = 0.45
"""Of a recording's own rate: over that its converter lets nothing through."""
BASS_HZ, PRESENCE_HZ = (50.0, 220.0), (2_000.0, 5_000.0)

SIZE = PHASE_WINDOW
STRETCH_S, STEADY_DB, UNDER_LOUD_DB, LEAST_QUIET = 0.5, 2.0, 6.0, 4
HEARD_WITHIN_DB = 25.0
"""A bass peak is looked for where the reference has something of its bass."""


@dataclass(frozen=True, eq=False)
class LoudSpectra:
    """Densities (per Hz) of loud windows, shape (parts, bins), and of noise alone, shape (bins,); None without any."""

    parts: Samples
    noise: Samples | None

    @property
    def whole(self) -> Samples:
        """Mean over the parts."""
        return np.asarray(self.parts.mean(axis=0))


def levels_of(samples: Samples) -> Levels:
    """Levels of 50 ms frames of one channel at 48 kHz."""
    size = round(FRAME_S * RATE)
    frames = samples[: len(samples) // size * size].reshape(-1, size)
    return Levels(np.asarray(np.einsum("ij,ij->i", frames, frames) / size - np.square(frames.mean(axis=1))))


def loud_windows(samples: Samples) -> NDArray[np.bool_]:
    """Which windows of 171 ms, half overlapped, lie over L50 of what is played."""
    power = _window_power(samples)
    played = Levels(power).played()
    return power >= (10 ** (float(np.median(played)) / 10) if len(played) else np.inf)


def _windows(samples: Samples) -> Samples:
    if len(samples) < SIZE:
        return np.zeros((0, SIZE))
    return np.lib.stride_tricks.sliding_window_view(samples, SIZE)[:: SIZE // 2]


def _window_power(samples: Samples) -> Samples:
    windows = _windows(samples)
    return np.asarray(np.einsum("ij,ij->i", windows, windows) / SIZE)


def loud_spectra(samples: Samples, loud: NDArray[np.bool_]) -> LoudSpectra | None:
    """Spectra of the windows that are loud, in parts that follow each other; None with fewer of them than parts."""
    windows = _windows(samples)
    chosen = np.flatnonzero(loud[: len(windows)])
    if len(chosen) < PARTS:
        return None
    parts = np.stack([_density(windows, part) for part in np.array_split(chosen, PARTS)])
    return LoudSpectra(parts, _noise(windows, levels_of(samples)))


def steady_noise(levels: Levels) -> NDArray[np.bool_]:
    """Frames of 50 ms in which nothing but noise is heard: as quiet as the quietest half second that is steady.

    What dies away is no noise, however quiet: a stretch counts whose two halves and single frames differ by little.
    """
    found = np.zeros(len(levels.power), bool)
    loud, size = levels.loud(), round(STRETCH_S / FRAME_S)
    if loud is None or len(levels.power) < size:
        return found
    stretches = np.lib.stride_tricks.sliding_window_view(levels.power, size)
    power, db = stretches.mean(axis=1), np.lib.stride_tricks.sliding_window_view(levels.db, size)
    falls = np.abs(db[:, : size // 2].mean(axis=1) - db[:, size // 2 :].mean(axis=1))
    steady = (stretches.min(axis=1) > DIGITAL_SILENCE**2) & (falls < STEADY_DB) & (db.std(axis=1) < STEADY_DB)
    steady &= power < 10 ** ((loud - UNDER_LOUD_DB) / 10)
    if not steady.any():
        return found
    for at in np.flatnonzero(steady & (power <= power[steady].min() * 10 ** (STEADY_DB / 10))):
        found[at : at + size] = True
    return found


def _noise(windows: Samples, levels: Levels) -> Samples | None:
    frames, each = steady_noise(levels), round(FRAME_S * RATE)
    starts = np.arange(len(windows)) * (SIZE // 2)
    first, last = starts // each, (starts + SIZE - 1) // each
    count = np.concatenate(([0], np.cumsum(frames)))
    inside = last < len(frames)
    quiet = np.zeros(len(windows), bool)
    quiet[inside] = count[last[inside] + 1] - count[first[inside]] == (last - first + 1)[inside]
    chosen = np.flatnonzero(quiet)
    return _density(windows, chosen) if len(chosen) >= LEAST_QUIET else None


def density(samples: Samples, chosen: NDArray[np.bool_]) -> Samples:
    """Density (per Hz) of one channel at 48 kHz in those of `loud_windows` that are chosen, shape (bins,)."""
    windows = _windows(samples)
    return _density(windows, np.flatnonzero(chosen[: len(windows)]))


def _density(windows: Samples, chosen: NDArray[np.intp]) -> Samples:
    from scipy.fft import rfft

    shape, total = np.hanning(SIZE), np.zeros(SIZE // 2 + 1)
    for first in range(0, len(chosen), 128):
        total += np.square(np.abs(rfft(windows[chosen[first : first + 128]] * shape, axis=1))).sum(axis=0)
    return np.asarray(total * 2 / (RATE * float(np.square(shape).sum()) * max(1, len(chosen))))


@dataclass(frozen=True)
class SpectrumDifference:
    """How much more of each sixth of an octave (centres, Hz) a take has than the reference, dB, ± between parts.

    `told`: both stand 20 dB over their noise there and their rates reach so far. `noise_known`: both have a quiet part
    to tell it by. `bass` at `bass_hz`: the largest difference from 50 to 220 Hz; `presence`: the mean from 2 to 5 kHz;
    None where nothing is told there. `programme`: all of it as a guitar's programme is weighed for loads.
    """

    frequency: tuple[float, ...]
    db: tuple[float, ...]
    spread: tuple[float, ...]
    told: tuple[bool, ...]
    noise_known: bool
    bass: float | None
    bass_hz: float | None
    bass_spread: float
    presence: float | None
    presence_spread: float
    programme: float | None


def _over_programme(centres: Samples, db: Samples, told: NDArray[np.bool_]) -> float | None:
    if told.sum() < PARTS:
        return None
    grid = frequency_grid()
    inside = (grid >= centres[told].min()) & (grid <= centres[told].max())
    weights = programme_weights()[inside]
    there = np.interp(np.log(grid[inside]), np.log(centres[told]), db[told])
    return float(10 * np.log10(weights @ 10 ** (there / 10) / weights.sum()))


def reach(rates: tuple[int, int]) -> float:
    """Up to which frequency (Hz) recordings made at two rates can be compared."""
    return min(USABLE_SHARE * min(rates), RATE / 2)


def difference(
    reference: LoudSpectra, take: LoudSpectra, gain_db: float, rates: tuple[int, int], in_line: bool
) -> SpectrumDifference:
    """A take with `gain_db` put on, against the reference. `rates`: those the two were recorded at.

    Where they are in line ± is how far parts differ from each other; where they are not, the standard error of both.
    """
    centres = band_centres(RATE)
    a, b = (np.stack([band_levels(part, RATE) for part in each.parts]) for each in (reference, take))
    found = band_levels(take.whole, RATE) - band_levels(reference.whole, RATE) + gain_db
    if in_line:
        spread = (b - a).std(axis=0, ddof=1)
    else:
        spread = np.sqrt((a.var(axis=0, ddof=1) + b.var(axis=0, ddof=1)) / PARTS)
    told = centres * 2 ** (1 / 12) <= reach(rates)
    for each in (reference, take):
        if each.noise is not None:
            told &= band_levels(each.whole, RATE) >= band_levels(each.noise, RATE) + OVER_NOISE_DB
    bass, presence = (told & (centres >= low) & (centres <= high) for low, high in (BASS_HZ, PRESENCE_HZ))
    levels = band_levels(reference.whole, RATE)
    bass &= levels >= levels[bass].max(initial=-np.inf) - HEARD_WITHIN_DB
    at = int(np.argmax(np.where(bass, np.abs(found), -1.0)))
    return SpectrumDifference(
        tuple(np.round(centres, 2).tolist()),
        tuple(np.round(found, 3).tolist()),
        tuple(np.round(spread, 3).tolist()),
        tuple(told.tolist()),
        all(each.noise is not None for each in (reference, take)),
        float(found[at]) if bass.any() else None,
        float(centres[at]) if bass.any() else None,
        float(spread[at]),
        float(found[presence].mean()) if presence.any() else None,
        float(spread[presence].mean()) if presence.any() else 0.0,
        _over_programme(centres, found, told),
    )
