"""A guitar against what else sounds: in which bands it is heard."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from low_tide.core.cab.impulse import RATE, Real, Samples
from low_tide.core.comparing.loud_spectra import density, loud_windows
from low_tide.core.units import figure

CENTRES_HZ = 1_000.0 * 10 ** (np.arange(-13, 11) / 10)
"""Third octaves from 50 Hz to 10 kHz (IEC 61260-1, base ten)."""
NOMINAL_HZ: tuple[int, ...] = (
    *(50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630),
    *(800, 1000, 1250, 1600, 2000, 2500, 3150, 4000, 5000, 6300, 8000, 10_000),
)
"""What they are called (there, annex E)."""
HALF = 10**0.05
HEARD_DB = -6.0
"""A band counts as heard from here up, guitar over backing: a rule of thumb."""
OWN_DB = -50.0
"""Under its own strongest band by more than this the guitar has nothing in a band, whatever else sounds there."""
LOWEST_DB = -100.0
LEAST_WINDOWS = 3
MORE_DB = (3.0, 6.0, 9.0, 12.0)
MORE_BANDS = 3
BRIGHT_HZ, BODY_HZ, BASS_HZ = 4_000, 500, 160
STANDS_OUT = 20


@dataclass(frozen=True)
class MixBand:
    """A third octave (nominal Hz): guitar and backing in what is loud, dB under the strongest band of both; how much
    the guitar stands over the backing, dB; whether it is heard."""

    hz: int
    guitar: float
    backing: float
    over: float
    heard: bool


@dataclass(frozen=True)
class HeardInMix:
    """How a guitar is heard in a mix: band by band, in how many, and in words, what is most of it first.

    `over`: the mean of what bands lack to stand level with the backing, dB: it ranks what is heard in as many.
    """

    bands: tuple[MixBand, ...]
    heard: int
    over: float
    words: tuple[str, ...]


def band_powers(samples: Samples, loud: NDArray[np.bool_]) -> Real:
    """Mean power of each third octave in the windows of one channel (48 kHz) that are `loud`, shape (24,)."""
    found = density(samples, loud)
    # The density at a bin stands for the width of one; a band takes parts of the bins at its edges.
    width = RATE / 2 / (len(found) - 1)
    total = np.concatenate(([0.0], np.cumsum(found) * width))
    low, high = (np.interp(CENTRES_HZ * f / width + 0.5, np.arange(len(total)), total) for f in (1 / HALF, HALF))
    return np.asarray(high - low)


def loud_parts(guitar: Samples) -> NDArray[np.bool_]:
    """Windows in which a guitar (48 kHz, shape (n,)) is loud: over the median of what it plays.

    ValueError where there are too few of them to tell anything.
    """
    loud = loud_windows(guitar)
    if loud.sum() < LEAST_WINDOWS:
        raise ValueError("too little is played in this section to tell how it is heard; half a second is the least")
    return loud


def heard_in_mix(guitar: Samples, backing: Samples, loud: NDArray[np.bool_]) -> HeardInMix:
    """A guitar against its backing, as loud as both are played (48 kHz, one channel each, as long as each other), in
    the windows that are loud. A band counts from −6 dB up; what masks what beyond the band is left out."""
    own, other = band_powers(guitar, loud), band_powers(backing, loud)
    top = max(float(own.max()), float(other.max()), 1e-20)
    levels = [10 * np.log10(np.maximum(p / top, 10 ** (LOWEST_DB / 10))) for p in (own, other)]
    over = 10 * np.log10(np.maximum(own, 1e-20) / np.maximum(other, 1e-20))
    has = own >= own.max() * 10 ** (OWN_DB / 10)
    heard = has & (over >= HEARD_DB)
    bands = tuple(
        MixBand(hz, round(float(g), 1), round(float(b), 1), round(float(o), 1), bool(h))
        for hz, g, b, o, h in zip(NOMINAL_HZ, *levels, np.clip(over, LOWEST_DB, -LOWEST_DB), heard, strict=True)
    )
    lacking = np.where(has, np.clip(over, -30.0, 0.0), -30.0)
    return HeardInMix(bands, int(heard.sum()), float(lacking.mean()), _words(heard, has, over))


def _hz(value: int) -> str:
    return f"{value / 1000:g} kHz" if value >= 1000 else f"{value} Hz"


def _words(heard: NDArray[np.bool_], has: NDArray[np.bool_], over: Real) -> tuple[str, ...]:
    count, of = int(heard.sum()), len(CENTRES_HZ)
    more = {by: int((has & (over >= HEARD_DB - by)).sum()) for by in MORE_DB}
    enough = next((by for by in MORE_DB if more[by] >= count + MORE_BANDS), None)
    louder = () if enough is None else (f"{figure(enough, 2)} dB more would be heard in {more[enough]}.",)
    if not count:
        return (f"Heard in none of {of} bands: the backing covers it.", *louder)
    said = f"Heard in {count} of {of} bands"
    at = np.flatnonzero(heard)
    lowest, highest = NOMINAL_HZ[at[0]], NOMINAL_HZ[at[-1]]
    if highest < BRIGHT_HZ:
        said += f", none over {_hz(highest)}: brighter"
    elif lowest > BASS_HZ:
        means = "it has no body here" if lowest > BODY_HZ else "it leaves those to the rest"
        said += f", none under {_hz(lowest)}: {means}"
    if count >= STANDS_OUT:
        return (f"{said}: it stands out of everything, and may be turned down.",)
    return (f"{said}.", *louder)
