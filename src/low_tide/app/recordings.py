"""Recordings of takes: brought in, inspected, looked at, and what they say of the hook-up they were made with."""

from __future__ import annotations

import contextlib
import hashlib
import os
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any, BinaryIO, Literal

import numpy as np

from low_tide.app import bench, log, playing
from low_tide.app.compared import beside
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.app.kept_audio import settled
from low_tide.app.log import Take, TakeNote
from low_tide.app.playing import Counting
from low_tide.app.preferences import preferences
from low_tide.app.turns import give_way
from low_tide.core.audio.dynamics import SoundPart
from low_tide.core.audio.inspection import Inspected, Inspection, inspect
from low_tide.core.audio.spectrum import Spectrogram, spectrogram, window_size
from low_tide.core.audio.waveform import BIN, MOST_COLUMNS, Extremes, Trace, trace, whole
from low_tide.core.judging.checks.registry import Case
from low_tide.core.judging.checks.speaker_sound import speakers_on_the_way
from low_tide.core.judging.findings import Finding, Fix, counted
from low_tide.core.judging.takes import input_of, recorded_inputs, what_a_take_says
from low_tide.core.rig.changes import Change, Guard, SetControl
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.known import Known
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.rig.words import control_words
from low_tide.formats.documents import dump, load_hookup, load_unit, parse, plain_rig
from low_tide.formats.file_names import named_in, take_name
from low_tide.formats.recording import opened_sound, read_part, read_windows, song_start, write_wav
from low_tide.formats.sentences import FormatError
from low_tide.store import hookups, inspections, uploads, waves
from low_tide.store import takes as kept
from low_tide.store.database import database
from low_tide.store.home import Home, audio_file, incoming, keep_audio

READ = 1 << 20


@dataclass(frozen=True)
class InputChoice:
    """An input a take may have been recorded at, and the peak (dBFS) expected there; None where not known."""

    id: str
    name: str
    expected: float | None


@dataclass(frozen=True)
class FileGuess:
    """What a file's name says of the take it becomes; part and hook-up (its id) empty where it says nothing of them."""

    name: str
    part: str
    hookup: str


@dataclass(frozen=True)
class FileGuesses:
    """The same of several, and the parts that there are."""

    files: tuple[FileGuess, ...]
    parts: tuple[str, ...]


AdviceState = Literal["ready", "on", "changed", "gone"]


@dataclass(frozen=True)
class TakeAdvice:
    """A change to the hook-up that a take asks for. `state`: whether it can be put on now, and `why` it cannot."""

    label: str
    changes: tuple[Change, ...]
    state: AdviceState
    why: str


@dataclass(frozen=True)
class TakeSays:
    """One finding of a take: where in the sound it is heard, and what may be put on for it."""

    finding: Finding
    at: tuple[SoundPart, ...]
    advice: tuple[TakeAdvice, ...]


@dataclass(frozen=True)
class TakeReport:
    """A take with what its recording holds and says; `inspection` None where it was not inspected in today's way.

    `recorded_at`: the input it is judged at, `saves` the hook-up's now, for putting advice on; 0 where it is gone.
    """

    take: Take
    inspection: Inspection | None
    says: tuple[TakeSays, ...]
    counted: str
    inputs: tuple[InputChoice, ...]
    recorded_at: str
    saves: int
    counting: Counting | None


@dataclass(frozen=True)
class Found:
    """A file that was taken in: what it is called in the data folder, and what it holds."""

    name: str
    inspected: Inspected


def guessed(file_names: Sequence[str]) -> FileGuesses:
    """What the names of files say of the takes they become."""
    parts = kept.parts()
    standing = [(row.id, row.name) for row in hookups.listed()]
    return FileGuesses(
        tuple(
            FileGuess(take_name(n), named_in(n, ((p, p) for p in parts)) or "", named_in(n, standing) or "")
            for n in file_names
        ),
        tuple(parts),
    )


def inspected_file(path: Path) -> Iterator[float | Found]:
    """Inspect a file, giving way to whoever waits; yields the part that is done, and last what was found."""
    digest = hashlib.sha256()
    with path.open("rb") as file:
        while block := file.read(READ):
            digest.update(block)
    try:
        sound, kind = opened_sound(path)
        for step in inspect(sound):
            if isinstance(step, Inspected):
                yield Found(f"{digest.hexdigest()}.{kind}", step)
            else:
                yield step
                give_way()
    except FormatError as error:
        raise Invalid(*error.problems) from None


def keep_inspected(home: Home, found: Found) -> None:
    """What a file was found to hold; in the transaction that gives the file to what has it."""
    inspections.keep(found.name, dump(found.inspected.inspection))
    waves.keep(home, found.name, found.inspected.extremes)


def _learn(take_id: int, found: Found) -> None:
    """What a take says of how hard its amp was played; nothing where its hook-up cannot be read any more."""
    _learn_again(take_id, found.inspected.inspection)


def _learn_again(take_id: int, inspection: Inspection) -> None:
    row = log.take(take_id)
    with contextlib.suppress(HookupError, FormatError):
        playing.learn(take_id, rig_at(take_id), row.note.recorded_at, inspection, row.simulated)


def _audio_columns(found: Found, name: str) -> dict[str, Any]:
    measures = found.inspected.inspection.measures
    return {
        "audio": found.name,
        "audio_name": Path(name.replace("\\", "/")).name[:200],
        "measures": dump(measures),
        "clipped": measures.clipped_runs,
    }


def _taken(home: Home, upload: str, part: Path) -> None:
    """Move a file that was brought in by pieces to where it is inspected. Conflict where it is not whole."""
    path, size = uploads.uploaded(home, upload)
    if path.stat().st_size < size:
        raise Conflict(f"Only {path.stat().st_size} of {size} bytes are here.")
    os.replace(path, part)


def bring(
    home: Home, upload: str, file_name: str, hookup_id: str, doc: Any, session_id: int | None = None
) -> Iterator[float | Take]:
    """A take of the hook-up as it stands from a file that was brought in: yields the part that is done, last the take.

    Without a session the newest one has it, or a first one that is begun. Where the file says at which time it begins
    and nobody else does, that is its place in the song. What is stopped leaves nothing.
    """
    note = log.read_note(doc)
    with database.connection_context(), incoming(home) as part:
        bench.row_of(hookup_id)
        _taken(home, upload, part)
        for step in inspected_file(part):
            if not isinstance(step, Found):
                yield step
                continue
            if note.song_start is None:
                note = replace(note, song_start=song_start(part))
            yield keep_take(home, part, step, file_name, hookup_id, note, session_id)


def keep_take(
    home: Home,
    part: Path,
    found: Found,
    file_name: str,
    hookup_id: str,
    note: TakeNote,
    session_id: int | None,
    simulated: bool = False,
    at: str = "",
) -> Take:
    """A take of the hook-up as it stands with a recording that was inspected: all of it, or nothing."""
    with settled(home) as mark, database.atomic():
        mark(found.name)
        keep_audio(home, part, found.name)
        keep_inspected(home, found)
        simulated = simulated or kept.is_simulated(found.name)
        made = log.log_take(log.session_for(session_id), hookup_id, dump(note), at)
        kept.update(made.id, **_audio_columns(found, file_name), simulated=simulated)
        _learn(made.id, found)
    return log.take(made.id)


def _replaces(row: Take, replaced: str | None) -> None:
    """Conflict where a take has other audio than what is to be replaced; None asks for no such care."""
    if replaced is not None and (row.audio or "") != replaced:
        raise Conflict(f"Take {row.number} was given another recording in another window. Nothing was replaced.")


def _given(home: Home, take_id: int, name: str, part: Path, replaced: str | None) -> Iterator[float | Take]:
    for step in inspected_file(part):
        if not isinstance(step, Found):
            yield step
            continue
        # Only now, so that others can write while a long file is taken in; the take may be gone by then.
        with settled(home) as mark, database.atomic():
            row = log.take(take_id)
            _replaces(row, replaced)
            mark(row.audio)
            mark(step.name)
            keep_audio(home, part, step.name)
            keep_inspected(home, step)
            simulated = kept.is_simulated(step.name)
            kept.update(take_id, **_audio_columns(step, name), simulated=simulated)
            _learn(take_id, step)
        yield log.take(take_id)


def edit_take(take_id: int, doc: Any, saves: int | None = None) -> Take:
    """Change what is said about a take; at another input it may say something else of how hard its amp was played."""
    with database.atomic():
        before = log.take(take_id)
        after = log.edit_take(take_id, doc, saves)
        found = inspections.find(after.audio) if after.audio else None
        if found is not None and before.note.recorded_at != after.note.recorded_at:
            _learn_again(take_id, parse(Inspection, found))
        return after


def give(home: Home, take_id: int, upload: str, name: str, replaced: str | None = None) -> Iterator[float | Take]:
    """A take in the log gets the recording that was brought in: yields the part that is done, and last the take.

    It is stored under its own hash, never under `name`. `replaced`: the audio the take had when it was looked at,
    empty for none; other audio than that is not replaced.
    """
    with database.connection_context(), incoming(home) as part:
        _replaces(log.take(take_id), replaced)
        _taken(home, upload, part)
        yield from _given(home, take_id, name, part, replaced)


def attach(home: Home, take_id: int, name: str, stream: BinaryIO, replaced: str | None = None) -> Take:
    """The same in one go, from a stream."""
    _replaces(log.take(take_id), replaced)
    with incoming(home) as part:
        with part.open("wb") as out:
            while block := stream.read(READ):
                out.write(block)
        *_, made = _given(home, take_id, name, part, replaced)
    assert isinstance(made, Take)
    return made


def _audio(home: Home, take_id: int) -> tuple[Path, Take]:
    row = log.take(take_id)
    file = audio_file(home, row.audio or "")
    if file is None:
        raise NotFound("There is no audio with this take.")
    return file, row


def audio_path(home: Home, take_id: int) -> tuple[Path, str]:
    """Where a take's audio lies, and the name it came with, ending as what it is."""
    file, row = _audio(home, take_id)
    return file, Path(row.audio_name or file.name).stem + file.suffix


def inspecting(home: Home, take_id: int) -> Iterator[float | TakeReport]:
    """Inspect a take's recording again: yields the part that is done, and last the report."""
    with database.connection_context():
        file, _ = _audio(home, take_id)
        for step in inspected_file(file):
            if not isinstance(step, Found):
                yield step
                continue
            with database.atomic():
                log.take(take_id)
                keep_inspected(home, step)
            yield report(take_id)


def rig_at(take_id: int) -> Rig:
    """The hook-up a take was made with, with the gear as it was."""
    saved = plain_rig(log.snapshot(take_id))
    return checked(load_hookup(saved["hookup"]), {u.id: u for u in map(load_unit, saved["gear"])})


def report(take_id: int) -> TakeReport:
    """What a take's recording holds and says."""
    row = log.take(take_id)
    found = inspections.find(row.audio) if row.audio else None
    try:
        rig = replace(rig_at(take_id), known=Known(played=playing.without(take_id)))
    except (HookupError, FormatError) as error:
        raise Invalid(*error.problems) from None
    inputs, at = _inputs(rig, row.note.recorded_at)
    if found is None:
        return TakeReport(row, None, (), "", inputs, at, 0, None)
    inspection = parse(Inspection, found)
    now = hookups.find(row.hookup_id)
    standing = None if now is None or now.archived else bench.rig_of(now)
    says = tuple(
        TakeSays(
            replace(f.finding, fix=None, fixes=()),
            f.at,
            tuple(_advice(fix, rig, standing) for fix in f.finding.fixes),
        )
        for f in what_a_take_says(inspection, rig, row.note.recorded_at, preferences(), beside(row.audio or ""))
    )
    return TakeReport(
        take=row,
        inspection=inspection,
        says=says,
        counted=counted(s.finding for s in says),
        inputs=inputs,
        recorded_at=at,
        saves=0 if now is None else now.saves,
        counting=playing.counting(take_id),
    )


def speakers_by_hookup(take_id: int) -> int | None:
    """How many speakers the hook-up of a take says are before its input; None where it does not say."""
    try:
        rig = rig_at(take_id)
    except (HookupError, FormatError):
        return None
    point = input_of(recorded_inputs(rig), log.take(take_id).note.recorded_at)
    found = None if point is None else speakers_on_the_way(Case(rig, preferences()), point.input)
    return None if found is None else found.before


def way_to(take_id: int) -> Literal["dry", "bare", "speaker", "unknown"]:
    """What lies before the input of a take by its hook-up: no amp, an amp and no speaker, or a speaker. FormatError or
    HookupError where its hook-up cannot be read any more."""
    rig = rig_at(take_id)
    point = input_of(recorded_inputs(rig), log.take(take_id).note.recorded_at)
    if point is None:
        return "unknown"
    found = speakers_on_the_way(Case(rig, preferences()), point.input)
    return "dry" if found is None else "speaker" if found.before else "bare"


def _inputs(rig: Rig, recorded_at: str) -> tuple[tuple[InputChoice, ...], str]:
    points = recorded_inputs(rig)
    choices = tuple(InputChoice(p.input.name, rig.label(p.input), p.dbfs) for p in points)
    chosen = input_of(points, recorded_at)
    return choices, chosen.input.name if chosen else ""


def _advice(fix: Fix, then: Rig, now: Rig | None) -> TakeAdvice:
    """A fix for the hook-up as it was, and whether it fits the one that stands now."""
    state, why = _fits(fix.changes, then, now)
    return TakeAdvice(fix.label, fix.changes, state, why)


def _fits(changes: Sequence[Change], then: Rig, now: Rig | None) -> tuple[AdviceState, str]:
    if now is None:
        return "gone", "The hook-up it was made with is no longer there."
    if now.hookup.links != then.hookup.links:
        return "changed", "Leads have been moved since this take."
    set_ones = [c for c in changes if isinstance(c, SetControl)]
    for each in set_ones:
        if not now.has(each.unit) or now.control(each.unit, each.control) is None:
            return "changed", "The gear has changed since this take."
    if all(now.settings(c.unit)[c.control] == c.value for c in set_ones) and not any(
        isinstance(c, Guard) for c in changes
    ):
        return "on", "It is on the hook-up already."
    for each in set_ones:
        stood, stands = then.settings(each.unit)[each.control], now.settings(each.unit)[each.control]
        if stood != stands:
            control = now.control(each.unit, each.control)
            assert control is not None
            said = control_words(control)
            return "changed", f"{said[:1].upper()}{said[1:]} of {now.name(each.unit)} has been moved since this take."
    return "ready", ""


def _extremes(home: Home, audio: str, file: Path) -> Extremes:
    found = waves.find(home, audio)
    if found is not None:
        return found
    *_, step = inspected_file(file)
    assert isinstance(step, Found)
    waves.keep(home, audio, step.inspected.extremes)
    return step.inspected.extremes


SPECTRA = 240
"""Windows a spectrogram is made of at the most, evenly over what is looked at."""


def spectra(home: Home, take_id: int, start: float, stop: float) -> Spectrogram:
    """A part of a recording (from and to, s) as levels over time and frequency: one window a column."""
    file, row = _audio(home, take_id)
    assert row.measures is not None
    rate, size = row.measures.rate, window_size(row.measures.rate)
    first, last = max(0.0, start), min(stop, row.measures.seconds)
    count = max(1, min(SPECTRA, int((last - first) * rate / (size / 8))))
    times = first + (np.arange(count) + 0.5) * max(0.0, last - first) / count
    try:
        windows = read_windows(file, [round(t * rate) - size // 2 for t in times], size)
    except FormatError as error:
        raise Invalid(*error.problems) from None
    return spectrogram(windows, times, rate)


MOST_SOUND_S = 30.0
"""The most of a recording that is given at one time, to be played."""


def sound(home: Home, take_id: int, start: float, stop: float) -> bytes:
    """A part of a recording (from and to, s) as WAV. Invalid where it is too long to be given at one time."""
    file, row = _audio(home, take_id)
    assert row.measures is not None
    if not 0 < stop - start <= MOST_SOUND_S:
        raise Invalid(f"Part: 0 to {MOST_SOUND_S:g} s are given at one time, this is {stop - start:g} s.")
    rate = row.measures.rate
    try:
        return write_wav(read_part(file, round(start * rate), round(stop * rate)), rate)
    except FormatError as error:
        raise Invalid(*error.problems) from None


def waveform(home: Home, take_id: int, start: float, stop: float, columns: int = MOST_COLUMNS) -> Trace:
    """What a part of a take (from and to, s) is drawn by: as it is kept, or, looked at closely, from its samples."""
    file, row = _audio(home, take_id)
    assert row.measures is not None
    assert row.audio is not None
    rate, length = row.measures.rate, row.measures.seconds
    start = min(max(0.0, start), length)
    stop = min(max(start, stop), length)
    first, last = round(start * rate), round(stop * rate)
    if last - first < columns * BIN:
        try:
            samples = read_part(file, first, last)
        except FormatError as error:
            raise Invalid(*error.problems) from None
        each = whole(samples)
        return trace(np.stack((each, each), axis=2), first / rate, last / rate, columns)
    bins = _extremes(home, row.audio, file)
    return trace(bins[first // BIN : -(-last // BIN)], first / rate, last / rate, columns)
