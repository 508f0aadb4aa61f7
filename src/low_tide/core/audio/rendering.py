"""A take made from nothing, and any take as a load would colour it: an illustration, not a recording."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from low_tide.core.frequency import Complex, Real

Samples = NDArray[np.float64]
Response = Callable[[Real], Complex]

RATE = 48_000
OVERSAMPLING = 4
STAGE_HEADROOM_DB = 6.0
"""How far under the soft limit of the power stage the peaks of a take stand at 0 dB drive."""

RIFF = (
    (82.4, 0.0),
    (123.5, 0.35),
    (164.8, 0.7),
    (196.0, 1.05),
    (146.8, 1.75),
    (110.0, 2.1),
    (220.0, 2.45),
    (164.8, 2.8),
)
"""Notes of the built-in take: Hz, and when they are struck, s. It repeats."""

RIFF_SECONDS = 3.5


LOOP_GAIN = 0.498
"""What of each of two neighbouring samples is left after a round: a little under half, so that the string dies away."""


def pluck(frequency: float, seconds: float, rng: np.random.Generator, rate: int = RATE) -> Samples:
    """A plucked string: a burst of noise in a delay line that loses a little treble on every round.

    Karplus and Strong (1983), Digital Synthesis of Plucked-String and Drum Timbres.
    """
    delay, length = round(rate / frequency), int(rate * seconds)
    rounds = -(-length // delay)
    # One sample of silence, then the line round by round: each is the one before it, a little smoothed.
    string = np.zeros(1 + rounds * delay)
    string[1 : 1 + delay] = rng.uniform(-1, 1, delay)
    for start in range(1, 1 + (rounds - 1) * delay, delay):
        end = start + delay
        string[end : end + delay] = LOOP_GAIN * string[start:end] + LOOP_GAIN * string[start - 1 : end - 1]
    return string[1 : 1 + length]


def riff(seconds: float, rate: int = RATE, seed: int = 7) -> Samples:
    """The built-in dry take, shape (seconds·rate,), peaks at 1."""
    rng = np.random.default_rng(seed)
    whole = np.zeros(int(seconds * rate))
    for again in range(int(np.ceil(seconds / RIFF_SECONDS))):
        for note, at in RIFF:
            start = int((again * RIFF_SECONDS + at) * rate)
            if start < len(whole):
                string = pluck(note, 2.2, rng, rate)[: len(whole) - start]
                whole[start : start + len(string)] += string
    fade = int(0.02 * rate)
    whole[-fade:] *= np.linspace(1, 0, fade)
    return np.asarray(whole / np.abs(whole).max())


PICKUP_HZ, PICKUP_Q = 4_000.0, 1.6


def picked_up(samples: Samples, rate: int = RATE) -> Samples:
    """Strings as a pickup gives them, peaks at 1: nothing under 60 Hz, its resonance, and little above that."""
    from scipy.signal import butter, sosfilt

    def pickup(frequency: Real) -> Complex:
        s = 1j * frequency / PICKUP_HZ
        return np.asarray(1 / (s**2 + s / PICKUP_Q + 1))

    found = sosfilt(butter(2, 60, "highpass", fs=rate, output="sos"), coloured(samples, pickup, rate))
    return np.asarray(found / max(float(np.abs(found).max()), 1e-9))


def power_stage(dry: Samples, drive_db: float) -> Samples:
    """The voltage E behind Z_out: a dry take through a simple first valve and the soft limit of a power stage.

    Each is a bent tanh, four times oversampled. Illustration: it neither sags nor feels the load.
    """
    from scipy.signal import resample_poly

    level = 10 ** ((drive_db - STAGE_HEADROOM_DB) / 20) / max(float(np.abs(dry).max()), 1e-9)
    wide = resample_poly(dry * level, OVERSAMPLING, 1)
    first = np.tanh(1.5 * wide + 0.2) - np.tanh(0.2)
    driven = np.tanh(1.4 * first)
    return np.asarray(resample_poly(driven, 1, OVERSAMPLING)[: len(dry)])


def coloured(samples: Samples, response: Response, rate: int = RATE) -> Samples:
    """Samples through a complex response given at any frequencies (Hz): one transform, padded so nothing wraps."""
    size = 1 << (len(samples) + rate // 2 - 1).bit_length()
    bins = np.asarray(np.fft.rfftfreq(size, 1 / rate), np.float64)
    spectrum = np.fft.rfft(samples, size)
    usable = bins >= 5.0
    gain = np.zeros(len(bins), np.complex128)
    gain[usable] = response(bins[usable])
    return np.asarray(np.fft.irfft(spectrum * gain, size)[: len(samples)])


def cab_filter(frequency: Real) -> Complex:
    """What stands in for cabinet and microphone: 80 Hz to 4.8 kHz, steep above, a little more at 120 Hz and 2.6 kHz."""
    s = 1j * frequency

    def second(f0: float, q: float) -> Complex:
        return np.asarray((s / f0) ** 2 + s / (f0 * q) + 1)

    low = (s / 80) ** 2 / second(80, 0.8)
    high = 1 / (second(4800, 0.6) * second(5200, 1.2) * second(6500, 0.9))

    def peak(f0: float, gain_db: float, q: float) -> Complex:
        a = 10 ** (gain_db / 40)
        return second(f0, q / a) / second(f0, q * a)

    return np.asarray(low * high * peak(120, 3, 1.2) * peak(2600, 4, 1.0))
