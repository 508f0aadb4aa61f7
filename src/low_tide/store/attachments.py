"""Photos and preset files that belong to takes."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows


@dataclass(frozen=True)
class AttachmentRecord:
    """What is attached to a take: 'photo' or 'preset', what it is called, and how large it is (bytes)."""

    take_id: int
    kind: str
    name: str
    size: int
    at: str
    id: int = 0


COLUMNS = "take_id, kind, name, size, at, id"


def of_take(take_id: int) -> list[AttachmentRecord]:
    """What is attached to a take, in the order it came."""
    sql = f"SELECT {COLUMNS} FROM attachment WHERE take_id = ? ORDER BY id"
    return [AttachmentRecord(*row) for row in rows.every(sql, take_id)]


def find(attachment_id: int) -> AttachmentRecord | None:
    """One of them."""
    row = rows.one(f"SELECT {COLUMNS} FROM attachment WHERE id = ?", attachment_id)
    return AttachmentRecord(*row) if row else None


def content(attachment_id: int) -> bytes | None:
    """What one holds."""
    row = rows.one("SELECT content FROM attachment WHERE id = ?", attachment_id)
    return bytes(row[0]) if row else None


def insert(record: AttachmentRecord, content: bytes) -> int:
    """A new one; its number."""
    values = {name: value for name, value in vars(record).items() if name != "id"}
    return rows.insert("attachment", {**values, "content": content})


def delete(attachment_id: int) -> bool:
    """Delete one for good; whether there was one."""
    return rows.write("DELETE FROM attachment WHERE id = ?", attachment_id) > 0
