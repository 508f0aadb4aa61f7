"""An impulse response: its onset, polarity, length and level, and the tone it has."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.spectrum import band_centres
from low_tide.core.frequency import frequency_grid, programme_weights

Samples = NDArray[np.float64]
Real = NDArray[np.float64]

RATE = 48_000
"""All are worked on at this rate, Hz."""
LONGEST_S = 5.0
ONSET_DB, RISE_DB = -40.0, -60.0
RISE_S = 0.0005
"""From where it stands over the onset's level it is gone back to where it rises, at most so far."""
EARLY_S, FIRST_S = 0.005, 0.002
LENGTH_DB = -60.0
BANDS_HZ = {"low": (70.0, 200.0), "low_mid": (200.0, 800.0), "presence": (1_500.0, 4_000.0), "top": (4_000.0, 8_000.0)}
LIKE_HZ = (70.0, 8_000.0)
"""Over these its tone is told, and held against others'."""
REACH_DB = -10.0
REACH_OF_HZ = (200.0, 4_000.0)
LEAST_PEAK = 1e-6
LEAST_HEARD = 0.01
"""At least so much of its energy lies over 20 Hz: less is a constant offset and no sound."""
HEARD_HZ = 20.0
FLOOR = 1e-20
LEAST_SIZE = 1 << 15


@dataclass(frozen=True)
class ToneBands:
    """Levels of four bands against what a guitar's programme has through it, dB: 70 to 200, 200 to 800 Hz, 1.5 to 4,
    4 to 8 kHz."""

    low: float
    low_mid: float
    presence: float
    top: float


@dataclass(frozen=True)
class ImpulseAnalysis:
    """What an impulse response is like.

    `onset`, ms from its beginning; `length`, ms from there to 60 dB down (Schroeder, 1965), None where it does not get
    there. `inverted`: its largest early peak points down. `peak_gain` and `programme_gain`: what brings its peak to 1,
    and a guitar's programme through it to the level it had, dB. `response`: dB over `band_centres(RATE)`, its programme
    at 0. `centroid`, Hz; `reach`: between these (Hz) it stands within 10 dB of its middle; `early_late`: energy of the
    first 5 ms over that of the rest, dB. `seconds` and `rate` of the file.
    """

    seconds: float
    rate: int
    onset: float
    inverted: bool
    length: float | None
    peak_gain: float
    programme_gain: float
    response: tuple[float, ...]
    bands: ToneBands
    centroid: float
    reach: tuple[float, float]
    early_late: float


def at_rate(samples: Samples, rate: int, wanted: int) -> Samples:
    """An impulse response at another rate (Hz), shape (n,): its samples are rates apart larger, so that what is
    convolved with it is as loud."""
    import soxr

    if rate == wanted:
        return samples
    return np.asarray(soxr.resample(samples, rate, wanted, quality="VHQ")) * (rate / wanted)


def onset(samples: Samples) -> int:
    """The sample it begins at: the first over −40 dB of its peak, and back from there to where that rises."""
    size = np.abs(samples)
    over = int(np.argmax(size >= size.max() * 10 ** (ONSET_DB / 20)))
    least = size.max() * 10 ** (RISE_DB / 20)
    first = max(0, over - round(RISE_S * RATE))
    for at in range(over, first, -1):
        if size[at - 1] < least or samples[at - 1] * samples[over] < 0:
            return at
    return first


def _length_ms(samples: Samples, start: int) -> float | None:
    left = np.cumsum(np.square(samples[start:])[::-1])[::-1]
    under = left < left[0] * 10 ** (LENGTH_DB / 10)
    return float(np.argmax(under)) / RATE * 1000 if under.any() else None


def spectrum(samples: Samples, size: int) -> NDArray[np.complex128]:
    """Its response at the bins of a transform of `size` samples, `bins(size)`, shape (size/2 + 1,)."""
    from scipy.fft import rfft

    return np.asarray(rfft(samples, size))


def bins(size: int) -> Real:
    """Frequencies (Hz) of the bins of a transform of `size` samples."""
    return np.asarray(np.arange(size // 2 + 1) * (RATE / size))


def transform_size(*lengths: int) -> int:
    """Of a transform that holds impulse responses of these lengths, and tells bins of 1.5 Hz apart."""
    from scipy.fft import next_fast_len

    return int(next_fast_len(max(LEAST_SIZE, *lengths), real=True))


def response_at(samples: Samples, frequency: Real) -> NDArray[np.complex128]:
    """Its response at frequencies (Hz) that rise, shape (F,): between bins real and imaginary part go straight; its
    delay is taken off meanwhile, so that they do."""
    size = transform_size(len(samples))
    late = int(np.argmax(np.abs(samples)))
    hz = bins(size)
    turned = spectrum(samples, size) * np.exp(2j * np.pi * hz * late / RATE)
    found = np.interp(frequency, hz, turned.real) + 1j * np.interp(frequency, hz, turned.imag)
    return np.asarray(found * np.exp(-2j * np.pi * frequency * late / RATE))


def smoothed_db(power: Real, frequency: Real, of_octave: float = 1 / 12) -> Real:
    """The mean of a power (over `bins` of its own length) in parts of an octave about frequencies (Hz), dB."""
    width = RATE / 2 / (len(power) - 1)
    edges = np.concatenate(([0.0], np.cumsum(power)))
    half = 2 ** (of_octave / 2)
    low, high = (np.clip(frequency * f / width + 0.5, 0, len(power)) for f in (1 / half, half))
    at = np.arange(len(edges))
    mean = (np.interp(high, at, edges) - np.interp(low, at, edges)) / np.maximum(high - low, 1e-9)
    return np.asarray(10 * np.log10(np.maximum(mean, FLOOR)))


@lru_cache(maxsize=1)
def _of_bands() -> tuple[NDArray[np.intp], NDArray[np.intp], int]:
    """First and last bin of each sixth of an octave, and the size of the transform."""
    size = 1 << 16
    half, centres = 2 ** (0.5 / 6), band_centres(RATE)
    width = RATE / size
    first = np.ceil(centres / half / width).astype(np.intp)
    last = np.maximum(first + 1, np.ceil(centres * half / width).astype(np.intp))
    return first, last, size


def band_response(samples: Samples) -> Real:
    """Mean power in sixths of an octave over `band_centres(RATE)`, dB; as it is, no level taken off."""
    from scipy.fft import rfft

    first, last, size = _of_bands()
    power = np.square(np.abs(rfft(samples, max(size, 1 << (len(samples) - 1).bit_length()))))
    if (len(power) - 1) * 2 != size:
        power = power[:: ((len(power) - 1) * 2) // size]
    total = np.concatenate(([0.0], np.cumsum(power)))
    return np.asarray(10 * np.log10(np.maximum((total[last] - total[first]) / (last - first), FLOOR)))


def within(bounds: tuple[float, float]) -> NDArray[np.bool_]:
    """Which of `band_centres(RATE)` lie between two frequencies, Hz."""
    centres = band_centres(RATE)
    return (centres >= bounds[0]) & (centres <= bounds[1])


def programme_db(response: Real) -> float:
    """The level of a guitar's programme through a response (dB over `band_centres(RATE)`), dB of what went in."""
    grid = frequency_grid()
    level = np.interp(np.log(grid), np.log(band_centres(RATE)), response)
    return float(10 * np.log10(max(FLOOR, float(programme_weights() @ 10 ** (level / 10)))))


def tone_bands(response: Real) -> ToneBands:
    """The four bands of a response (dB over `band_centres(RATE)`): the mean power of each."""
    power = 10 ** (response / 10)
    low, low_mid, presence, top = (
        float(10 * np.log10(max(FLOOR, power[within(bounds)].mean()))) for bounds in BANDS_HZ.values()
    )
    return ToneBands(low, low_mid, presence, top)


def wrong_with(samples: Samples) -> str:
    """Why samples (at 48 kHz) are no impulse response, in words; empty where they may be one."""
    if len(samples) < 2 or np.abs(samples).max() < LEAST_PEAK:
        return "it is silent"
    spectrum = np.square(np.abs(np.fft.rfft(samples)))
    heard = np.arange(len(spectrum)) * (RATE / len(samples)) >= HEARD_HZ
    if spectrum[heard].sum() < LEAST_HEARD * spectrum.sum():
        return "there is nothing in it but a constant offset"
    return ""


def analysed(samples: Samples, rate: int, seconds: float) -> ImpulseAnalysis:
    """What an impulse response is like: samples at 48 kHz, shape (n,); rate and length of the file they came in.

    ValueError for what `wrong_with` refuses.
    """
    wrong = wrong_with(samples)
    if wrong:
        raise ValueError(wrong)
    start = onset(samples)
    early = samples[start : start + round(FIRST_S * RATE)]
    plain = band_response(samples)
    level = programme_db(plain)
    response = plain - level
    power = 10 ** (response / 10)
    like = within(LIKE_HZ)
    centres = band_centres(RATE)
    middle = float(power[within(REACH_OF_HZ)].mean())
    there = np.flatnonzero(power >= middle * 10 ** (REACH_DB / 10))
    cut = start + round(EARLY_S * RATE)
    first, rest = float(np.square(samples[start:cut]).sum()), float(np.square(samples[cut:]).sum())
    # The power of a band of sixths grows with its width, which goes with its centre.
    weights = power[like] * centres[like]
    return ImpulseAnalysis(
        seconds=seconds,
        rate=rate,
        onset=start / RATE * 1000,
        inverted=bool(early[np.argmax(np.abs(early))] < 0),
        length=_length_ms(samples, start),
        peak_gain=float(-20 * np.log10(np.abs(samples).max())),
        programme_gain=-level,
        response=tuple(np.round(response, 3).tolist()),
        bands=tone_bands(response),
        centroid=float((weights @ centres[like]) / weights.sum()),
        reach=(float(centres[there[0]]), float(centres[there[-1]])),
        early_late=float(10 * np.log10(max(first, FLOOR) / max(rest, FLOOR))),
    )
