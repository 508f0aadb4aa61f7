"""ZIPs of this program's own kinds, read within bounds: what is in one is known before anything of it is unpacked."""

from __future__ import annotations

import contextlib
import errno
import hashlib
import io
import zipfile
import zlib
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from low_tide.store.backups import ask_free
from low_tide.store.home import StoreError, is_audio_name

GIBIBYTE = 1024**3
MOST_BYTES = 8 * GIBIBYTE
MOST_FILES = 200_000
MOST_PACKED = 1000
"""Nothing this program writes gets so many times smaller in a ZIP; what claims to is made to fill a disk."""
DISK = {errno.ENOSPC, errno.EDQUOT, errno.EROFS, errno.EACCES, errno.EPERM, errno.EIO, errno.ENOENT, errno.EISDIR}
"""What the disk itself answers; any other error in reading lies in the file that is read."""
NO_ARCHIVE = (zipfile.BadZipFile, zlib.error, NotImplementedError, EOFError, ValueError, RuntimeError)
"""What reading a ZIP answers that is none, or damaged."""
MANIFEST = "manifest"
MOST_MANIFEST = 100
BLOCK = 1 << 20


@dataclass(frozen=True)
class ArchiveKind:
    """What a ZIP of one kind is called, says of itself, and may hold: `needed`, and what else `allows`."""

    noun: str
    manifest: str
    needed: str
    allows: Callable[[str], bool]

    def refused(self, called: str) -> StoreError:
        """It is none."""
        return StoreError(f"{called} is not a {self.noun} this program can read.")


def is_audio(name: str) -> bool:
    """Whether a member is audio, by a name the program makes."""
    folder, _, file = name.rpartition("/")
    return folder == "audio" and is_audio_name(file)


def manifest_of(source: Path) -> str:
    """What a ZIP says it is; empty where it is none, or says nothing."""
    with contextlib.suppress(KeyError, OSError, *NO_ARCHIVE), zipfile.ZipFile(source) as archive:
        if archive.getinfo(MANIFEST).file_size <= MOST_MANIFEST:
            return archive.read(MANIFEST).decode(errors="replace")
    return ""


@contextlib.contextmanager
def _as_refused(kind: ArchiveKind, called: str) -> Iterator[None]:
    try:
        yield
    except StoreError:
        raise
    except OSError as error:
        if error.errno in DISK:
            raise
        raise kind.refused(called) from None
    except NO_ARCHIVE:
        raise kind.refused(called) from None


class Archive:
    """An opened ZIP of a kind; whatever is damaged in it is said as a StoreError."""

    def __init__(self, source: zipfile.ZipFile, kind: ArchiveKind, called: str) -> None:
        self._source, self._kind, self._called = source, kind, called

    def names(self) -> list[str]:
        """Its members, but for what it says of itself."""
        return [name for name in self._source.namelist() if name != MANIFEST]

    def size(self, name: str) -> int:
        """Bytes of a member, unpacked."""
        return self._source.getinfo(name).file_size

    def read(self, name: str, most: int) -> bytes:
        """A member. StoreError where it is over `most` bytes."""
        if self.size(name) > most:
            raise StoreError(f"{self._called}: “{name}” has {self.size(name) / 1e6:.0f} MB, which none has.")
        with _as_refused(self._kind, self._called):
            return self._source.read(name)

    def unpack(self, name: str, target: Path) -> str:
        """Write a member to where a path says; its SHA-256, in hexadecimal."""
        digest = hashlib.sha256()
        with _as_refused(self._kind, self._called), self._source.open(name) as packed, target.open("wb") as out:
            while block := packed.read(BLOCK):
                digest.update(block)
                out.write(block)
        return digest.hexdigest()


@contextlib.contextmanager
def opened(source: Path, kind: ArchiveKind, room: Path, called: str) -> Iterator[Archive]:
    """A ZIP of a kind, its members within what the folder `room` can take. StoreError, and nothing touched, where it is
    none, is damaged, encrypted, made to fill a disk, or holds what none of its kind does."""
    with contextlib.ExitStack() as held:
        with _as_refused(kind, called):
            archive = held.enter_context(zipfile.ZipFile(source))
            _check(archive, kind, room, called)
        yield Archive(archive, kind, called)


def _check(archive: zipfile.ZipFile, kind: ArchiveKind, room: Path, called: str) -> None:
    found = archive.infolist()
    names = [info.filename for info in found]
    if any(info.flag_bits & 1 for info in found):
        raise StoreError(f"{called} is encrypted; a {kind.noun} never is.")
    if MANIFEST not in names or kind.needed not in names or len(set(names)) < len(names):
        raise kind.refused(called)
    if len(found) > MOST_FILES:
        raise StoreError(f"{called} holds {len(found)} files; a {kind.noun} has at most {MOST_FILES}.")
    strange = next((n for n in names if not (n in (MANIFEST, kind.needed) or kind.allows(n))), None)
    if strange is not None:
        raise StoreError(f"{called} holds “{strange[:80]}”, which no {kind.noun} has.")
    whole = sum(info.file_size for info in found)
    if whole > MOST_BYTES:
        raise StoreError(f"{called} unpacks to {whole / GIBIBYTE:.1f} GiB; a {kind.noun} has at most 8 GiB.")
    if any(info.file_size > MOST_PACKED * max(info.compress_size, 1024) for info in found):
        raise StoreError(f"{called} is packed as no {kind.noun} is, to fill a disk.")
    ask_free(room, whole, f"{called} unpacks to")
    says = archive.getinfo(MANIFEST)
    if says.file_size > MOST_MANIFEST or archive.read(says).decode(errors="replace") != kind.manifest:
        raise kind.refused(called)


class Pipe(io.RawIOBase):
    """Where a ZIP is written to while it is sent: what was written is taken out again piece by piece."""

    def __init__(self) -> None:
        self._pieces: list[bytes] = []

    def writable(self) -> bool:
        return True

    def write(self, data: Any) -> int:
        self._pieces.append(bytes(data))
        return len(data)

    def taken(self) -> bytes:
        """Everything written since it was last asked."""
        found = b"".join(self._pieces)
        self._pieces.clear()
        return found
