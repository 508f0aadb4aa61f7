"""From a wish to a setting: a hook-up against the levels at every place, its limits and every step."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

from low_tide.core.acoustics.daily import DAILY
from low_tide.core.acoustics.equal_loudness import loudness_words
from low_tide.core.acoustics.exposure import allowed_hours, day_words
from low_tide.core.finder.attenuation_steps import AttenuationStep, attenuation_steps, full
from low_tide.core.finder.wished import MOST_DBA, Wish, read_wish
from low_tide.core.inventory import Amp, Attenuator, Cabinet, ReAmp
from low_tide.core.judging.findings import Severity
from low_tide.core.judging.judge import judge
from low_tide.core.loudness.sound_level import (
    COARSE_DB,
    SoundLevel,
    beside,
    cabinet_of,
    driven_by,
    feeding,
    rule_of_thumb,
    sound_levels,
    together,
    way_words,
)
from low_tide.core.power.speaker_network import Output, outputs
from low_tide.core.preferences import LevelMark, Preferences
from low_tide.core.rig.changes import changed
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.words import replugged
from low_tide.core.units import db, figure
from low_tide.core.venue.place import Limit

LEAST_GAP_DB = 0.05


@dataclass(frozen=True)
class Stretch:
    """From so many dB down to so many."""

    start: float
    end: float


@dataclass(frozen=True)
class Ladder:
    """All steps of one box, and the stretches that none of them comes near."""

    unit: str
    name: str
    steps: tuple[AttenuationStep, ...]
    gaps: tuple[Stretch, ...]


@dataclass(frozen=True)
class Bound:
    """What a place's limit asks of the hook-up, at the edge of what is not sure there.

    `here`: dBA at the chosen place up to which it is kept, None where that cannot be told. `down_db`: how far the
    cabinet must be down from full, by the prediction at the place itself; None where the rest of the hook-up is
    over the limit without it (`beyond`), or nothing can be told.
    """

    place: str
    name: str
    limit: Limit
    here: float | None
    down_db: float | None
    beyond: bool


@dataclass(frozen=True)
class Advice:
    """One step held against the wish: dB off it, whether that is near, how it sounds against full, the verdict.

    `replug`: what has to be plugged anew for it, a lead at a time; empty where turning is enough.
    """

    step: AttenuationStep
    off_db: float
    near: bool
    words: str
    verdict: str
    severity: Severity
    replug: tuple[str, ...] = ()


@dataclass(frozen=True)
class LevelPlan:
    """A hook-up against the levels at every place: what it is now, at full, and on every step.

    What is turned down is its main `cabinet`. `rest`: dBA by place of whatever else sounds; `full`: with nothing
    between the amp and that cabinet, and the rest. `wanted` (dBA) at `place`; `need_db`: how far the cabinet must
    be down from full for it. `allowed`: hours one may listen at the wanted level, by the chosen school.
    A step within `near_db` of the wish is near it; `coarse`: none is. `why`: what is missing where levels cannot
    be told; `beyond`: why turning the cabinet down cannot bring the wish about. `played`: how hard the amp is
    taken to be played, in words. `headline`: what the wish asks for, in one sentence; `allowed_words`: how long.
    `rule_of_thumb`: dBA at the place that holds where nothing else is known. `marks`: levels one knows by ear.
    `left_out`: steps of unknown dB, which are not picked for what they take.
    """

    places: tuple[SoundLevel, ...]
    place: str
    wanted: float | None
    allowed: float | None
    cabinet: str = ""
    rest: tuple[float | None, ...] = ()
    full: tuple[float | None, ...] = ()
    full_watts: float = 0.0
    ladders: tuple[Ladder, ...] = ()
    bounds: tuple[Bound, ...] = ()
    need_db: float | None = None
    watts_wanted: float | None = None
    words: str = ""
    nearest: tuple[Advice, ...] = ()
    coarse: bool = False
    why: str = ""
    beyond: str = ""
    played: str = ""
    near_db: float = COARSE_DB
    headline: str = "Choose a place and a level."
    allowed_words: str = ""
    rule_of_thumb: float | None = None
    marks: tuple[LevelMark, ...] = DAILY
    left_out: tuple[str, ...] = ()


def gaps(down: tuple[float, ...]) -> tuple[Stretch, ...]:
    """Stretches between neighbours among these that lie over COARSE_DB from both."""
    apart = ((a + COARSE_DB, b - COARSE_DB) for a, b in pairwise(sorted(down)))
    return tuple(Stretch(a, b) for a, b in apart if b - a > LEAST_GAP_DB)


def ladders(found: tuple[AttenuationStep, ...]) -> tuple[Ladder, ...]:
    """The steps by what they belong to, in the order they were found."""
    by_unit: dict[str, list[AttenuationStep]] = {}
    for step in found:
        by_unit.setdefault(step.unit, []).append(step)
    return tuple(
        Ladder(unit, own[0].name, tuple(own), gaps(tuple(r.down_db for r in own))) for unit, own in by_unit.items()
    )


def bounds(
    places: tuple[SoundLevel, ...], alone: tuple[float | None, ...], rest: tuple[float | None, ...], chosen: str
) -> tuple[Bound, ...]:
    """What every limit asks of a cabinet that gives `alone` (dBA by place) with nothing between, beside the `rest`."""
    down = [
        None if a is None or (level := _kept(h, r)) is None else a - level
        for h, a, r in zip(places, alone, rest, strict=True)
    ]
    here = next((i for i, h in enumerate(places) if h.place == chosen), None)
    found = []
    for i, at in enumerate(places):
        if at.limit is None:
            continue
        asked, seen = down[i], None
        if here is not None and asked is not None and (top := alone[here]) is not None:
            # Turned down by as much, the cabinet gives this at the chosen place.
            seen = together(top - asked, rest[here])
        beyond = alone[i] is not None and asked is None
        found.append(Bound(at.place, at.name, at.limit, seen, asked, beyond))
    return tuple(found)


def _kept(at: SoundLevel, rest: float | None) -> float | None:
    """The level (dBA) of one cabinet that just keeps a place's limit beside the rest; None where none does."""
    return None if at.limit is None else beside(at.limit.level - at.spread.up, rest)


def _advised(
    rig: Rig, best: Iterator[tuple[float, AttenuationStep]], full_off: float, preferences: Preferences
) -> Iterator[Advice]:
    for off, step in best:
        try:
            there = changed(rig, step.changes) if step.changes else rig
        except HookupError:
            continue
        verdict, near = judge(there, preferences).verdict, abs(off) <= COARSE_DB
        words = loudness_words(off - full_off)
        yield Advice(step, off, near, words, verdict.words, verdict.severity, replugged(rig, there))


def nearest(
    rig: Rig, found: tuple[Ladder, ...], at: int, wanted: float, whole: float, preferences: Preferences
) -> tuple[Advice, ...]:
    """The nearest step of every owned thing to a wanted level (dBA) at a place, those without a stop first.

    `whole`: dBA there with nothing between.
    """
    off = ([(level - wanted, r) for r in each.steps if (level := r.levels[at]) is not None] for each in found)
    best = (min(pairs, key=lambda pair: abs(pair[0])) for pairs in off if pairs)
    order = _advised(rig, best, whole - wanted, preferences)
    return tuple(sorted(order, key=lambda a: (a.severity == "stop", abs(a.off_db))))


def _source(rig: Rig, cabinet: Cabinet) -> Output | None:
    """The output that full is told of; None where several drive the cabinet.

    Behind a re-amplifier that is the amp which feeds its load.
    """
    output = driven_by(rig, cabinet.id)
    if output and isinstance(rig.gear[output.amp], ReAmp):
        output = next((o for o in outputs(rig) if isinstance(rig.gear[o.amp], Amp)), output)
    return None if len(feeding(rig, cabinet.id)) > 1 else output


def _why(cabinet: Cabinet | None, placed: bool) -> str:
    if not placed:
        return "there is no place in the locker yet"
    if cabinet is None:
        return "no cabinet is driven in this hook-up"
    return f"several amps drive {cabinet.name}: set each by itself"


def _wish(rig: Rig, here: SoundLevel | None) -> float | None:
    """The level (dBA) wished for where none is said: the hook-up's own, or what keeps the limit; else what is."""
    occasion = rig.hookup.occasion
    if here is None:
        return None
    if occasion.level is not None and here.place == occasion.place:
        return occasion.level
    if here.limit and (here.over is None or here.over > 0):
        return here.limit.level - here.spread.up
    thumb = rule_of_thumb(rig, here.place)
    return thumb if thumb is not None and here.most > thumb else here.dba


def _first(places: tuple[SoundLevel, ...]) -> str:
    """The place a wish is first about: the one most over its limit, or else one's own ears; '' without places."""
    best = max(places, key=lambda h: (h.dba is not None, max(0.0, h.over or 0.0), h.ears), default=None)
    return best.place if best else ""


def _played(rig: Rig, output: Output) -> str:
    name = rig.name(output.amp)
    if rig.settings(output.amp).get("flat_out"):
        return f"{name} flat out"
    more = db(output.flat_power / output.label_power)
    return f"{name} at its label" + (f"; flat out {figure(more, 2)} dB more" if more > 0.1 else "")


NO_DIFFERENCE_DB = 0.05


def _headline(plan: LevelPlan) -> str:
    if plan.why:
        return f"Not to be told: {plan.why}."
    if plan.beyond:
        return f"Not to be reached: {plan.beyond}."
    if plan.need_db is None or plan.wanted is None:
        return plan.headline
    if plan.need_db < -NO_DIFFERENCE_DB:
        return f"{figure(plan.wanted)} dBA is more than this amp gives there, by {figure(-plan.need_db)} dB."
    return f"{figure(max(0.0, plan.need_db))} dB down: {plan.words}."


def level_plan(
    rig: Rig, preferences: Preferences, place: str = "", wanted: float | None = None, said: str = ""
) -> LevelPlan:
    """A hook-up and a wish; without one the hook-up's own, or what the place's limit allows.

    `wanted`: dBA; `said`: the wish in words, by `read_wish`. ValueError where those are not understood, or come to a
    level that cannot be told.
    """
    place = _chosen(rig, place)
    wish = _level_of(rig, place, read_wish(said)) if said.strip() else wanted
    plan = _plan(rig, preferences, place, wish)
    return replace(
        plan,
        headline=_headline(plan),
        allowed_words="" if plan.allowed is None else day_words(plan.allowed),
        rule_of_thumb=rule_of_thumb(rig, plan.place),
        left_out=_left_out(rig),
        marks=tuple(sorted((*DAILY, *preferences.marks), key=lambda m: m.level)),
    )


def _left_out(rig: Rig) -> tuple[str, ...]:
    """'half and low of Sandbag 30': owned steps whose dB nobody knows."""
    found = ((box.name, [m.at for m in box.marks if m.down_db is None]) for box in rig.owned(Attenuator))
    return tuple(f"{' and '.join(names)} of {box}" for box, names in found if names)


def _chosen(rig: Rig, place: str) -> str:
    """The place a plan is about: the one asked for, the occasion's, or the one that asks for most; '' without any."""
    ids = [p.id for p in rig.places]
    return next((p for p in (place, rig.hookup.occasion.place) if p in ids), None) or _first(sound_levels(rig))


def _level_of(rig: Rig, place: str, wish: Wish) -> float:
    """What a wish comes to at a place, dBA, whatever else sounds there included."""
    if wish.kind == "level":
        return wish.value
    cabinet = cabinet_of(rig)
    output = _source(rig, cabinet) if cabinet else None
    if cabinet is None or output is None or not place:
        raise ValueError(f"Wanted: how far down is not to be told: {_why(cabinet, bool(place))}. Say a level in dBA.")
    at = [p.id for p in rig.places].index(place)
    alone, watts = full(rig, output, cabinet)
    top, rest = alone[at], sound_levels(rig, silent=frozenset({cabinet.id}))[at].dba
    if top is None or watts <= 0:
        why = sound_levels(rig)[at].why
        raise ValueError(f"Wanted: how far down is not to be told: {why}. Say a level in dBA.")
    down = wish.value if wish.kind == "down" else -db(wish.value / watts)
    level = together(top - down, rest) or 0.0
    if not 0 <= level <= MOST_DBA:
        raise ValueError(f"Wanted: that comes to {figure(level)} dBA there; 0 to {MOST_DBA:g} dBA can be wished for.")
    return level


def _plan(rig: Rig, preferences: Preferences, place: str, wanted: float | None) -> LevelPlan:
    by_id = {p.id: p for p in rig.places}
    places = tuple(replace(h, way=way_words(rig, by_id[h.place])) for h in sound_levels(rig))
    ids = [h.place for h in places]
    at = ids.index(place) if place else -1
    if wanted is None:
        wanted = _wish(rig, places[at] if place else None)
    allowed = None if wanted is None else allowed_hours(wanted, preferences.listening)
    bare = LevelPlan(places, place, wanted, allowed)
    cabinet = cabinet_of(rig)
    output = _source(rig, cabinet) if cabinet else None
    if cabinet is None or output is None or not place:
        return replace(bare, why=_why(cabinet, bool(place)))
    straight, watts = full(rig, output, cabinet)
    # What else sounds may be what cannot be told: then nothing is.
    alone = tuple(None if h.dba is None else level for h, level in zip(places, straight, strict=True))
    rest = tuple(h.dba for h in sound_levels(rig, silent=frozenset({cabinet.id})))
    found = ladders(attenuation_steps(rig, output, cabinet, watts, tuple(h.dba for h in places)))
    bare = replace(
        bare,
        cabinet=cabinet.name,
        rest=rest,
        full=tuple(None if a is None else together(a, r) for a, r in zip(alone, rest, strict=True)),
        full_watts=watts,
        ladders=found,
        bounds=bounds(places, alone, rest, place),
        played=_played(rig, output),
        why="" if alone[at] is not None else places[at].why,
    )
    top, whole, others = alone[at], bare.full[at], rest[at]
    if wanted is None or top is None or whole is None:
        return bare
    advice = nearest(rig, found, at, wanted, whole, preferences)
    bare = replace(bare, nearest=advice, coarse=not any(a.near for a in advice))
    level = beside(wanted, others)
    if level is None:
        return replace(bare, beyond=f"without {cabinet.name} the rest alone gives {figure(others or 0.0, 2)} dBA there")
    need = top - level
    return replace(bare, need_db=need, watts_wanted=watts * 10 ** (-need / 10), words=loudness_words(wanted - whole))
