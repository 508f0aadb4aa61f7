"""In which room a unit of a hook-up stands."""

from __future__ import annotations

from low_tide.core.inventory import (
    Amp,
    Attenuator,
    Cabinet,
    Load,
    ReAmp,
    Unit,
)
from low_tide.core.rig.hookup import Hookup


def stands(unit: Unit) -> bool:
    """Whether it matters in which room a unit stands: it sounds, or gets hot, or is an amp."""
    return isinstance(unit, Amp | Cabinet | Load | Attenuator | ReAmp)


def room_of_the_rest(hookup: Hookup) -> str:
    """The room that every unit of a hook-up stands in of which it is said; empty where they differ."""
    rooms = {p.room for p in hookup.units if p.room}
    return rooms.pop() if len(rooms) == 1 else ""
