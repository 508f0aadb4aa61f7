"""A rig: a hook-up together with the gear it refers to, and what was measured."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import InitVar, dataclass, field, replace
from functools import cached_property
from typing import TypeAlias, TypeVar, cast

from low_tide.core.frequency import Real
from low_tide.core.gear.base import Control, Face, Setting, Site, Socket
from low_tide.core.gear.ids import OPEN_AIR
from low_tide.core.inventory import (
    Amp,
    Cabinet,
    Mount,
    Place,
    Room,
    Unit,
)
from low_tide.core.rig.hookup import End, Hookup, Link, Placed
from low_tide.core.rig.kept import ASPECTS, Aspect, Kept, kept
from low_tide.core.rig.known import Known

GearById: TypeAlias = Mapping[str, Unit]


Owned = TypeVar("Owned", bound=Unit)


@dataclass(frozen=True)
class Rig:
    """A hook-up together with the gear it refers to, whatever else lies in the locker, and what was measured.

    `like`: another rig; what was worked out for it and holds here too is taken over.
    """

    hookup: Hookup
    gear: GearById
    known: Known = field(default_factory=Known)
    like: InitVar[Rig | None] = None
    kept: Kept = field(init=False, repr=False, compare=False)

    def __post_init__(self, like: Rig | None) -> None:
        object.__setattr__(self, "kept", like.kept.after(differs(like, self)) if like else Kept())

    @cached_property
    def _settings(self) -> dict[str, dict[str, Setting]]:
        return {
            placed.unit: {c.id: placed.settings.get(c.id, c.default) for c in self.gear[placed.unit].controls()}
            for placed in self.hookup.units
        }

    @cached_property
    def _sockets(self) -> dict[End, Socket]:
        return _sockets(self)

    @cached_property
    def _link_at(self) -> dict[End, Link]:
        return _link_at(self)

    @cached_property
    def _plugged(self) -> dict[str, frozenset[str]]:
        return _plugged(self)

    @cached_property
    def _controls(self) -> dict[tuple[str, str], Control]:
        return _controls(self)

    def units(self) -> Iterator[tuple[str, Unit]]:
        """Units in the hook-up, in the order they were added."""
        return ((p.unit, self.gear[p.unit]) for p in self.hookup.units)

    def amps(self) -> Iterator[tuple[str, Amp]]:
        """Amps in the hook-up."""
        return ((u, g) for u, g in self.units() if isinstance(g, Amp))

    def cabinets(self) -> Iterator[tuple[str, Cabinet]]:
        """Cabinets in the hook-up."""
        return ((u, g) for u, g in self.units() if isinstance(g, Cabinet))

    def owned(self, kind: type[Owned]) -> tuple[Owned, ...]:
        """Gear of a kind in the locker, archived ones aside, whether or not it is in the hook-up."""
        found = _owned(self)
        if kind not in found:
            found[kind] = tuple(g for g in self.gear.values() if isinstance(g, kind) and not g.archived)
        return cast(tuple[Owned, ...], found[kind])

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
        """The name of a piece of gear."""
        return self.gear[unit].name

    def settings(self, unit: str) -> dict[str, Setting]:
        """All settings of a unit, defaults filled in."""
        return self._settings[unit]

    def is_guarded(self, unit: str, control: str) -> bool:
        """Whether a control is taped or locked where it stands."""
        return control in self._placed[unit].guarded

    def control(self, unit: str, control: str) -> Control | None:
        """A control of a unit; None where it has none of that id."""
        return self._controls.get((unit, control))

    def has(self, unit: str) -> bool:
        """Whether a unit is in the hook-up."""
        return unit in self._settings

    def socket(self, end: End) -> Socket:
        """The socket at an end; KeyError where there is none."""
        return self._sockets[end]

    def knows(self, end: End) -> bool:
        """Whether there is such a socket in the hook-up."""
        return end in self._sockets

    def label(self, end: End) -> str:
        """'Groyne R8, line out' for sentences."""
        return f"{self.name(end.unit)}, {self.socket(end).label}"

    def link_at(self, end: End) -> Link | None:
        """The lead in a socket, if any."""
        return self._link_at.get(end)

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
        """Where a unit stands; frequencies in Hz for the real view, None for the nominal one."""
        return Site(unit, self._settings[unit], self.plugged(unit), frequency)

    def face(self, site: Site) -> Face:
        """What a unit shows the nominal network as it stands, kept: judging asks for the same again and again."""
        faces, key = _faces(self), (site.unit, site.plugged, *site.settings.values())
        if key not in faces:
            if len(faces) >= MOST_FACES:
                faces.clear()
            gear = self.gear[site.unit]
            faces[key] = Face(gear.parts(site), gear.ratings(site))
        return faces[key]

    @cached_property
    def speaker_links(self) -> tuple[Link, ...]:
        """Leads with both ends in speaker-level sockets: the ones in the speaker network."""
        return _speaker_links(self)

    def moved(self, settings: Mapping[str, Mapping[str, Setting]]) -> Rig:
        """The same rig with some controls moved: unit → control → value."""
        units = tuple(
            replace(p, settings={**p.settings, **settings[p.unit]}) if p.unit in settings else p
            for p in self.hookup.units
        )
        return replace(self, hookup=replace(self.hookup, units=units), like=self)

    def free(self, kind: type[Owned]) -> tuple[Owned, ...]:
        """Gear of a kind that is neither archived nor in this hook-up."""
        used = {p.unit for p in self.hookup.units} | {k.lead for k in self.hookup.links}
        if kind is Mount:
            used |= {p.mount for p in self.hookup.units}
        return tuple(g for g in self.owned(kind) if g.id not in used)


MOST_FACES = 4000


@kept("leads")
def _sockets(rig: Rig) -> dict[End, Socket]:
    return {End(p.unit, s.id): s for p in rig.hookup.units for s in rig.gear[p.unit].sockets()}


@kept("leads")
def _link_at(rig: Rig) -> dict[End, Link]:
    # Several microphones may stand before one cabinet; a socket holds one plug.
    return {end: link for link in rig.hookup.links for end in link.ends() if rig.socket(end).level != "air"} | {
        end: link for link in rig.hookup.links for end in link.ends() if end.unit == link.lead
    }


@kept(_link_at)
def _plugged(rig: Rig) -> dict[str, frozenset[str]]:
    found: dict[str, set[str]] = {}
    for end in _link_at(rig):
        found.setdefault(end.unit, set()).add(end.socket)
    return {unit: frozenset(sockets) for unit, sockets in found.items()}


@kept("leads")
def _controls(rig: Rig) -> dict[tuple[str, str], Control]:
    return {(unit, c.id): c for unit, gear in rig.units() for c in gear.controls()}


@kept("leads")
def _speaker_links(rig: Rig) -> tuple[Link, ...]:
    return tuple(
        link for link in rig.hookup.links if link.b and all(rig.socket(end).level == "speaker" for end in link.ends())
    )


@kept()
def _owned(rig: Rig) -> dict[object, tuple[Unit, ...]]:
    """Gear by its kind, of those kinds that were asked for."""
    return {}


@kept()
def _faces(rig: Rig) -> dict[tuple[object, ...], Face]:
    """What units show the network by plugs and settings, of those that were asked for."""
    return {}


def differs(one: Rig, other: Rig) -> frozenset[Aspect]:
    """In which aspects two rigs differ; in all of them where their gear does."""
    if one.gear is not other.gear and one.gear != other.gear:
        return ASPECTS
    found: set[Aspect] = set()
    if one.hookup.links != other.hookup.links:
        found.add("leads")
    if one.hookup.occasion != other.hookup.occasion:
        found.add("occasion")
    if one.hookup.scenes != other.hookup.scenes:
        found.add("scenes")
    if one.known is not other.known and one.known != other.known:
        found.add("known")
    if [p.unit for p in one.hookup.units] != [p.unit for p in other.hookup.units]:
        return frozenset(found | {"leads", "speaker", "signal", "standing"})
    for before, after in zip(one.hookup.units, other.hookup.units, strict=True):
        if before is not after and before != after:
            found |= _moved(one.gear[before.unit], before, after)
    return frozenset(found)


def _moved(gear: Unit, before: Placed, after: Placed) -> set[Aspect]:
    """In which aspects a unit stands otherwise than before."""
    found: set[Aspect] = {
        c.affects
        for c in gear.controls()
        if before.settings.get(c.id, c.default) != after.settings.get(c.id, c.default)
    }
    if before.guarded != after.guarded:
        found.add("speaker")
    if (before.room, before.mount, before.facing) != (after.room, after.mount, after.facing):
        found.add("standing")
    return found
