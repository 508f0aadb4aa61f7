"""Where a hook-up stands and who hears it: rooms, partitions, listening places, mounts.

They lie in the locker like gear, but are no units of a hook-up: nothing is plugged into them.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from itertools import combinations
from typing import Annotated, Literal

from low_tide.core.acoustics.rooms import (
    ABSORPTION,
    OCTAVES,
    REDUCTION,
    absorption_area,
    composite_reduction,
    isolates_from,
    mount_resonance,
    room_constant,
    room_constants,
    single_number,
)
from low_tide.core.frequency import Real
from low_tide.core.gear.base import Identity, Name, Notes, Passive, Socket, TypicalNames, identity, once
from low_tide.core.spec import Spec
from low_tide.core.units import figure

CLOCK = re.compile(r"([01]?\d|2[0-3]):([0-5]\d)")
DAY_MINUTES = 24 * 60


def minute_of(hour: str, field: str = "Hour") -> int:
    """Minutes after midnight of a time of day as '21:00'. ValueError names the field."""
    found = CLOCK.fullmatch(hour.strip())
    if not found:
        raise ValueError(f"{field}: “{hour}” is no time of day; 00:00 to 23:59 is wanted.")
    return int(found[1]) * 60 + int(found[2])


class Surrounding(Passive):
    """What is no unit of a hook-up: it has no sockets."""

    def sockets(self) -> tuple[Socket, ...]:
        return ()


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


@dataclass(frozen=True)
class Limit:
    """How loud it may get at a place, from one time of day to another, and who says so."""

    start: Annotated[str, Spec("From", le=5)] = "21:00"
    end: Annotated[str, Spec("Until", le=5)] = "07:00"
    level: Annotated[float, Spec("At most", "dBA", 15, 140)] = 35.0
    whose: Annotated[str, Spec("Whose limit", le=60)] = ""

    def _span(self) -> tuple[int, int]:
        """Minute of the day it begins at, and for how many it holds; the same hour twice means the whole day."""
        start, end = minute_of(self.start, "From"), minute_of(self.end, "Until")
        return start, (end - start) % DAY_MINUTES or DAY_MINUTES

    def minutes(self) -> frozenset[int]:
        """Minutes of the day it holds in."""
        start, span = self._span()
        return frozenset((start + i) % DAY_MINUTES for i in range(span))

    def begins_after(self, hour: str) -> float:
        """Hours from a time of day until it holds; 0 where it holds then."""
        start, span = self._span()
        at = minute_of(hour)
        return 0.0 if (at - start) % DAY_MINUTES < span else (start - at) % DAY_MINUTES / 60


@dataclass(frozen=True)
class Place(Surrounding):
    """A place where somebody listens, or wants to sleep."""

    id: Identity
    name: Name
    kind: Literal["place"] = "place"
    notes: Notes = ""
    typical: TypicalNames = ()
    room: Annotated[str, identity("In", "|", refers="room", help="Left out: in the open.")] = ""
    distance: Annotated[
        float,
        Spec("Distance", "m", 0.1, 5000, help="From the cabinet in the same room; in the open, from the wall."),
    ] = 2.0
    ears: Annotated[bool, Spec("Whoever plays or records listens here")] = False
    limits: Annotated[tuple[Limit, ...], Spec("Limits", le=6)] = ()
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        for first, second in combinations(self.limits, 2):
            both = first.minutes() & second.minutes()
            if both:
                begins = minute_of(second.start)
                at = begins if begins in both else minute_of(first.start)
                raise ValueError(
                    f"Limits: {at // 60:02d}:{at % 60:02d} is in two of them, {first.start} to {first.end} and"
                    f" {second.start} to {second.end}. Give each hour one limit."
                )
        for limit in self.limits:
            limit.minutes()

    def limit_within(self, hour: str, hours: float) -> Limit | None:
        """The strictest limit that holds at any time of a session from `hour` on, `hours` long."""
        during = (limit for limit in self.limits if limit.begins_after(hour) < hours)
        return min(during, key=lambda limit: limit.level, default=None)

    def strictest(self) -> Limit | None:
        return min(self.limits, key=lambda limit: limit.level, default=None)

    def summary(self) -> str:
        least = self.strictest()
        what = "listening place" if self.ears else "place"
        return f"{what}, {figure(least.level)} dBA from {least.start}" if least else what


@dataclass(frozen=True)
class Mount(Surrounding):
    """Something soft under a cabinet that keeps it off the floor."""

    id: Identity
    name: Name
    kind: Literal["mount"] = "mount"
    notes: Notes = ""
    typical: TypicalNames = ()
    deflection: Annotated[float, Spec("Gives way under its load by", "mm", 0.05, 100)] = 4.0
    least_weight: Annotated[float, Spec("For at least", "kg", 0, 500)] = 5.0
    most_weight: Annotated[float, Spec("For at most", "kg", 1, 1000)] = 60.0
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        if self.least_weight > self.most_weight:
            raise ValueError("For at least: it must not be over “for at most”.")

    def resonance(self) -> float:
        """Resonance with its cabinet on it, Hz."""
        return mount_resonance(self.deflection / 1000)

    def isolates_from(self) -> float:
        """It isolates above this frequency, Hz."""
        return isolates_from(self.deflection / 1000)

    def carries(self, weight: float) -> bool:
        """Whether a cabinet of this weight (kg) is within its bounds."""
        return self.least_weight <= weight <= self.most_weight

    def summary(self) -> str:
        return f"mount, isolates above {figure(self.isolates_from(), 2)} Hz"
