"""A session as one file: what stands in it, and reading it. Takes with what was seen at them, recordings, photos, and
papers for whoever has no such program."""

from __future__ import annotations

import hashlib
import json
import re
from dataclasses import dataclass
from datetime import datetime
from pathlib import PurePath
from typing import Annotated, Any, Final, Literal, cast

from low_tide.app import attachments
from low_tide.app.attachments import MOST_EACH, MOST_PRESET, Kind
from low_tide.app.clock import FIRST_YEAR, LAST_YEAR
from low_tide.app.errors import Invalid
from low_tide.app.log import Accepted, LineKind, TakeNote
from low_tide.core.gear.ids import ID
from low_tide.core.judging.findings import Severity
from low_tide.core.spec import Spec
from low_tide.formats.documents import parse
from low_tide.formats.sentences import FormatError
from low_tide.store.archives import Archive, ArchiveKind, is_audio
from low_tide.store.home import AUDIO_NAME, StoreError

FORMAT: Final = "low-tide/session"
VERSION = 1
NEWER = "The file comes from a newer version of this program; update it, then open the file again."
MANIFEST = "low-tide-session-1"
HEAD = "session.json"
MEBIBYTE = 1024**2
MOST_HEAD, MOST_TAKE, MOST_PHOTO = 16 * MEBIBYTE, 16 * MEBIBYTE, 24 * MEBIBYTE
MOST_TAKES = 50_000
TAKE_FILE = re.compile(r"takes/[1-9][0-9]{0,8}\.json")
ATTACHED_FILE = re.compile(r"attached/[0-9a-f]{64}\.(photo|preset)")
PAPER = re.compile(r"(session\.md|run-sheets/[^/\\]{1,130}\.md|recipes/[^/\\]{1,130}\.json)")
"""For people: not read back."""


def _allows(name: str) -> bool:
    return is_audio(name) or any(p.fullmatch(name) for p in (TAKE_FILE, ATTACHED_FILE, PAPER))


SESSION = ArchiveKind("session file", MANIFEST, HEAD, _allows)


def _instant(text: str, what: str) -> None:
    """ValueError where a text is no instant of a time that clocks agree on."""
    try:
        at = datetime.fromisoformat(text)
    except ValueError:
        raise ValueError(f"{what}: “{text[:40]}” is no instant; 2026-03-01T21:30:00+00:00 is wanted.") from None
    if at.tzinfo is None or not FIRST_YEAR <= at.year <= LAST_YEAR:
        raise ValueError(f"{what}: an instant with its offset from {FIRST_YEAR} to {LAST_YEAR} is wanted.")


Instant = Annotated[str, Spec("At", le=40)]


@dataclass(frozen=True)
class FiledLine:
    """A line of the log that belongs to no take."""

    text: Annotated[str, Spec("Note", ge=1, le=1000)]
    at: Instant
    kind: LineKind = ""
    place: Annotated[str, Spec("Place", le=64)] = ""
    level: Annotated[float | None, Spec("Level", "dBA", 0, 140)] = None

    def __post_init__(self) -> None:
        _instant(self.at, "At")


@dataclass(frozen=True)
class FiledAttachment:
    """A photo or a preset file of a take, and the member of the ZIP that holds it."""

    kind: Kind
    name: Annotated[str, Spec("Name", ge=1, le=200)]
    at: Instant
    file: Annotated[str, Spec("File", pattern=ATTACHED_FILE.pattern, wanted="a member of the file")]

    def __post_init__(self) -> None:
        _instant(self.at, "At")


@dataclass(frozen=True)
class FiledTake:
    """A take as it lies in a file. `note.replaces` is the number of a take of the same session there.

    `snapshot`: the hook-up, gear and results as they were.
    """

    number: Annotated[int, Spec("Number", ge=1, le=10**9 - 1)]
    note: TakeNote
    hookup: Annotated[str, Spec("Hook-up", ge=1, le=120)]
    hookup_id: Annotated[str, Spec("Hook-up", pattern=ID, wanted="an id")]
    severity: Severity
    expected_peak: Annotated[float | None, Spec("Expected peak", "dBFS", -400, 400)]
    accepted: Annotated[tuple[Accepted, ...], Spec("Accepted", le=500)]
    at: Instant
    gear: Annotated[str, Spec("Gear", le=20_000)]
    simulated: bool
    snapshot: dict[str, Any]
    audio: Annotated[str | None, Spec("Audio", pattern=AUDIO_NAME.pattern, wanted="a member of the file")] = None
    audio_name: Annotated[str | None, Spec("Audio", le=200)] = None
    attached: Annotated[tuple[FiledAttachment, ...], Spec("Attached", le=MOST_EACH)] = ()

    def __post_init__(self) -> None:
        _instant(self.at, "At")
        if not all(isinstance(self.snapshot.get(part), kind) for part, kind in PARTS.items()):
            raise ValueError("Snapshot: the hook-up, its gear and its results are wanted.")


PARTS = {"hookup": dict, "gear": list, "analysis": dict}


@dataclass(frozen=True)
class FiledSession:
    """What a session's file says of the session itself; its takes have a member each."""

    name: Annotated[str, Spec("Session", ge=1, le=120)]
    notes: Annotated[str, Spec("Notes", le=8000)]
    started: Instant
    takes: Annotated[int, Spec("Takes", ge=0, le=MOST_TAKES)]
    lines: Annotated[tuple[FiledLine, ...], Spec("Lines", le=MOST_TAKES)] = ()
    format: Literal["low-tide/session"] = FORMAT
    version: Annotated[int, Spec("Version", ge=1, le=VERSION)] = VERSION

    def __post_init__(self) -> None:
        _instant(self.started, "Begun")


@dataclass(frozen=True)
class Listed:
    """A take of a session file as far as others rest on it."""

    number: int
    replaces: int | None
    audio: str | None
    attached: tuple[FiledAttachment, ...]


@dataclass(frozen=True)
class Read:
    """A session file that was read and checked, but for what its recordings hold; its takes in their order."""

    session: FiledSession
    takes: tuple[Listed, ...]

    def recordings(self) -> tuple[str, ...]:
        """Names of its recordings, each once."""
        return tuple(dict.fromkeys(take.audio for take in self.takes if take.audio))


def told_apart(manifest: str) -> None:
    """Invalid with what a ZIP is instead, where it says so itself."""
    if manifest.startswith("low-tide-backup-"):
        raise Invalid("The file is a backup, not a session: it is put in place under Your data.")
    if manifest.startswith("low-tide-session-") and manifest != MANIFEST:
        raise Invalid(NEWER)


def _no_number(text: str) -> float:
    raise ValueError(f"{text} is no number")


def _plain(data: bytes) -> Any:
    """JSON as plain data. ValueError where it is none, or holds what cannot be written again."""
    found = json.loads(data, parse_constant=_no_number)
    json.dumps(found, ensure_ascii=False).encode()
    return found


def read(archive: Archive, called: str) -> Read:
    """What a session file holds, whole. Invalid or StoreError name the member, the field and its bound where something
    cannot be."""
    try:
        raw = _plain(archive.read(HEAD, MOST_HEAD))
        if isinstance(raw, dict) and isinstance(raw.get("version"), int) and raw["version"] > VERSION:
            raise Invalid(NEWER)
        head = parse(FiledSession, raw)
    except FormatError as error:
        raise Invalid(*error.problems) from None
    except (ValueError, RecursionError):
        raise SESSION.refused(called) from None
    members = set(archive.names())
    files = sorted((name for name in members if TAKE_FILE.fullmatch(name)), key=lambda name: (len(name), name))
    takes = tuple(_listed(take_in(archive, int(PurePath(name).stem), called)) for name in files)
    if len(takes) != head.takes:
        raise StoreError(f"{called} says it has {head.takes} takes, and holds {len(takes)}.")
    _check(takes, members, called)
    for name in sorted(members):
        if found := ATTACHED_FILE.fullmatch(name):
            attachments.as_kept(cast(Kind, found[1]), _attached(archive, name, called))
    return Read(head, takes)


def _listed(take: FiledTake) -> Listed:
    return Listed(take.number, take.note.replaces, take.audio, take.attached)


def _check(takes: tuple[Listed, ...], members: set[str], called: str) -> None:
    """Everything a take names is there."""
    numbers = {take.number for take in takes}
    for take in takes:
        wanted = [f"audio/{take.audio}"] if take.audio else []
        missing = next((m for m in [*wanted, *(a.file for a in take.attached)] if m not in members), None)
        if missing is not None:
            raise StoreError(f"{called}: take {take.number} names “{PurePath(missing).name[:40]}”, which is not in it.")
        if take.replaces is not None and (take.replaces not in numbers or take.replaces == take.number):
            raise Invalid(f"Take {take.number}: it takes the place of a guide that is not in the file.")


def take_in(archive: Archive, number: int, called: str) -> FiledTake:
    """A take of the file, by its number."""
    name = f"takes/{number}.json"
    try:
        take = parse(FiledTake, _plain(archive.read(name, MOST_TAKE)))
    except FormatError as error:
        raise Invalid(*(f"{name}: {problem}" for problem in error.problems)) from None
    except (ValueError, RecursionError):
        raise StoreError(f"{called}: “{name}” cannot be read.") from None
    if take.number != number:
        raise StoreError(f"{called}: “{name}” is take {take.number}.")
    return take


def _attached(archive: Archive, name: str, called: str) -> bytes:
    """What is attached, as its name says it is."""
    data = archive.read(name, MOST_PRESET if name.endswith(".preset") else MOST_PHOTO)
    if hashlib.sha256(data).hexdigest() != PurePath(name).stem:
        raise StoreError(f"{called}: “{PurePath(name).name[:20]}…” is not what it was.")
    return data


def attached(archive: Archive, each: FiledAttachment, called: str) -> bytes:
    """A photo or a preset file. A photo that is not as this program keeps them is made so."""
    return attachments.as_kept(each.kind, _attached(archive, each.file, called))
