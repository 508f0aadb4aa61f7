"""How loud it gets at every listed place, and what that does to ears and sleep."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from math import isfinite

from low_tide.core.acoustics.exposure import LISTENING, NO_ALLOWANCE_DBA, allowed_hours, dose, duration, level_for
from low_tide.core.inventory import Attenuator, Cabinet, Mount, Partition, Place, ReAmp, Room
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix, School, SchoolView
from low_tide.core.loudness.sound_level import (
    COARSE_DB,
    IN_A_ROOM,
    NO_WAY,
    THROUGH_A_PARTITION,
    Listening,
    SoundLevel,
    beside,
    listening,
    noise_at,
    own_noise,
    rule_of_thumb,
    sound_level_at,
    spread_words,
    together,
)
from low_tide.core.power.shares import downstream, powers
from low_tide.core.preferences import LISTENING_NAMES
from low_tide.core.rig.changes import SetControl, SetOccasion, Stand
from low_tide.core.rig.rig import Rig
from low_tide.core.thermal.heating import DUTY
from low_tide.core.units import figure, in_db_down
from low_tide.core.venue.place import Limit

FAMILY = "Loudness, people"
MOST_FIXES = 4
AT_ONCE_H = 1 / 60
LEAST_SESSION_H = 0.25
"""No session is cut shorter than that."""


def _level(heard: SoundLevel) -> str:
    rests = f"{heard.readings} reading{'s' if heard.readings > 1 else ''}" if heard.readings else "estimated"
    about = "At most about" if heard.at_most else "About"
    return f"{about} {figure(heard.dba or 0.0)} dBA, {spread_words(heard.spread)} ({rests})"


def _mends(case: Case, down_db: float) -> list[Fix]:
    """Turning down what stands in the hook-up by at least so many dB, the least that does it first."""
    found = []
    for unit, gear in case.rig.units():
        at = case.rig.settings(unit)
        if isinstance(gear, Attenuator):
            now = 0.0 if at.get("bypass") else gear.decibels(at["step"])
            enough = sorted((down, str(p), p) for down, p in gear.levels() if down >= now + down_db)
            for decibels, _, position in enough[:1]:
                changes = [SetControl(unit, "step", position)]
                if at.get("bypass"):
                    changes.append(SetControl(unit, "bypass", False))
                found.append(Fix(f"Set {gear.name} to {in_db_down(decibels)}", tuple(changes)))
        elif isinstance(gear, ReAmp):
            volume = max(-60.0, float(int(float(at["volume"]) - down_db - 1)))
            if volume < float(at["volume"]):
                label = f"Turn {gear.name} down to {figure(volume)} dB"
                found.append(Fix(label, (SetControl(unit, "volume", volume),)))
    return found


def _rooms(case: Case) -> list[Fix]:
    """Saying where the cabinets stand, for each room there is."""
    rooms = case.rig.owned(Room)
    lost = [u for u, _ in case.rig.cabinets() if case.rig.room_of(u) is None and not case.rig.is_outside(u)]
    return [
        Fix(
            f"{case.rig.name(lost[0]) if len(lost) == 1 else 'They'} stand{'s' if len(lost) == 1 else ''} in {r.name}",
            tuple(Stand(u, room=r.id) for u in lost),
        )
        for r in rooms[:MOST_FIXES]
        if lost
    ]


def _place(case: Case, h: SoundLevel) -> Place:
    return next(p for p in case.rig.places if p.id == h.place)


def _since(case: Case, h: SoundLevel, limit: Limit, hours: float) -> str:
    """The end of a sentence: from when it is over, where the limit begins `hours` after the session."""
    if not hours:
        return "."
    first = _place(case, h).limit_within(case.rig.hookup.occasion.hour, AT_ONCE_H)
    if first and h.most > first.level:
        return f", and more so from {limit.start}."
    return f" from {limit.start}, before the session ends."


def _ends(case: Case, limit: Limit, hours: float) -> tuple[Fix, ...]:
    """Ending the session when a limit begins, `hours` after it began."""
    if hours < LEAST_SESSION_H:
        return ()
    shorter = SetOccasion(replace(case.rig.hookup.occasion, hours=hours))
    return (Fix(f"End the session at {limit.start}", (shorter,)),)


@check(
    "over-limit",
    FAMILY,
    "Predicted level and its spread are over a place's limit at some time of the session.",
    reads=("soundings", "sound_levels"),
    asks=("drivers.sensitivity",),
)
def over_limit(case: Case) -> Iterator[Finding]:
    sounds = tuple(s.unit for s in case.soundings)
    if not sounds:
        return
    untold = [h for h in case.sound_levels if h.limit and h.dba is None and h.why != NO_WAY]
    if untold:
        yield Finding(
            id="over-limit",
            severity="caution",
            text=f"Nobody can say how loud it gets at {untold[0].name}.",
            reason=f"{untold[0].why[0].upper()}{untold[0].why[1:]}, and {untold[0].name} has a limit.",
            units=sounds,
            fixes=tuple(_rooms(case)),
        )
    for h in case.sound_levels:
        if h.limit and h.why == NO_WAY and h.hour_said:
            yield Finding(
                id="over-limit",
                severity="note",
                text=f"The limit of {h.name} is not judged.",
                reason=f"{h.why[0].upper()}{h.why[1:]}. If sound gets there, put what lies between into the Locker.",
                units=sounds,
            )
        over = h.over
        if over is None or h.limit is None:
            continue
        whose = f", {h.limit.whose}" if h.limit.whose else ""
        bound = f"{figure(h.limit.level)} dBA from {h.limit.start} to {h.limit.end}{whose}"
        if over <= 0:
            yield Finding(
                id="over-limit",
                severity="fine",
                text=f"{h.name} stays under its limit.",
                reason=f"{_level(h)}; the limit is {bound}.",
                units=sounds,
            )
            continue
        surely = h.dba is not None and h.dba - h.spread.down > h.limit.level
        until = h.limit.begins_after(case.rig.hookup.occasion.hour) if h.hour_said else 0.0
        yield Finding(
            id="over-limit",
            severity="caution" if h.hour_said else "note",
            text=f"{h.name}: {'over' if surely else 'may be over'} its limit"
            + (_since(case, h, h.limit, until) if h.hour_said else f" from {h.limit.start} to {h.limit.end}."),
            reason=f"{_level(h)}; the limit is {bound}. {figure(over, 2)} dB too much at worst."
            + ("" if h.hour_said else " No hour is said for this hook-up, so the strictest of the day is told."),
            units=sounds,
            fixes=(*_ends(case, h.limit, until), *_mends(case, over)),
            typical=() if h.readings else ("level estimated from sensitivity, rooms and partitions",),
        )


def _school(case: Case, exposures: list[tuple[float, float]]) -> School:
    def says(school: str) -> SchoolView:
        used = case.rig.known.dose if school == case.preferences.listening else 0.0
        over = used + dose(exposures, school) > 1
        return SchoolView(LISTENING_NAMES[school], "caution" if over else "fine")

    chosen = case.preferences.listening
    others = tuple(says(s) for s in LISTENING_NAMES if s != chosen)
    return School("Listening limit", LISTENING_NAMES[chosen], others)


def _listening_words(rig: Rig, each: Listening) -> tuple[str, str, tuple[str, ...]]:
    """Where that is, what is heard there, and what of it nobody measured."""
    place, pair = each.place, each.pair
    name = rig.name(pair.headphones) if pair else ""
    loud = f"up to {figure(pair.most + pair.spread)} dB" if pair else ""
    marks = (*pair.typical, "headphones: level at the end of their travel, an estimate") if pair else ()
    if place is None:
        return name, f"At the end of their travel {loud}", marks
    predicted = () if place.readings else (f"{place.name}: level predicted, not measured",)
    on = f"; {name} at full travel {loud}" if pair else ""
    return place.name, f"{_level(place)}{on}", (*predicted, *marks)


@check(
    "dose",
    FAMILY,
    "Listening through the session is over the school's allowance, or anywhere over 115 dBA.",
    reads=("sound_levels", "phones"),
)
def dose_check(case: Case) -> Iterator[Finding]:
    school, occasion = case.preferences.listening, case.rig.hookup.occasion
    hours = occasion.hours * DUTY[occasion.playing][1]
    span = "week" if LISTENING[school].days > 1 else "day"
    for each in listening(case.sound_levels, case.phones):
        worst, (where, heard_there, typical) = each.level, _listening_words(case.rig, each)
        if worst > NO_ALLOWANCE_DBA:
            yield Finding(
                id="dose",
                severity="caution",
                text=f"{where} may be too loud for any time at all.",
                reason=f"{heard_there}; over {figure(NO_ALLOWANCE_DBA)} dBA no school allows"
                " anything. Turn down, or go out.",
                fixes=tuple(_mends(case, worst - NO_ALLOWANCE_DBA)),
                school=_school(case, [(worst, hours)]),
                typical=typical,
                which=where,
            )
            continue
        used = case.rig.known.dose + dose([(worst, hours)], school)
        played = f"{figure(occasion.hours, 2)} h with {DUTY[occasion.playing][0]}, {duration(hours)} of sound"
        before = f", {figure(case.rig.known.dose * 100, 2)} % was used before" if case.rig.known.dose > 0.005 else ""
        hours_allowed = allowed_hours(worst, school)
        bounded = hours_allowed < 24 * LISTENING[school].days
        allowed = f"{duration(hours_allowed)} a {span} are allowed" if bounded else f"the whole {span} is allowed"
        said = f"{heard_there}. At the edge of that {allowed}; planned are {played}{before}."
        if used > 1:
            yield Finding(
                id="dose",
                severity="caution",
                text=f"More than {'this week’s' if span == 'week' else 'a day’s'} listening at {where}.",
                reason=f"{said} That is"
                f" {'far more' if not isfinite(used) else figure(used, 2) + ' times'} what is allowed."
                " Hearing does not come back.",
                fixes=tuple(_mends(case, worst - level_for(max(hours, 0.05), school))),
                school=_school(case, [(worst, hours)]),
                typical=typical,
                which=where,
            )
        else:
            text = f"Listening at {where} is within what the {span} allows."
            others = _school(case, [(worst, hours)])
            yield Finding(
                id="dose", severity="fine", text=text, reason=said, school=others, typical=typical, which=where
            )


@check(
    "headphones-loud",
    FAMILY,
    "A headphone output can be turned up past what the school allows for the session.",
    reads=("phones", "occasion"),
)
def headphones_loud(case: Case) -> Iterator[Finding]:
    school, hours = case.preferences.listening, case.rig.hookup.occasion.hours
    bound = level_for(hours, school)
    for each in case.phones:
        most = each.most + each.spread
        if most <= bound:
            continue
        sure = each.most > bound
        reaches = f"can reach {figure(each.most)}" if sure else f"may reach {figure(most)}"
        stop = f"{each.socket}.stop"
        down = float(int(float(case.rig.settings(each.interface)[stop]) - (most - bound) - 1))
        allowed = allowed_hours(each.most, school)
        fixes: tuple[Fix, ...] = ()
        if down >= -60:
            label = f"Let the headphones go up to {figure(down)} dB only"
            fixes = (Fix(label, (SetControl(each.interface, stop, down),)),)
        yield Finding(
            id="headphones-loud",
            severity="caution",
            text=f"{case.rig.name(each.headphones)} {reaches} dB.",
            reason=f"At the end of its travel {case.rig.name(each.interface)} drives them to that: "
            + (f"{duration(allowed)} of it are allowed." if allowed else "no time of it is allowed.")
            + f" For {figure(hours, 2)} h at most {figure(bound)} dBA. Set a stop where the maker provides one."
            + ("" if sure else f" It is ± {figure(each.spread)} dB: look both up, or measure."),
            units=(each.headphones, each.interface),
            fixes=fixes,
            typical=(*each.typical, "level from sensitivity and output volts, an estimate"),
            school=School(
                "Listening limit",
                LISTENING_NAMES[school],
                tuple(
                    SchoolView(LISTENING_NAMES[s], "caution" if most > level_for(hours, s) else "fine")
                    for s in LISTENING_NAMES
                    if s != school
                ),
            ),
        )


def _apart(case: Case, unit: str, here: SoundLevel) -> tuple[float | None, float | None]:
    """dBA at a place without the cabinets behind a unit, and of those alone; None for silence."""
    behind = frozenset(downstream(case.rig, unit))
    rest = sound_level_at(case.rig, _place(case, here), silent=behind).dba
    return rest, None if here.dba is None else beside(here.dba, rest)


@check(
    "rule-of-thumb",
    FAMILY,
    "No place has a limit, and in the amp's own room it gets louder than most houses bear by day.",
    reads=("soundings", "sound_levels"),
)
def rule_of_thumb_passed(case: Case) -> Iterator[Finding]:
    for h in case.sound_levels:
        bound = rule_of_thumb(case.rig, h.place)
        if bound is None or h.most <= bound:
            continue
        yield Finding(
            id="rule-of-thumb",
            severity="note",
            text=f"{h.name}: more than a house bears by day, by a rule of thumb.",
            reason=f"{_level(h)}; where neither a limit nor what lies around the room is known, about {figure(bound)}"
            " dBA in it is what most neighbours bear by day. A place with its limit in the Locker, or a reading at the"
            " neighbour's, says more.",
            units=tuple(s.unit for s in case.soundings),
            fixes=tuple(_mends(case, h.most - bound)),
            typical=("the limit is a rule of thumb",),
        )


@check(
    "step-too-coarse",
    FAMILY,
    "No step of the attenuator in use comes within 3 dB of the wanted level.",
    reads=("sound_levels",),
)
def step_too_coarse(case: Case) -> Iterator[Finding]:
    occasion = case.rig.hookup.occasion
    here = next((h for h in case.sound_levels if h.place == occasion.place), None)
    if occasion.level is None or here is None or here.dba is None:
        return
    for unit, gear in case.rig.units():
        if not isinstance(gear, Attenuator) or not gear.is_stepped() or not case.rig.plugged(unit):
            continue
        if gear.has_unknown():
            continue  # one of those may come nearer
        at = case.rig.settings(unit)
        now = 0.0 if at.get("bypass") else gear.decibels(at["step"])
        rest, alone = _apart(case, unit, here)
        if alone is None:
            continue
        steps = [down for down, _ in gear.levels()] + [0.0] * gear.bypass
        reached = sorted((together(alone + now - down, rest) or 0.0, down) for down in steps)
        off = [(level - occasion.level, down) for level, down in reached]
        if min(abs(d) for d, _ in off) <= COARSE_DB:
            continue
        under = [f"{in_db_down(down)} gives {figure(occasion.level + d)} dBA" for d, down in off if d < 0][-1:]
        above = [f"{in_db_down(down)} gives {figure(occasion.level + d)} dBA" for d, down in off if d > 0][:1]
        if under and above:
            more = "A load beside the speaker takes about 3 dB more: with it the louder of the two comes nearer."
        elif above:
            more = "That is its deepest. A load beside the speaker takes about 3 dB more; for less, another box."
        else:
            more = "That is its least. With nothing between it is louder."
        yield Finding(
            id="step-too-coarse",
            severity="note",
            text=f"No step of {gear.name} comes within {figure(COARSE_DB)} dB of {figure(occasion.level)} dBA.",
            reason=f"At {here.name} {' and '.join(under + above)}. {more}",
            units=(unit,),
        )


@check(
    "not-silent",
    FAMILY,
    "A silent hook-up's own noise may be over a place's night limit.",
    reads=("soundings", "standing"),
)
def not_silent(case: Case) -> Iterator[Finding]:
    if case.soundings:
        return
    taken = powers(case.rig)
    for unit, gear in case.rig.units():
        noise = own_noise(case.rig, unit)
        if noise is None or not any(u == unit for u, _ in taken):
            continue
        dba, estimated = noise
        for place in case.rig.places:
            limit, there = place.strictest(), noise_at(case.rig, unit, dba, place)
            spread = THROUGH_A_PARTITION.up if estimated else IN_A_ROOM.up
            if limit is None or there is None or there + spread <= limit.level:
                continue
            yield Finding(
                id="not-silent",
                severity="note",
                text=f"{gear.name} is not silent at {place.name}.",
                reason=f"Fan and transformer make about {figure(dba)} dBA at 1 m, which is about"
                f" {figure(there)} dBA there;"
                f" the limit is {figure(limit.level)} dBA from {limit.start}. Put it elsewhere.",
                units=(unit,),
                typical=(f"{gear.name}: own noise typical, not measured",) if estimated else (),
            )


@check(
    "floor-borne",
    FAMILY,
    "A driven cabinet stands on the floor of a room that shares a partition with a listed place.",
    reads=("soundings", "standing"),
)
def floor_borne(case: Case) -> Iterator[Finding]:
    partitions = case.rig.owned(Partition)
    limited = {p.room: p for p in case.rig.places if p.limits and p.room}
    for sounding in case.soundings:
        unit = sounding.unit
        room = case.rig.room_of(unit)
        if room is None or case.rig.mount_of(unit) is not None:
            continue
        beside = next(
            (
                limited[other]
                for p in partitions
                for here, other in ((p.between, p.other), (p.other, p.between))
                if here == room.id and other in limited
            ),
            None,
        )
        if beside is None:
            continue
        cabinet = case.rig.gear[unit]
        weight = cabinet.weight if isinstance(cabinet, Cabinet) else None
        mounts = case.rig.owned(Mount)
        fit = [m for m in mounts if weight is not None and m.carries(weight)]
        best = sorted(fit, key=lambda m: m.isolates_from())
        what = (
            f"Mounts isolate above {figure(best[0].isolates_from(), 2)} Hz at best here."
            if best
            else "Its weight is not on record, so no mount can be chosen."
            if weight is None and mounts
            else "No mount in the locker carries it."
        )
        yield Finding(
            id="floor-borne",
            severity="note",
            text=f"{case.rig.name(unit)} stands on the floor beside {beside.name}.",
            reason=f"What goes through the floor is not in the prediction, and low notes go far. {what}",
            units=(unit,),
            fixes=tuple(Fix(f"Put it on {m.name}", (Stand(unit, mount=m.id),)) for m in best[:2]),
        )
