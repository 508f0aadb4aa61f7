"""Photos of knobs and preset files of processors, kept with a take."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import PurePath
from typing import Literal, TypeAlias

from low_tide.app import log
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.turns import give_way
from low_tide.formats.photo import is_as_kept, photo
from low_tide.formats.sentences import FormatError
from low_tide.store import attachments as kept
from low_tide.store.attachments import AttachmentRecord
from low_tide.store.database import database
from low_tide.store.home import now

MEBIBYTE = 1024**2
MOST_PRESET = 4 * MEBIBYTE
MOST_EACH = 24
"""To one take."""
Kind: TypeAlias = Literal["photo", "preset"]


@dataclass(frozen=True)
class Attachment:
    """What is attached to a take; `size` in bytes."""

    id: int
    take: int
    kind: Kind
    name: str
    size: int
    at: str


def _told(row: AttachmentRecord) -> Attachment:
    kind: Kind = "photo" if row.kind == "photo" else "preset"
    return Attachment(row.id, row.take_id, kind, row.name, row.size, row.at)


def of_take(take_id: int) -> tuple[Attachment, ...]:
    """What is attached to a take, in the order it came."""
    log.take(take_id)
    return tuple(_told(row) for row in kept.of_take(take_id))


def _name(file_name: str, kind: Kind) -> str:
    """What it is called: the last part of a path, without what no screen shows."""
    last = PurePath(file_name.replace("\\", "/")).name
    plain = "".join(c for c in last if c.isprintable()).strip()[:200] or kind
    return f"{PurePath(plain).stem[:190]}.jpg" if kind == "photo" else plain


def attach(take_id: int, kind: Kind, file_name: str, data: bytes) -> Attachment:
    """Attach a photo, which is made smaller and loses whatever it says beside the picture, or a preset file as it is.

    Invalid where it is no picture, or larger than is taken.
    """
    if not data:
        raise Invalid(f"{kind.capitalize()}: the file is empty.")
    if kind == "photo":
        give_way()
        try:
            data = photo(data)
        except FormatError as error:
            raise Invalid(*error.problems) from None
    elif len(data) > MOST_PRESET:
        raise Invalid(f"Preset: at most 4 MiB are taken, this has {len(data) / MEBIBYTE:.1f}.")
    with database.atomic():
        there = of_take(take_id)
        if len(there) >= MOST_EACH:
            raise Invalid(f"Attached: at most {MOST_EACH} files belong to a take. Delete one first.")
        record = AttachmentRecord(take_id, kind, _name(file_name, kind), len(data), now())
        return _told(_row(kept.insert(record, data)))


def as_kept(kind: Kind, data: bytes) -> bytes:
    """A file as `attach` would keep it: as it is where that was done already. Invalid where it is no picture."""
    try:
        return data if kind == "preset" or is_as_kept(data) else photo(data)
    except FormatError as error:
        raise Invalid(*error.problems) from None


def keep(take_id: int, kind: Kind, name: str, at: str, data: bytes) -> None:
    """Keep what another copy kept, with a take."""
    kept.insert(AttachmentRecord(take_id, kind, _name(name, kind), len(data), at), data)


def _row(attachment_id: int) -> AttachmentRecord:
    row = kept.find(attachment_id)
    if row is None:
        raise NotFound("There is no such file with any take.")
    return row


def opened(attachment_id: int) -> tuple[Attachment, bytes]:
    """One of them with what it holds."""
    row = _row(attachment_id)
    return _told(row), kept.content(attachment_id) or b""


def delete(attachment_id: int) -> None:
    """Delete one for good."""
    with database.atomic():
        _row(attachment_id)
        kept.delete(attachment_id)
