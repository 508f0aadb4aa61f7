"""What a blend can be heard on: the built-in take, driven or clean, and takes of the log."""

from __future__ import annotations

import contextlib
import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from low_tide.app import recordings
from low_tide.app.errors import Conflict, Invalid
from low_tide.core.audio.rendering import RATE, Samples, picked_up, power_stage, riff
from low_tide.core.audio.speaker_sound import Speakers
from low_tide.formats.recording import read_both_channels, read_one_channel, read_section
from low_tide.formats.sentences import FormatError
from low_tide.store import inspections, takes
from low_tide.store.home import Home, audio_file

BUILT_IN = {"driven": 16.0, "clean": -14.0}
"""The built-in take through the power stage, by how hard it is driven (dB)."""
BUILT_IN_S = 7.0


@dataclass(frozen=True)
class BlendSource:
    """What a blend can be heard on: the built-in take, driven or clean, or a take of the log.

    `speakers` that are in it as far as can be told; `warning`: why a blend on it would be one too many, or might.
    """

    id: str
    name: str
    seconds: float
    simulated: bool
    speakers: Speakers
    warning: str


WARNINGS: dict[str, str] = {
    "one": "This take has a speaker in it already: through a blend it would have two.",
    "two": "This take sounds like two speakers already.",
    "cannot tell": "Whether a speaker is in this take already cannot be told from its sound: check first.",
}


def sources() -> list[BlendSource]:
    """What blends can be heard on."""
    found = [BlendSource(name, f"built-in take, {name}", BUILT_IN_S, True, "none", "") for name in BUILT_IN]
    return found + [of_take(row) for row in takes.with_audio()]


def of_take(row: takes.TakeRecord) -> BlendSource:
    """A take as something to hear a blend on."""
    speakers = _speakers(row)
    seconds = float((row.measures or {}).get("seconds", 0.0))
    name = f"take {row.number}, {row.name}"
    return BlendSource(f"take-{row.id}", name, seconds, row.simulated, speakers, WARNINGS.get(speakers, ""))


def _speakers(row: takes.TakeRecord) -> Speakers:
    """What a take's sound says of a speaker in it; where that says nothing, the hook-up that the simulated interface
    recorded it through. A file from elsewhere may be anything, whatever hook-up it is said to be of."""
    inspection = inspections.find(row.audio) if row.audio else None
    found: Speakers = "cannot tell" if inspection is None else inspection["speaker"]["speakers"]
    if found != "cannot tell" or not row.simulated:
        return found
    by_hookup = recordings.speakers_by_hookup(row.id)
    return found if by_hookup is None else ("none", "one", "two")[min(2, by_hookup)]


@lru_cache(maxsize=4)
def _built_in(name: str) -> Samples:
    found = power_stage(picked_up(riff(BUILT_IN_S)), BUILT_IN[name])
    found.setflags(write=False)
    return found


@lru_cache(maxsize=4)
def _read(path: Path) -> tuple[Samples, int]:
    found, rate = read_one_channel(path)
    found.setflags(write=False)
    return found, rate


TAKE = re.compile(r"take-([0-9]{1,12})")


def take_of(source: str) -> takes.TakeRecord | None:
    """The take that a source names; None where there is none, or it has no recording."""
    named = TAKE.fullmatch(source)
    row = takes.find(int(named[1])) if named else None
    return row if row and row.audio else None


def _path(home: Home, source: str) -> tuple[takes.TakeRecord, Path]:
    row = take_of(source)
    if row is None:
        raise Invalid("Heard on: there is no such take, or it has no recording.")
    path = audio_file(home, row.audio or "")
    if path is None:
        raise Conflict(f"Take {row.number}: its recording is gone.")
    return row, path


def of_source(home: Home, source: str) -> Samples:
    """What a blend is heard on, shape (n,), 48 kHz; Invalid where there is no such thing."""
    if source in BUILT_IN:
        return _built_in(source)
    row, path = _path(home, source)
    with told_with(f"Take {row.number}"):
        return _read(path)[0]


def both_channels_of(home: Home, source: str) -> NDArray[np.float64]:
    """A take with both its channels where two hold something, shape (n, 1 or 2), 48 kHz."""
    row, path = _path(home, source)
    with told_with(f"Take {row.number}"):
        return read_both_channels(path)


def section_of(home: Home, source: str, start: float, stop: float) -> Samples:
    """The same from one place to another, s from its beginning; silence before and after it."""
    if source in BUILT_IN:
        return within(_built_in(source), start, stop)
    row, path = _path(home, source)
    with told_with(f"Take {row.number}"):
        return read_section(path, start, stop)


def within(sound: Samples, start: float, stop: float) -> Samples:
    """Samples (48 kHz) from one place to another, s; silence where there are none."""
    first, last = round(start * RATE), round(stop * RATE)
    found = np.zeros(last - first)
    there = sound[max(0, first) : max(0, last)]
    begin = max(0, -first)
    found[begin : begin + len(there)] = there
    return found


@contextlib.contextmanager
def told_with(name: str) -> Iterator[None]:
    """What is wrong with a file is told with the name of what it is of."""
    try:
        yield
    except FormatError as error:
        raise Invalid(*(f"{name}: {problem}" for problem in error.problems)) from None
