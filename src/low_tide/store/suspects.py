"""Units that may have been hurt, until somebody clears them."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows
from low_tide.store.database import remembered


@dataclass(frozen=True)
class SuspectRecord:
    """A unit that is or was suspect: why, since when, and when and with what word it was cleared."""

    id: int
    unit: str
    why: str
    at: str
    cleared: str | None
    word: str


COLUMNS = "id, unit, why, at, cleared, word"


@remembered("suspect")
def reasons() -> dict[str, str]:
    """Why a unit is suspect now, by its id."""
    sql = "SELECT unit, why FROM suspect WHERE cleared IS NULL ORDER BY id"
    return {str(unit): str(why) for unit, why in rows.every(sql)}


def every(most: int = 200) -> list[SuspectRecord]:
    """All that are or were suspect, the latest first."""
    return [SuspectRecord(*row) for row in rows.every(f"SELECT {COLUMNS} FROM suspect ORDER BY id DESC LIMIT ?", most)]


def add(unit: str, why: str, at: str) -> None:
    """A unit is suspect from now on; where it is already, this is the reason now."""
    if not rows.write("UPDATE suspect SET why = ? WHERE unit = ? AND cleared IS NULL", why, unit):
        rows.insert("suspect", {"unit": unit, "why": why, "at": at, "word": ""})


def clear(unit: str, word: str, at: str) -> bool:
    """Somebody has looked at it; whether it was suspect."""
    sql = "UPDATE suspect SET cleared = ?, word = ? WHERE unit = ? AND cleared IS NULL"
    return rows.write(sql, at, word, unit) > 0
