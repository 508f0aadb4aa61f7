"""Backup and restore: everything in one ZIP, and back, checked before anything is touched."""

from __future__ import annotations

import contextlib
import os
import secrets
import shutil
import sqlite3
import tempfile
import zipfile
from collections.abc import Iterator
from datetime import UTC, datetime
from itertools import chain, count
from pathlib import Path

from low_tide.store import take_words
from low_tide.store.home import (
    DATABASE,
    GENERATION,
    PART,
    POINTER,
    WORK,
    Home,
    StoreError,
    alone,
    audio_file,
    clear_leftovers,
    home_at,
    is_audio_name,
    remove,
    sync,
)
from low_tide.store.models import TABLES

MIGRATIONS = Path(__file__).with_name("migrations")
MANIFEST = "low-tide-backup-1"
GIBIBYTE = 1024**3
MOST_BYTES = 8 * GIBIBYTE
MOST_FILES = 200_000
MOST_PACKED = 1000
"""Nothing this program writes gets so many times smaller in a ZIP; what claims to is made to fill a disk."""
SPARE_BYTES = 64 * 1024**2
"""What is left free on the disk beside what is unpacked."""
KNOWN_TABLES = {table._meta.table_name for table in TABLES} | {"migratehistory", "sqlite_sequence", "sqlite_stat1"}


def kept_as(home: Home, what: str, suffix: str = ".zip") -> Path:
    """Where a copy of what was there is kept: a name nobody has yet."""
    home.backups.mkdir(parents=True, exist_ok=True)
    names = chain([f"{what}{suffix}"], (f"{what}-{n}{suffix}" for n in count(2)))
    return next(path for name in names if not (path := home.backups / name).exists())


def backup(home: Home, target: Path) -> int:
    """Write everything into one ZIP and return its size in bytes. The target appears whole or not at all.

    Raises StoreError where it would lie on the data itself.
    """
    place = target.resolve()
    if place.is_relative_to(home.folder.resolve()) and not place.is_relative_to(home.backups.resolve()):
        raise StoreError(f"{target} lies in the data folder itself; choose another place for a backup.")
    with tempfile.TemporaryDirectory(dir=home.folder, prefix=WORK) as work:
        copy = Path(work) / DATABASE
        with (
            contextlib.closing(sqlite3.connect(home.database)) as source,
            contextlib.closing(sqlite3.connect(copy)) as into,
        ):
            source.backup(into)
            into.execute(f"drop table if exists {take_words.INDEX}")
            into.commit()
        target.parent.mkdir(parents=True, exist_ok=True)
        part = target.with_name(target.name + PART)
        try:
            # Files from before 1980 have no time in a ZIP; theirs is no reason to have no backup.
            with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, strict_timestamps=False) as archive:
                archive.writestr("manifest", MANIFEST)
                archive.write(copy, DATABASE)
                for name in sorted(file.name for file in home.audio.glob("*")):
                    if (file := audio_file(home, name)) is not None:
                        archive.write(file, f"audio/{name}")
            os.replace(part, target)
        finally:
            part.unlink(missing_ok=True)
    return target.stat().st_size


def restore(folder: Path, source: Path) -> Path | None:
    """Put a backup in place of what is in a data folder; what was there is kept, and where is returned.

    Everything is unpacked and checked first, in a folder of its own; then one file is replaced that says which counts,
    so that a kill at any moment leaves the old or the new. Raises StoreError and changes nothing where it is no backup,
    or where another works in the folder. What is there may be missing, or nothing that can be read.
    """
    with alone(folder):
        home = _what_there_is(folder)
        fresh = Home(folder, f"data-{secrets.token_hex(8)}")
        fresh.audio.mkdir(parents=True)
        try:
            _unpack(source, fresh)
            said = fault(fresh.database)
            if said:
                raise StoreError(f"The database inside {source} cannot be used: {said}")
            kept = _put_by(home)
            _point_at(fresh)
        except BaseException:
            # Whatever went wrong after the pointer was replaced: what counts by then is never taken away.
            if not _counts(fresh):
                remove(fresh.data)
            raise
        clear_leftovers(fresh)
    return kept


def _unpack(source: Path, fresh: Home) -> None:
    try:
        with zipfile.ZipFile(source) as archive:
            for info in _members(archive, source, fresh):
                with archive.open(info) as packed, (fresh.data / info.filename).open("wb") as out:
                    shutil.copyfileobj(packed, out)
    except StoreError:
        raise
    except (zipfile.BadZipFile, NotImplementedError, OSError, EOFError, ValueError, RuntimeError):
        raise StoreError(f"{source} is not a backup this program can read.") from None


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
    sync(home.folder)


def _members(archive: zipfile.ZipFile, source: Path, home: Home) -> Iterator[zipfile.ZipInfo]:
    """What is to be unpacked: by names the program makes, and within what a disk can take."""
    found = archive.infolist()
    names = [info.filename for info in found]
    if any(info.flag_bits & 1 for info in found):
        raise StoreError(f"{source} is encrypted; a backup never is.")
    if "manifest" not in names or DATABASE not in names or len(set(names)) < len(names):
        raise StoreError(f"{source} is not a backup this program can read.")
    if len(found) > MOST_FILES:
        raise StoreError(f"{source} holds {len(found)} files; a backup has at most {MOST_FILES}.")
    strange = next((n for n in names if not (n in ("manifest", DATABASE) or _is_audio(n))), None)
    if strange is not None:
        raise StoreError(f"{source} holds “{strange[:80]}”, which no backup has.")
    whole = sum(info.file_size for info in found)
    if whole > MOST_BYTES:
        raise StoreError(f"{source} unpacks to {whole / GIBIBYTE:.1f} GiB; a backup has at most 8 GiB.")
    if any(info.file_size > MOST_PACKED * max(info.compress_size, 1024) for info in found):
        raise StoreError(f"{source} is packed as no backup is, to fill a disk.")
    free = shutil.disk_usage(home.folder).free
    if whole + SPARE_BYTES > free:
        raise StoreError(f"{source} unpacks to {whole / 1e6:.0f} MB, and only {free / 1e6:.0f} MB are free.")
    if archive.getinfo("manifest").file_size > 100 or archive.read("manifest").decode(errors="replace") != MANIFEST:
        raise StoreError(f"{source} is not a backup this program can read.")
    yield from (info for info in found if info.filename != "manifest")


def _is_audio(name: str) -> bool:
    folder, _, file = name.rpartition("/")
    return folder == "audio" and is_audio_name(file)


def fault(path: Path) -> str:
    """What keeps a database from being used here, as a sentence; empty where nothing does.

    It is looked at as it is, with nothing that is written in it carried out.
    """
    known = {file.stem for file in MIGRATIONS.glob("[0-9]*.py")}
    try:
        with contextlib.closing(sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)) as check:
            check.execute("pragma trusted_schema=off")
            made = check.execute("select type, name, tbl_name, coalesce(sql, '') from sqlite_master").fetchall()
            for kind, name, table, sql in made:
                if kind not in ("table", "index") or table not in KNOWN_TABLES or "virtual" in sql.lower().split()[:2]:
                    return f"it holds a {kind} “{str(name)[:60]}” that this program never makes."
            if check.execute("pragma integrity_check").fetchone()[0] != "ok":
                return "it is damaged."
            if check.execute("pragma foreign_key_check").fetchone() is not None:
                return "some of its records belong to nothing."
            done = {row[0] for row in check.execute("select name from migratehistory")}
            check.execute("select count(*) from hookup")
    except sqlite3.DatabaseError:
        return "it is damaged."
    return "it comes from a newer version; update the program." if done - known else ""


def _put_by(home: Home) -> Path | None:
    """A copy of what is there: a backup, or everything as it lies where that is no database any more."""
    if not home.database.exists():
        return None
    stamp = f"{datetime.now(UTC):%Y%m%dT%H%M%S}"
    target = kept_as(home, f"before-restore-{stamp}")
    try:
        backup(home, target)
    except sqlite3.DatabaseError:
        target = kept_as(home, f"unreadable-{stamp}", "")
        target.mkdir()
        for file in home.data.glob(f"{DATABASE}*"):
            shutil.copyfile(file, target / file.name)
        if home.audio.is_dir():
            shutil.copytree(home.audio, target / home.audio.name, symlinks=True)
    return target
