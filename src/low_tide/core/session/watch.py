"""A day as a watch: its hours as the clock showed them, quiet hours, and how the ears' allowance filled up.

Every position is in minutes since the day began, as they passed. A day on which the clocks change has 23 or 25 hours;
what the clock showed is told apart from what passed.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from math import isfinite

from low_tide.core.acoustics.exposure import dose
from low_tide.core.venue.place import Place

HOUR = 60


@dataclass(frozen=True)
class Hour:
    """A full hour of the day, as the clock showed it; `again`: for the second time that day."""

    minute: float
    label: str
    again: bool


@dataclass(frozen=True)
class QuietSpan:
    """A limit (dBA) that held at a place, from one minute of the day to another."""

    place: str
    name: str
    level: float
    whose: str
    start: float
    stop: float


@dataclass(frozen=True)
class Filled:
    """Part of the allowance that was used at a minute of the day, 1 being all of it; None for more than any."""

    minute: float
    part: float | None


@dataclass(frozen=True)
class Heard:
    """Something that was listened to: it ended at a minute of the day, so many minutes long, at a level in dBA."""

    ended: float
    minutes: float
    level: float


def hours(clock: Sequence[int]) -> tuple[Hour, ...]:
    """The full hours of a day. `clock`: what it showed at each minute that passed, in minutes after its midnight."""
    found: list[Hour] = []
    for minute, shown in enumerate(clock):
        if shown % HOUR == 0:
            label = f"{shown // HOUR:02d}"
            found.append(Hour(minute, label, any(h.label == label for h in found)))
    return (*found, Hour(len(clock), "24", False))


def _runs(held: Sequence[bool]) -> Iterator[tuple[int, int]]:
    begun: int | None = None
    for minute, holds in enumerate((*held, False)):
        if holds and begun is None:
            begun = minute
        elif not holds and begun is not None:
            yield begun, minute
            begun = None


def quiet_spans(places: Iterable[Place], clock: Sequence[int]) -> tuple[QuietSpan, ...]:
    """When which limit held on a day, place by place, by what the clock showed at each minute that passed."""
    found = []
    for where, limit in ((place, limit) for place in places for limit in place.limits):
        holding = limit.minutes()
        for start, stop in _runs([minute in holding for minute in clock]):
            found.append(QuietSpan(where.id, where.name, limit.level, limit.whose, start, stop))
    return tuple(found)


def filling(heard: Iterable[Heard], school: str, before: float = 0.0) -> tuple[Filled, ...]:
    """How a school's allowance filled up over a day, from what of it was used `before`: corners of a line that goes
    straight between them.

    What was listened to counts on the day it ended, whole, from when it began or the day did. Where it is over 115 dBA
    there is no allowance, and the line ends there.
    """
    whole = [
        (max(0.0, h.ended - h.minutes), h.ended, dose([(h.level, h.minutes / HOUR)], school))
        for h in heard
        if h.minutes > 0
    ]
    corners = sorted({0.0, *(m for start, stop, _ in whole for m in (start, stop))})
    found: list[Filled] = []
    for at in corners:
        used = before + sum(part * _share(start, stop, at) for start, stop, part in whole if at > start or at >= stop)
        found.append(Filled(at, used if isfinite(used) else None))
        if not isfinite(used):
            break
    return tuple(found)


def _share(start: float, stop: float, at: float) -> float:
    return 1.0 if at >= stop else (at - start) / (stop - start)
