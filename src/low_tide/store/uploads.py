"""Files larger than a request may be, taken in piece by piece into the data folder."""

from __future__ import annotations

import re
import secrets
import threading
from pathlib import Path
from typing import BinaryIO

from low_tide.store.backups import ask_free
from low_tide.store.home import WORK, Home, StoreError

UPLOAD = re.compile(r"[0-9a-f]{16}-[0-9]{1,11}")
"""A name of one: chance, and the bytes it is to have."""
BLOCK = 1 << 20
_one_at_a_time = threading.Lock()


class Misplaced(StoreError):
    """A piece that does not follow the one before."""


def _path(home: Home, name: str) -> Path:
    return home.folder / f"{WORK}upload-{name}"


def begin(home: Home, size: int, most: int) -> str:
    """Begin to take a file of so many bytes in, and return its name. One that was begun before is given up.

    Raises StoreError where it would be over `most` bytes, or the disk has no room for it.
    """
    if not 1 <= size <= most:
        raise StoreError(f"The file has {size / 1e6:.0f} MB; 1 byte to {most / 1e9:.1f} GB are taken.")
    with _one_at_a_time:
        for path in home.folder.glob(f"{WORK}upload-*"):
            path.unlink(missing_ok=True)
        ask_free(home.folder, size, "The file has")
        name = f"{secrets.token_hex(8)}-{size}"
        _path(home, name).touch()
    return name


def append(home: Home, name: str, at: int, piece: BinaryIO) -> int:
    """Add a piece that begins at byte `at`, and return how much is there then. StoreError where it does not fit."""
    with _one_at_a_time:
        path, whole = uploaded(home, name)
        there = path.stat().st_size
        if at != there:
            raise Misplaced(f"This piece does not follow: {there} bytes are here.")
        with path.open("ab") as out:
            while block := piece.read(BLOCK):
                if there + len(block) > whole:
                    raise StoreError(f"This is more than the {whole} bytes that were told.")
                out.write(block)
                there += len(block)
    return there


def uploaded(home: Home, name: str) -> tuple[Path, int]:
    """Where a file that is taken in lies, and the bytes it is to have. StoreError where there is none of that name."""
    if not UPLOAD.fullmatch(name) or not _path(home, name).is_file():
        raise StoreError("This upload was given up, for another or at a new start. Choose the file again.")
    return _path(home, name), int(name.rpartition("-")[2])


def give_up(home: Home, name: str) -> None:
    """Remove what was taken in."""
    if UPLOAD.fullmatch(name):
        _path(home, name).unlink(missing_ok=True)
