"""What makes a project one that can be laid out: windows in order, no circles, nothing that is not there."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import replace
from itertools import pairwise

from low_tide.core.planning.dates import in_words
from low_tide.core.planning.problem import DAY_BEGINS_MIN
from low_tide.core.planning.project import MOST_PARTS, Day, Hours, PlanError, Project
from low_tide.core.venue.time_of_day import DAY_MINUTES, minute_of


def span_of(hours: Hours, field: str) -> tuple[int, int]:
    """Minutes after midnight of the day it belongs to, which lasts until 04:00 of the next. PlanError where it ends
    before it begins."""
    start, end = minute_of(hours.start, f"{field}, from"), minute_of(hours.end, f"{field}, until")
    if start < DAY_BEGINS_MIN:
        start += DAY_MINUTES
    if end <= DAY_BEGINS_MIN:
        end += DAY_MINUTES
    if end <= start:
        raise PlanError(
            [f"{field}: it ends at {hours.end}, before it begins at {hours.start}; a day lasts until 04:00."]
        )
    return start, end


def _windows(day: Day) -> Iterator[str]:
    spans = []
    for hours in day.windows:
        try:
            spans.append((*span_of(hours, f"{in_words(day.date)}, window"), hours))
        except PlanError as error:
            yield from error.problems
    for (_, end, one), (start, _, other) in pairwise(sorted(spans, key=lambda s: s[:2])):
        if start < end:
            yield (f"{in_words(day.date)}, windows: {one.start} to {one.end} and {other.start} to {other.end} overlap.")


def _spans(project: Project) -> Iterator[str]:
    for day in project.days:
        yield from _windows(day)
        yield from _tried([(spared.hours, f"{in_words(day.date)}, limit spared") for spared in day.spared])
    for person in project.people:
        yield from _tried([(here.hours, f"{person.name}, there on {in_words(here.date)}") for here in person.here])


def _tried(all_hours: list[tuple[Hours, str]]) -> Iterator[str]:
    for hours, field in all_hours:
        try:
            span_of(hours, field)
        except PlanError as error:
            yield from error.problems


def _twice(ids: Iterator[str], what: str) -> Iterator[str]:
    for each, times in Counter(ids).items():
        if times > 1:
            yield f"{what}: “{each}” stands there {times} times."


def _relations(project: Project) -> Iterator[str]:
    parts = {part.id: part for _, part in project.parts()}
    people = {person.id for person in project.people}
    for song, part in project.parts():
        name = f"{song.name}, {part.name}"
        for first in part.after:
            if first == part.id:
                yield f"{name}: it cannot come after itself."
            elif first not in parts:
                yield f"{name}: what it comes after is not in the project."
        if part.double_of == part.id:
            yield f"{name}: it cannot be a double of itself."
        elif part.double_of and part.double_of not in parts:
            yield f"{name}: what it is a double of is not in the project."
        elif part.double_of and parts[part.double_of].double_of:
            yield f"{name}: it is a double of a double; say which main part it doubles."
        if missing := [each for each in part.people if each not in people]:
            yield f"{name}: “{missing[0]}” is nobody of this project."


def befores(project: Project) -> dict[str, tuple[str, ...]]:
    """Part → the parts it comes after: those it names, and the one it is a double of."""
    return {
        part.id: tuple(dict.fromkeys((*part.after, *([part.double_of] if part.double_of else []))))
        for _, part in project.parts()
    }


def circle(project: Project) -> tuple[str, ...]:
    """Parts that each come after the one before, round in a circle; none where there is no circle."""
    after = befores(project)
    over: set[str] = set()
    for begin in after:
        way, at = [begin], [iter(after[begin])]
        while at:
            step = next(at[-1], None)
            if step is None:
                over.add(way.pop())
                at.pop()
            elif step in way:
                return tuple(way[way.index(step) :])
            elif step in after and step not in over:
                way.append(step)
                at.append(iter(after[step]))
    return ()


def problems(project: Project) -> list[str]:
    """Why a project cannot be, in sentences; none where it can."""
    found = [*_spans(project), *_relations(project)]
    found += _twice((day.date for day in project.days), "Days")
    found += _twice((song.id for song in project.songs), "Songs")
    found += _twice((part.id for _, part in project.parts()), "Parts")
    found += _twice((person.id for person in project.people), "People")
    count = sum(1 for _ in project.parts())
    if count > MOST_PARTS:
        found.append(f"Parts: {count} of them are over the most allowed, {MOST_PARTS}.")
    if not found and (round_it := circle(project)):
        names = [f"“{project.called(each)}”" for each in (*reversed(round_it), round_it[-1])]
        found.append(f"Parts: {' before '.join(names)}: round in a circle, so none of them can be first.")
    return found


def sound(project: Project) -> Project:
    """The project itself, its days in order and pins of what is gone taken off; PlanError where it cannot be."""
    if said := problems(project):
        raise PlanError(said)
    there, dates = {part.id for _, part in project.parts()}, {day.date for day in project.days}
    pins = tuple(pin for pin in project.pins if pin.part in there and pin.date in dates)
    return replace(project, days=tuple(sorted(project.days, key=lambda day: day.date)), pins=pins)
