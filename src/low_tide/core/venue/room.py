"""A room: its size, its surfaces, and how much of the sound they swallow."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.acoustics.rooms import (
    ABSORPTION,
    absorption_area,
    room_constant,
    room_constants,
)
from low_tide.core.frequency import Real
from low_tide.core.gear.base import Identity, Name, Notes, TypicalNames, once
from low_tide.core.spec import Spec
from low_tide.core.units import figure
from low_tide.core.venue.surrounding import Surrounding


@dataclass(frozen=True)
class Room(Surrounding):
    """A room: its volume, and how damped it is."""

    id: Identity
    name: Name
    kind: Literal["room"] = "room"
    notes: Notes = ""
    typical: TypicalNames = ()
    volume: Annotated[float, Spec("Volume", "m³", 2, 100_000, typical=40)] = 40.0
    damping: Annotated[
        Literal["bare", "furnished", "treated", "hall"],
        Spec(
            "It is",
            names={"bare": "bare", "furnished": "furnished", "treated": "treated", "hall": "a hall with people"},
        ),
    ] = "furnished"
    constant: Annotated[
        float | None, Spec("Room constant, measured", "m²", 0.5, 20_000, help="Empty: estimated from the two above.")
    ] = None
    gentle: Annotated[bool, Spec("Children or pets are there", help="Then a hot case is told of sooner.")] = False
    archived: Annotated[bool, Spec("Archived")] = False

    def room_constant(self) -> float:
        """Room constant at 1 kHz in m², measured or estimated."""
        return self.constant or room_constant(self.volume, ABSORPTION[self.damping])

    @once
    def room_constants(self) -> Real:
        """Room constant over the octaves in m², shape (8,)."""
        return room_constants(self.room_constant())

    @once
    def absorption(self) -> Real:
        """Equivalent absorption area over the octaves in m², shape (8,)."""
        return absorption_area(self.volume, self.room_constants())

    def assumptions(self) -> tuple[str, ...]:
        return () if self.constant else (f"{self.name}: room constant estimated ({figure(self.room_constant())} m²)",)

    def summary(self) -> str:
        return f"room, {figure(self.volume)} m³, {self.damping}"
