"""Sections of all recordings of a comparison in turn as one file, with names or without; and the matching filter."""

from __future__ import annotations

import hashlib
import io
import random
import re
import secrets
import zipfile
from dataclasses import dataclass, replace

import numpy as np

from low_tide.app.compare_work import render_of
from low_tide.app.compared import LONGEST_SECTION_S
from low_tide.app.comparison import ComparedTrack, ComparisonState, state
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.core.audio.correction import Equalisation, correction_words, fit_bands, minimum_phase_fir
from low_tide.core.audio.dynamics import SoundPart
from low_tide.core.audio.rendering import Samples
from low_tide.core.comparing.aligning import RATE
from low_tide.core.comparing.matching import target
from low_tide.core.comparing.sections import Cue, in_turn
from low_tide.core.frequency import Real, frequency_grid
from low_tide.formats.cue_points import wav_with_cues
from low_tide.formats.recording import read_part, write_wav
from low_tide.formats.tables import bands_csv
from low_tide.store.home import Home

TOKEN = re.compile(r"[0-9a-f]{12}")
LETTERS = "ABCDEFGH"


@dataclass(frozen=True)
class ComparisonFile:
    """A ZIP with the sound and what is heard when; `name` of the file."""

    name: str
    data: bytes


def _heard(found: ComparisonState) -> list[int]:
    """Places of the tracks that are heard."""
    places = [i for i, t in enumerate(found.tracks) if t.state == "held" and t.heard]
    if len(places) < 2:
        raise Invalid("Recordings: at least two that were compared are wanted; compare first.")
    if not (found.sections or found.suggested):
        raise Invalid("Sections: at least one of 2 s or more is wanted.")
    return places


def _sections(found: ComparisonState) -> tuple[SoundPart, ...]:
    return found.sections or found.suggested


def _mark(found: ComparisonState, places: list[int]) -> str:
    """What a blind file is made of, in six digits of its word: of anything else its key would be a wrong one."""
    parts = [found.tracks[p].audio for p in places] + [f"{s.start}/{s.stop}" for s in _sections(found)]
    return hashlib.sha256("|".join(parts).encode()).hexdigest()[:6]


def _order(token: str, comparison_id: int, section: int, places: list[int]) -> list[int]:
    """Which recording is heard when, in a section of a blind file: by lot, the same for the same token."""
    seed = hashlib.sha256(f"{token}/{comparison_id}/{section}".encode()).digest()
    shuffled = list(places)
    random.Random(seed).shuffle(shuffled)
    return shuffled


def _clock(seconds: float) -> str:
    return f"{int(seconds // 60)}:{seconds % 60:04.1f}"


def comparison_file(home: Home, comparison_id: int, blind: bool) -> ComparisonFile:
    """All sections in turn, matched in level, 24-bit. Blind, in an order by lot that only its key tells."""
    found = state(home, comparison_id)
    places = _heard(found)
    sections = _sections(found)
    token = secrets.token_hex(3) + _mark(found, places) if blind else ""
    gain = 10 ** (found.top_db / 20)
    pieces: list[Samples] = []
    cues: list[tuple[float, str]] = []
    at = 0.0
    for number, section in enumerate(sections):
        order = _order(token, comparison_id, number, places) if blind else places
        sound = [_part(home, comparison_id, found.tracks[place].audio, section) * gain for place in order]
        made = in_turn(sound, [SoundPart(0.0, section.stop - section.start)])
        cues += [(at + c.at, _cue(found, number, c, order, blind)) for c in made.cues]
        pause = np.zeros(RATE // 2)
        pieces += [made.samples, pause]
        at += (len(made.samples) + len(pause)) / RATE
    wav = wav_with_cues(np.concatenate(pieces), RATE, cues)
    head = f"{found.name}: {len(places)} recordings in turn, matched in level.\n"
    if blind:
        head += f"In an order by lot. The key is apart: ask for it with the word {token}.\n"
    text = head + "\n" + "".join(f"{_clock(when)}  {name}\n" for when, name in cues)
    stem = f"comparison-{token}" if blind else "comparison"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as packed:
        packed.writestr(f"{stem}.wav", wav)
        packed.writestr(f"{stem}.txt", text)
    return ComparisonFile(f"{stem}.zip", out.getvalue())


def _cue(found: ComparisonState, section: int, cue: Cue, order: list[int], blind: bool) -> str:
    name = f"{cue.track + 1}" if blind else found.tracks[order[cue.track]].called
    return f"section {LETTERS[section]}: {name}"


def key(home: Home, comparison_id: int, token: str) -> str:
    """What was heard when in a blind file."""
    if not TOKEN.fullmatch(token):
        raise NotFound("There is no such key: it is the word of twelve letters and digits in the file's text.")
    found = state(home, comparison_id)
    places = _heard(found)
    if token[6:] != _mark(found, places):
        raise Conflict(
            "Its recordings or sections were changed since this file was made. Bring them back (undo), and ask again."
        )
    lines = [f"{found.name}, key to {token}\n"]
    for number in range(len(_sections(found))):
        order = _order(token, comparison_id, number, places)
        lines += [f"section {LETTERS[number]}: {n}  {found.tracks[p].called}" for n, p in enumerate(order, 1)]
    return "\n".join(lines) + "\n"


def _part(home: Home, comparison_id: int, audio: str, section: SoundPart) -> Samples:
    path = render_of(home, comparison_id, audio)
    there = read_part(path, round(section.start * RATE), round(section.stop * RATE))[:, 0]
    found = np.zeros(round(section.stop * RATE) - round(section.start * RATE))
    found[: len(there)] = there
    return found


def part(home: Home, comparison_id: int, audio: str, start: float, stop: float) -> bytes:
    """A part of a track (s) as it is heard, as WAV: matched, and with the gain over all."""
    if not 0 < stop - start <= LONGEST_SECTION_S:
        raise Invalid(f"Part: 0 to {LONGEST_SECTION_S:g} s are given at one time, this is {stop - start:g} s.")
    gain = 10 ** (state(home, comparison_id).top_db / 20)
    return write_wav(_part(home, comparison_id, audio, SoundPart(start, stop)) * gain, RATE)


@dataclass(frozen=True)
class Matching:
    """Bands that make a recording sound like the reference, over frequencies (Hz), in words."""

    name: str
    like: str
    frequency: tuple[float, ...]
    correction: Equalisation
    words: str


SHOWN_EVERY = 4


def _target(home: Home, comparison_id: int, audio: str) -> tuple[ComparedTrack, ComparedTrack, Real]:
    found = state(home, comparison_id)
    track = next((t for t in found.tracks[1:] if t.audio == audio), None)
    if track is None:
        raise NotFound("There is no such recording beside the reference in this comparison.")
    spectrum = track.held.spectrum if track.held else None
    wanted = target(spectrum) if spectrum else None
    if wanted is None:
        raise Invalid(f"{track.called}: too little of its spectrum stands over the noise to match it.")
    return track, found.tracks[0], wanted


def matching(home: Home, comparison_id: int, audio: str, rate: int) -> Matching:
    """The measured difference as bands at a rate (Hz)."""
    track, reference, wanted = _target(home, comparison_id, audio)
    made = fit_bands(wanted, rate)
    words = correction_words(made, track.called, reference.called)
    shown = replace(made, target=made.target[::SHOWN_EVERY], fitted=made.fitted[::SHOWN_EVERY])
    return Matching(track.called, reference.called, tuple(frequency_grid()[::SHOWN_EVERY].tolist()), shown, words)


def matching_csv(home: Home, comparison_id: int, audio: str, rate: int) -> str:
    """The bands as CSV."""
    return bands_csv(matching(home, comparison_id, audio, rate).correction)


def matching_wav(home: Home, comparison_id: int, audio: str, rate: int) -> bytes:
    """The same as a minimum-phase impulse response of 32-bit floats."""
    return write_wav(minimum_phase_fir(_target(home, comparison_id, audio)[2], rate), rate, "FLOAT")
