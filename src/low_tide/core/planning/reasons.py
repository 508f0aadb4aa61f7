"""Why a block lies where it does: each sentence is something that would be broken, or cost more, elsewhere."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from low_tide.core.planning.decode import Placed
from low_tide.core.planning.facts import WINDOW, Facts, clock_at
from low_tide.core.planning.kept import broken, used_by_day
from low_tide.core.planning.problem import ALLOWANCE, NO_SETUP
from low_tide.core.planning.project import Project


def reasons(facts: Facts, project: Project, lies: Sequence[Placed], job: int) -> tuple[str, ...]:
    """What holds a job where it lies, the firmest first."""
    by_time = sorted(lies, key=lambda each: (each.day, each.start))
    here = next(each for each in by_time if each.job == job)
    found = [
        *_pinned(facts, here),
        *_order(facts, project, here),
        *_hours(facts, here),
        *_set_up(facts, project, by_time, here),
        *_earlier(facts, project, by_time, here),
        *_ears(facts, by_time, here),
    ]
    return tuple(dict.fromkeys(found))


def _pinned(facts: Facts, here: Placed) -> Iterator[str]:
    if facts.problem.jobs[here.job].pin is not None:
        yield "Pinned here by hand: the rest is laid around it."


def _order(facts: Facts, project: Project, here: Placed) -> Iterator[str]:
    for first in facts.problem.jobs[here.job].after:
        known = facts.jobs[first]
        chooses = ", whose sound it chooses" if facts.jobs[here.job].choosing else ""
        yield f"After {project.called(known.part)}{chooses}."


def _hours(facts: Facts, here: Placed) -> Iterator[str]:
    """The rules that leave it some hours of its day and not others."""
    job, known, day = facts.problem.jobs[here.job], facts.jobs[here.job], facts.calendar[here.day]
    opened = facts.problem.jobs[here.job].rules[0].allows[here.day]
    for rule in job.rules:
        if rule.key == WINDOW or not opened & ~rule.allows[here.day]:
            continue
        later = (opened & ~rule.allows[here.day]) >> here.start
        until = ""
        if later:
            slot = here.start + (later & -later).bit_length() - 1
            until = f", so before {clock_at(day, slot)}"
        yield f"{known.rules.get(rule.key, rule.key)}{until}."


def _set_up(facts: Facts, project: Project, by_time: Sequence[Placed], here: Placed) -> Iterator[str]:
    problem, job = facts.problem, facts.problem.jobs[here.job]
    if job.setup == NO_SETUP:
        return
    before = [e for e in by_time if (e.day, e.start) < (here.day, here.start) and problem.jobs[e.job].setup != NO_SETUP]
    now = problem.jobs[before[-1].job].setup if before else problem.standing
    name = facts.setups[job.setup].name
    if now == job.setup and before and before[-1].day == here.day:
        yield f"Same hook-up as {project.called(facts.jobs[before[-1].job].part)} before it: no lead moves."
    elif now == job.setup:
        yield f"{name} is standing from before: no lead moves."
    else:
        plugs = problem.way(now, job.setup).plugs
        shared = sum(problem.jobs[e.job].setup == job.setup for e in by_time) - 1
        together = f", once for {shared + 1} blocks" if shared else ""
        yield f"Set up for it: {plugs} plug{'s' if plugs != 1 else ''} moved{together}."


def _earlier(facts: Facts, project: Project, by_time: Sequence[Placed], here: Placed) -> Iterator[str]:
    """What would be broken a slot sooner, where that is not said yet."""
    problem = facts.problem
    if problem.jobs[here.job].pin is not None:
        return
    if here.start - here.change <= problem.days[here.day].begins:
        yield "First thing: nobody is there before."
        return
    sooner = [Placed(e.job, e.day, e.start - 1, e.change) if e.job == here.job else e for e in by_time]
    said = {each.words for each in broken(facts, project, by_time)}
    for each in broken(facts, project, sooner):
        if each.words in said or each.key == "order":
            continue
        if each.key == "heat":
            yield (
                f"Not sooner: {each.words[0].lower()}{each.words[1:]}"
                if each.words[0].islower()
                else f"Not sooner: {each.words}"
            )
        elif each.key == WINDOW:
            yield "Nobody is there right before."
        elif each.key in ("overlap", "change"):
            behind = [e for e in by_time if (e.day, e.start) < (here.day, here.start)]
            if behind:
                yield f"Right after {project.called(facts.jobs[behind[-1].job].part)}, as early as it goes."
        return


def _ears(facts: Facts, by_time: Sequence[Placed], here: Placed) -> Iterator[str]:
    """Days before it on which somebody's ears had no room for it."""
    problem, job = facts.problem, facts.problem.jobs[here.job]
    for listener, name in enumerate(problem.listeners):
        if not job.dose[listener]:
            continue
        used = used_by_day(problem, by_time, listener)
        full = [
            facts.calendar[day].date
            for day in range(here.day)
            if used[day] + job.dose[listener] > problem.budget[listener][day]
        ]
        if full:
            share = round(100 * (used[here.day - 1] + job.dose[listener]) / ALLOWANCE)
            yield f"On {full[-1]} the ears of {name} would come to {share} % of their allowance."
