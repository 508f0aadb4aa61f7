"""Holding recordings against the reference, and the sound of them in line."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import log10
from pathlib import Path

import numpy as np

from low_tide.app.compared import UNHEARD, HeldFiles, Known, doc_of, is_done, known_of, render_name, row_of
from low_tide.app.comparison import ComparisonState, state
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.app.turns import give_way
from low_tide.core.audio.rendering import Samples
from low_tide.core.audio.waveform import Trace, trace, whole
from low_tide.core.comparing.aligning import RATE, put_in_line
from low_tide.core.comparing.comparison import Held, alone, held_against
from low_tide.core.comparing.recording import Recorded
from low_tide.core.comparing.sections import suggested
from low_tide.formats.documents import dump
from low_tide.formats.recording import read_one_channel, read_part, write_wav
from low_tide.formats.sentences import FormatError
from low_tide.store import comparisons, renders
from low_tide.store.database import database
from low_tide.store.home import Home, audio_file


@dataclass(frozen=True)
class Doing:
    """What is being done: of which recording (by name), the part of all that is done (0 to 1)."""

    name: str
    what: str
    part: float


def _read(home: Home, known: Known) -> Recorded:
    path = audio_file(home, known.audio) if known.audio else None
    if path is None:
        raise Conflict(f"{known.called}: its recording is gone; it was deleted meanwhile.")
    try:
        samples, rate = read_one_channel(path)
    except FormatError as error:
        raise Invalid(*(f"{known.called}: {problem}" for problem in error.problems)) from None
    except OSError:
        raise Conflict(f"{known.called}: its recording was deleted while it was read.") from None
    return Recorded(samples, rate)


STEPS = 6


def work(home: Home, comparison_id: int) -> Iterator[Doing | ComparisonState]:
    """Hold everything against the reference that was not yet; yields what is being done, and last the comparison."""
    with database.connection_context():
        doc = doc_of(row_of(comparison_id))
        known = known_of(doc)
        if len(known) < 2:
            raise Invalid("Recordings: at least two are wanted, the reference first.")
        left = [k for k in known if k.audio and not is_done(home, known[0].audio, k.audio)]
        reference: Recorded | None = None
        for number, each in enumerate(left):
            yield Doing(each.called, "read", number / len(left))
            give_way()
            reference = reference or _read(home, known[0])
            yield from _hold(home, known[0], reference, each, number / len(left), 1 / len(left))
        yield state(home, comparison_id)


def _hold(home: Home, first: Known, reference: Recorded, each: Known, done: float, share: float) -> Iterator[Doing]:
    take = reference if each.audio == first.audio else _read(home, each)
    held: Held | None = alone(reference) if each.audio == first.audio else None
    step = 1
    for found in held_against(reference, take) if held is None else ():
        if isinstance(found, Held):
            held = found
            continue
        yield Doing(each.called, found, done + share * step / STEPS)
        step += 1
        give_way()
    assert held is not None
    peak = 0.0
    if held.relation not in UNHEARD:
        heard = _as_heard(held, reference, take)
        peak = float(np.abs(heard).max(initial=0.0))
        renders.put(home, render_name(first.audio, each.audio), write_wav(heard.astype(np.float32), RATE, "FLOAT"))
    made = HeldFiles(held, 20 * log10(max(peak, 1e-6)), take.seconds, take.rate, suggested(take))
    with database.atomic():
        # A take that was deleted meanwhile takes what was found with it.
        if audio_file(home, each.audio) is None or audio_file(home, first.audio) is None:
            raise Conflict(f"{each.called}: its recording was deleted while it was compared.")
        comparisons.keep_held(first.audio, each.audio, dump(made))


def _as_heard(held: Held, reference: Recorded, take: Recorded) -> Samples:
    """A take beside the reference, matched in level; as it is where it cannot be brought into line."""
    sound = take.samples
    if take is not reference and held.alignment is not None and held.relation in ("same", "identical"):
        sound = put_in_line(held.alignment, sound, len(reference.samples))
    return np.asarray(sound * 10 ** (held.match_db / 20))


def place_of(known: list[Known], audio: str) -> int:
    """Where a recording stands in a comparison; NotFound where it does not."""
    found = next((i for i, k in enumerate(known) if k.audio == audio and audio), None)
    if found is None:
        raise NotFound("There is no such recording in this comparison.")
    return found


def render_of(home: Home, comparison_id: int, audio: str) -> Path:
    """The sound of a track, in line and matched; NotFound where it has to be made again."""
    known = known_of(doc_of(row_of(comparison_id)))
    place_of(known, audio)
    path = renders.find(home, render_name(known[0].audio, audio))
    if path is None:
        raise NotFound("This sound has gone from the server; compare again.")
    return path


def waveform(home: Home, comparison_id: int, audio: str, start: float, stop: float, columns: int) -> Trace:
    """What a part (s of the reference) of a track is drawn by, as it is heard."""
    path = render_of(home, comparison_id, audio)
    samples = read_part(path, round(start * RATE), round(stop * RATE)).T[0]
    drawn = whole(samples)
    return trace(np.stack((drawn, drawn), axis=1)[:, None, :], start, start + len(samples) / RATE, columns)
