"""Sections of a recording that are heard in turn: which are worth it, and several recordings as one file."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from low_tide.core.audio.dynamics import SoundPart
from low_tide.core.audio.loudness import GATING_STEPS, STEP_S
from low_tide.core.audio.rendering import Samples
from low_tide.core.comparing.aligning import RATE
from low_tide.core.comparing.recording import Recorded

SECTION_S = (2.0, 8.0)
"""Shorter is over before one has heard it; after more one has forgotten the one before."""
SUGGESTED_S, SHARE = 4.0, 0.45
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


def suggested(of: Recorded) -> tuple[SoundPart, ...]:
    """The loudest and the softest part of about four seconds between the first note and the last, in their order.

    Shorter ones where less is played; none where that is too little to be heard in turn.
    """
    silence = of.levels.silence()
    first, last = silence.head, of.seconds - silence.tail
    if last - first < SECTION_S[0]:
        return ()
    length = round(min(SUGGESTED_S, max(SECTION_S[0], SHARE * (last - first))), 1)
    power, size = of.loudness.power, round(length / STEP_S) - GATING_STEPS + 1
    if len(power) < size:
        return ()
    mean = np.convolve(power, np.ones(size) / size, mode="valid")
    starts = np.arange(len(mean)) * STEP_S
    inside = (starts >= first) & (starts <= last - length + 1e-6)
    loud = int(np.argmax(np.where(inside, mean, -1.0)))
    chosen = [float(starts[loud])]
    apart = inside & (np.abs(starts - starts[loud]) >= length)
    if apart.any():
        chosen.append(float(starts[int(np.argmin(np.where(apart, mean, np.inf)))]))
    return tuple(SoundPart(round(s, 2), round(s + length, 2)) for s in sorted(chosen))


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
