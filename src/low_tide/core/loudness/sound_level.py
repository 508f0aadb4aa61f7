"""How loud a hook-up gets, and where: from watts at the speaker to dBA at every listening place."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from math import hypot, inf, log10, sqrt

import numpy as np

from low_tide.core.acoustics import rooms as acoustics
from low_tide.core.circuit.amplifier import reachable_power
from low_tide.core.frequency import Real
from low_tide.core.gear.cabinet import Driver
from low_tide.core.inventory import (
    Amp,
    Cabinet,
    Headphones,
    Interface,
    Load,
    Partition,
    Pedal,
    Place,
    ReAmp,
    Room,
)
from low_tide.core.power.shares import powers_of, seen_by
from low_tide.core.power.speaker_network import Output, outputs
from low_tide.core.rig.doubts import on_unknown_steps
from low_tide.core.rig.kept import kept
from low_tide.core.rig.known import Correction
from low_tide.core.rig.rig import Rig
from low_tide.core.units import figure
from low_tide.core.venue.place import Limit


@dataclass(frozen=True)
class Spread:
    """A 90 % interval about a predicted level, dB: `up` and `down` from it. `up_c`: up, for dBC.

    What is made of several parts has their squares summed.
    """

    up: float = 0.0
    down: float = 0.0
    up_c: float = 0.0

    def with_(self, other: Spread) -> Spread:
        """Of two parts that have nothing to do with each other."""
        return Spread(hypot(self.up, other.up), hypot(self.down, other.down), hypot(self.up_c, other.up_c))


def spread_words(spread: Spread) -> str:
    """'± 5 dB', or '+7, −9 dB' where it is not the same both ways."""
    up, down = figure(spread.up, 2), figure(spread.down, 2)
    return f"± {up} dB" if up == down else f"+{up}, −{down} dB"


SOURCE = Spread(2.0, 6.0, 2.0)
"""Sensitivity, player and amp: a label is a ceiling, and speakers compress."""
IN_A_ROOM = Spread(2.0, 2.0, 2.0)
THROUGH_A_PARTITION = Spread(7.0, 7.0, 8.0)
IN_THE_OPEN = Spread(3.0, 3.0, 3.0)
IN_HEADPHONES = Spread(3.0, 3.0, 3.0)
"""How far estimates may be off: usual figures, held against plausible rooms and walls in the tests."""

OWN_NOISE_DBA = 35.0
OWN_NOISE_SHAPE = np.array([-8.0, -6.0, -6.0, -7.0, -8.0, -10.0, -14.0, -20.0])
"""A fan and a transformer about a metre away: level, and octave bands against the whole. An estimate."""

COARSE_DB = 3.0
"""A step that is further than this from a wished level does not meet it."""

NO_WAY = "no partition on record leads there"
"""Why a level is not told at a place that sound has no way to: nothing is missing but perhaps a record."""

MOST_PARTITIONS = 3
"""Ways through more partitions than this add nothing one would hear."""


@dataclass(frozen=True)
class Sounding:
    """A cabinet that sounds: `watts` into it and `at_one_metre` (dB, octave bands, shape (8,)).

    `at_one_metre` None: it cannot be told, `why` says what is missing. `signals`: the amps whose signal it sounds.
    """

    unit: str
    watts: float
    at_one_metre: Real | None
    why: str = ""
    signals: frozenset[str] = frozenset()


@dataclass(frozen=True)
class SoundLevel:
    """What is heard at a place. dBA and dBC None where it cannot be told; `why` says what is missing.

    `spread` says how sure it is and `readings` what that rests on; `raw` is the dBA without readings. `limit`: the
    strictest that holds during the session, or, where no hour is said, of the day. `over`: dB over it at the
    edge of the spread, None without a limit or a level. `at_most`: something is turned down before the power
    stage, by an unknown amount. `way`: how sound gets there, and what in it decides, where that was asked for.
    """

    place: str
    name: str
    dba: float | None
    dbc: float | None
    raw: float | None
    spread: Spread
    readings: int
    limit: Limit | None
    hour_said: bool
    ears: bool
    over: float | None = None
    why: str = ""
    way: str = ""
    at_most: bool = False

    @property
    def most(self) -> float:
        """dBA at the upper edge of the spread; −inf where nothing can be told."""
        return -inf if self.dba is None else self.dba + self.spread.up


def reach(output: Output, seen: float) -> float:
    """Watts an output gives into `seen` Ω as it is played, for loudness only: off its tap a valve amp gives less."""
    flat = output.powers_into(seen)[1]
    if output.is_source_of_voltage or seen in (0.0, inf):
        return flat
    return reachable_power(flat, seen / output.wanted)


def _drive(rig: Rig, output: Output) -> float:
    """Part of the flat-out power an amp is played at: all of it flat out, its label otherwise."""
    if isinstance(rig.gear[output.amp], Amp) and not rig.settings(output.amp).get("flat_out"):
        return output.label_power / output.flat_power
    return 1.0


def pressure_db(drivers: tuple[Driver, ...], watts: tuple[float, ...]) -> float | None:
    """Level (dB) at 1 m of drivers that take these watts: 20·log10 Σ √P_i·10^(S_i/20); None if one is unknown."""
    total = 0.0
    for driver, power in zip(drivers, watts, strict=True):
        if power > 0 and driver.sensitivity is None:
            return None
        total += sqrt(power) * 10 ** ((driver.sensitivity or 0.0) / 20)
    return 20 * log10(total) if total > 0 else -inf


@kept(outputs, seen_by)
def _driven(rig: Rig) -> tuple[tuple[str, float, float | None, frozenset[str]], ...]:
    """(cabinet, watts, dB at 1 m, amps) of every cabinet that is driven; None where a sensitivity is not known."""
    seen = {s.output: s.impedance for s in seen_by(rig)}
    levels: dict[str, list[float]] = {}
    watts: dict[str, float] = {}
    unknown: set[str] = set()
    signals: dict[str, set[str]] = {}
    for output in outputs(rig):
        taken = powers_of(rig, output)
        whole = sum(flat for _, flat in taken.values())
        if whole <= 0:
            continue
        factor = reach(output, seen[output]) * _drive(rig, output) / whole
        for unit, cabinet in rig.cabinets():
            each = tuple(taken.get((unit, f"driver {i + 1}"), (0, 0))[1] * factor for i in range(len(cabinet.drivers)))
            if sum(each) <= 0:
                continue
            watts[unit] = watts.get(unit, 0.0) + sum(each)
            signals.setdefault(unit, set()).add(output.amp)
            level = pressure_db(cabinet.drivers, each)
            if level is None:
                unknown.add(unit)
            else:
                levels.setdefault(unit, []).append(level)
    return tuple(
        (unit, power, None if unit in unknown else _energies(levels[unit]), frozenset(signals[unit]))
        for unit, power in watts.items()
    )


def _energies(levels: list[float]) -> float:
    return 10 * log10(sum(10 ** (level / 10) for level in levels))


@kept(_driven, "signal")
def soundings(rig: Rig) -> tuple[Sounding, ...]:
    """Every cabinet that is driven, with what it sounds like at 1 m: watts by the nominal network.

    Several outputs into one cabinet add up by energy; its drivers on one output by pressure.
    """
    found = []
    for unit, power, level, signals in _driven(rig):
        if level is None:
            found.append(Sounding(unit, power, None, f"the sensitivity of {rig.name(unit)} is not known", signals))
            continue
        bands = level + acoustics.programme_octaves()
        if rig.settings(unit).get("place") == "cupboard":
            bands = bands - np.array(acoustics.REDUCTION["cupboard"][1])
        found.append(Sounding(unit, power, bands, signals=signals))
    return tuple(found)


def is_turned_down_unknown(rig: Rig) -> bool:
    """Whether something is turned down by nobody knows how much: then the prediction is the most it can be."""
    return bool(on_unknown_steps(rig)) or any(
        rig.settings(unit).get("master_down")
        or (isinstance(gear, Pedal) and float(rig.settings(unit).get("volume", 0.0)) < -1)
        for unit, gear in rig.units()
    )


@dataclass(frozen=True)
class Arrived:
    """Sound at a place: octave bands (dB), and how far the way to it may be off."""

    bands: Real
    spread: Spread


def _ways(rig: Rig, start: str, end: str) -> Iterator[tuple[Partition, ...]]:
    """Ways from room to room, or into the open (''), through partitions, none twice and no room twice."""

    def go(here: str, way: tuple[Partition, ...], been: frozenset[str]) -> Iterator[tuple[Partition, ...]]:
        if here == end and way:
            yield way
            return
        if len(way) >= MOST_PARTITIONS or not here:
            return
        for p in rig.owned(Partition):
            if here in (p.between, p.other):
                there = p.other if p.between == here else p.between
                if there not in been:
                    yield from go(there, (*way, p), been | {there})

    yield from go(start, (), frozenset({start}))


@dataclass(frozen=True)
class Source:
    """Something that sounds in a room, or in the open where `room` is None: dB at 1 m on axis and Q, octave bands."""

    at_one_metre: Real
    directivity: Real
    room: Room | None
    facing: str = "at"


@dataclass(frozen=True)
class Way:
    """One way of sound to a place: what arrives over the level at 1 m (dB, octave bands), and how sure that is."""

    gain: Real
    spread: Spread


MOST_WAYS = 4000


@kept()
def _ways_found(rig: Rig) -> dict[tuple[object, ...], tuple[Way, ...]]:
    """Ways by all they rest on beside gear, of those that were asked for: a judgement asks for the same ones again."""
    return {}


def ways_to(rig: Rig, source: Source, place: Place, distance: float) -> tuple[Way, ...]:
    """Every way of a source's sound to a place, `distance` (m) off; none where no partition on record leads there.

    Estimates: rooms are diffuse, and partitions as their records say.
    """
    key = source.room, source.directivity.tobytes(), source.facing, place.room, distance
    found = _ways_found(rig)
    if key not in found:
        if len(found) >= MOST_WAYS:
            found.clear()
        found[key] = tuple(_ways_to(rig, source, place, distance))
    return found[key]


def _ways_to(rig: Rig, source: Source, place: Place, away: float) -> Iterator[Way]:
    room, nothing = source.room, np.zeros(len(acoustics.OCTAVES))
    if room is None:
        if not place.room:
            yield Way(acoustics.in_the_open(nothing, away, source.facing), IN_THE_OPEN)
        return
    power = acoustics.power_level(nothing, source.directivity)
    if place.room == room.id:
        towards = acoustics.towards(source.directivity, source.facing)
        yield Way(acoustics.room_level(power, away, room.room_constants(), towards), IN_A_ROOM)
        return
    for way in _ways(rig, room.id, place.room):
        level, spread = acoustics.room_level(power, inf, room.room_constants(), source.directivity), IN_A_ROOM
        here = room.id
        for p in way:
            there = p.other if p.between == here else p.between
            spread = spread.with_(THROUGH_A_PARTITION)
            behind = rig.gear.get(there)
            if there == "":
                level = acoustics.to_the_open(level, p.reduction(), p.area(), away)
                spread = spread.with_(IN_THE_OPEN)
            elif isinstance(behind, Room):
                level = acoustics.through_partition(level, p.reduction(), p.area(), behind.absorption())
            else:
                break
            here = there
        else:
            yield Way(level, spread)


def arriving(rig: Rig, source: Source, place: Place, distance: float | None = None) -> Arrived | None:
    """Octave levels (dB) at a place from a source; None without a way.

    `distance` (m) stands in for the place's own.
    """
    ways = ways_to(rig, source, place, distance or place.distance)
    if not ways:
        return None
    levels = [source.at_one_metre + way.gain for way in ways]
    loudest = 0 if len(ways) == 1 else int(np.argmax([acoustics.weighted_level(level, "A") for level in levels]))
    return Arrived(acoustics.energy_sum(levels), ways[loudest].spread)


def predicted_bands(
    rig: Rig, place: Place, distance: float | None = None, silent: frozenset[str] = frozenset()
) -> tuple[Real | None, Spread, str]:
    """Octave levels (dB) at a place without readings, how sure they are, and why they cannot be told where they are
    None.

    Cabinets that are `silent` are left out. Those on one signal add up by pressure low down, by energy above.
    """
    sounding = tuple(s for s in soundings(rig) if s.unit not in silent)
    if not sounding:
        return None, Spread(), "no cabinet is driven"
    by_signal: dict[frozenset[str], list[Arrived]] = {}
    for each in sounding:
        room, cabinet = rig.room_of(each.unit), rig.gear[each.unit]
        assert isinstance(cabinet, Cabinet)
        if each.at_one_metre is None:
            return None, Spread(), each.why
        if room is None and not rig.is_outside(each.unit):
            return None, Spread(), f"it is not said in which room {rig.name(each.unit)} stands"
        source = Source(each.at_one_metre, cabinet.beaming(), room, rig.facing(each.unit, place.id))
        arrived = arriving(rig, source, place, distance)
        if arrived is not None:
            by_signal.setdefault(each.signals, []).append(arrived)
    if not by_signal:
        return None, Spread(), NO_WAY
    bands = [acoustics.signal_sum([a.bands for a in together]) for together in by_signal.values()]
    widest = max((a.spread for together in by_signal.values() for a in together), key=lambda s: s.up)
    return acoustics.energy_sum(bands), SOURCE.with_(widest), ""


def limit_of(rig: Rig, place: Place) -> Limit | None:
    """The strictest limit of the session, or of the day where no hour is said."""
    occasion = rig.hookup.occasion
    return place.limit_within(occasion.hour, occasion.hours) if occasion.hour else place.strictest()


RULE_OF_THUMB_DBA = 80.0
"""About what one's own room bears by day, where neither a limit nor what lies around it is known."""


def rule_of_thumb(rig: Rig, place: str) -> float | None:
    """The level (dBA) that holds at a place where nothing else is known: in the room the cabinet stands in, as long as
    no place has a limit. None elsewhere."""
    cabinet = cabinet_of(rig)
    room = rig.room_of(cabinet.id) if cabinet else None
    here = next((p for p in rig.places if p.id == place), None)
    if room is None or here is None or here.room != room.id or any(p.limits for p in rig.places):
        return None
    return RULE_OF_THUMB_DBA


def way_words(rig: Rig, place: Place) -> str:
    """How sound gets from the loudest cabinet to a place: the room, or the partitions and what decides in them."""
    cabinet = cabinet_of(rig)
    room = rig.room_of(cabinet.id) if cabinet else None
    if room is None:
        outside = cabinet is not None and rig.is_outside(cabinet.id) and not place.room
        return f"in the open, {figure(place.distance)} m from the cabinet" if outside else ""
    if room.id == place.room:
        return f"in {room.name}, {figure(place.distance)} m from the cabinet"
    ways = sorted(_ways(rig, room.id, place.room), key=len)
    if not ways:
        return ""
    said = [f"{p.name} (about {p.single_number()} dB{p.decides()})" for p in ways[0]]
    beyond = f", then {figure(place.distance)} m of open air" if not place.room else ""
    more = f"; {len(ways) - 1} other way{'s' if len(ways) > 2 else ''} counted too" if len(ways) > 1 else ""
    return f"through {' and '.join(said)}{beyond}{more}"


def sound_level_at(rig: Rig, place: Place, silent: frozenset[str] = frozenset()) -> SoundLevel:
    """What is heard at one place, with what its readings taught; cabinets that are `silent` left out."""
    bands, spread, why = predicted_bands(rig, place, silent=silent)
    at_most = is_turned_down_unknown(rig)
    known = _learned_at(rig, place, at_most)
    offset, readings = (known.offset, known.readings) if known else (0.0, 0)
    if known:
        spread = Spread(known.spread, known.spread, known.spread)
    limit, said = limit_of(rig, place), bool(rig.hookup.occasion.hour)
    base = (place.id, place.name)
    if bands is None:
        return SoundLevel(*base, None, None, None, spread, readings, limit, said, place.ears, why=why)
    dba, dbc = (acoustics.weighted_level(bands, w) for w in ("A", "C"))
    level = (dba + offset, dbc + offset, dba)
    over = dba + offset + spread.up - limit.level if limit else None
    return SoundLevel(*base, *level, spread, readings, limit, said, place.ears, over, at_most=at_most)


def _learned_at(rig: Rig, place: Place, turned_down: bool) -> Correction | None:
    """What readings at a place teach about the cabinet that is loudest in this hook-up, where it stands."""
    cabinet = cabinet_of(rig)
    if cabinet is None:
        return None
    room = rig.room_of(cabinet.id)
    return rig.known.correction(place.id, cabinet.id, room.id if room else "", turned_down)


def sound_levels(rig: Rig, silent: frozenset[str] = frozenset()) -> tuple[SoundLevel, ...]:
    """What is heard at every place of the locker, places one's own ears are at first; without what is `silent`."""
    return tuple(sound_level_at(rig, p, silent) for p in sorted(rig.places, key=lambda p: not p.ears))


@kept(soundings, "standing", "occasion", "known")
def levels_as_set(rig: Rig) -> tuple[SoundLevel, ...]:
    """What is heard at every place of the locker, all cabinets counted."""
    return sound_levels(rig)


def together(one: float | None, other: float | None) -> float | None:
    """Level (dB) of two sounds that have nothing to do with each other; None stands for silence."""
    if one is None or other is None:
        return other if one is None else one
    return 10 * log10(10 ** (one / 10) + 10 ** (other / 10))


def beside(level: float, rest: float | None) -> float | None:
    """Level (dB) that may come to `rest` for `level` in all; None where the rest alone is no less."""
    if rest is None:
        return level
    return 10 * log10(10 ** (level / 10) - 10 ** (rest / 10)) if rest < level else None


@dataclass(frozen=True)
class Phones:
    """Headphones on an output: `most` dB at the end of its travel, as far as it is let go, ± `spread`.

    `typical`: what of it nobody measured.
    """

    headphones: str
    interface: str
    socket: str
    most: float
    spread: float = IN_HEADPHONES.up
    typical: tuple[str, ...] = ()


@kept("leads", "signal")
def phones(rig: Rig) -> tuple[Phones, ...]:
    """Every pair of headphones that is plugged in."""
    found = []
    for link in rig.hookup.links:
        ends = {e.socket: e for e in link.ends()}
        plug = ends.get("plug")
        out = next((e for e in link.ends() if e.socket.startswith("phones")), None)
        if plug is None or out is None:
            continue
        pair, desk = rig.gear[plug.unit], rig.gear[out.unit]
        if isinstance(pair, Headphones) and isinstance(desk, Interface):
            volts, ohms = desk.phones_volts(out.socket, float(rig.settings(out.unit)[f"{out.socket}.stop"]))
            typical = tuple(f"{g.name}: {name} typical, not measured" for g in (pair, desk) for name in g.typical)
            level = pair.level(volts, ohms)
            found.append(Phones(plug.unit, out.unit, out.socket, level, typical=typical))
    return tuple(found)


@dataclass(frozen=True)
class Listening:
    """What may reach one's own ears at one time: dB at the edge of what is sure, from a place or headphones or both."""

    level: float
    place: SoundLevel | None
    pair: Phones | None


def listening(places: Iterable[SoundLevel], pairs: Iterable[Phones]) -> tuple[Listening, ...]:
    """Every place one's own ears are at, with the loudest headphones on as well; those alone where there is none."""
    pair = max(pairs, key=lambda p: p.most + p.spread, default=None)
    loud = pair.most + pair.spread if pair else None
    near = [h for h in places if h.ears and h.dba is not None]
    if loud is not None and not near:
        return (Listening(loud, None, pair),)
    return tuple(Listening(h.most if loud is None else _energies([h.most, loud]), h, pair) for h in near)


def listening_level(rig: Rig) -> tuple[float | None, str]:
    """The most that may reach one's own ears at one time, dB, and from where; None where nothing is known to."""
    each = max(listening(sound_levels(rig), phones(rig)), key=lambda e: e.level, default=None)
    if each is None:
        return None, ""
    pair = f"{rig.name(each.pair.headphones)}, at full travel" if each.pair else ""
    return each.level, " and ".join(filter(None, (each.place.name if each.place else "", pair)))


def own_noise(rig: Rig, unit: str) -> tuple[float, bool] | None:
    """A box's own noise at 1 m (dBA), and whether that is an estimate; None for gear that makes none."""
    gear = rig.gear[unit]
    if not isinstance(gear, Load | ReAmp):
        return None
    return (OWN_NOISE_DBA, True) if gear.own_noise is None else (gear.own_noise, False)


def noise_at(rig: Rig, unit: str, dba: float, place: Place) -> float | None:
    """What a box's own noise (dBA at 1 m) comes to at a place, dBA; None where its room or a way is not known."""
    room = rig.room_of(unit)
    if room is None and not rig.is_outside(unit):
        return None
    bands = OWN_NOISE_SHAPE + (dba - acoustics.weighted_level(OWN_NOISE_SHAPE, "A"))
    arrived = arriving(rig, Source(bands, np.ones_like(bands), room), place)
    return None if arrived is None else acoustics.weighted_level(arrived.bands, "A")


def feeding(rig: Rig, cabinet: str) -> tuple[Output, ...]:
    """Outputs that put power into a cabinet, the one that puts most first."""
    into = {o: sum(flat for (u, _), (_, flat) in powers_of(rig, o).items() if u == cabinet) for o in outputs(rig)}
    return tuple(sorted((o for o in into if into[o] > 0), key=lambda o: -into[o]))


def driven_by(rig: Rig, cabinet: str) -> Output | None:
    """The output that puts most power into a cabinet."""
    return next(iter(feeding(rig, cabinet)), None)


def cabinet_of(rig: Rig) -> Cabinet | None:
    """The cabinet that takes the most power."""
    loudest = max(soundings(rig), key=lambda s: s.watts, default=None)
    found = rig.gear[loudest.unit] if loudest else None
    return found if isinstance(found, Cabinet) else None
