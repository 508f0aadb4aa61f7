"""A hook-up: units of gear, their settings, and leads between named sockets."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Annotated, Literal, TypeAlias

from low_tide.core.acoustics.rooms import FACING
from low_tide.core.gear.base import Identity, Setting, identity
from low_tide.core.gear.ids import OPEN_AIR
from low_tide.core.spec import Spec
from low_tide.core.thermal.heating import DUTY
from low_tide.core.venue.time_of_day import minute_of


class HookupError(ValueError):
    """A hook-up that cannot be: `problems` are sentences that name what is wrong."""

    def __init__(self, problems: list[str]) -> None:
        super().__init__(" ".join(problems))
        self.problems = problems


ControlId: TypeAlias = Annotated[str, Spec("Control", ge=1, le=60)]


@dataclass(frozen=True)
class End:
    """One end of a lead: a socket of a unit."""

    unit: Identity
    socket: Annotated[str, Spec("Socket", ge=1, le=40)]

    @property
    def name(self) -> str:
        """Both in one word."""
        return f"{self.unit}.{self.socket}"


@dataclass(frozen=True)
class Link:
    """A lead in use, known by the gear that is its conductor: a lead, a cabinet with a fixed lead, or a
    microphone before a cabinet, whose conductor is the air.

    `b` None: the far end hangs free. `reach`: how far apart the sockets stand, m. `tight`: an angled plug is
    wanted.
    """

    lead: Identity
    a: End
    b: End | None = None
    reach: Annotated[float | None, Spec("Way between the sockets", "m", 0.05, 200)] = None
    tight: Annotated[bool, Spec("Little room: an angled plug is wanted")] = False

    def ends(self) -> tuple[End, ...]:
        """Its ends: one where the other hangs free."""
        return (self.a, self.b) if self.b else (self.a,)


Facing: TypeAlias = Annotated[
    Literal["at", "beside", "away"], Spec("It faces", names={key: name for key, (name, _) in FACING.items()})
]


@dataclass(frozen=True)
class Placed:
    """A unit of gear in a hook-up. Settings left out stand at their default.

    `room`: the room it stands in, or `OPEN_AIR`; `mount`: what keeps it off the floor; ids, empty where it is not
    said. `facing`: by place, where a cabinet does not face it.
    `guarded`: controls that are taped or locked where they stand, so that no hand moves them by the way.
    """

    unit: Identity
    settings: Mapping[str, Setting] = field(default_factory=dict)
    room: Annotated[str, identity("Stands in", f"|{OPEN_AIR}|")] = ""
    mount: Annotated[str, identity("On", "|")] = ""
    facing: Annotated[Mapping[Identity, Facing], Spec("Faces")] = field(default_factory=dict)
    guarded: Annotated[tuple[ControlId, ...], Spec("Taped", le=60)] = ()


Playing: TypeAlias = Annotated[
    Literal["rests", "riff", "held"], Spec("Played are", names={key: name for key, (name, _) in DUTY.items()})
]


@dataclass(frozen=True)
class Occasion:
    """When and how a hook-up is to be played, and how loud it is wanted where.

    `hour`: a time of day as '21:00', empty where it is not said. `place` with `level` (dBA): the wish.
    """

    hour: Annotated[str, Spec("Hour", le=5)] = ""
    hours: Annotated[float, Spec("Session", "h", 0.1, 16)] = 2.0
    playing: Playing = "riff"
    ambient: Annotated[float, Spec("Room temperature", "°C", -20, 60)] = 22.0
    place: Annotated[str, identity("Wanted at", "|")] = ""
    level: Annotated[float | None, Spec("Wanted level", "dBA", 0, 140)] = None

    def __post_init__(self) -> None:
        if self.hour:
            minute_of(self.hour)


@dataclass(frozen=True)
class ControlSetting:
    """A knob as it stood, in words ('6', 'two o'clock'), where the unit's record has no control for it."""

    name: ControlId
    value: Annotated[str, Spec("Set to", le=60)] = ""


SceneName: TypeAlias = Annotated[str, Spec("Scene", ge=1, le=60)]


@dataclass(frozen=True)
class SetAt:
    """Where a scene sets a control of a unit."""

    unit: Identity
    control: ControlId
    value: Setting


@dataclass(frozen=True)
class Scene:
    """A named setting of a hook-up: what a hand or a foot changes from one part to the next while it is on.

    `settings`: of those controls it says; everything else stays as the hook-up stands. `order`: pedals
    in series from the guitar on, where they are to lie otherwise; empty: as they are plugged. `knobs`: what no control
    stands for, as the channel of the amp.
    """

    name: SceneName
    settings: Annotated[tuple[SetAt, ...], Spec("Settings", le=120)] = ()
    order: Annotated[tuple[Identity, ...], Spec("Order of pedals", le=60)] = ()
    knobs: Annotated[tuple[ControlSetting, ...], Spec("Knobs", le=60)] = ()

    def sets(self, unit: str, control: str) -> bool:
        """Whether it says where a control stands."""
        return any((each.unit, each.control) == (unit, control) for each in self.settings)


MOST_SCENES = 8


@dataclass(frozen=True)
class Hookup:
    """Units and leads; it refers to gear by id."""

    name: Annotated[str, Spec("Name", ge=1, le=120)] = "New hook-up"
    notes: Annotated[str, Spec("Notes", le=8000)] = ""
    units: Annotated[tuple[Placed, ...], Spec("Units", le=60)] = ()
    links: Annotated[tuple[Link, ...], Spec("Leads", le=120)] = ()
    occasion: Annotated[Occasion, Spec("Occasion")] = Occasion()
    scenes: Annotated[tuple[Scene, ...], Spec("Scenes", le=MOST_SCENES)] = ()

    def gear_ids(self) -> tuple[str, ...]:
        """Every gear id it refers to, units first, each once; a scene may still name what is gone."""
        around = [i for p in self.units for i in (p.room, p.mount) if i and i != OPEN_AIR]
        return tuple(dict.fromkeys([p.unit for p in self.units] + [link.lead for link in self.links] + around))
