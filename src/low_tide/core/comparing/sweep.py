"""A path measured by a sweep: delay, polarity, gain, clock, response, distortion by order, and its impulse response."""

from __future__ import annotations

from dataclasses import dataclass
from math import log, log10

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.rendering import Samples
from low_tide.core.audio.signals import faded
from low_tide.core.comparing.aligning import delayed

LOWEST_HZ, HIGHEST_HZ, OF_RATE = 20.0, 20_000.0, 0.45
SILENCE_S, SINE_S, SWEEP_S, TAIL_S = 1.0, 2.0, 5.0, 2.0
SINE_HZ, PEAK_DBFS, FADE_S = 1_000.0, -18.0, 0.02
RATES = (44_100, 48_000, 96_000)
ORDERS = (2, 3, 4, 5)
OVER_NOISE_DB = 20.0
BEFORE_S, AFTER_S = 0.005, 0.2
SHOWN_HZ = (30.0, 18_000.0)
POINTS_AN_OCTAVE = 12
RIDGE_DB = -60.0
HARMONICS_S, LEAST_OVER = 1.5, 4.0
"""So long before the response those of its harmonics lie; it is so much higher than anything else."""
HARMONIC_BEFORE_S, HARMONIC_OVER_DB = 0.02, 6.0
MOST_DRIFT_PPM = 2_000.0


@dataclass(frozen=True)
class SweepResponse:
    """Response of a path over frequencies (Hz): dB, and the harmonics of each frequency, dB against it, by order.

    `told`: the sweep stands 20 dB over the noise there. A harmonic is None where it lies beyond what was swept, or does
    not stand over the noise.
    """

    frequency: tuple[float, ...]
    db: tuple[float, ...]
    told: tuple[bool, ...]
    harmonics: tuple[tuple[float | None, ...], ...]
    orders: tuple[int, ...] = ORDERS


@dataclass(frozen=True)
class SweepResult:
    """What a recording of the test file says of the path it went through. `why` nothing can be said.

    `delay`: s and samples, without what the recording begins later (`delay` counts from its first sample). `gain` at
    1 kHz, dB; `noise`, dBFS; `drift`, parts in a million by which the recorder's clock is slower than the player's.
    `usable`: the band (Hz) in which the response is told. `distortion`: of all orders together at 1 kHz, per
    cent; None where it does not stand over the noise.
    """

    why: str
    rate: int = 0
    delay_s: float = 0.0
    delay_samples: float = 0.0
    inverted: bool = False
    gain_db: float = 0.0
    noise_dbfs: float | None = None
    drift_ppm: float = 0.0
    clipped: bool = False
    usable: tuple[float, ...] = ()
    distortion: float | None = None
    response: SweepResponse | None = None


@dataclass(frozen=True, eq=False)
class Swept:
    """The result, and the linear impulse response from 5 ms before its peak on, shape (n,)."""

    result: SweepResult
    impulse: Samples


@dataclass(frozen=True)
class Decay:
    """How an impulse response dies away: level (dB under its peak) at times (ms) about the peak."""

    times: tuple[float, ...]
    db: tuple[float, ...]


DECAY_STEP_S, DECAY_FLOOR_DB = 0.00025, -80.0


def decay(impulse: Samples, rate: int) -> Decay:
    """The largest of every quarter of a millisecond, against the peak: reflections stand out of it."""
    step = max(1, round(DECAY_STEP_S * rate))
    count = len(impulse) // step
    most = np.abs(impulse[: count * step]).reshape(count, step).max(axis=1)
    level = 20 * np.log10(np.maximum(most / max(float(most.max(initial=0.0)), 1e-12), 10 ** (DECAY_FLOOR_DB / 20)))
    times = (np.arange(count) + 0.5) * step / rate - BEFORE_S
    return Decay(tuple(np.round(times * 1000, 3).tolist()), tuple(np.round(level, 1).tolist()))


def cut_after(impulse: Samples, rate: int, after: float) -> Samples:
    """An impulse response up to so long (s) after its peak, its end drawn in over a quarter of that."""
    kept = impulse[: round((BEFORE_S + after) * rate)].copy()
    fall = min(len(kept), max(2, round(after * rate / 4)))
    kept[-fall:] *= 0.5 + 0.5 * np.cos(np.pi * np.arange(fall) / fall)
    return kept


def _top(rate: int) -> float:
    return min(HIGHEST_HZ, OF_RATE * rate)


def _constant(rate: int) -> float:
    """Seconds in which the sweep's frequency rises by e."""
    return SWEEP_S / log(_top(rate) / LOWEST_HZ)


def _sweep(rate: int) -> Samples:
    """The sweep alone, peaks at 1: sin(2π·f1·L·(e^(t/L) − 1)), Farina (2000)."""
    t, constant = np.arange(round(SWEEP_S * rate)) / rate, _constant(rate)
    return faded(np.sin(2 * np.pi * LOWEST_HZ * constant * np.expm1(t / constant)), rate, FADE_S)


def test_signal(rate: int) -> Samples:
    """The test file at a rate (Hz): a second of silence, 1 kHz for two, the sweep for five, two seconds of silence.

    Peaks at −18 dBFS.
    """
    t = np.arange(round(SINE_S * rate)) / rate
    sine = faded(np.sin(2 * np.pi * SINE_HZ * t), rate, FADE_S)
    silence, tail = np.zeros(round(SILENCE_S * rate)), np.zeros(round(TAIL_S * rate))
    return np.asarray(np.concatenate((silence, sine, _sweep(rate), tail)) * 10 ** (PEAK_DBFS / 20))


def _at(rate: int) -> tuple[int, int]:
    """Samples at which the sine and the sweep begin."""
    return round(SILENCE_S * rate), round((SILENCE_S + SINE_S) * rate)


def _deconvolved(recorded: Samples, rate: int, size: int) -> Samples:
    """The recording through the sweep's inverse, regularised outside the band that was swept; its harmonics come
    before it, each where the sweep passed that much earlier."""
    from scipy.fft import irfft, rfft

    sent = rfft(_sweep(rate) * 10 ** (PEAK_DBFS / 20), size)
    power = np.square(np.abs(sent))
    frequency = np.fft.rfftfreq(size, 1 / rate)
    inside = (frequency >= LOWEST_HZ) & (frequency <= _top(rate))
    ridge = np.where(inside, 10 ** (RIDGE_DB / 10), 1.0) * power[inside].max()
    return np.asarray(irfft(rfft(recorded, size) * np.conj(sent) / (power + ridge), size))


def _drift(recorded: Samples, start: int, rate: int) -> float | None:
    """Parts in a million the sine comes too high, by how its phase advances; None where it is not to be heard."""
    margin = round(0.1 * rate)
    piece = recorded[start + margin : start + round(SINE_S * rate) - margin]
    block = round(0.1 * rate)
    count = len(piece) // block
    if count < 8:
        return None
    n = np.arange(count * block)
    turned = piece[: count * block] * np.exp(-2j * np.pi * SINE_HZ * n / rate)
    parts = turned.reshape(count, block) @ np.hanning(block)
    if np.abs(parts).min() <= 0:
        return None
    phase = np.unwrap(np.angle(parts))
    slope = float(np.polyfit(np.arange(count) * block / rate, phase, 1)[0])
    return slope / (2 * np.pi * SINE_HZ) * 1e6


def _peak(impulse: Samples, at: int) -> float:
    """Where the peak of an impulse response lies, to a part of a sample: the largest of it eight times as fine."""
    reach = 32
    piece = impulse[max(0, at - reach) : at + reach + 1]
    size = len(piece)
    fine = np.fft.irfft(np.fft.rfft(piece * np.hanning(size)), size * 8)
    best = int(np.argmax(np.abs(fine)))
    if 0 < best < len(fine) - 1:
        a, b, c = (float(v) for v in np.abs(fine[best - 1 : best + 2]))
        bent = a - 2 * b + c
        return max(0, at - reach) + (best + (0.5 * (a - c) / bent if bent else 0.0)) / 8
    return float(at)


def measured(samples: Samples, rate: int) -> Swept:
    """What a recording (one channel) of the test file at the same rate says; its `why` where it says nothing."""
    import soxr

    def nothing(why: str) -> Swept:
        return Swept(SweepResult(why), np.zeros(0))

    sent = test_signal(rate)
    if len(samples) < len(sent) - round(TAIL_S * rate):
        wanted = len(sent) / rate
        return nothing(f"it lasts {len(samples) / rate:.1f} s; the test file has {wanted:g} s, and it is cut off")
    peak = float(np.abs(samples).max(initial=0.0))
    if peak < 1e-5:
        return nothing("there is nothing in it")
    start = _begins(samples, rate)
    if start is None:
        return nothing("the sweep is not to be found in it")
    sine, sweep = _at(rate)
    drift = _drift(samples, start + sine, rate)
    if drift is None or abs(drift) > MOST_DRIFT_PPM:
        return nothing("the sine before the sweep is not to be heard; it was cut off, or another file was played")
    slow = -drift * 1e-6
    there = samples if abs(drift) < 0.02 else np.asarray(soxr.resample(samples, 1.0 + slow, 1.0, quality="VHQ"))
    start = _begins(there, rate)
    if start is None or start + sweep + round(SWEEP_S * rate) > len(there):
        return nothing("the sweep is cut off")
    return _told(there, rate, start, slow * 1e6, peak)


def _begins(samples: Samples, rate: int) -> int | None:
    """Sample at which the test file begins in a recording; None where the sweep does not stand out of it."""
    size = 1 << (len(samples) + round(SWEEP_S * rate)).bit_length()
    impulse = _deconvolved(samples, rate, size)[: len(samples)]
    at = int(np.argmax(np.abs(impulse)))
    others = np.delete(np.abs(impulse), slice(max(0, at - round(HARMONICS_S * rate)), at + round(0.3 * rate)))
    if not len(others) or np.abs(impulse[at]) < LEAST_OVER * float(others.max(initial=0.0)):
        return None
    return at - _at(rate)[1]


def _told(samples: Samples, rate: int, start: int, drift: float, peak: float) -> Swept:
    sine, sweep = _at(rate)
    size = 1 << (len(samples) + round(SWEEP_S * rate)).bit_length()
    impulse = _deconvolved(samples, rate, size)
    at = start + sweep
    fine = _peak(impulse, at)
    linear = _windowed(impulse, at, rate, BEFORE_S, AFTER_S)
    noise = _noise(samples, start, rate)
    response, told = _response(linear, rate, noise)
    harmonics = _harmonics(impulse, at, rate, linear, noise)
    piece = samples[start + sine + round(0.2 * rate) : start + sweep - round(0.2 * rate)]
    level = float(np.abs(piece @ np.exp(-2j * np.pi * SINE_HZ * np.arange(len(piece)) / rate))) * 2 / max(1, len(piece))
    grid = _grid(rate)
    near = int(np.argmin(np.abs(grid - SINE_HZ)))
    parts = [row[near] for row in harmonics if row[near] is not None]
    usable = grid[np.array(told)]
    delay = fine - sweep
    power = float(np.square(noise).mean()) if len(noise) else 0.0
    result = SweepResult(
        why="",
        rate=rate,
        delay_s=delay / rate,
        delay_samples=delay,
        inverted=bool(impulse[at] < 0),
        gain_db=20 * log10(max(level, 1e-9)) - PEAK_DBFS,
        noise_dbfs=10 * log10(power) if power > 0 else None,
        drift_ppm=drift,
        clipped=peak >= 0.999,
        usable=(float(usable.min()), float(usable.max())) if len(usable) else (),
        distortion=100 * sum(10 ** ((p or -200.0) / 10) for p in parts) ** 0.5 if parts else None,
        response=SweepResponse(
            tuple(np.round(grid, 2).tolist()),
            tuple(np.round(response, 3).tolist()),
            tuple(told),
            tuple(tuple(None if v is None else round(v, 2) for v in row) for row in harmonics),
        ),
    )
    return Swept(result, delayed(linear, at - fine if abs(at - fine) < 1 else 0.0, len(linear)))


def _grid(rate: int) -> Samples:
    top = min(SHOWN_HZ[1], 0.95 * _top(rate))
    count = int(np.floor(POINTS_AN_OCTAVE * np.log2(top / SHOWN_HZ[0]))) + 1
    return np.asarray(SHOWN_HZ[0] * 2 ** (np.arange(count) / POINTS_AN_OCTAVE))


def _windowed(impulse: Samples, at: int, rate: int, before: float, after: float) -> Samples:
    """From so long before a place to so long after it (s), with half-Hann fades over a quarter of each."""
    first, last = at - round(before * rate), at + round(after * rate)
    piece = np.take(impulse, np.arange(first, last), mode="wrap").copy()
    rise, fall = max(2, round(before * rate / 2)), max(2, round(after * rate / 4))
    piece[:rise] *= 0.5 - 0.5 * np.cos(np.pi * np.arange(rise) / rise)
    piece[-fall:] *= 0.5 + 0.5 * np.cos(np.pi * np.arange(fall) / fall)
    return np.asarray(piece)


def _noise(samples: Samples, start: int, rate: int) -> Samples:
    """What is heard in the silence before the sine; after the sweep where the recording begins later."""
    first, last = max(0, start + round(0.1 * rate)), start + round((SILENCE_S - 0.1) * rate)
    if last - first >= round(0.2 * rate):
        return samples[first:last]
    after = start + round((SILENCE_S + SINE_S + SWEEP_S + 0.8) * rate)
    return samples[after : after + rate]


def _smoothed(power: Samples, frequency: NDArray[np.floating], at: Samples) -> Samples:
    """Mean power in sixths of an octave about frequencies."""
    below = np.concatenate(([0.0], np.cumsum(power)))
    step = frequency[1]
    low, high = at * 2 ** (-1 / 12) / step, at * 2 ** (1 / 12) / step
    inside = np.interp(high + 0.5, np.arange(len(below)), below) - np.interp(low + 0.5, np.arange(len(below)), below)
    return np.asarray(inside / (high - low))


def _power(impulse: Samples, rate: int, at: Samples) -> Samples:
    size = 1 << (max(len(impulse), rate) - 1).bit_length()
    return _smoothed(np.square(np.abs(np.fft.rfft(impulse, size))), np.fft.rfftfreq(size, 1 / rate), at)


def _floor(noise: Samples, length: int, rate: int, at: Samples) -> Samples | None:
    """What so much noise comes to (power of the response) in a window of so many samples; None where too little of it
    was heard to say."""
    if len(noise) < round(0.1 * rate):
        return None
    size = 1 << (len(noise) - 1).bit_length()
    density = _smoothed(np.square(np.abs(np.fft.rfft(noise, size))) / len(noise), np.fft.rfftfreq(size, 1 / rate), at)
    whole = 1 << (4 * rate).bit_length()
    sent = np.square(np.abs(np.fft.rfft(_sweep(rate) * 10 ** (PEAK_DBFS / 20), whole)))
    return np.asarray(density * length / np.maximum(_smoothed(sent, np.fft.rfftfreq(whole, 1 / rate), at), 1e-20))


def _response(linear: Samples, rate: int, noise: Samples) -> tuple[Samples, NDArray[np.bool_]]:
    grid = _grid(rate)
    power, floor = _power(linear, rate, grid), _floor(noise, len(linear), rate, grid)
    found = 10 * np.log10(np.maximum(power, 1e-20))
    told = np.ones(len(grid), bool) if floor is None else power >= floor * 10 ** (OVER_NOISE_DB / 10)
    return found, told


def _harmonics(impulse: Samples, at: int, rate: int, linear: Samples, noise: Samples) -> list[list[float | None]]:
    """Of each order: level (dB) at n·f against the response at f, by the responses that come before the linear one.

    None where it lies beyond what was swept, or no more than 6 dB over what noise alone would come to.
    """
    grid, constant = _grid(rate), _constant(rate)
    fundamental = _power(linear, rate, grid)
    rows: list[list[float | None]] = []
    for order in ORDERS:
        place = at - round(constant * log(order) * rate)
        room = constant * log((order + 1) / order)
        piece = _windowed(impulse, place, rate, min(HARMONIC_BEFORE_S, room / 4), min(AFTER_S, 0.7 * room))
        reached = order * grid <= 0.95 * _top(rate)
        there = np.where(reached, order * grid, grid)
        power, floor = _power(piece, rate, there), _floor(noise, len(piece), rate, there)
        if floor is not None:
            reached = reached & (power >= floor * 10 ** (HARMONIC_OVER_DB / 10))
        level = 10 * np.log10(np.maximum(power / np.maximum(fundamental, 1e-20), 1e-16))
        rows.append([float(v) if yes else None for v, yes in zip(level, reached, strict=True)])
    return rows
