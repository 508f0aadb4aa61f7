"""What was read off at steps of run sheets."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows


@dataclass(frozen=True)
class StepReadingRecord:
    """A reading at a step, and what it came to. `value` None: over the meter's range."""

    hookup: str
    step: str
    quantity: str
    about: str
    state: str
    value: float | None
    answer: str
    at: str
    simulated: bool = False
    id: int = 0


COLUMNS = "hookup, step, quantity, about, state, value, answer, at, simulated, id"


def _record(row: rows.Row) -> StepReadingRecord:
    hookup, step, quantity, about, state, value, answer, at, simulated, id = row
    return StepReadingRecord(hookup, step, quantity, about, state, value, answer, at, bool(simulated), id)


def insert(record: StepReadingRecord) -> None:
    """Keep one more."""
    rows.insert("step_reading", {name: value for name, value in vars(record).items() if name != "id"})


def latest(hookup: str) -> dict[str, StepReadingRecord]:
    """The latest reading at each step of a hook-up's sheets, by the step."""
    sql = (
        f"SELECT {COLUMNS} FROM step_reading WHERE id IN"
        " (SELECT max(id) FROM step_reading WHERE hookup = ? GROUP BY step)"
    )
    return {found.step: found for found in map(_record, rows.every(sql, hookup))}


def first_of(quantity: str, about: str, state: str) -> StepReadingRecord | None:
    """The first reading of a thing in a state that came out as it should; what later ones are held against."""
    sql = (
        f"SELECT {COLUMNS} FROM step_reading WHERE quantity = ? AND about = ? AND state = ? AND answer <> 'stop'"
        " AND value IS NOT NULL ORDER BY id LIMIT 1"
    )
    row = rows.one(sql, quantity, about, state)
    return _record(row) if row else None


def take_back(hookup: str, step: str) -> bool:
    """Take the latest reading at a step back; whether there was one."""
    sql = "DELETE FROM step_reading WHERE id = (SELECT max(id) FROM step_reading WHERE hookup = ? AND step = ?)"
    return rows.write(sql, hookup, step) > 0
