"""A session written into one file, piece by piece as it is sent."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from typing import Any, cast

from low_tide.app import attachments, bench, blend_sound, log, running, session_sheet
from low_tide.app.blend_sound import ExportChoice
from low_tide.app.errors import Invalid, Refusal
from low_tide.app.log import LineKind, Take
from low_tide.app.session_file import HEAD, MANIFEST, FiledAttachment, FiledLine, FiledSession, FiledTake
from low_tide.formats.documents import dump
from low_tide.formats.file_names import on_any_disk
from low_tide.store import archives, hookups
from low_tide.store import takes as kept
from low_tide.store.home import Home, audio_file
from low_tide.store.takes import LineRecord


def _json(value: Any) -> bytes:
    return json.dumps(value, ensure_ascii=False, indent=1).encode()


def _filed(row: Take, snapshot: dict[str, Any], gear: str, numbers: dict[int, int]) -> tuple[FiledTake, list[int]]:
    """A take as it is filed, and the numbers of what is attached to it."""
    there = attachments.of_take(row.id)
    attached = []
    for each in there:
        _, data = attachments.opened(each.id)
        member = f"attached/{hashlib.sha256(data).hexdigest()}.{each.kind}"
        attached.append(FiledAttachment(each.kind, each.name, each.at, member))
    filed = FiledTake(
        row.number,
        replace(row.note, replaces=numbers.get(row.note.replaces or 0)),
        row.hookup,
        row.hookup_id,
        row.severity,
        row.expected_peak,
        row.accepted,
        row.at,
        gear,
        row.simulated,
        snapshot,
        row.audio,
        row.audio_name,
        tuple(attached),
    )
    return filed, [each.id for each in there]


def prepare(home: Home, session_id: int) -> Iterator[bytes]:
    """A session as a ZIP, piece by piece as it is sent; to be read in one transaction.

    Invalid before anything is sent where it is too large, or where a recording is gone.
    """
    log.session(session_id)
    names = {row.audio for row in kept.each(session_id) if row.audio}
    files = {name: audio_file(home, name) for name in names}
    gone = sum(file is None for file in files.values())
    if gone:
        raise Invalid(f"{gone} of its recordings are not in the data folder any more: it cannot go out whole.")
    whole = sum(file.stat().st_size for file in files.values() if file)
    if whole > archives.MOST_BYTES:
        raise Invalid(f"Its recordings have {whole / archives.GIBIBYTE:.1f} GiB; a session file has at most 8 GiB.")
    return _writing(home, session_id)


def _writing(home: Home, session_id: int) -> Iterator[bytes]:
    """Recordings go in as they lie, since they are packed already."""
    session = log.session(session_id)
    pipe = archives.Pipe()
    with zipfile.ZipFile(pipe, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(archives.MANIFEST, MANIFEST)
        said = tuple(filed_line(line) for line in reversed(kept.lines(session_id, None)))
        filed = FiledSession(session.name, session.notes, session.started, session.takes, said)
        archive.writestr(HEAD, _json(dump(filed)))
        archive.writestr("session.md", "".join(session_sheet.as_markdown(session_id)))
        yield pipe.taken()
        audio, named, written = set[str](), set[str](), set[str]()
        numbers = {row.id: row.number for row in kept.each(session_id)}
        for row, snapshot in kept.each_with_what_was_seen(session_id):
            take, attached = _filed(log.told(row), json.loads(snapshot), row.gear, numbers)
            archive.writestr(f"takes/{row.number}.json", _json(dump(take)))
            for each, number in zip(take.attached, attached, strict=True):
                if each.file not in written:
                    written.add(each.file)
                    archive.writestr(each.file, attachments.opened(number)[1])
            audio |= {row.audio} if row.audio else set()
            named.add(row.hookup_id)
            yield pipe.taken()
        for name, text in _run_sheets(named):
            archive.writestr(name, text)
        for name, made in _recipes(home, session_id):
            archive.writestr(name, made)
        for name in sorted(audio):
            yield from _recording(home, archive, pipe, name)
    yield pipe.taken()


def _named(called: str, id: str, used: set[str]) -> str:
    """What a paper about something is called; its id as well where another is called like it."""
    plain = on_any_disk(called, 100) or id
    name = plain if plain.lower() not in used else f"{plain[:60]} {id[:60]}"
    used.add(name.lower())
    return name


def _run_sheets(named: set[str]) -> Iterator[tuple[str, str]]:
    """Run sheets of the hook-ups that still stand here and go together, by what they are called."""
    used = set[str]()
    for row in hookups.listed():
        if row.id in named and bench.rig_at(row, row.current) is not None:
            yield f"run-sheets/{_named(row.name, row.id, used)}.md", running.as_markdown(row.id)


def _recipes(home: Home, session_id: int) -> Iterator[tuple[str, bytes]]:
    """Recipes of the blends that were taken in the session, as far as all of them is still here."""
    used = set[str]()
    for blend in dict.fromkeys(line.blend for line in reversed(kept.lines(session_id, None)) if line.blend):
        try:
            made = blend_sound.recipe(home, blend, ExportChoice())
        except Refusal:
            continue
        yield f"recipes/{_named(made['name'], str(blend), used)}.json", _json(made)


def _recording(home: Home, archive: zipfile.ZipFile, pipe: archives.Pipe, name: str) -> Iterator[bytes]:
    file = home.audio / name
    info = zipfile.ZipInfo(f"audio/{name}")
    info.file_size = file.stat().st_size
    with file.open("rb") as source, archive.open(info, "w", force_zip64=True) as out:
        while block := source.read(archives.BLOCK):
            out.write(block)
            yield pipe.taken()


def filed_line(line: LineRecord) -> FiledLine:
    """A line as it is filed."""
    return FiledLine(line.text, line.at, cast(LineKind, line.kind), line.place, line.level)


def file_name(session_id: int) -> str:
    """What the file of a session is called."""
    return f"{log.session(session_id).name}.zip"
