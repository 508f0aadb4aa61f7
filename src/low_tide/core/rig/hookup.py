"""A hook-up: units of gear, their settings, and leads between named sockets."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Annotated, Literal, TypeAlias, TypeVar, cast

from low_tide.core.acoustics.rooms import FACING
from low_tide.core.circuit.network import merged
from low_tide.core.frequency import Real
from low_tide.core.gear.base import FITS, Control, Face, Identity, Setting, Site, Socket, identity
from low_tide.core.gear.ids import OPEN_AIR
from low_tide.core.inventory import (
    Amp,
    Attenuator,
    Cabinet,
    Headphones,
    Interface,
    Lead,
    Load,
    Microphone,
    Mount,
    Place,
    ReAmp,
    Room,
    Surrounding,
    Unit,
)
from low_tide.core.spec import Spec
from low_tide.core.thermal.heating import DUTY
from low_tide.core.venue.surroundings import minute_of


class HookupError(ValueError):
    """A hook-up that cannot be: `problems` are sentences that name what is wrong."""

    def __init__(self, problems: list[str]) -> None:
        super().__init__(" ".join(problems))
        self.problems = problems


@dataclass(frozen=True)
class End:
    """One end of a lead: a socket of a unit."""

    unit: Identity
    socket: Annotated[str, Spec("Socket", ge=1, le=40)]


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
    guarded: Annotated[tuple[Annotated[str, Spec("Control", ge=1, le=60)], ...], Spec("Taped", le=60)] = ()


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
class Hookup:
    """Units and leads; it refers to gear by id."""

    name: Annotated[str, Spec("Name", ge=1, le=120)] = "New hook-up"
    notes: Annotated[str, Spec("Notes", le=8000)] = ""
    units: Annotated[tuple[Placed, ...], Spec("Units", le=60)] = ()
    links: Annotated[tuple[Link, ...], Spec("Leads", le=120)] = ()
    occasion: Annotated[Occasion, Spec("Occasion")] = Occasion()

    def gear_ids(self) -> tuple[str, ...]:
        """Every gear id it refers to, units first, each once."""
        around = [i for p in self.units for i in (p.room, p.mount) if i and i != OPEN_AIR]
        return tuple(dict.fromkeys([p.unit for p in self.units] + [link.lead for link in self.links] + around))


GearById: TypeAlias = Mapping[str, Unit]
Owned = TypeVar("Owned", bound=Unit)


@dataclass(frozen=True)
class Correction:
    """What readings at a place add to its prediction: dB, ± dB, and how many readings it rests on.

    They hold for the `cabinet` that sounded and the `room` it stood in. `turned_down`: something was turned down
    before the power stage, by an amount nobody knows.
    """

    offset: float
    spread: float
    readings: int
    cabinet: str = ""
    room: str = ""
    turned_down: bool = False


OTHER_CABINET_DB = 3.0
"""The least ± of what readings of one cabinet say of another in the same room."""


@dataclass(frozen=True)
class Known:
    """What was found out by measuring: corrections by place, and the part of the listening allowance already used."""

    corrections: Mapping[str, tuple[Correction, ...]] = field(default_factory=dict)
    dose: float = 0.0

    def correction(self, place: str, cabinet: str, room: str, turned_down: bool) -> Correction | None:
        """What was learned at a place that holds for a cabinet in a room; None where nothing does.

        What was read turned down says nothing of a hook-up that is not. The same cabinet comes before another, and
        of one that is turned down what was read so before what was not.
        """
        fit = [c for c in self.corrections.get(place, ()) if c.room == room and (turned_down or not c.turned_down)]
        best = max(fit, key=lambda c: (c.cabinet == cabinet, c.turned_down == turned_down, c.readings), default=None)
        if best is None or best.cabinet == cabinet:
            return best
        return replace(best, spread=max(best.spread, OTHER_CABINET_DB))


@dataclass(frozen=True)
class Rig:
    """A hook-up together with the gear it refers to, whatever else lies in the locker, and what was measured."""

    hookup: Hookup
    gear: GearById
    known: Known = Known()

    @cached_property
    def _settings(self) -> dict[str, dict[str, Setting]]:
        return {
            placed.unit: {c.id: placed.settings.get(c.id, c.default) for c in self.gear[placed.unit].controls()}
            for placed in self.hookup.units
        }

    @cached_property
    def _sockets(self) -> dict[End, Socket]:
        return {End(p.unit, s.id): s for p in self.hookup.units for s in self.gear[p.unit].sockets()}

    @cached_property
    def _link_at(self) -> dict[End, Link]:
        # Several microphones may stand before one cabinet; a socket holds one plug.
        return {end: link for link in self.hookup.links for end in link.ends() if self.socket(end).level != "air"} | {
            end: link for link in self.hookup.links for end in link.ends() if end.unit == link.lead
        }

    def units(self) -> Iterator[tuple[str, Unit]]:
        """Units in the hook-up, in the order they were added."""
        return ((p.unit, self.gear[p.unit]) for p in self.hookup.units)

    def amps(self) -> Iterator[tuple[str, Amp]]:
        return ((u, g) for u, g in self.units() if isinstance(g, Amp))

    def cabinets(self) -> Iterator[tuple[str, Cabinet]]:
        return ((u, g) for u, g in self.units() if isinstance(g, Cabinet))

    @cached_property
    def _owned(self) -> dict[object, tuple[Unit, ...]]:
        return {}

    def owned(self, kind: type[Owned]) -> tuple[Owned, ...]:
        """Gear of a kind in the locker, archived ones aside, whether or not it is in the hook-up."""
        if kind not in self._owned:
            self._owned[kind] = tuple(g for g in self.gear.values() if isinstance(g, kind) and not g.archived)
        return cast(tuple[Owned, ...], self._owned[kind])

    @property
    def places(self) -> tuple[Place, ...]:
        """Listening places of the locker."""
        return self.owned(Place)

    def room_of(self, unit: str) -> Room | None:
        """The room a unit of the hook-up stands in, where that was said."""
        found = self.gear.get(self._placed[unit].room)
        return found if isinstance(found, Room) else None

    def is_outside(self, unit: str) -> bool:
        """Whether a unit of the hook-up stands in the open."""
        return self._placed[unit].room == OPEN_AIR

    def facing(self, unit: str, place: str) -> str:
        """How a cabinet is turned towards a place; where nobody said, at it."""
        return self._placed[unit].facing.get(place, "at")

    def mount_of(self, unit: str) -> Mount | None:
        """What keeps a unit of the hook-up off the floor."""
        found = self.gear.get(self._placed[unit].mount)
        return found if isinstance(found, Mount) else None

    @cached_property
    def _placed(self) -> dict[str, Placed]:
        return {p.unit: p for p in self.hookup.units}

    def name(self, unit: str) -> str:
        return self.gear[unit].name

    def settings(self, unit: str) -> dict[str, Setting]:
        """All settings of a unit, defaults filled in."""
        return self._settings[unit]

    def is_guarded(self, unit: str, control: str) -> bool:
        """Whether a control is taped or locked where it stands."""
        return control in self._placed[unit].guarded

    def control(self, unit: str, control: str) -> Control | None:
        return next((c for c in self.gear[unit].controls() if c.id == control), None)

    def has(self, unit: str) -> bool:
        return unit in self._settings

    def socket(self, end: End) -> Socket:
        return self._sockets[end]

    def knows(self, end: End) -> bool:
        return end in self._sockets

    def label(self, end: End) -> str:
        """'Groyne R8, line out' for sentences."""
        return f"{self.name(end.unit)}, {self.socket(end).label}"

    def link_at(self, end: End) -> Link | None:
        return self._link_at.get(end)

    @cached_property
    def _plugged(self) -> dict[str, frozenset[str]]:
        found: dict[str, set[str]] = {}
        for end in self._link_at:
            found.setdefault(end.unit, set()).add(end.socket)
        return {unit: frozenset(sockets) for unit, sockets in found.items()}

    def plugged(self, unit: str) -> frozenset[str]:
        """Ids of the unit's sockets that hold a plug."""
        return self._plugged.get(unit, frozenset())

    def far_end(self, end: End) -> End | None:
        """What the lead in this socket leads to; None without a lead or with a free far end."""
        link = self.link_at(end)
        if link is None:
            return None
        return link.b if link.a == end else link.a

    def conductor(self, link: Link) -> Unit:
        """The lead, or the cabinet whose fixed lead this is."""
        return self.gear[link.lead]

    def site(self, unit: str, frequency: Real | None = None) -> Site:
        return Site(unit, self._settings[unit], self.plugged(unit), frequency)

    @cached_property
    def faces_kept(self) -> dict[tuple[object, ...], Face]:
        """What units show the network by plugs and settings: the same for this rig and those made from it."""
        return {}

    def face(self, site: Site) -> Face:
        """What a unit shows the nominal network as it stands, kept: judging asks for the same again and again."""
        key = (site.unit, site.plugged, *site.settings.values())
        if key not in self.faces_kept:
            gear = self.gear[site.unit]
            self.faces_kept[key] = Face(gear.parts(site), gear.ratings(site))
        return self.faces_kept[key]

    @cached_property
    def speaker_links(self) -> tuple[Link, ...]:
        """Leads with both ends in speaker-level sockets: the ones in the speaker network."""
        return tuple(
            link
            for link in self.hookup.links
            if link.b and all(self.socket(end).level == "speaker" for end in link.ends())
        )

    def moved(self, settings: Mapping[str, Mapping[str, Setting]]) -> Rig:
        """The same rig with some controls moved: unit → control → value. Its leads stay, so they carry over."""
        units = tuple(replace(p, settings={**p.settings, **settings.get(p.unit, {})}) for p in self.hookup.units)
        other = replace(self, hookup=replace(self.hookup, units=units))
        vars(other).update({k: vars(self)[k] for k in CARRIED if k in vars(self)})
        return other

    def with_speaker_side_of(self, other: Rig) -> Rig:
        """This rig, with what was worked out for another that has the same leads and the same speaker side."""
        vars(self).update({k: v for k, v in vars(other).items() if k in CARRIED or k in SPEAKER_SIDE})
        vars(self)["speaker_side_of"] = other
        return self

    @cached_property
    def speaker_side_of(self) -> Rig | None:
        """The rig this one was changed from, where the change left leads and speaker side alone."""
        return None

    def free(self, kind: type[Owned]) -> tuple[Owned, ...]:
        """Gear of a kind that is neither archived nor in this hook-up."""
        used = set(self.hookup.gear_ids())
        return tuple(g for g in self.owned(kind) if g.id not in used)


CARRIED = ("_sockets", "_link_at", "_plugged", "faces_kept", "speaker_links", "_owned")
"""What is the same for a rig and one moved from it, since its leads and the locker stay."""

SPEAKER_SIDE: list[str] = []
"""What `per_rig` functions keep: all of it is about the speaker side alone."""

Made = TypeVar("Made")


def per_rig(make: Callable[[Rig], Made]) -> Callable[[Rig], Made]:
    """Keeps what a function made of a rig's speaker side: rigs do not change, and a judgement asks often.

    A rig with the speaker side of another asks that one, so that what several were changed from is made once.
    """
    key = f"_{make.__name__}_made"
    SPEAKER_SIDE.append(key)

    def kept(rig: Rig) -> Made:
        values = vars(rig)
        if key not in values:
            values[key] = make(rig) if rig.speaker_side_of is None else kept(rig.speaker_side_of)
        found: Made = values[key]
        return found

    kept.__doc__ = make.__doc__
    return kept


def separate_networks(rig: Rig) -> tuple[Rig, ...]:
    """Parts of a hook-up that no lead and no air joins: what one does, the others cannot notice.

    An interface may stand in several: its inputs have nothing to do with each other.
    """
    meeting = {unit for unit, gear in rig.units() if isinstance(gear, Interface)}
    pairs = [(k.a.unit, k.b.unit) for k in rig.hookup.links if k.b and not {k.a.unit, k.b.unit} & meeting]
    groups = merged(pairs)
    of = {unit: groups.get(unit, unit) for unit, _ in rig.units() if unit not in meeting}
    found = []
    for group in dict.fromkeys(of.values()):
        inside = {unit for unit, its in of.items() if its == group}
        links = tuple(k for k in rig.hookup.links if {e.unit for e in k.ends()} & inside)
        ends = {e.unit for k in links for e in k.ends()}
        units = tuple(p for p in rig.hookup.units if p.unit in inside | (ends & meeting))
        found.append(replace(rig, hookup=replace(rig.hookup, units=units, links=links)))
    return tuple(found)


def stands(unit: Unit) -> bool:
    """Whether it matters in which room a unit stands: it sounds, or gets hot, or is an amp."""
    return isinstance(unit, Amp | Cabinet | Load | Attenuator | ReAmp)


def room_of_the_rest(hookup: Hookup) -> str:
    """The room that every unit of a hook-up stands in of which it is said; empty where they differ."""
    rooms = {p.room for p in hookup.units if p.room}
    return rooms.pop() if len(rooms) == 1 else ""


def has_own_lead(unit: Unit) -> bool:
    """Whether a unit is itself what a link is made of: a combo's speaker, a microphone, headphones."""
    return isinstance(unit, Microphone | Headphones) or (isinstance(unit, Cabinet) and unit.own_lead is not None)


def fits(lead: Lead, a: Socket, b: Socket | None) -> bool:
    """Whether the lead's plugs go into these sockets, either way round."""

    def goes(first: str, second: str) -> bool:
        return first in FITS[a.connector] and (b is None or second in FITS[b.connector])

    return goes(lead.plug_a, lead.plug_b) or goes(lead.plug_b, lead.plug_a)


def problems(hookup: Hookup, gear: GearById) -> list[str]:
    """What is impossible about a hook-up, as sentences; empty when it can be laid out and judged."""
    missing = [i for i in hookup.gear_ids() if i not in gear]
    if missing:
        return [f"Gear “{i}” is not in the locker and not in the file." for i in missing]
    found = []
    seen: set[str] = set()
    for placed in hookup.units:
        unit = gear[placed.unit]
        if placed.unit in seen:
            found.append(f"{unit.name} is in the hook-up twice.")
        seen.add(placed.unit)
        if isinstance(unit, Lead):
            found.append(f"{unit.name} is a lead: it goes between two sockets.")
        if isinstance(unit, Surrounding):
            found.append(f"{unit.name} is no unit: nothing is plugged into it.")
        if placed.room not in ("", OPEN_AIR) and not isinstance(gear[placed.room], Room):
            found.append(f"{unit.name} cannot stand in {gear[placed.room].name}: that is no room.")
        if placed.mount and not isinstance(gear[placed.mount], Mount):
            found.append(f"{unit.name} cannot stand on {gear[placed.mount].name}: that is no mount.")
        controls = {c.id: c for c in unit.controls()}
        for key, value in placed.settings.items():
            if key not in controls:
                found.append(f"{unit.name} has no control “{key}”.")
            elif said := controls[key].refuses(value):
                found.append(f"{unit.name}, {said}")
        found += [f"{unit.name} has no control “{key}” to tape." for key in placed.guarded if key not in controls]
    if found:
        return found
    rig = Rig(hookup, gear)
    taken: dict[End, str] = {}
    leads: set[str] = set()
    for link in hookup.links:
        conductor = gear[link.lead]
        fixed = has_own_lead(conductor)
        if not isinstance(conductor, Lead) and not fixed:
            found.append(f"{conductor.name} is not a lead.")
        if link.lead in leads:
            found.append(f"{conductor.name} is used twice.")
        leads.add(link.lead)
        for end in link.ends():
            if end.unit not in seen:
                found.append(f"{conductor.name} ends at “{end.unit}”, which is not in the hook-up.")
            elif not rig.knows(end):
                found.append(f"{gear[end.unit].name} has no socket “{end.socket}”.")
            elif end in taken and rig.socket(end).level != "air":
                where = rig.label(end)
                found.append(f"Two leads in one socket: {taken[end]} and {conductor.name} at {where}.")
            elif rig.socket(end).level == "air" and not isinstance(conductor, Microphone):
                found.append(f"{rig.label(end)} is no socket: only a microphone goes there.")
            else:
                taken[end] = conductor.name
        if isinstance(conductor, Microphone) and (
            link.b is None or {rig.socket(e).level for e in link.ends() if rig.knows(e)} != {"air"}
        ):
            found.append(f"{conductor.name} is no lead: it stands before a cabinet.")
        if fixed and link.lead not in {end.unit for end in link.ends()}:
            found.append(f"The fixed lead of {conductor.name} must start at it.")
        if not fixed:
            for end in link.ends():
                at = gear.get(end.unit)
                if isinstance(at, Cabinet) and at.own_lead and end.socket != "front":
                    found.append(f"{at.name} hangs on its own fixed lead; {conductor.name} cannot go there.")
    return found


def checked(hookup: Hookup, gear: GearById) -> Rig:
    """The rig, or HookupError with every problem found."""
    found = problems(hookup, gear)
    if found:
        raise HookupError(found)
    return Rig(hookup, gear)
