"""Hook-ups and their revisions."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

from low_tide.store import rows
from low_tide.store.database import database
from low_tide.store.rows import Json, Row


@dataclass(frozen=True)
class HookupRecord:
    """A hook-up: which revision it stands at, whether it is on, and its run sheet's state.

    `redo` holds the revisions that undo came from, the nearest last. `saves` counts every move.
    """

    id: str
    name: str
    updated: str
    archived: bool = False
    current: int = 1
    newest: int = 1
    redo: tuple[int, ...] = ()
    saves: int = 1
    is_on: bool = False
    run: Json = field(default_factory=dict)
    pinned: tuple[Json, ...] = ()


@dataclass(frozen=True)
class RevisionRecord:
    """One state of a hook-up and the one it was made from. Numbers are never used again and rows never deleted, so a
    window that saw a state can always come back to it."""

    number: int
    parent: int | None
    label: str
    doc: Json
    at: str


COLUMNS = "id, name, updated, archived, current, newest, redo, saves, is_on, run, pinned"


def _record(row: Row) -> HookupRecord:
    id, name, updated, archived, current, newest, redo, saves, is_on, run, pinned = row
    return HookupRecord(
        id,
        name,
        updated,
        bool(archived),
        current,
        newest,
        tuple(rows.plain(redo)),
        saves,
        bool(is_on),
        rows.plain(run),
        tuple(rows.plain(pinned)),
    )


def _columns(record: HookupRecord) -> Json:
    return {
        "name": record.name,
        "updated": record.updated,
        "archived": record.archived,
        "current": record.current,
        "newest": record.newest,
        "redo": rows.text(list(record.redo)),
        "saves": record.saves,
        "is_on": record.is_on,
        "run": rows.text(record.run),
        "pinned": rows.text(list(record.pinned)),
    }


def find(hookup_id: str) -> HookupRecord | None:
    """A hook-up, put away or not."""
    row = rows.one(f"SELECT {COLUMNS} FROM hookup WHERE id = ?", hookup_id)
    return _record(row) if row else None


def listed() -> list[HookupRecord]:
    """Hook-ups that are not put away, by name."""
    return [_record(r) for r in rows.every(f"SELECT {COLUMNS} FROM hookup WHERE NOT archived ORDER BY name")]


def that_stood() -> list[HookupRecord]:
    """Hook-ups that were marked as switched on and are not put away, the latest first."""
    sql = (
        f"SELECT {COLUMNS} FROM hookup WHERE NOT archived AND json_extract(run, '$.stood.at') IS NOT NULL"
        " ORDER BY json_extract(run, '$.stood.at') DESC"
    )
    return [_record(r) for r in rows.every(sql)]


def names() -> dict[str, str]:
    """Id → name of every hook-up."""
    return {str(row[0]): str(row[1]) for row in rows.every("SELECT id, name FROM hookup")}


def revision(hookup_id: str, number: int) -> RevisionRecord | None:
    """A state of a hook-up."""
    row = rows.one(
        "SELECT number, parent, label, doc, at FROM revision WHERE hookup_id = ? AND number = ?", hookup_id, number
    )
    return RevisionRecord(row[0], row[1], row[2], rows.plain(row[3]), row[4]) if row else None


def _insert_revision(hookup_id: str, made: RevisionRecord) -> None:
    columns = {"number": made.number, "parent": made.parent, "label": made.label, "doc": rows.text(made.doc)}
    rows.insert("revision", {"hookup_id": hookup_id, **columns, "at": made.at})


def insert(record: HookupRecord, label: str, doc: Json) -> None:
    """A new hook-up with its first revision."""
    rows.insert("hookup", {"id": record.id, **_columns(record)})
    _insert_revision(record.id, RevisionRecord(1, None, label, doc, record.updated))


def update(record: HookupRecord) -> None:
    """Write a hook-up as it is now."""
    rows.update("hookup", _columns(record), "id = ?", record.id)


PINS = "pins"
"""What counts as written when the gear that is pinned to a hook-up changes."""


def unpin(record: HookupRecord) -> None:
    """Let go of the gear that came pinned to a hook-up."""
    update(replace(record, pinned=(), saves=record.saves + 1))
    database.touched(PINS)


def save(record: HookupRecord, label: str, doc: Json) -> HookupRecord:
    """A new revision made from the current one; what could be redone is out of reach, as in any undo list."""
    number = record.newest + 1
    _insert_revision(record.id, RevisionRecord(number, record.current, label, doc, record.updated))
    after = replace(record, newest=number, current=number, redo=(), saves=record.saves + 1)
    update(after)
    return after


def as_they_stand() -> list[tuple[str, Json]]:
    """Name and document of every hook-up that is not put away."""
    sql = (
        "SELECT hookup.name, revision.doc FROM revision JOIN hookup ON hookup.id = revision.hookup_id"
        " WHERE revision.number = hookup.current AND NOT hookup.archived"
    )
    return [(name, rows.plain(doc)) for name, doc in rows.every(sql)]


def that_ever_named(text: str) -> list[tuple[str, Json]]:
    """Name and document of every state of every hook-up with this text somewhere in its document."""
    sql = (
        "SELECT hookup.name, revision.doc FROM revision JOIN hookup ON hookup.id = revision.hookup_id"
        " WHERE instr(revision.doc, ?) > 0"
    )
    return [(name, rows.plain(doc)) for name, doc in rows.every(sql, text)]
