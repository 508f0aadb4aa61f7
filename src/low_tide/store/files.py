"""The data folder: database, audio, backups. Opening, migrating, backing up, restoring."""

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
from pathlib import Path

from peewee import DatabaseError
from peewee_migrate import Router

from low_tide.store.models import database

MIGRATIONS = Path(__file__).with_name("migrations")
PRAGMAS = {"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 5000, "synchronous": "normal"}
MANIFEST = "low-tide-backup-1"


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


def open_home(folder: Path) -> Home:
    """Open a data folder, made if missing, and bring its schema up to date; a backup comes before that.

    Raises StoreError where it cannot be used or comes from a newer program.
    """
    home = Home(folder)
    try:
        home.audio.mkdir(parents=True, exist_ok=True)
        home.renders.mkdir(exist_ok=True)
    except OSError as error:
        raise StoreError(f"The data folder {folder} cannot be used: {error.strerror}.") from None
    fresh = not home.database.exists()
    if not database.is_closed():
        database.close()
    database.init(home.database, pragmas=PRAGMAS)
    try:
        database.connect()
        router = Router(database, migrate_dir=MIGRATIONS)
        known = {path.stem for path in MIGRATIONS.glob("[0-9]*.py")}
        newer = [name for name in router.done if name not in known]
        if newer:
            raise StoreError("This data folder was written by a newer version; update the program.")
        if router.diff:
            if not fresh:
                home.backups.mkdir(exist_ok=True)
                backup(home, home.backups / f"before-{router.diff[0]}.zip")
            router.run()
    except DatabaseError as error:
        raise StoreError(f"The database in {folder} cannot be read ({error}); restore a backup.") from None
    finally:
        database.close()
    return home


def backup(home: Home, target: Path) -> int:
    """Write everything into one ZIP and return its size in bytes. The target appears whole or not at all."""
    with tempfile.TemporaryDirectory(dir=home.folder) as work:
        copy = Path(work) / "low-tide.db"
        source, into = sqlite3.connect(home.database), sqlite3.connect(copy)
        with into:
            source.backup(into)
        source.close()
        into.close()
        part = Path(work) / "backup.zip"
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("manifest", MANIFEST)
            archive.write(copy, "low-tide.db")
            for name in sorted(file.name for file in home.audio.iterdir()):
                if (file := audio_file(home, name)) is not None:
                    archive.write(file, f"audio/{name}")
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(part, target.with_suffix(target.suffix + ".part"))
        os.replace(target.with_suffix(target.suffix + ".part"), target)
    return target.stat().st_size


def restore(home: Home, source: Path) -> Path | None:
    """Put a backup in place of what is there; what was there is kept in a backup, whose path is returned.

    Everything is unpacked and checked first. Raises StoreError and changes nothing where it is no backup.
    """
    with tempfile.TemporaryDirectory(dir=home.folder) as work:
        stage = Path(work)
        try:
            with zipfile.ZipFile(source) as archive:
                if "manifest" not in archive.namelist() or archive.read("manifest").decode() != MANIFEST:
                    raise StoreError(f"{source} is not a backup this program can read.")
                (stage / "audio").mkdir()
                for info in archive.infolist():
                    folder, _, name = info.filename.rpartition("/")
                    if info.filename == "low-tide.db" or (folder == "audio" and AUDIO_NAME.fullmatch(name)):
                        with archive.open(info) as packed, (stage / folder / name).open("wb") as out:
                            shutil.copyfileobj(packed, out)
        except (zipfile.BadZipFile, OSError, UnicodeDecodeError):
            raise StoreError(f"{source} is not a backup this program can read.") from None
        try:
            with contextlib.closing(sqlite3.connect(stage / "low-tide.db")) as check:
                sound = check.execute("pragma integrity_check").fetchone()[0] == "ok"
                check.execute("select count(*) from hookup")
        except sqlite3.DatabaseError:
            sound = False
        if not sound:
            raise StoreError(f"The database inside {source} is damaged.")
        kept = None
        if home.database.exists():
            kept = home.backups / f"before-restore-{datetime.now(UTC):%Y%m%dT%H%M%S}.zip"
            backup(home, kept)
        for suffix in ("-wal", "-shm"):
            home.database.with_name(home.database.name + suffix).unlink(missing_ok=True)
        os.replace(stage / "low-tide.db", home.database)
        shutil.rmtree(home.audio, ignore_errors=True)
        os.replace(stage / "audio", home.audio)
    return kept
