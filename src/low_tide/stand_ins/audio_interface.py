"""A simulated audio interface: it records what a line brings, with errors of its own that nobody is told."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, TypeAlias
from zlib import crc32

import numpy as np
from numpy.typing import NDArray

NAME = "simulated interface"
GAIN_ERROR_DB = 1.5
MAINS_OFF_HZ = 0.2
CLOCK_PPM = 30.0
DELAY_SAMPLES = (40, 90)
HUM_DBFS = {"loop": -58.0, "broken": -98.0, "nothing": -50.0}
HUM_TO_HZ, HUM_RATE = 1000.0, 4000
THUMP_DBFS, THUMP_S = -24.0, 0.06
BITS = 24

Samples: TypeAlias = NDArray[np.float64]
Earthing: TypeAlias = Literal["loop", "broken", "nothing"]


@dataclass(frozen=True)
class Line:
    """What an input gets: samples (V, shape (n,)), the volts of a full-scale peak, the gain (dB), what goes with it.

    `noise`: RMS of the chain's own noise, dBFS. `phantom`: 48 V is on at the input. `own_clock`: what is played comes
    from the same clock.
    """

    samples: Samples
    full_scale: float
    gain_db: float
    noise: float
    earthing: Earthing
    phantom: bool
    own_clock: bool


def _hidden(seed: str, what: str, low: float, high: float) -> float:
    """A number between two bounds that stays the same for the same installation."""
    return low + (high - low) * (crc32(f"{seed}/{what}".encode()) % 10_000) / 10_000


def gain_error(seed: str) -> float:
    """How far (dB) this one's gain is off what its panel says."""
    return _hidden(seed, "gain", -GAIN_ERROR_DB, GAIN_ERROR_DB)


def mains_hz(seed: str, nominal: float = 50.0) -> float:
    """The frequency (Hz) of the mains where it stands."""
    return nominal + _hidden(seed, "mains", -MAINS_OFF_HZ, MAINS_OFF_HZ)


def _hum(seed: str, earthing: Earthing, count: int, rate: int, rng: np.random.Generator) -> Samples:
    """Lines up to 1 kHz that fall by 6 dB an octave, the first at its RMS level."""
    import soxr

    # At a low rate first: the lines end at 1 kHz, and there are twenty of them.
    mains, t = mains_hz(seed), np.arange(count * HUM_RATE // rate + HUM_RATE) / HUM_RATE
    found = np.zeros(len(t))
    for k in range(1, int(HUM_TO_HZ / mains) + 1):
        level = np.sqrt(2) * 10 ** (HUM_DBFS[earthing] / 20) / k
        found += level * np.sin(2 * np.pi * k * mains * t + rng.uniform(0, 2 * np.pi))
    return np.asarray(soxr.resample(found, HUM_RATE, rate)[:count])


def _late(samples: Samples, seed: str, own_clock: bool) -> Samples:
    """Later by what the converters take, and, on another clock, faster or slower by some parts in a million."""
    import soxr

    off = 0.0 if own_clock else _hidden(seed, "clock", -CLOCK_PPM, CLOCK_PPM) * 1e-6
    there = np.asarray(soxr.resample(samples, 1.0 + off, 1.0, quality="VHQ")) if off else samples
    delayed = np.concatenate((np.zeros(int(_hidden(seed, "delay", *DELAY_SAMPLES))), there))[: len(samples)]
    return np.concatenate((delayed, np.zeros(len(samples) - len(delayed))))


def record(line: Line, rate: int, seed: str, rng: np.random.Generator) -> Samples:
    """What it writes (full scale 1, shape (n,)): 24 bits with triangular dither. `seed`: the installation."""
    count = len(line.samples)
    gain = 10 ** ((line.gain_db + gain_error(seed)) / 20) / line.full_scale
    found = _late(line.samples, seed, line.own_clock) * gain
    # A level in dBFS is that of a sine with such a peak, so its noise is 3 dB under in RMS of samples.
    found = found + rng.normal(size=count) * 10 ** (line.noise / 20) / np.sqrt(2)
    found += _hum(seed, line.earthing, count, rate, rng)
    if line.phantom:
        t = np.arange(count) / rate
        found += 10 ** (THUMP_DBFS / 20) * np.exp(-t / THUMP_S) * np.sin(2 * np.pi * 12 * t)
    step = 2.0 ** (1 - BITS)
    dithered = found / step + rng.uniform(-0.5, 0.5, count) + rng.uniform(-0.5, 0.5, count)
    most = 2 ** (BITS - 1) - 1
    return np.asarray(np.clip(np.round(dithered), -most - 1, most) * step)
