"""Timers: facts with their end time, kept here so that they outlive a page, a reload and a start of the program."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from typing import Literal

from low_tide.app.clock import ago
from low_tide.app.errors import NotFound
from low_tide.core.session.by_the_clock import Ending
from low_tide.store import hookups
from low_tide.store import timers as kept
from low_tide.store.database import database
from low_tide.store.timers import TimerRecord

Kind = Literal["warm_up", "dark", "play", "touch", "rest", "choosing"]

SHOWN_AFTER_H = 1
"""So long a timer that has ended is still told of, unless somebody takes it away."""
CHOOSING_MIN = 20.0
CHOOSING = "Enough choosing: take one, and go on"
SET_BACK_S = 90.0
"""A timer that begins so long after now was begun before the clock was set back."""


@dataclass(frozen=True)
class Timer:
    """A timer as it stands. `left`: s until it ends, under 0 once it has; None where the clock was set back meanwhile,
    so that nobody knows. `said`: the same in words, for that case."""

    id: int
    kind: str
    hookup: str
    hookup_name: str
    about: str
    label: str
    started: str
    ends: str
    left: float | None
    said: str


def _now() -> datetime:
    return datetime.now(UTC)


def _stamp(moment: datetime) -> str:
    return moment.astimezone(UTC).isoformat(timespec="milliseconds")


def _told(record: TimerRecord, names: dict[str, str], now: datetime) -> Timer:
    started, ends = datetime.fromisoformat(record.started), datetime.fromisoformat(record.ends)
    unsure = (started - now).total_seconds() > SET_BACK_S
    said = "The clock was set back since this began: nobody knows how long is left. Begin it again." if unsure else ""
    left = None if unsure else (ends - now).total_seconds()
    return Timer(
        record.id,
        record.kind,
        record.hookup,
        names.get(record.hookup, ""),
        record.about,
        record.label,
        record.started,
        record.ends,
        left,
        said,
    )


def running() -> list[Timer]:
    """Every timer that runs or has ended lately, the next to end first."""
    names, now = hookups.names(), _now()
    since = ago(hours=SHOWN_AFTER_H)
    return [_told(each, names, now) for each in kept.every() if each.ends >= since]


def begin(kind: Kind, hookup: str, about: str, label: str, seconds: float, ago_s: float = 0.0) -> None:
    """Begin a timer, or one that began so many s ago, in place of another of the same thing; in the transaction of what
    begins it."""
    now = _now() - timedelta(seconds=ago_s)
    kept.forget_before(ago(hours=SHOWN_AFTER_H))
    kept.begin(TimerRecord(kind, hookup, about, label, _stamp(now), _stamp(now + timedelta(seconds=seconds))))


def begin_all(kind: Kind, hookup: str, runs: Iterable[Ending]) -> None:
    """Begin one for each of what runs by the clock, in place of those of the kind that are there."""
    kept.forget_kinds(hookup, (kind,))
    for each in runs:
        begin(kind, hookup, each.about, each.words, 60 * each.minutes)


def forget(kind: Kind, hookup: str, about: str) -> None:
    """What was waited for is not, since what began it was taken back; in the transaction of that."""
    kept.forget(kind, hookup, about)


def choose(blend: int) -> list[Timer]:
    """Begin the time for choosing by a blend, where it does not run already."""
    about = str(blend)
    with database.atomic():
        there = (each for each in kept.every() if each.kind == "choosing" and each.about == about)
        if not any(datetime.fromisoformat(each.ends) > _now() for each in there):
            begin("choosing", "", about, CHOOSING, 60 * CHOOSING_MIN)
    return running()


def stop(timer_id: int) -> list[Timer]:
    """Take a timer away."""
    with database.atomic():
        if not kept.stop(timer_id):
            raise NotFound("There is no such timer any more.")
    return running()
