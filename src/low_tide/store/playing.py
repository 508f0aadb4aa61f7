"""What takes say of how hard their amps were played."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows


@dataclass(frozen=True)
class PlayedRecord:
    """What one take says: dB over the prediction of its amp in a power mode, and its range (dB). `used`: it counts."""

    take_id: int
    amp: str
    mode: str
    offset: float
    playing_range: float | None
    simulated: bool
    used: bool


COLUMNS = "take_id, amp, mode, offset, playing_range, simulated, used"


def _record(row: rows.Row) -> PlayedRecord:
    take_id, amp, mode, offset, playing_range, simulated, used = row
    return PlayedRecord(take_id, amp, mode, offset, playing_range, bool(simulated), bool(used))


def keep(record: PlayedRecord) -> None:
    """Keep what a take says in place of what it said before."""
    forget(record.take_id)
    rows.insert("played", dict(vars(record)))


def forget(take_id: int) -> None:
    """A take says nothing any more."""
    rows.write("DELETE FROM played WHERE take_id = ?", take_id)


def find(take_id: int) -> PlayedRecord | None:
    """What a take says; None where it says nothing."""
    row = rows.one(f"SELECT {COLUMNS} FROM played WHERE take_id = ?", take_id)
    return _record(row) if row else None


def used() -> list[PlayedRecord]:
    """What all takes that count say."""
    return [_record(row) for row in rows.every(f"SELECT {COLUMNS} FROM played WHERE used ORDER BY take_id")]


def of(amp: str, mode: str) -> list[PlayedRecord]:
    """What the takes of an amp in a mode say, those that do not count among them."""
    sql = f"SELECT {COLUMNS} FROM played WHERE amp = ? AND mode = ? ORDER BY take_id"
    return [_record(row) for row in rows.every(sql, amp, mode)]


def use(take_id: int, used: bool) -> bool:
    """Let a take count or leave it out; whether there was one."""
    return rows.update("played", {"used": used}, "take_id = ?", take_id) > 0
