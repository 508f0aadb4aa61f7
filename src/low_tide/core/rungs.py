"""From a wish to a setting: every step of what is owned, how loud it makes a hook-up at every place."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from low_tide.core.changes import AddUnit, Change, Connect, Disconnect, RemoveUnit, SetControl, changed
from low_tide.core.checks.moves import to_other_tap
from low_tide.core.choices import best_lead
from low_tide.core.circuit import Output, outputs
from low_tide.core.contours import loudness_ratio, loudness_words
from low_tide.core.finding import RANK, Verdict
from low_tide.core.gear import Amp, Attenuator, Cabinet, Lead, Load, ReAmp
from low_tide.core.hearing import allowed_hours
from low_tide.core.hookup import End, HookupError, Link, Rig, fits
from low_tide.core.judge import judge
from low_tide.core.loudness import COARSE_DB, Heard, cabinet_of, driven_by, feeding, heard, soundings, way_words
from low_tide.core.power import downstream, seen_by
from low_tide.core.preferences import Preferences
from low_tide.core.spectra import MATCH_BAND
from low_tide.core.units import db, figure

REAMP_STEPS_DB = tuple(float(v) for v in range(0, -49, -3))


@dataclass(frozen=True)
class Rung:
    """One position of one thing that turns down: where it brings the hook-up.

    `down_db` at the speaker, against the amp straight into the cabinet; `doubt_db` ± of a calibrated position.
    `levels`: dBA by place, in the order of the staff's places, None where it cannot be told. `changes` put it
    on the bench; empty where it stands so already. `severity` is the verdict then, empty where nobody asked.
    """

    unit: str
    name: str
    position: str
    down_db: float
    doubt_db: float
    watts: float
    levels: tuple[float | None, ...]
    changes: tuple[Change, ...]
    is_now: bool = False
    severity: str = ""


@dataclass(frozen=True)
class Advice:
    """One rung held against the wish: dB off it, and how it sounds against full."""

    rung: Rung
    off_db: float
    words: str
    verdict: str


@dataclass(frozen=True)
class Staff:
    """A hook-up against the levels at every place: what it is now, at full, and on every rung.

    `full`: dBA by place with nothing between amp and speaker. `wanted` (dBA) at `place`; `need_db`: how far
    down from full that is. `allowed`: hours one may listen at the wanted level, by the chosen school.
    `coarse`: no rung comes near the wish. `why`: what is missing where there are no rungs. `played`: how hard the
    amp is taken to be played, in words.
    """

    places: tuple[Heard, ...]
    full: tuple[float | None, ...]
    full_watts: float
    rungs: tuple[Rung, ...]
    place: str
    wanted: float | None
    need_db: float | None
    watts_wanted: float | None
    ratio: float | None
    words: str
    allowed: float | None
    nearest: tuple[Advice, ...]
    coarse: bool
    why: str
    played: str = ""


def _feed(rig: Rig, cabinet: str) -> Link | None:
    """The speaker link whose far end is at the cabinet."""
    return next(
        (k for k in rig.speaker_links if k.b and cabinet in (k.a.unit, k.b.unit) and k.a.unit != k.b.unit),
        None,
    )


def _ends(link: Link, cabinet: str) -> tuple[End, End]:
    """Its end before the cabinet, and that at it."""
    assert link.b is not None
    return (link.a, link.b) if link.b.unit == cabinet else (link.b, link.a)


def _straight(rig: Rig, output: Output, cabinet: Cabinet) -> Rig | None:
    """The amp with nothing but its cabinet, on the tap nearest the cabinet's rating; None where it has no jack."""
    amp = rig.gear[output.amp]
    if not isinstance(amp, Amp):
        return None
    best = min(amp.tap_sockets(), key=lambda t: abs(db(t[0].impedance / cabinet.nominal())))
    settings = dict(rig.settings(output.amp))
    if amp.tap_choice == "selector" and len(amp.taps) > 1:
        settings["tap"] = f"{best[0].impedance:g}"
    own = {p.unit: p for p in rig.hookup.units}
    units = (replace(own[output.amp], settings=settings), own[cabinet.id])
    lead = Link("straight", End(output.amp, best[2][0]), End(cabinet.id, "in1"))
    return replace(rig, hookup=replace(rig.hookup, units=units, links=(lead,)))


def full(rig: Rig, output: Output, cabinet: Cabinet) -> tuple[tuple[float | None, ...], float]:
    """dBA at every place, and watts, with nothing between amp and cabinet."""
    alone = _straight(rig, output, cabinet)
    if alone is None:
        return tuple(None for _ in rig.places()), 0.0
    watts = sum(s.watts for s in soundings(alone))
    return tuple(h.dba for h in heard(alone)), watts


def _insert(rig: Rig, cabinet: str, gear: Attenuator | ReAmp) -> tuple[Change, ...] | None:
    """Changes that put a box between amp and cabinet; None where no lead is free for it."""
    link = _feed(rig, cabinet)
    if link is None or link.b is None:
        return None
    before, after = _ends(link, cabinet)
    sockets = {s.id: s for s in gear.sockets()}
    conductor = rig.conductor(link)
    into, out = End(gear.id, "in"), End(gear.id, "out")
    unplug: tuple[Change, ...] = (Disconnect(link.lead), AddUnit(gear.id))
    if isinstance(conductor, Cabinet):
        lead = best_lead(rig, rig.socket(before), sockets["in"])
        own = Connect(link.lead, out, after)
        return None if lead is None else (*unplug, Connect(lead.id, before, into), own)
    lead = best_lead(rig, sockets["out"], rig.socket(after))
    if lead is None:
        return None
    return (*unplug, Connect(link.lead, before, into), Connect(lead.id, out, after))


def _swap(rig: Rig, old: str, gear: Attenuator | ReAmp) -> tuple[Change, ...] | None:
    """Changes that put a box where another is, on the same leads; None where it has no such sockets in use."""
    sockets = {s.id: s for s in gear.sockets()}
    moves: list[Change] = [RemoveUnit(old), AddUnit(gear.id)]
    for link in rig.hookup.links:
        here = next((e for e in link.ends() if e.unit == old), None)
        if here is None or link.b is None:
            continue
        there, conductor = rig.far_end(here), rig.conductor(link)
        if here.socket not in sockets or there is None:
            if here.socket in ("in", "out"):
                return None
            continue
        if isinstance(conductor, Lead) and not fits(conductor, rig.socket(there), sockets[here.socket]):
            continue
        moves.append(Connect(link.lead, there, End(gear.id, here.socket)))
    return tuple(moves)


def _split(rig: Rig, cabinet: str, load: Load) -> tuple[Change, ...] | None:
    """Changes that put a load beside the cabinet: through its parallel socket, or on a free jack of the same tap."""
    link = _feed(rig, cabinet)
    if link is None or link.b is None or isinstance(rig.conductor(link), Cabinet):
        return None
    before, after = _ends(link, cabinet)
    sockets = {s.id: s for s in load.sockets()}
    if load.through == "parallel":
        lead = best_lead(rig, sockets["through"], rig.socket(after))
        if lead is not None:
            first = Connect(link.lead, before, End(load.id, "in"))
            return (Disconnect(link.lead), AddUnit(load.id), first, Connect(lead.id, End(load.id, "through"), after))
    amp = rig.gear[before.unit]
    if isinstance(amp, Amp):
        jacks = next((js for _, _, js in amp.tap_sockets() if before.socket in js), ())
        free = next((j for j in jacks if rig.link_at(End(amp.id, j)) is None), None)
        lead = best_lead(rig, rig.socket(before), sockets["in"]) if free else None
        if free and lead is not None:
            return (AddUnit(load.id), Connect(lead.id, End(amp.id, free), End(load.id, "in")))
    return None


def _candidates(rig: Rig, output: Output, cabinet: str) -> Iterator[tuple[str, str, tuple[Change, ...], str, Rig]]:
    """(unit, position in words, changes, position's control value as text, the rig then) of every rung."""
    inside = {u for u, _ in rig.units()}
    own = driven_by(rig, cabinet)
    between = [
        u
        for u in inside
        if (isinstance(rig.gear[u], Attenuator) and cabinet in downstream(rig, u))
        or (isinstance(rig.gear[u], ReAmp) and own is not None and own.amp == u)
    ]
    for gear in rig.gear.values():
        if isinstance(gear, Attenuator | ReAmp) and not gear.archived:
            base: tuple[Change, ...] | None = ()
            if gear.id in inside and gear.id not in between:
                continue  # it turns another cabinet down
            if gear.id not in inside and between:
                base = _swap(rig, between[0], gear) if len(between) == 1 else None
            elif gear.id not in inside:
                base = _insert(rig, cabinet, gear)
            if base is None:
                continue
            yield from _steps(rig, gear, base, output.amp)
        elif isinstance(gear, Load) and not gear.archived and gear.id not in inside and not between:
            split = _split(rig, cabinet, gear)
            if split is None:
                continue
            try:
                changes, there = _on_its_tap(changed(rig, split), split, output.amp)
            except HookupError:
                continue
            yield gear.id, "beside the speaker", changes, "", there


def _on_its_tap(there: Rig, changes: tuple[Change, ...], amp: str) -> tuple[tuple[Change, ...], Rig]:
    """The changes, and where they lead, with everything moved to the amp's tap that matches what it then sees."""

    def matches(rig: Rig) -> bool:
        return all(MATCH_BAND[0] <= s.ratio <= MATCH_BAND[1] for s in seen_by(rig) if s.output.amp == amp)

    if matches(there):
        return changes, there
    seen = next(s for s in seen_by(there) if s.output.amp == amp)
    for fix in to_other_tap(there, seen.output):
        moved = changed(there, fix.changes)
        if matches(moved):
            return (*changes, *fix.changes), moved
    return changes, there


def _steps(
    rig: Rig, gear: Attenuator | ReAmp, base: tuple[Change, ...], amp: str
) -> Iterator[tuple[str, str, tuple[Change, ...], str, Rig]]:
    there = rig
    try:
        if base:
            base, there = _on_its_tap(changed(rig, base), base, amp)
    except HookupError:
        return
    control = "step" if isinstance(gear, Attenuator) else "volume"
    at = there.settings(gear.id)
    positions = gear.positions() if isinstance(gear, Attenuator) else REAMP_STEPS_DB
    for position in positions:
        moves: list[Change] = [SetControl(gear.id, control, position)]
        moved = {control: position}
        if at.get("bypass"):
            moves.append(SetControl(gear.id, "bypass", False))
            moved["bypass"] = False
        if isinstance(gear, Attenuator):
            plain = not gear.marks
            words = f"−{figure(gear.decibels(position))} dB" if plain else f"at {position}".removesuffix(".0")
        else:
            words = f"volume {figure(float(position))} dB"
        is_now = not base and all(at.get(k) == v for k, v in moved.items())
        yield gear.id, words, () if is_now else (*base, *moves), str(position), there.moved({gear.id: moved})


def rungs(rig: Rig, output: Output, cabinet: Cabinet, full_watts: float) -> tuple[Rung, ...]:
    """Every step of every attenuator, re-amplifier and split that is owned, in this hook-up.

    What is in the hook-up already moves where it stands; what is not is put between, where nothing is yet.
    """
    now, here = soundings(rig), tuple(h.dba for h in heard(rig))
    found = []
    for unit, words, changes, position, there in _candidates(rig, output, cabinet.id):
        sounding = soundings(there)
        watts = sum(s.watts for s in sounding if s.unit == cabinet.id)
        if watts <= 0:
            continue
        if len(now) == len(sounding) == 1:
            # One cabinet that stays where it is: only its watts change, and every place with them.
            levels = tuple(None if dba is None else dba + db(watts / now[0].watts) for dba in here)
        else:
            levels = tuple(h.dba for h in heard(there))
        gear = rig.gear[unit]
        doubt = 0.0
        if isinstance(gear, Attenuator) and gear.marks:
            doubt = gear.doubt_db(float(position) if gear.is_marked_knob() else position)
        down = -db(watts / full_watts) if full_watts > 0 else 0.0
        found.append(Rung(unit, gear.name, words, down, doubt, watts, levels, changes, not changes))
    return tuple(found)


def _judged(rig: Rig, rung: Rung, preferences: Preferences) -> Verdict | None:
    try:
        return judge(changed(rig, rung.changes) if rung.changes else rig, preferences).verdict
    except HookupError:
        return None


def _advice(rig: Rig, rung: Rung, off: float, preferences: Preferences) -> Advice | None:
    verdict = _judged(rig, rung, preferences)
    if verdict is None:
        return None
    return Advice(replace(rung, severity=verdict.severity), off, loudness_words(-rung.down_db), verdict.words)


def nearest(rig: Rig, found: tuple[Rung, ...], at: int, wanted: float, preferences: Preferences) -> tuple[Advice, ...]:
    """The nearest rung of every owned thing to a wanted level (dBA) at a place, those without a stop first."""
    best: dict[str, Rung] = {}
    for rung in found:
        level = rung.levels[at]
        if level is None:
            continue
        held = best.get(rung.unit)
        if held is None or abs(level - wanted) < abs((held.levels[at] or 0.0) - wanted):
            best[rung.unit] = rung
    advised = (_advice(rig, r, (r.levels[at] or 0.0) - wanted, preferences) for r in best.values())
    order = [a for a in advised if a is not None]
    return tuple(sorted(order, key=lambda a: (RANK[a.rung.severity] > 2, abs(a.off_db))))


def staff(rig: Rig, preferences: Preferences, place: str = "", wanted: float | None = None) -> Staff:
    """A hook-up and a wish; without one the hook-up's own, or the place's limit less its spread."""
    by_id = {p.id: p for p in rig.places()}
    places = tuple(replace(h, way=way_words(rig, by_id[h.place])) for h in heard(rig))
    occasion = rig.hookup.occasion
    ids = [h.place for h in places]
    limited = next((h.place for h in places if h.limit), next(iter(ids), ""))
    place = next((p for p in (place, occasion.place) if p in ids), limited)
    cabinet = cabinet_of(rig)
    output = driven_by(rig, cabinet.id) if cabinet else None
    if output and isinstance(rig.gear[output.amp], ReAmp):
        # Full is what the amp that feeds its load would give the cabinet.
        output = next((o for o in outputs(rig) if isinstance(rig.gear[o.amp], Amp)), output)
    if cabinet and len(feeding(rig, cabinet.id)) > 1:
        output = None
    at = ids.index(place) if place else -1
    if wanted is None and occasion.level is not None and place == occasion.place:
        wanted = occasion.level
    if wanted is None and at >= 0:
        here = places[at]
        if here.limit is not None:
            wanted = here.limit.level - here.spread
        elif here.dba is not None:
            wanted = here.dba
    if cabinet is None or output is None or at < 0:
        why = "there is no place in the locker yet" if at < 0 else "no cabinet is driven in this hook-up"
        if cabinet is not None and at >= 0:
            why = f"several amps drive {cabinet.name}: set each by itself"
        return Staff(
            places, (), 0.0, (), place, wanted, None, None, None, "", _allowed(wanted, preferences), (), False, why
        )
    whole, watts = full(rig, output, cabinet)
    found = rungs(rig, output, cabinet, watts)
    top = whole[at]
    need = top - wanted if top is not None and wanted is not None else None
    advice = nearest(rig, found, at, wanted, preferences) if wanted is not None else ()
    return Staff(
        places,
        whole,
        watts,
        found,
        place,
        wanted,
        need,
        watts * 10 ** (-need / 10) if need is not None else None,
        loudness_ratio(-need) if need is not None else None,
        loudness_words(-need) if need is not None else "",
        _allowed(wanted, preferences),
        advice,
        need is not None and all(abs(a.off_db) > COARSE_DB for a in advice),
        "" if top is not None else places[at].why,
        _played(rig, output),
    )


def _played(rig: Rig, output: Output) -> str:
    name = rig.name(output.amp)
    if rig.settings(output.amp).get("flat_out"):
        return f"{name} flat out"
    more = db(output.flat_power / output.label_power)
    return f"{name} at its label" + (f"; flat out {figure(more, 2)} dB more" if more > 0.1 else "")


def _allowed(wanted: float | None, preferences: Preferences) -> float | None:
    return None if wanted is None else allowed_hours(wanted, preferences.listening)
