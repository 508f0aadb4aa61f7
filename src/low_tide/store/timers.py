"""What runs by the clock: a fact with its end time."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.store import rows


@dataclass(frozen=True)
class TimerRecord:
    """What for (`kind`, and `label` in words), of which hook-up and what there (`about`), from when to when."""

    kind: str
    hookup: str
    about: str
    label: str
    started: str
    ends: str
    id: int = 0


COLUMNS = "kind, hookup, about, label, started, ends, id"


def every() -> list[TimerRecord]:
    """All of them, the one that ends first before the others."""
    return [TimerRecord(*row) for row in rows.every(f"SELECT {COLUMNS} FROM timer ORDER BY ends, id")]


def begin(record: TimerRecord) -> None:
    """Begin one, in place of another of the same thing."""
    forget(record.kind, record.hookup, record.about)
    rows.insert("timer", {name: value for name, value in vars(record).items() if name != "id"})


def forget(kind: str, hookup: str, about: str) -> None:
    """The one of this kind, hook-up and thing, where there is one, counts no more."""
    rows.write("DELETE FROM timer WHERE kind = ? AND hookup = ? AND about = ?", kind, hookup, about)


def forget_kinds(hookup: str, kinds: tuple[str, ...]) -> None:
    """Those of some kinds of a hook-up count no more."""
    rows.write(f"DELETE FROM timer WHERE hookup = ? AND kind IN ({rows.marks(kinds)})", hookup, *kinds)


def stop(timer_id: int) -> bool:
    """Take one away; whether there was one."""
    return rows.write("DELETE FROM timer WHERE id = ?", timer_id) > 0


def forget_before(instant: str) -> None:
    """Those that ended before an instant are of no use to anybody."""
    rows.write("DELETE FROM timer WHERE ends < ?", instant)
