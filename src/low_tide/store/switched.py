"""From when to when hook-ups were on."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows


@dataclass(frozen=True)
class SwitchedRecord:
    """A hook-up was on since an instant, until another; None: it is still."""

    hookup: str
    since: str
    until: str | None


def on(hookup: str, at: str) -> None:
    """From now on it is on."""
    off(hookup, at)
    rows.insert("switched", {"hookup": hookup, "since": at})


def off(hookup: str, at: str) -> None:
    """Where it was on, it is no longer."""
    rows.write("UPDATE switched SET until = ? WHERE hookup = ? AND until IS NULL", at, hookup)


def between(start: str, stop: str) -> list[SwitchedRecord]:
    """Spans of which some part lies from one instant on and before another, in their order.

    One that ends before it begins, since the clock was set back meanwhile, counts where it began or ended.
    """
    sql = (
        "SELECT hookup, since, until FROM switched"
        " WHERE min(since, coalesce(until, since)) < ? AND max(since, coalesce(until, ?)) >= ? ORDER BY since, id"
    )
    return [SwitchedRecord(*row) for row in rows.every(sql, stop, stop, start)]
