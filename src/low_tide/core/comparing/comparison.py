"""A take held against the reference: in line, matched, and everything that differs."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import log10
from typing import Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.audio.dynamics import Levels
from low_tide.core.comparing import level_match
from low_tide.core.comparing.aligning import RATE, SAME_SHARE, Alignment, align, put_in_line
from low_tide.core.comparing.level_match import LevelDifference, LoudnessOverTime
from low_tide.core.comparing.loud_spectra import (
    LoudSpectra,
    SpectrumDifference,
    difference,
    loud_spectra,
    loud_windows,
)
from low_tide.core.comparing.performance import same_piece
from low_tide.core.comparing.recording import Recorded
from low_tide.core.comparing.what_a_filter_can_do import FilterShare, filter_share

Relation: TypeAlias = Literal["identical", "same", "again", "other", "unusable"]
LEAST_FRAMES = 10
IDENTICAL_DB = -110.0
LEAST_TOGETHER_S = 1.0
LEAST_WHOLE_RATE = 32_000
"""From this rate (Hz) on a recording holds what there is of a guitar."""


@dataclass(frozen=True)
class TakeDynamics:
    """Of what counts in the reference: L10 − L90 of 50 ms levels, peak over RMS, attack over sustain (dB, and of how
    many notes), loudness range (LU), and loudness over time. None where there is too little of it."""

    range_db: float | None
    crest_db: float | None
    attack_db: float | None
    notes: int
    loudness_range_lu: float | None
    over_time: LoudnessOverTime


@dataclass(frozen=True)
class Held:
    """A take against the reference. What is None was not asked of such a pair, or the sound gives no answer.

    `relation`: the identical sound, the same performance, the same piece played again, another piece, or not usable;
    `why` in the last two. `level`: how much louder it is as it came (LU); what matches it is the same turned round.
    `dynamics` of it, and `beside` of the reference where both have sound.
    """

    relation: Relation
    why: str
    alignment: Alignment | None
    lufs: float | None
    level: LevelDifference | None
    spectrum: SpectrumDifference | None
    dynamics: TakeDynamics | None
    beside: TakeDynamics | None
    filter: FilterShare | None

    @property
    def match_db(self) -> float:
        """The gain that brings it to the reference's loudness."""
        return -self.level.lu if self.level else 0.0


def _played_frames(levels: Levels) -> NDArray[np.bool_]:
    played = levels.played()
    return levels.db >= (float(played.min()) if len(played) else np.inf)


def dynamics(of: Recorded, frames: NDArray[np.bool_], notes: list[int]) -> TakeDynamics:
    """How a recording moves, in frames of 50 ms that count and at notes (ms) wherever those were found."""
    count = min(len(frames), len(of.levels.power))
    power = of.levels.power[:count][frames[:count]]
    range_db = crest = None
    if len(power) >= LEAST_FRAMES and power.min() > 0:
        levels = 10 * np.log10(power)
        range_db = float(np.percentile(levels, 90) - np.percentile(levels, 10))
        size = len(of.samples) // max(1, len(of.levels.power))
        each = of.samples[: count * size].reshape(count, size)
        top = np.maximum(each.max(axis=1), -each.min(axis=1))[frames[:count]].max()
        crest = 20 * log10(float(top)) - 10 * log10(float(power.mean()))
    attack = of.fine_levels.attack_at(notes)
    return TakeDynamics(
        range_db,
        crest,
        attack.median_db if attack else None,
        attack.notes if attack else 0,
        of.loudness.range_lu,
        of.loudness.over_time,
    )


def dynamics_alone(of: Recorded) -> TakeDynamics:
    """The same of a recording by its own frames and notes."""
    return dynamics(of, _played_frames(of.levels), of.notes)


def _only(relation: Relation, why: str, take: Recorded | None = None, alignment: Alignment | None = None) -> Held:
    lufs = take.loudness.integrated if take else None
    return Held(relation, why, alignment, lufs, None, None, None, None, None)


def alone(reference: Recorded) -> Held:
    """The reference as it stands beside itself."""
    if why := reference.unusable():
        return _only("unusable", f"the reference {why}")
    itself, moves = Alignment(0.0, None, False, 0.0, 1.0, None), dynamics_alone(reference)
    level = LevelDifference(0.0, 0.0)
    return Held("identical", "", itself, reference.loudness.integrated, level, None, moves, moves, None)


def held_against(reference: Recorded, take: Recorded) -> Iterator[str | Held]:
    """What is being done, in words, and last what was found."""
    for each, called in ((reference, "the reference"), (take, "it")):
        if why := each.unusable():
            yield _only("unusable", f"{called} {why}")
            return
    reference, take = _as_far_as_both_reach(reference, take)
    yield "brought into line"
    alignment = align(reference.samples, take.samples)
    if alignment is not None and alignment.same:
        yield from _in_line(reference, take, alignment)
        return
    yield "held against each other note by note"
    if not same_piece(reference.samples, take.samples):
        yield _only("other", NOT_THE_SAME, take, alignment)
        return
    yield from _played_again(reference, take, alignment)


def _as_far_as_both_reach(first: Recorded, second: Recorded) -> tuple[Recorded, Recorded]:
    """Both without what lies over the band of the lower rate: it would count in the other's level."""
    import soxr

    rate = min(first.rate, second.rate)
    if rate >= LEAST_WHOLE_RATE:
        return first, second

    def narrow(one: Recorded) -> Recorded:
        if one.rate == rate:
            return one
        return Recorded(np.asarray(soxr.resample(soxr.resample(one.samples, RATE, rate), rate, RATE)), one.rate)

    return narrow(first), narrow(second)


NOT_THE_SAME = "nothing in it follows the reference: it is another piece, or too little of both is the same"


def _why_again(alignment: Alignment | None) -> str:
    if alignment is not None and not alignment.sure and alignment.together >= SAME_SHARE:
        return "a held note without an attack fits in many places, so it cannot be brought into line"
    return "the same was played again"


def _in_line(reference: Recorded, take: Recorded, alignment: Alignment) -> Iterator[str | Held]:
    # Where both have sound: what hangs over on either side is no difference.
    there = put_in_line(alignment, take.samples, len(reference.samples))
    first = max(0, round(-alignment.delay * RATE))
    last = min(len(there), round((take.seconds - alignment.delay) * RATE))
    if last - first < LEAST_TOGETHER_S * RATE:
        yield _only(
            "unusable", f"only {max(0, last - first) / RATE:.2g} s of it lie beside the reference", take, alignment
        )
        return
    whole = first == 0 and last == len(reference.samples)
    a = reference if whole else Recorded(reference.samples[first:last], reference.rate)
    b = Recorded(there[first:last], take.rate)
    yield "matched in level"
    level = level_match.in_line(a.loudness, b.loudness)
    gain = -level.lu if level else 0.0
    yield "compared over frequency"
    loud = loud_windows(a.samples)
    spectra = loud_spectra(a.samples, loud), loud_spectra(b.samples, loud)
    rates = (reference.rate, take.rate)
    spectrum = _spectrum_difference(spectra, gain, rates, True)
    yield "tried with a filter"
    share = filter_share(a.samples, b.samples, spectra, rates)
    yield Held(
        "identical" if share and share.null <= IDENTICAL_DB else "same",
        "",
        alignment,
        b.loudness.integrated,
        level,
        spectrum,
        dynamics(b, _played_frames(a.levels), a.notes),
        dynamics_alone(a),
        share,
    )


def _played_again(reference: Recorded, take: Recorded, alignment: Alignment | None) -> Iterator[str | Held]:
    yield "compared over frequency"
    level = level_match.apart(reference.loudness, take.loudness)
    spectra = tuple(loud_spectra(each.samples, loud_windows(each.samples)) for each in (reference, take))
    spectrum = _spectrum_difference(
        (spectra[0], spectra[1]), -level.lu if level else 0.0, (reference.rate, take.rate), False
    )
    yield Held(
        "again",
        _why_again(alignment),
        alignment,
        take.loudness.integrated,
        level,
        spectrum,
        dynamics_alone(take),
        dynamics_alone(reference),
        None,
    )


def _spectrum_difference(
    spectra: tuple[LoudSpectra | None, LoudSpectra | None], gain: float, rates: tuple[int, int], in_line: bool
) -> SpectrumDifference | None:
    first, second = spectra
    return None if first is None or second is None else difference(first, second, gain, rates, in_line)
