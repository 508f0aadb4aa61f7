"""From a candidate to a real hook-up: sockets, leads that fit, settings, a line to the desk."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product

from low_tide.core.finder.candidates import Candidate
from low_tide.core.finder.leads import missing_lead
from low_tide.core.gear.abilities import line_out_of, needs_phantom
from low_tide.core.gear.base import Setting, Socket
from low_tide.core.inventory import Amp, Cabinet, Interface, Lead, Load, Microphone, TapBox, Unit
from low_tide.core.rig.hookup import End, Hookup, HookupError, Link, Placed
from low_tide.core.rig.rig import GearById, Rig
from low_tide.core.rig.standing import room_of_the_rest, stands
from low_tide.core.rig.validation import checked, fits


@dataclass(frozen=True)
class NoWay:
    """Why a candidate cannot be built from what is owned."""

    why: str


class Builder:
    """Units and leads as they are put together; leads already used between the same ends come first.

    A lead that nobody owns joins the gear where one is asked for.
    """

    def __init__(self, gear: GearById, now: Hookup | None) -> None:
        self.gear = gear
        self.units: dict[str, dict[str, Setting]] = {}
        self.links: list[Link] = []
        self.now = now or Hookup()
        self.kept = {frozenset(k.ends()): k.lead for k in self.now.links}

    def put(self, unit: Unit, **settings: Setting) -> None:
        """Put a unit in, set so."""
        self.units.setdefault(unit.id, {}).update(settings)

    def socket(self, end: End) -> Socket:
        """The socket at an end."""
        return next(s for s in self.gear[end.unit].sockets() if s.id == end.socket)

    def connect(self, a: End, b: End, missing: bool = True) -> bool:
        """Join two sockets by the best free lead; where none fits by one that is `missing`, or not at all: False."""
        for end in (a, b):
            unit = self.gear[end.unit]
            if isinstance(unit, Cabinet) and unit.own_lead:
                self.links.append(Link(unit.id, a if end == b else b, end))
                return True
        first, second = self.socket(a), self.socket(b)
        used = {k.lead for k in self.links}
        speaker = first.level == "speaker"
        wanted = ("speaker",) if speaker else ("balanced", "screened")
        if first.level == "instrument" or second.level == "instrument":
            wanted = ("screened", "balanced")
        kept = self.kept.get(frozenset((a, b)))
        found = [
            g
            for g in self.gear.values()
            if isinstance(g, Lead)
            and not g.archived
            and g.id not in used
            and g.construction in wanted
            and fits(g, first, second)
        ]
        best = min(found, key=lambda g: (g.id != kept, wanted.index(g.construction), g.length), default=None)
        if best is None and missing:
            best = missing_lead(self.gear, first, second)
            self.gear = {**self.gear, best.id: best}
        if best is None:
            return False
        self.links.append(Link(best.id, a, b))
        return True

    def hookup(self, name: str) -> Hookup:
        """What was put together; what is on the bench already stays where it stands."""
        here = {p.unit: p for p in self.now.units}
        room = room_of_the_rest(self.now)
        units = tuple(
            Placed(u, s, here[u].room, here[u].mount)
            if u in here
            else Placed(u, s, room if stands(self.gear[u]) else "")
            for u, s in self.units.items()
        )
        return Hookup(name[:120], units=units, links=tuple(self.links), occasion=self.now.occasion)


def _jacks(amp: Amp, tap_ohms: float) -> tuple[str, ...]:
    return next(jacks for tap, _, jacks in amp.tap_sockets() if tap.impedance == tap_ohms)


def _amp_settings(c: Candidate) -> dict[str, Setting]:
    found: dict[str, Setting] = {}
    if c.amp.tap_choice == "selector" and len(c.amp.taps) > 1:
        found["tap"] = f"{c.tap.impedance:g}"
    if len(c.amp.modes) > 1:
        found["mode"] = c.mode.name
    if c.way in ("master", "barely"):
        found["master_down"] = True
    return found


def _cab_in(cab: Cabinet) -> End:
    return End(cab.id, "in1")


def _line_inputs(build: Builder, source: End) -> Iterator[tuple[Interface, End]]:
    """Interface inputs a line may go to: those made for its level first, then the others, in the locker's order."""
    level = build.socket(source).level
    found = [
        (unit, End(unit.id, f"in{i + 1}"), each.level != level)
        for unit in build.gear.values()
        if isinstance(unit, Interface) and not unit.archived
        for i, each in enumerate(unit.inputs)
    ]
    taken = {end for k in build.links for end in k.ends()}
    return ((u, e) for u, e, off in sorted(found, key=lambda f: f[2]) if e not in taken)


def capture(build: Builder, source: End, has_speaker: bool) -> bool:
    """A line from `source` to the first interface input a lead reaches."""
    gear = build.gear[source.unit]
    # An input that a lead of one's own reaches comes before any that wants another lead.
    for missing, (unit, end) in product((False, True), tuple(_line_inputs(build, source))):
        if not build.connect(source, end, missing):
            continue
        socket = end.socket
        settings: dict[str, Setting] = {}
        if not has_speaker:
            settings[f"{socket}.ir"] = True
        needs, line = needs_phantom(gear), line_out_of(gear)
        if line is not None and source.socket == "line":
            needs = needs_phantom(line)
        each = unit.input(socket)
        if needs and not each.phantom:
            build.links.pop()
            continue
        if needs:
            settings[f"{socket}.phantom"] = True
        build.put(unit, **settings)
        return True
    return False


def _with_line(box: Unit | None) -> bool:
    line = line_out_of(box)
    return line is not None and line.origin == "speaker"


def _tap_boxes(gear: GearById) -> Iterator[TapBox]:
    return (u for u in gear.values() if isinstance(u, TapBox) and not u.archived and u.through)


def assemble(c: Candidate, gear: GearById, now: Hookup | None, line: bool, name: str) -> Rig | NoWay:
    """The candidate as a checked rig, with its line to a desk where one is wished for.

    Leads that nobody owns are in the rig's gear and not in `gear`.
    """
    build = Builder(gear, now)
    build.put(c.amp, **_amp_settings(c))
    start = End(c.amp.id, _jacks(c.amp, c.tap.impedance)[0])
    if c.box and c.way not in ("loop", "inline"):
        build.put(c.box, **c.settings)
    source: End | None = None
    if line:
        if _with_line(c.box) and c.box:
            source = End(c.box.id, "line")
        elif c.way != "load":
            source, start_or_why = _tapped(build, c, start)
            if isinstance(start_or_why, NoWay):
                return start_or_why
            start = start_or_why
        else:
            return NoWay(f"{c.box.name if c.box else c.amp.name} has no line out")
    if not _speaker_side(build, c, start):
        return NoWay("no free speaker lead fits between its sockets")
    if c.way in ("loop", "inline") and not _turned_down(build, c):
        return NoWay("no free lead fits between the amp and the volume box")
    if source is not None:
        has_speaker = isinstance(gear[source.unit], Microphone)
        own = line_out_of(gear[source.unit])
        filtered = own is not None and own.filter == "fixed"
        if not capture(build, source, has_speaker or filtered):
            return NoWay("no free lead and input fit for the line to the desk")
    try:
        return checked(build.hookup(name), build.gear)
    except HookupError as error:
        return NoWay(error.problems[0])


def _tapped(build: Builder, c: Candidate, start: End) -> tuple[End | None, End | NoWay]:
    """A line where the box has none: a microphone for a cabinet in a cupboard, else a bridging tap on the lead."""
    if c.way in ("cabinet", "barely") and c.cabinet:
        for unit in build.gear.values():
            if isinstance(unit, Microphone) and not unit.archived:
                build.put(unit)
                build.links.append(Link(unit.id, End(unit.id, "capsule"), End(c.cabinet.id, "front")))
                return End(unit.id, "out"), start
    for box in _tap_boxes(build.gear):
        build.put(box)
        if build.connect(start, End(box.id, "in")):
            return End(box.id, "line"), End(box.id, "through")
        build.units.pop(box.id)
    return None, NoWay("nothing owned taps a line from it: a tap box or a microphone would")


def _speaker_side(build: Builder, c: Candidate, start: End) -> bool:
    cab, box = c.cabinet, c.box
    if cab:
        where: dict[str, Setting] = {"place": "cupboard"} if c.way == "cabinet" else {}
        build.put(cab, **where)
    if c.way == "load" and box:
        return build.connect(start, End(box.id, "in"))
    if c.way in ("attenuator", "reamp") and box and cab:
        return build.connect(start, End(box.id, "in")) and build.connect(End(box.id, "out"), _cab_in(cab))
    if c.way == "split" and isinstance(box, Load) and cab:
        if not build.connect(start, End(box.id, "in")):
            return False
        jacks = _jacks(c.amp, c.tap.impedance)
        if len(jacks) > 1 and c.amp.jack_wiring == "parallel":
            return build.connect(End(c.amp.id, jacks[1]), _cab_in(cab))
        return build.connect(End(box.id, "through"), _cab_in(cab))
    return cab is not None and build.connect(start, _cab_in(cab))


def _turned_down(build: Builder, c: Candidate) -> bool:
    """The volume box in the loop, or before the amp's input."""
    if c.box is None:
        return False
    build.put(c.box, **c.settings)
    if c.way == "inline":
        return build.connect(End(c.box.id, "out"), End(c.amp.id, "input"))
    return build.connect(End(c.amp.id, "send"), End(c.box.id, "in")) and build.connect(
        End(c.box.id, "out"), End(c.amp.id, "return")
    )
