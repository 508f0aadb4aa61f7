"""Blends by ear, on takes of one's own or the built-in one, and as files that go out with their recipe."""

from __future__ import annotations

import json
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal

import numpy as np
from numpy.typing import NDArray

from low_tide.app import blends, impulses
from low_tide.app.blends import BlendDoc, BlendState, Stereo
from low_tide.app.errors import Conflict, Invalid
from low_tide.app.heard_on import both_channels_of, of_source, of_take
from low_tide.core.audio.loudness import loudness
from low_tide.core.audio.metering import true_peak
from low_tide.core.audio.rendering import RATE
from low_tide.core.cab.blend import MOST_PARTS, BlendPart, mono
from low_tide.core.cab.impulse import at_rate
from low_tide.core.cab.output import Level, outgoing
from low_tide.core.cab.speaker_filter import SpeakerFilter
from low_tide.core.spec import Spec
from low_tide.formats.cue_points import with_comment
from low_tide.formats.documents import dump, parse
from low_tide.formats.recording import write_wav
from low_tide.formats.sentences import FormatError
from low_tide.store import impulses as kept
from low_tide.store import takes
from low_tide.store.home import Home

TARGET_LUFS = -23.0
MOST_TRUE_PEAK = 10 ** (-1 / 20)
LONGEST_PART_S = 30.0
TAIL_S = 0.5
RECIPE = "low-tide blend"
RECIPE_VERSION = 2
"""2 knows the adjustable filter."""


def through(sound: NDArray[np.float64], impulse: NDArray[np.float64]) -> NDArray[np.float64]:
    """A take, shape (n,) or (n, channels), through a blend, as long as the take: each of its channels through its own
    side, or all through the one there is."""
    from scipy.signal import oaconvolve

    channels = sound if sound.ndim > 1 else sound[:, None]
    return np.asarray(oaconvolve(channels, impulse, axes=0)[: len(sound)])


def _matched(sound: NDArray[np.float64]) -> NDArray[np.float64]:
    """At −23 LUFS, so that what is louder does not seem better; lower where its peaks would not fit."""
    level = loudness(sound, RATE)
    if level is None:
        raise Invalid("There is nothing to hear in this part.")
    found = sound * 10 ** ((TARGET_LUFS - level) / 20)
    return found * min(1.0, MOST_TRUE_PEAK / true_peak(found.astype(np.float32)))


def part(home: Home, blend: Stereo | None, source: str, start: float, stop: float) -> bytes:
    """A part of a take through a blend's impulse response, or bare where that is None, matched in loudness, as 24-bit
    WAV."""
    if not 0 < stop - start <= LONGEST_PART_S:
        raise Invalid(f"Part: up to {LONGEST_PART_S:g} s are heard at one time.")
    sound = of_source(home, source)
    first, last = round(start * RATE), min(len(sound), round(stop * RATE))
    if first >= last:
        raise Invalid("Part: it lies beyond the end of the take.")
    if blend is None:
        made = sound[first:last, None]
    else:
        before = max(0, first - round(TAIL_S * RATE))
        # What was played before still sounds into the part.
        made = through(sound[before:last], blend)[first - before :]
    return write_wav(_matched(made), RATE)


def rendered(home: Home, blend_id: int, take_id: int, anyway: bool) -> tuple[bytes, str]:
    """A take of the log through a blend, 24-bit, its recipe in its comment, and what its file is called. A stereo take
    stays one: each side goes through the same side of the blend.

    Conflict where the take has a speaker in it, or may have, and that was not taken on.
    """
    row = blends.row_of(blend_id)
    take = takes.find(take_id)
    if take is None or not take.audio:
        raise Invalid("Take: it has no recording, or is gone.")
    found = of_take(take)
    if found.warning and not anyway:
        raise Conflict(found.warning)
    stereo = blends.sound_of(home, blends.doc_of(row), whole=True)
    centred = not blends.is_stereo(blends.doc_of(row))
    made = through(both_channels_of(home, found.id), mono(stereo)[:, None] if centred else stereo)
    peak = true_peak(made.astype(np.float32))
    made = made * (min(1.0, MOST_TRUE_PEAK / peak) if peak > 0 else 1.0)
    said = json.dumps(recipe(home, blend_id, ExportChoice(stereo=not centred)), ensure_ascii=False)
    return with_comment(write_wav(made, RATE), said), f"{found.name}, {row.name}.wav"


@dataclass(frozen=True)
class ExportChoice:
    """How a blend goes out."""

    rate: Literal[44100, 48000, 96000] = 48000
    stereo: bool = False
    minimum: bool = False
    level: Level = "as it is"


@dataclass(frozen=True)
class RecipeFile:
    """What an impulse response of a recipe is known again by elsewhere: the hash and kind of its file, and a channel
    of it, from 1; 0 where it has one. Source and licence go along."""

    name: Annotated[str, Spec("Name", le=300)] = ""
    file: Annotated[str, Spec("File", le=80)] = ""
    channel: Annotated[int, Spec("Channel", ge=0, le=2)] = 0
    source: Annotated[str, Spec("Source", le=300)] = ""
    licence: Annotated[str, Spec("Licence", le=300)] = ""


@dataclass(frozen=True)
class RecipePart:
    """A part of a recipe."""

    of: RecipeFile
    settings: BlendPart


@dataclass(frozen=True)
class Recipe:
    """A blend as a document: what it is made of, or its filter where it is one; how it went out, and the gain it was
    given then (dB)."""

    kind: Annotated[str, Spec("Kind", le=40)] = ""
    version: Annotated[int, Spec("Version", ge=0, le=1_000_000)] = 0
    name: Annotated[str, Spec("Name", le=120)] = ""
    parts: Annotated[tuple[RecipePart, ...], Spec("Parts", le=MOST_PARTS)] = ()
    export: ExportChoice = ExportChoice()
    gain: Annotated[float, Spec("Gain", "dB")] = 0.0
    filter: Annotated[SpeakerFilter | None, Spec("Adjustable filter")] = None


def _out(home: Home, blend_id: int, how: ExportChoice) -> tuple[NDArray[np.float64], float]:
    stereo = blends.sound_of(home, blends.doc_of(blends.row_of(blend_id)), whole=True)
    return outgoing(stereo if how.stereo else mono(stereo)[:, None], how.rate, how.minimum, how.level)


def export(home: Home, blend_id: int, how: ExportChoice) -> bytes:
    """A blend as an impulse response: WAV of 32-bit floats, its recipe in its comment."""
    made = write_wav(_out(home, blend_id, how)[0], how.rate, "FLOAT")
    return with_comment(made, json.dumps(recipe(home, blend_id, how), ensure_ascii=False))


def recipe(home: Home, blend_id: int, how: ExportChoice) -> dict[str, Any]:
    """The recipe of a blend as plain data, that reads back."""
    row = blends.row_of(blend_id)
    doc = blends.doc_of(row)
    rows = kept.some([p.impulse for p in doc.parts])
    gain = _out(home, blend_id, how)[1]
    if doc.school == "filter":
        return dict(dump(Recipe(RECIPE, RECIPE_VERSION, row.name, (), how, round(gain, 4), doc.filter)))
    parts = []
    for each in doc.parts:
        there = rows[each.impulse]
        note = impulses.doc_of(there)
        of = RecipeFile(note.name, there.audio, there.channel, note.source, note.licence)
        parts.append(RecipePart(of, each))
    return dict(dump(Recipe(RECIPE, RECIPE_VERSION, row.name, tuple(parts), how, round(gain, 4))))


def from_recipe(home: Home, plain: Any) -> BlendState:
    """A new blend from a recipe. Invalid where it names impulse responses that are not here."""
    try:
        found = parse(Recipe, plain)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    if found.kind != RECIPE or not found.version:
        raise Invalid("This is no recipe of a blend.")
    if found.version > RECIPE_VERSION:
        raise Invalid("This recipe was written by a newer Low Tide. Read it with that one.")
    parts, missing = [], []
    for each in found.parts:
        there = next((r for r in kept.of_file(each.of.file) if r.channel == each.of.channel), None)
        if there is None:
            missing.append(f"“{each.of.name or each.of.file}” is not in the library: bring its file in first.")
        else:
            parts.append(replace(each.settings, impulse=there.id))
    if missing:
        raise Invalid(*missing)
    made = BlendDoc((), school="filter", filter=found.filter) if found.filter else BlendDoc(tuple(parts), "")
    return blends.begin(home, found.name, dump(made))


def response(home: Home, impulse_id: int) -> str:
    """An impulse response of the library as FRD text: Hz, dB, degrees."""
    from low_tide.core.cab.impulse import response_at
    from low_tide.core.frequency import frequency_grid
    from low_tide.formats.curves import write_frd

    row = impulses.row_of(impulse_id)
    grid = frequency_grid()
    return write_frd(grid.tolist(), response_at(impulses.sound_of(home, row), grid), impulses.called(row))


def impulse_file(home: Home, impulse_id: int, rate: int) -> bytes:
    """An impulse response of the library at a rate, WAV of 32-bit floats."""
    found = at_rate(impulses.sound_of(home, impulses.row_of(impulse_id)), RATE, rate)
    return write_wav(found, rate, "FLOAT")
