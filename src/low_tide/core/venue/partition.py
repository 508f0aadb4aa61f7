"""A partition between two rooms, or a room and the open: how much it lets through."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.acoustics.rooms import (
    OCTAVES,
    REDUCTION,
    composite_reduction,
    single_number,
)
from low_tide.core.frequency import Real
from low_tide.core.gear.base import Identity, Name, Notes, TypicalNames, identity, once
from low_tide.core.spec import Spec
from low_tide.core.venue.surrounding import Surrounding


@dataclass(frozen=True)
class Surface:
    """A part of a partition: what it is made of, and how large it is."""

    made_of: Annotated[
        Literal[
            "opening", "louvred_door", "hollow_door", "solid_door", "stud_wall", "brick_wall", "bulkhead", "cupboard"
        ],
        Spec("Made of", names={key: name for key, (name, _) in REDUCTION.items()}),
    ] = "stud_wall"
    area: Annotated[float, Spec("Area", "m²", 0.01, 2000, typical=10)] = 10.0
    reduction: Annotated[
        tuple[Annotated[float, Spec("Reduction", "dB", 0, 90)], ...],
        Spec(
            "Reduction at 63, 125, 250, 500 Hz, 1, 2, 4, 8 kHz",
            "dB",
            le=8,
            help="Empty: estimated from what it is made of.",
        ),
    ] = ()

    def __post_init__(self) -> None:
        if len(self.reduction) not in (0, len(OCTAVES)):
            raise ValueError(
                f"Reduction: eight values are wanted, one for each octave; these are {len(self.reduction)}."
            )

    def bands(self) -> tuple[float, ...]:
        """Its reduction by octave (dB), measured or usual for what it is made of."""
        return self.reduction or REDUCTION[self.made_of][1]


@dataclass(frozen=True)
class Partition(Surrounding):
    """What parts a room from another, or from the open: a wall with a door in it is two parts."""

    id: Identity
    name: Name
    kind: Literal["partition"] = "partition"
    notes: Notes = ""
    typical: TypicalNames = ()
    between: Annotated[str, identity("From room", "|", refers="room")] = ""
    other: Annotated[str, identity("To room", "|", refers="room", help="Left out: to the open.")] = ""
    surfaces: Annotated[tuple[Surface, ...], Spec("Parts", ge=1, le=8)] = (Surface(),)
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        if self.between and self.between == self.other:
            raise ValueError("Partition: it has the same room on both sides.")

    @once
    def reduction(self) -> Real:
        """Composite R in dB over the octaves, shape (8,)."""
        return composite_reduction(tuple((p.area, p.bands()) for p in self.surfaces))

    def area(self) -> float:
        """All of its parts, m²."""
        return sum(p.area for p in self.surfaces)

    @once
    def single_number(self) -> int:
        """R_w of the whole, dB."""
        return single_number(self.reduction())

    def decides(self) -> str:
        """'; its hollow door decides' where it is of several parts."""
        return f"; its {REDUCTION[self.weakest().made_of][0]} decides" if len(self.surfaces) > 1 else ""

    def weakest(self) -> Surface:
        """The part that lets most through at 500 Hz."""
        return max(self.surfaces, key=lambda p: p.area * 10 ** (-p.bands()[3] / 10))

    def assumptions(self) -> tuple[str, ...]:
        if all(p.reduction for p in self.surfaces):
            return ()
        return (f"{self.name}: sound reduction estimated from what it is made of",)

    def summary(self) -> str:
        what = "partition" if len(self.surfaces) > 1 else REDUCTION[self.surfaces[0].made_of][0]
        return f"{what}, about {self.single_number()} dB{self.decides()}"
