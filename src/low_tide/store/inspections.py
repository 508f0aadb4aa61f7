"""What recordings were found to hold, by the file: takes that have the same file share it."""

from __future__ import annotations

from low_tide.store import rows
from low_tide.store.rows import Json

VERSION = 1
"""Of the way recordings are inspected: what an older one found is found anew."""


def keep(audio: str, found: Json) -> None:
    """Keep what a file was found to hold, in place of what was found before."""
    forget(audio)
    rows.insert("inspection", {"audio": audio, "version": VERSION, "doc": rows.text(found)})


def find(audio: str) -> Json | None:
    """What a file was found to hold; None where it was not inspected, or in an older way."""
    row = rows.one("SELECT doc FROM inspection WHERE audio = ? AND version = ?", audio, VERSION)
    found: Json | None = rows.plain(row[0]) if row else None
    return found


def forget(audio: str) -> None:
    """What a file was found to hold is wanted no more."""
    rows.write("DELETE FROM inspection WHERE audio = ?", audio)
