"""Sections of a recording that are heard in turn: which are worth it, and several recordings as one file."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from low_tide.core.audio.dynamics import SoundPart
from low_tide.core.audio.rendering import Samples
from low_tide.core.comparing.aligning import RATE
from low_tide.core.comparing.level_match import LoudnessOverTime

SECTION_S = (2.0, 8.0)
"""Shorter is over before one has heard it; after more one has forgotten the one before."""
SUGGESTED_S = 4.0
CROSSFADE_S = 0.01
PAUSE_S = 0.6


@dataclass(frozen=True)
class Cue:
    """Where in a comparison file (s) which section of which recording is heard."""

    at: float
    section: int
    track: int


@dataclass(frozen=True, eq=False)
class InTurn:
    """Sections of several recordings one after the other: samples at 48 kHz, and what is heard from where on."""

    samples: Samples
    cues: tuple[Cue, ...]


def suggested(over_time: LoudnessOverTime, seconds: float) -> tuple[SoundPart, ...]:
    """The loudest and the softest four seconds in which something is played, in their order; all of a short one."""
    if seconds <= SUGGESTED_S:
        return (SoundPart(0.0, round(seconds, 2)),) if seconds >= SECTION_S[0] else ()
    times, level = np.array(over_time.times), np.array(over_time.lufs)
    inside = (times >= SUGGESTED_S / 2) & (times <= seconds - SUGGESTED_S / 2)
    if not inside.any():
        return (SoundPart(0.0, SUGGESTED_S),)
    times, level = times[inside], level[inside]
    loud = int(np.argmax(level))
    apart = (np.abs(times - times[loud]) >= SUGGESTED_S) & (level >= level[loud] - 20)
    middles = [float(times[loud])]
    if apart.any():
        middles.append(float(times[np.flatnonzero(apart)[int(np.argmin(level[apart]))]]))
    return tuple(SoundPart(round(m - SUGGESTED_S / 2, 2), round(m + SUGGESTED_S / 2, 2)) for m in sorted(middles))


def in_turn(tracks: Sequence[Samples], sections: Sequence[SoundPart]) -> InTurn:
    """Each section of every recording in turn, 10 ms crossfades between them, a pause before the next section."""
    fade = round(CROSSFADE_S * RATE)
    ramp = 0.5 - 0.5 * np.cos(np.pi * np.arange(fade) / fade)
    pieces: list[Samples] = []
    cues: list[Cue] = []
    at = 0
    for number, section in enumerate(sections):
        for which, track in enumerate(tracks):
            start, stop = round(section.start * RATE), round(section.stop * RATE)
            piece = np.zeros(stop - start)
            there = track[start:stop]
            piece[: len(there)] = there
            piece[:fade] *= ramp
            piece[-fade:] *= ramp[::-1]
            cues.append(Cue(at / RATE, number, which))
            pieces.append(piece)
            # The next one fades in while this one fades out.
            at += len(piece) - (fade if which < len(tracks) - 1 else -round(PAUSE_S * RATE))
    whole = np.zeros(max(0, at - round(PAUSE_S * RATE)))
    for cue, piece in zip(cues, pieces, strict=True):
        start = round(cue.at * RATE)
        whole[start : start + len(piece)] += piece
    return InTurn(whole, tuple(cues))
