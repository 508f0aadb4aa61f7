"""What to lay out or carry for one hook-up or several, and what to tag so that look-alikes are told apart."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import Literal, TypeAlias

from low_tide.core.gear.base import AIR, CONNECTOR_NAMES
from low_tide.core.inventory import Cabinet, Guitar, Lead, Microphone
from low_tide.core.loudness.sound_level import levels_as_set, phones
from low_tide.core.power.warm_boxes import warm_boxes
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.units import figure

Group: TypeAlias = Literal["units", "leads", "spares", "mounts", "tools", "print", "own"]
GROUPS: dict[str, str] = {
    "units": "Units",
    "leads": "Leads",
    "spares": "Spares",
    "mounts": "Under them",
    "tools": "Tools",
    "print": "On paper",
    "own": "Your own lines",
}
LOUD_DBA = 80.0
"""From here on one takes protection along for whoever stands near."""


@dataclass(frozen=True)
class KitItem:
    """A line of a kit list. `id` changes with its words; `detail`: what to know it by; `used_in`: names of hook-ups.

    `kg`: its weight as carried, None where nobody said.
    """

    id: str
    group: Group
    text: str
    detail: str = ""
    used_in: tuple[str, ...] = ()
    kg: float | None = None


@dataclass(frozen=True)
class Tag:
    """A tag to print: what it hangs on, what it says large, and what beneath."""

    on: str
    says: str
    beneath: str


def item(group: Group, text: str, detail: str = "", used_in: tuple[str, ...] = (), kg: float | None = None) -> KitItem:
    """A line with the id that its words give it."""
    return KitItem(hashlib.sha256(f"{group}|{text}".encode()).hexdigest()[:12], group, text, detail, used_in, kg)


def _kg(unit: object) -> float | None:
    papers = getattr(unit, "papers", None)
    return papers.weight if papers else None


def _units(rig: Rig) -> Iterator[KitItem]:
    for _, gear in rig.units():
        yield item("units", gear.name, gear.summary(), (rig.hookup.name,), _kg(gear))


def _leads(rig: Rig) -> Iterator[KitItem]:
    for link in rig.hookup.links:
        lead = rig.conductor(link)
        if isinstance(lead, Lead):
            plugs = dict.fromkeys(CONNECTOR_NAMES[plug] for plug in (lead.plug_a, lead.plug_b))
            detail = f"{lead.summary()}, {' to '.join(plugs)}"
            yield item("leads", lead.name, detail, (rig.hookup.name,), _kg(lead))


def _spares(rig: Rig) -> Iterator[KitItem]:
    """One more of each construction in use, as long as the longest: a lead is what fails first."""
    used = [lead for link in rig.hookup.links if isinstance(lead := rig.conductor(link), Lead)]
    for construction in dict.fromkeys(lead.construction for lead in used):
        longest = max((lead for lead in used if lead.construction == construction), key=lambda lead: lead.length)
        named = longest.summary().split(",")[0]
        yield item("spares", f"One more {named} of {figure(longest.length)} m", used_in=(rig.hookup.name,))
    if any(isinstance(gear, Guitar) for _, gear in rig.units()):
        yield item("spares", "A set of strings", used_in=(rig.hookup.name,))
    if any(gear.kind == "pedal" for _, gear in rig.units()):
        yield item("spares", "Power for the pedals, or batteries", used_in=(rig.hookup.name,))


def _mounts(rig: Rig) -> Iterator[KitItem]:
    for unit, gear in rig.units():
        mount = rig.mount_of(unit)
        if mount is not None:
            yield item("mounts", mount.name, f"under {gear.name}", (rig.hookup.name,), _kg(mount))
    for unit, gear in rig.units():
        if isinstance(gear, Microphone) and any(
            rig.socket(end).level == AIR for link in rig.hookup.links for end in link.ends() if end.unit == unit
        ):
            yield item("mounts", f"A stand for {gear.name}", used_in=(rig.hookup.name,))


def _tools(rig: Rig) -> Iterator[KitItem]:
    mine = (rig.hookup.name,)
    if any(rig.amps()):
        yield item("tools", "A multimeter", "ohms at the plug, before anything is switched on", mine)
    if any(box is not None for _, box in warm_boxes(rig)):
        yield item("tools", "Something to stand boxes on, with air all round", used_in=mine)
    if any(placed.guarded for placed in rig.hookup.units):
        yield item("tools", "Tape, and a pen for it", used_in=mine)
    heard = [each.most for each in levels_as_set(rig) if each.dba is not None]
    if any(each.limit for each in levels_as_set(rig)) and any(rig.cabinets()):
        yield item("tools", "A sound level meter", "A, slow, where people are", mine)
    if max([*heard, *(pair.most for pair in phones(rig))], default=0.0) >= LOUD_DBA:
        yield item("tools", "Hearing protection for whoever stands near", used_in=mine)


def _paper(rig: Rig) -> Iterator[KitItem]:
    if any(rig.amps()):
        yield item("print", f"Run sheet of “{rig.hookup.name}”", used_in=(rig.hookup.name,))
    if tags(rig):
        yield item("print", f"Tags for “{rig.hookup.name}”", used_in=(rig.hookup.name,))


PARTS = (_units, _leads, _spares, _mounts, _tools, _paper)
AWAY = (
    item("tools", "Mains leads and a socket strip, with earth"),
    item("tools", "A torch"),
    item("print", "House rules and quiet hours of the place"),
)
"""What a place to go to asks for beside."""


def kit_list(rigs: Sequence[Rig], away: bool = False) -> tuple[KitItem, ...]:
    """Everything for these hook-ups, each line once and group by group. `away`: it goes to another place."""
    found: dict[str, KitItem] = {}
    for each in (each for rig in rigs for part in PARTS for each in part(rig)):
        was = found.get(each.id)
        used = tuple(dict.fromkeys([*(was.used_in if was else ()), *each.used_in]))
        found[each.id] = replace(was or each, used_in=used)
    order = list(GROUPS)
    lines = [*found.values(), *(AWAY if away else ())]
    return tuple(sorted(lines, key=lambda each: order.index(each.group)))


def _look_alike(rig: Rig) -> Iterator[Tag]:
    """Leads in use that have a twin of another make in the locker: same plugs, other conductors."""
    owned = rig.owned(Lead)
    made: dict[frozenset[str], set[str]] = {}
    for lead in owned:
        made.setdefault(frozenset({lead.plug_a, lead.plug_b}), set()).add(lead.construction)
    for link in rig.hookup.links:
        worn = rig.conductor(link)
        if isinstance(worn, Lead) and len(made.get(frozenset({worn.plug_a, worn.plug_b}), ())) > 1:
            says = (
                "SPEAKER LEAD" if worn.construction == "speaker" else f"{worn.construction.upper()}, NOT FOR SPEAKERS"
            )
            ends = " → ".join(rig.label(end) for end in link.ends())
            yield Tag(worn.name, says, ends)


def _sockets(rig: Rig) -> Iterator[Tag]:
    """Sockets of amps and boxes that have speaker level on some of them: what goes in, and which stay empty."""
    for unit, gear in rig.units():
        if isinstance(gear, Cabinet) or all(socket.level != "speaker" for socket in gear.sockets()):
            continue
        for socket in gear.sockets():
            link, on = rig.link_at(End(unit, socket.id)), f"{gear.name}, {socket.label}"
            if link is not None:
                yield Tag(on, rig.conductor(link).name, f"{socket.level} level")
            elif socket.level == "speaker" and socket.flow == "out":
                yield Tag(on, "STAYS EMPTY", "speaker level")


def tags(rig: Rig) -> tuple[Tag, ...]:
    """Tags for look-alike leads and sockets of a hook-up, each once."""
    return tuple(dict.fromkeys([*_look_alike(rig), *_sockets(rig)]))
