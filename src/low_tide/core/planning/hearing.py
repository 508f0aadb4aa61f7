"""How loud a part is, and for whom: at every place with a limit, and at the ears of everybody who listens."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import ceil, inf

import numpy as np

from low_tide.core.acoustics import rooms as acoustics
from low_tide.core.acoustics.exposure import NO_ALLOWANCE_DBA, allowed_hours
from low_tide.core.loudness.sound_level import (
    IN_A_ROOM,
    NO_WAY,
    Source,
    arriving,
    levels_as_set,
    listening_level,
    phones,
    together,
)
from low_tide.core.planning.problem import ALLOWANCE, SLOT_MIN
from low_tide.core.planning.project import Person
from low_tide.core.rig.rig import Rig
from low_tide.core.units import figure
from low_tide.core.venue.place import Place
from low_tide.core.venue.room import Room

NOTHING_SOUNDS = "no cabinet is driven"


@dataclass(frozen=True)
class AtPlace:
    """What comes to a place, dBA at the edge of what is sure; −inf for nothing, None where that cannot be told, and
    `why`. `unjudged`: no way there is on record, so its limit is not judged."""

    place: str
    name: str
    most: float | None
    why: str = ""
    unjudged: bool = False


@dataclass(frozen=True)
class Hearing:
    """A part as it is heard: at every place, and by every listener (dBA, at the edge of what is sure; None where nobody
    can say). `where`: what whoever records hears it at."""

    places: tuple[AtPlace, ...]
    ears: tuple[float | None, ...]
    where: str = ""


def _played(rig: Rig, person: Person, place: Place) -> AtPlace:
    """What somebody's own playing comes to at a place: the programme's shape, sent out alike in all directions."""
    room = rig.gear.get(person.room)
    if person.level is None:
        return AtPlace(place.id, place.name, -inf)
    if not isinstance(room, Room):
        return AtPlace(place.id, place.name, None, f"it is not said in which room {person.name} plays")
    bands = person.level + acoustics.programme_octaves()
    arrived = arriving(rig, Source(bands, np.ones_like(bands), room), place)
    if arrived is None:
        return AtPlace(place.id, place.name, None, NO_WAY, unjudged=True)
    level = acoustics.weighted_level(arrived.bands, "A") + IN_A_ROOM.with_(arrived.spread).up
    return AtPlace(place.id, place.name, level)


def _both(one: AtPlace, other: AtPlace) -> AtPlace:
    """Two sounds at one place. What cannot be told of either cannot be told of both; a way that is not on record adds
    nothing that is known."""
    for each in (one, other):
        if each.most is None and not each.unjudged:
            return each
    if one.most is None or other.most is None:
        return other if one.most is None else one
    silent = [each for each in (one, other) if each.most == -inf]
    if silent:
        return other if silent[0] is one else one
    return AtPlace(one.place, one.name, together(one.most, other.most))


def at_places(rig: Rig, sounds: bool, people: Sequence[Person]) -> tuple[AtPlace, ...]:
    """What a hook-up and everybody who plays beside it come to at every place. `sounds`: the hook-up is played."""
    heard = {level.place: level for level in levels_as_set(rig)} if sounds else {}
    found = []
    for place in rig.places:
        level = heard.get(place.id)
        here = AtPlace(place.id, place.name, -inf)
        if level is not None and level.dba is not None:
            here = AtPlace(place.id, place.name, level.most)
        elif level is not None and level.why != NOTHING_SOUNDS:
            here = AtPlace(place.id, place.name, None, level.why, unjudged=level.why == NO_WAY)
        for person in people:
            here = _both(here, _played(rig, person, place))
        found.append(here)
    return tuple(found)


def heard(rig: Rig, sounds: bool, people: Sequence[Person], listeners: Sequence[Person | None]) -> Hearing:
    """A part as it is heard by everybody and at every place. `listeners`: None for whoever records."""
    places = at_places(rig, sounds, people)
    by_id = {each.place: each for each in places}
    worn = max((pair.most + pair.spread for pair in phones(rig)), default=None) if sounds else None
    mine = [_known(by_id[p.id]) for p in rig.places if p.ears]
    ears: list[float | None] = []
    for listener in listeners:
        if listener is None:
            ears.append(_with_phones(_loudest(mine), worn))
        elif listener in people and listener.place in by_id:
            others = [p for p in people if p != listener]
            there = next(each for each in at_places(rig, sounds, others) if each.place == listener.place)
            ears.append(_known(there))
        else:
            ears.append(-inf)
    return Hearing(places, tuple(ears), listening_level(rig)[1] if sounds else "")


def _with_phones(level: float | None, worn: float | None) -> float | None:
    """What is heard at a place with headphones on as well."""
    if level is None or worn is None:
        return level
    return together(None if level == -inf else level, worn)


def _known(there: AtPlace) -> float | None:
    return -inf if there.unjudged else there.most


def _loudest(levels: Sequence[float | None]) -> float | None:
    known = [level for level in levels if level is not None]
    return max(known, default=-inf) if len(known) == len(levels) else None


def share(level: float | None, slots: int, school: str) -> int:
    """The share of an allowance that so many slots at a level (dBA) take, rounded up; none where it is not known."""
    if level is None or level == -inf:
        return 0
    hours = allowed_hours(level, school)
    return ceil(ALLOWANCE * slots * SLOT_MIN / 60 / hours) if hours > 0 else ALLOWANCE + 1


def too_loud(hearing: Hearing, names: Sequence[str]) -> str:
    """Why nobody may be there at all: over 115 dBA there is no allowance in any school. Empty where it is not so."""
    for level, name in zip(hearing.ears, names, strict=True):
        if level is not None and level > NO_ALLOWANCE_DBA:
            where = f", {hearing.where}" if hearing.where and name == names[0] else ""
            return (
                f"{figure(level, 2)} dBA for {name}{where}: over {figure(NO_ALLOWANCE_DBA)} dBA is never planned. Turn"
                " it down, or say how far headphones go at most."
            )
    return ""


def limits_over(place: Place, most: float | None) -> tuple[int, ...]:
    """Which limits of a place a level (dBA) does not keep; all of them where it cannot be told."""
    return tuple(i for i, limit in enumerate(place.limits) if most is None or most > limit.level)
