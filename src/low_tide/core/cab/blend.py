"""A blend of impulse responses: each with its gain, polarity, delay and place, and what their sum is like."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from numpy.typing import NDArray

from low_tide.core.cab.impulse import BANDS_HZ, RATE, Samples, ToneBands, bins, spectrum, transform_size
from low_tide.core.spec import Spec

MOST_PARTS = 6
GAIN_DB, DELAY_MS = (-40.0, 12.0), (-5.0, 20.0)
SOUND_M_S = 343.0
HIGHEST_NOTCH_HZ = 16_000.0
PAIR_HZ, PAIR_S = (80.0, 5_000.0), 0.25


@dataclass(frozen=True)
class BlendPart:
    """One impulse response of a blend: gain, dB; delay, ms (later is positive); pan from −1, left, to 1, right."""

    impulse: Annotated[int, Spec("Impulse response", ge=1)]
    gain: Annotated[float, Spec("Gain", "dB", *GAIN_DB)] = 0.0
    inverted: Annotated[bool, Spec("Turned over")] = False
    delay: Annotated[float, Spec("Delay", "ms", *DELAY_MS)] = 0.0
    pan: Annotated[float, Spec("Pan", "", -1, 1)] = 0.0
    mute: Annotated[bool, Spec("Mute")] = False
    solo: Annotated[bool, Spec("Solo")] = False


@dataclass(frozen=True)
class Notch:
    """Where two parts (by their places) first cancel, Hz, and how far apart they come, ms."""

    first: int
    second: int
    hz: float
    apart: float


def sounding(parts: Sequence[BlendPart]) -> list[bool]:
    """Which parts are heard: those with solo where any has it, else those that are not muted."""
    alone = any(p.solo for p in parts)
    return [p.solo if alone else not p.mute for p in parts]


def lead_ms(parts: Sequence[BlendPart]) -> float:
    """By how much all is later, so that the earliest of its parts begins no earlier than its own first sample, ms."""
    return max(0.0, -min((p.delay for p in parts), default=0.0))


def sides(pan: float) -> tuple[float, float]:
    """Gains of left and right: equal power, −3 dB in the middle."""
    angle = (pan + 1) * np.pi / 4
    return float(np.cos(angle)), float(np.sin(angle))


def amount(part: BlendPart) -> float:
    """The factor a part comes in by, its polarity with it."""
    return float((-1 if part.inverted else 1) * 10 ** (part.gain / 20))


def blended(sounds: Sequence[Samples], parts: Sequence[BlendPart], rate: int = RATE) -> NDArray[np.float64]:
    """Σ g·p·pan·h(t − d) over what is heard, left and right, shape (n, 2): impulse responses at `rate` (Hz), shape (n,)
    each. Parts of a sample by phase; what would begin before the first sample makes all of it later.
    """
    from scipy.fft import irfft, next_fast_len, rfft

    lead = lead_ms(parts)
    delays = [(p.delay + lead) / 1000 * rate for p in parts]
    length = max((len(h) + int(np.ceil(d)) for h, d in zip(sounds, delays, strict=True)), default=1) + 1
    # Room behind, so that what the fraction of a sample spreads does not come round to the beginning.
    size = next_fast_len(length + 256, real=True)
    turn = -2j * np.pi * np.arange(size // 2 + 1) / size
    total = np.zeros((2, size // 2 + 1), np.complex128)
    whole = np.zeros((2, length))
    for sound, part, late, heard in zip(sounds, parts, delays, sounding(parts), strict=True):
        if not heard:
            continue
        gains = np.array(sides(part.pan)) * amount(part)
        if abs(late - round(late)) < 1e-9:
            at = round(late)
            whole[:, at : at + len(sound)] += gains[:, None] * sound
        else:
            total += gains[:, None] * (rfft(sound, size) * np.exp(turn * late))
    return np.asarray((whole + irfft(total, size, axis=1)[:, :length]).T)


def mono(stereo: NDArray[np.float64]) -> Samples:
    """Both sides folded into one, (L + R)/√2: what stands in the middle is as it was."""
    return np.asarray(stereo.sum(axis=1) / np.sqrt(2))


def part_responses(
    sounds: Sequence[Samples], parts: Sequence[BlendPart]
) -> tuple[NDArray[np.complex128], NDArray[np.float64]]:
    """The response of each part in the mono fold, delayed as it is, shape (parts, F), and its frequencies, Hz."""
    size = transform_size(*map(len, sounds)) if sounds else transform_size(1)
    hz, lead = bins(size), lead_ms(parts)
    rows = [
        spectrum(sound, size)
        * (amount(part) * sum(sides(part.pan)) / np.sqrt(2))
        * np.exp(-2j * np.pi * hz * (part.delay + lead) / 1000)
        for sound, part in zip(sounds, parts, strict=True)
    ]
    return np.asarray(rows, np.complex128).reshape(len(parts), len(hz)), hz


def lost_to_phase(responses: NDArray[np.complex128], frequency: NDArray[np.float64]) -> ToneBands:
    """By how much the sum of parts (rows over frequencies that are evenly spaced, Hz) stands under the sum of their
    powers, dB, by band, every octave of it weighing the same: what runs with one another stands over it, at most by
    3 dB for two alike."""

    def lost(bounds: tuple[float, float]) -> float:
        at = (frequency >= bounds[0]) & (frequency <= bounds[1])
        each = 1 / frequency[at]
        together = float(np.square(np.abs(responses[:, at].sum(axis=0))) @ each)
        apart = float(np.square(np.abs(responses[:, at])).sum(axis=0) @ each)
        return float(10 * np.log10(max(apart, 1e-30) / max(together, 1e-30))) if apart > 0 else 0.0

    low, low_mid, presence, top = (lost(bounds) for bounds in BANDS_HZ.values())
    return ToneBands(low, low_mid, presence, top)


def _for_pairs(sounds: Sequence[Samples]) -> tuple[NDArray[np.complex128], int]:
    """Spectra of the first quarter of a second of each, between 80 Hz and 5 kHz, and the size of their transform."""
    from scipy.fft import next_fast_len, rfft

    heads = [sound[: round(PAIR_S * RATE)] for sound in sounds]
    size = int(next_fast_len(2 * max(len(h) for h in heads), real=True))
    hz = bins(size)
    shape = 1 / np.sqrt((1 + (PAIR_HZ[0] / np.maximum(hz, 1e-6)) ** 4) * (1 + (hz / PAIR_HZ[1]) ** 4))
    return np.array([rfft(head, size) * shape for head in heads]), size


def _between(first: NDArray[np.complex128], second: NDArray[np.complex128], size: int) -> tuple[float, bool]:
    from scipy.fft import irfft

    found = irfft(np.conj(first) * second, size)
    at = int(np.argmax(np.abs(found)))
    # Up to 5 kHz it bends slowly from sample to sample: a parabola through three finds its top.
    below, top, above = (abs(float(found[(at + k) % size])) for k in (-1, 0, 1))
    bend = below - 2 * top + above
    moved = 0.5 * (below - above) / bend if bend < 0 else 0.0
    middle = at if at < size // 2 else at - size
    return float((middle + moved) / RATE * 1000), bool(found[at] < 0)


def apart(first: Samples, second: Samples) -> tuple[float, bool]:
    """How much later (ms) the second of two comes, and whether it is turned over against the first: the largest of
    their cross-correlation between 80 Hz and 5 kHz, by their first quarter of a second."""
    spectra, size = _for_pairs((first, second))
    return _between(spectra[0], spectra[1], size)


def notches(sounds: Sequence[Samples], parts: Sequence[BlendPart]) -> tuple[Notch, ...]:
    """Where each pair of parts that are heard cancels first as they are delayed: 1/(2τ), or 1/τ where one is turned
    over. Pairs that come together, within what can be told below 16 kHz, have none."""
    found = []
    heard = sounding(parts)
    if sum(heard) < 2:
        return ()
    spectra, size = _for_pairs(sounds)
    for i in range(len(parts)):
        for j in range(i + 1, len(parts)):
            if not (heard[i] and heard[j]):
                continue
            later, turned = _between(spectra[i], spectra[j], size)
            tau = abs(later + parts[j].delay - parts[i].delay)
            turned ^= parts[i].inverted ^ parts[j].inverted
            if tau > 0 and (hz := (1000 if turned else 500) / tau) < HIGHEST_NOTCH_HZ:
                found.append(Notch(i, j, hz, tau))
    return tuple(found)
