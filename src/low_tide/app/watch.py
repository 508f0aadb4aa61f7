"""The day as a watch: what was played, heard and kept quiet on one day of the log."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta

from low_tide.app import locker
from low_tide.app.clock import Day, day_of
from low_tide.app.preferences import preferences
from low_tide.core.acoustics.exposure import LISTENING, dose
from low_tide.core.inventory import Place
from low_tide.core.preferences import LISTENING_NAMES
from low_tide.core.session.watch import Filled, Heard, Hour, QuietSpan, filling, hours, quiet_spans
from low_tide.store import hookups, readings, switched
from low_tide.store import takes as kept
from low_tide.store.home import now
from low_tide.store.switched import SwitchedRecord
from low_tide.store.takes import TakeRecord

NO_LENGTH = "Off is before on: the clock was set back meanwhile, and how long it was on is not known."


@dataclass(frozen=True)
class TakeOnWatch:
    """A take where it lies on the day: from which minute, and for how many; None where nothing was recorded."""

    id: int
    number: int
    name: str
    part: str
    hookup: str
    severity: str
    start: float
    minutes: float | None


@dataclass(frozen=True)
class OnSpan:
    """A hook-up was on from one minute of the day to another; `still`: it is, `from_before`: since a day before.

    `odd` says why its length is not known; it is empty as a rule.
    """

    hookup: str
    name: str
    start: float
    stop: float
    still: bool
    from_before: bool
    odd: str


@dataclass(frozen=True)
class Watch:
    """One day, every position in minutes since it began. `now`: where the clock stands on it, None on another day.

    `quiet` is by the limits that places have today. `filled`: how the allowance of `school` filled up by what was
    logged as listened to, and nothing else.
    """

    date: str
    minutes: int
    hours: tuple[Hour, ...]
    now: float | None
    quiet: tuple[QuietSpan, ...]
    takes: tuple[TakeOnWatch, ...]
    on: tuple[OnSpan, ...]
    filled: tuple[Filled, ...]
    school: str


def _take(row: TakeRecord, day: Day) -> TakeOnWatch:
    seconds = row.measures["seconds"] if row.measures else None
    return TakeOnWatch(
        row.id,
        row.number,
        row.name,
        row.part,
        row.hookup_name,
        row.verdict,
        day.minute(row.at),
        None if seconds is None else seconds / 60,
    )


def _span(row: SwitchedRecord, day: Day, clock: str, names: dict[str, str]) -> OnSpan:
    name = names.get(row.hookup, row.hookup)
    start, stop = day.minute(row.since), day.minute(row.until or max(clock, row.since))
    if stop < start:
        at = start if 0 <= start <= len(day.clock) else stop
        return OnSpan(row.hookup, name, at, at, False, False, NO_LENGTH)
    within = max(0.0, start), min(float(len(day.clock)), stop)
    return OnSpan(row.hookup, name, *within, row.until is None, start < 0, "")


def _filled(day: Day, school: str) -> tuple[Filled, ...]:
    """What was logged as listened to on the day, on top of what a weekly school counts from the days before."""
    week = datetime.fromisoformat(day.stop) - timedelta(days=LISTENING[school].days)
    before = readings.listened_since(week.isoformat(timespec="seconds"), day.start)
    today = readings.listened_since(day.start, day.stop)
    heard = [Heard(day.minute(row.at), row.minutes, row.level) for row in today]
    carried = dose([(row.level, row.minutes / 60) for row in before], school) if LISTENING[school].days > 1 else 0.0
    return filling(heard, school, carried)


def of_day(date: str) -> Watch:
    """A day of the log by its date, as '2026-03-01'. Invalid where that is none."""
    day, clock, school = day_of(date), now(), preferences().listening
    at = day.minute(clock)
    places = [unit for unit in locker.all_gear().values() if isinstance(unit, Place) and not unit.archived]
    names = hookups.names()
    return Watch(
        day.date,
        len(day.clock),
        hours(day.clock),
        at if 0 <= at < len(day.clock) else None,
        quiet_spans(places, day.clock),
        tuple(_take(row, day) for row in kept.between(day.start, day.stop)),
        tuple(_span(row, day, clock, names) for row in switched.between(day.start, day.stop)),
        _filled(day, school),
        LISTENING_NAMES[school],
    )
