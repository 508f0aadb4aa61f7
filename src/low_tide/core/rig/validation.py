"""What is impossible about a hook-up: plugs that do not fit, sockets taken twice, settings that are none."""

from __future__ import annotations

from low_tide.core.gear.base import FITS, Socket
from low_tide.core.gear.ids import OPEN_AIR
from low_tide.core.inventory import (
    Cabinet,
    Headphones,
    Lead,
    Microphone,
    Mount,
    Room,
    Surrounding,
    Unit,
)
from low_tide.core.rig.hookup import MOST_SCENES, End, Hookup, HookupError
from low_tide.core.rig.rig import GearById, Rig


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
    names = [scene.name for scene in hookup.scenes]
    if len(names) > MOST_SCENES:
        found.append(f"Scenes: {len(names)} are more than the {MOST_SCENES} that a hook-up may have.")
    found += [f"Two scenes are called “{name}”." for name in dict.fromkeys(names) if names.count(name) > 1]
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
