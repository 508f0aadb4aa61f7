"""Sittings of drills, their questions and answers, and when each card is due."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.rows import Json


@dataclass(frozen=True)
class SittingRecord:
    """A sitting: made from what, of which kinds, when it began, and when it ended."""

    source: str
    kinds: tuple[str, ...]
    began: str
    ended: str | None = None
    id: int = 0


@dataclass(frozen=True)
class DrillRecord:
    """A question and its answer. `doc`: what is asked, None once it is no longer kept. `rating`: how it counted for its
    card, None where it did not."""

    sitting: int
    kind: str
    card: str
    level: int
    once_more: bool
    doc: Json | None
    asked: str
    hint: bool = False
    answered: str | None = None
    answer: Json | None = None
    is_right: bool | None = None
    seconds: float | None = None
    rating: str | None = None
    id: int = 0


@dataclass(frozen=True)
class CardRecord:
    """When a card is due, what the schedule knows of it, and how many were right in a row."""

    card: str
    doc: Json
    due: str
    in_a_row: int


SITTING = "source, kinds, began, ended, id"
DRILL = "sitting_id, kind, card, level, once_more, doc, asked, hint, answered, answer, is_right, seconds, rating, id"
PLAIN = DRILL.replace("doc, ", "NULL, ").replace("answer, is", "NULL, is")
"""The same without what is large: for lists."""


def _sitting(row: rows.Row) -> SittingRecord:
    source, kinds, began, ended, id = row
    return SittingRecord(source, tuple(rows.plain(kinds)), began, ended, id)


def _drill(row: rows.Row) -> DrillRecord:
    sitting, kind, card, level, once_more, doc, asked, hint, answered, answer, is_right, seconds, rating, id = row
    right = None if is_right is None else bool(is_right)
    return DrillRecord(
        sitting,
        kind,
        card,
        level,
        bool(once_more),
        rows.plain(doc),
        asked,
        bool(hint),
        answered,
        rows.plain(answer),
        right,
        seconds,
        rating,
        id,
    )


def sitting(sitting_id: int) -> SittingRecord | None:
    """A sitting."""
    row = rows.one(f"SELECT {SITTING} FROM drill_sitting WHERE id = ?", sitting_id)
    return _sitting(row) if row else None


def open_sitting() -> SittingRecord | None:
    """The sitting that has not ended."""
    row = rows.one(f"SELECT {SITTING} FROM drill_sitting WHERE ended IS NULL ORDER BY id DESC LIMIT 1")
    return _sitting(row) if row else None


def begin(record: SittingRecord) -> int:
    """A new sitting; its number. Questions of those that have ended are no longer kept, their answers are."""
    rows.write("UPDATE drill SET doc = NULL WHERE doc IS NOT NULL")
    columns = {"source": record.source, "kinds": rows.text(list(record.kinds)), "began": record.began}
    return rows.insert("drill_sitting", {**columns, "ended": record.ended})


def end(at: str) -> None:
    """End whatever sitting is open; a question nobody answered is forgotten."""
    rows.write("DELETE FROM drill WHERE answered IS NULL")
    rows.write("UPDATE drill_sitting SET ended = ? WHERE ended IS NULL", at)


def drill(drill_id: int) -> DrillRecord | None:
    """A question."""
    row = rows.one(f"SELECT {DRILL} FROM drill WHERE id = ?", drill_id)
    return _drill(row) if row else None


def drills_of(sitting_id: int) -> list[DrillRecord]:
    """Questions of a sitting in their order, without what was asked."""
    sql = f"SELECT {PLAIN} FROM drill WHERE sitting_id = ? ORDER BY id"
    return [_drill(row) for row in rows.every(sql, sitting_id)]


def answered() -> list[DrillRecord]:
    """All answers in the order they were given, without what was asked."""
    return [
        _drill(row) for row in rows.every(f"SELECT {PLAIN} FROM drill WHERE answered IS NOT NULL ORDER BY answered, id")
    ]


def insert(record: DrillRecord) -> int:
    """A new question; its number."""
    columns = {
        "sitting_id": record.sitting,
        "kind": record.kind,
        "card": record.card,
        "level": record.level,
        "once_more": record.once_more,
        "doc": rows.text(record.doc),
        "asked": record.asked,
        "hint": record.hint,
    }
    return rows.insert("drill", columns)


def give_hint(drill_id: int) -> None:
    """Note that the hint was looked at."""
    rows.update("drill", {"hint": True}, "id = ?", drill_id)


def give_answer(record: DrillRecord) -> None:
    """Write the answer to a question."""
    columns = {
        "answered": record.answered,
        "answer": rows.text(record.answer),
        "is_right": record.is_right,
        "seconds": record.seconds,
        "rating": record.rating,
    }
    rows.update("drill", columns, "id = ?", record.id)


def cards() -> dict[str, CardRecord]:
    """Every card that was ever asked for, by its id."""
    found = rows.every("SELECT card, doc, due, in_a_row FROM drill_card")
    return {card: CardRecord(card, rows.plain(doc), due, in_a_row) for card, doc, due, in_a_row in found}


def put_card(record: CardRecord) -> None:
    """Write a card as it is now."""
    rows.write("DELETE FROM drill_card WHERE card = ?", record.card)
    columns = {"card": record.card, "doc": rows.text(record.doc), "due": record.due, "in_a_row": record.in_a_row}
    rows.insert("drill_card", columns)


def forget() -> None:
    """Take every sitting, answer and card away."""
    for table in ("drill", "drill_sitting", "drill_card"):
        rows.write(f"DELETE FROM {table}")
