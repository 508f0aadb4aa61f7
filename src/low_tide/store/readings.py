"""Levels that were read off a meter, and stretches of listening."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json, Row

METER, LISTENING = "meter", "listening"
NO_LIMIT = -1


@dataclass(frozen=True)
class ReadingRecord:
    """A level that was read off a meter, or listened to. `doc` says which and how.

    `hookup` and `revision`: what sounded, None where nobody said. `used`: it counts for the calibration.
    """

    kind: str
    place: str
    level: float
    doc: Json
    at: str
    hookup: str | None = None
    revision: int | None = None
    minutes: float = 0.0
    used: bool = True
    id: int = 0


COLUMNS = "kind, place, level, doc, at, hookup, revision, minutes, used, id"


def _record(row: Row) -> ReadingRecord:
    kind, place, level, doc, at, hookup, revision, minutes, used, id = row
    return ReadingRecord(kind, place, level, rows.plain(doc), at, hookup, revision, minutes, bool(used), id)


def of_meter(place: str = "", most: int | None = None) -> list[ReadingRecord]:
    """Readings of the meter, newest first: of one place or all, `most` of them at most."""
    sql = f"SELECT {COLUMNS} FROM reading WHERE kind = ? AND (? = '' OR place = ?) ORDER BY at DESC, id DESC LIMIT ?"
    return [_record(r) for r in rows.every(sql, METER, place, place, NO_LIMIT if most is None else most)]


def listened_since(at: str, before: str = "9999") -> list[ReadingRecord]:
    """What was listened to since a moment, and before another where one is named, newest first."""
    sql = f"SELECT {COLUMNS} FROM reading WHERE minutes > 0 AND at >= ? AND at < ? ORDER BY at DESC"
    return [_record(r) for r in rows.every(sql, at, before)]


def insert(record: ReadingRecord) -> int:
    """A new one; its number."""
    return rows.insert(
        "reading",
        {
            "kind": record.kind,
            "place": record.place,
            "level": record.level,
            "doc": rows.text(record.doc),
            "at": record.at,
            "hookup": record.hookup,
            "revision": record.revision,
            "minutes": record.minutes,
            "used": record.used,
        },
    )


def use(reading_id: int, used: bool) -> bool:
    """Let it count, or not; whether there is one."""
    return rows.update("reading", {"used": used}, "id = ?", reading_id) > 0


def delete(reading_id: int) -> bool:
    """Delete it for good; whether there was one."""
    return rows.write("DELETE FROM reading WHERE id = ?", reading_id) > 0
