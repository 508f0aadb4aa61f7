"""Slips: what a knock, a pulled plug or two switches moved together would lead to, with what keeps it from happening.

What one movement of a hand leads to on the speaker side is told by its own check and not here.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from low_tide.core.gear.amp import NOT_KNOWN
from low_tide.core.gear.base import Control, Setting, Socket
from low_tide.core.inventory import Interface, Lead
from low_tide.core.judging.checks import Case, run_all
from low_tide.core.judging.checks.movements import of_two
from low_tide.core.judging.checks.moves import standing_words, tape
from low_tide.core.judging.findings import Finding
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import Change, Connect, Disconnect, Guard, SetControl, changed
from low_tide.core.rig.doubts import doubted
from low_tide.core.rig.hookup import End, HookupError, Link
from low_tide.core.rig.networks import separate_networks
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import fits
from low_tide.core.rig.words import control_words, shown


@dataclass(frozen=True)
class Slip:
    """A slip, the stop it would lead to, and what keeps it from happening; `tape` does that where a change can."""

    slip: str
    stop: str
    check: str
    guard: str
    units: tuple[str, ...]
    leads: tuple[str, ...]
    tape: tuple[Change, ...] = ()


@dataclass(frozen=True)
class _Try:
    slip: str
    guard: str
    changes: tuple[Change, ...]
    units: tuple[str, ...]
    leads: tuple[str, ...] = ()
    tape: tuple[Change, ...] = ()


def neighbours(control: Control, value: Setting) -> tuple[Setting, ...]:
    """Where a control lands when it is knocked: one position on either side, or an end of its travel."""
    if control.kind == "switch":
        return (not value,)
    if control.kind == "range":
        return tuple(end for end in (control.low, control.high) if end != value)
    marks = [o.value for o in control.options if o.value != NOT_KNOWN]
    if value not in marks:
        return ()
    at = marks.index(str(value))
    return tuple(marks[i] for i in (at - 1, at + 1) if 0 <= i < len(marks))


def _knocked(rig: Rig) -> Iterator[_Try]:
    for unit, gear in rig.units():
        for control in gear.controls():
            if control.folded or control.hand or rig.is_guarded(unit, control.id):
                continue
            in_use = control.id.split(".")[0] in rig.plugged(unit)
            if isinstance(gear, Interface) and not in_use:
                continue
            for value in neighbours(control, rig.settings(unit)[control.id]):
                where = control_words(control)
                yield _Try(
                    f"{gear.name}: {where} to {shown(control, value)}",
                    f"Tape over the {where} of {gear.name} where it stands",
                    (SetControl(unit, control.id, value),),
                    (unit,),
                    tape=(Guard(unit, control.id),),
                )


def _pulled(rig: Rig) -> Iterator[_Try]:
    """Each end of each lead out of its socket, the other end still in."""
    for link in rig.hookup.links:
        name = rig.conductor(link).name
        for end, left in ((link.a, link.b), (link.b, link.a)):
            if end is None:
                continue
            stays: tuple[Change, ...] = ()
            if left is not None and isinstance(rig.conductor(link), Lead):
                stays = (Connect(link.lead, left),)
            yield _Try(
                f"{name} comes out of {rig.label(end)}",
                f"Push {name} fully home and keep feet and chairs off it",
                (Disconnect(link.lead), *stays),
                (end.unit,),
                (link.lead,),
            )


def _next_socket(rig: Rig) -> Iterator[_Try]:
    """Each plug in a free socket beside its own, where it fits."""
    for link in rig.hookup.links:
        conductor = rig.conductor(link)
        if not isinstance(conductor, Lead):
            continue
        for end in link.ends():
            for socket in rig.gear[end.unit].sockets():
                other = End(end.unit, socket.id)
                if other == end or rig.link_at(other) is not None or not _side_by_side(rig.socket(end), socket):
                    continue
                moved = _moved(link, end, other)
                far = rig.socket(moved.b) if moved.b else None
                if not fits(conductor, rig.socket(moved.a), far):
                    continue
                yield _Try(
                    f"{conductor.name} goes into {rig.label(other)} instead of {rig.socket(end).label}",
                    f"Label {rig.socket(end).label} of {rig.name(end.unit)}",
                    (Disconnect(link.lead), Connect(link.lead, moved.a, moved.b)),
                    (end.unit,),
                    (link.lead,),
                )


def _side_by_side(one: Socket, other: Socket) -> bool:
    """Whether a plug meant for one may land in the other: outputs beside outputs, and the ways in and out of a box."""
    return one.flow == other.flow or one.level == other.level == "speaker"


def _moved(link: Link, end: End, to: End) -> Link:
    return Link(link.lead, to if link.a == end else link.a, to if link.b == end else link.b)


def slips(
    rig: Rig, preferences: Preferences | None = None, between: Callable[[], None] = lambda: None
) -> tuple[Slip, ...]:
    """Slips that bring a stop which is not there now, in the order of the hook-up; a slip counts once.

    `between`: called between one try and the next, since there are many; what it raises ends the search.
    """
    return _merged([slip for part in separate_networks(rig) for slip in _slips(part, preferences, between)])


def _slips(rig: Rig, preferences: Preferences | None, between: Callable[[], None]) -> Iterator[Slip]:
    schools = preferences or Preferences()

    def stops(there: Rig) -> dict[tuple[str, tuple[str, ...]], Finding]:
        findings = run_all(Case(there, schools), only_stops=True)
        return {(f.id, f.units): f for f in findings if f.severity == "stop"}

    known = stops(rig)

    for each in (*_knocked(rig), *_pulled(rig), *_next_socket(rig)):
        between()
        try:
            after = stops(changed(rig, each.changes))
        except HookupError:
            continue
        new = next((f for key, f in after.items() if key not in known), None)
        if new:
            yield Slip(each.slip, new.text, new.id, each.guard, each.units, each.leads, each.tape)
    ways = (rig, *doubted(rig))
    for consequence in (each for there in ways for each in of_two(Case(there, schools))):
        said = [f"{rig.name(move.unit)}: {_to(rig, move)}" for move in consequence.moves]
        first = consequence.moves[0]
        stop = f"{consequence.what[:1].upper()}{consequence.what[1:]}."
        units = tuple(dict.fromkeys(move.unit for move in consequence.moves))
        fix = tape(rig, first.unit, first.control)
        yield Slip(", and ".join(said), stop, consequence.check, fix.label, units, (), fix.changes)


def _to(rig: Rig, move: SetControl) -> str:
    found = rig.control(move.unit, move.control)
    assert found is not None
    return f"{control_words(found)} to {standing_words(rig, move.unit, move.control, move.value)}"


def _merged(found: list[Slip]) -> tuple[Slip, ...]:
    """Slips of one guard that lead to one stop (a lead pulled at either end) told as one."""
    groups: dict[tuple[str, str], list[Slip]] = {}
    for slip in found:
        groups.setdefault((slip.guard, slip.stop), []).append(slip)
    return tuple(
        replace(
            same[0],
            slip=" or ".join(s.slip for s in same),
            units=tuple(dict.fromkeys(u for s in same for u in s.units)),
        )
        for same in groups.values()
    )
