"""A session file opened: read and checked whole, then in the log at once or not at all."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path, PurePath

from low_tide.app import attachments, log
from low_tide.app.data import whole_upload
from low_tide.app.kept_audio import settled
from low_tide.app.log import Session
from low_tide.app.recordings import Found, inspected_file, keep_inspected
from low_tide.app.session_file import SESSION, FiledTake, Read, attached, read, take_in, told_apart
from low_tide.formats.documents import dump
from low_tide.store import archives, uploads
from low_tide.store import takes as kept
from low_tide.store.archives import Archive
from low_tide.store.database import database
from low_tide.store.home import Home, StoreError, incoming, keep_audio
from low_tide.store.takes import LineRecord, TakeRecord


@dataclass(frozen=True)
class SessionContents:
    """What a session file holds, counted; `bytes` of its recordings. `here`: a session in the log that has its name and
    began when it did, None where there is none."""

    name: str
    notes: str
    started: str
    takes: int
    recordings: int
    attachments: int
    lines: int
    bytes: int
    here: str | None


def _opened(home: Home, upload: str) -> contextlib.AbstractContextManager[Archive]:
    path, called = whole_upload(home, upload)
    told_apart(archives.manifest_of(path))
    return archives.opened(path, SESSION, home.folder, called)


CALLED = "The file"


def look_into(home: Home, upload: str) -> SessionContents:
    """What a session file that was brought in holds, everything in it checked but what its recordings hold."""
    with _opened(home, upload) as archive:
        found = read(archive, CALLED)
        audio = found.recordings()
        same = [s.name for s in log.sessions() if (s.name, s.started) == (found.session.name, found.session.started)]
        return SessionContents(
            found.session.name,
            found.session.notes,
            found.session.started,
            len(found.takes),
            len(audio),
            sum(len(take.attached) for take in found.takes),
            len(found.session.lines),
            sum(archive.size(f"audio/{name}") for name in audio),
            same[0] if same else None,
        )


def opening(home: Home, upload: str) -> Iterator[float | Session]:
    """Put a session file into the log: yields the part that is done, and last the session.

    Its recordings are inspected as any that come in, so that what is told of them was measured here. They teach nothing
    of how hard the amps of this locker are played: whose they were is not known. What is stopped leaves nothing.
    """
    with database.connection_context(), _opened(home, upload) as archive, contextlib.ExitStack() as parts:
        found = read(archive, CALLED)
        audio = found.recordings()
        whole = sum(archive.size(f"audio/{name}") for name in audio) or 1
        done = 0
        inspected: list[tuple[Path, Found]] = []
        for name in audio:
            part, size = parts.enter_context(incoming(home)), archive.size(f"audio/{name}")
            if archive.unpack(f"audio/{name}", part) != PurePath(name).stem:
                raise StoreError(f"{CALLED}: recording “{name[:12]}…” is not what it was.")
            for step in inspected_file(part):
                if not isinstance(step, Found):
                    yield (done + step * size) / whole
                elif step.name != name:
                    raise StoreError(f"{CALLED}: recording “{name[:12]}…” is of another kind than its name says.")
                else:
                    inspected.append((part, step))
            done += size
        made = _kept(home, archive, found, inspected)
    uploads.give_up(home, upload)
    yield made


def _kept(home: Home, archive: Archive, found: Read, inspected: list[tuple[Path, Found]]) -> Session:
    with settled(home) as mark, database.atomic():
        for part, recording in inspected:
            mark(recording.name)
            keep_audio(home, part, recording.name)
            keep_inspected(home, recording)
        session = kept.begin(found.session.name, found.session.started, found.session.notes)
        by_audio = {each.name: each for _, each in inspected}
        numbers: dict[int, int] = {}
        for listed in found.takes:
            take = take_in(archive, listed.number, CALLED)
            numbers[take.number] = kept.insert(_record(session.id, take, by_audio), take.snapshot)
            for each in take.attached:
                data = attached(archive, each, CALLED)
                attachments.keep(numbers[take.number], each.kind, each.name, each.at, data)
        for listed in found.takes:
            if listed.replaces is not None:
                kept.update(numbers[listed.number], replaces=numbers[listed.replaces])
        for line in found.session.lines:
            kept.write_line(LineRecord(session.id, line.text, line.at, line.kind, line.place, line.level))
    return log.session(session.id)


def _record(session_id: int, take: FiledTake, by_audio: dict[str, Found]) -> TakeRecord:
    recording = by_audio.get(take.audio or "")
    measures = recording.inspected.inspection.measures if recording else None
    return TakeRecord(
        session_id=session_id,
        number=take.number,
        **{**dump(take.note), "replaces": None},
        hookup_name=take.hookup,
        hookup_id=take.hookup_id,
        verdict=take.severity,
        expected_peak=take.expected_peak,
        accepted=[dump(each) for each in take.accepted],
        at=take.at,
        audio=take.audio,
        audio_name=take.audio_name,
        measures=dump(measures) if measures else None,
        clipped=measures.clipped_runs if measures else 0,
        simulated=take.simulated or (take.audio is not None and kept.is_simulated(take.audio)),
        gear=take.gear,
    )
