"""From the order things are done in to the times they are done at: each as early as everything allows.

For a given order on each day, no job can begin earlier than here, and beginning earlier never makes a later one worse:
every rule is about a job alone, about those before it, or about a day as a whole. So the best plan is the best order.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from math import ceil, exp

from low_tide.core.planning.heat import peaks, wait_for
from low_tide.core.planning.problem import MOST_VISITS, NO_SETUP, Problem, next_in

Order = tuple[tuple[int, ...], ...]
"""Jobs by day, in the order they are done in."""


@dataclass(frozen=True)
class Placed:
    """A job where it lies: day, the slot it begins in, and slots of change-over right before it."""

    job: int
    day: int
    start: int
    change: int = 0


@dataclass(frozen=True)
class Worth:
    """What a plan is worth, the first that differs deciding: musts in it, jobs in it, doubles right after their main
    part; plugs moved, how late loud work ends on its days, how late the days end, and all beginnings together."""

    musts: int
    jobs: int
    doubles: int
    plugs: int
    loud: int
    ends: int
    starts: int

    @property
    def key(self) -> tuple[int, ...]:
        """Less is better."""
        return (-self.musts, -self.jobs, -self.doubles, self.plugs, self.loud, self.ends, self.starts)


@dataclass(frozen=True)
class DayPlan:
    """A day laid out: its jobs in order and where they lie, what of a plan's worth comes from it (as in `Worth`), the
    shares of every listener's allowance it takes, and what stands when it is over."""

    order: tuple[int, ...]
    placed: tuple[Placed, ...]
    standing: int
    worth: tuple[int, ...]
    dose: tuple[int, ...]

    @cached_property
    def cost(self) -> float:
        """What of it a search weighs, in plugs moved: as the goals have it, but not so steep that nothing is tried."""
        return sum(weight * value for weight, value in zip(WEIGHTS, self.worth, strict=True))


WEIGHTS = (-600.0, -60.0, -12.0, 1.0, 0.03, 0.03, 0.0005)
Days = tuple[DayPlan, ...]


def order_of(days: Days) -> Order:
    """The order of days that are laid out."""
    return tuple(day.order for day in days)


def worth_of(days: Days) -> Worth:
    """What days that are laid out are worth together."""
    return Worth(*map(sum, zip(*(day.worth for day in days), strict=True)))


class Decoder:
    """Lays orders out. Days are kept: most of an order stays as it is from one try to the next."""

    def __init__(self, problem: Problem) -> None:
        self.problem, jobs = problem, problem.jobs
        self.family = tuple(job.main if job.main is not None else i for i, job in enumerate(jobs))
        self._slots = [job.slots for job in jobs]
        self._setups = [job.setup for job in jobs]
        self._mains = [job.main for job in jobs]
        self._loud = [job.loud for job in jobs]
        self._musts = [job.must for job in jobs]
        self._doses = [[job.dose[listener] for job in jobs] for listener in range(len(problem.budget))]
        self._heats = [
            tuple(
                (box, problem.boxes[box].tau, problem.boxes[box].limit, hot)
                for box, settles in (problem.setups[job.setup].heats if job.setup != NO_SETUP else ())
                if (hot := peaks(problem, job, i, box, settles))
            )
            for i, job in enumerate(jobs)
        ]
        self._in_order = tuple((first, i) for i, job in enumerate(problem.jobs) for first in job.after)
        self._room = [sum(w.stop - w.start for w in day.windows) for day in problem.days]
        self._offsets = [0]
        for day in problem.days:
            self._offsets.append(self._offsets[-1] + day.slots)
        self._days: dict[tuple[int, int, tuple[int, ...]], DayPlan | None] = {}

    def day(self, day: int, standing: int, order: tuple[int, ...]) -> DayPlan | None:
        """One day, from what stands on it; None where something of it does not fit."""
        key = day, standing, order
        if key not in self._days:
            self._days[key] = self._day(day, standing, order)
        return self._days[key]

    def _day(self, day: int, standing: int, order: tuple[int, ...]) -> DayPlan | None:
        slots, setups, ways = self._slots, self._setups, self.problem.ways
        if sum(slots[index] for index in order) > self._room[day]:
            return None
        offset, begins = self._offsets[day], self.problem.days[day].begins
        rises = list(self.problem.left_over[day])
        since = [begins] * len(rises)
        visits: dict[int, int] = {}
        free, now, on, before = begins, standing, False, -1
        placed: list[Placed] = []
        doubles = plugs = loud = starts = 0
        for index in order:
            setup, change = setups[index], 0
            if setup != NO_SETUP and (setup != now or not on):
                way = ways[now + 1][setup]
                change = way.slots if on else way.cold
                plugs += way.plugs
                visits[setup] = visits.get(setup, 0) + 1
                if visits[setup] > MOST_VISITS:
                    return None
            start = self._start(index, day, free, change, rises, since)
            if start < 0:
                return None
            placed.append(Placed(index, day, start, change))
            end = start + slots[index]
            for box, tau, _, hot in self._heats[index]:
                last, peak = hot[-1]
                rises[box] = rises[box] * exp((since[box] - end) / tau) + peak * exp((last - slots[index]) / tau)
                since[box] = end
            main = self._mains[index]
            if main is not None and before >= 0 and self.family[before] == main and setups[before] == setup:
                doubles += 1
            if setup != NO_SETUP:
                now, on = setup, True
            if self._loud[index]:
                loud = end - begins
            starts += offset + start
            free, before = end, index
        musts = sum(self._musts[index] for index in order)
        worth = (musts, len(order), doubles, plugs, loud, free - begins if order else 0, starts)
        return DayPlan(order, tuple(placed), now, worth, tuple(sum(dose[i] for i in order) for dose in self._doses))

    def _start(self, index: int, day: int, free: int, change: int, rises: list[float], since: list[int]) -> int:
        """The first slot a job may begin in, from where everything before it is over; −1 for none."""
        starts, at, opens_at = self.problem.starts[index][day], free + change, self.problem.window_of[day]
        heats = self._heats[index]
        while True:
            at = next_in(starts, at)
            if at < 0:
                return -1
            opens = opens_at[at]
            if at - change < opens:
                at = opens + change
                continue
            wait = 0.0
            for box, tau, limit, hot in heats:
                if rises[box]:
                    wait = max(wait, wait_for(rises[box] * exp((since[box] - at) / tau), tau, limit, hot))
            if wait <= 1e-9:
                return at
            if wait > self.problem.days[day].slots:
                return -1
            at += max(1, ceil(wait - 1e-9))

    def keeps_order(self, order: Order) -> bool:
        """Whether everything comes after what it has to, and nothing is in it without that."""
        at = {job: number for number, job in enumerate(job for jobs in order for job in jobs)}
        return all(first in at and at[first] < at[second] for first, second in self._in_order if second in at)

    def keeps_doses(self, days: Sequence[DayPlan]) -> bool:
        """Whether no listener's allowance is used up on any day, or in the days a school counts together."""
        for listener, budget in enumerate(self.problem.budget):
            for day, within in enumerate(self.problem.together):
                counted = sum(days[d].dose[listener] for d in within)
                if counted and counted > budget[day]:
                    return False
        return True

    def days(self, order: Order) -> Days | None:
        """Every day of an order; None where something does not fit, or breaks an allowance."""
        found: list[DayPlan] = []
        for day, jobs in enumerate(order):
            plan = self.day(day, found[-1].standing if found else self.problem.standing, jobs)
            if plan is None:
                return None
            found.append(plan)
        return tuple(found) if self.keeps_doses(found) else None

    def changed(self, days: Days, day: int, jobs: tuple[int, ...]) -> Days | None:
        """The same days but for the jobs of one: those after it are laid out anew as far as it leaves something else
        standing."""
        found, standing = list(days), days[day - 1].standing if day else self.problem.standing
        for at in range(day, len(days)):
            plan = self.day(at, standing, jobs if at == day else days[at].order)
            if plan is None:
                return None
            found[at] = plan
            if plan.standing == days[at].standing:
                break
            standing = plan.standing
        return tuple(found) if self.keeps_doses(found) else None

    def worth(self, order: Order) -> Worth | None:
        """What an order is worth; None where it breaks something."""
        days = self.days(order) if self.keeps_order(order) else None
        return None if days is None else worth_of(days)

    def places(self, days: Days, job: int) -> Iterator[tuple[int, int]]:
        """Every day, and place on it, that a job may be put in: after all that it comes after. None where that is not
        there. What comes after the job itself is not there either."""
        first, behind = self.problem.jobs[job].after, (0, 0)
        for wanted in first:
            found = next(
                ((d, plan.order.index(wanted) + 1) for d, plan in enumerate(days) if wanted in plan.order), None
            )
            if found is None:
                return
            behind = max(behind, found)
        for day in range(behind[0], len(days)):
            if self.problem.starts[job][day]:
                for place in range(behind[1] if day == behind[0] else 0, len(days[day].order) + 1):
                    yield day, place

    def with_job(self, days: Days, job: int, day: int, place: int) -> Days | None:
        """The days with one more job, at a place of a day; None where it does not fit there."""
        jobs = days[day].order
        return self.changed(days, day, (*jobs[:place], job, *jobs[place:]))


def placed_by(problem: Problem, order: Sequence[Sequence[int]]) -> tuple[Placed, ...]:
    """Where every job of an order lies. ValueError where it does not fit."""
    days = Decoder(problem).days(tuple(tuple(each) for each in order))
    if days is None:
        raise ValueError("this order does not fit into its days")
    return tuple(each for day in days for each in day.placed)
