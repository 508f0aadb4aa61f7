"""Signals to measure with: made, not recorded."""

from __future__ import annotations

import numpy as np

from low_tide.core.audio.rendering import Samples

FADE_S = 0.01


def faded(samples: Samples, rate: int, seconds: float = FADE_S) -> Samples:
    """Ends drawn in over so many seconds, so that nothing clicks; peaks at 1."""
    count = min(len(samples) // 2, round(seconds * rate))
    ramp = 0.5 * (1 - np.cos(np.pi * np.arange(count) / max(1, count)))
    shaped = np.array(samples, np.float64)
    shaped[:count] *= ramp
    shaped[len(shaped) - count :] *= ramp[::-1]
    most = float(np.abs(shaped).max(initial=0.0))
    return shaped / most if most > 0 else shaped


def sine(frequency: float, seconds: float, rate: int) -> Samples:
    """A sine (Hz), shape (seconds·rate,), peaks at 1."""
    return faded(np.sin(2 * np.pi * frequency * np.arange(round(seconds * rate)) / rate), rate)


def pink_noise(seconds: float, rate: int, seed: int = 1) -> Samples:
    """Noise of equal power in every octave from 20 Hz up, shape (seconds·rate,), peaks at 1."""
    size = round(seconds * rate)
    frequency = np.fft.rfftfreq(size, 1 / rate)
    white = np.fft.rfft(np.random.default_rng(seed).normal(size=size))
    shape = np.where(frequency >= 20, 1 / np.sqrt(np.maximum(frequency, 20)), 0)
    return faded(np.fft.irfft(white * shape, size), rate)


def exponential_sweep(low: float, high: float, seconds: float, rate: int) -> Samples:
    """A sine whose frequency rises from low to high (Hz) by the same factor in the same time, peaks at 1.

    sin(2π·f1·L·(e^(t/L) − 1)), L = T/ln(f2/f1): Farina (2000), Simultaneous measurement of impulse response and
    distortion with a swept-sine technique.
    """
    t = np.arange(round(seconds * rate)) / rate
    constant = seconds / np.log(high / low)
    return faded(np.sin(2 * np.pi * low * constant * (np.exp(t / constant) - 1)), rate)
