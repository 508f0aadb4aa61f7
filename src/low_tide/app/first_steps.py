"""The first minutes: own gear from typical starting points, and a look around the lightship and back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from low_tide.app import bench, locker
from low_tide.app.bench import BenchState
from low_tide.app.errors import NotFound
from low_tide.app.locker import LockerEntry
from low_tide.core.inventory import Amp, Place, Room, Unit
from low_tide.core.rig.changes import Stand
from low_tide.core.rig.standing import stands
from low_tide.core.starting_points import starting_points
from low_tide.formats.documents import dump
from low_tide.store.database import database


@dataclass(frozen=True)
class Start:
    """A starting point as it is offered; `doc` is the record of its first unit, to begin a form with."""

    name: str
    kind: str
    summary: str
    doc: dict[str, Any]


def starts() -> tuple[Start, ...]:
    """Every starting point, in the order the signal meets them."""
    firsts = ((name, point.units[0]) for name, point in starting_points().items())
    return tuple(Start(name, unit.kind, unit.summary(), dump(_own(unit, {}, name))) for name, unit in firsts)


def begin_with(names: Sequence[str]) -> list[LockerEntry]:
    """Put starting points into the locker, all or none; the same one twice is two units. NotFound where one is none."""
    points = []
    known = starting_points()
    for name in names:
        if name not in known:
            raise NotFound(f"There is no starting point “{name}”.")
        points.append(known[name])
    made = []
    with database.atomic():
        taken = {unit.name for unit in locker.all_gear().values()}
        for point in points:
            ids = {unit.id: locker.new_id(unit.name) for unit in point.units}
            for unit in point.units:
                name = locker.numbered(unit.name, taken)
                taken.add(name)
                made.append(locker.add(dump(_own(unit, ids, name))))
    return made


OWN_ROOM, OWN_PLACE = "My room", "Where I listen"


def listen_here(hookup_id: str, saves: int) -> BenchState:
    """A typical room with a listening place in it, put into the locker, and all of the hook-up stood in it.

    Conflict where the hook-up was changed since `saves`; then nothing is put anywhere.
    """
    with database.atomic():
        taken = {unit.name for unit in locker.all_gear().values()}
        room = Room(locker.new_id(OWN_ROOM), locker.numbered(OWN_ROOM, taken), typical=("Volume",))
        place = Place(
            locker.new_id(OWN_PLACE),
            locker.numbered(OWN_PLACE, taken),
            room=room.id,
            ears=True,
            typical=("Distance",),
        )
        for each in (room, place):
            locker.add(dump(each))
        rig = bench.rig_of(bench.row_of(hookup_id))
        stood = tuple(Stand(unit, room.id) for unit, gear in rig.units() if stands(gear))
        return bench.change(hookup_id, stood, saves) if stood else bench.state(hookup_id)


def _own(unit: Unit, ids: dict[str, str], name: str) -> Unit:
    own = replace(unit, id=ids.get(unit.id, ""), name=name)
    return replace(own, inner_speaker=ids.get(own.inner_speaker, "")) if isinstance(own, Amp) else own
