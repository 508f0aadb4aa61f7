"""What a plan rests on beside its project: hook-ups as they stand, the calendar, what is logged."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace
from datetime import datetime, timedelta

from low_tide.app import locker
from low_tide.app.bench import rig_in, rig_of
from low_tide.app.clock import day_number, ears_day_of
from low_tide.app.errors import Invalid
from low_tide.app.preferences import preferences
from low_tide.app.readings import known
from low_tide.core.acoustics.exposure import LISTENING, dose
from low_tide.core.finder.search import Answer, search
from low_tide.core.planning.facts import CalendarDay, Facts, Known, Through, facts
from low_tide.core.planning.problem import SLOT_MIN
from low_tide.core.planning.progress import by_role
from low_tide.core.planning.project import JobMark, Part, Project
from low_tide.core.rig.hookup import Hookup
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.formats.documents import dump
from low_tide.store import hookups, readings
from low_tide.store import takes as logged
from low_tide.store.database import database
from low_tide.store.home import now

ALL_USED = 10.0
"""Of an allowance that has more than run out, no more is counted."""


def _logged_as(song: str, part: str) -> set[str]:
    return {f"{song}, {part}".casefold(), f"{song} {part}".casefold(), f"{song}: {part}".casefold()}


def ticked_off(project: Project) -> Project:
    """The project with parts done of which there is a take: one that is called like the song and part, or like the song
    with the part beside. What somebody said of it counts before."""
    takes = {(name.casefold(), part.casefold()) for name, part in logged.names_and_parts()}
    words = {part for _, part in takes} | {name for name, _ in takes}

    def done(song: str, part: Part) -> Part:
        if part.done is not None:
            return part
        there = (song.casefold(), part.name.casefold()) in takes or bool(_logged_as(song, part.name) & words)
        return replace(part, done=there)

    songs = tuple(replace(s, parts=tuple(done(s.name, part) for part in s.parts)) for s in project.songs)
    return replace(project, songs=songs)


def _used(start: str, stop: str, school: str) -> float:
    """The part of the allowance that what is logged uses up, in the days a school counts together with this one."""
    days = LISTENING[school].days - 1
    since = (datetime.fromisoformat(start) - timedelta(days=days)).isoformat(timespec="seconds")
    heard = readings.listened_since(since, stop)
    return min(ALL_USED, dose([(row.level, row.minutes / 60) for row in heard], school))


def calendar(project: Project, from_now: bool) -> tuple[CalendarDay, ...]:
    """The days of a project as they pass. `from_now`: what has passed is closed."""
    school, found = preferences().listening, []
    for day in project.days:
        start, stop, clock = ears_day_of(day.date, SLOT_MIN)
        passed = (datetime.fromisoformat(now()) - datetime.fromisoformat(start)).total_seconds() / 60 / SLOT_MIN
        closed = min(len(clock), max(0, -int(-passed // 1))) if from_now else 0
        found.append(CalendarDay(day.date, day_number(day.date), clock, _used(start, stop, school), closed))
    return tuple(found)


def _through_hookup(part: Part) -> Through | str:
    row = hookups.find(part.hookup)
    if row is None:
        return "Its hook-up is not there any more. Choose another."
    try:
        rig = rig_of(row)
        played = rig_in(row, part.scene)
    except Invalid as error:
        return f"“{row.name}”: {' '.join(error.problems)}"
    put_away = f"“{row.name}” was put away. Bring it back, or choose another." if row.archived else ""
    return put_away or Through(row.id, row.name, rig, played, row.id)


_found: dict[tuple[object, ...], Through | str] = {}
"""What was found for a wish, as long as nothing that it rests on has changed."""
MOST_FOUND = 60


def _through_wish(part: Part) -> Through | str:
    assert part.wish is not None
    gear, schools, measured = locker.all_gear(), preferences(), known()
    version = database.version("gear", "preference", "reading", "played", "suspect", hookups.PINS)
    key = (part.wish, schools, version)
    if version is None or key not in _found:
        made: Through | str = "Nothing that is owned does what is wished for. Look at it on the Bench."
        for answer in search(part.wish, gear, schools, known=measured):
            if isinstance(answer, Answer) and answer.proposals:
                best = answer.proposals[0]
                rig = replace(checked(best.hookup, {**gear, **{lead.id: lead for lead in best.needs}}), known=measured)
                made = Through(f"wish {dump(part.wish)}", f"found: {best.name}", rig, rig)
        while len(_found) >= MOST_FOUND:
            _found.pop(next(iter(_found)))
        _found[key] = made
    return _found[key]


def through(parts: Iterable[Part]) -> dict[str, Through | str]:
    """Part → what it goes through, or why it cannot. Parts with neither hook-up nor wish are left out."""
    found: dict[str, Through | str] = {}
    for part in parts:
        if part.hookup:
            found[part.id] = _through_hookup(part)
        elif part.wish is not None:
            found[part.id] = _through_wish(part)
    return found


def _nothing() -> Rig:
    return replace(checked(Hookup("Nothing"), dict(locker.all_gear())), known=known())


def _stands() -> Through | None:
    row = next(iter(hookups.that_stood()), None)
    if row is None:
        return None
    try:
        rig = rig_of(row)
    except Invalid:
        return None
    return Through(row.id, row.name, rig, rig, row.id)


def known_of(project: Project, from_now: bool) -> Known:
    """Everything beside a project that its plan rests on."""
    return Known(
        through(part for _, part in project.parts()),
        calendar(project, from_now),
        _nothing(),
        preferences(),
        _stands(),
        by_role(project),
    )


def marks_of(project: Project) -> tuple[JobMark, ...]:
    """What tells whether anything a plan rests on has changed; that time passes changes nothing of it."""
    return facts_of(project).marks()


def facts_of(project: Project, from_now: bool = False) -> Facts:
    """A project as a problem, by what stands in the store now. Its parts that are ticked off should be by then."""
    return facts(project, known_of(project, from_now))
