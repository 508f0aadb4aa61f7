"""Backups: everything in one ZIP, written beside whoever works on; and the copies that are kept in the data folder."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import sqlite3
import tempfile
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from itertools import count
from pathlib import Path

from low_tide.store import take_words
from low_tide.store.home import DATABASE, PART, WORK, Home, StoreError, audio_file

MANIFEST = "low-tide-backup-1"
SPARE_BYTES = 64 * 1024**2
"""What is left free on the disk beside what is written to it."""
COPY_NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9_-]{0,119}\.zip")
BLOCK = 1 << 20


@dataclass(frozen=True)
class KeptCopy:
    """A backup in the data folder: its name, bytes, and when it was made (ISO 8601, UTC)."""

    name: str
    size: int
    made: str


def stamp() -> str:
    """The time now as a part of a file name, UTC to the second."""
    return f"{datetime.now(UTC):%Y%m%dT%H%M%S}"


def size_of(home: Home) -> int:
    """Bytes of the database and of all the audio."""
    files = [home.database, *(home.audio.glob("*") if home.audio.is_dir() else ())]
    return sum(path.stat().st_size for path in files if path.is_file() and not path.is_symlink())


def ask_free(folder: Path, wanted: int, what: str) -> None:
    """StoreError where a disk has not that much free, and something to spare."""
    free = shutil.disk_usage(folder).free
    if wanted + SPARE_BYTES > free:
        raise StoreError(f"{what} {wanted / 1e6:.0f} MB, and only {free / 1e6:.0f} MB are free on that disk.")


def writing(home: Home, target: Path) -> Iterator[float]:
    """Write everything into one ZIP; yields the part of it that is done. The target appears whole or not at all.

    Raises StoreError where it would lie on the data itself, or where the disk has no room for it.
    """
    place = target.resolve()
    if place.is_relative_to(home.folder.resolve()) and not place.is_relative_to(home.backups.resolve()):
        raise StoreError(f"{target} lies in the data folder itself; choose another place for a backup.")
    if not home.database.is_file():
        raise StoreError(f"There is no database in {home.folder}.")
    target.parent.mkdir(parents=True, exist_ok=True)
    whole = size_of(home)
    ask_free(home.folder, home.database.stat().st_size, "A copy of the database takes")
    ask_free(target.parent, whole, "A backup takes up to")
    with tempfile.TemporaryDirectory(dir=home.folder, prefix=WORK) as work:
        copy = Path(work) / DATABASE
        _copy_database(home.database, copy)
        part = target.with_name(target.name + PART)
        done = 0
        try:
            # Files from before 1980 have no time in a ZIP; theirs is no reason to have no backup.
            with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, strict_timestamps=False) as archive:
                archive.writestr("manifest", MANIFEST)
                for name, file in _members(home, copy):
                    try:
                        source, info = file.open("rb"), _info(name, file)
                    except FileNotFoundError:  # its take was deleted meanwhile
                        continue
                    with source, archive.open(info, "w", force_zip64=True) as out:
                        while block := source.read(BLOCK):
                            out.write(block)
                            done += len(block)
                            yield min(1.0, done / max(1, whole))
            os.replace(part, target)
        finally:
            part.unlink(missing_ok=True)


def _copy_database(database: Path, copy: Path) -> None:
    with (
        contextlib.closing(sqlite3.connect(f"{database.absolute().as_uri()}?mode=rw", uri=True)) as source,
        contextlib.closing(sqlite3.connect(copy)) as into,
    ):
        source.backup(into)
        into.execute(f"drop table if exists {take_words.INDEX}")
        into.commit()


def _members(home: Home, copy: Path) -> Iterator[tuple[str, Path]]:
    yield DATABASE, copy
    for name in sorted(file.name for file in home.audio.glob("*")):
        if (file := audio_file(home, name)) is not None:
            yield f"audio/{name}", file


def _info(name: str, file: Path) -> zipfile.ZipInfo:
    info = zipfile.ZipInfo.from_file(file, name, strict_timestamps=False)
    info.compress_type = zipfile.ZIP_DEFLATED
    return info


def backup(home: Home, target: Path) -> int:
    """Write everything into one ZIP and return its size in bytes."""
    for _ in writing(home, target):
        pass
    return target.stat().st_size


def keeping(home: Home, what: str) -> Iterator[float | Path]:
    """Keep a copy of everything in the data folder: yields the part that is done, and last where it lies.

    Its name is nobody's yet, and is taken before anything is written: two at one time never overwrite each other.
    """
    home.backups.mkdir(parents=True, exist_ok=True)
    target = _reserved(home, what)
    try:
        yield from writing(home, target)
    finally:
        if target.stat().st_size == 0:
            target.unlink()
    yield target


def keep_copy(home: Home, what: str) -> Path:
    """Keep a copy of everything in the data folder and return where it lies."""
    *_, last = keeping(home, what)
    assert isinstance(last, Path)
    return last


def _reserved(home: Home, what: str) -> Path:
    for n in count(1):
        path = home.backups / (f"{what}.zip" if n == 1 else f"{what}-{n}.zip")
        with contextlib.suppress(FileExistsError):
            path.open("x").close()
            return path
    raise AssertionError("numbers end nowhere")


def kept_copies(home: Home) -> list[KeptCopy]:
    """Backups in the data folder, the newest first."""
    found = []
    for path in home.backups.glob("*.zip") if home.backups.is_dir() else ():
        seen = path.lstat()
        if COPY_NAME.fullmatch(path.name) and path.is_file() and not path.is_symlink() and seen.st_size:
            made = datetime.fromtimestamp(seen.st_mtime, UTC).isoformat(timespec="seconds")
            found.append(KeptCopy(path.name, seen.st_size, made))
    return sorted(found, key=lambda copy: (copy.made, copy.name), reverse=True)


def kept_copy(home: Home, name: str) -> Path | None:
    """Where a backup in the data folder lies; None where there is none of that name."""
    return home.backups / name if any(copy.name == name for copy in kept_copies(home)) else None
