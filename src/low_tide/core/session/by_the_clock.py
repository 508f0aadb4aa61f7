"""What of a hook-up runs by the clock: playing time, rests, when a case may be touched, quiet hours ahead."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import inf, isfinite, log

from low_tide.core.acoustics.exposure import allowed_hours
from low_tide.core.loudness.sound_level import levels_as_set, listening_level
from low_tide.core.power.warm_boxes import warm_boxes
from low_tide.core.preferences import Preferences
from low_tide.core.rig.rig import Rig
from low_tide.core.thermal.heating import TOUCH_GENTLE_C, Warming
from low_tide.core.units import figure

LONGEST_MIN = 12 * 60.0
"""What is further off than this is nobody's concern on one evening."""
COOL_WORDS = f"may be touched: under {TOUCH_GENTLE_C:g} °C"


@dataclass(frozen=True)
class Ending:
    """Something that ends: of what (a unit's id, or empty), after how many minutes, and what is said when it does."""

    about: str
    minutes: float
    words: str


def while_it_plays(rig: Rig, preferences: Preferences, played: float = 0.0) -> Iterator[Ending]:
    """What ends while a hook-up plays, `played` min of it gone: boxes at their limit, the ears' allowance used up.

    Boxes by the upper edge of what is typical in them; the allowance by the school, at the edge of what is sure.
    """
    for unit, box in warm_boxes(rig):
        if box is None:
            continue
        left = _to_its_limit(box) - played
        if isfinite(left) and left <= LONGEST_MIN:
            rest = f"{figure(box.rest, 2)} min of rest"
            yield Ending(unit, max(0.0, left), f"{rig.name(unit)} at its limit of {figure(box.limit)} °C: {rest}")
    level, where = listening_level(rig)
    if level is not None:
        left = max(0.0, 1 - rig.known.dose) * allowed_hours(level, preferences.listening) * 60 - played
        if left <= LONGEST_MIN:
            yield Ending("", max(0.0, left), f"Ears: the allowance is used up at {figure(level, 2)} dBA, {where}")


def _to_its_limit(box: Warming) -> float:
    """Minutes from cold to its limit at the edge of what is typical in it; inf for never."""
    rise = (box.settled - box.ambient) * (1 + box.doubt)
    room = box.limit - box.ambient
    if room <= 0:
        return 0.0
    return -box.minutes * log(1 - room / rise) if rise > room else inf


def until_touched(box: Warming, played: float) -> float:
    """Minutes after it is off until a case may be touched, having played so long (min); inf where the room is as hot.

    It cools towards the room by its own time constant, from the upper edge of what is typical.
    """
    hot, room = box.at_most(played) - box.ambient, TOUCH_GENTLE_C - box.ambient
    if hot <= max(0.0, room):
        return 0.0
    return box.minutes * log(hot / room) if room > 0 else inf


def when_off(rig: Rig, played: float) -> Iterator[Ending]:
    """What is waited for once a hook-up that played for so long (min) is off."""
    for unit, box in warm_boxes(rig):
        if box is not None and (minutes := until_touched(box, played)) > 0 and isfinite(minutes):
            yield Ending(unit, minutes, f"{rig.name(unit)} {COOL_WORDS}")


def quiet_ahead(rig: Rig, minute: int) -> Iterator[Ending]:
    """Limits that this hook-up would not keep, at `minute` of the day: how long until each holds, 0 where it does."""
    for heard in levels_as_set(rig):
        place = next((p for p in rig.places if p.id == heard.place), None)
        if place is None or heard.dba is None:
            continue
        for limit in place.limits:
            if heard.most <= limit.level:
                continue
            hours = limit.begins_after(f"{minute // 60:02d}:{minute % 60:02d}")
            said = f"{heard.name}: at most {figure(limit.level)} dBA, {limit.start} to {limit.end}"
            left = hours * 60 if hours else 0.0
            yield Ending(
                place.id, left, f"{said}; this comes to {figure(heard.most, 2)} dBA at the edge of what is sure"
            )


def limit_at(rig: Rig, place_id: str, minute: int) -> float | None:
    """The limit (dBA) that holds at a place at `minute` of the day; None where none does."""
    place = next((p for p in rig.places if p.id == place_id), None)
    holding = [limit.level for limit in place.limits if minute in limit.minutes()] if place else []
    return min(holding, default=None)
