"""The locker's records."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json, Row


@dataclass(frozen=True)
class GearRecord:
    """A unit of the locker. `revision` counts its edits, so two tabs cannot overwrite each other unseen."""

    id: str
    kind: str
    name: str
    archived: bool
    doc: Json
    updated: str
    revision: int = 1


COLUMNS = "id, kind, name, archived, doc, updated, revision"


def _record(row: Row) -> GearRecord:
    id, kind, name, archived, doc, updated, revision = row
    return GearRecord(id, kind, name, bool(archived), rows.plain(doc), updated, revision)


def _columns(record: GearRecord) -> Json:
    return {
        "kind": record.kind,
        "name": record.name,
        "archived": record.archived,
        "doc": rows.text(record.doc),
        "updated": record.updated,
        "revision": record.revision,
    }


def find(gear_id: str) -> GearRecord | None:
    """A unit by its id."""
    row = rows.one(f"SELECT {COLUMNS} FROM gear WHERE id = ?", gear_id)
    return _record(row) if row else None


def every(kinds: Sequence[str] = (), archived: bool | None = None) -> list[GearRecord]:
    """Units in the order they came; of some kinds alone, or of those that are put away, or not."""
    asked, values = ["1"], list[object]()
    if kinds:
        asked.append(f"kind IN ({rows.marks(kinds)})")
        values += kinds
    if archived is not None:
        asked.append("archived = ?")
        values.append(archived)
    sql = f"SELECT {COLUMNS} FROM gear WHERE {' AND '.join(asked)} ORDER BY rowid"
    return [_record(r) for r in rows.every(sql, *values)]


def docs(ids: Sequence[str]) -> dict[str, Json]:
    """Id → document of the units that are there."""
    sql = f"SELECT id, doc FROM gear WHERE id IN ({rows.marks(ids)})"
    return {id: rows.plain(doc) for id, doc in rows.every(sql, *ids)}


def insert(records: Iterable[GearRecord]) -> None:
    """New units."""
    for record in records:
        rows.insert("gear", {"id": record.id, **_columns(record)})


def update(record: GearRecord) -> None:
    """Write a unit as it is now."""
    rows.update("gear", _columns(record), "id = ?", record.id)


def delete(gear_id: str) -> None:
    """Delete a unit for good."""
    rows.write("DELETE FROM gear WHERE id = ?", gear_id)
