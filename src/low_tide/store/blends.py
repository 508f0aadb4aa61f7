"""Blends of impulse responses."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json


@dataclass(frozen=True)
class BlendRecord:
    """A blend as it lies in the store."""

    id: int
    name: str
    doc: Json
    saves: int
    at: str


def _record(row: rows.Row) -> BlendRecord:
    return BlendRecord(row[0], row[1], rows.plain(row[2]), row[3], row[4])


def every() -> list[BlendRecord]:
    """All blends, newest first."""
    return [_record(r) for r in rows.every("SELECT id, name, doc, saves, at FROM blend ORDER BY id DESC")]


def find(blend_id: int) -> BlendRecord | None:
    """A blend."""
    row = rows.one("SELECT id, name, doc, saves, at FROM blend WHERE id = ?", blend_id)
    return _record(row) if row else None


def insert(name: str, doc: Json, at: str) -> int:
    """A new blend; its number."""
    return rows.insert("blend", {"name": name, "doc": rows.text(doc), "saves": 1, "at": at})


def update(blend_id: int, name: str, doc: Json) -> None:
    """Save a blend."""
    rows.write("UPDATE blend SET name = ?, doc = ?, saves = saves + 1 WHERE id = ?", name, rows.text(doc), blend_id)


def delete(blend_id: int) -> None:
    """Delete a blend."""
    rows.write("DELETE FROM blend WHERE id = ?", blend_id)
