"""Plans to be made, drawn from a seed: days with gaps, quiet hours, people who come and go, hot boxes, tired ears."""

from __future__ import annotations

from dataclasses import replace
from random import Random
from typing import Any, cast

from low_tide.core.planning.facts import CalendarDay, Facts, JobFacts, Through
from low_tide.core.planning.heat import with_rests
from low_tide.core.planning.problem import (
    ALLOWANCE,
    NO_SETUP,
    Box,
    Job,
    JobStretch,
    Pinned,
    PlanDay,
    Problem,
    Ruled,
    Setup,
    Way,
    Window,
    span_slots,
)
from low_tide.core.planning.project import Part, Project, Song
from low_tide.core.rig.rig import Rig

NO_RIG = cast(Rig, None)
QUIET_FROM = (21 - 4) * 12
LOUD_FROM = (7 - 4) * 12


def _days(lots: Random, count: int) -> tuple[PlanDay, ...]:
    found, number = [], 738_000
    for _ in range(count):
        start = lots.randrange(36, 100)
        stop = lots.randrange(start + 24, min(start + 170, 286))
        windows = [Window(start, stop)]
        if stop - start > 60 and lots.random() < 0.5:
            middle = lots.randrange(start + 24, stop - 24)
            windows = [Window(start, middle), Window(middle + lots.randrange(6, 13), stop)]
        found.append(PlanDay(number, 288, tuple(windows)))
        number += 1 if lots.random() < 0.8 else 3
    return tuple(found)


def _setups(lots: Random, count: int) -> tuple[tuple[Setup, ...], tuple[Box, ...], tuple[tuple[Way, ...], ...]]:
    boxes = (Box("box", 4.0, 50.0), Box("pit", 6.0, 40.0))
    setups = []
    for i in range(count):
        heats = () if lots.random() < 0.5 else ((lots.randrange(2), lots.choice((30.0, 60.0, 90.0))),)
        setups.append(Setup(f"setup {i}", heats))
    ways = []
    for before in range(-1, count):
        row = []
        for after in range(count):
            off = lots.random() < 0.7
            plugs = lots.randrange(1, 9)
            row.append(
                Way(0, 0, 1)
                if before == after
                else Way(plugs, lots.randrange(1, 4) if off else 0, lots.randrange(1, 4))
            )
        ways.append(tuple(row))
    return tuple(setups), boxes, tuple(ways)


def _job(lots: Random, index: int, setups: tuple[Setup, ...], boxes: tuple[Box, ...], rules: dict[str, Ruled]) -> Job:
    setup = lots.randrange(len(setups)) if lots.random() < 0.92 else NO_SETUP
    loud = setup != NO_SETUP and lots.random() < 0.5
    doing = (("find", lots.randrange(1, 5)),) if lots.random() < 0.4 and setup != NO_SETUP else ()
    doing = (*doing, ("play" if setup != NO_SETUP else "choose", lots.randrange(2, 10)))
    stretches: tuple[JobStretch, ...] | str = tuple(JobStretch(what, slots) for what, slots in doing)
    never = ""
    if setup != NO_SETUP:
        stretches = with_rests(doing, tuple((boxes[b], rise) for b, rise in setups[setup].heats))
        if isinstance(stretches, str):
            stretches, never = tuple(JobStretch(what, slots) for what, slots in doing), "too hot"
    mine = [rules["window"]]
    if loud:
        mine.append(rules["limit:harbour"])
    if lots.random() < 0.2:
        mine.append(rules["person:drummer"])
    slots = sum(each.slots for each in stretches)
    share = lots.choice((0, 0, 200, 900, 2_500)) * slots
    return Job(
        f"job {index}",
        setup,
        stretches,
        tuple(mine),
        (share, share // 3),
        loud,
        lots.random() < 0.3,
        never=never,
    )


def problem(seed: int, jobs: int, days: int, setups: int, tight: float = 1.0) -> Problem:
    """A plan to be made. `tight`: about the part of the time there is that its jobs take."""
    lots = Random(seed)
    made_days = _days(lots, days)
    made_setups, boxes, ways = _setups(lots, setups)
    window = Ruled("window", tuple(_windows(day) for day in made_days))
    loud = Ruled("limit:harbour", tuple(span_slots(LOUD_FROM, QUIET_FROM) for _ in made_days))
    here = lots.randrange(days)
    drums = Ruled("person:drummer", tuple(span_slots(72, 110) if d == here else 0 for d in range(days)))
    rules = {rule.key: rule for rule in (window, loud, drums)}
    made = [_job(lots, i, made_setups, boxes, rules) for i in range(jobs)]
    for i in range(1, jobs):
        if lots.random() < 0.3:
            first = lots.randrange(i)
            double = lots.random() < 0.6 and made[first].main is None and made[first].setup != NO_SETUP
            made[i] = _with(made[i], after=(first,), main=first if double else None)
            if double and lots.random() < 0.8:
                made[i] = _with(
                    made[i], setup=made[first].setup, stretches=made[first].stretches, never=made[first].never
                )
    if lots.random() < 0.2:
        which = lots.randrange(jobs)
        day = lots.randrange(days)
        made[which] = _with(made[which], pin=Pinned(day, made_days[day].begins + lots.randrange(0, 30)))
    budget = tuple(tuple(lots.choice((ALLOWANCE, 60_000, 20_000)) for _ in made_days) for _ in range(2))
    wanted = sum(sum(s.slots for s in job.stretches) for job in made)
    have = sum(w.stop - w.start for day in made_days for w in day.windows)
    if wanted < tight * have:  # shorter days, so that not all of it goes
        part = max(0.15, wanted / (tight * have))
        made_days = tuple(
            PlanDay(
                d.number,
                288,
                tuple(Window(w.start, max(w.start + 3, w.start + round((w.stop - w.start) * part))) for w in d.windows),
            )
            for d in made_days
        )
        window = Ruled("window", tuple(_windows(day) for day in made_days))
        made = [_with(job, rules=(window, *job.rules[1:])) for job in made]
    standing = lots.choice((NO_SETUP, 0))
    span = lots.choice((1, 1, 7))
    return Problem(made_days, tuple(made), made_setups, ways, boxes, standing, ("you", "drummer"), budget, span)


def _windows(day: PlanDay) -> int:
    found = 0
    for window in day.windows:
        found |= span_slots(window.start, window.stop)
    return found


def _with(job: Job, **changes: Any) -> Job:
    return replace(job, **changes)


def as_facts(made: Problem) -> tuple[Facts, Project]:
    """The problem with names for its jobs: a project of one song."""
    parts = tuple(Part(f"p{i}", f"part {i}") for i in range(len(made.jobs)))
    clock = tuple((240 + 5 * slot) % 1440 for slot in range(288))
    calendar = tuple(CalendarDay(f"2026-03-{n + 1:02d}", day.number, clock) for n, day in enumerate(made.days))
    jobs = tuple(JobFacts(part.id, False, None, None, {}) for part in parts)
    setups = tuple(Through(setup.id, setup.id, NO_RIG, NO_RIG) for setup in made.setups)
    return Facts(made, jobs, setups, calendar, (0.0,) * len(calendar)), Project(
        "Generated", songs=(Song("song", "Song", parts),)
    )
