"""A plan as it is shown: its days as they pass, blocks laid into them, what holds each, what does not fit."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from math import ceil

from low_tide.app.clock import day_name, ears_day_of
from low_tide.app.errors import NotFound
from low_tide.app.plan_facts import facts_of, ticked_off
from low_tide.app.plans import before_it_was_laid, project_of, revision_of, row_of
from low_tide.app.preferences import preferences
from low_tide.core.judging.findings import Verdict
from low_tide.core.judging.judge import judge
from low_tide.core.planning.decode import Placed
from low_tide.core.planning.facts import CalendarDay, Facts, JobFacts, PlanNote, clock_at
from low_tide.core.planning.kept import broken, used_by_day
from low_tide.core.planning.problem import ALLOWANCE, NO_SETUP, SLOT_MIN, JobStretch, Slots
from low_tide.core.planning.progress import first_to_go, ratios
from low_tide.core.planning.project import Block, Project
from low_tide.core.planning.reasons import reasons
from low_tide.core.preferences import LISTENING_NAMES
from low_tide.core.units import figure
from low_tide.store.database import database
from low_tide.store.home import now
from low_tide.store.plans import PlanRecord


@dataclass(frozen=True)
class Span:
    """Slots of a day, from the first to before the last, and what is in them."""

    start: int
    stop: int
    words: str = ""


@dataclass(frozen=True)
class EarsAt:
    """The part of an allowance that is used by a slot, 1 being all of it."""

    slot: int
    part: float


@dataclass(frozen=True)
class BlockState:
    """A block where it lies. `at`: from when to when, as the clock shows it; `wrong`: what it breaks there, each a
    sentence; `why`: what holds it; `notes`: what could not be judged; `verdict`: of its hook-up at that hour."""

    part: str
    choosing: bool
    song: str
    name: str
    role: str
    start: int
    slots: int
    change: int
    plugs: int
    stretches: tuple[JobStretch, ...]
    loud: bool
    done: bool
    pinned: bool
    at: str
    minutes: int
    through: str
    hookup: str
    scene: str
    verdict: Verdict | None
    heard: tuple[str, ...]
    why: tuple[str, ...]
    wrong: tuple[str, ...]
    notes: tuple[PlanNote, ...]


@dataclass(frozen=True)
class DayState:
    """A day as it passes, in slots of five minutes from 04:00. `first`, `last`: what of it is worth drawing.

    `loud`: while no limit holds that somebody would be over; `quiet`: limits, place by place; `ears`: how the allowance
    of whoever records fills up, and `ears_left` in words. `now`: the slot the clock stands at, None on another day.
    """

    date: str
    name: str
    note: str
    slots: int
    first: int
    last: int
    hours: tuple[Span, ...]
    windows: tuple[Span, ...]
    quiet: tuple[Span, ...]
    people: tuple[Span, ...]
    blocks: tuple[BlockState, ...]
    ears: tuple[EarsAt, ...]
    now: float | None


@dataclass(frozen=True)
class LeftOut:
    """A part that is not laid. `why`: where it can be laid nowhere at all; empty where it is to be asked about."""

    part: str
    choosing: bool
    name: str
    must: bool
    why: str


@dataclass(frozen=True)
class Goal:
    """What the plan has of a goal, in words, and whether no plan is better."""

    words: str
    proven: bool


@dataclass(frozen=True)
class PlanState:
    """A project with its plan as it is shown. `undo`, `redo`: what would be undone or done again, None for nothing.

    `stale`: why the plan that lies there is no longer of what it was made of, empty where it is. `first_to_go`: parts
    that may be left out first, where it gets late.
    """

    id: str
    name: str
    saves: int
    undo: str | None
    redo: str | None
    project: Project
    school: str
    days: tuple[DayState, ...]
    left_out: tuple[LeftOut, ...]
    stale: str
    changes: int
    plugs: int
    goals: tuple[Goal, ...]
    proven: bool
    has_before: bool
    parts: int
    done: int
    late: tuple[str, ...]
    ratios: tuple[str, ...]
    first_to_go: tuple[str, ...]


def _spans(slots: Slots, words: str = "") -> Iterator[Span]:
    at = 0
    while slots >> at:
        start = at + ((slots >> at) & -(slots >> at)).bit_length() - 1
        stop = start
        while slots >> stop & 1:
            stop += 1
        yield Span(start, stop, words)
        at = stop


def lies_of(facts: Facts, blocks: Sequence[Block]) -> tuple[tuple[Placed, ...], tuple[Block, ...]]:
    """Blocks as jobs of a problem, and those that are none of it: done by now, or gone."""
    by_date = {day.date: number for number, day in enumerate(facts.calendar)}
    lies, others = [], []
    for block in blocks:
        job = facts.index(block.part, block.choosing)
        if job is None or block.date not in by_date:
            others.append(block)
        else:
            lies.append(Placed(job, by_date[block.date], block.start, block.change))
    return tuple(lies), tuple(others)


def _verdict(known: JobFacts, day: CalendarDay, start: int, slots: int) -> Verdict | None:
    """The verdict of a block's hook-up, in its scene, at the hour it is played at."""
    way = known.through
    if way is None:
        return None
    occasion = replace(way.played.hookup.occasion, hour=clock_at(day, start), hours=max(0.25, slots * SLOT_MIN / 60))
    hookup = replace(way.played.hookup, occasion=occasion)
    # What does not change by the hour is taken over, so that this is quick; it is never kept beyond the rig it is of.
    return judge(replace(way.played, hookup=hookup, like=way.played), preferences()).verdict


def _heard(known: JobFacts) -> tuple[str, ...]:
    """How loud a part is: at every place, in a line each."""
    if known.hearing is None or known.through is None:
        return ()
    found = []
    for there in known.hearing.places:
        if there.most is not None and there.most > 0:
            found.append(f"{figure(there.most, 2)} dBA at {there.name}")
    return tuple(found) or ("Nothing sounds: no cabinet is driven.",)


class _Picture:
    """A plan with what is worked out of it, once for everything that is shown."""

    def __init__(self, project: Project, blocks: Sequence[Block]) -> None:
        self.project, self.facts = project, facts_of(project)
        self.lies, self.others = lies_of(self.facts, blocks)
        self.wrong: dict[int, list[str]] = {}
        for each in broken(self.facts, project, self.lies):
            self.wrong.setdefault(each.job, []).append(each.words)
        self.pins = {(pin.part, pin.choosing) for pin in project.pins}
        self.change_of = self._change_overs()

    def _change_overs(self) -> dict[int, tuple[int, int]]:
        """Job → slots of change-over before it and plugs moved, as they are now."""
        problem, found = self.facts.problem, {}
        now_up, day = problem.standing, -1
        for each in sorted(self.lies, key=lambda e: (e.day, e.start)):
            setup = problem.jobs[each.job].setup
            if setup == NO_SETUP or (setup == now_up and day == each.day):
                continue
            way = problem.way(now_up, setup)
            found[each.job] = (way.slots if day == each.day else way.cold, way.plugs)
            now_up, day = setup, each.day
        return found

    def block(self, each: Placed) -> BlockState:
        known, job = self.facts.jobs[each.job], self.facts.problem.jobs[each.job]
        song, part = self.project.part(known.part)
        day = self.facts.calendar[each.day]
        change, plugs = self.change_of.get(each.job, (0, 0))
        return BlockState(
            part.id,
            known.choosing,
            song.name,
            part.name,
            part.role,
            each.start,
            job.slots,
            change,
            plugs,
            job.stretches,
            job.loud,
            False,
            (part.id, known.choosing) in self.pins,
            f"{clock_at(day, each.start)} to {clock_at(day, each.start + job.slots)}",
            job.slots * SLOT_MIN,
            known.through.name if known.through else "",
            known.through.hookup if known.through else "",
            part.scene,
            None if known.choosing else _verdict(known, day, each.start, job.slots),
            _heard(known),
            reasons(self.facts, self.project, self.lies, each.job),
            tuple(self.wrong.get(each.job, ())),
            known.notes,
        )

    def over(self, block: Block, day: CalendarDay) -> BlockState:
        """A block of a part that is done: where it lay."""
        song, part = self.project.part(block.part)
        at = f"{clock_at(day, block.start)} to {clock_at(day, block.start + block.slots)}"
        return BlockState(
            part.id,
            block.choosing,
            song.name,
            part.name,
            part.role,
            block.start,
            block.slots,
            block.change,
            0,
            block.stretches,
            False,
            True,
            False,
            at,
            block.slots * SLOT_MIN,
            "",
            part.hookup,
            part.scene,
            None,
            (),
            (),
            (),
            (),
        )

    def day(self, number: int) -> DayState:
        facts, day = self.facts, self.facts.calendar[number]
        said = next(d for d in self.project.days if d.date == day.date)
        blocks = [self.block(each) for each in self.lies if each.day == number]
        blocks += [
            self.over(block, day) for block in self.others if block.date == day.date and self.project.is_over(block)
        ]
        windows = tuple(Span(w.start, w.stop) for w in facts.problem.days[number].windows)
        first, last = _worth_drawing(day, windows, blocks)
        hours = tuple(
            Span(slot, slot + 1, f"{shown // 60:02d}") for slot, shown in enumerate(day.clock) if shown % 60 == 0
        )
        return DayState(
            day.date,
            day_name(day.date),
            said.note,
            len(day.clock),
            first,
            last,
            (*hours, Span(len(day.clock), len(day.clock), "04")),
            windows,
            tuple(_quiet(facts, number)),
            tuple(self._people(number)),
            tuple(sorted(blocks, key=lambda b: b.start)),
            self._ears(number),
            _now(day),
        )

    def _people(self, number: int) -> Iterator[Span]:
        rules = {r.key: r for job in self.facts.problem.jobs for r in job.rules if r.key.startswith("person:")}
        for person in self.project.people:
            rule = rules.get(f"person:{person.id}")
            if rule is not None:
                yield from _spans(rule.allows[number], f"{person.name} is here")

    def _ears(self, number: int) -> tuple[EarsAt, ...]:
        """How the allowance of whoever records fills up over a day: straight between these corners."""
        problem = self.facts.problem
        used = (
            self.facts.spent[number]
            + (
                used_by_day(problem, self.lies, 0)[number]
                - sum(problem.jobs[e.job].dose[0] for e in self.lies if e.day == number)
            )
            / ALLOWANCE
        )
        found = [EarsAt(problem.days[number].begins, used)]
        for each in sorted((e for e in self.lies if e.day == number), key=lambda e: e.start):
            job = problem.jobs[each.job]
            if job.dose[0]:
                found.append(EarsAt(each.start, used))
                used += job.dose[0] / ALLOWANCE
                found.append(EarsAt(each.start + job.slots, used))
        return (*found, EarsAt(len(self.facts.calendar[number].clock), used))

    def left_out(self) -> Iterator[LeftOut]:
        there = {each.job for each in self.lies}
        for number, (job, known) in enumerate(zip(self.facts.problem.jobs, self.facts.jobs, strict=True)):
            if number not in there:
                name = self.project.called(known.part)
                yield LeftOut(known.part, known.choosing, name, job.must, job.never)


def _worth_drawing(day: CalendarDay, windows: Sequence[Span], blocks: Sequence[BlockState]) -> tuple[int, int]:
    """From the hour before anybody is there to the hour after."""
    starts = [w.start for w in windows] + [b.start - b.change for b in blocks]
    stops = [w.stop for w in windows] + [b.start + b.slots for b in blocks]
    if not starts:
        return 48, 240
    return max(0, min(starts) // 12 * 12), min(len(day.clock), ceil(max(stops) / 12) * 12)


def _quiet(facts: Facts, number: int) -> Iterator[Span]:
    """While no loud part of the project may sound: the hours that are for silent work, with what shuts them."""
    every = (1 << len(facts.calendar[number].clock)) - 1
    shut, rules = every, list[tuple[Slots, str]]()
    for job, known in zip(facts.problem.jobs, facts.jobs, strict=True):
        if not job.loud or job.never:
            continue
        mine = 0
        for rule in job.rules:
            if rule.key in known.rules and not rule.key.startswith("person:"):
                mine |= every & ~rule.allows[number]
                rules.append((every & ~rule.allows[number], known.rules[rule.key].split(";")[0]))
        if mine != every:
            shut &= mine
    if shut == every:
        return
    for span in _spans(shut):
        words = next((said for mask, said in rules if mask >> span.start & 1), "")
        yield Span(span.start, span.stop, words)


def _now(day: CalendarDay) -> float | None:
    start, stop, _ = ears_day_of(day.date, SLOT_MIN)
    at = now()
    if not start <= at < stop:
        return None
    return (datetime.fromisoformat(at) - datetime.fromisoformat(start)).total_seconds() / 60 / SLOT_MIN


GOAL_WORDS = {
    "musts": "parts that must be in",
    "jobs": "blocks laid",
    "doubles": "doubles right after their main part",
    "plugs": "plugs moved",
}


def _goals(project: Project) -> Iterator[Goal]:
    for each in project.laid.goals:
        if each.goal not in GOAL_WORDS:
            continue
        closed = each.value == each.bound
        if each.goal == "plugs":
            words = f"{each.value} plugs moved"
            if closed:
                words += ": proven, no order that keeps every limit moves fewer"
            elif each.bound:
                words += f"; no order can do with fewer than {each.bound}"
            yield Goal(words, closed)
        elif not closed and each.bound is not None:
            yield Goal(f"{each.value} {GOAL_WORDS[each.goal]}; {each.bound} at the very most", False)


def _stale(project: Project, picture: _Picture) -> str:
    """Why the plan that lies there is not of what it would be made of now."""
    if not project.laid.blocks:
        return ""
    if picture.wrong:
        return "Something has changed since this was laid out, and it no longer holds. Lay it out again."
    if not set(picture.facts.marks()) <= set(project.laid.marks):
        return "Something has changed since this was laid out. It holds as it is; laid out again, it may be better."
    return ""


def _late(project: Project, picture: _Picture) -> Iterator[str]:
    """Parts that were to be done by now, and are not."""
    at = now()
    for each in picture.lies:
        day = picture.facts.calendar[each.day]
        start, _, _ = ears_day_of(day.date, SLOT_MIN)
        over = datetime.fromisoformat(start) + timedelta(
            minutes=SLOT_MIN * (each.start + picture.facts.problem.jobs[each.job].slots)
        )
        if over <= datetime.fromisoformat(at):
            yield project.called(picture.facts.jobs[each.job].part)


_pictures: OrderedDict[str, tuple[object, PlanState]] = OrderedDict()
RESTS_ON = ("gear", "hookup", "revision", "preference", "reading", "played", "suspect", "take", "plan", "plan_revision")


def state(plan_id: str) -> PlanState:
    """A project as it is shown."""
    return picture(row_of(plan_id))


def picture(row: PlanRecord) -> PlanState:
    """The same of a stored project; what was worked out last is given again as long as nothing of it changed."""
    version = database.version(*RESTS_ON)
    key = (version, row, now()[:16])
    last = _pictures.get(row.id)
    if version is not None and last is not None and last[0] == key:
        return last[1]
    made = shown(row, project_of(row))
    if version is not None:
        _pictures[row.id] = key, made
        while len(_pictures) > 8:
            _pictures.popitem(last=False)
    return made


def shown(row: PlanRecord, stored: Project, blocks: Sequence[Block] | None = None) -> PlanState:
    """A project as it is shown, with the blocks it has or others."""
    project = ticked_off(stored)
    drawn = _Picture(project, project.laid.blocks if blocks is None else blocks)
    parts = [part for _, part in project.parts()]
    back = revision_of(row, row.current)
    forth = revision_of(row, row.redo[-1]) if row.redo else None
    plugs = sum(moved for _, moved in drawn.change_of.values())
    return PlanState(
        row.id,
        project.name,
        row.saves,
        back.label if back.parent is not None else None,
        forth.label if forth else None,
        stored,
        LISTENING_NAMES[preferences().listening],
        tuple(drawn.day(number) for number in range(len(drawn.facts.calendar))),
        tuple(drawn.left_out()),
        _stale(project, drawn),
        sum(moved > 0 for _, moved in drawn.change_of.values()),
        plugs,
        tuple(_goals(project)),
        project.laid.proven and not _stale(project, drawn),
        before_it_was_laid(row) is not None,
        len(parts),
        sum(bool(part.done) for part in parts),
        tuple(_late(project, drawn)),
        tuple(each.words for each in ratios(project)),
        first_to_go(project),
    )


def before(plan_id: str) -> PlanState:
    """The project as it was before the plan that stands was laid out."""
    row = row_of(plan_id)
    was = before_it_was_laid(row)
    if was is None:
        raise NotFound("This is the first plan of this project; there is none before it.")
    return shown(row, was)
