"""The user's preferences: one record."""

from __future__ import annotations

from low_tide.store import rows
from low_tide.store.rows import Json

THE_ONE = 1


def find() -> tuple[Json, int] | None:
    """What was chosen, and how often that was saved; None where nobody has chosen yet."""
    row = rows.one("SELECT doc, saves FROM preference WHERE id = ?", THE_ONE)
    return (rows.plain(row[0]), row[1]) if row else None


def put(doc: Json, saves: int) -> None:
    """Write what is chosen now."""
    columns = {"doc": rows.text(doc), "saves": saves}
    if not rows.update("preference", columns, "id = ?", THE_ONE):
        rows.insert("preference", {"id": THE_ONE, **columns})
