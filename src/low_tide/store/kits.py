"""Which lines of kit lists are packed."""

from __future__ import annotations

from low_tide.store import rows
from low_tide.store.rows import Json


def find(hookups: str) -> Json:
    """What is kept for the kit list of some hook-ups; nothing where nothing was said."""
    row = rows.one("SELECT doc FROM kit WHERE hookups = ?", hookups)
    found: Json = rows.plain(row[0]) if row else {}
    return found


def keep(hookups: str, doc: Json) -> None:
    """Keep it in place of what was kept."""
    rows.write("INSERT OR REPLACE INTO kit (hookups, doc) VALUES (?, ?)", hookups, rows.text(doc))
