"""The data folder: where things lie in it, and the audio that is kept there."""

from __future__ import annotations

import contextlib
import os
import re
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path


class StoreError(RuntimeError):
    """The data folder cannot be used as it is; the message says what to do."""


@dataclass(frozen=True)
class Home:
    """A data folder."""

    folder: Path

    @property
    def database(self) -> Path:
        return self.folder / "low-tide.db"

    @property
    def audio(self) -> Path:
        return self.folder / "audio"

    @property
    def renders(self) -> Path:
        """Sound made on request; it may go at any time and is in no backup."""
        return self.folder / "renders"

    @property
    def backups(self) -> Path:
        return self.folder / "backups"


AUDIO_TYPES = {".wav": "audio/wav", ".flac": "audio/flac", ".aiff": "audio/aiff"}
AUDIO_NAME = re.compile(r"[0-9a-f]{64}\.(wav|flac|aiff)")
"""What the program calls the audio it keeps: the hash of its content, and what kind of file it is."""
INCOMING = "incoming-"


def _audio_path(home: Home, name: str) -> Path:
    """Where audio of a name lies. A name from a database proves nothing: ValueError for one the program never makes."""
    if not AUDIO_NAME.fullmatch(name):
        raise ValueError(f"“{name[:80]}” is no name of kept audio")
    return home.audio / name


def audio_file(home: Home, name: str) -> Path | None:
    """Where kept audio lies; None where there is none under that name, or none the program has put there."""
    try:
        path = _audio_path(home, name)
    except ValueError:
        return None
    return path if path.is_file() and not path.is_symlink() else None


def remove_audio(home: Home, name: str) -> None:
    """Remove kept audio; nothing but that is ever touched, whatever the name."""
    found = audio_file(home, name)
    if found is not None:
        found.unlink(missing_ok=True)


@contextlib.contextmanager
def incoming(home: Home) -> Iterator[Path]:
    """A file for audio that is being taken in; what is left of it goes in the end."""
    handle, path = tempfile.mkstemp(dir=home.audio, prefix=INCOMING)
    os.close(handle)
    try:
        yield Path(path)
    finally:
        Path(path).unlink(missing_ok=True)


def keep_audio(home: Home, part: Path, name: str) -> None:
    """Put audio that was taken in where it is kept, safely on the disk before anything names it."""
    with part.open("rb") as written:
        os.fsync(written.fileno())
    os.replace(part, _audio_path(home, name))


def now() -> str:
    """The time now, ISO 8601 in UTC to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")
