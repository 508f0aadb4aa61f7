"""Comparisons, and what was found between two files."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json

VERSION = 2
"""Of the way files are held against each other: what an older one found is found anew."""


@dataclass(frozen=True)
class ComparisonRecord:
    """A comparison as it lies in the store."""

    id: int
    name: str
    doc: Json
    saves: int
    at: str


def _record(row: rows.Row) -> ComparisonRecord:
    return ComparisonRecord(row[0], row[1], rows.plain(row[2]), row[3], row[4])


def every() -> list[ComparisonRecord]:
    """All comparisons, newest first."""
    return [_record(r) for r in rows.every("SELECT id, name, doc, saves, at FROM comparison ORDER BY id DESC")]


def find(comparison_id: int) -> ComparisonRecord | None:
    """A comparison."""
    row = rows.one("SELECT id, name, doc, saves, at FROM comparison WHERE id = ?", comparison_id)
    return _record(row) if row else None


def insert(name: str, doc: Json, at: str) -> int:
    """A new comparison; its number."""
    return rows.insert("comparison", {"name": name, "doc": rows.text(doc), "saves": 1, "at": at})


def update(comparison_id: int, name: str, doc: Json, files: Iterable[str] = ()) -> None:
    """Save a comparison, and which more files it has that are no takes'; those it has stay."""
    rows.write(
        "UPDATE comparison SET name = ?, doc = ?, saves = saves + 1 WHERE id = ?", name, rows.text(doc), comparison_id
    )
    for audio in dict.fromkeys(files):
        rows.write("INSERT OR IGNORE INTO compared_file (comparison_id, audio) VALUES (?, ?)", comparison_id, audio)


def files(comparison_id: int) -> list[str]:
    """Audio a comparison has for itself, on its list or taken off it."""
    return [str(r[0]) for r in rows.every("SELECT audio FROM compared_file WHERE comparison_id = ?", comparison_id)]


def delete(comparison_id: int) -> None:
    """Delete a comparison with everything that is its own."""
    for table in ("compared_file", "listening"):
        rows.write(f"DELETE FROM {table} WHERE comparison_id = ?", comparison_id)
    rows.write("DELETE FROM comparison WHERE id = ?", comparison_id)


def has_audio(audio: str) -> bool:
    """Whether some comparison has this file for itself."""
    return rows.one("SELECT 1 FROM compared_file WHERE audio = ?", audio) is not None


def keep_held(reference: str, audio: str, found: Json) -> None:
    """Keep what was found between two files, in place of what was found before."""
    rows.write("DELETE FROM held WHERE reference = ? AND audio = ?", reference, audio)
    rows.insert("held", {"reference": reference, "audio": audio, "version": VERSION, "doc": rows.text(found)})


def held(reference: str, audio: str) -> Json | None:
    """What was found between two files; None where they were not held against each other, or in an older way."""
    sql = "SELECT doc FROM held WHERE reference = ? AND audio = ? AND version = ?"
    row = rows.one(sql, reference, audio, VERSION)
    found: Json | None = rows.plain(row[0]) if row else None
    return found


def held_with(audio: str) -> list[tuple[str, Json]]:
    """The files that one was held against, whichever was the reference, each with what was found."""
    where = "? IN (reference, audio) AND reference <> audio AND version = ?"
    found = rows.every(f"SELECT reference, audio, doc FROM held WHERE {where}", audio, VERSION)
    return [(other if reference == audio else reference, rows.plain(doc)) for reference, other, doc in found]


def forget(audio: str) -> None:
    """What was found with a file is wanted no more."""
    rows.write("DELETE FROM held WHERE reference = ? OR audio = ?", audio, audio)
