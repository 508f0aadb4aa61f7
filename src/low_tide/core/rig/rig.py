"""A rig: a hook-up together with the gear it refers to, and what was measured."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field, replace
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
from low_tide.core.rig.known import Known

GearById: TypeAlias = Mapping[str, Unit]


Owned = TypeVar("Owned", bound=Unit)


@dataclass(frozen=True)
class Rig:
    """A hook-up together with the gear it refers to, whatever else lies in the locker, and what was measured."""

    hookup: Hookup
    gear: GearById
    known: Known = field(default_factory=Known)

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
