"""Impulse responses of the library."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json

VERSION = 1
"""Of the way they are analysed."""
COLUMNS = "id, audio, channel, doc, analysis, version, at"


@dataclass(frozen=True)
class ImpulseRecord:
    """An impulse response as it lies in the store."""

    id: int
    audio: str
    channel: int
    doc: Json
    analysis: Json
    version: int
    at: str


def _record(row: rows.Row) -> ImpulseRecord:
    return ImpulseRecord(row[0], row[1], row[2], rows.plain(row[3]), rows.plain(row[4]), row[5], row[6])


def every() -> list[ImpulseRecord]:
    """All, in the order they came."""
    return [_record(row) for row in rows.every(f"SELECT {COLUMNS} FROM impulse ORDER BY id")]


def count() -> int:
    """How many there are."""
    row = rows.one("SELECT count(*) FROM impulse")
    return int(row[0]) if row else 0


def find(impulse_id: int) -> ImpulseRecord | None:
    """One of them."""
    row = rows.one(f"SELECT {COLUMNS} FROM impulse WHERE id = ?", impulse_id)
    return _record(row) if row else None


def some(ids: Sequence[int]) -> dict[int, ImpulseRecord]:
    """By their numbers; those that are gone are left out."""
    sql = f"SELECT {COLUMNS} FROM impulse WHERE id IN ({rows.marks(ids)})"
    return {found.id: found for found in map(_record, rows.every(sql, *ids))}


def of_file(audio: str) -> list[ImpulseRecord]:
    """Those that came in a file."""
    return [_record(r) for r in rows.every(f"SELECT {COLUMNS} FROM impulse WHERE audio = ? ORDER BY id", audio)]


def has_audio(audio: str) -> bool:
    """Whether some have this file."""
    return rows.one("SELECT 1 FROM impulse WHERE audio = ?", audio) is not None


def insert(audio: str, channel: int, doc: Json, analysis: Json, at: str) -> int:
    """A new one; its number."""
    found = {"doc": rows.text(doc), "analysis": rows.text(analysis), "version": VERSION, "at": at}
    return rows.insert("impulse", {"audio": audio, "channel": channel, **found})


def update(impulse_id: int, doc: Json) -> None:
    """Say what it is of."""
    rows.update("impulse", {"doc": rows.text(doc)}, "id = ?", impulse_id)


def delete(impulse_id: int) -> None:
    """Delete one."""
    rows.write("DELETE FROM impulse WHERE id = ?", impulse_id)
