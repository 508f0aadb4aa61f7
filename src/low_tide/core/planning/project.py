"""A project: songs and their parts, the days there are, who is there when, and where the parts were laid."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Literal, TypeAlias

from low_tide.core.finder.wish import Wish
from low_tide.core.gear.base import identity
from low_tide.core.gear.ids import ID
from low_tide.core.planning.problem import JobStretch
from low_tide.core.rig.hookup import SceneName
from low_tide.core.spec import Spec

MOST_SONGS, MOST_PARTS, MOST_DAYS, MOST_PEOPLE = 60, 400, 31, 20

Role: TypeAlias = Literal["main", "double", "lead", "harmony", "guide", "other"]
ROLES: dict[str, str] = {
    "main": "main part",
    "double": "double",
    "lead": "lead",
    "harmony": "harmony",
    "guide": "guide",
    "other": "other",
}
Sounds: TypeAlias = Literal["", "loud", "silent"]
SOUNDS: dict[str, str] = {
    "": "as its hook-up comes out",
    "loud": "loud, as it is said",
    "silent": "silent, as it is said",
}
Tails: TypeAlias = Literal["", "after", "before", "before_on_purpose"]
TAILS: dict[str, str] = {
    "": "not said",
    "after": "after the power stage",
    "before": "before it",
    "before_on_purpose": "before it, on purpose",
}
School: TypeAlias = Literal["commit", "later"]
SCHOOLS: dict[str, str] = {
    "commit": "commit: the sound is found before it is played",
    "later": "record now, decide at the mix: it is chosen afterwards",
}
PlanId: TypeAlias = Annotated[str, Spec("Id", ge=1, le=64, pattern=ID, wanted="small letters, digits and hyphens")]
Minutes: TypeAlias = Annotated[int, Spec("Minutes", "min", 0, 720)]
Clock: TypeAlias = Annotated[
    str, Spec("Hour", ge=4, le=5, pattern=r"([01]?\d|2[0-3]):[0-5]\d", wanted="00:00 to 23:59")
]
Date: TypeAlias = Annotated[str, Spec("Date", ge=10, le=10, pattern=r"\d{4}-\d\d-\d\d", wanted="2026-03-01")]


@dataclass(frozen=True)
class Part:
    """A part of a song. How loud it is follows from its hook-up, or what is found for its wish; `sounds` counts as long
    as it has neither.

    `find`: to find the sound before it is played; `choose`: to choose one afterwards, where that is the school; min.
    `took`: what it took in truth, min, None as long as nobody knows. `done`: as somebody said, beside its takes.
    `chosen`: its sound is, where that is done later.
    """

    id: PlanId
    name: Annotated[str, Spec("Part", ge=1, le=80)]
    role: Annotated[Role, Spec("Role", names=ROLES)] = "main"
    double_of: Annotated[str, Spec("Double of", le=40)] = ""
    pan: Annotated[int, Spec("Pan", "%", -100, 100)] = 0
    hookup: Annotated[str, identity("Hook-up", "|")] = ""
    scene: Annotated[SceneName | Literal[""], Spec("Scene")] = ""
    wish: Annotated[Wish | None, Spec("Wish")] = None
    sounds: Annotated[Sounds, Spec("It is", names=SOUNDS)] = ""
    guitar: Annotated[str, Spec("Guitar", le=80)] = ""
    tuning: Annotated[str, Spec("Tuning", le=60)] = ""
    tails: Annotated[Tails, Spec("Tails", names=TAILS)] = ""
    find: Annotated[Minutes, Spec("Finding the sound", "min", 0, 720)] = 15
    play: Annotated[int, Spec("Playing", "min", 1, 720)] = 30
    choose: Annotated[Minutes, Spec("Choosing later", "min", 0, 720)] = 15
    after: Annotated[tuple[PlanId, ...], Spec("After", le=20)] = ()
    people: Annotated[tuple[PlanId, ...], Spec("With", le=10)] = ()
    must: Annotated[bool, Spec("Must be in")] = False
    notes: Annotated[str, Spec("Notes", le=2000)] = ""
    took: Annotated[int | None, Spec("It took", "min", 1, 1440)] = None
    done: Annotated[bool | None, Spec("Done")] = None
    chosen: Annotated[bool, Spec("Its sound is chosen")] = False


@dataclass(frozen=True)
class Song:
    """A song, or a cue, with its parts in the order they were written down."""

    id: PlanId
    name: Annotated[str, Spec("Song", ge=1, le=80)]
    parts: Annotated[tuple[Part, ...], Spec("Parts", le=MOST_PARTS)] = ()


@dataclass(frozen=True)
class Hours:
    """From one time of day to another; an end up to 04:00 is that of the night."""

    start: Clock = "10:00"
    end: Clock = "18:00"


@dataclass(frozen=True)
class Spared:
    """A limit of a place that does not hold on one day, from one time to another."""

    place: Annotated[str, identity("Place")]
    hours: Hours


@dataclass(frozen=True)
class Day:
    """A day somebody is there: its windows, what is on that day, and limits that do not hold then."""

    date: Date
    windows: Annotated[tuple[Hours, ...], Spec("Windows", le=8)] = (Hours(),)
    note: Annotated[str, Spec("Note", le=120)] = ""
    spared: Annotated[tuple[Spared, ...], Spec("Limits spared", le=12)] = ()


@dataclass(frozen=True)
class Here:
    """Somebody is there on a day."""

    date: Date
    hours: Hours


@dataclass(frozen=True)
class Person:
    """Somebody a part may need. `level`: how loud they play, dBA at 1 m, None for nobody hears them; `room`: where;
    `place`: where they listen, and what they hear counts for their own ears. `here`: when they are there, always where
    nothing is said."""

    id: PlanId
    name: Annotated[str, Spec("Who", ge=1, le=80)]
    level: Annotated[float | None, Spec("Plays at", "dBA", 30, 130, help="At 1 m. Empty: makes no sound.")] = None
    room: Annotated[str, identity("Plays in", "|", refers="room")] = ""
    place: Annotated[str, identity("Listens at", "|", refers="place")] = ""
    here: Annotated[tuple[Here, ...], Spec("There", le=62)] = ()


@dataclass(frozen=True)
class Pin:
    """A part, or the choosing of its sound, stays where it is put: a date, and a time of that day or of its night."""

    part: PlanId
    choosing: bool
    date: Date
    start: Clock


@dataclass(frozen=True)
class Block:
    """Where a part was laid: its day, and slots of five minutes from 04:00. `change`: slots of change-over before it.

    `stretches`: what is done in it. `setup`: the hook-up it is played on, as it was then.
    """

    part: PlanId
    choosing: bool
    date: Date
    start: Annotated[int, Spec("Begins", "slots", 0, 320)]
    change: Annotated[int, Spec("Change-over", "slots", 0, 320)]
    stretches: Annotated[tuple[JobStretch, ...], Spec("Stretches", le=400)]
    setup: Annotated[str, Spec("Set-up", le=200)] = ""

    @property
    def slots(self) -> int:
        """How long it is."""
        return sum(stretch.slots for stretch in self.stretches)


@dataclass(frozen=True)
class GoalReached:
    """What a plan has of a goal, and what no plan can better as far as the goals before it are as they are."""

    goal: Annotated[str, Spec("Goal", le=20)]
    value: int
    bound: int | None


@dataclass(frozen=True)
class JobMark:
    """A mark that is another where anything of a job is."""

    job: Annotated[str, Spec("Job", le=80)]
    mark: Annotated[str, Spec("Mark", le=40)]


@dataclass(frozen=True)
class Laid:
    """A plan as it was laid out. `marks`: of what its jobs were then, to tell when that has changed."""

    blocks: Annotated[tuple[Block, ...], Spec("Blocks", le=2 * MOST_PARTS)] = ()
    goals: Annotated[tuple[GoalReached, ...], Spec("Goals", le=10)] = ()
    proven: bool = False
    marks: Annotated[tuple[JobMark, ...], Spec("Marks", le=2 * MOST_PARTS)] = ()


@dataclass(frozen=True)
class Project:
    """What is to be recorded, when somebody is there, and where it was laid."""

    name: Annotated[str, Spec("Project", ge=1, le=80)]
    school: Annotated[School, Spec("When the sound is chosen", names=SCHOOLS)] = "commit"
    choosing_level: Annotated[
        float, Spec("Choosing is listened to at", "dBA", 30, 110, typical=75, help="At the desk, or in headphones.")
    ] = 75.0
    songs: Annotated[tuple[Song, ...], Spec("Songs", le=MOST_SONGS)] = ()
    people: Annotated[tuple[Person, ...], Spec("People", le=MOST_PEOPLE)] = ()
    days: Annotated[tuple[Day, ...], Spec("Days", le=MOST_DAYS)] = ()
    pins: Annotated[tuple[Pin, ...], Spec("Pinned", le=2 * MOST_PARTS)] = ()
    laid: Laid = Laid()

    def parts(self) -> Iterator[tuple[Song, Part]]:
        """Every part with its song."""
        for song in self.songs:
            for part in song.parts:
                yield song, part

    def part(self, part_id: str) -> tuple[Song, Part]:
        """A part by its id, with its song. PlanError where there is none."""
        found = next(((song, part) for song, part in self.parts() if part.id == part_id), None)
        if found is None:
            raise PlanError(["This part is not in the project any more. Look again."])
        return found

    def is_over(self, block: Block) -> bool:
        """Whether what a block is for is done."""
        part = next((part for _, part in self.parts() if part.id == block.part), None)
        return part is not None and bool(part.chosen if block.choosing else part.done)

    def called(self, part_id: str) -> str:
        """'Cue 3, lead': a part as it is called."""
        song, part = self.part(part_id)
        return f"{song.name}, {part.name}"


class PlanError(ValueError):
    """A project that cannot be: `problems` are sentences that name what is wrong."""

    def __init__(self, problems: list[str]) -> None:
        super().__init__(" ".join(problems))
        self.problems = problems
