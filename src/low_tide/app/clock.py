"""Local time as people write it, and the instants it means."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import UTC, date, datetime, time, timedelta
from functools import lru_cache

from low_tide.app.errors import Invalid

FIRST_YEAR, LAST_YEAR = 1970, 2199


def instant(text: str) -> str:
    """The instant (ISO 8601, UTC) of a local time as '2026-03-01T21:30', or with its own offset.

    Invalid for an hour that comes twice or not at all when the clocks change, for one that is yet to come, and for one
    outside the years that clocks and calendars of every kind agree on.
    """
    try:
        given = datetime.fromisoformat(text)
    except ValueError:
        raise Invalid(f"When: “{text}” is no date and time; 2026-03-01T21:30 is wanted.") from None
    if not FIRST_YEAR <= given.year <= LAST_YEAR:
        raise Invalid(f"When: the year {given.year} is outside {FIRST_YEAR} to {LAST_YEAR}.")
    if given.tzinfo is None:
        first, second = given.replace(fold=0).astimezone(), given.replace(fold=1).astimezone()
        clock = f"{given:%H:%M} on {given.day} {given:%B}"
        if first.utcoffset() != second.utcoffset():
            if first.replace(tzinfo=None) == given:
                offsets = f"{first:%z}"[:3] + ":" + f"{first:%z}"[3:], f"{second:%z}"[:3] + ":" + f"{second:%z}"[3:]
                raise Invalid(
                    f"When: {clock} comes twice that night, as the clocks go back. Add the offset: {offsets[0]} for"
                    f" the first, {offsets[1]} for the second."
                )
            raise Invalid(f"When: {clock} does not exist, as the clocks go forward over it.")
        given = first
    if given > datetime.now(UTC) + timedelta(minutes=5):
        raise Invalid("When: this is yet to come; a reading lies in the past.")
    return given.astimezone(UTC).isoformat(timespec="seconds")


def local(instant_text: str) -> datetime:
    """An instant as local time."""
    return datetime.fromisoformat(instant_text).astimezone()


def start_of_day(days_back: int = 0) -> str:
    """The instant (ISO 8601, UTC) at which today began, or a day before it."""
    midnight = datetime.now().astimezone().replace(hour=0, minute=0, second=0, microsecond=0)
    return (midnight - timedelta(days=days_back)).astimezone(UTC).isoformat(timespec="seconds")


def ago(**span: float) -> str:
    """The instant (ISO 8601, UTC) so long ago."""
    return (datetime.now(UTC) - timedelta(**span)).isoformat(timespec="seconds")


@dataclass(frozen=True)
class Day:
    """A day where this runs: its instants (ISO 8601, UTC), from its midnight to the next, and what the clock showed at
    each minute that passed (min after midnight): 1380 or 1500 of them where the clocks change."""

    date: str
    start: str
    stop: str
    clock: tuple[int, ...]

    def minute(self, instant_text: str) -> float:
        """Minutes from the day's beginning to an instant; below 0 before it."""
        span = datetime.fromisoformat(instant_text) - datetime.fromisoformat(self.start)
        return span.total_seconds() / 60


def _midnight(day: date) -> datetime:
    return datetime.combine(day, time()).astimezone(UTC)


def read_date(text: str) -> date:
    """A date as '2026-03-01'. Invalid where it is none, or outside the years that clocks agree on."""
    try:
        day = date.fromisoformat(text)
    except ValueError:
        raise Invalid(f"Day: “{text}” is no date; 2026-03-01 is wanted.") from None
    if not FIRST_YEAR < day.year < LAST_YEAR:
        raise Invalid(f"Day: the year {day.year} is outside {FIRST_YEAR + 1} to {LAST_YEAR - 1}.")
    return day


def day_of(text: str) -> Day:
    """A day by its date, as '2026-03-01'. Invalid where that is none, or outside the years that clocks agree on."""
    day = read_date(text)
    start, stop = _midnight(day), _midnight(day + timedelta(days=1))
    passed = range(round((stop - start).total_seconds() / 60))
    shown = ((start + timedelta(minutes=m)).astimezone() for m in passed)
    clock = tuple(60 * each.hour + each.minute for each in shown)
    return Day(text, start.isoformat(timespec="seconds"), stop.isoformat(timespec="seconds"), clock)


def date_of(instant_text: str) -> str:
    """The date of an instant where this runs."""
    return local(instant_text).date().isoformat()


@lru_cache(400)
def ears_day_of(text: str, slot_min: int) -> tuple[str, str, tuple[int, ...]]:
    """A day from 04:00 of a date to 04:00 of the next: its instants (ISO 8601, UTC), and what the clock shows at the
    beginning of every so many minutes that pass (min after midnight). Invalid where the date is none."""
    day = read_date(text)
    at_four = time(4)
    start = datetime.combine(day, at_four).astimezone(UTC)
    stop = datetime.combine(day + timedelta(days=1), at_four).astimezone(UTC)
    passed = range(0, round((stop - start).total_seconds() / 60), slot_min)
    shown = ((start + timedelta(minutes=m)).astimezone() for m in passed)
    clock = tuple(60 * each.hour + each.minute for each in shown)
    return start.isoformat(timespec="seconds"), stop.isoformat(timespec="seconds"), clock


def day_number(text: str) -> int:
    """A date's number in the calendar, by which days between are counted."""
    return date.fromisoformat(text).toordinal()


def day_name(text: str) -> str:
    """'Thu 3 Dec': a date as it is said."""
    day = date.fromisoformat(text)
    return f"{day:%a} {day.day} {day:%b}"
