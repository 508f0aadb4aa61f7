"""Neighbours: what they said, the limits it speaks for, and what they are told beforehand."""

from __future__ import annotations

from dataclasses import dataclass
from math import isfinite
from typing import Annotated, Literal

from low_tide.app import locker, log
from low_tide.app.bench import rig_of, row_of
from low_tide.app.clock import instant, local
from low_tide.app.errors import Invalid, NotReady
from low_tide.app.log import LogLine
from low_tide.core.acoustics.daily import DAILY
from low_tide.core.inventory import Place
from low_tide.core.loudness.sound_level import levels_as_set
from low_tide.core.spec import Spec
from low_tide.core.units import figure
from low_tide.core.venue.neighbours import Said, proposed
from low_tide.core.venue.place import Limit
from low_tide.formats.documents import dump, parse
from low_tide.formats.sentences import FormatError
from low_tide.store import takes as kept
from low_tide.store.database import database
from low_tide.store.home import now
from low_tide.store.takes import LineRecord

COMPLAINED = {"complaint": "complaint", "none": "nothing to complain of"}


@dataclass(frozen=True)
class NeighbourSaid:
    """A complaint, or that there was none: at a place, at a level there (dBA, None where nobody knows), in words."""

    kind: Literal["complaint", "none"]
    place: Annotated[str, Spec("Place", ge=1, le=64)]
    level: Annotated[float | None, Spec("Level there", "dBA", 0, 140)] = None
    words: Annotated[str, Spec("In words", le=800)] = ""


@dataclass(frozen=True)
class LimitProposal:
    """Limits that a place should have by what was said there: all of them, and why those that are new or lower."""

    place: str
    name: str
    limits: tuple[Limit, ...]
    why: tuple[str, ...]


@dataclass(frozen=True)
class AtTheirs:
    """How loud a hook-up comes to be at a place: dBA as predicted, and at the edge of what is sure, in words of daily
    life; None where it cannot be told, and `why`."""

    place: str
    name: str
    level: float | None
    most: float | None
    words: str
    why: str


@dataclass(frozen=True)
class Notice:
    """What neighbours may be told of a hook-up beforehand: how loud it comes to be at every place but one's own."""

    hookup: str
    name: str
    hour: str
    hours: float
    places: tuple[AtTheirs, ...]


def _place(place_id: str) -> Place:
    unit = locker.get(place_id).unit
    if not isinstance(unit, Place):
        raise Invalid(f"Place: {unit.name} is no listening place.")
    return unit


def write(doc: object, at: str = "", session_id: int | None = None) -> LogLine:
    """Write down what a neighbour said, at a local time or now."""
    try:
        said = parse(NeighbourSaid, doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    when = instant(at) if at else now()
    with database.atomic():
        place = _place(said.place)
        level = "" if said.level is None else f" at {figure(said.level, 2)} dBA"
        words = f": {said.words.strip()}" if said.words.strip() else ""
        text = f"{place.name}, {COMPLAINED[said.kind]}{level}{words}"[:1000]
        record = LineRecord(log.session_for(session_id), text, when, said.kind, said.place, said.level)
        return log.told_line(kept.write_line(record))


def _said() -> dict[str, list[Said]]:
    found: dict[str, list[Said]] = {}
    for line in kept.of_neighbours():
        if line.level is not None:
            clock = local(line.at)
            found.setdefault(line.place, []).append(
                Said(60 * clock.hour + clock.minute, line.level, line.kind == "complaint")
            )
    return found


def proposals() -> tuple[LimitProposal, ...]:
    """Limits that places should have by what was said there; none for a place whose limits are enough."""
    places = locker.all_gear()
    found = []
    for place_id, said in _said().items():
        place = places.get(place_id)
        if isinstance(place, Place) and not place.archived and (its := proposed(place, said)) is not None:
            found.append(LimitProposal(place.id, place.name, its.limits, its.why))
    return tuple(found)


def accept(place_id: str) -> LimitProposal:
    """Give a place the limits that are proposed for it. NotReady where nothing is any more."""
    with database.atomic():
        found = next((each for each in proposals() if each.place == place_id), None)
        if found is None:
            raise NotReady("Nothing is proposed for this place any more. Look again.")
        entry = locker.get(place_id)
        limits = [dump(limit) for limit in found.limits]
        locker.edit(place_id, {**dump(entry.unit), "limits": limits}, entry.revision)
        return found


def loud_as(level: float) -> str:
    """A level (dBA) in words of daily life; typical figures."""
    quieter = [mark for mark in DAILY if mark.level <= level]
    if not quieter:
        return f"quieter than {DAILY[0].name}"
    nearest = quieter[-1]
    return f"about as loud as {nearest.name}" if level - nearest.level < 4 else f"louder than {nearest.name}"


def notice(hookup_id: str) -> Notice:
    """What neighbours may be told of a hook-up beforehand."""
    row = row_of(hookup_id)
    rig = rig_of(row)
    found = []
    # Whoever has asked for a limit is a neighbour; the others may be.
    for heard in sorted(levels_as_set(rig), key=lambda heard: heard.limit is None):
        if heard.ears:
            continue
        most = heard.most if isfinite(heard.most) else None
        words = "" if most is None else loud_as(most)
        found.append(AtTheirs(heard.place, heard.name, heard.dba, most, words, heard.why))
    occasion = rig.hookup.occasion
    return Notice(row.id, row.name, occasion.hour, occasion.hours, tuple(found))
