"""Changes to a hook-up: what an edit, a fix or a what-if is made of. Values in, a new hook-up out."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from typing import Annotated, Literal, TypeAlias

from low_tide.core.gear.base import Control, Identity, Setting, identity
from low_tide.core.gear.ids import OPEN_AIR
from low_tide.core.inventory import Amp, Cabinet, Place
from low_tide.core.rig.hookup import (
    ControlId,
    End,
    Facing,
    Hookup,
    HookupError,
    Link,
    Occasion,
    Placed,
    Scene,
    SceneName,
)
from low_tide.core.rig.rig import GearById, Rig
from low_tide.core.rig.scenes import put_on, scene_of, with_scene
from low_tide.core.rig.standing import room_of_the_rest, stands
from low_tide.core.rig.validation import checked
from low_tide.core.spec import Spec


@dataclass(frozen=True)
class AddUnit:
    """Put a unit into the hook-up, where the rest stands. A combo brings its own speaker, plugged in."""

    unit: Identity
    op: Literal["add"] = "add"


@dataclass(frozen=True)
class RemoveUnit:
    """Take a unit out, with the leads that end at it."""

    unit: Identity
    op: Literal["remove"] = "remove"


@dataclass(frozen=True)
class Connect:
    """Plug a lead in. `b` None leaves its far end free."""

    lead: Identity
    a: End
    b: End | None = None
    op: Literal["connect"] = "connect"


@dataclass(frozen=True)
class Disconnect:
    """Put a lead away."""

    lead: Identity
    op: Literal["disconnect"] = "disconnect"


@dataclass(frozen=True)
class SetControl:
    """Move a switch, knob or selector. One that is taped comes off its tape."""

    unit: Identity
    control: ControlId
    value: Setting
    op: Literal["set"] = "set"


@dataclass(frozen=True)
class Guard:
    """Tape or lock a control where it stands, or take the tape off."""

    unit: Identity
    control: ControlId
    on: bool = True
    op: Literal["guard"] = "guard"


@dataclass(frozen=True)
class Measure:
    """Say how far apart the sockets of a lead stand, and whether there is room for a straight plug."""

    lead: Identity
    reach: Annotated[float | None, Spec("Way between the sockets", "m", 0.05, 200)] = None
    tight: bool = False
    op: Literal["measure"] = "measure"


@dataclass(frozen=True)
class Stand:
    """Say in which room a unit stands, and on what mount; what is left out stays, empty takes it back."""

    unit: Identity
    room: Annotated[str | None, identity("Stands in", f"|{OPEN_AIR}|")] = None
    mount: Annotated[str | None, identity("On", "|")] = None
    op: Literal["stand"] = "stand"


@dataclass(frozen=True)
class Turn:
    """Say how a cabinet is turned towards a place."""

    unit: Identity
    place: Identity
    facing: Facing = "at"
    op: Literal["turn"] = "turn"


@dataclass(frozen=True)
class SetOccasion:
    """Say when and how it is to be played, and how loud it is wanted."""

    occasion: Occasion
    op: Literal["plan"] = "plan"


@dataclass(frozen=True)
class Describe:
    """Change the hook-up's name or notes."""

    name: Annotated[str | None, Spec("Name", ge=1, le=120)] = None
    notes: Annotated[str | None, Spec("Notes", le=8000)] = None
    op: Literal["describe"] = "describe"


@dataclass(frozen=True)
class SetScene:
    """Add a scene, or put one in the place of `was`."""

    scene: Scene
    was: Annotated[str, Spec("Scene", le=60)] = ""
    op: Literal["scene"] = "scene"


@dataclass(frozen=True)
class DropScene:
    """Take a scene out of the hook-up; what it set stays as it stands."""

    name: SceneName
    op: Literal["drop_scene"] = "drop_scene"


@dataclass(frozen=True)
class PutOn:
    """Set everything as a scene says."""

    name: SceneName
    op: Literal["put_on"] = "put_on"


Change: TypeAlias = (
    AddUnit
    | RemoveUnit
    | Connect
    | Disconnect
    | SetControl
    | Guard
    | Measure
    | Stand
    | Turn
    | SetOccasion
    | Describe
    | SetScene
    | DropScene
    | PutOn
)


def _added(hookup: Hookup, change: AddUnit, gear: GearById) -> Hookup:
    unit = gear.get(change.unit)
    if unit is None:
        raise HookupError([f"Gear “{change.unit}” is not in the locker."])
    room = room_of_the_rest(hookup)
    units, links = [*hookup.units, Placed(change.unit, room=room if stands(unit) else "")], list(hookup.links)
    speaker = gear.get(unit.inner_speaker) if isinstance(unit, Amp) and unit.inner_speaker else None
    if isinstance(unit, Amp) and isinstance(speaker, Cabinet) and speaker.own_lead:
        jack = next(s.id for s in unit.sockets() if s.level == "speaker")
        if speaker.id not in {p.unit for p in units}:
            units.append(Placed(speaker.id, room=room))
            links.append(Link(speaker.id, End(unit.id, jack), End(speaker.id, "in1")))
    return replace(hookup, units=tuple(units), links=tuple(links))


def _set(placed: Placed, change: SetControl, gear: GearById) -> Placed:
    controls = gear[placed.unit].controls() if placed.unit in gear else ()
    now = next((placed.settings.get(c.id, c.default) for c in controls if c.id == change.control), None)
    guarded = placed.guarded if now == change.value else tuple(c for c in placed.guarded if c != change.control)
    return replace(placed, settings={**placed.settings, change.control: change.value}, guarded=guarded)


def _guarded(placed: Placed, change: Guard) -> Placed:
    others = tuple(c for c in placed.guarded if c != change.control)
    return replace(placed, guarded=(*others, change.control) if change.on else others)


def _stood(placed: Placed, change: Stand) -> Placed:
    room = placed.room if change.room is None else change.room
    return replace(placed, room=room, mount=placed.mount if change.mount is None else change.mount)


def _placed(hookup: Hookup, unit: str, changed: Callable[[Placed], Placed]) -> Hookup:
    """The hook-up with one of its units standing otherwise. Raises HookupError where it is not there."""
    if unit not in {p.unit for p in hookup.units}:
        raise HookupError([f"“{unit}” is not in the hook-up."])
    return replace(hookup, units=tuple(changed(p) if p.unit == unit else p for p in hookup.units))


def apply(hookup: Hookup, change: Change, gear: GearById) -> Hookup:
    """The hook-up after one change, not yet checked as a whole. Raises HookupError where it names nothing."""
    match change:
        case AddUnit():
            return _added(hookup, change, gear)
        case RemoveUnit(unit=unit):
            if unit not in {p.unit for p in hookup.units}:
                raise HookupError([f"“{unit}” is not in the hook-up."])
            return replace(
                hookup,
                units=tuple(p for p in hookup.units if p.unit != unit),
                links=tuple(k for k in hookup.links if unit not in {e.unit for e in k.ends()}),
            )
        case Connect(lead=lead, a=a, b=b):
            return replace(hookup, links=(*hookup.links, Link(lead, a, b)))
        case Disconnect(lead=lead):
            if lead not in {k.lead for k in hookup.links}:
                raise HookupError([f"Lead “{lead}” is not in use here."])
            return replace(hookup, links=tuple(k for k in hookup.links if k.lead != lead))
        case SetControl(unit=unit):
            return _placed(hookup, unit, lambda placed: _set(placed, change, gear))
        case Guard(unit=unit):
            return _placed(hookup, unit, lambda placed: _guarded(placed, change))
        case Measure(lead=lead, reach=reach, tight=tight):
            if lead not in {k.lead for k in hookup.links}:
                raise HookupError([f"Lead “{lead}” is not in use here."])
            links = (replace(k, reach=reach, tight=tight) if k.lead == lead else k for k in hookup.links)
            return replace(hookup, links=tuple(links))
        case Stand(unit=unit):
            return _placed(hookup, unit, lambda placed: _stood(placed, change))
        case Turn(unit=unit, place=place, facing=facing):
            if not isinstance(gear.get(place), Place):
                raise HookupError([f"“{place}” is no listening place of the locker."])
            return _placed(hookup, unit, lambda placed: replace(placed, facing={**placed.facing, place: facing}))
        case SetOccasion(occasion=occasion):
            return replace(hookup, occasion=occasion)
        case Describe(name=name, notes=notes):
            return replace(
                hookup,
                name=hookup.name if name is None else name,
                notes=hookup.notes if notes is None else notes,
            )
        case SetScene(scene=scene, was=was):
            return with_scene(hookup, scene, was)
        case DropScene(name=scene_name):
            gone = scene_of(hookup, scene_name)
            return replace(hookup, scenes=tuple(s for s in hookup.scenes if s != gone))
        case PutOn(name=scene_name):
            return put_on(Rig(hookup, gear), scene_of(hookup, scene_name))


def apply_all(hookup: Hookup, changes: Iterable[Change], gear: GearById) -> Rig:
    """The rig after all changes together. Raises HookupError; nothing is half-applied, values are new."""
    for change in changes:
        hookup = apply(hookup, change, gear)
    return checked(hookup, gear)


def changed(rig: Rig, changes: Iterable[Change]) -> Rig:
    """The rig after all changes together, keeping what they cannot touch. Raises HookupError."""
    made = apply_all(rig.hookup, changes, rig.gear)
    return Rig(made.hookup, rig.gear, rig.known, like=rig)


def _setting_words(value: Setting, control: Control | None) -> str:
    """A setting as the control itself names it, with its unit."""
    if isinstance(value, bool):
        return "on" if value else "off"
    text = f"{value:g}" if isinstance(value, float | int) else value
    if control:
        text = next((o.label for o in control.options if o.value == value), text)
        text += f" {control.unit}" if control.unit and text[-1:].isdigit() else ""
    return text.replace("-", "−")


TURNED = {"at": "towards", "beside": "past", "away": "away from"}


def describe(change: Change, rig: Rig) -> str:
    """A few words for the undo list, in terms of the rig before the change."""

    def name(gear_id: str) -> str:
        return rig.gear[gear_id].name if gear_id in rig.gear else gear_id

    match change:
        case AddUnit(unit=unit):
            return f"add {name(unit)}"
        case RemoveUnit(unit=unit):
            return f"take out {name(unit)}"
        case Connect(a=a, b=b):
            return f"connect {name(a.unit)} to {name(b.unit)}" if b else f"plug a lead into {name(a.unit)}"
        case Disconnect(lead=lead):
            return f"put {name(lead)} away"
        case SetControl(unit=unit, control=control, value=value):
            found = rig.control(unit, control) if rig.has(unit) else None
            label = found.label.lower() if found else control
            return f"{name(unit)}: {label} {_setting_words(value, found)}"
        case Guard(unit=unit, control=control, on=taped):
            found = rig.control(unit, control) if rig.has(unit) else None
            label = found.label.lower() if found else control
            return f"{name(unit)}: {label} {'taped' if taped else 'tape off'}"
        case Measure(lead=lead):
            return f"way of {name(lead)}"
        case Turn(unit=unit, place=place, facing=facing):
            return f"{name(unit)}: turned {TURNED[facing]} {name(place)}"
        case Stand(unit=unit, room=room, mount=mount):
            on = f"on {name(mount)}" if mount else "on the floor"
            where = "in the open" if room == OPEN_AIR else f"in {name(room)}" if room else "room not said"
            return f"{name(unit)}: {on if room is None else where}"
        case SetOccasion():
            return "when and how loud"
        case Describe():
            return "name and notes"
        case SetScene(scene=scene):
            return f"scene “{scene.name}”"
        case DropScene(name=scene_name):
            return f"drop scene “{scene_name}”"
        case PutOn(name=scene_name):
            return f"put on scene “{scene_name}”"


def speaker_side(rig: Rig) -> tuple[frozenset[tuple[str, str, Setting]], frozenset[Link]]:
    """What is not moved while an amp is on: controls that are not safe live, as they stand, and the speaker leads."""
    held = {(unit, c.id, rig.settings(unit)[c.id]) for unit, g in rig.units() for c in g.controls() if not c.safe_live}
    leads = {k for k in rig.hookup.links if any(rig.socket(e).level == "speaker" for e in k.ends())}
    return frozenset(held), frozenset(leads)


def touches_speaker_side(change: Change, rig: Rig) -> bool:
    """Whether the change re-plugs a speaker lead, or moves a tap, mode or load selector."""
    match change:
        case SetControl(unit=unit, control=control):
            found = rig.control(unit, control) if rig.has(unit) else None
            return found is not None and not found.safe_live
        case Connect(a=a, b=b):
            ends = [end for end in (a, b) if end]
        case Disconnect(lead=lead):
            ends = [end for k in rig.hookup.links if k.lead == lead for end in k.ends()]
        case RemoveUnit(unit=unit):
            ends = [e for k in rig.hookup.links if unit in {x.unit for x in k.ends()} for e in k.ends()]
        case SetScene() | DropScene() | PutOn():  # a scene holds only what may be moved while it is on
            return False
        case AddUnit() | Describe() | Guard() | Measure() | Stand() | Turn() | SetOccasion():
            return False
    return any(not rig.knows(end) or rig.socket(end).level == "speaker" for end in ends)
