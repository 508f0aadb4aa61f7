"""Projects and their revisions."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json, Row


@dataclass(frozen=True)
class PlanRecord:
    """A project: which revision it stands at. `redo` holds the revisions that undo came from, the nearest last; `saves`
    counts every move."""

    id: str
    name: str
    updated: str
    archived: bool = False
    current: int = 1
    newest: int = 1
    redo: tuple[int, ...] = ()
    saves: int = 1


@dataclass(frozen=True)
class PlanRevision:
    """One state of a project, and the one it was made from."""

    number: int
    parent: int | None
    label: str
    doc: Json
    at: str


COLUMNS = "id, name, updated, archived, current, newest, redo, saves"
MOST_KEPT = 200
"""So many states of a project can be gone back to."""


def _record(row: Row) -> PlanRecord:
    id, name, updated, archived, current, newest, redo, saves = row
    return PlanRecord(id, name, updated, bool(archived), current, newest, tuple(rows.plain(redo)), saves)


def _columns(record: PlanRecord) -> Json:
    return {
        "name": record.name,
        "updated": record.updated,
        "archived": record.archived,
        "current": record.current,
        "newest": record.newest,
        "redo": rows.text(list(record.redo)),
        "saves": record.saves,
    }


def find(plan_id: str) -> PlanRecord | None:
    """A project, put away or not."""
    row = rows.one(f"SELECT {COLUMNS} FROM plan WHERE id = ?", plan_id)
    return _record(row) if row else None


def listed() -> list[PlanRecord]:
    """Projects that are not put away, the one changed last first."""
    return [_record(r) for r in rows.every(f"SELECT {COLUMNS} FROM plan WHERE NOT archived ORDER BY updated DESC, id")]


def ids() -> list[str]:
    """Ids of all projects."""
    return [str(row[0]) for row in rows.every("SELECT id FROM plan")]


def revision(plan_id: str, number: int) -> PlanRevision | None:
    """A state of a project."""
    sql = "SELECT number, parent, label, doc, at FROM plan_revision WHERE plan_id = ? AND number = ?"
    row = rows.one(sql, plan_id, number)
    return PlanRevision(row[0], row[1], row[2], rows.plain(row[3]), row[4]) if row else None


def _insert_revision(plan_id: str, made: PlanRevision) -> None:
    columns = {"number": made.number, "parent": made.parent, "label": made.label, "doc": rows.text(made.doc)}
    rows.insert("plan_revision", {"plan_id": plan_id, **columns, "at": made.at})


def insert(record: PlanRecord, label: str, doc: Json) -> None:
    """A new project with its first state."""
    rows.insert("plan", {"id": record.id, **_columns(record)})
    _insert_revision(record.id, PlanRevision(1, None, label, doc, record.updated))


def update(record: PlanRecord) -> None:
    """Write a project as it is now."""
    rows.update("plan", _columns(record), "id = ?", record.id)


def save(record: PlanRecord, label: str, doc: Json) -> PlanRecord:
    """A new state made from the current one. The oldest go once there are many; nothing leads back to them then."""
    number = record.newest + 1
    _insert_revision(record.id, PlanRevision(number, record.current, label, doc, record.updated))
    gone = number - MOST_KEPT
    if gone > 0:
        rows.write(
            "DELETE FROM plan_revision WHERE plan_id = ? AND number <= ? AND number != ?", record.id, gone, number
        )
        rows.write("UPDATE plan_revision SET parent = NULL WHERE plan_id = ? AND parent <= ?", record.id, gone)
    after = PlanRecord(record.id, record.name, record.updated, record.archived, number, number, (), record.saves + 1)
    update(after)
    return after
