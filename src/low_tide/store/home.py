"""The data folder: where things lie in it, and the audio that is kept there."""

from __future__ import annotations

import contextlib
import os
import re
import secrets
import shutil
import tempfile
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from filelock import FileLock, Timeout


class StoreError(RuntimeError):
    """The data folder cannot be used as it is; the message says what to do."""


DATABASE = "low-tide.db"
POINTER = "current"
GENERATION = re.compile(r"data-[0-9a-f]{16}")
"""A restore brings a folder of its own along, and `current` says by name which one counts; without it, the data folder
itself does."""
WORK = "work-"
INSTALLATION = "installation"
PAIRINGS = "pairings.json"
DRAWN = re.compile(r"[0-9a-f]{16}")
PART = ".part"
LEFT_BY_A_SAVE = tuple(name + PART for name in (POINTER, INSTALLATION, PAIRINGS))


@dataclass(frozen=True)
class Home:
    """A data folder, and the generation of data in it that counts."""

    folder: Path
    generation: str = ""

    @property
    def data(self) -> Path:
        return self.folder / self.generation

    @property
    def database(self) -> Path:
        return self.data / DATABASE

    @property
    def audio(self) -> Path:
        return self.data / "audio"

    @property
    def renders(self) -> Path:
        """Sound made on request; it may go at any time and is in no backup."""
        return self.folder / "renders"

    @property
    def waves(self) -> Path:
        """What waveforms are drawn from; it is made anew from the audio wherever it is missing, and in no backup."""
        return self.folder / "waves"

    @property
    def backups(self) -> Path:
        return self.folder / "backups"


def home_at(folder: Path) -> Home:
    """The data folder as it is. Raises StoreError where its pointer names nothing that is there."""
    try:
        named = (folder / POINTER).read_text(encoding="utf-8").strip()
    except FileNotFoundError:
        return Home(folder)
    except (OSError, UnicodeDecodeError):
        named = ""
    if not GENERATION.fullmatch(named) or not (folder / named).is_dir():
        raise StoreError(f"“{POINTER}” in {folder} names no data that is there; restore a backup.")
    return Home(folder, named)


def installation(home: Home) -> str:
    """A name of its own for what stands here, drawn once: it stays when the folder is moved, and is in no backup."""
    path = home.folder / INSTALLATION
    with contextlib.suppress(OSError, UnicodeDecodeError):
        if DRAWN.fullmatch(found := path.read_text(encoding="utf-8").strip()):
            return found
    drawn = secrets.token_hex(8)
    part = path.with_name(path.name + PART)
    part.write_text(f"{drawn}\n", encoding="utf-8")
    os.replace(part, path)
    return drawn


@contextlib.contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Has the data folder to itself, until the end or until the process ends. StoreError where another has it."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = FileLock(folder / "lock", timeout=0)
        lock.acquire()
    except Timeout:
        raise StoreError(f"Another Low Tide is at work in {folder}. Stop it first.") from None
    except OSError as error:
        raise StoreError(f"The data folder {folder} cannot be used: {error.strerror}.") from None
    try:
        yield
    finally:
        lock.release()


def clear_leftovers(home: Home) -> None:
    """Remove what work that was cut short has left. Only for who has the folder to himself."""
    for path in home.folder.iterdir():
        stale = GENERATION.fullmatch(path.name) and path.name != home.generation
        if stale or path.name.startswith(WORK) or path.name in LEFT_BY_A_SAVE:
            remove(path)
    if home.generation:
        forget_root(home.folder)
    for folder in (home.audio, home.renders, home.waves, home.backups):
        for path in folder.glob("*") if folder.is_dir() else ():
            empty = folder == home.backups and path.is_file() and path.stat().st_size == 0
            if empty or path.name.startswith(INCOMING) or path.name.endswith(PART):
                remove(path)


def forget_root(folder: Path) -> None:
    """Remove the data that lay in the data folder itself, before the first restore."""
    root = Home(folder)
    for path in (root.database, *(root.database.with_name(f"{root.database.name}-{x}") for x in ("wal", "shm"))):
        path.unlink(missing_ok=True)
    remove(root.audio)


def sync(path: Path) -> None:
    """Bring a file, or the names in a folder, safely to the disk."""
    if os.name == "nt" and path.is_dir():
        return  # no program can ask for that there; the file system does it by itself
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def remove(path: Path) -> None:
    """Remove a file or a folder, whatever is in it; a link goes, and what it names stays."""
    if path.is_dir() and not path.is_symlink():
        shutil.rmtree(path, ignore_errors=True)
    else:
        path.unlink(missing_ok=True)


AUDIO_TYPES = {".wav": "audio/wav", ".flac": "audio/flac", ".aiff": "audio/aiff"}
AUDIO_NAME = re.compile(r"[0-9a-f]{64}\.(wav|flac|aiff)")
"""What the program calls the audio it keeps: the hash of its content, and what kind of file it is."""
INCOMING = "incoming-"
UNSETTLED = "unsettled-"
"""Marks audio beside it that may be named by no take, should what is being done be cut short."""


def _audio_path(home: Home, name: str) -> Path:
    """Where audio of a name lies. A name from a database proves nothing: ValueError for one the program never makes."""
    if not is_audio_name(name):
        raise ValueError(f"“{name[:80]}” is no name of kept audio")
    return home.audio / name


def is_audio_name(name: str | None) -> bool:
    """Whether the program itself gives such names to the audio it keeps."""
    return name is not None and AUDIO_NAME.fullmatch(name) is not None


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
    sync(part)
    os.replace(part, _audio_path(home, name))
    sync(home.audio)


def mark_unsettled(home: Home, name: str) -> None:
    """Leave a mark that kept audio may be wanted no more; it stays until that is known."""
    _audio_path(home, name).with_name(UNSETTLED + name).touch()


def unsettled(home: Home) -> list[str]:
    """The audio that marks were left for."""
    names = [path.name.removeprefix(UNSETTLED) for path in home.audio.glob(f"{UNSETTLED}*")]
    return [name for name in names if is_audio_name(name)]


def remove_mark(home: Home, name: str) -> None:
    """It is known now."""
    _audio_path(home, name).with_name(UNSETTLED + name).unlink(missing_ok=True)


def now() -> str:
    """The time now, ISO 8601 in UTC to the second."""
    return datetime.now(UTC).isoformat(timespec="seconds")
