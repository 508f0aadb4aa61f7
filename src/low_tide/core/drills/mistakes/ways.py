"""Acts of a hand that mistakes are made of: a control moved, a lead swapped, moved or pulled, a unit brought in."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from math import isfinite

from low_tide.core.drills.mistakes.registry import Twist
from low_tide.core.finder.plugging import IN_LOCKER, between, proposals
from low_tide.core.gear.amp import NOT_KNOWN
from low_tide.core.gear.base import Control, Setting
from low_tide.core.inventory import Cabinet, Lead, Unit
from low_tide.core.rig.changes import AddUnit, Change, Connect, Disconnect, Guard, RemoveUnit, SetControl
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import fits

POSITIONS = 9
"""So many positions of a knob are tried over its travel."""


def positions(control: Control, now: Setting) -> tuple[Setting, ...]:
    """Where a hand may leave a control, but where it stands."""
    if control.kind == "switch":
        return (not now,)
    if control.kind == "choice":
        return tuple(o.value for o in control.options if o.value not in (now, NOT_KNOWN))
    span, step = control.high - control.low, control.step
    if not isfinite(span) or span <= 0:
        return ()
    found = (control.low + step * round(span * n / (POSITIONS - 1) / step) for n in range(POSITIONS))
    return tuple(dict.fromkeys(v for v in found if v != now and control.low <= v <= control.high))


def set_to(rig: Rig, unit: str, control: Control, value: Setting) -> Twist:
    """A control moved; the further a knob, the more obvious."""
    now = rig.settings(unit)[control.id]
    far = abs(value - now) if control.kind == "range" and isinstance(value, int | float) else 1.0  # type: ignore[operator]
    back: tuple[Change, ...] = (SetControl(unit, control.id, now),)
    if rig.is_guarded(unit, control.id):
        back = (*back, Guard(unit, control.id))
    return Twist((SetControl(unit, control.id, value),), (unit,), back, float(far))


def up(now: Setting, value: Setting) -> bool:
    """Whether a hand turns a knob up, or a switch on."""
    return isinstance(now, int | float) and isinstance(value, int | float) and value > now


def down(now: Setting, value: Setting) -> bool:
    """Whether a hand turns a knob down, or a switch off."""
    return isinstance(now, int | float) and isinstance(value, int | float) and value < now


def anywhere(now: Setting, value: Setting) -> bool:
    """Wherever a hand moves it."""
    return value != now


def moved(
    rig: Rig, which: Callable[[Unit, Control], bool], how: Callable[[Setting, Setting], bool] = anywhere
) -> Iterator[Twist]:
    """Every control that is meant, in every other position; those of sockets nothing is plugged into are left out.

    `how`: of where it stands and where it would, whether that counts.
    """
    for unit, gear in rig.units():
        used = rig.plugged(unit)
        sockets = {s.id for s in gear.sockets()}
        for control in gear.controls():
            head = control.id.split(".")[0]
            if (head in sockets and head not in used) or not which(gear, control):
                continue
            now = rig.settings(unit)[control.id]
            yield from (set_to(rig, unit, control, value) for value in positions(control, now) if how(now, value))


def _replugged(link: Link, lead: str, a: End, b: End | None, at: tuple[str, ...], size: float = 1.0) -> Twist:
    """A lead out of where it is, and one plugged from `a` to `b`."""
    changes: tuple[Change, ...] = (Disconnect(link.lead), Connect(lead, a, b))
    undo: tuple[Change, ...] = (Disconnect(lead), Connect(link.lead, link.a, link.b))
    return Twist(changes, at, undo, size)


def swapped(rig: Rig, carries: Callable[[str], bool], which: Callable[[Lead], bool]) -> Iterator[Twist]:
    """Leads that carry a level, each swapped for a free one that is meant and fits. `carries`: by level."""
    for link in rig.hookup.links:
        if not isinstance(rig.conductor(link), Lead) or not carries(rig.socket(link.a).level):
            continue
        for lead in rig.free(Lead):
            if which(lead) and fits(lead, rig.socket(link.a), rig.socket(link.b) if link.b else None):
                yield _replugged(link, lead.id, link.a, link.b, (lead.id,))


def pulled(rig: Rig) -> Iterator[Twist]:
    """Each speaker lead hanging from one of its plugs, the other out."""
    for link in rig.speaker_links:
        if not isinstance(rig.conductor(link), Lead) or link.b is None:
            continue
        for stays, gone in ((link.a, link.b), (link.b, link.a)):
            yield _replugged(link, link.lead, stays, None, (link.lead, gone.unit))


def moved_to(rig: Rig, link: Link, end: End, to: End, size: float = 1.0) -> Twist | None:
    """One plug of a lead in another socket; None where it does not go in or is taken."""
    lead = rig.conductor(link)
    if not isinstance(lead, Lead) or rig.link_at(to) is not None:
        return None
    a, b = (to if link.a == end else link.a), (to if link.b == end else link.b)
    if not fits(lead, rig.socket(a), rig.socket(b) if b else None):
        return None
    return _replugged(link, link.lead, a, b, tuple(dict.fromkeys((link.lead, end.unit, to.unit))), size)


def plugged_in(rig: Rig, end: End, which: Callable[[Unit], bool]) -> Iterator[Twist]:
    """A unit of the locker brought to a free socket by a lead that is owned."""
    if rig.link_at(end) is not None:
        return
    for proposal in proposals(rig, end):
        added = next((c.unit for c in proposal.changes if isinstance(c, AddUnit)), None)
        if proposal.group != IN_LOCKER or proposal.needs is not None or added is None or not which(rig.gear[added]):
            continue
        leads = [c.lead for c in proposal.changes if isinstance(c, Connect)]
        yield Twist(proposal.changes, (added, *leads), (RemoveUnit(added),))


def hanging(rig: Rig, end: End) -> Iterator[Twist]:
    """A free speaker lead plugged into a free socket, its far end leading nowhere."""
    if rig.link_at(end) is not None:
        return
    for lead in rig.free(Lead):
        if lead.construction == "speaker" and fits(lead, rig.socket(end), None):
            yield Twist((Connect(lead.id, end),), (lead.id, end.unit), (Disconnect(lead.id),))


def put_between(rig: Rig, link: Link, which: Callable[[Unit], bool]) -> Iterator[Twist]:
    """A unit put into a lead, by leads that are owned. It is taken out again by more than one act."""
    for proposal in between(rig, link):
        added = next((c.unit for c in proposal.changes if isinstance(c, AddUnit)), None)
        if added is not None and proposal.needs is None and which(rig.gear[added]):
            yield Twist(proposal.changes, (added,))


def free_speaker_ends(rig: Rig) -> Iterator[End]:
    """Free sockets at speaker level of units that are in use."""
    for unit, gear in rig.units():
        if not rig.plugged(unit):
            continue
        for socket in gear.sockets():
            if socket.level == "speaker" and rig.link_at(End(unit, socket.id)) is None:
                yield End(unit, socket.id)


def is_cabinet(unit: Unit) -> bool:
    """Whether it is a cabinet that leads by no lead of its own."""
    return isinstance(unit, Cabinet) and unit.own_lead is None
