"""What a person could do at a socket: every lead to move, put in or take out, and every unit to put in between."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from low_tide.core.finder.leads import best_lead, is_wrong, missing_lead
from low_tide.core.gear.base import Socket
from low_tide.core.inventory import Amp, Cabinet, Lead, Surrounding, Unit
from low_tide.core.rig.changes import AddUnit, Change, Connect, Disconnect
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import fits

HERE = "The lead that is here"
SWAPPED = "Another lead in its place"
FREE_END = "Its free end goes to"
IN_HOOKUP = "In this hook-up"
IN_LOCKER = "In the locker"
UNPLUGGED = "Nothing at the far end"
BETWEEN = "Put in between"


@dataclass(frozen=True)
class Proposal:
    """Something to do at a socket. `needs`: a lead that nobody owns yet, which the changes plug in."""

    group: str
    label: str
    detail: str
    changes: tuple[Change, ...]
    needs: Lead | None = None


Target = tuple[End, Socket, str, str, tuple[Change, ...]]
"""A socket a lead may go to: where, what, its name, its unit in short, and what brings the unit in."""


def meets(a: Socket, b: Socket) -> bool:
    """Whether someone would plug a lead from `a` to `b`: an output and an input, or two speaker sockets."""
    if {"air", "phones", "digital"} & {a.level, b.level}:
        return a.level == b.level and a.flow != b.flow
    if {a.flow, b.flow} == {"in", "out"}:
        return a.level == b.level or a.level == "speaker" or b.level == "speaker" or "line" in (a.level, b.level)
    return False


def proposals(rig: Rig, end: End) -> Iterator[Proposal]:
    """Everything that may be done at a socket, but for what may be put in between."""
    if rig.link_at(end):
        yield from _with_lead(rig, end)
    else:
        yield from _without_lead(rig, end)


def _with_lead(rig: Rig, end: End) -> Iterator[Proposal]:
    link = rig.link_at(end)
    assert link is not None
    conductor = rig.conductor(link)
    yield Proposal(HERE, f"Put {conductor.name} away", "", (Disconnect(link.lead),))
    if not isinstance(conductor, Lead):
        return
    a, b = rig.socket(link.a), rig.socket(link.b) if link.b else None
    if b is not None:
        loose = (Disconnect(link.lead), Connect(link.lead, end))
        yield Proposal(HERE, "Pull the far end out, leave this one in", "", loose)
    for lead in rig.free(Lead):
        if fits(lead, a, b):
            swap = (Disconnect(link.lead), Connect(lead.id, link.a, link.b))
            yield Proposal(SWAPPED, lead.name, lead.summary(), swap)
    if b is None:
        for other, socket, label, detail, extra in _targets(rig, end):
            if fits(conductor, rig.socket(end), socket):
                both = (*extra, Disconnect(link.lead), Connect(link.lead, end, other))
                yield Proposal(FREE_END, label, detail, both)


def _without_lead(rig: Rig, end: End) -> Iterator[Proposal]:
    here = rig.socket(end)
    if here.own_lead is not None:
        for other, _, label, detail, extra in _targets(rig, end):
            yield Proposal(_where(extra), label, detail, (*extra, Connect(end.unit, end, other)))
        return
    for link in rig.hookup.links:
        lead = rig.conductor(link)
        if link.b is None and link.a != end and isinstance(lead, Lead) and fits(lead, rig.socket(link.a), here):
            moved = (Disconnect(link.lead), Connect(link.lead, link.a, end))
            yield Proposal(IN_HOOKUP, f"The free end of {lead.name}", f"from {rig.label(link.a)}", moved)
    for other, socket, label, detail, extra in _targets(rig, end):
        if socket.own_lead is not None:
            by_its_own = (*extra, Connect(other.unit, end, other))
            yield Proposal(_where(extra), label, f"{detail}, by its own lead", by_its_own)
            continue
        for lead, needs in _leads(rig, here, socket):
            joined = (*extra, Connect(lead.id, end, other))
            yield Proposal(_where(extra), label, f"{detail}, {lead.name}", joined, needs)
    spare = best_lead(rig, here, None)
    if spare is not None:
        yield Proposal(UNPLUGGED, f"{spare.name}, far end free", spare.summary(), (Connect(spare.id, end),))


def _where(extra: tuple[Change, ...]) -> str:
    return IN_LOCKER if extra else IN_HOOKUP


def _leads(rig: Rig, a: Socket, b: Socket) -> Iterator[tuple[Lead, Lead | None]]:
    """The best free lead between two sockets; where none is right, also the one that would be, as a need."""
    lead = best_lead(rig, a, b)
    if lead is not None:
        yield lead, None
    if lead is None or is_wrong(lead, a):
        missing = missing_lead(rig.gear, a, b)
        yield missing, missing


def between(rig: Rig, link: Link) -> Iterator[Proposal]:
    """Every unit that may be put into a lead: the lead goes on to it, another goes on from it."""
    conductor = rig.conductor(link)
    if link.b is None or not isinstance(conductor, Lead):
        return
    first, last = (link.a, link.b) if rig.socket(link.a).flow == "out" else (link.b, link.a)
    start, stop = rig.socket(first), rig.socket(last)
    for unit, extra in _to_put_in(rig):
        ways = _way_through(unit, start, stop)
        if ways is None:
            continue
        into, out = ways
        one = conductor if fits(conductor, start, into) else best_lead(rig, start, into)
        if one is None:
            continue
        spoken_for = frozenset({one.id})
        other = best_lead(rig, out, stop, spoken_for)
        if one is not conductor and (other is None or is_wrong(other, out)) and fits(conductor, out, stop):
            other = conductor
        needs = None
        if other is None or is_wrong(other, out):
            other = needs = missing_lead(rig.gear, out, stop)
        changes = (
            *extra,
            Disconnect(link.lead),
            Connect(one.id, first, End(unit.id, into.id)),
            Connect(other.id, End(unit.id, out.id), last),
        )
        yield Proposal(BETWEEN, unit.name, f"{unit.summary()}; on with {other.name}", changes, needs)


def _to_put_in(rig: Rig) -> Iterator[tuple[Unit, tuple[Change, ...]]]:
    """Units nothing is plugged into: those that stand here, then those in the locker."""
    busy = {end.unit for link in rig.hookup.links for end in link.ends()}
    here = {unit for unit, _ in rig.units()}
    for unit, gear in rig.units():
        if unit not in busy:
            yield gear, ()
    for gear in rig.gear.values():
        if gear.id not in here and not gear.archived and not isinstance(gear, Lead | Surrounding):
            yield gear, (AddUnit(gear.id),)


def _way_through(unit: Unit, start: Socket, stop: Socket) -> tuple[Socket, Socket] | None:
    """The sockets by which a signal of this level goes in and out of a unit again, the first that fit."""
    levels = {"line", "instrument"} if start.level in ("line", "instrument") else {start.level}

    def first(flow: str, other: Socket) -> Socket | None:
        fitting = (s for s in unit.sockets() if s.flow == flow and s.level in levels and s.own_lead is None)
        return next((s for s in fitting if meets(s, other)), None)

    into, out = first("in", start), first("out", stop)
    return (into, out) if into and out else None


def _targets(rig: Rig, end: End) -> Iterator[Target]:
    """Free sockets a lead from here may go to, first in the hook-up, then on units in the locker."""
    here = rig.socket(end)
    for unit, gear in rig.units():
        for socket in gear.sockets():
            target = End(unit, socket.id)
            if unit != end.unit and rig.link_at(target) is None and meets(here, socket):
                yield target, socket, f"{gear.name}, {socket.label}", gear.summary(), ()
    inside = set(rig.hookup.gear_ids())
    speakers = {g.inner_speaker for g in rig.gear.values() if isinstance(g, Amp)}
    for gear in rig.gear.values():
        if gear.id in inside or gear.archived or isinstance(gear, Lead | Surrounding):
            continue
        if isinstance(gear, Cabinet) and gear.own_lead and gear.id in speakers:
            continue  # a combo's speaker comes with its amp
        for socket in gear.sockets():
            # Nobody fetches a box to put the wrong level into it; with what stands here already it happens.
            if meets(here, socket) and (here.level == "speaker") == (socket.level == "speaker"):
                target = End(gear.id, socket.id)
                yield target, socket, f"{gear.name}, {socket.label}", gear.summary(), (AddUnit(gear.id),)
                if socket.level == "speaker" and socket.flow == "in":
                    break  # one input jack of a unit stands for its parallel ones
