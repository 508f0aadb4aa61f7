"""One recording brought into line with another: how late it is, which way round, and how fast its clock runs."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import inf

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.rendering import Samples

RATE = 48_000
"""What is compared is brought to this rate first."""
COARSE_RATE, FINE_RATE = 6_000, 16_000
WHITE_HZ = (80.0, 6_000.0)
"""The band whose phases say when something happens."""
DRIFT_WINDOW_S, SAME_WINDOW_S = 2.0, 1.0
SEARCH_S = 0.05
"""How far a window may lie off the whole: more than clocks drift apart in minutes."""
APART_S = 0.005
LEAST_CONFIDENCE, SUREST = 3.0, 1000.0
NEAR_S = 0.00025
SAME_SHARE = 0.8
LOUD_WITHIN_DB = 30.0
"""Windows count that lie at most so far under the loudest one of the reference."""
CORRECTED_SAMPLES = 0.05
LEAST_S = 1.0
SINC_TAPS = 64
MOST_PASSES = 3
PIECE = 1 << 19
LEAST_WINDOWS = 3
"""Fewer windows than these say nothing of drift."""


@dataclass(frozen=True)
class Alignment:
    """Where a take lies against the reference.

    `delay`: how much later it is (s, at the reference's beginning); it is advanced by that. `drift`: parts in a
    million by which it runs slow. `inverted`: it is the other way round. `confidence`: the whitened peak over the next
    one at least 5 ms away. `together`: the share of windows that lie within 0.25 ms of the rest. `left`: what drift is
    left (ppm) after it was taken back; None where there was too little sound to tell.
    """

    delay: float
    drift: float | None
    inverted: bool
    confidence: float
    together: float
    left: float | None

    @property
    def sure(self) -> bool:
        """Whether there is one place where it lies, and not several as good."""
        return self.confidence >= LEAST_CONFIDENCE

    @property
    def same(self) -> bool:
        """Whether it is the same performance: nearly all windows lie where the whole does."""
        return self.sure and self.together >= SAME_SHARE


def one_channel(samples: NDArray[np.floating], rate: int) -> Samples:
    """Samples (n,) or (n, channels) as one channel at 48 kHz, DC off. Channels that hold anything count alike."""
    import soxr

    sound = np.asarray(samples, np.float64)
    if sound.ndim > 1:
        sound = sound @ channel_weights(np.abs(sound).max(axis=0, initial=0.0))
    if rate != RATE:
        sound = np.asarray(soxr.resample(sound, rate, RATE, quality="VHQ"))
    return without_dc(sound)


EMPTY = 1e-3
"""A channel holds nothing whose peak lies so far under the other's."""


def channel_weights(peaks: Samples) -> Samples:
    """What each channel counts for in the one that is compared, by their peaks, shape (channels,)."""
    holds = peaks > EMPTY * peaks.max(initial=0.0)
    return np.asarray(holds / max(1, int(holds.sum())))


def without_dc(samples: Samples) -> Samples:
    """Samples about their mean."""
    return np.asarray(samples - samples.mean()) if len(samples) else samples


def _whitened(spectrum: NDArray[np.complex128], rate: int, size: int) -> NDArray[np.complex128]:
    """A cross spectrum with its phases alone, in the band that counts."""
    frequency = np.fft.rfftfreq(size, 1 / rate)
    magnitude = np.abs(spectrum)
    kept = (frequency >= WHITE_HZ[0]) & (frequency <= min(WHITE_HZ[1], 0.45 * rate))
    # What lies far under the rest is noise of the arithmetic.
    kept &= magnitude > 1e-12 * magnitude.max(initial=0.0)
    return np.where(kept, spectrum / np.where(kept, magnitude, 1.0), 0.0)


def _parabolic(values: Samples, at: int) -> float:
    """Where a peak lies between its neighbours, in places."""
    if not 0 < at < len(values) - 1:
        return float(at)
    a, b, c = (float(v) for v in values[at - 1 : at + 2])
    bent = a - 2 * b + c
    return at + (0.5 * (a - c) / bent if bent else 0.0)


def _coarse(x: Samples, y: Samples) -> float:
    """By how much (s) y is later than x over all, both at FINE_RATE: the strongest cross-correlation at a low rate."""
    import soxr
    from scipy.fft import irfft, next_fast_len, rfft

    a, b = (np.asarray(soxr.resample(each, FINE_RATE, COARSE_RATE)) for each in (x, y))
    size = next_fast_len(len(a) + len(b), real=True)
    cross = np.conj(rfft(a, size)) * rfft(b, size)
    # Half way to white: lows alone would leave it broad, all phases alike would let noise in.
    frequency = np.fft.rfftfreq(size, 1 / COARSE_RATE)
    cross = np.where(frequency >= WHITE_HZ[0], cross / np.sqrt(np.abs(cross) + 1e-20), 0)
    at = int(np.argmax(np.abs(irfft(cross, size))))
    return (at - size if at > size // 2 else at) / COARSE_RATE


@dataclass(frozen=True)
class _Local:
    """Whitened correlation of windows: where each begins (s), by how much its take is later (s), and all together."""

    at: Samples
    delay: Samples
    together: Samples


def _local(x: Samples, y: Samples, delay: float, window: float, beside: tuple[float, float] = (0.0, inf)) -> _Local:
    """Windows of x (s), half overlapped, against y that is about `delay` later; both at FINE_RATE.

    Those count that are loud in the reference and whole in both; `beside`: from where to where (s) y has sound.
    """
    from scipy.fft import irfft, rfft

    size, shift = round(window * FINE_RATE), round(delay * FINE_RATE)
    reach = round(SEARCH_S * FINE_RATE)
    first, last = max(0, -shift, int(beside[0] * FINE_RATE)), min(len(x), len(y) - shift, beside[1] * FINE_RATE)
    starts = np.arange(first, int(last) - size + 1, size // 2)
    power = np.array([float(np.square(x[s : s + size]).mean()) for s in starts])
    loud = power >= power.max(initial=0.0) * 10 ** (-LOUD_WITHIN_DB / 10)
    starts = starts[loud & (power > 0)] if len(starts) else starts
    shape = np.hanning(size)
    found, total = [], np.zeros(2 * reach + 1)
    for start in starts:
        cross = np.conj(rfft(x[start : start + size] * shape)) * rfft(y[start + shift : start + shift + size] * shape)
        around = irfft(_whitened(cross, FINE_RATE, size), size)
        near = np.concatenate((around[-reach:], around[: reach + 1]))
        at = int(np.argmax(np.abs(near)))
        found.append((_parabolic(np.abs(near), at) - reach + shift) / FINE_RATE)
        total += near
    return _Local(starts / FINE_RATE + window / 2, np.asarray(found), total)


def _confidence(together: Samples) -> float:
    """The highest peak over the next one at least 5 ms away."""
    height = np.abs(together)
    at = int(np.argmax(height))
    apart = round(APART_S * FINE_RATE)
    others = np.concatenate((height[: max(0, at - apart)], height[at + apart :]))
    next_one = float(others.max(initial=0.0))
    return min(SUREST, float(height[at]) / next_one) if next_one > 0 else 0.0


def _slope(local: _Local) -> float | None:
    """Drift (s a second) that the delays show, 0 where they might as well show none: Theil (1950), Sen (1968).

    None where there are too few of them.
    """
    from scipy.stats import theilslopes

    if len(local.at) < LEAST_WINDOWS:
        return None
    slope, _, low, high = theilslopes(local.delay, local.at)
    return float(slope) if low * high > 0 else 0.0


def delayed(samples: Samples, by: float, count: int) -> Samples:
    """Samples moved later by so many samples (any part of one; negative: earlier), `count` of them.

    What is left of a sample by a windowed sinc of 64 taps, flat to 0.1 dB up to 20 kHz at 48 kHz.
    """
    from scipy.signal import oaconvolve

    whole = int(np.floor(by))
    part = by - whole
    found = np.zeros(count)
    if part <= 1e-9:
        _add(found, samples, whole)
        return found
    taps = np.arange(SINC_TAPS) - (SINC_TAPS // 2 - 1)
    sinc = np.sinc(taps - part) * np.kaiser(SINC_TAPS + 1, 9.0)[:-1]
    sinc /= sinc.sum()
    # Piece by piece, so that a long take needs little room beside itself.
    for start in range(0, len(samples), PIECE):
        _add(found, oaconvolve(samples[start : start + PIECE], sinc), start + whole - (SINC_TAPS // 2 - 1))
    return found


def _add(to: Samples, samples: Samples, at: int) -> None:
    """Add samples to others from a place on, which may lie before their beginning; what hangs over is left out."""
    first, last = max(0, at), min(len(to), at + len(samples))
    if first < last:
        to[first:last] += samples[first - at : last - at]


def put_in_line(alignment: Alignment, take: Samples, count: int) -> Samples:
    """A take (48 kHz) with its drift taken back, its delay, and its polarity: `count` samples beside the reference."""
    import soxr

    drift = (alignment.drift or 0.0) * 1e-6
    sound = take
    if abs(drift) * len(take) > CORRECTED_SAMPLES:
        sound = np.asarray(soxr.resample(take, 1.0 + drift, 1.0, quality="VHQ"))
    # Drift is taken back about the take's own beginning; the delay is the one at the reference's.
    found = delayed(sound, -alignment.delay * RATE / (1.0 + drift), count)
    return np.negative(found, out=found) if alignment.inverted else found


def align(reference: Samples, take: Samples) -> Alignment | None:
    """How a take lies against the reference, both one channel at 48 kHz; None where either is too short or silent.

    Coarse by cross-correlation at 6 kHz, then whitened (Knapp and Carter, 1976) in windows of 2 s; drift by Theil and
    Sen; what is left by the phase of the whole. Polarity by the sign of the whitened peak.
    """
    import soxr

    if min(len(reference), len(take)) < LEAST_S * RATE or not reference.any() or not take.any():
        return None
    x, y = (np.asarray(soxr.resample(each, RATE, FINE_RATE)) for each in (reference, take))
    delay = _coarse(x, y)
    local = _local(x, y, delay, DRIFT_WINDOW_S)
    slope = _slope(local)
    if len(local.at):
        delay = float(np.median(local.delay - (slope or 0.0) * local.at))
    found = Alignment(delay, None if slope is None else slope * 1e6, False, 0.0, 0.0, None)
    for _ in range(MOST_PASSES):
        there = np.zeros(0)  # the one before is not needed beside the next
        there = put_in_line(found, take, len(reference))
        y = np.asarray(soxr.resample(there, RATE, FINE_RATE))
        beside = -found.delay, len(take) / RATE - found.delay
        found = _checked(found, reference, there, _local(x, y, 0.0, SAME_WINDOW_S, beside))
        slip = abs(found.left or 0.0) * 1e-6 * len(reference)
        if not found.same or slip <= CORRECTED_SAMPLES:
            break
        found = replace(found, drift=(found.drift or 0.0) + (found.left or 0.0))
    return found


def _checked(found: Alignment, reference: Samples, there: Samples, short: _Local) -> Alignment:
    """The same after a take was put in line by it: what is left of delay and drift, and how sure it is."""
    if not len(short.at):
        return found
    left = _slope(short)
    middle, reach = len(short.together) // 2, round(NEAR_S * 4 * FINE_RATE)
    near = short.together[middle - reach : middle + reach + 1]
    turned = bool(near[int(np.argmax(np.abs(near)))] < 0)
    rest = _rest(reference, there, turned)
    return Alignment(
        delay=found.delay + rest / RATE,
        drift=found.drift,
        inverted=found.inverted ^ turned,
        confidence=_confidence(short.together),
        together=float((np.abs(short.delay - np.median(short.delay)) <= NEAR_S).mean()),
        left=None if left is None else left * 1e6,
    )


PHASE_WINDOW = 8_192
MOST_REST = 8.0


def _rest(x: Samples, y: Samples, turned: bool) -> float:
    """Samples by which y is still later than x: the slope of the phase of their cross spectrum. `turned`: of −y.

    Each frequency counts as its coherence says how well its phase is known (Hannan and Thomson, 1971).
    """
    cross, xx, yy, windows = cross_spectra(x, y, PHASE_WINDOW)
    cross = -cross if turned else cross
    frequency = np.arange(len(cross)) / PHASE_WINDOW
    band = (frequency * RATE >= WHITE_HZ[0]) & (frequency * RATE <= WHITE_HZ[1]) & (xx > 0) & (yy > 0)
    if windows < 2 or not band.any():
        return 0.0
    coherence = np.clip(np.abs(cross[band]) ** 2 / (xx[band] * yy[band]), 0.0, 0.9999)
    weight = coherence / (1 - coherence)
    omega = 2 * np.pi * frequency[band]
    found = 0.0
    # The peak first, since phases of a longer delay have gone round; then their slope about it.
    impulse = np.fft.irfft(np.where(band, cross / np.maximum(np.abs(cross), 1e-30), 0), PHASE_WINDOW)
    reach = int(MOST_REST)
    near = np.concatenate((impulse[-reach:], impulse[: reach + 1]))
    found = _parabolic(near, int(np.argmax(near))) - reach
    for _ in range(3):
        phase = np.angle(cross[band] * np.exp(1j * omega * found))
        found -= float((weight * omega * phase).sum() / (weight * omega**2).sum())
    return found if abs(found) <= MOST_REST else 0.0


def cross_spectra(
    x: Samples, y: Samples, hop: int = PHASE_WINDOW // 2
) -> tuple[NDArray[np.complex128], Samples, Samples, int]:
    """Sums over Hann windows of 171 ms, half overlapped, of conj(X)·Y, |X|² and |Y|², and how many there are."""
    from scipy.fft import rfft

    size = PHASE_WINDOW
    shape = np.hanning(size)
    half = size // 2 + 1
    cross, xx, yy = np.zeros(half, np.complex128), np.zeros(half), np.zeros(half)
    count = max(0, (min(len(x), len(y)) - size) // hop + 1)
    view_x, view_y = (np.lib.stride_tricks.sliding_window_view(e, size)[::hop] if count else e for e in (x, y))
    for first in range(0, count, 64):
        a, b = (rfft(v[first : first + 64] * shape, axis=1, workers=-1) for v in (view_x[:count], view_y[:count]))
        cross += (np.conj(a) * b).sum(axis=0)
        xx += np.square(np.abs(a)).sum(axis=0)
        yy += np.square(np.abs(b)).sum(axis=0)
    return cross, xx, yy, count
