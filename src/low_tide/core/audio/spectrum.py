"""Spectra of the loud and of the quiet of a take, and the bands they are shown in."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.frames import Planes, Windows

Real = NDArray[np.float64]

WINDOW_S = 0.085
BANDS_AN_OCTAVE = 6
LOWEST_HZ, HIGHEST_HZ = 31.25, 20_000.0


def window_size(rate: int) -> int:
    """The power of two nearest to 85 ms, in samples."""
    return int(2 ** round(np.log2(WINDOW_S * rate)))


def band_centres(rate: int) -> Real:
    """Centres (Hz) of sixths of an octave, up to 20 kHz or where the rate ends."""
    count = int(np.floor(BANDS_AN_OCTAVE * np.log2(HIGHEST_HZ / LOWEST_HZ))) + 1
    centres = LOWEST_HZ * 2 ** (np.arange(count) / BANDS_AN_OCTAVE)
    return np.asarray(centres[centres * 2 ** (0.5 / BANDS_AN_OCTAVE) <= rate / 2])


def band_levels(density: Real, rate: int) -> Real:
    """Levels (dBFS) of sixths of an octave of a density (per Hz) over the bins of a window; parts of bins count."""
    size = (len(density) - 1) * 2
    width = rate / size
    edges = (np.arange(len(density) + 1) - 0.5) * width
    below = np.concatenate(([0.0], np.cumsum(density * width)))
    centres, half = band_centres(rate), 2 ** (0.5 / BANDS_AN_OCTAVE)
    power = np.interp(centres * half, edges, below) - np.interp(centres / half, edges, below)
    return np.asarray(10 * np.log10(np.maximum(power, 1e-20)))


def a_weighting(frequency: Real) -> Real:
    """Gain (by power) of the A-weighting at frequencies (Hz), 1 at 1 kHz: IEC 61672-1, annex E."""
    f2 = np.square(frequency)
    gain = 12194.0**2 * f2**2 / ((f2 + 20.6**2) * np.sqrt((f2 + 107.7**2) * (f2 + 737.9**2)) * (f2 + 12194.0**2))
    return np.asarray(np.square(gain * 10 ** (2.0 / 20)))


@dataclass(frozen=True)
class Spectrogram:
    """Levels (dBFS, whole) in sixths of an octave at times (s): a row a time, over centres (Hz)."""

    times: tuple[float, ...]
    frequency: tuple[float, ...]
    levels: tuple[tuple[int, ...], ...]


def spectrogram(windows: NDArray[np.float32], times: Real, rate: int) -> Spectrogram:
    """Levels of windows of 85 ms, shape (windows, channels, size), each about its own mean; channels by their mean."""
    from scipy.fft import rfft

    size = windows.shape[2]
    shape = np.hanning(size).astype(np.float32)
    still = windows - windows.mean(axis=2, keepdims=True)
    power = np.square(np.abs(rfft(still * shape, axis=2))).mean(axis=1, dtype=np.float64)
    density = power * 2 / (rate * float(np.square(shape).sum()))
    levels = (np.round(band_levels(each, rate)).astype(int).tolist() for each in density)
    return Spectrogram(
        tuple(np.round(times, 4).tolist()), tuple(band_centres(rate).tolist()), tuple(tuple(row) for row in levels)
    )


class Spectra:
    """Mean power densities (per Hz) of loud and of quiet windows, block by block; all channels that are given count.

    A window is loud from `loud` dBFS on, quiet up to `quiet` dBFS; None where there are none such.
    """

    def __init__(self, rate: int, loud: float | None, quiet: float | None) -> None:
        self.size = window_size(rate)
        self.frequency: Real = np.asarray(np.fft.rfftfreq(self.size, 1 / rate), np.float64)
        self._windows = Windows(self.size, self.size // 2)
        self._window = np.hanning(self.size).astype(np.float32)
        self._scale = 2 / (rate * float(np.square(self._window).sum()))
        self._loud_from = np.inf if loud is None else 10 ** (loud / 10)
        self._quiet_to = -1.0 if quiet is None else 10 ** (quiet / 10)
        self._sums = {"loud": np.zeros(len(self.frequency)), "quiet": np.zeros(len(self.frequency))}
        self._counts = {"loud": 0, "quiet": 0}
        self.loud_peak, self._loud_power = 0.0, 0.0

    def add(self, block: Planes) -> None:
        """The next samples, shape (channels, n)."""
        from scipy.fft import rfft

        windows = self._windows.of(block)
        # About each window's own mean: DC is no part of what is heard.
        power = np.square(windows).mean(axis=2) - np.square(windows.mean(axis=2))
        power = power.mean(axis=0)
        for name, chosen in (
            ("loud", power >= self._loud_from),
            ("quiet", (power <= self._quiet_to) & (power > 1e-14)),
        ):
            if not chosen.any():
                continue
            picked = windows[:, chosen]
            picked = picked - picked.mean(axis=2, keepdims=True)
            self._sums[name] += np.square(np.abs(rfft(picked * self._window, axis=2))).mean(axis=0).sum(axis=0)
            self._counts[name] += picked.shape[1]
            if name == "loud":
                self.loud_peak = max(self.loud_peak, float(np.abs(picked).max()))
                self._loud_power += float(power[chosen].sum())

    def density(self, name: str) -> Real | None:
        """Mean power density (per Hz) of 'loud' or 'quiet' windows."""
        count = self._counts[name]
        return self._sums[name] * self._scale / count if count else None

    def loud_crest_db(self) -> float | None:
        """Peak over RMS of the loud windows, dB."""
        if not self._counts["loud"] or not self._loud_power:
            return None
        return float(20 * np.log10(self.loud_peak) - 10 * np.log10(self._loud_power / self._counts["loud"]))
