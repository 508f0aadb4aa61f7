"""A blend as it goes out: mono or stereo, at a rate, as it is or with minimum phase, and at a level."""

from __future__ import annotations

from typing import Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.cab.impulse import RATE, at_rate, band_response, programme_db

Level: TypeAlias = Literal["as it is", "peak", "programme"]
RATES = (44_100, 48_000, 96_000)
PEAK_DBFS = -1.0
FLOOR_DB, OVERSIZE = -120.0, 16
"""Minimum phase by a transform of so many times the length, what is weaker than the floor held at it."""
TRIM_DB = -100.0
FADE_S = 0.002


RESPONSE_SIZE, RESPONSE_S = 1 << 15, 0.25
EDGE_DB_OCT = 12.0


def _least_delay(power: NDArray[np.float64], size: int) -> NDArray[np.float64]:
    """The impulse response of minimum phase with this magnitude at the bins of a transform, by the folded real cepstrum
    (Oppenheim and Schafer, Discrete-Time Signal Processing); what is weaker than the floor is held at it."""
    from scipy.fft import irfft, rfft

    cepstrum = irfft(np.log(np.maximum(power, power.max() * 10 ** (FLOOR_DB / 20))), size)
    cepstrum[1 : size // 2] *= 2
    cepstrum[size // 2 + 1 :] = 0.0
    return np.asarray(irfft(np.exp(rfft(cepstrum)), size))


def of_response(frequency: NDArray[np.float64], level: NDArray[np.float64]) -> NDArray[np.float64]:
    """The impulse response (48 kHz, 0.25 s) of minimum phase with a level (dB) over frequencies (Hz) that rise; beyond
    both ends it falls by 12 dB an octave."""
    bins = np.maximum(np.arange(RESPONSE_SIZE // 2 + 1) * (RATE / RESPONSE_SIZE), 1.0)
    wanted = np.interp(np.log2(bins), np.log2(frequency), level)
    wanted -= EDGE_DB_OCT * np.maximum(0, np.log2(frequency[0] / bins)) + EDGE_DB_OCT * np.maximum(
        0, np.log2(bins / frequency[-1])
    )
    length = round(RESPONSE_S * RATE)
    found = _least_delay(10 ** (wanted / 20), RESPONSE_SIZE)[:length]
    fade = length // 4
    found[-fade:] *= 0.5 + 0.5 * np.cos(np.pi * np.arange(fade) / fade)
    return found


def minimum_phase(samples: NDArray[np.float64]) -> NDArray[np.float64]:
    """The impulse response with the same magnitude and the least delay, as long, shape (n,): its energy moved to the
    beginning."""
    from scipy.fft import next_fast_len, rfft

    size = 2 * next_fast_len(OVERSIZE * len(samples) // 2, real=True)
    return _least_delay(np.abs(rfft(samples, size)), size)[: len(samples)]


def trimmed(samples: NDArray[np.float64], rate: int) -> NDArray[np.float64]:
    """Without the end that lies 100 dB under the peak, shape (n, channels); what is cut is drawn in over 2 ms."""
    size = np.abs(samples).max(axis=1)
    there = np.flatnonzero(size >= size.max() * 10 ** (TRIM_DB / 20))
    fade = round(FADE_S * rate)
    length = min(len(samples), int(there[-1]) + 1 + fade)
    if length == len(samples):
        return samples
    kept = samples[:length].copy()
    kept[-fade:] *= (0.5 + 0.5 * np.cos(np.pi * np.arange(fade) / fade))[:, None]
    return kept


def level_gain(samples: NDArray[np.float64], level: Level) -> float:
    """What brings samples (at 48 kHz, shape (n, channels)) to a level: peaks at −1 dBFS, or a guitar's programme to
    what it was, of both sides together; as a factor."""
    if level == "as it is":
        return 1.0
    if level == "peak":
        return float(10 ** (PEAK_DBFS / 20) / np.abs(samples).max())
    powers = [10 ** (programme_db(band_response(side)) / 10) for side in samples.T]
    return float(1 / np.sqrt(np.mean(powers)))


def outgoing(samples: NDArray[np.float64], rate: int, minimum: bool, level: Level) -> tuple[NDArray[np.float64], float]:
    """A blend (48 kHz, shape (n, channels)) as it is written at `rate` (Hz), and the gain it was given, dB.

    As it is: every sample at 48 kHz is the blend's own. Peaks are held after everything else.
    """
    found = np.asarray(samples)
    if minimum:
        found = trimmed(np.column_stack([minimum_phase(side) for side in found.T]), RATE)
    gain = level_gain(found, level) if level != "peak" else 1.0
    found = found * gain
    if rate != RATE:
        found = np.column_stack([at_rate(side, RATE, rate) for side in found.T])
    if level == "peak":
        gain = level_gain(found, level)
        found = found * gain
    return found, float(20 * np.log10(gain))
