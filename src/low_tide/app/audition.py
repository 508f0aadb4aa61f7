"""Load feel by ear: a take rendered through each load, matched in level, and the direct tracks it may be made of."""

from __future__ import annotations

import hashlib
import os
import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import BinaryIO

import numpy as np

from low_tide.app import bench
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.feel import chosen_amp, find
from low_tide.core.audio.loudness import loudness
from low_tide.core.audio.metering import true_peak
from low_tide.core.audio.rendering import RATE, cab_filter, coloured, power_stage, riff
from low_tide.core.frequency import Real
from low_tide.core.power.load_feel import Contender, contenders, jack_response, tap_for
from low_tide.formats.recording import read_dry, write_wav
from low_tide.formats.sentences import FormatError
from low_tide.store import renders
from low_tide.store.home import Home

MOST_CHOICES = 12
TAKE_SECONDS = 10.5
BUILT_IN_DRIVE_DB = 6.0
TARGET_LUFS = -20.0
MOST_TRUE_PEAK = 10 ** (-1 / 20)


@dataclass(frozen=True)
class RenderProgress:
    """How far a rendering is."""

    done: int
    of: int
    name: str


@dataclass(frozen=True)
class Track:
    """A rendered take. `lufs` as it is now; `gain_db` is what matching its level took."""

    choice: str
    name: str
    file: str
    lufs: float
    gain_db: float


@dataclass(frozen=True)
class Rendered:
    """All tracks of a rendering, matched to within 0.1 LU, and their length."""

    tracks: tuple[Track, ...]
    seconds: float


@dataclass(frozen=True)
class Source:
    """An uploaded direct track."""

    id: str
    name: str
    seconds: float


def _keep(home: Home, data: bytes, stem: str) -> str:
    """Keep a sound under its own hash."""
    name = f"{stem}-{hashlib.sha256(data).hexdigest()[:24]}.wav"
    renders.put(home, name, data)
    return name


def _dry(path: Path) -> Real:
    """A direct track at the rate takes are rendered at; Invalid where it cannot serve."""
    try:
        return read_dry(path)
    except FormatError as error:
        raise Invalid(*error.problems) from None


def bring_source(home: Home, name: str, stream: BinaryIO) -> Source:
    """Take a direct track in for rendering; Invalid where it cannot serve."""
    home.renders.mkdir(exist_ok=True)
    handle, path = tempfile.mkstemp(dir=home.renders, prefix="incoming-")
    incoming = Path(path)
    try:
        with os.fdopen(handle, "wb") as out:
            while block := stream.read(1 << 20):
                out.write(block)
        dry = _dry(incoming)
    finally:
        incoming.unlink(missing_ok=True)
    kept = _keep(home, write_wav(dry * 0.98, RATE), "direct")
    return Source(kept, Path(name.replace("\\", "/")).name[:200], len(dry) / RATE)


def direct_track(home: Home, name: str) -> Real:
    """A direct track that was brought in, as one channel at 48 kHz, peaks at 1."""
    return _dry(file_of(home, name))


@lru_cache(maxsize=1)
def built_in() -> bytes:
    """The built-in take through the soft limit and the cab filter, as WAV: what levels are heard by without a take."""
    sound = coloured(power_stage(riff(TAKE_SECONDS), BUILT_IN_DRIVE_DB), cab_filter)
    return write_wav(sound / np.abs(sound).max() * 0.9, RATE)


def file_of(home: Home, name: str) -> Path:
    """Where a rendered sound lies. Names are only ever those that were given out."""
    found = renders.find(home, name)
    if found is None:
        raise NotFound("This sound has gone; render it again.")
    return found


def render(
    home: Home,
    hookup_id: str,
    choices: Sequence[str],
    source: str = "",
    drive_db: float = 6.0,
    amp: str = "",
    damping: float | None = None,
) -> Iterator[RenderProgress | Rendered]:
    """Render a take through each choice and match the levels. What is read from the store is read before it begins."""
    if not 1 <= len(set(choices)) <= MOST_CHOICES:
        raise Invalid(f"Choices: 1 to {MOST_CHOICES} are rendered together, these are {len(set(choices))}.")
    rig = bench.rig_of(bench.row_of(hookup_id))
    found = contenders(rig.gear)
    chosen = [find(found, c, "Choice") for c in dict.fromkeys(choices)]
    _, taps, factor, _ = chosen_amp(rig, amp, damping)
    path = file_of(home, source) if source else None
    return _render(home, chosen, taps, factor, path, drive_db)


def _render(
    home: Home, chosen: list[Contender], taps: tuple[float, ...], factor: float, source: Path | None, drive_db: float
) -> Iterator[RenderProgress | Rendered]:
    steps = len(chosen) + 1
    yield RenderProgress(0, steps, "the amp")
    dry = _dry(source) if source else riff(TAKE_SECONDS)
    driven = power_stage(dry, drive_db)
    made = []
    for i, c in enumerate(chosen):
        yield RenderProgress(i + 1, steps, c.label)
        tap = tap_for(c.nominal, taps)
        sound = coloured(driven, lambda f, c=c, tap=tap: jack_response(c, tap, factor, f) * cab_filter(f))  # type: ignore[misc]
        level = loudness(sound, RATE)
        if level is None:
            raise Invalid("There is nothing to hear in this take once it went through the amp.")
        made.append((c, sound, level))
    # The loudest peak decides how high all may stand together.
    room = min(
        20
        * np.log10(MOST_TRUE_PEAK / true_peak(np.asarray(s * 10 ** ((TARGET_LUFS - lufs) / 20), np.float32)[:, None]))
        for _, s, lufs in made
    )
    target = TARGET_LUFS + min(0.0, float(room))
    tracks = []
    for c, sound, level in made:
        gain = target - level
        matched = sound * 10 ** (gain / 20)
        file = _keep(home, write_wav(matched, RATE), "take")
        tracks.append(Track(c.id, c.label, file, loudness(matched, RATE) or target, gain))
    yield Rendered(tuple(tracks), len(dry) / RATE)
