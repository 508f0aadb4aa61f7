"""Changes to a project: what an edit, and what would free a part that does not fit, is made of."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Annotated, Any, Literal, TypeAlias

from low_tide.core.gear.ids import slug
from low_tide.core.planning.dates import in_words
from low_tide.core.planning.part_lines import ReadPart
from low_tide.core.planning.project import (
    Day,
    Laid,
    Part,
    Person,
    Pin,
    PlanError,
    PlanId,
    Project,
    School,
    Song,
)
from low_tide.core.planning.sound_project import sound
from low_tide.core.spec import Spec


@dataclass(frozen=True)
class AddParts:
    """Put parts into their songs, each of which is made where there is none of that name."""

    parts: tuple[ReadPart, ...]
    op: Literal["add_parts"] = "add_parts"


@dataclass(frozen=True)
class SetPart:
    """Say something else of a part. `song`: it moves there, to the end."""

    part: Part
    song: Annotated[str, Spec("Song", le=40)] = ""
    op: Literal["set_part"] = "set_part"


@dataclass(frozen=True)
class DropParts:
    """Take parts out; what came after them, or doubled them, no longer does."""

    parts: Annotated[tuple[PlanId, ...], Spec("Parts", ge=1, le=400)]
    op: Literal["drop_parts"] = "drop_parts"


@dataclass(frozen=True)
class MovePart:
    """Put a part before another of its song, or, where none is named, to the end."""

    part: PlanId
    before: Annotated[str, Spec("Before", le=40)] = ""
    op: Literal["move_part"] = "move_part"


@dataclass(frozen=True)
class CopySong:
    """A new song with the parts of another: what comes after what, and what doubles what, with them; nothing is done
    or timed yet."""

    song: PlanId
    name: Annotated[str, Spec("Song", ge=1, le=80)]
    op: Literal["copy_song"] = "copy_song"


@dataclass(frozen=True)
class RenameSong:
    """Call a song something else."""

    song: PlanId
    name: Annotated[str, Spec("Song", ge=1, le=80)]
    op: Literal["rename_song"] = "rename_song"


@dataclass(frozen=True)
class SetDay:
    """Say when somebody is there on a day; one that was not there yet is added. `was`: the date it had before."""

    day: Day
    was: Annotated[str, Spec("Date before", le=10)] = ""
    op: Literal["set_day"] = "set_day"


@dataclass(frozen=True)
class DropDay:
    """Take a day out, with the pins on it."""

    date: Annotated[str, Spec("Date", ge=10, le=10)]
    op: Literal["drop_day"] = "drop_day"


@dataclass(frozen=True)
class SetPerson:
    """Say who somebody is and when they are there; a new one is added."""

    person: Person
    op: Literal["set_person"] = "set_person"


@dataclass(frozen=True)
class DropPerson:
    """Take somebody out; no part needs them any more."""

    person: PlanId
    op: Literal["drop_person"] = "drop_person"


@dataclass(frozen=True)
class SetProject:
    """Change the project's name, its school, or how loud choosing is listened to; what is left out stays."""

    name: Annotated[str | None, Spec("Project", ge=1, le=80)] = None
    school: Annotated[School | None, Spec("When the sound is chosen")] = None
    choosing_level: Annotated[float | None, Spec("Choosing is listened to at", "dBA", 30, 110)] = None
    op: Literal["set_project"] = "set_project"


@dataclass(frozen=True)
class PinBlock:
    """Hold a block where it is put; a pin it had is moved."""

    pin: Pin
    op: Literal["pin"] = "pin"


@dataclass(frozen=True)
class Unpin:
    """Let go of a block."""

    part: PlanId
    choosing: bool = False
    op: Literal["unpin"] = "unpin"


@dataclass(frozen=True)
class LayOut:
    """Put a plan that was made in the place of the one there is."""

    laid: Laid
    op: Literal["lay_out"] = "lay_out"


ProjectChange: TypeAlias = (
    AddParts
    | SetPart
    | DropParts
    | MovePart
    | CopySong
    | RenameSong
    | SetDay
    | DropDay
    | SetPerson
    | DropPerson
    | SetProject
    | PinBlock
    | Unpin
    | LayOut
)


def fresh(name: str, taken: Iterable[str]) -> str:
    """An id made of a name that nothing else has yet."""
    there, base = set(taken), slug(name)[:30].strip("-") or "x"
    return (
        base
        if base not in there
        else next(f"{base}-{n}" for n in range(2, len(there) + 3) if f"{base}-{n}" not in there)
    )


def _all_ids(project: Project) -> set[str]:
    return {part.id for _, part in project.parts()}


def _song(project: Project, song_id: str) -> Song:
    found = next((song for song in project.songs if song.id == song_id), None)
    if found is None:
        raise PlanError(["This song is not in the project any more. Look again."])
    return found


def _with_songs(project: Project, songs: Sequence[Song]) -> Project:
    return replace(project, songs=tuple(songs))


def _add_parts(project: Project, change: AddParts) -> Project:
    for line in change.parts:
        song = next((s for s in project.songs if s.name.casefold() == line.song.casefold()), None)
        if song is None:
            song = Song(fresh(line.song, (s.id for s in project.songs)), line.song)
            project = _with_songs(project, [*project.songs, song])
        part = replace(line.part, id=fresh(f"{song.id}-{line.part.name}", _all_ids(project)))
        part = _named(project, song, part, line)
        made = replace(song, parts=(*song.parts, part))
        project = _with_songs(project, [made if s.id == song.id else s for s in project.songs])
    return project


def _named(project: Project, song: Song, part: Part, line: ReadPart) -> Part:
    """The part with what it names found: parts of its song, or of another by song and name; people by name."""
    after = tuple(_found_part(project, song, name, part) for name in line.after)
    double_of = _found_part(project, song, line.double_of, part) if line.double_of else ""
    people = []
    for name in line.people:
        known = next((p.id for p in project.people if p.name.casefold() == name.casefold()), None)
        if known is None:
            there = ", ".join(f"“{p.name}”" for p in project.people) or "nobody yet"
            raise PlanError([f"{song.name}, {part.name}: with “{name}” is nobody of this project; there is {there}."])
        people.append(known)
    return replace(part, after=after, double_of=double_of, people=tuple(people))


def _found_part(project: Project, song: Song, name: str, part: Part) -> str:
    said = name.casefold().strip()
    mine = [p for p in song.parts if p.name.casefold() == said or p.role == said]
    others = [
        p for s, p in project.parts() if said in (f"{s.name}, {p.name}".casefold(), f"{s.name} {p.name}".casefold())
    ]
    found = next(iter([p for p in mine if p.name.casefold() == said] or mine or others), None)
    if found is None:
        there = ", ".join(f"“{p.name}”" for p in song.parts) or "none before it"
        raise PlanError(
            [f"{song.name}, {part.name}: there is no part “{name}” to come after or to double; there is {there}."]
        )
    return found.id


def _set_part(project: Project, change: SetPart) -> Project:
    song, _ = project.part(change.part.id)
    if change.song and change.song != song.id:
        there = _song(project, change.song)
        songs = [replace(s, parts=tuple(p for p in s.parts if p.id != change.part.id)) for s in project.songs]
        return _with_songs(
            project, [replace(s, parts=(*s.parts, change.part)) if s.id == there.id else s for s in songs]
        )
    return _each_part(project, lambda part: change.part if part.id == change.part.id else part)


def _each_part(project: Project, made: Callable[[Part], Part]) -> Project:
    return _with_songs(project, [replace(s, parts=tuple(made(p) for p in s.parts)) for s in project.songs])


def _drop_parts(project: Project, change: DropParts) -> Project:
    gone = set(change.parts)
    for each in change.parts:
        project.part(each)
    songs = [replace(s, parts=tuple(p for p in s.parts if p.id not in gone)) for s in project.songs]
    kept = _with_songs(project, [song for song in songs if song.parts])

    def let_go(part: Part) -> Part:
        return replace(
            part,
            after=tuple(each for each in part.after if each not in gone),
            double_of="" if part.double_of in gone else part.double_of,
        )

    laid = replace(kept.laid, blocks=tuple(b for b in kept.laid.blocks if b.part not in gone))
    return replace(_each_part(kept, let_go), laid=laid)


def _move_part(project: Project, change: MovePart) -> Project:
    song, part = project.part(change.part)
    rest = [p for p in song.parts if p.id != part.id]
    at = next((i for i, p in enumerate(rest) if p.id == change.before), len(rest))
    made = replace(song, parts=(*rest[:at], part, *rest[at:]))
    return _with_songs(project, [made if s.id == song.id else s for s in project.songs])


def _copy_song(project: Project, change: CopySong) -> Project:
    song = _song(project, change.song)
    made_id = fresh(change.name, (s.id for s in project.songs))
    taken, ids = _all_ids(project), dict[str, str]()
    for part in song.parts:
        ids[part.id] = fresh(f"{made_id}-{part.name}", taken)
        taken.add(ids[part.id])
    parts = tuple(
        replace(
            part,
            id=ids[part.id],
            double_of=ids.get(part.double_of, ""),
            after=tuple(ids[each] for each in part.after if each in ids),
            took=None,
            done=None,
            chosen=False,
        )
        for part in song.parts
    )
    return _with_songs(project, [*project.songs, Song(made_id, change.name, parts)])


def _rename_song(project: Project, change: RenameSong) -> Project:
    song = _song(project, change.song)
    if any(s.name.casefold() == change.name.casefold() for s in project.songs if s.id != song.id):
        raise PlanError([f"Song: there is one called “{change.name}” already."])
    return _with_songs(project, [replace(s, name=change.name) if s.id == song.id else s for s in project.songs])


def _set_day(project: Project, change: SetDay) -> Project:
    was = change.was or change.day.date
    if change.was and all(day.date != was for day in project.days):
        raise PlanError([f"{was}: this day is not in the project any more. Look again."])
    return replace(project, days=(*(day for day in project.days if day.date != was), change.day))


def _drop_day(project: Project, change: DropDay) -> Project:
    blocks = tuple(b for b in project.laid.blocks if b.date != change.date)
    days = tuple(day for day in project.days if day.date != change.date)
    return replace(project, days=days, laid=replace(project.laid, blocks=blocks))


def _set_person(project: Project, change: SetPerson) -> Project:
    there = any(person.id == change.person.id for person in project.people)
    kept = tuple(change.person if person.id == change.person.id else person for person in project.people)
    return replace(project, people=kept if there else (*kept, change.person))


def _drop_person(project: Project, change: DropPerson) -> Project:
    project = _each_part(
        project, lambda part: replace(part, people=tuple(each for each in part.people if each != change.person))
    )
    return replace(project, people=tuple(p for p in project.people if p.id != change.person))


def _set_project(project: Project, change: SetProject) -> Project:
    said = {key: getattr(change, key) for key in ("name", "school", "choosing_level")}
    return replace(project, **{key: value for key, value in said.items() if value is not None})


def _pin(project: Project, change: PinBlock) -> Project:
    project.part(change.pin.part)
    if all(day.date != change.pin.date for day in project.days):
        raise PlanError([f"{change.pin.date}: this day is not in the project."])
    return replace(
        _unpin(project, Unpin(change.pin.part, change.pin.choosing)), pins=(*_others(project, change.pin), change.pin)
    )


def _others(project: Project, pin: Pin) -> tuple[Pin, ...]:
    return tuple(p for p in project.pins if (p.part, p.choosing) != (pin.part, pin.choosing))


def _unpin(project: Project, change: Unpin) -> Project:
    kept = (p for p in project.pins if (p.part, p.choosing) != (change.part, change.choosing))
    return replace(project, pins=tuple(kept))


_MAKE: dict[type, Callable[[Project, Any], Project]] = {
    AddParts: _add_parts,
    SetPart: _set_part,
    DropParts: _drop_parts,
    MovePart: _move_part,
    CopySong: _copy_song,
    RenameSong: _rename_song,
    SetDay: _set_day,
    DropDay: _drop_day,
    SetPerson: _set_person,
    DropPerson: _drop_person,
    SetProject: _set_project,
    PinBlock: _pin,
    Unpin: _unpin,
    LayOut: lambda project, change: replace(project, laid=change.laid),
}


def changed(project: Project, changes: Iterable[ProjectChange]) -> Project:
    """The project with changes made to it, one after the other; PlanError where it cannot be so."""
    for change in changes:
        project = _MAKE[type(change)](project, change)
    return sound(project)


LAID_OUT = "Lay it out"


def describe(project: Project, change: ProjectChange) -> str:
    """What a change does, in a few words, for the list of what can be undone."""
    names = {part.id: f"{song.name}, {part.name}" for song, part in project.parts()}
    songs = {song.id: song.name for song in project.songs}
    people = {person.id: person.name for person in project.people}
    match change:
        case AddParts(parts):
            return f"Add {parts[0].song}, {parts[0].part.name}" if len(parts) == 1 else f"Add {len(parts)} parts"
        case SetPart(part):
            return f"Edit {names.get(part.id, part.name)}"
        case DropParts(parts):
            return f"Take out {names.get(parts[0], parts[0])}" if len(parts) == 1 else f"Take out {len(parts)} parts"
        case MovePart(part):
            return f"Move {names.get(part, part)}"
        case CopySong(song, name):
            return f"Copy the parts of {songs.get(song, song)} to {name}"
        case RenameSong(song, name):
            return f"Rename {songs.get(song, song)} to {name}"
        case SetDay(day):
            return f"Set {in_words(day.date)}"
        case DropDay(date):
            return f"Take out {in_words(date)}"
        case SetPerson(person):
            return f"Set {person.name}"
        case DropPerson(person):
            return f"Take out {people.get(person, person)}"
        case SetProject():
            return "Edit the project"
        case PinBlock(pin):
            return f"Pin {names.get(pin.part, pin.part)}"
        case Unpin(part):
            return f"Let go of {names.get(part, part)}"
        case LayOut():
            return LAID_OUT
