"""What a guitar is heard against, and the files that belong to that alone."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json


@dataclass(frozen=True)
class MixRecord:
    """A mix as it lies in the store."""

    id: int
    name: str
    doc: Json
    saves: int
    at: str


def _record(row: rows.Row) -> MixRecord:
    return MixRecord(row[0], row[1], rows.plain(row[2]), row[3], row[4])


def every() -> list[MixRecord]:
    """All mixes, newest first."""
    return [_record(r) for r in rows.every("SELECT id, name, doc, saves, at FROM mix ORDER BY id DESC")]


def find(mix_id: int) -> MixRecord | None:
    """A mix."""
    row = rows.one("SELECT id, name, doc, saves, at FROM mix WHERE id = ?", mix_id)
    return _record(row) if row else None


def insert(name: str, doc: Json, at: str) -> int:
    """A new mix; its number."""
    return rows.insert("mix", {"name": name, "doc": rows.text(doc), "saves": 1, "at": at})


def update(mix_id: int, name: str, doc: Json, files: Iterable[str] = ()) -> None:
    """Save a mix, and which more files it has for itself; those it has stay."""
    rows.write("UPDATE mix SET name = ?, doc = ?, saves = saves + 1 WHERE id = ?", name, rows.text(doc), mix_id)
    for audio in dict.fromkeys(files):
        rows.write("INSERT OR IGNORE INTO mix_file (mix_id, audio) VALUES (?, ?)", mix_id, audio)


def files(mix_id: int) -> list[str]:
    """Audio a mix has for itself, in it or taken out of it."""
    return [str(r[0]) for r in rows.every("SELECT audio FROM mix_file WHERE mix_id = ?", mix_id)]


def delete(mix_id: int) -> None:
    """Delete a mix with what is its own."""
    rows.write("DELETE FROM mix_file WHERE mix_id = ?", mix_id)
    rows.write("DELETE FROM mix WHERE id = ?", mix_id)


def has_audio(audio: str) -> bool:
    """Whether some mix has this file for itself."""
    return rows.one("SELECT 1 FROM mix_file WHERE audio = ?", audio) is not None
