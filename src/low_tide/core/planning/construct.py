"""A first plan at once: the hardest to place first, each where it costs least."""

from __future__ import annotations

from low_tide.core.planning.decode import Days, Decoder, worth_of
from low_tide.core.planning.problem import Problem

MANY = 100
"""Of more jobs than this not every place is tried for each."""


def hardest_first(problem: Problem) -> list[int]:
    """Jobs in the order they are placed in: pinned ones and musts before others, those with the fewest beginnings
    first, set-ups together, and nothing before what it comes after."""
    room = [sum(slots.bit_count() for slots in starts) for starts in problem.starts]
    of_setup: dict[int, int] = {}
    for index, job in enumerate(problem.jobs):
        of_setup[job.setup] = min(of_setup.get(job.setup, 1 << 30), room[index])
    key = {
        i: (job.pin is None, not job.must, of_setup[job.setup], job.setup, job.main is not None, room[i], i)
        for i, job in enumerate(problem.jobs)
    }
    found: list[int] = []
    left = sorted(key, key=lambda i: key[i])
    wanted = {before for job in problem.jobs if job.pin or job.must for before in job.after}
    left.sort(key=lambda i: (not (problem.jobs[i].pin or problem.jobs[i].must or i in wanted), key[i]))
    while left:
        ready = next((i for i in left if all(b in found for b in problem.jobs[i].after)), None)
        if ready is None:  # a circle: nothing of it can be placed
            break
        found.append(ready)
        left.remove(ready)
    return found


def constructed(decoder: Decoder) -> Days:
    """Days with as much in them as goes in one pass, each job where it costs least, and a second pass over what was
    left out. ValueError where there are no days."""
    problem = decoder.problem
    days = decoder.days(tuple(() for _ in problem.days))
    if days is None:
        raise ValueError("there are no days to lay anything out on")
    many = len(problem.jobs) > MANY
    for again in (False, True):
        there = {job for day in days for job in day.order}
        for job in hardest_first(problem):
            if job not in there and not (many and again and not problem.jobs[job].must):
                days = put_in(decoder, days, job, few=many and not again) or days
    return days


def put_in(decoder: Decoder, days: Days, job: int, few: bool = False) -> Days | None:
    """The days with one more job where it costs least; None where it fits nowhere. `few`: only beside what is on the
    same set-up, and at both ends of a day."""
    best: Days | None = None
    for day, place in decoder.places(days, job):
        if few and not _likely(decoder.problem, days[day].order, job, place):
            continue
        made = decoder.with_job(days, job, day, place)
        if made is not None and (best is None or worth_of(made).key < worth_of(best).key):
            best = made
    return best


def _likely(problem: Problem, order: tuple[int, ...], job: int, place: int) -> bool:
    beside = order[max(0, place - 1) : place + 1]
    return place in (0, len(order)) or any(problem.jobs[b].setup == problem.jobs[job].setup for b in beside)
