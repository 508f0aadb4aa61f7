"""A speaker by an adjustable filter: what a cabinet does, in a few stages, with the bare signal mixed in."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, fields, replace
from functools import lru_cache
from typing import Annotated, Any, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.correction import Band, band_coefficients
from low_tide.core.audio.spectrum import band_centres
from low_tide.core.cab.impulse import LIKE_HZ, RATE, Real, Samples, within
from low_tide.core.spec import Spec, specs_of
from low_tide.core.units import figure

Slope: TypeAlias = Literal[12, 18, 24, 36]
SECONDS = 0.5
"""No stage within its bounds rings longer before it is 120 dB down."""
END_DB = -140.0
Q_BOUNDS = (0.3, 3.0)


@dataclass(frozen=True)
class SpeakerFilter:
    """Stages of a filter that stands for a speaker: frequencies in Hz, gains in dB.

    High-pass by 12 dB an octave; the resonance of cone and box; the dip between; presence; low-pass by `slope` dB an
    octave. `bare`: how much of the bare signal is mixed in, None where there is none, under a low-pass of its own.
    """

    high_pass: Annotated[float, Spec("High-pass", "Hz", 20, 400)] = 80.0
    bass: Annotated[float, Spec("Bass resonance", "Hz", 60, 250)] = 115.0
    bass_q: Annotated[float, Spec("Q of the bass resonance", "", *Q_BOUNDS)] = 1.4
    bass_gain: Annotated[float, Spec("Gain of the bass resonance", "dB", -12, 12)] = 4.0
    dip: Annotated[float, Spec("Low-mid dip", "Hz", 200, 1_200)] = 450.0
    dip_q: Annotated[float, Spec("Q of the low-mid dip", "", *Q_BOUNDS)] = 0.8
    dip_gain: Annotated[float, Spec("Gain of the low-mid dip", "dB", -15, 6)] = -4.0
    presence: Annotated[float, Spec("Presence", "Hz", 1_200, 6_000)] = 2_800.0
    presence_q: Annotated[float, Spec("Q of the presence", "", *Q_BOUNDS)] = 1.0
    presence_gain: Annotated[float, Spec("Gain of the presence", "dB", -12, 15)] = 5.0
    low_pass: Annotated[float, Spec("Low-pass", "Hz", 2_000, 12_000)] = 4_800.0
    slope: Annotated[Slope, Spec("Slope of the low-pass", "dB/oct")] = 24
    bare: Annotated[float | None, Spec("Bare signal mixed in", "dB", -60, 0)] = None
    bare_low_pass: Annotated[float, Spec("Low-pass of the bare signal", "Hz", 2_000, 12_000)] = 7_500.0


PLAIN_FILTER = SpeakerFilter()
"""Where one begins."""
FITTED = tuple(f.name for f in fields(SpeakerFilter) if f.name not in ("slope", "bare", "bare_low_pass"))
GAINS = frozenset(name for name in FITTED if name.endswith("_gain"))


@lru_cache(maxsize=64)
def _butterworth(order: int, hz: float, kind: Literal["highpass", "lowpass"]) -> NDArray[np.float64]:
    """Kept: while one number is fitted the others stand still."""
    from scipy.signal import butter

    return np.asarray(butter(order, hz, kind, fs=RATE, output="sos"))


def _stages(found: SpeakerFilter) -> NDArray[np.float64]:
    """Second-order sections of the filter without the bare signal, shape (n, 6)."""
    peaks = (
        Band("peak", found.bass, found.bass_gain, found.bass_q),
        Band("peak", found.dip, found.dip_gain, found.dip_q),
        Band("peak", found.presence, found.presence_gain, found.presence_q),
    )
    rows = []
    for peak in peaks:
        over, under = band_coefficients(peak, RATE)
        rows.append(np.array([*over, *under]) / under[0])
    high = _butterworth(2, found.high_pass, "highpass")
    return np.vstack([high, *rows, _butterworth(found.slope // 6, found.low_pass, "lowpass")])


def _bare(found: SpeakerFilter) -> tuple[float, NDArray[np.float64]]:
    return 10 ** ((found.bare or 0.0) / 20), _butterworth(2, found.bare_low_pass, "lowpass")


def impulse_of(found: SpeakerFilter) -> Samples:
    """The filter as an impulse response at 48 kHz, shape (n,), up to half a second, to where it is 140 dB down."""
    from scipy.signal import sosfilt

    spike = np.zeros(round(SECONDS * RATE))
    spike[0] = 1.0
    made = sosfilt(_stages(found), spike)
    if found.bare is not None:
        amount, low = _bare(found)
        made = made + amount * sosfilt(low, spike)
    there = np.flatnonzero(np.abs(made) >= np.abs(made).max() * 10 ** (END_DB / 20))
    return np.asarray(made[: int(there[-1]) + 1])


def _at(sections: NDArray[np.float64], z: NDArray[np.complex128]) -> NDArray[np.complex128]:
    """The response of second-order sections one after the other at z⁻¹, shape (F,)."""
    over = sections[:, 0:1] + z * (sections[:, 1:2] + z * sections[:, 2:3])
    under = sections[:, 3:4] + z * (sections[:, 4:5] + z * sections[:, 5:6])
    return np.asarray(np.prod(over / under, axis=0))


@dataclass(frozen=True, eq=False)
class FilterResponses:
    """Complex responses over the same frequencies: the whole, the stages alone, and the bare signal as it is mixed in;
    None where there is none of it."""

    whole: NDArray[np.complex128]
    stages: NDArray[np.complex128]
    bare: NDArray[np.complex128] | None


def filter_responses(found: SpeakerFilter, frequency: Real) -> FilterResponses:
    """The filter at frequencies up to 24 kHz (Hz): sections as they run at 48 kHz."""
    z = np.exp(-2j * np.pi * frequency / RATE)
    stages = _at(_stages(found), z)
    if found.bare is None:
        return FilterResponses(stages, stages, None)
    amount, low = _bare(found)
    bare = amount * _at(low, z)
    return FilterResponses(stages + bare, stages, bare)


def spec_of(name: str) -> Spec:
    """What a field of the filter means."""
    return specs_of(SpeakerFilter)[name]


def bounds_of(name: str) -> tuple[float, float]:
    """Between what a field of the filter may lie."""
    spec = spec_of(name)
    return spec.ge or 0.0, spec.le or 0.0


def fitted_filter(start: SpeakerFilter, reference: Real) -> tuple[SpeakerFilter, float]:
    """The filter brought as near as it gets to a reference (dB over `band_centres(RATE)`), and how far off it is then:
    dB RMS in sixths of an octave from 70 Hz to 8 kHz, level-free.

    By least squares over frequencies, Q and gains, from where it stands and from its defaults; slope and the bare
    signal stay as they are.
    """
    from scipy.optimize import least_squares

    like = within(LIKE_HZ)
    centres = band_centres(RATE)[like]
    target = reference[like] - reference[like].mean()
    bounds = [bounds_of(name) for name in FITTED]
    low, high = (np.array([_plain(n, b[k]) for n, b in zip(FITTED, bounds, strict=True)]) for k in (0, 1))

    def made(values: Sequence[float]) -> SpeakerFilter:
        return _with(start, (_back(n, float(v)) for n, v in zip(FITTED, values, strict=True)))

    def off(values: Sequence[float]) -> Real:
        level = 20 * np.log10(np.abs(filter_responses(made(values), centres).whole) + 1e-9)
        return np.asarray(level - level.mean() - target)

    tries = []
    for begun in (start, PLAIN_FILTER):
        at = np.clip([_plain(n, getattr(begun, n)) for n in FITTED], low + 1e-6, high - 1e-6)
        tries.append(least_squares(off, at, bounds=(low, high), max_nfev=200).x)
    best = min(tries, key=lambda x: float(np.square(off(x)).sum()))
    # To three digits, as they are shown: what is told of it is told of that.
    short = (float(f"{_back(n, float(v)):.3g}") for n, v in zip(FITTED, best, strict=True))
    held = _with(start, (float(np.clip(v, *b)) for v, b in zip(short, bounds, strict=True)))
    return held, float(np.sqrt(np.square(off([_plain(n, getattr(held, n)) for n in FITTED])).mean()))


def _with(found: SpeakerFilter, values: Iterable[float]) -> SpeakerFilter:
    changes: dict[str, Any] = dict(zip(FITTED, values, strict=True))
    return replace(found, **changes)


def _plain(name: str, value: float) -> float:
    """Frequencies and Q by their logarithms: steps count alike wherever they stand."""
    return value if name in GAINS else float(np.log(value))


def _back(name: str, value: float) -> float:
    return value if name in GAINS else float(np.exp(value))


def filter_words(found: SpeakerFilter) -> str:
    """The filter in a line: 'high-pass 80 Hz, bass +4 dB at 115 Hz, …'."""

    def peak(name: str, hz: float, gain: float) -> str:
        return f"{name} {'−' if gain < 0 else '+'}{figure(abs(gain), 2)} dB at {figure(hz, 3)} Hz"

    said = [f"high-pass {figure(found.high_pass, 3)} Hz"]
    said += [
        peak(name, hz, gain)
        for name, hz, gain in (
            ("bass", found.bass, found.bass_gain),
            ("low-mid", found.dip, found.dip_gain),
            ("presence", found.presence, found.presence_gain),
        )
        if gain
    ]
    said.append(f"low-pass {figure(found.low_pass, 3)} Hz by {found.slope} dB/oct")
    if found.bare is not None:
        said.append(f"the bare signal at {figure(found.bare, 2)} dB")
    return ", ".join(said)
