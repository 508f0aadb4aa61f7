"""The way from speaker level to the converter: peak levels at every input along it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import cached_property, reduce
from math import inf, isfinite, sqrt

import numpy as np

from low_tide.core.acoustics.rooms import before_a_cabinet
from low_tide.core.circuit.amplifier import peak_voltage
from low_tide.core.circuit.network import Network
from low_tide.core.gear.abilities import is_reactive_load, line_out_of
from low_tide.core.gear.amp import INNER
from low_tide.core.gear.base import STAGE
from low_tide.core.gear.interface import UNKNOWN_ABSOLUTE_OVER_FULL_SCALE_DB, Input
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import Cabinet, Interface, LineBox, Microphone
from low_tide.core.power.shares import seen_by, voltage_ratio
from low_tide.core.power.speaker_network import Output
from low_tide.core.power.worst_case import Reached, one_switched, reached, turned
from low_tide.core.rig.hookup import End
from low_tide.core.rig.kept import kept
from low_tide.core.rig.known import Played
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.graph import Edge, SignalGraph, signal_graph
from low_tide.core.units import dbu, from_db_voltage

REACTIVE_PEAK_FACTOR = 1.25
DAMAGE_PEAK_FACTORS = (3.0, 4.5)
"""Inductive flyback in an overdriven output stage reaches 2.5 to 4.5 times the clean peak: damage counts the first,
and between the two it may be."""

WINDOW_DBFS = (-18.0, -6.0)
TARGET_DBFS = -12.0


@dataclass(frozen=True)
class Damage:
    """Peak level with flyback in it, V, every pot on the way at its loudest and speaker side at its worst.

    `likely` at the lesser factor, `most` at the greater one; `switched`: `likely` with one switch moved that is no
    step, knob or speaker switch.
    """

    likely: float = 0.0
    most: float = 0.0
    switched: float = 0.0

    def times(self, factor: float, bound: float = inf) -> Damage:
        """Through a gain, and under a hard bound (V)."""
        return Damage(*(min(v * factor, bound) for v in (self.likely, self.most, self.switched)))

    def or_more(self, other: Damage) -> Damage:
        """The greater of two, figure by figure."""
        pairs = ((self.likely, other.likely), (self.most, other.most), (self.switched, other.switched))
        return Damage(*(max(pair) for pair in pairs))


@dataclass(frozen=True)
class Peak:
    """Peak level at an end, in V (in Pa at 1 m where it is sound in the air).

    `normal` None: not known, `why` says so; `silent`: nothing comes at all, which takes nothing from what else does.
    `limited`: a hard bound on the way is reached.
    """

    normal: float | None
    damage: Damage = Damage()
    limited: bool = False
    why: str = ""
    silent: bool = False


NOTHING = Peak(None, why="nothing reaches this input")
"""Where nobody drew what is played; that is not known rather than silent."""
FED_BY_NO_AMP = Peak(None, why="no amp feeds this output", silent=True)


@dataclass(frozen=True)
class InPoint:
    """Level at an input: `peak_v` (V) and `peak_dbu` of the sine with that peak, None where not known."""

    input: End
    source: End
    lead: str
    peak_v: float | None
    peak_dbu: float | None
    damage: Damage
    limited: bool
    why: str


@dataclass(frozen=True)
class LinePoint:
    """Level at one input of an interface. Peaks in V and dBu (of the sine with that peak), and dBFS.

    `source`: the output that feeds it at the far end of its chain; `through`: units between. `dbfs` None:
    cannot be computed from what is known, `why` says so. `damage_dbu` (the peak that is `likely`) is to be held
    against `absolute_max` (dBu), which may be an assumption; `most_dbu` and `switched_dbu` as in `Damage`.
    """

    source: End
    input: End
    lead: str
    through: tuple[str, ...]
    peak_v: float
    peak_dbu: float
    dbfs: float | None
    damage_dbu: float
    most_dbu: float
    switched_dbu: float
    absolute_max: float
    absolute_assumed: bool
    limited: bool
    why: str = ""


Phantom = LineOut | LineBox | Microphone


def phantom_source(rig: Rig, end: End) -> Phantom | None:
    """What an output of a unit says about 48 V on it; None where nothing is said."""
    gear = rig.gear[end.unit]
    if isinstance(gear, LineBox | Microphone):
        return gear
    return line_out_of(gear) if end.socket == "line" else None


def input_gain_db(rig: Rig, end: End, each: Input) -> float:
    """Gain above the least, pad included, in dB, as the input is set."""
    settings = rig.settings(end.unit)
    gain = float(settings.get(f"{end.socket}.gain", each.least_gain)) - each.least_gain
    return gain - (each.pad or 0.0) * bool(settings.get(f"{end.socket}.pad", False))


def is_reactive(rig: Rig, net: Network, output: Output) -> bool:
    """Whether a speaker or a reactive load hangs on this output."""
    reach = net.connected(output.node)
    return any(
        net.find(e.a) in reach and (isinstance(unit := rig.gear.get(e.unit), Cabinet) or is_reactive_load(unit))
        for e in net.elements
    )


def played_by(rig: Rig, amp: str) -> Played | None:
    """How hard an amp is played in the mode it stands in, where its takes have shown it."""
    return rig.known.played.get((amp, mode_of(rig, amp))) if rig.known.played else None


def mode_of(rig: Rig, amp: str) -> str:
    """The power mode an amp stands in; empty where it has none to choose from."""
    return str(rig.settings(amp).get("mode", ""))


class _Flybacks(dict[str, Damage]):
    """Flyback peaks (V) at nodes of the speaker side, each worked out when it is first asked for."""

    def __init__(self, networks: tuple[Reached, ...]) -> None:
        super().__init__()
        self._networks = networks

    def __missing__(self, node: str) -> Damage:
        unit = node.partition(".")[0]
        self[node] = _flyback(next(w for w in self._networks if unit in w.speakers.units), node)
        return self[node]


@kept(reached)
def _flybacks(rig: Rig) -> _Flybacks:
    return _Flybacks(reached(rig))


def _flyback(whole: Reached, node: str) -> Damage:
    """At the worst of all states: a hand can bring a speaker network to any, and any amp of it there."""
    turning, switching = [np.zeros(2)], [np.zeros(2)]
    for joint in whole.joints:
        for slot in joint.slots:
            peaks = joint.peaks(slot, node, DAMAGE_PEAK_FACTORS)
            turning += [peaks[turned(joint)].max(axis=0, initial=0.0)]
            switching += [peaks[one_switched(joint)].max(axis=0, initial=0.0)]
    likely, most = np.max(turning, axis=0).tolist()
    return Damage(likely, most, max(likely, float(np.max(switching, axis=0)[0])))


@dataclass(frozen=True)
class Levels:
    """Peak levels along the signal paths of a rig.

    `rig` is named beside `graph`, which may have been made for one that differs in what a graph does not read.
    """

    graph: SignalGraph
    rig: Rig

    @cached_property
    def _found(self) -> dict[End, Peak]:
        return {}

    @cached_property
    def _emitted(self) -> Mapping[End, float]:
        return {
            End(unit, socket): volts
            for unit, gear in self.rig.units()
            for socket, volts in gear.emits(self.rig.site(unit)).items()
        }

    def at(self, end: End, path: frozenset[End] = frozenset()) -> Peak:
        """Peak level at an end: the highest of all that arrives there."""
        if end not in self._found:
            if end in path:
                return Peak(None, why="the signal goes round in a circle")
            self._found[end] = self._at(end, path | {end})
        return self._found[end]

    def _at(self, end: End, path: frozenset[End]) -> Peak:
        if end in self._emitted:
            return Peak(self._emitted[end], Damage(*(self._emitted[end],) * 3))
        if end.socket == STAGE:
            return self._jack(end)
        arriving = [self._along(edge, path) for edge in self.graph.into(end)]
        damage = reduce(Damage.or_more, (p.damage for p in arriving), Damage())
        arriving = [p for p in arriving if not p.silent] or arriving
        known = [p for p in arriving if p.normal is not None]
        if not known or len(known) < len(arriving):
            unfed = FED_BY_NO_AMP if self.rig.knows(end) and self.rig.socket(end).level == "speaker" else NOTHING
            first = next((p for p in arriving if p.normal is None), unfed)
            return replace(first, damage=damage)
        loudest = max(known, key=lambda p: p.normal or 0.0)
        return replace(loudest, damage=damage, limited=any(p.limited for p in known))

    def _along(self, edge: Edge, path: frozenset[End]) -> Peak:
        if edge.output:
            return self._driven(edge, edge.output)
        before = self.at(edge.a, path)
        if edge.transfer:
            gain, bound = edge.transfer.gain_db, edge.transfer.limit_v
            if gain is None:
                said = before.why if before.silent else _not_known(self.rig, edge.a, edge.b)
                return Peak(None, before.damage.times(1.0, bound), why=said, silent=before.silent)
            factor = from_db_voltage(gain)
            normal = None if before.normal is None else before.normal * factor
            if normal == 0.0:
                return Peak(None, why="nothing reaches this output", silent=True)
            limited = before.limited or (normal is not None and normal > bound)
            normal = None if normal is None else min(normal, bound)
            loudest = from_db_voltage(self._loudest.get((edge.a, edge.b), gain))
            return Peak(normal, before.damage.times(loudest, bound), limited, before.why, before.silent)
        source, into = self.rig.socket(edge.a), self.rig.socket(edge.b)
        if source.level == "air":
            return self._through_the_air(edge, before)
        divider = into.ohms / (into.ohms + source.ohms) if into.ohms > 0 else 1.0
        normal = None if before.normal is None else before.normal * divider
        return replace(before, normal=normal, damage=before.damage.times(divider))

    def _through_the_air(self, edge: Edge, before: Peak) -> Peak:
        """From a cabinet's sound at 1 m to a microphone's capsule."""
        cabinet = self.rig.gear[edge.a.unit]
        assert isinstance(cabinet, Cabinet)
        metres = float(self.rig.settings(edge.b.unit)["distance"]) / 100
        factor = before_a_cabinet(metres, cabinet.drivers[0].cone / 100, len(cabinet.drivers))
        normal = None if before.normal is None else before.normal * factor
        return replace(before, normal=normal, damage=before.damage.times(factor))

    def _jack(self, end: End) -> Peak:
        """At the speaker jack of a power stage itself, where an amp's own line output takes its signal."""
        jacks = ((e.output, e.output.node.removesuffix(INNER)) for e in self.graph.edges if e.output and e.a == end)
        found = [self._tapped(output, node) for output, node in jacks]
        if found:
            return max(found, key=lambda p: p.normal or 0.0)
        return Peak(None, why="nothing loads the amp")

    def _driven(self, edge: Edge, output: Output) -> Peak:
        return self._tapped(output, f"{edge.b.unit}.{edge.b.socket}")

    @cached_property
    def _taps(self) -> dict[tuple[str, str], Peak]:
        return {}

    def _tapped(self, output: Output, node: str) -> Peak:
        """Peak volts at a node of the speaker network that `output` drives."""
        key = (output.node, node)
        if key not in self._taps:
            self._taps[key] = self._tapped_anew(output, node)
        return self._taps[key]

    def _tapped_anew(self, output: Output, node: str) -> Peak:
        ratio = voltage_ratio(self.rig, output, node, self.graph.network)
        damage = _flybacks(self.rig)[node]
        if self._is_open(output):
            return Peak(None, damage, why=f"{self.rig.name(output.amp)} has no load")
        learned = played_by(self.rig, output.amp)
        ratio *= from_db_voltage(learned.offset) if learned else 1.0
        k = REACTIVE_PEAK_FACTOR if is_reactive(self.rig, self.graph.network, output) else 1.0
        return Peak(ratio * peak_voltage(output.label_power, output.flat_power, output.tap, k), damage)

    def _is_open(self, output: Output) -> bool:
        return any(s.output == output and not s.idle and not isfinite(s.impedance) for s in seen_by(self.rig))

    @cached_property
    def _loudest(self) -> dict[tuple[End, End], float]:
        """Gain (dB) along the transfers of every unit with its pots at their loudest, those that are taped as set."""
        found = {}
        for unit, gear in self.rig.units():
            pots = {
                c.id: c.high
                for c in gear.controls()
                if c.kind == "range" and c.unit == "dB" and not c.hand and not self.rig.is_guarded(unit, c.id)
            }
            site = self.rig.site(unit)
            for transfer in gear.transfers(replace(site, settings={**site.settings, **pots})) if pots else ():
                if transfer.gain_db is not None:
                    found[End(unit, transfer.a), End(unit, transfer.b)] = transfer.gain_db
        return found

    def _feed(self, end: End) -> tuple[Edge, ...]:
        """Edges back from an input to the output whose control sets its level."""
        found: list[Edge] = []
        at = end
        seen = {end}
        while True:
            edge = next((e for e in self.graph.into(at) if e.a not in seen), None)
            if edge is None:
                return tuple(found)
            seen.add(edge.a)
            found.append(edge)
            at = edge.a
            if edge.transfer and (edge.b.socket == "line" or edge.a.socket == "capsule"):
                return tuple(found)

    def loudest_way(self, end: End) -> tuple[Edge, ...]:
        """The way by which the loudest of what arrives at an end comes, from a power stage or another source of level;
        empty where nothing of a known level does."""
        way: list[Edge] = []
        at, seen = end, {end}
        while at not in self._emitted and at.socket != STAGE:
            arriving = [
                (self._along(edge, frozenset(seen)), edge) for edge in self.graph.into(at) if edge.a not in seen
            ]
            known = [(peak.normal, edge) for peak, edge in arriving if peak.normal]
            if not known:
                return ()
            edge = max(known, key=lambda each: each[0])[1]
            way.append(edge)
            at = edge.a
            seen.add(at)
        return tuple(reversed(way))

    @cached_property
    def inputs(self) -> tuple[InPoint, ...]:
        """Level at every line, instrument or microphone input that something is plugged into."""
        found = []
        for unit, gear in self.rig.units():
            for socket in gear.sockets():
                end = End(unit, socket.id)
                edge = next((e for e in self.graph.into(end) if e.link), None)
                if socket.level in ("speaker", "air", "phones") or edge is None or edge.link is None:
                    continue
                peak = self.at(end)
                level = dbu(peak.normal / sqrt(2)) if peak.normal else None
                found.append(
                    InPoint(end, edge.a, edge.link.lead, peak.normal, level, peak.damage, peak.limited, peak.why)
                )
        return tuple(found)

    @cached_property
    def line_points(self) -> tuple[LinePoint, ...]:
        """Level at every interface input that something is plugged into."""
        return tuple(
            self._line_point(point, gear)
            for point in self.inputs
            if isinstance(gear := self.rig.gear[point.input.unit], Interface)
        )

    def _line_point(self, point: InPoint, gear: Interface) -> LinePoint:
        each = gear.input(point.input.socket)
        assumed = each.absolute_max is None
        over = each.max_level + UNKNOWN_ABSOLUTE_OVER_FULL_SCALE_DB
        feed = self._feed(point.input)
        source = next((e.b for e in reversed(feed) if e.transfer and e.b.socket in ("line", "out")), point.source)
        level = point.peak_dbu
        between = dict.fromkeys(e.a.unit for e in feed if e.a.unit not in (source.unit, point.input.unit))
        return LinePoint(
            source=source,
            input=point.input,
            lead=point.lead,
            through=tuple(between),
            peak_v=point.peak_v or 0.0,
            peak_dbu=-inf if level is None else level,
            dbfs=None if level is None else level - each.max_level + input_gain_db(self.rig, point.input, each),
            damage_dbu=_sine_dbu(point.damage.likely),
            most_dbu=_sine_dbu(point.damage.most),
            switched_dbu=_sine_dbu(point.damage.switched),
            absolute_max=over if each.absolute_max is None else each.absolute_max,
            absolute_assumed=assumed,
            limited=point.limited,
            why=point.why,
        )


@kept(signal_graph, seen_by, reached, "known", "speaker")
def levels(rig: Rig) -> Levels:
    """Peak levels along the signal paths of a rig."""
    return Levels(signal_graph(rig), rig)


def _sine_dbu(peak: float) -> float:
    """Level (dBu) of the sine with a peak (V), −inf for nothing."""
    return dbu(peak / sqrt(2)) if peak > 0 else -inf


def _not_known(rig: Rig, a: End, b: End) -> str:
    gear = rig.gear[a.unit]
    if b.socket == "line" and a.socket == "input":
        return "this output lies before the power stage; its level is not known"
    if isinstance(gear, Cabinet):
        return f"the sensitivity of {gear.name} is not known"
    return f"what {gear.name} makes of the level is not known"
