"""How much of a take any filter of the reference gives, by octave and over frequency, and how far they cancel."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from math import log10
from typing import Any

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.rendering import Samples
from low_tide.core.audio.spectrum import band_centres, band_levels
from low_tide.core.comparing.aligning import PHASE_WINDOW, RATE, cross_spectra
from low_tide.core.comparing.fitted_filter import BLOCK_S, fit_filter
from low_tide.core.comparing.loud_spectra import SIZE, LoudSpectra, reach

OCTAVES_HZ = (63.0, 125.0, 250.0, 500.0, 1_000.0, 2_000.0, 4_000.0, 8_000.0)
DEEPEST_DB = -120.0
"""As far as a null is told: what is deeper is the arithmetic's."""
LOWEST_HZ = 20.0
LEAST_SHARE = 1e-9
"""An octave with less of the take's energy says nothing."""


@dataclass(frozen=True)
class OctaveShare:
    """An octave (centre, Hz): the share of it that a filter gives (0 to 1), and what is left when the reference is
    taken from the take (dB of the take's energy there), with the best gain alone and with the filter.

    None where the take has nothing there.
    """

    hz: float
    share: float | None
    null: float | None
    null_filtered: float | None


@dataclass(frozen=True)
class FilterShare:
    """What an equaliser can do with the reference to make a take of it.

    `share` of the take's energy (0 to 1), on blocks the filter was not fitted on; `left` the rest, dB of the take.
    `noise`: how much of that rest is noise that is expected, dB of the take; None where no quiet part tells it.
    `null`: the rest with the best gain alone, dB. `coherence` over `frequency` (Hz), 0 to 1: the share by frequency,
    and `coherent` the same over all.
    """

    share: float
    left: float
    noise: float | None
    null: float
    octaves: tuple[OctaveShare, ...]
    frequency: tuple[float, ...]
    coherence: tuple[float, ...]
    coherent: float

    @property
    def over_noise(self) -> float | None:
        """How far what is left stands over the noise, dB."""
        return None if self.noise is None else self.left - self.noise


def _db(part: float, whole: float) -> float:
    return max(DEEPEST_DB, 10 * log10(part / whole)) if whole > 0 and part > 0 else DEEPEST_DB


def _octave(frequency: NDArray[Any], centre: float) -> NDArray[np.bool_]:
    return (frequency >= centre / 2**0.5) & (frequency < centre * 2**0.5)


@dataclass(frozen=True, eq=False)
class _Tried:
    """Something on the blocks that a filter was not fitted on: its energy, and its power over the bins of a window."""

    energy: float
    power: Samples


def _tried(count: int, sound: Callable[[slice], Samples]) -> _Tried:
    """Of `count` samples, which `sound` gives block by block: nothing as long as a take is made for it."""
    from scipy.fft import rfft

    size, block = PHASE_WINDOW, round(BLOCK_S * RATE)
    shape, power, energy = np.hanning(size), np.zeros(size // 2 + 1), 0.0
    for start in range(block, count, 2 * block):
        here = sound(slice(start, min(count, start + block)))
        energy += float(here @ here)
        if len(here) == block:
            windows = np.lib.stride_tricks.sliding_window_view(here, size)[:: size // 2]
            power += np.square(np.abs(rfft(windows * shape, axis=1, workers=-1))).sum(axis=0)
    return _Tried(energy, power)


def filter_share(
    reference: Samples, take: Samples, spectra: tuple[LoudSpectra | None, LoudSpectra | None], rates: tuple[int, int]
) -> FilterShare | None:
    """What a filter can do, of two recordings in line, one channel at 48 kHz; None under four seconds.

    A gain is a filter too: where the fitted one, tried on what it was not fitted on, leaves more than the best gain,
    it is the gain that counts. Coherence by Welch (1967), 171 ms, half overlapped: Bendat and Piersol, Random Data.
    """
    fit = fit_filter(reference, take)
    if fit is None or not take[fit.tried].any():
        return None
    cross, xx, yy, _ = cross_spectra(reference, take)
    frequency = np.fft.rfftfreq(PHASE_WINDOW, 1 / RATE)
    for each in (cross, xx, yy):
        each[frequency < LOWEST_HZ] = 0.0
    gain = float(cross.real.sum() / xx.sum())
    taken = _tried(len(take), lambda at: take[at])
    left = _tried(len(take), lambda at: fit.left[at])
    alone = _tried(len(take), lambda at: take[at] - gain * reference[at])
    fits = left.energy < alone.energy
    rest, response = (left.energy, fit.gain(SIZE)) if fits else (alone.energy, np.full(SIZE // 2 + 1, gain**2))
    usable = reach(rates)
    octaves = []
    for hz in OCTAVES_HZ:
        at = _octave(frequency, hz)
        if hz * 2**0.5 > usable or yy[at].sum() < LEAST_SHARE * yy.sum() or taken.power[at].sum() <= 0:
            octaves.append(OctaveShare(hz, None, None, None))
            continue
        by_gain, by_fit = (float(each.power[at].sum() / taken.power[at].sum()) for each in (alone, left))
        least = min(by_gain, by_fit)
        octaves.append(OctaveShare(hz, max(0.0, 1 - least), _db(by_gain, 1.0), _db(least, 1.0)))
    centres, coherence = _coherence(cross, xx, yy)
    shown = centres <= usable
    both = np.abs(cross) ** 2 / np.maximum(xx * yy, 1e-300)
    return FilterShare(
        share=max(0.0, 1 - rest / taken.energy),
        left=_db(rest, taken.energy),
        noise=_expected_noise(response, int(fit.tried.sum()), spectra, taken.energy),
        null=_db(alone.energy, taken.energy),
        octaves=tuple(octaves),
        frequency=tuple(np.round(centres[shown], 2).tolist()),
        coherence=tuple(np.round(coherence[shown], 4).tolist()),
        coherent=float((both * yy).sum() / yy.sum()),
    )


def _coherence(cross: NDArray[np.complex128], xx: Samples, yy: Samples) -> tuple[Samples, Samples]:
    """Magnitude-squared coherence in sixths of an octave, each weighted by the take's own power."""
    both = np.abs(cross) ** 2 / np.maximum(xx, 1e-300)
    explained, whole = band_levels(both, RATE), band_levels(yy, RATE)
    return band_centres(RATE), np.asarray(np.clip(10 ** ((explained - whole) / 10), 0.0, 1.0))


def _expected_noise(
    response: Samples, count: int, spectra: tuple[LoudSpectra | None, LoudSpectra | None], whole: float
) -> float | None:
    """The take's own noise and the reference's through a filter (|H|²) in `count` samples, dB of the take's energy."""
    noises = [s.noise if s else None for s in spectra]
    if noises[0] is None or noises[1] is None:
        return None
    width = RATE / SIZE
    power = float((noises[1] + noises[0] * response).sum() * width)
    return _db(power * count, whole)
