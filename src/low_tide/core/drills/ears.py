"""Two sounds to tell apart: made from formulas, matched in level, and different by more than what can be heard."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from math import pi
from random import Random
from typing import Literal, TypeAlias

import numpy as np

from low_tide.core.audio.loudness import loudness
from low_tide.core.audio.rendering import RATE, Samples, cab_filter, coloured, power_stage, riff
from low_tide.core.frequency import Complex, Real
from low_tide.core.inventory import Amp, Unit
from low_tide.core.power.load_feel import Contender, contenders, jack_response, resistor, tap_for
from low_tide.core.rig.rig import GearById

SECONDS = 4.0
PHRASES = 6
"""So many phrases are played; of each the driven amp is worked out once."""
QUIET_S = 1.0
"""Nobody plays in the last of it: what hums is heard there."""
LUFS = -20.0
MATCHED_LU = 0.1
STEP_DB = 3.0
HEARD_DB = 1.0
"""Third-octave bands, heard beside each other, differ to the ear from about so much on (RMS over 100 Hz to 8 kHz)."""
HEARD_HUM_DB = 6.0
"""Hum is heard from about so much over the noise beside it on."""
NOISE_DBFS = -72.0
HUM_DBFS = {1: -44.0, 2: -50.0, 3: -56.0}
PHASE_MS = {1: 0.0, 2: 0.1, 3: 0.18}
"""How far behind the first the second microphone stands: in time, the loss is greatest."""
FACTOR = {1: 0.5, 2: 1.0, 3: 2.0}
"""Damping factors of valve amps without feedback, with a little, and with more (typical): the less, the more a load
is heard."""
SHAPE_DB = 1.3
"""A load is asked about where its response strays by so much from that of a resistor (RMS, in octaves alike)."""

Letter: TypeAlias = Literal["a", "b"]


@dataclass(frozen=True)
class Ear:
    """Two sounds to be made. `which`: the one that is asked for. `load`: a unit with a curve that is held against a
    resistor, where that is the question, in its mode `contender` on a tap of `tap` Ω."""

    card: str
    level: int
    seed: int
    which: Letter
    load: Unit | None = None
    contender: str = ""
    tap: float = 8.0


@dataclass(frozen=True)
class Heard:
    """The two sounds at 48 kHz, what they differ by and what of that can be heard, in dB and in words."""

    a: Samples
    b: Samples
    differs: float
    needs: float
    words: str


ASKS: dict[str, tuple[str, str]] = {
    "ear-resistor": ("Which is the resistor?", "Listen to the bottom and to the bite of the pick, not to the middle."),
    "ear-three-decibels": ("Which is 3 dB down?", "Begin both at the same note, and change over in the middle of it."),
    "ear-out-of-phase": ("Which is out of phase?", "Listen under the lowest string: what is missing there?"),
    "ear-loop-hum": ("Which has the hum of a loop?", "Wait for the end, where nobody plays."),
}
"""By card: what is asked, and the hint."""


def ear(card: str, gear: GearById, level: int, lots: Random) -> Ear | None:
    """A pair to be told apart; None where it takes gear that is not there, a cabinet or a reactive load."""
    which: Letter = lots.choice(("a", "b"))
    seed = lots.randrange(PHRASES)
    if card != "ear-resistor":
        return Ear(card, level, seed, which)
    amps = [g for g in gear.values() if isinstance(g, Amp) and not g.archived]
    taps = tuple(tap.impedance for tap in lots.choice(amps).taps) if amps else (8.0,)
    able = [c for c in contenders(gear) if c.unit in gear]
    lots.shuffle(able)
    for hard in range(level, 0, -1):
        for each in able:
            tap = tap_for(each.nominal, taps)
            if _shape_db(each, tap, FACTOR[hard]) >= SHAPE_DB:
                return Ear(card, hard, seed, which, gear[each.unit], each.id, tap)
    return None


def _shape_db(load: Contender, tap: float, factor: float) -> float:
    """How far a load's response strays from that of a resistor of its rating, both as loud: RMS, dB, over 100 Hz
    to 8 kHz."""
    hz = np.geomspace(100, 8000, 60)
    ratio = jack_response(load, tap, factor, hz) / jack_response(resistor(load.nominal), tap, factor, hz)
    return float(np.std(20 * np.log10(np.abs(ratio))))


@lru_cache(maxsize=2 * PHRASES)
def _driven(seed: int, drive_db: float) -> Samples:
    found = power_stage(riff(SECONDS - QUIET_S, seed=seed), drive_db)
    return np.concatenate((found, np.zeros(round(QUIET_S * RATE))))


@lru_cache(maxsize=4)
def heard(made: Ear) -> Heard:
    """The two sounds. The same for the same pair."""
    return _MADE[made.card](made)


def _pair(made: Ear, asked: Samples, other: Samples, differs: float, needs: float, words: str) -> Heard:
    a, b = (asked, other) if made.which == "a" else (other, asked)
    return Heard(a, b, differs, needs, words)


def _matched(samples: Samples, lufs: float = LUFS) -> Samples:
    now = loudness(samples, RATE)
    return samples if now is None else samples * 10 ** ((lufs - now) / 20)


def _bands(samples: Samples) -> Real:
    """Power in third octaves from 100 Hz to 8 kHz, dB."""
    power = np.abs(np.fft.rfft(samples)) ** 2
    hz = np.fft.rfftfreq(len(samples), 1 / RATE)
    centres = 1000 * 2 ** (np.arange(-10, 10) / 3)
    found = [power[(hz >= f * 2 ** (-1 / 6)) & (hz < f * 2 ** (1 / 6))].sum() for f in centres]
    return np.asarray(10 * np.log10(np.maximum(found, 1e-12)))


def band_difference(one: Samples, other: Samples) -> float:
    """RMS of the differences of third octaves, 100 Hz to 8 kHz, in dB."""
    return float(np.sqrt(np.mean((_bands(one) - _bands(other)) ** 2)))


def _resistor(made: Ear) -> Heard:
    driven = _driven(made.seed, 6.0)
    assert made.load is not None
    load = next(c for c in contenders({made.load.id: made.load}) if c.id == made.contender)

    def through(one: Contender) -> Samples:
        return _matched(coloured(driven, lambda f: jack_response(one, made.tap, FACTOR[made.level], f) * cab_filter(f)))

    asked, other = through(resistor(load.nominal)), through(load)
    differs = band_difference(asked, other)
    words = f"{load.label} lifts what a resistor does not: {differs:.1f} dB RMS over third octaves"
    return _pair(made, asked, other, differs, HEARD_DB, words)


def _three_decibels(made: Ear) -> Heard:
    sound = _matched(coloured(_driven(made.seed, {1: 0.0, 2: 6.0, 3: 12.0}[made.level]), cab_filter))
    return _pair(made, sound * 10 ** (-STEP_DB / 20), sound, STEP_DB, HEARD_DB, "3 dB, which is half the power")


def _out_of_phase(made: Ear) -> Heard:
    """Two microphones before one speaker, the second a little darker and later, added and taken away."""

    def second(f: Real) -> Complex:
        late = np.exp(-2j * pi * f * PHASE_MS[made.level] / 1000)
        return np.asarray(cab_filter(f) * late / (1 + 1j * f / 2200) * 0.9)

    driven = _driven(made.seed, 6.0)
    asked = _matched(coloured(driven, lambda f: cab_filter(f) - second(f)))
    other = _matched(coloured(driven, lambda f: cab_filter(f) + second(f)))
    differs = band_difference(asked, other)
    words = f"one lacks what the other has, most of it low: {differs:.1f} dB RMS over third octaves"
    return _pair(made, asked, other, differs, HEARD_DB, words)


def _loop_hum(made: Ear) -> Heard:
    rng = np.random.default_rng(made.seed)
    sound = _matched(coloured(_driven(made.seed, 6.0), cab_filter))
    noise = 10 ** (NOISE_DBFS / 20)
    both = [sound + rng.normal(size=len(sound)) * noise for _ in range(2)]
    t = np.arange(len(sound)) / RATE
    lines = [(50.0 * k, 1.0 / k) for k in (1, 2, 3, 4, 6, 8, 10)]
    hum = sum(weight * np.sin(2 * pi * hz * t + rng.uniform(0, 2 * pi)) for hz, weight in lines)
    hum = np.asarray(hum) / np.sqrt(np.mean(np.square(hum))) * 10 ** (HUM_DBFS[made.level] / 20)
    asked, other = _matched(both[0] + hum), _matched(both[1])
    quiet = slice(-round(QUIET_S * RATE / 2), None)
    differs = float(10 * np.log10(np.mean(asked[quiet] ** 2) / np.mean(other[quiet] ** 2)))
    words = f"hum {differs:.0f} dB over the noise where nobody plays, at 50 Hz and its multiples"
    return _pair(made, asked, other, differs, HEARD_HUM_DB, words)


_MADE: dict[str, Callable[[Ear], Heard]] = {
    "ear-resistor": _resistor,
    "ear-three-decibels": _three_decibels,
    "ear-out-of-phase": _out_of_phase,
    "ear-loop-hum": _loop_hum,
}
