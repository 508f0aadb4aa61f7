"""Which load was picked for an amp in a power mode with a guitar: one for each of these together."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows


@dataclass(frozen=True)
class PickRecord:
    """A pick: `choice` is a load in a mode or a cabinet, `unit` the gear it is, `switch` the position of its curve.

    `mode` and `guitar` are empty where the amp has one mode, or no guitar is in the hook-up. `label`: as it was called.
    """

    amp: str
    mode: str
    guitar: str
    choice: str
    unit: str
    switch: str
    label: str
    at: str


COLUMNS = "amp, mode, guitar, choice, unit, switch, label, at"
KEY = "amp = ? AND mode = ? AND guitar = ?"


def every() -> list[PickRecord]:
    """All picks, newest first."""
    return [PickRecord(*row) for row in rows.every(f"SELECT {COLUMNS} FROM pick ORDER BY at DESC, amp, mode, guitar")]


def put(pick: PickRecord) -> None:
    """Keep a pick in the place of the one before it."""
    forget(pick.amp, pick.mode, pick.guitar)
    rows.insert("pick", dict(vars(pick)))


def forget(amp: str, mode: str, guitar: str) -> None:
    """No pick any longer for these."""
    rows.write(f"DELETE FROM pick WHERE {KEY}", amp, mode, guitar)
