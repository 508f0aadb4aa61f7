"""iCalendar (RFC 5545): a plan for the calendar of whoever takes part."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from datetime import datetime


@dataclass(frozen=True)
class Entry:
    """Something in a calendar: what tells it from others for good, from when to when (UTC), and what it is called."""

    uid: str
    start: datetime
    stop: datetime
    summary: str
    description: str = ""


def write_calendar(name: str, entries: Iterable[Entry], stamp: datetime) -> bytes:
    """A calendar of entries, in UTC, so that no calendar has to guess a zone; `stamp`: when they were said."""
    from icalendar import Calendar, Event

    made = Calendar()
    made.add("prodid", "-//Low Tide//Plan//EN")
    made.add("version", "2.0")
    made.add("method", "PUBLISH")
    made.add("x-wr-calname", name)
    for entry in entries:
        event = Event()
        event.add("uid", entry.uid)
        event.add("dtstamp", stamp)
        event.add("dtstart", entry.start)
        event.add("dtend", entry.stop)
        event.add("summary", entry.summary)
        if entry.description:
            event.add("description", entry.description)
        made.add_component(event)
    return bytes(made.to_ical())
