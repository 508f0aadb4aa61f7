"""Plans checked and made the long way, slot by slot, with nothing of the program but the problem itself."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise
from math import exp

from low_tide.core.planning.problem import Problem

Lies = tuple[int, int, int, int]
"""(job, day, slot it begins in, slots of change-over before it)."""


def _inside(problem: Problem, day: int, start: int, stop: int) -> bool:
    windows = [list(range(w.start, w.stop)) for w in problem.days[day].windows]
    return any(all(slot in window for slot in range(start, stop)) for window in windows)


def broken(problem: Problem, lies: list[Lies]) -> Iterator[str]:
    """Everything that a plan breaks, in words."""
    jobs = problem.jobs
    by_time = sorted(lies, key=lambda each: (each[1], each[2]))
    length = {i: sum(s.slots for s in job.stretches) for i, job in enumerate(jobs)}
    if len({job for job, *_ in lies}) != len(lies):
        yield "a job twice"
    for (a, d, s, _), (b, e, t, change) in pairwise(by_time):
        if d == e and s + length[a] + change > t:
            yield f"{b} begins before {a} and the change to it are over"
    for job, day, start, change in by_time:
        span = range(start, start + length[job])
        for rule in jobs[job].rules:
            if any(not rule.allows[day] >> slot & 1 for slot in span):
                yield f"{job} against {rule.key}"
        if not _inside(problem, day, start - change, start + 1):
            yield f"the change before {job} is in no window"
        if jobs[job].pin is not None and (jobs[job].pin.day, jobs[job].pin.slot) != (day, start):
            yield f"{job} is not where it is pinned"
        if jobs[job].never:
            yield f"{job} can be laid nowhere"
    at = {job: (day, start) for job, day, start, _ in lies}
    for job, day, start, _ in lies:
        for first in jobs[job].after:
            if first not in at:
                yield f"{job} without {first}"
            elif (at[first][0], at[first][1] + length[first]) > (day, start):
                yield f"{job} before {first}"
    yield from _changes(problem, by_time)
    yield from _ears(problem, by_time)
    yield from _heat(problem, by_time)


def _changes(problem: Problem, by_time: list[Lies]) -> Iterator[str]:
    now, before = problem.standing, -1
    visits: dict[tuple[int, int], int] = {}
    for job, day, _, change in by_time:
        setup = problem.jobs[job].setup
        if setup < 0:
            if change:
                yield f"a change before {job}, which is on no set-up"
            continue
        anew, new_day = setup != now, day != before
        way = problem.ways[now + 1][setup]
        wanted = (way.cold if new_day else way.slots) if anew or new_day else 0
        if change < wanted:
            yield f"{job} has {change} slots of change-over before it, {wanted} are wanted"
        if anew or new_day:
            visits[day, setup] = visits.get((day, setup), 0) + 1
            if visits[day, setup] > 2:
                yield f"{setup} is set up more than twice on {day}"
        now, before = setup, day


def _ears(problem: Problem, by_time: list[Lies]) -> Iterator[str]:
    for listener, budget in enumerate(problem.budget):
        for day, here in enumerate(problem.days):
            used = 0
            for job, other, *_ in by_time:
                if 0 <= here.number - problem.days[other].number < problem.span:
                    used += problem.jobs[job].dose[listener]
            if used > max(0, budget[day]):
                yield f"the ears of {listener} on {day}: {used} of {budget[day]}"


def _heat(problem: Problem, by_time: list[Lies]) -> Iterator[str]:
    for number, box in enumerate(problem.boxes):
        rise, last = 0.0, None
        for job, day, start, _ in by_time:
            clock = (problem.days[day].number - problem.days[0].number) * 288 + start
            for stretch in problem.jobs[job].stretches:
                settles = 0.0
                if problem.jobs[job].setup >= 0 and stretch.doing in ("find", "play"):
                    settles = dict(problem.setups[problem.jobs[job].setup].heats).get(number, 0.0)
                if last is not None and clock > last:
                    rise *= exp(-(clock - last) / box.tau)
                for _slot in range(stretch.slots):
                    rise = settles + (rise - settles) * exp(-1 / box.tau)
                    if settles and rise > box.limit + 1e-6:
                        yield f"{box.name} at {rise:.1f} K in {job}"
                clock += stretch.slots
                last = clock


def worth(problem: Problem, lies: list[Lies]) -> tuple[int, ...]:
    """What a plan is worth; less is better, the first that differs deciding."""
    by_time = sorted(lies, key=lambda each: (each[1], each[2]))
    jobs = problem.jobs
    length = {i: sum(s.slots for s in job.stretches) for i, job in enumerate(jobs)}
    plugs, now, doubles = 0, problem.standing, 0
    before: Lies | None = None
    for each in by_time:
        job, day = jobs[each[0]], each[1]
        if job.setup >= 0 and job.setup != now:
            plugs += problem.ways[now + 1][job.setup].plugs
            now = job.setup
        if job.main is not None and before is not None and before[1] == day:
            near = before[0] == job.main or jobs[before[0]].main == job.main
            doubles += near and jobs[before[0]].setup == job.setup
        before = each
    loud = ends = starts = 0
    offset = 0
    for day, here in enumerate(problem.days):
        mine = [each for each in by_time if each[1] == day]
        begins = here.windows[0].start if here.windows else 0
        ends += max((each[2] + length[each[0]] - begins for each in mine), default=0)
        loud += max((each[2] + length[each[0]] - begins for each in mine if jobs[each[0]].loud), default=0)
        starts += sum(offset + each[2] for each in mine)
        offset += here.slots
    return -sum(jobs[each[0]].must for each in lies), -len(lies), -doubles, plugs, loud, ends, starts


def _fits(problem: Problem, lies: list[Lies], job: int, day: int, change: int) -> Lies | None:
    """A job after everything that lies there, as early as nothing is broken by it; slot by slot."""
    mine = [each for each in lies if each[1] == day]
    free = max((e[2] + sum(s.slots for s in problem.jobs[e[0]].stretches) for e in mine), default=0)
    for start in range(free + change, problem.days[day].slots):
        slots = sum(s.slots for s in problem.jobs[job].stretches)
        if all(
            not any(not r.allows[day] >> s & 1 for s in range(start, start + slots)) for r in problem.jobs[job].rules
        ):
            tried = [*lies, (job, day, start, change)]
            if not any(broken(problem, tried)):
                return job, day, start, change
    return None


def best(problem: Problem) -> tuple[tuple[int, ...], list[Lies]]:
    """The best plan of all there are, by trying every order. For a handful of jobs."""
    found: list[tuple[tuple[int, ...], list[Lies]]] = [(worth(problem, []), [])]

    def go(lies: list[Lies], day: int, now: int) -> None:
        value = worth(problem, lies)
        if value < found[0][0]:
            found[0] = value, lies
        there = {job for job, *_ in lies}
        for job in range(len(problem.jobs)):
            if job in there or problem.jobs[job].never or any(f not in there for f in problem.jobs[job].after):
                continue
            setup = problem.jobs[job].setup
            on = any(problem.jobs[j].setup >= 0 for j, d, *_ in lies if d == day)
            change = 0
            if setup >= 0 and (setup != now or not on):
                way = problem.ways[now + 1][setup]
                change = way.slots if on else way.cold
            placed = _fits(problem, lies, job, day, change)
            if placed is not None:
                go([*lies, placed], day, setup if setup >= 0 else now)
        if day + 1 < len(problem.days):
            go(lies, day + 1, now)

    go([], 0, problem.standing)
    return found[0]


def goes(problem: Problem, wanted: set[int]) -> bool:
    """Whether some jobs go in together, by trying every order."""

    def go(lies: list[Lies], day: int, now: int) -> bool:
        there = {job for job, *_ in lies}
        if there == wanted:
            return True
        for job in wanted - there:
            if any(first not in there for first in problem.jobs[job].after):
                continue
            setup = problem.jobs[job].setup
            on = any(problem.jobs[j].setup >= 0 for j, d, *_ in lies if d == day)
            change = 0
            if setup >= 0 and (setup != now or not on):
                way = problem.ways[now + 1][setup]
                change = way.slots if on else way.cold
            placed = _fits(problem, lies, job, day, change)
            if placed is not None and go([*lies, placed], day, setup if setup >= 0 else now):
                return True
        return day + 1 < len(problem.days) and go(lies, day + 1, now)

    return go([], 0, problem.standing)


def with_changes(problem: Problem, lies: list[tuple[int, int, int]]) -> list[Lies]:
    """(job, day, start) of a plan with the change-over that is wanted before each."""
    found: list[Lies] = []
    now, before = problem.standing, -1
    for job, day, start in sorted(lies, key=lambda each: each[1:]):
        setup, change = problem.jobs[job].setup, 0
        if setup >= 0 and (setup != now or day != before):
            way = problem.ways[now + 1][setup]
            change = way.cold if day != before else way.slots
            now, before = setup, day
        found.append((job, day, start, change))
    return found
