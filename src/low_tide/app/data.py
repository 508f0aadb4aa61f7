"""Everything at once: how much there is, copies of it that are kept, and one put in place of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from low_tide.app.errors import Conflict, NotFound
from low_tide.store import archives, backups, restoring, uploads
from low_tide.store.backups import KeptCopy
from low_tide.store.database import database
from low_tide.store.home import Home, home_at
from low_tide.store.restoring import Contents

MOST_BYTES = archives.MOST_BYTES


@dataclass(frozen=True)
class DataState:
    """What is there: where, how large (bytes), what it holds, and the copies that are kept beside it."""

    folder: str
    size: int
    holds: Contents
    copies: tuple[KeptCopy, ...]


@dataclass(frozen=True)
class Restored:
    """What is there now, and the name of the copy of what was there before, if there was any."""

    holds: Contents
    kept: str | None


def state(home: Home) -> DataState:
    return DataState(
        str(home.folder), backups.size_of(home), restoring.contents(home.database), tuple(backups.kept_copies(home))
    )


def keep_copy(home: Home) -> Iterator[float | KeptCopy]:
    """Keep a copy of everything: yields the part that is done, and last the copy."""
    # With a connection, though none is needed: nothing is put in place of the data while they are copied.
    with database.connection_context():
        for step in backups.keeping(home, f"backup-{backups.stamp()}"):
            if isinstance(step, Path):
                yield next(copy for copy in backups.kept_copies(home) if copy.name == step.name)
            else:
                yield step


def copy_file(home: Home, name: str) -> Path:
    """Where a kept copy lies."""
    found = backups.kept_copy(home, name)
    if found is None:
        raise NotFound(f"There is no copy “{name[:80]}” in the data folder.")
    return found


def delete_copy(home: Home, name: str) -> None:
    """Delete a kept copy for good."""
    copy_file(home, name).unlink(missing_ok=True)


MOST_RECORDING_BYTES = 1_500_000_000
"""Half an hour of stereo at 96 kHz in samples of 32 bits, and what stands around it."""


def begin_upload(home: Home, size: int, recording: bool = False) -> str:
    """Begin to bring a backup in, or a recording, and return the name its pieces go to."""
    return uploads.begin(home, size, MOST_RECORDING_BYTES if recording else MOST_BYTES)


def add_piece(home: Home, name: str, at: int, piece: BinaryIO) -> int:
    """Add a piece of a backup that is brought in; Conflict where it is not the next one."""
    try:
        return uploads.append(home, name, at, piece)
    except uploads.Misplaced as error:
        raise Conflict(str(error)) from None


def _source(home: Home, copy: str, upload: str) -> tuple[Path, str]:
    return (copy_file(home, copy), copy) if copy else whole_upload(home, upload)


def whole_upload(home: Home, upload: str) -> tuple[Path, str]:
    """Where a file that was brought in lies, and what it is called. Conflict where it is not all here."""
    path, size = uploads.uploaded(home, upload)
    if path.stat().st_size < size:
        raise Conflict(f"Only {path.stat().st_size} of {size} bytes are here.")
    return path, "The file"


def look_into(home: Home, copy: str = "", upload: str = "") -> Contents:
    """What a kept copy, or a backup that was brought in, holds; checked as for a restore."""
    return restoring.look_into(home.folder, *_source(home, copy, upload))


def restore(home: Home, copy: str = "", upload: str = "") -> Restored:
    """Put a kept copy, or a backup that was brought in, in place of everything; what was there is kept as a copy.

    Whoever is at work is waited for, and whoever comes meanwhile waits.
    """
    path, called = _source(home, copy, upload)
    with database.alone():
        try:
            now, kept = restoring.put_in_place(home.folder, path, called)
        finally:
            # By what the folder itself says, however it went: nothing is written beside the data that count.
            database.lies_at(home_at(home.folder).database)
    uploads.give_up(home, upload)
    return Restored(restoring.contents(now.database), kept.name if kept else None)
