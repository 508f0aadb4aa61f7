"""Which load one picked for an amp, its power mode and a guitar: kept, and shown where it is switched."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.core.inventory import Amp, Guitar
from low_tide.core.power.load_feel import Contender
from low_tide.core.rig.rig import Rig
from low_tide.store import picks
from low_tide.store.database import database, remembered
from low_tide.store.home import now
from low_tide.store.picks import PickRecord


@dataclass(frozen=True)
class Playing:
    """What a pick is for: ids of amp and guitar, the amp's power mode; `words` say so."""

    amp: str
    mode: str
    guitar: str
    words: str


@dataclass(frozen=True)
class Pick:
    """What is picked, and for what, in words."""

    choice: str
    label: str
    words: str
    at: str


@remembered("pick")
def _by_key() -> dict[tuple[str, str, str], PickRecord]:
    return {(p.amp, p.mode, p.guitar): p for p in picks.every()}


def playing(rig: Rig, amp_id: str) -> Playing:
    """What is played in a hook-up, on an amp of it or another."""
    amp = rig.gear.get(amp_id)
    mode = str(rig.settings(amp_id).get("mode", "")) if rig.has(amp_id) else ""
    if not mode and isinstance(amp, Amp) and len(amp.modes) > 1:
        mode = amp.modes[0].name
    guitar = next((u for u, g in rig.units() if isinstance(g, Guitar) and amp_id in _reached(rig, u)), "")
    said = [rig.gear[amp_id].name if amp_id in rig.gear else "", mode, rig.name(guitar) if guitar else ""]
    return Playing(amp_id, mode, guitar, ", ".join(part for part in said if part))


def _reached(rig: Rig, start: str) -> set[str]:
    """Units that what comes out of one gets to, lead by lead."""
    reach, todo = {start}, [start]
    while todo:
        here = todo.pop()
        for link in rig.hookup.links:
            if link.b is None:
                continue
            for end, other in ((link.a, link.b), (link.b, link.a)):
                if end.unit == here and rig.socket(end).flow == "out" and other.unit not in reach:
                    reach.add(other.unit)
                    todo.append(other.unit)
    return reach


def picked(what: Playing) -> Pick | None:
    """What was picked for this; None where nothing was."""
    found = _by_key().get((what.amp, what.mode, what.guitar))
    return None if found is None else Pick(found.choice, found.label, what.words, found.at)


def picked_switches(rig: Rig) -> dict[str, str]:
    """Units of a hook-up whose curve switch has a position picked for what is played, and that position."""
    found = {}
    for amp, _ in rig.amps():
        what = playing(rig, amp)
        pick = _by_key().get((what.amp, what.mode, what.guitar))
        if pick and pick.switch and rig.has(pick.unit):
            found[pick.unit] = pick.switch
    return found


def keep(what: Playing, choice: Contender | None) -> None:
    """Pick a load for what is played, or none any longer."""
    with database.atomic():
        if choice is None:
            picks.forget(what.amp, what.mode, what.guitar)
        else:
            key = (what.amp, what.mode, what.guitar)
            picks.put(PickRecord(*key, choice.id, choice.unit, choice.switch, choice.label, now()))
