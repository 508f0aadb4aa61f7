"""What would make room for a part that does not fit: one thing changed at a time, and where it would lie then."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from low_tide.core.planning.changes import DropParts, ProjectChange, SetDay, SetPart, SetPerson, changed
from low_tide.core.planning.construct import put_in
from low_tide.core.planning.dates import in_words
from low_tide.core.planning.decode import Days, Decoder
from low_tide.core.planning.facts import Facts, Through, clock_at
from low_tide.core.planning.problem import DAY_BEGINS_MIN
from low_tide.core.planning.progress import first_to_go
from low_tide.core.planning.project import Block, Hours, PlanError, Project
from low_tide.core.planning.sound_project import span_of
from low_tide.core.venue.time_of_day import DAY_MINUTES

LONGER_MIN = (30, 60, 90, 120)
MOST_HOOKUPS = 2


@dataclass(frozen=True)
class Freed:
    """One thing that would make room: what is changed, in words, and where the part would lie then. `blocks`: the plan
    with it in; everything else stays where it is, as far as nothing pushes it later."""

    words: str
    changes: tuple[ProjectChange, ...]
    date: str
    at: str
    blocks: tuple[Block, ...]


@dataclass(frozen=True)
class Asking:
    """A part that is left out, and how a project becomes a problem."""

    project: Project
    part: str
    choosing: bool
    facts_of: Callable[[Project], Facts]


def _days_as_laid(facts: Facts, decoder: Decoder, blocks: Sequence[Block]) -> Days | None:
    """The plan that lies there as days of a problem, laid out anew in the same order."""
    by_date = {day.date: number for number, day in enumerate(facts.calendar)}
    order: list[list[tuple[int, int]]] = [[] for _ in facts.calendar]
    for block in blocks:
        job = facts.index(block.part, block.choosing)
        if job is not None and block.date in by_date:
            order[by_date[block.date]].append((block.start, job))
    return decoder.days(tuple(tuple(job for _, job in sorted(day)) for day in order))


def _tried(asking: Asking, changes: Sequence[ProjectChange], words: str) -> Freed | None:
    """What comes of a change: None where there is no room after it either."""
    try:
        after = changed(asking.project, changes)
    except PlanError:
        return None
    facts = asking.facts_of(after)
    job = facts.index(asking.part, asking.choosing)
    decoder = Decoder(facts.problem)
    days = _days_as_laid(facts, decoder, after.laid.blocks)
    made = put_in(decoder, days, job) if days is not None and job is not None else None
    if made is None:
        return None
    lies = [each for day in made for each in day.placed]
    here = next(each for each in lies if each.job == job)
    day = facts.calendar[here.day]
    blocks = tuple(facts.block(each) for each in lies)
    return Freed(words, tuple(changes), day.date, clock_at(day, here.start), blocks)


def freed(asking: Asking, ways: Sequence[Through]) -> tuple[Freed, ...]:
    """Everything of a few kinds that would make room: another hook-up, a longer day, somebody there for longer, a part
    left out, an order not kept. `ways`: hook-ups it could go through, those that are likeliest first."""
    return (*_hookups(asking, ways), *_longer(asking), *_people(asking), *_without(asking), *_orders(asking))


def _hookups(asking: Asking, ways: Sequence[Through]) -> Iterator[Freed]:
    if asking.choosing:
        return
    _, part = asking.project.part(asking.part)
    found = 0
    for way in ways:
        if way.hookup == part.hookup:
            continue
        made = _tried(asking, [SetPart(replace(part, hookup=way.hookup, scene="", wish=None))], f"Through {way.name}")
        if made is not None:
            yield made
            found += 1
        if found == MOST_HOOKUPS:
            return


def _later(hours: Hours, minutes: int) -> Hours | None:
    _, end = span_of(hours, "Window")
    until = end + minutes
    if until > DAY_MINUTES + DAY_BEGINS_MIN:
        return None
    return Hours(hours.start, f"{until // 60 % 24:02d}:{until % 60:02d}")


def _longer(asking: Asking) -> Iterator[Freed]:
    """The least that a day would have to go on for."""
    for minutes in LONGER_MIN:
        for day in (each for each in asking.project.days if each.windows):
            last = max(day.windows, key=lambda hours: span_of(hours, "Window"))
            until = _later(last, minutes)
            if until is None:
                continue
            windows = tuple(until if each == last else each for each in day.windows)
            made = _tried(asking, [SetDay(replace(day, windows=windows))], f"{in_words(day.date)} until {until.end}")
            if made is not None:
                yield made
                return


def _people(asking: Asking) -> Iterator[Freed]:
    _, part = asking.project.part(asking.part)
    for person in (each for each in asking.project.people if each.id in part.people and each.here):
        for minutes in LONGER_MIN:
            for here in person.here:
                until = _later(here.hours, minutes)
                if until is None:
                    continue
                stays = tuple(replace(h, hours=until) if h == here else h for h in person.here)
                words = f"{person.name} stays until {until.end} on {in_words(here.date)}"
                made = _tried(asking, [SetPerson(replace(person, here=stays))], words)
                if made is not None:
                    yield made
                    return


def _without(asking: Asking) -> Iterator[Freed]:
    """The part that is missed least of those whose place would do."""
    laid = {block.part for block in asking.project.laid.blocks}
    _, mine = asking.project.part(asking.part)
    for each in first_to_go(asking.project):
        if each in laid and each not in (asking.part, mine.double_of, *mine.after):
            made = _tried(asking, [DropParts((each,))], f"Leave out {asking.project.called(each)}")
            if made is not None:
                yield made
                return


def _orders(asking: Asking) -> Iterator[Freed]:
    _, part = asking.project.part(asking.part)
    if asking.choosing:
        return
    for first in part.after:
        loose = replace(part, after=tuple(each for each in part.after if each != first))
        made = _tried(asking, [SetPart(loose)], f"It need not come after {asking.project.called(first)}")
        if made is not None:
            yield made
            return
