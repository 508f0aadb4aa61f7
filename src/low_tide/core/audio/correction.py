"""Making one load sound like another after the fact: equaliser bands, and a filter to convolve with."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from low_tide.core.frequency import Real, frequency_grid, programme_weights
from low_tide.core.units import figure

FIT_BAND = (60.0, 10_000.0)
MOST_BANDS = 6
GOOD_ENOUGH_DB = 0.15
RATES = (44_100, 48_000, 96_000)
RATE = 48_000
"""Of these the one that is taken where nobody chose."""
FIR_SECONDS = 0.17
"""Length of the filter: a few times the ringing of a speaker's resonance."""


@dataclass(frozen=True)
class Band:
    """An equaliser band: Hz, dB, and Q (0.71 for the shelves)."""

    kind: Literal["low shelf", "peak", "high shelf"]
    frequency: float
    gain: float
    q: float


@dataclass(frozen=True)
class Equalisation:
    """Bands that bring one response to another, `gain` (dB) over all, and what is left from 60 Hz to
    10 kHz: dB RMS over the programme, and dB at the worst. The bands are digital filters at `rate` (Hz).

    `target` and `fitted` in dB over the grid's frequencies, each with its programme mean taken off.
    """

    bands: tuple[Band, ...]
    gain: float
    residual: float
    worst: float
    target: tuple[float, ...]
    fitted: tuple[float, ...]
    rate: int = RATE


def band_coefficients(band: Band, rate: int = RATE) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
    """A band as it runs, a digital biquad at `rate` (Hz): coefficients of z⁰, z⁻¹ and z⁻² over those under the line.

    R. Bristow-Johnson, Cookbook formulae for audio EQ biquad filter coefficients.
    """
    w0, a = 2 * np.pi * band.frequency / rate, 10 ** (band.gain / 40)
    cosine, alpha = np.cos(w0), np.sin(w0) / (2 * band.q)
    if band.kind == "peak":
        over = (1 + alpha * a, -2 * cosine, 1 - alpha * a)
        under = (1 + alpha / a, -2 * cosine, 1 - alpha / a)
    else:
        # The high shelf is the low one with the sign of its cosines turned.
        sign, slope = (1 if band.kind == "low shelf" else -1), 2 * np.sqrt(a) * alpha
        plus, minus = (a + 1) + sign * (a - 1) * cosine, (a + 1) - sign * (a - 1) * cosine
        over = (a * (minus + slope), sign * 2 * a * ((a - 1) - sign * (a + 1) * cosine), a * (minus - slope))
        under = (plus + slope, -sign * 2 * ((a - 1) + sign * (a + 1) * cosine), plus - slope)
    return over, under


def band_gain(band: Band, frequency: Real, rate: int = RATE) -> Real:
    """Gain in dB at `frequency` (Hz) of a band as it runs at `rate` (Hz); over half the rate its gain there is held."""
    over, under = band_coefficients(band, rate)
    z = np.exp(-2j * np.pi * np.minimum(frequency, rate / 2) / rate)
    return np.asarray(20 * np.log10(np.abs(np.polyval(over[::-1], z) / np.polyval(under[::-1], z))))


def bands_gain(bands: tuple[Band, ...], frequency: Real, rate: int = RATE) -> Real:
    """Gain in dB of all bands one after the other, at a rate (Hz)."""
    return np.asarray(sum((band_gain(b, frequency, rate) for b in bands), np.zeros(len(frequency))))


SHELF_Q = 0.71


def _bands(x: Real, kinds: list[str]) -> tuple[Band, ...]:
    found = []
    for (log_f, gain, log_q), kind in zip(x[1:].reshape(-1, 3), kinds, strict=True):
        q = float(np.exp(log_q)) if kind == "peak" else SHELF_Q
        found.append(Band(kind, float(np.exp(log_f)), float(gain), q))  # type: ignore[arg-type]
    return tuple(found)


def without_mean(response: Real) -> Real:
    """A response in dB with its programme level taken off."""
    weights = programme_weights(len(response))
    return np.asarray(response - 10 * np.log10(weights @ 10 ** (response / 10)))


def fit_bands(target_db: Real, rate: int = RATE, most: int = MOST_BANDS) -> Equalisation:
    """Up to six bands at `rate` (Hz) fitted to `target_db` (dB over `frequency_grid()`), by weighted least squares.

    A band is added where most is left, and all are fitted again, until little is left.
    """
    from scipy.optimize import least_squares

    f = frequency_grid(len(target_db))
    target = without_mean(target_db)
    inside = (f >= FIT_BAND[0] / 2) & (f <= FIT_BAND[1] * 1.5)
    told = (f >= FIT_BAND[0]) & (f <= FIT_BAND[1])
    weight = np.sqrt(programme_weights(len(f))[inside])
    weight = weight / weight.max() + 0.15
    grid = f[inside]
    kinds: list[str] = []
    x = np.array([0.0])

    def miss(values: Real) -> Real:
        return np.asarray((values[0] + bands_gain(_bands(values, kinds), grid, rate) - target[inside]) * weight)

    def bounds(n: int) -> tuple[list[float], list[float]]:
        low = [-24.0, *[np.log(40.0), -24.0, np.log(0.2)] * n]
        return low, [24.0, *[np.log(12_000.0), 24.0, np.log(8.0)] * n]

    first = ("high shelf", "peak", "peak", "low shelf", "peak", "peak")
    for kind in first[:most]:
        left = target[inside] - x[0] - bands_gain(_bands(x, kinds), grid, rate)
        left = left - np.average(left, weights=weight)
        if kinds and float(np.sqrt(np.average(left**2, weights=weight**2))) < GOOD_ENOUGH_DB:
            break
        at = int(np.argmax(np.abs(left * weight)))
        start = {"low shelf": 120.0, "high shelf": 2000.0}.get(kind, float(grid[at]))
        kinds.append(kind)
        gain = float(np.clip(left[at] if kind == "peak" else 0.0, -20, 20))
        x = np.concatenate((x, [np.log(np.clip(start, 45, 11_000)), gain, 0.0]))
        x = least_squares(miss, x, bounds=bounds(len(kinds)), max_nfev=120).x
    bands = tuple(sorted((b for b in _bands(x, kinds) if abs(b.gain) >= 0.1), key=lambda b: b.frequency))
    fitted = without_mean(bands_gain(bands, f, rate))
    left = fitted - target
    weights = programme_weights(len(f))
    residual = float(np.sqrt(np.average(left[told] ** 2, weights=weights[told])))
    worst = float(np.abs(left[told]).max())
    gain = float(-10 * np.log10(weights @ 10 ** (bands_gain(bands, f, rate) / 10)))
    return Equalisation(bands, gain, residual, worst, tuple(target.tolist()), tuple(fitted.tolist()), rate)


GRAPHIC_Q = 1.41
"""Of a band an octave wide."""
ANALOGUE_RATE = 192_000
"""A rate at which a digital band is as good as one of parts."""


def graphic(centres: tuple[float, ...], gains: tuple[float, ...]) -> tuple[Band, ...]:
    """The bands of an equaliser of fixed ones (Hz, dB), those that do nothing left out."""
    return tuple(Band("peak", f, g, GRAPHIC_Q) for f, g in zip(centres, gains, strict=True) if g)


def programme_gain(bands: tuple[Band, ...]) -> float:
    """What bands add to the level of a programme, dB."""
    if not bands:
        return 0.0
    f = frequency_grid()
    return float(10 * np.log10(programme_weights() @ 10 ** (bands_gain(bands, f, ANALOGUE_RATE) / 10)))


def fit_graphic(target_db: Real, centres: tuple[float, ...], reach: float) -> Equalisation:
    """Fixed bands (Hz) fitted to `target_db` (dB over `frequency_grid()`), none beyond ± `reach` dB.

    By weighted least squares over 60 Hz to 10 kHz, since neighbours lie over each other. ValueError without bands.
    """
    from scipy.optimize import least_squares

    if not centres:
        raise ValueError("an equaliser without bands corrects nothing")
    f = frequency_grid(len(target_db))
    target = without_mean(target_db)
    told = (f >= FIT_BAND[0]) & (f <= FIT_BAND[1])
    weights = programme_weights(len(f))
    weight = np.sqrt(weights[told]) / np.sqrt(weights[told]).max() + 0.1

    def made(x: Real) -> tuple[Band, ...]:
        return tuple(Band("peak", c, float(g), GRAPHIC_Q) for c, g in zip(centres, x[1:], strict=True))

    def miss(x: Real) -> Real:
        return np.asarray((x[0] + bands_gain(made(x), f[told], ANALOGUE_RATE) - target[told]) * weight)

    span = np.concatenate(([40.0], np.full(len(centres), reach)))
    found = least_squares(miss, np.zeros(len(centres) + 1), bounds=(-span, span), max_nfev=60).x
    gains = tuple(round(float(g) * 2) / 2 for g in found[1:])
    bands = graphic(centres, gains)
    fitted = without_mean(bands_gain(bands, f, ANALOGUE_RATE))
    left = fitted - target
    return Equalisation(
        bands,
        -programme_gain(bands),
        float(np.sqrt(np.average(left[told] ** 2, weights=weights[told]))),
        float(np.abs(left[told]).max()),
        tuple(target.tolist()),
        tuple(fitted.tolist()),
        ANALOGUE_RATE,
    )


def correction_words(made: Equalisation, source: str, like: str) -> str:
    """'3 bands make A sound like B to within 0.12 dB RMS, 0.22 dB at the worst, from 60 Hz to 10 kHz, …'"""
    if not made.bands:
        return f"{source} and {like} sound alike on this amp: nothing to correct."
    some = f"{len(made.bands)} band{'s make' if len(made.bands) > 1 else ' makes'}"
    return (
        f"{some} {source} sound like {like} to within {figure(made.residual, 2)} dB RMS,"
        f" {figure(made.worst, 2)} dB at the worst, from {figure(FIT_BAND[0])} Hz to {figure(FIT_BAND[1] / 1000)} kHz,"
        f" as digital filters at {figure(made.rate / 1000)} kHz."
    )


def minimum_phase_fir(target_db: Real, rate: int) -> NDArray[np.float64]:
    """Impulse response at `rate` (Hz) of the minimum-phase filter with this gain (dB over `frequency_grid()`).

    By the folded real cepstrum (Oppenheim and Schafer, Discrete-Time Signal Processing); ends held outside the
    grid. The programme level is taken off, so that it changes tone and not level.
    """
    f = frequency_grid(len(target_db))
    taps = int(rate * FIR_SECONDS)
    size = 1 << (taps * 8 - 1).bit_length()
    bins = np.fft.rfftfreq(size, 1 / rate)
    wanted = np.interp(np.log(np.maximum(bins, 1e-3)), np.log(f), without_mean(target_db))
    cepstrum = np.fft.irfft(wanted * np.log(10) / 20, size)
    folded = np.zeros(size)
    folded[0], folded[size // 2] = cepstrum[0], cepstrum[size // 2]
    folded[1 : size // 2] = 2 * cepstrum[1 : size // 2]
    impulse = np.fft.irfft(np.exp(np.fft.rfft(folded)), size)[:taps]
    fade = taps // 4
    impulse[-fade:] *= 0.5 * (1 + np.cos(np.pi * np.arange(fade) / fade))
    return np.asarray(impulse)
