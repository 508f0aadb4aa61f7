"""A plan as a problem in whole numbers: jobs, days, set-ups, and what each of them costs and allows.

Time is counted in slots of five minutes from 04:00 of each day, as they pass, so a night belongs to the evening before
it and a day on which the clocks change has a slot more or less for every five minutes. Which slots something may be
done in is one whole number, a bit a slot.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from math import exp
from typing import Annotated, Literal, TypeAlias

from low_tide.core.spec import Spec

SLOT_MIN = 5
DAY_BEGINS_MIN = 4 * 60
"""The ears' day, and everybody's: what is done after midnight belongs to the evening before."""
ALLOWANCE = 100_000
"""The whole of a listener's allowance, in the shares that jobs take of it."""
MOST_VISITS = 2
"""How often a set-up is made on one day."""
NO_SETUP = -1

Doing: TypeAlias = Literal["find", "play", "rest", "choose"]
Slots: TypeAlias = int
"""Slots of a day as one number: bit s is set where slot s belongs to it."""


@dataclass(frozen=True)
class JobStretch:
    """A stretch of a job: what is done in it, and for how many slots."""

    doing: Doing
    slots: Annotated[int, Spec("Slots", "slots", 1, 400)]

    @property
    def sounds(self) -> bool:
        """The amp is played in it, so its boxes warm up."""
        return self.doing in ("find", "play")


@dataclass(frozen=True)
class Ruled:
    """What allows a job in certain slots only: whose rule it is, and the slots of each day that it allows.

    `key` names it for good: 'window', 'limit:<place>', 'person:<id>', 'level:<place>'.
    """

    key: str
    allows: tuple[Slots, ...]


@dataclass(frozen=True)
class Pinned:
    """A job has its place: the day and the slot it begins in."""

    day: int
    slot: int


@dataclass(frozen=True)
class Job:
    """Something to be done in one go on one set-up, or on none (choosing at the desk).

    `dose`: shares of each listener's allowance, rounded up. `loud`: not allowed at every hour. `main`: the job it is
    a double of. `after`: jobs that come before it. `never`: why it can be laid nowhere at all, empty where it can.
    """

    id: str
    setup: int
    stretches: tuple[JobStretch, ...]
    rules: tuple[Ruled, ...]
    dose: tuple[int, ...]
    loud: bool = False
    must: bool = False
    main: int | None = None
    after: tuple[int, ...] = ()
    pin: Pinned | None = None
    never: str = ""

    @cached_property
    def slots(self) -> int:
        """How long it takes."""
        return sum(each.slots for each in self.stretches)

    def allowed(self, day: int) -> Slots:
        """Slots of a day it may be under way in."""
        found = self.rules[0].allows[day]
        for rule in self.rules[1:]:
            found &= rule.allows[day]
        return found


@dataclass(frozen=True)
class Box:
    """Something that warms up: its time constant (slots), and its limit (K over the room)."""

    name: str
    tau: float
    limit: float


@dataclass(frozen=True)
class Setup:
    """A hook-up as it is set up. `heats`: box → the rise (K) it settles at while this is played."""

    id: str
    heats: tuple[tuple[int, float], ...] = ()


@dataclass(frozen=True)
class Way:
    """What it takes from one set-up to another: plugs moved, and slots; `cold`: slots where nothing was on before."""

    plugs: int
    slots: int
    cold: int


@dataclass(frozen=True)
class Window:
    """Slots of a day somebody is there, from the first to before the last."""

    start: int
    stop: int


@dataclass(frozen=True)
class PlanDay:
    """A day: its windows in order, and its number in the calendar, by which nights and weeks are counted."""

    number: int
    slots: int
    windows: tuple[Window, ...]

    @property
    def begins(self) -> int:
        """The slot its first window begins in."""
        return self.windows[0].start if self.windows else 0


@dataclass(frozen=True)
class Problem:
    """Everything a plan is made of.

    `ways[a + 1][b]`: from set-up a (−1: nothing) to b. `standing`: what stands when it begins. `budget[listener][day]`:
    shares that may be used in the days up to and with that one, within `span` days.
    """

    days: tuple[PlanDay, ...]
    jobs: tuple[Job, ...]
    setups: tuple[Setup, ...]
    ways: tuple[tuple[Way, ...], ...]
    boxes: tuple[Box, ...] = ()
    standing: int = NO_SETUP
    listeners: tuple[str, ...] = ()
    budget: tuple[tuple[int, ...], ...] = ()
    span: int = 1

    def way(self, before: int, after: int) -> Way:
        """From one set-up to another; nothing is moved where either is none."""
        return self.ways[before + 1][after] if after != NO_SETUP else Way(0, 0, 0)

    @cached_property
    def starts(self) -> tuple[tuple[Slots, ...], ...]:
        """starts[job][day]: slots it may begin in, so that all of it lies in slots it is allowed."""
        return tuple(tuple(self._starts(job, day) for day in range(len(self.days))) for job in self.jobs)

    def _starts(self, job: Job, day: int) -> Slots:
        if job.never:
            return 0
        found = beginnings(job.allowed(day), job.slots)
        if job.pin is not None:
            found &= 1 << job.pin.slot if job.pin.day == day else 0
        return found

    @cached_property
    def window_of(self) -> tuple[tuple[int, ...], ...]:
        """window_of[day][slot]: the slot its window begins in, −1 outside of windows."""
        found = []
        for day in self.days:
            begins = [-1] * (day.slots + 1)
            for window in day.windows:
                begins[window.start : window.stop] = [window.start] * (window.stop - window.start)
            found.append(tuple(begins))
        return tuple(found)

    @cached_property
    def together(self) -> tuple[tuple[int, ...], ...]:
        """together[day]: the days whose doses count together on it, itself among them."""
        return tuple(
            tuple(d for d, day in enumerate(self.days) if 0 <= here.number - day.number < self.span)
            for here in self.days
        )

    @cached_property
    def left_over(self) -> tuple[tuple[float, ...], ...]:
        """left_over[day][box]: the rise (K) it may still have from the day before, at most: it was at its limit at the
        end of that day's last window."""
        found, before = [], None
        for day in self.days:
            gap = 0.0
            if before is not None and before.windows and day.windows:
                gap = (day.number - before.number) * before.slots - before.windows[-1].stop + day.begins
            away = before is None or not before.windows
            found.append(tuple(0.0 if away else box.limit * exp(-gap / box.tau) for box in self.boxes))
            before = day
        return tuple(found)

    @cached_property
    def sounding(self) -> tuple[tuple[tuple[int, int], ...], ...]:
        """sounding[job]: where in it, in slots from its beginning, the amp is played."""
        found = []
        for job in self.jobs:
            at, spans = 0, []
            for each in job.stretches:
                if each.sounds:
                    spans.append((at, at + each.slots))
                at += each.slots
            found.append(tuple(spans))
        return tuple(found)


def beginnings(allowed: Slots, slots: int) -> Slots:
    """Slots from which so many in a row are allowed."""
    found, have = allowed, 1
    while have < slots and found:
        step = min(have, slots - have)
        found &= found >> step
        have += step
    return found


def span_slots(start: int, stop: int) -> Slots:
    """The slots from one to before another."""
    return ((1 << max(0, stop - start)) - 1) << start


def next_in(slots: Slots, at: int) -> int:
    """The first of these slots that is not before another; −1 for none."""
    later = slots >> at
    return at + ((later & -later).bit_length() - 1) if later else -1
