"""Searches for what is wrong, running and ended."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json


@dataclass(frozen=True)
class FaultRecord:
    """A search: of which hook-up, for what symptom, what was answered (`doc`), and how it ended (`ended`, `cause`)."""

    hookup: str
    symptom: str
    doc: Json
    at: str
    saves: int = 1
    ended: str | None = None
    cause: str | None = None
    id: int = 0


COLUMNS = "hookup, symptom, doc, at, saves, ended, cause, id"


def _record(row: rows.Row) -> FaultRecord:
    hookup, symptom, doc, at, saves, ended, cause, id = row
    return FaultRecord(hookup, symptom, rows.plain(doc), at, saves, ended, cause, id)


def find(fault_id: int) -> FaultRecord | None:
    """A search."""
    row = rows.one(f"SELECT {COLUMNS} FROM fault WHERE id = ?", fault_id)
    return _record(row) if row else None


def insert(record: FaultRecord) -> int:
    """A new one; its number."""
    doc = rows.text(record.doc)
    return rows.insert("fault", {"hookup": record.hookup, "symptom": record.symptom, "doc": doc, "at": record.at})


def update(record: FaultRecord) -> None:
    """Write it as it is now, one change more."""
    values = {"doc": rows.text(record.doc), "ended": record.ended, "cause": record.cause, "saves": record.saves + 1}
    rows.update("fault", values, "id = ?", record.id)


def of(hookup: str, most: int = 20) -> list[FaultRecord]:
    """Searches of a hook-up, the latest first."""
    sql = f"SELECT {COLUMNS} FROM fault WHERE hookup = ? ORDER BY id DESC LIMIT ?"
    return [_record(row) for row in rows.every(sql, hookup, most)]


def counts() -> dict[str, int]:
    """How often each cause was found."""
    sql = "SELECT cause, count(*) FROM fault WHERE cause IS NOT NULL GROUP BY cause"
    return {str(cause): int(count) for cause, count in rows.every(sql)}
