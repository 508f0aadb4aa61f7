"""Runs of listening without knowing: of a comparison's recordings, or of blends, which belong to none."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json


@dataclass(frozen=True)
class RunRecord:
    """A run of listening as it lies in the store."""

    id: int
    comparison_id: int | None
    doc: Json
    at: str


def _record(row: rows.Row) -> RunRecord:
    return RunRecord(row[0], row[1], rows.plain(row[2]), row[3])


def begin(comparison_id: int | None, doc: Json, at: str) -> int:
    """A new run; its number."""
    return rows.insert("listening", {"comparison_id": comparison_id, "doc": rows.text(doc), "at": at})


def save(run_id: int, doc: Json) -> None:
    """Save how far a run is."""
    rows.write("UPDATE listening SET doc = ? WHERE id = ?", rows.text(doc), run_id)


def find(run_id: int) -> RunRecord | None:
    """A run."""
    row = rows.one("SELECT id, comparison_id, doc, at FROM listening WHERE id = ?", run_id)
    return _record(row) if row else None


def of(comparison_id: int | None) -> list[RunRecord]:
    """Runs of a comparison, or those of blends, in their order."""
    sql = "SELECT id, comparison_id, doc, at FROM listening WHERE comparison_id IS ? ORDER BY id"
    return [_record(r) for r in rows.every(sql, comparison_id)]
