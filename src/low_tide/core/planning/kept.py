"""A plan as it lies, held against everything it is to keep: what was laid may have been moved, or what it rests on."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from low_tide.core.planning.decode import Placed
from low_tide.core.planning.facts import WINDOW, Facts, clock_at
from low_tide.core.planning.heat import after
from low_tide.core.planning.problem import ALLOWANCE, MOST_VISITS, NO_SETUP, Problem, span_slots
from low_tide.core.planning.project import Project
from low_tide.core.units import figure


@dataclass(frozen=True)
class Broken:
    """Something that a job breaks where it lies. `key`: of the rule."""

    job: int
    key: str
    words: str


def _named(facts: Facts, project: Project, job: int) -> str:
    known = facts.jobs[job]
    return f"{'choosing for ' if known.choosing else ''}{project.called(known.part)}"


def broken(facts: Facts, project: Project, lies: Sequence[Placed]) -> tuple[Broken, ...]:
    """Everything that jobs break where they lie; none where the plan holds."""
    by_time = sorted(lies, key=lambda each: (each.day, each.start))
    found = [*_rules(facts, by_time), *_in_line(facts, project, by_time), *_orders(facts, project, by_time)]
    return (*found, *_ears(facts, by_time), *_heat(facts, by_time))


def _rules(facts: Facts, lies: Sequence[Placed]) -> Iterator[Broken]:
    problem = facts.problem
    for each in lies:
        job, known, day = problem.jobs[each.job], facts.jobs[each.job], facts.calendar[each.day]
        if job.never:
            yield Broken(each.job, "never", job.never)
        mine = span_slots(each.start, each.start + job.slots)
        for rule in job.rules:
            against = mine & ~rule.allows[each.day]
            if not against:
                continue
            at = clock_at(day, (against & -against).bit_length() - 1)
            said = "Nobody is there" if rule.key == WINDOW else known.rules.get(rule.key, rule.key)
            yield Broken(each.job, rule.key, f"{said}: not so at {at}.")
        if job.pin is not None and (job.pin.day, job.pin.slot) != (each.day, each.start):
            yield Broken(each.job, "pin", "It is not where it is pinned.")


def _in_line(facts: Facts, project: Project, lies: Sequence[Placed]) -> Iterator[Broken]:
    """One after the other, with the change-over each needs."""
    problem = facts.problem
    for one, other in pairwise(lies):
        end = one.start + problem.jobs[one.job].slots
        if one.day == other.day and end > other.start:
            over = clock_at(facts.calendar[one.day], end)
            said = f"It begins before {_named(facts, project, one.job)} is over, at {over}."
            yield Broken(other.job, "overlap", said)
    now, day, visits, free = problem.standing, -1, dict[tuple[int, int], int](), 0
    for each in lies:
        job = problem.jobs[each.job]
        free = free if each.day == day else problem.days[each.day].begins
        on = any(v for (d, _), v in visits.items() if d == each.day)
        if job.setup != NO_SETUP and (job.setup != now or not on):
            way = problem.way(now, job.setup)
            wanted = way.slots if on else way.cold
            opens = problem.window_of[each.day][each.start]
            if opens < 0 or each.start - wanted < max(free, opens):
                minutes = f"{wanted * 5} min of change-over are wanted before it"
                yield Broken(each.job, "change", f"{minutes}, and there is no time for them.")
            visits[each.day, job.setup] = visits.get((each.day, job.setup), 0) + 1
            if visits[each.day, job.setup] > MOST_VISITS:
                yield Broken(each.job, "visits", f"{facts.setups[job.setup].name} is set up a third time that day.")
            now = job.setup
        day, free = each.day, each.start + job.slots


def _orders(facts: Facts, project: Project, lies: Sequence[Placed]) -> Iterator[Broken]:
    at = {each.job: (each.day, each.start) for each in lies}
    for each in lies:
        for first in facts.problem.jobs[each.job].after:
            name = _named(facts, project, first)
            if first not in at:
                yield Broken(each.job, "order", f"It comes after {name}, which is not laid.")
            elif (at[first][0], at[first][1] + facts.problem.jobs[first].slots) > (each.day, each.start):
                yield Broken(each.job, "order", f"It comes after {name}, which is not over before it.")


def used_by_day(problem: Problem, lies: Sequence[Placed], listener: int) -> tuple[int, ...]:
    """Shares of an allowance that a plan takes on each day, those of days that count with it among them."""
    own = [0] * len(problem.days)
    for each in lies:
        own[each.day] += problem.jobs[each.job].dose[listener]
    return tuple(sum(own[d] for d in within) for within in problem.together)


def _ears(facts: Facts, lies: Sequence[Placed]) -> Iterator[Broken]:
    problem = facts.problem
    for listener, name in enumerate(problem.listeners):
        for day, used in enumerate(used_by_day(problem, lies, listener)):
            budget = problem.budget[listener][day]
            last = [each for each in lies if each.day == day and problem.jobs[each.job].dose[listener]]
            if used > budget and last:
                part = figure(100 * used / ALLOWANCE, 2)
                left = figure(100 * budget / ALLOWANCE, 2)
                yield Broken(
                    last[-1].job, "ears", f"The ears of {name}: {part} % of their allowance, {left} % is left."
                )


def _heat(facts: Facts, lies: Sequence[Placed]) -> Iterator[Broken]:
    problem = facts.problem
    for number, box in enumerate(problem.boxes):
        rise, since = 0.0, None
        for each in lies:
            job = problem.jobs[each.job]
            heats = dict(problem.setups[job.setup].heats) if job.setup != NO_SETUP else {}
            if number not in heats:
                continue
            begins = (problem.days[each.day].number - problem.days[0].number) * 288 + each.start
            rise = 0.0 if since is None else after(rise, 0.0, begins - since, box.tau)
            hottest = rise
            for stretch in job.stretches:
                rise = after(rise, heats[number] if stretch.sounds else 0.0, stretch.slots, box.tau)
                hottest = max(hottest, rise)
            since = begins + job.slots
            if hottest > box.limit + 1e-6:
                over = figure(hottest - box.limit, 2)
                yield Broken(each.job, "heat", f"{box.name} would be {over} K over its limit: it needs a rest before.")
