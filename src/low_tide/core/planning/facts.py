"""From a project and the hook-ups its parts go through to a problem in whole numbers, and back into words."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from hashlib import sha256
from math import ceil

from low_tide.core.acoustics.exposure import LISTENING
from low_tide.core.planning.dates import in_words
from low_tide.core.planning.decode import Placed
from low_tide.core.planning.hearing import AtPlace, Hearing, heard, limits_over, share, too_loud
from low_tide.core.planning.heat import with_rests
from low_tide.core.planning.problem import (
    ALLOWANCE,
    DAY_BEGINS_MIN,
    NO_SETUP,
    SLOT_MIN,
    Box,
    Doing,
    Job,
    JobStretch,
    Pinned,
    PlanDay,
    Problem,
    Ruled,
    Setup,
    Slots,
    Way,
    Window,
    span_slots,
)
from low_tide.core.planning.project import Block, Hours, JobMark, Part, Person, Pin, Project
from low_tide.core.planning.sound_project import befores, span_of
from low_tide.core.power.warm_boxes import warm_boxes
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import Hookup
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.session.change_over import change_over, warm_up_s
from low_tide.core.units import figure
from low_tide.core.venue.place import Place
from low_tide.core.venue.time_of_day import DAY_MINUTES, minute_of


@dataclass(frozen=True)
class Through:
    """What a part goes through: the hook-up as it stands and as it is in the part's scene. `setup` tells it from
    others, `hookup` is its id in the store, empty where it was found for a wish."""

    setup: str
    name: str
    rig: Rig
    played: Rig
    hookup: str = ""


@dataclass(frozen=True)
class CalendarDay:
    """A day as it passes, from 04:00 on: its number in the calendar, and what the clock shows at the beginning of every
    slot (min after midnight). `used`: the part of every school's allowance that was used by what is logged, in the days
    that count together with it; `closed`: slots that have passed."""

    date: str
    number: int
    clock: tuple[int, ...]
    used: float = 0.0
    closed: int = 0


@dataclass(frozen=True)
class Known:
    """Everything beside the project that a plan rests on.

    `through`: part id → what it goes through, or why it cannot; a part that is in neither has no hook-up yet.
    `stands`: what is set up now. `places` and the rooms about them are in every rig; `empty` is one with nothing in it.
    """

    through: Mapping[str, Through | str]
    calendar: tuple[CalendarDay, ...]
    empty: Rig
    preferences: Preferences
    stands: Through | None = None
    ratios: Mapping[str, float] | None = None


@dataclass(frozen=True)
class PlanNote:
    """A word on a block. `check`: something of it cannot be computed, so that it is to be checked first."""

    words: str
    check: bool = False


@dataclass(frozen=True)
class JobFacts:
    """What is known of a job beside its numbers. `rules`: key → in words; `notes`: what could not be judged."""

    part: str
    choosing: bool
    through: Through | None
    hearing: Hearing | None
    rules: Mapping[str, str]
    notes: tuple[PlanNote, ...] = ()


@dataclass(frozen=True)
class Facts:
    """A project as a problem, and what its jobs, set-ups and rules are in words. `spent`: the part of the allowance of
    whoever records that is gone on each day, by what is logged or, if that is more, by what is done as it was planned.
    """

    problem: Problem
    jobs: tuple[JobFacts, ...]
    setups: tuple[Through, ...]
    calendar: tuple[CalendarDay, ...]
    spent: tuple[float, ...]

    def marks(self) -> tuple[JobMark, ...]:
        """Of every job a mark that is another where anything of it is: its set-up, how long it takes, when it may
        be, what it does to ears."""
        setups = [setup.id for setup in self.problem.setups]
        found = []
        for job in self.problem.jobs:
            setup = setups[job.setup] if job.setup != NO_SETUP else ""
            told = repr((setup, job.stretches, job.rules, job.dose, job.must, job.never)).encode()
            found.append(JobMark(job.id, sha256(told).hexdigest()[:12]))
        return tuple(found)

    def block(self, lies: Placed) -> Block:
        """A job where it lies, as it is kept."""
        job, known = self.problem.jobs[lies.job], self.jobs[lies.job]
        date, setup = self.calendar[lies.day].date, known.through.setup if known.through else ""
        return Block(known.part, known.choosing, date, lies.start, lies.change, job.stretches, setup)

    def index(self, part: str, choosing: bool) -> int | None:
        """The job of a part; None where it has none, being done, or not in the project."""
        return next((i for i, f in enumerate(self.jobs) if (f.part, f.choosing) == (part, choosing)), None)


WINDOW = "window"
SAID = "said"


def slots_shown(day: CalendarDay, start: int, stop: int) -> Slots:
    """Slots of a day in which the clock shows a time between two (min after midnight of its date; past 24 h for its
    night). Where the clocks go back, an hour that comes twice counts twice; one that is skipped is not there."""
    found = 0
    for slot, shown in enumerate(day.clock):
        late = shown + DAY_MINUTES if shown < DAY_BEGINS_MIN else shown
        if start <= late < stop and slot >= day.closed:
            found |= 1 << slot
    return found


def _during(day: CalendarDay, minutes: frozenset[int]) -> Slots:
    """Slots in any minute of which a limit holds that holds at these minutes of the day."""
    found = 0
    for slot, shown in enumerate(day.clock):
        if any((shown + m) % DAY_MINUTES in minutes for m in range(SLOT_MIN)):
            found |= 1 << slot
    return found


def whole(day: CalendarDay) -> Slots:
    """All slots of a day."""
    return span_slots(0, len(day.clock))


def slot_at(day: CalendarDay, hour: str) -> int:
    """The first slot of a day in which the clock shows this time or a later one; its last where none does."""
    wanted = minute_of(hour)
    late = wanted + DAY_MINUTES if wanted < DAY_BEGINS_MIN else wanted
    shown = (m + DAY_MINUTES if m < DAY_BEGINS_MIN else m for m in day.clock)
    return next((slot for slot, m in enumerate(shown) if m + SLOT_MIN > late), len(day.clock) - 1)


def clock_at(day: CalendarDay, slot: int) -> str:
    """What the clock shows at the beginning of a slot."""
    minute = day.clock[slot] if slot < len(day.clock) else DAY_BEGINS_MIN
    return f"{minute // 60:02d}:{minute % 60:02d}"


def _windows(day: CalendarDay, hours: Sequence[Hours]) -> tuple[Window, ...]:
    """Windows as they pass, those that touch made one."""
    open_in = 0
    for each in hours:
        open_in |= slots_shown(day, *span_of(each, "Window"))
    found, at = [], 0
    while open_in >> at:
        start = at + ((open_in >> at) & -(open_in >> at)).bit_length() - 1
        stop = start
        while open_in >> stop & 1:
            stop += 1
        found.append(Window(start, stop))
        at = stop
    return tuple(found)


class _Rules:
    """The rules of a project, made once for all its parts."""

    def __init__(self, project: Project, known: Known) -> None:
        self.project, self.known, self.calendar = project, known, known.calendar
        self.places: tuple[Place, ...] = known.empty.places
        self.days = {day.date: day for day in project.days}
        self.windows = tuple(_windows(day, self.days[day.date].windows) for day in self.calendar)
        self.window = Ruled(WINDOW, tuple(_all(windows) for windows in self.windows))
        self.holds = {
            (place.id, i): tuple(self._holds(day, place, limit.minutes()) for day in self.calendar)
            for place in self.places
            for i, limit in enumerate(place.limits)
        }

    def _holds(self, day: CalendarDay, place: Place, minutes: frozenset[int]) -> Slots:
        spared = 0
        for each in self.days[day.date].spared:
            if each.place == place.id:
                spared |= slots_shown(day, *span_of(each.hours, "Spared"))
        return _during(day, minutes) & ~spared

    def _but(self, key: str, held: Sequence[tuple[Slots, ...]]) -> Ruled:
        allows = []
        for number, day in enumerate(self.calendar):
            found = whole(day)
            for each in held:
                found &= ~each[number]
            allows.append(found)
        return Ruled(key, tuple(allows))

    def of_place(self, place: Place, there: AtPlace) -> tuple[Ruled, str] | None:
        """The rule of a place for what comes to it, and in words; None where it holds at no hour."""
        over = () if there.unjudged else limits_over(place, there.most)
        if not over:
            return None
        rule = self._but(f"limit:{place.id}", [self.holds[place.id, i] for i in over])
        limits = sorted((place.limits[i] for i in over), key=lambda limit: limit.level)
        bound = "at most " + " and ".join(
            f"{figure(each.level)} dBA from {each.start} to {each.end}" for each in limits
        )
        if there.most is None:
            return rule, f"{place.name}: {bound}, and nobody can say how loud this gets there, since {there.why}"
        near = any(abs(there.most - each.level) < 1 for each in limits)
        level = figure(there.most, 3 if near else 2)
        return rule, f"{place.name}: {bound}; this comes to {level} dBA at the edge of what is sure"

    def said_loud(self) -> tuple[Ruled, str]:
        """What is only said to be loud keeps out of every place's quieter hours: whatever holds there beside the most
        that is let pass on some day."""
        quieter = []
        for place in self.places:
            most = max((limit.level for limit in place.limits), default=0.0)
            always = all(self.all_held(place, day) for day in range(len(self.calendar)))
            for i, limit in enumerate(place.limits):
                if not always or limit.level < most:
                    quieter.append(self.holds[place.id, i])
        said = "Said to be loud, with no hook-up to tell how loud: not in the quieter hours of any place"
        return self._but(SAID, quieter), said

    def all_held(self, place: Place, day: int) -> bool:
        """Whether some limit holds at a place at every hour of a day."""
        found = 0
        for i in range(len(place.limits)):
            found |= self.holds[place.id, i][day]
        return found == whole(self.calendar[day])

    def of_person(self, person: Person) -> tuple[Ruled, str] | None:
        """When somebody is there; None where they always are."""
        if not person.here:
            return None
        there = {h.date: 0 for h in person.here}
        by_date = {day.date: day for day in self.calendar}
        for here in person.here:
            if here.date in by_date:
                there[here.date] |= slots_shown(by_date[here.date], *span_of(here.hours, person.name))
        rule = Ruled(f"person:{person.id}", tuple(there.get(day.date, 0) for day in self.calendar))
        said = ", ".join(f"{h.hours.start} to {h.hours.end} on {in_words(h.date)}" for h in person.here)
        return rule, f"{person.name} is there {said}"


def _all(windows: Sequence[Window]) -> Slots:
    found = 0
    for window in windows:
        found |= span_slots(window.start, window.stop)
    return found


def slots_of(minutes: float) -> int:
    """Minutes in slots, rounded up."""
    return ceil(minutes / SLOT_MIN - 1e-9)


def ratio(known: Known, part: Part) -> float:
    """How much longer parts of this role took than was planned, as far as that is known."""
    return (known.ratios or {}).get(part.role, 1.0)


def facts(project: Project, known: Known) -> Facts:
    """A project as a problem. Parts that are done are left out of it, and what came after them no longer waits."""
    rules = _Rules(project, known)
    setups = _setups(project, known)
    listeners: tuple[Person | None, ...] = (None, *project.people)
    names = ("whoever records", *(person.name for person in project.people))
    made: list[tuple[Job, JobFacts]] = []
    boxes, heats = _boxes(setups)
    pins = {(pin.part, pin.choosing): pin for pin in project.pins}
    by_date = {day.date: number for number, day in enumerate(known.calendar)}
    done = [[0] * len(known.calendar) for _ in listeners]
    for _, part in project.parts():
        if part.done:
            played, _ = _playing(project, known, rules, setups, part, listeners, names, boxes, heats)
            for block in (b for b in project.laid.blocks if b.part == part.id and not b.choosing and b.date in by_date):
                for listener, share_of_it in enumerate(played.dose):
                    done[listener][by_date[block.date]] += share_of_it
        else:
            made.append(_playing(project, known, rules, setups, part, listeners, names, boxes, heats))
        if project.school == "later" and part.choose and not part.chosen:
            made.append(_choosing(project, known, rules, part, len(listeners)))
    index = {(f.part, f.choosing): i for i, (_, f) in enumerate(made)}
    jobs = tuple(
        _related(project, job, facts, index, _pinned(pins.get((facts.part, facts.choosing)), known, by_date))
        for job, facts in made
    )
    span = LISTENING[known.preferences.listening].days
    gone = [_together(known.calendar, used, span) for used in done]
    gone[0] = [max(used, ceil(day.used * ALLOWANCE)) for used, day in zip(gone[0], known.calendar, strict=True)]
    budget = tuple(tuple(max(0, ALLOWANCE - used) for used in each) for each in gone)
    problem = Problem(
        tuple(
            PlanDay(day.number, len(day.clock), windows)
            for day, windows in zip(known.calendar, rules.windows, strict=True)
        ),
        jobs,
        tuple(Setup(each.setup, heat) for each, heat in zip(setups, heats, strict=True)),
        _ways(setups, known.empty),
        boxes,
        next((i for i, s in enumerate(setups) if known.stands and s.setup == known.stands.setup), NO_SETUP),
        names,
        budget,
        span,
    )
    spent = tuple(used / ALLOWANCE for used in gone[0])
    return Facts(problem, tuple(f for _, f in made), setups, known.calendar, spent)


def _together(calendar: Sequence[CalendarDay], used: Sequence[int], span: int) -> list[int]:
    """Shares used on each day with those of the days before that count with it."""
    return [
        sum(share for other, share in zip(calendar, used, strict=True) if 0 <= day.number - other.number < span)
        for day in calendar
    ]


def _pinned(pin: Pin | None, known: Known, by_date: Mapping[str, int]) -> Pinned | None:
    if pin is None or pin.date not in by_date:
        return None
    day = by_date[pin.date]
    return Pinned(day, slot_at(known.calendar[day], pin.start))


def _related(
    project: Project, job: Job, facts: JobFacts, index: Mapping[tuple[str, bool], int], pin: Pinned | None
) -> Job:
    _, part = project.part(facts.part)
    if facts.choosing:
        return replace(job, after=(index[part.id, False],) if (part.id, False) in index else (), pin=pin)
    after = tuple(index[first, False] for first in befores(project)[part.id] if (first, False) in index)
    return replace(job, after=after, main=index.get((part.double_of, False)) if part.double_of else None, pin=pin)


def _choosing(project: Project, known: Known, rules: _Rules, part: Part, listeners: int) -> tuple[Job, JobFacts]:
    slots = max(1, slots_of(part.choose * ratio(known, part)))
    own = share(project.choosing_level, slots, known.preferences.listening)
    job = Job(
        f"{part.id}:choose",
        NO_SETUP,
        (JobStretch("choose", slots),),
        (rules.window,),
        (own, *(0 for _ in range(listeners - 1))),
        must=part.must,
    )
    return job, JobFacts(part.id, True, None, None, {})


def _playing(
    project: Project,
    known: Known,
    rules: _Rules,
    setups: tuple[Through, ...],
    part: Part,
    listeners: tuple[Person | None, ...],
    names: tuple[str, ...],
    boxes: tuple[Box, ...],
    heats: tuple[tuple[tuple[int, float], ...], ...],
) -> tuple[Job, JobFacts]:
    through = known.through.get(part.id)
    way = through if isinstance(through, Through) else None
    people = [person for person in project.people if person.id in part.people]
    hearing = heard(way.played if way else known.empty, way is not None, people, listeners)
    setup = next((i for i, s in enumerate(setups) if way and s.setup == way.setup), NO_SETUP)
    found: list[Ruled] = [rules.window]
    words: dict[str, str] = {}
    by_id = {place.id: place for place in rules.places}
    for there in (each for each in hearing.places if each.place in by_id):
        if (ruled := rules.of_place(by_id[there.place], there)) is not None:
            found.append(ruled[0])
            words[ruled[0].key] = ruled[1]
    loud = len(found) > 1
    if way is None and part.sounds == "loud":
        rule, said = rules.said_loud()
        found.append(rule)
        words[rule.key], loud = said, True
    for person in people:
        if (ruled := rules.of_person(person)) is not None:
            found.append(ruled[0])
            words[ruled[0].key] = ruled[1]
    stretches, never = _stretches(project, known, part, setup, boxes, heats)
    if isinstance(through, str):
        never = through
    playing = sum(each.slots for each in stretches if each.sounds)
    dose = tuple(share(level, playing, known.preferences.listening) for level in hearing.ears)
    job = Job(
        part.id,
        setup,
        stretches,
        tuple(found),
        dose,
        loud,
        part.must,
        never=never or too_loud(hearing, names),
    )
    return job, JobFacts(part.id, False, way, hearing, words, tuple(_notes(part, way, hearing, names)))


def _notes(part: Part, way: Through | None, hearing: Hearing, names: Sequence[str]) -> Iterator[PlanNote]:
    """What could not be judged, and what is worth a word."""
    if way is None:
        said = f"is said to be {part.sounds}" if part.sounds else "is taken as silent"
        yield PlanNote(f"No hook-up yet: it {said}, and no change-over is counted.", True)
    else:
        for unit in (unit for unit, box in warm_boxes(way.rig) if box is None):
            yield PlanNote(f"Nobody can say how warm {way.rig.name(unit)} gets: no rests are planned for it.", True)
    for there in hearing.places:
        if there.unjudged:
            yield PlanNote(f"The limit of {there.name} is not judged: {there.why}.")
    for name, level in zip(names, hearing.ears, strict=True):
        if level is None:
            yield PlanNote(f"Nobody can say how loud it gets for {name}: their ears are not counted here.", True)
    if part.role == "double":
        yield PlanNote("A double: less drive than the main part, since two of the same add up.")


def _stretches(
    project: Project,
    known: Known,
    part: Part,
    setup: int,
    boxes: tuple[Box, ...],
    heats: tuple[tuple[tuple[int, float], ...], ...],
) -> tuple[tuple[JobStretch, ...], str]:
    """What is done in a part, with the rests its boxes need, and why it cannot be, empty where it can."""
    by = ratio(known, part)
    find = slots_of(part.find * by) if project.school == "commit" else 0
    doing: tuple[tuple[Doing, int], ...] = (("play", max(1, slots_of(part.play * by))),)
    if find:
        doing = (("find", find), *doing)
    mine = tuple((boxes[box], settles) for box, settles in heats[setup]) if setup != NO_SETUP else ()
    made = with_rests(doing, mine)
    if isinstance(made, str):
        plain = tuple(JobStretch(what, slots) for what, slots in doing)
        return plain, f"{made} is at its limit before it has been played for {SLOT_MIN} minutes."
    return made, ""


def _setups(project: Project, known: Known) -> tuple[Through, ...]:
    found: dict[str, Through] = {}
    for _, part in project.parts():
        way = known.through.get(part.id)
        if isinstance(way, Through) and not part.done:
            found.setdefault(way.setup, way)
    if known.stands is not None:
        found.setdefault(known.stands.setup, known.stands)
    return tuple(found.values())


def _boxes(setups: Sequence[Through]) -> tuple[tuple[Box, ...], tuple[tuple[tuple[int, float], ...], ...]]:
    """Everything that warms up, by what is least in any set-up, and how far each set-up warms it (K, settled, at the
    edge of what is typical)."""
    warm = [{unit: box for unit, box in warm_boxes(each.rig) if box is not None} for each in setups]
    ids = tuple(dict.fromkeys(unit for boxes in warm for unit in boxes))
    found = []
    for unit in ids:
        all_of_it = [boxes[unit] for boxes in warm if unit in boxes]
        name = next(each.rig.name(unit) for each, boxes in zip(setups, warm, strict=True) if unit in boxes)
        limit = max(0.0, min(box.limit - box.ambient for box in all_of_it))
        found.append(Box(name, max(box.minutes for box in all_of_it) / SLOT_MIN, limit))
    heats = tuple(
        tuple(
            (i, (boxes[unit].settled - boxes[unit].ambient) * (1 + boxes[unit].doubt))
            for i, unit in enumerate(ids)
            if unit in boxes
        )
        for boxes in warm
    )
    return tuple(found), heats


def _ways(setups: Sequence[Through], empty: Rig) -> tuple[tuple[Way, ...], ...]:
    """From every set-up to every other, and from nothing: by what the run sheet moves and waits for."""
    found = []
    for before in (None, *setups):
        row = []
        for after in setups:
            warm = max((warm_up_s(amp) for _, amp in after.rig.amps()), default=0.0) / 60
            if before is not None and before.setup == after.setup:
                row.append(Way(0, 0, slots_of(warm)))
                continue
            live = change_over(before.rig if before else empty, after.rig, before is not None)
            cold = change_over(before.rig if before else empty, after.rig, False)
            # In the morning an amp is switched on whatever was moved.
            row.append(Way(live.plugs, slots_of(live.minutes), slots_of(max(cold.minutes, warm))))
        found.append(tuple(row))
    return tuple(found)


def nothing(gear: Rig) -> Rig:
    """The same gear with nothing set up."""
    return checked(Hookup("Nothing"), gear.gear)
