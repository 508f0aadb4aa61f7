"""Whether a take has a guitar speaker in it, by how steeply it falls off above what a speaker passes."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

Real = NDArray[np.float64]

PASSED_HZ, STOPPED_HZ = (3_000.0, 4_500.0), (8_000.0, 11_000.0)
NONE_UNDER_DB, ONE_FROM_DB, TWO_OVER_DB = 20.0, 33.0, 50.0
ROLLED_OFF_DB = 12.0
"""What a tone roll-off in the hook-up may take of the same band: it could be that, and no speaker."""
MOST_CREST_DB = 12.0
LEAST_RATE = 44_100
LEAST_OVER_NOISE_DB = 10.0

Speakers: TypeAlias = Literal["none", "cannot tell", "one", "two"]


@dataclass(frozen=True)
class SpeakerSound:
    """What the sound says of speakers in it, the slope (dB) it says it by, and what keeps it from being told."""

    speakers: Speakers
    slope_db: float | None
    why: str


def band_power(spectrum: Real, frequency: Real, band: tuple[float, float]) -> float:
    """Mean of a power spectrum over a band (Hz), ends included; 0 where it has no bins there."""
    inside = (frequency >= band[0]) & (frequency <= band[1])
    return float(spectrum[inside].mean()) if inside.any() else 0.0


def slope_db(spectrum: Real, frequency: Real) -> float | None:
    """Mean power of 3 to 4.5 kHz over that of 8 to 11 kHz, dB; None where either holds nothing."""
    passed, stopped = band_power(spectrum, frequency, PASSED_HZ), band_power(spectrum, frequency, STOPPED_HZ)
    return float(10 * np.log10(passed / stopped)) if passed > 0 and stopped > 0 else None


def speaker_sound(
    loud: Real | None,
    quiet: Real | None,
    frequency: Real,
    rate: int,
    crest_db: float | None,
) -> SpeakerSound:
    """Speakers in a take, from the mean power spectra of its loud and its quiet frames over `frequency` (Hz).

    Under 20 dB of slope none, from 33 one, over 50 perhaps two in series. Only driven sound has enough treble to judge
    by: a crest of 12 dB or more, a rate under 44.1 kHz, or treble that lies in the noise cannot be told. Noise only
    ever makes the slope look smaller, so what is steep is steep.
    """
    if rate < LEAST_RATE:
        return SpeakerSound("cannot tell", None, f"the rate is under {LEAST_RATE / 1000:g} kHz")
    if loud is None:
        return SpeakerSound("cannot tell", None, "nothing is played in it")
    slope = slope_db(loud, frequency)
    if slope is None:
        return SpeakerSound("cannot tell", None, "there is nothing from 8 to 11 kHz")
    if crest_db is None or crest_db >= MOST_CREST_DB:
        return SpeakerSound("cannot tell", slope, "it is too clean to tell by its treble")
    noise = 0.0 if quiet is None else band_power(quiet, frequency, STOPPED_HZ)
    treble = band_power(loud, frequency, STOPPED_HZ)
    drowned = noise > 0 and treble < noise * 10 ** (LEAST_OVER_NOISE_DB / 10)
    if slope >= ONE_FROM_DB:
        two = slope > TWO_OVER_DB
        return SpeakerSound("two" if two else "one", slope, "its treble lies in the noise" if drowned else "")
    if drowned:
        return SpeakerSound("cannot tell", slope, "its treble lies in the noise")
    if slope < NONE_UNDER_DB:
        return SpeakerSound("none", slope, "")
    return SpeakerSound("cannot tell", slope, "it falls off more than a bare tap and less than a speaker")


def if_rolled_off(told: SpeakerSound) -> SpeakerSound:
    """The same where the hook-up has a tone roll-off before the take: it may be what makes the treble fall off."""
    slope = told.slope_db
    if slope is None or told.speakers in ("none", "cannot tell"):
        return told
    if slope < ONE_FROM_DB + ROLLED_OFF_DB:
        return SpeakerSound("cannot tell", slope, "the tone roll-off may take as much treble off as a speaker")
    return replace(told, speakers="two" if slope > TWO_OVER_DB + ROLLED_OFF_DB else "one")
