"""Restoring a backup: read within bounds, checked and brought up to date before anything is touched, then put in
place by one file."""

from __future__ import annotations

import contextlib
import os
import secrets
import shutil
import sqlite3
import tempfile
from dataclasses import dataclass
from pathlib import Path

from peewee import PeeweeException

from low_tide.store import archives
from low_tide.store.archives import ArchiveKind
from low_tide.store.backups import MANIFEST, keep_copy, stamp
from low_tide.store.database import Database
from low_tide.store.home import (
    DATABASE,
    GENERATION,
    PART,
    POINTER,
    WORK,
    Home,
    StoreError,
    alone,
    clear_leftovers,
    home_at,
    remove,
    sync,
)
from low_tide.store.schema import bring_up_to_date, fault

BACKUP = ArchiveKind("backup", MANIFEST, DATABASE, archives.is_audio)


@dataclass(frozen=True)
class Contents:
    """What a backup or a data folder holds, counted; `newest`: when something was last written, empty for never."""

    gear: int
    hookups: int
    sessions: int
    takes: int
    recordings: int
    newest: str


def contents(database: Path) -> Contents:
    """Count what a database holds."""
    counts = {
        "gear": "select count(*) from gear",
        "hookups": "select count(*) from hookup",
        "sessions": "select count(*) from session",
        "takes": "select count(*) from take",
        "recordings": "select count(audio) from take",
        "newest": "select coalesce(max(at), '') from (select max(updated) at from hookup union all"
        " select max(updated) from gear union all select max(at) from take)",
    }
    with contextlib.closing(sqlite3.connect(f"{database.absolute().as_uri()}?mode=ro", uri=True)) as look:
        return Contents(**{name: look.execute(query).fetchone()[0] for name, query in counts.items()})


def look_into(folder: Path, source: Path, called: str) -> Contents:
    """What a backup holds, its database checked as for a restore. StoreError where it cannot be put in place."""
    with tempfile.TemporaryDirectory(dir=folder, prefix=WORK) as work:
        there = Home(Path(work))
        _unpack(source, there, called, only=DATABASE)
        _check(there, called)
        return contents(there.database)


def restore(folder: Path, source: Path) -> Path | None:
    """Put a backup in place of what is in a data folder that nobody else works in; see `put_in_place`."""
    with alone(folder):
        return put_in_place(folder, source, str(source))[1]


def put_in_place(folder: Path, source: Path, called: str) -> tuple[Home, Path | None]:
    """Put a backup in place of what is in a data folder; where it lies then, and where what was there is kept.

    Everything is unpacked, checked and brought up to date first, in a folder of its own; then one file is replaced that
    says which counts, so that a kill at any moment leaves the old or the new. Raises StoreError and changes nothing
    where it is no backup. What is there may be missing, or nothing that can be read. Only for who has the folder alone.
    """
    home = _what_there_is(folder)
    fresh = Home(folder, f"data-{secrets.token_hex(8)}")
    fresh.audio.mkdir(parents=True)
    try:
        _unpack(source, fresh, called)
        _check(fresh, called)
        _bring_up_to_date(fresh, called)
        kept = _put_by(home)
        _point_at(fresh)
    except BaseException:
        # Whatever went wrong after the pointer was replaced: what counts by then is never taken away.
        if not _counts(fresh):
            remove(fresh.data)
        raise
    with contextlib.suppress(OSError):  # what cannot be cleared now is when the program starts
        clear_leftovers(fresh)
    return fresh, kept


def _check(home: Home, called: str) -> None:
    said = fault(home.database)
    if said:
        raise StoreError(f"The database inside {called} cannot be used: {said}")


def _bring_up_to_date(home: Home, called: str) -> None:
    database = Database()
    database.lies_at(home.database)
    try:
        bring_up_to_date(database)
    except StoreError as error:
        raise StoreError(f"The database inside {called} cannot be used. {error}") from None
    except (PeeweeException, ValueError, KeyError, TypeError):
        raise StoreError(f"The database inside {called} cannot be used: some record in it cannot be read.") from None


def _unpack(source: Path, into: Home, called: str, only: str = "") -> None:
    with archives.opened(source, BACKUP, into.folder, called) as archive:
        for name in archive.names():
            if only in ("", name):
                archive.unpack(name, into.data / name)


def _counts(home: Home) -> bool:
    try:
        return home_at(home.folder) == home
    except StoreError:
        return False


def _what_there_is(folder: Path) -> Home:
    """The data that counts; where nothing says so any more, the newest that lies there."""
    try:
        return home_at(folder)
    except StoreError:
        found = [path for path in folder.iterdir() if GENERATION.fullmatch(path.name) and path.is_dir()]
        newest = max(found, key=lambda path: path.stat().st_mtime, default=None)
        return Home(folder, newest.name if newest else "")


def _point_at(home: Home) -> None:
    """From here on this generation counts: everything of it is on the disk before the one file that says so is."""
    for path in (*home.data.rglob("*"), home.data, home.folder):
        sync(path)
    part = home.folder / (POINTER + PART)
    part.write_text(home.generation + "\n", encoding="utf-8")
    sync(part)
    os.replace(part, home.folder / POINTER)
    # Done, whatever comes now: should the disk forget the name, the old data count, and they are whole.
    with contextlib.suppress(OSError):
        sync(home.folder)


def _put_by(home: Home) -> Path | None:
    """A copy of what is there: a backup, or everything as it lies where that is no database any more."""
    if not home.database.exists():
        return None
    try:
        return keep_copy(home, f"before-restore-{stamp()}")
    except sqlite3.DatabaseError:
        home.backups.mkdir(parents=True, exist_ok=True)
        target = home.backups / f"unreadable-{stamp()}-{secrets.token_hex(3)}"
        target.mkdir()
        for file in home.data.glob(f"{DATABASE}*"):
            shutil.copyfile(file, target / file.name)
        if home.audio.is_dir():
            shutil.copytree(home.audio, target / home.audio.name, symlinks=True)
        return target
