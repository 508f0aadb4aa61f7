"""Every step of every owned thing that turns a hook-up down, and how loud each makes it at every place."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

from low_tide.core.finder.leads import best_lead
from low_tide.core.gear.base import Setting
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Lead, Load, ReAmp
from low_tide.core.judging.checks.moves import to_other_tap
from low_tide.core.loudness.sound_level import driven_by, sound_levels, soundings
from low_tide.core.power.over_frequency import MATCH_BAND
from low_tide.core.power.shares import downstream, seen_by
from low_tide.core.power.speaker_network import Output
from low_tide.core.rig.changes import AddUnit, Change, Connect, Disconnect, RemoveUnit, SetControl, changed
from low_tide.core.rig.hookup import End, HookupError, Link
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import fits
from low_tide.core.units import db, figure, in_db_down

REAMP_STEPS_DB = tuple(float(v) for v in range(0, -49, -3))


@dataclass(frozen=True)
class AttenuationStep:
    """One position of one thing that turns down: where it brings the hook-up.

    `down_db` at the speaker, against the amp straight into the cabinet; `doubt_db` ± of a calibrated position.
    `levels`: dBA by place, in the order of `heard`, None where it cannot be told. `changes` put it on the bench;
    empty where it stands so already.
    """

    unit: str
    name: str
    position: str
    down_db: float
    doubt_db: float
    watts: float
    levels: tuple[float | None, ...]
    changes: tuple[Change, ...]
    is_now: bool


@dataclass(frozen=True)
class _Position:
    """A position that something owned could stand in: the changes that lead there, and the rig then."""

    unit: str
    at: Setting
    words: str
    changes: tuple[Change, ...]
    rig: Rig


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
        return tuple(None for _ in rig.places), 0.0
    watts = sum(s.watts for s in soundings(alone))
    return tuple(h.dba for h in sound_levels(alone)), watts


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


def _candidates(rig: Rig, output: Output, cabinet: str) -> Iterator[_Position]:
    """Every position of everything owned that could turn this cabinet down."""
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
            yield _Position(gear.id, "", "beside the speaker", changes, there)


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


def _steps(rig: Rig, gear: Attenuator | ReAmp, base: tuple[Change, ...], amp: str) -> Iterator[_Position]:
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
        if isinstance(gear, Attenuator) and gear.is_unknown(position):
            continue  # a step is picked for what it takes
        moves: list[Change] = [SetControl(gear.id, control, position)]
        moved = {control: position}
        if at.get("bypass"):
            moves.append(SetControl(gear.id, "bypass", False))
            moved["bypass"] = False
        if isinstance(gear, Attenuator):
            plain = not gear.marks
            words = in_db_down(gear.decibels(position)) if plain else f"at {position}".removesuffix(".0")
        else:
            words = f"volume {figure(float(position))} dB"
        is_now = not base and all(at.get(k) == v for k, v in moved.items())
        changes = () if is_now else (*base, *moves)
        yield _Position(gear.id, position, words, changes, there.moved({gear.id: moved}))


def attenuation_steps(
    rig: Rig, output: Output, cabinet: Cabinet, full_watts: float, here: tuple[float | None, ...]
) -> tuple[AttenuationStep, ...]:
    """Every step of every attenuator, re-amplifier and split that is owned, in this hook-up.

    What is in the hook-up already moves where it stands; what is not is put between, where nothing is yet.
    `here`: dBA by place as it stands.
    """
    now = soundings(rig)
    found = []
    for each in _candidates(rig, output, cabinet.id):
        sounding = soundings(each.rig)
        watts = sum(s.watts for s in sounding if s.unit == cabinet.id)
        if watts <= 0:
            continue
        if len(now) == len(sounding) == 1:
            # One cabinet that stays where it is: only its watts change, and every place with them.
            levels = tuple(None if dba is None else dba + db(watts / now[0].watts) for dba in here)
        else:
            levels = tuple(h.dba for h in sound_levels(each.rig))
        gear = rig.gear[each.unit]
        doubt = gear.doubt_db(each.at) if isinstance(gear, Attenuator) and gear.marks else 0.0
        down = -db(watts / full_watts) if full_watts > 0 else 0.0
        is_now = not each.changes
        found.append(
            AttenuationStep(each.unit, gear.name, each.words, down, doubt, watts, levels, each.changes, is_now)
        )
    return tuple(found)
