"""The nominal network of many joint states at once: what outputs see, who takes how much, what feeds what.

States that differ only in ohms share one shape and are solved in one batch. Everything here is resistive, so real
numbers do; powers are held as the sum over all outputs, and V² at a node is that of each output alone.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.circuit.network import GROUND, OPEN_OHMS, REFERENCE_SIEMENS, NetworkError, merged
from low_tide.core.frequency import Real
from low_tide.core.gear.base import Face, Rating, Site
from low_tide.core.inventory import Attenuator, ReAmp
from low_tide.core.power.speaker_network import Output, node_of, outputs_of
from low_tide.core.rig.hookup import Link
from low_tide.core.rig.reachable_states import Index, Standing, Table, movements, switchings
from low_tide.core.rig.rig import Rig

Truth: TypeAlias = NDArray[np.bool_]

LABEL, FLAT, PLAYED = 0, 1, 2
"""Last axis of watts: at the label, flat out, and as each amp is set to be played."""

IDLE_OVER_TAP = 10.0
"""A tap that sees this many times itself or more, while another of the amp has its own load, carries none."""


@dataclass(frozen=True)
class Speakers:
    """One speaker network of a rig: its units, and the leads between them."""

    rig: Rig
    units: tuple[str, ...]

    @cached_property
    def links(self) -> tuple[Link, ...]:
        """Leads between its units."""
        inside = set(self.units)
        return tuple(k for k in self.rig.speaker_links if k.a.unit in inside)


@dataclass(frozen=True, eq=False)
class _Face:
    """One unit in one standing: what it shows the network, and what it drives there."""

    face: Face
    outputs: tuple[Output, ...]

    @property
    def shape(self) -> tuple[object, ...]:
        """What two standings must have in common to be solved in one batch."""
        return (*self.face.shape, *(o.node for o in self.outputs))


def _face(rig: Rig, standing: Standing) -> _Face:
    gear = rig.gear[standing.unit]
    site = Site(standing.unit, standing.settings, rig.plugged(standing.unit), None)
    return _Face(rig.face(site), outputs_of(gear, site))


@dataclass(frozen=True)
class _Edge:
    """A connection between two nodes; `owner` is the unit or the lead that makes it, `element` its number or −1."""

    a: str
    b: str
    owner: str
    element: int


class Shape:
    """The network that a set of states has in common: who is connected to whom, whatever the ohms."""

    def __init__(self, faces: Sequence[_Face], units: Sequence[str], links: Sequence[Link]) -> None:
        self.units = tuple(units)
        self.faces = tuple(faces)
        made = [e for f in faces for e in f.face.parts.elements]
        joints = [_Edge(a, b, u, -1) for u, f in zip(units, faces, strict=True) for a, b in f.face.parts.joints]
        joints += [_Edge(node_of(k.a), node_of(k.b), k.lead, -1) for k in links if k.b]
        self._edges = [*joints, *(_Edge(e.a, e.b, e.unit, i) for i, e in enumerate(made))]
        self._same = merged((j.a, j.b) for j in joints)
        self.owners = tuple((e.unit, e.part) for e in made)
        ends = [(self.find(e.a), self.find(e.b)) for e in made]
        names = sorted(({n for pair in ends for n in pair} | set(self._same.values())) - {GROUND})
        self.columns = {name: i for i, name in enumerate(names)}
        self.incidence: Real = np.zeros((len(made), len(names)))
        for row, (a, b) in enumerate(ends):
            if a == b:
                continue  # both ends on one node: no current goes through it
            for node, sign in ((a, 1.0), (b, -1.0)):
                if node != GROUND:
                    self.incidence[row, self.columns[node]] = sign
        self._floating = _floating(names, ends)
        self.outputs = tuple((unit, n) for u, unit in enumerate(units) for n, _ in enumerate(faces[u].outputs))

    def find(self, node: str) -> str:
        """The node that stands for this one and all that is joined to it."""
        return self._same.get(node, node)

    def node(self, key: SlotKey) -> str:
        """The node that an output drives."""
        return self.faces[self.units.index(key[0])].outputs[key[1]].node

    def _rates(self, unit: str, part: str) -> bool:
        return any(r.part == part for r in self.faces[self.units.index(unit)].face.ratings)

    def column(self, node: str) -> int | None:
        """Column of a node; None where nothing is connected, or where it is ground."""
        return self.columns.get(self.find(node))

    def impedances(self, siemens: Real) -> Real:
        """Open-circuit impedances between all nodes (Ω, shape (S, N, N)) for conductances (S, shape (S, E)).

        Raises NetworkError where there is no single solution.
        """
        y = np.matmul(self.incidence.T, siemens[:, :, None] * self.incidence)
        for name in self._floating:
            y[:, self.columns[name], self.columns[name]] += REFERENCE_SIEMENS
        try:
            found = np.asarray(np.linalg.inv(y), np.float64)
        except np.linalg.LinAlgError as error:
            raise NetworkError("the network has no single solution") from error
        if not np.isfinite(found).all():
            raise NetworkError("the network has no single solution")
        return found

    def reached(self, start: str, without: str = "") -> frozenset[str]:
        """Nodes that current from `start` gets to, never by way of ground, with what one owner makes taken out."""
        key = (start, without)
        if key not in self._reached:
            self._reached[key] = self._walked(start, without)
        return self._reached[key]

    @cached_property
    def _reached(self) -> dict[tuple[str, str], frozenset[str]]:
        return {}

    @cached_property
    def _around(self) -> dict[str, list[tuple[str, str]]]:
        found: dict[str, list[tuple[str, str]]] = {}
        for e in self._edges:
            found.setdefault(e.a, []).append((e.b, e.owner))
            found.setdefault(e.b, []).append((e.a, e.owner))
        return found

    def _walked(self, start: str, without: str) -> frozenset[str]:
        reach, todo = {start}, [start]
        while todo:
            for other, owner in self._around.get(todo.pop(), ()):
                if owner != without and other != GROUND and other not in reach:
                    reach.add(other)
                    todo.append(other)
        return frozenset(reach)

    def counts(self, rated: RatedKey, rating: Rating, driven: str) -> Truth:
        """Which elements' watts, of what is driven at a node, count against a rating, shape (E,): none where it does
        not hold as its unit stands here."""
        unit, part = rated
        if not self._rates(unit, part):
            return np.zeros(len(self.owners), np.bool_)
        own = np.array([u == unit and (rating.counts is None or p in rating.counts) for u, p in self.owners], np.bool_)
        return own | self.behind(unit, driven) if rating.fed else own

    def behind(self, owner: str, driven: str) -> Truth:
        """Elements that what drives `driven` reaches only through a unit or lead, the owner's own left out."""
        reach, rest = self.reached(driven), self.reached(driven, owner)
        return np.array(
            [
                e.owner != owner and not {e.a, e.b} & rest and bool({e.a, e.b} & reach)
                for e in self._edges
                if e.element >= 0
            ],
            np.bool_,
        )

    def through(self, link: Link, driven: str) -> Truth:
        """Elements whose watts, of what is driven at a node, go through a lead, shape (E,).

        All of them where the lead closes a ring, since nobody knows how its two ways share the current.
        """
        assert link.b is not None
        rest = self.reached(driven, link.lead)
        fed = [node_of(end) in rest for end in (link.a, link.b)]
        if all(fed):
            return np.ones(len(self.owners), np.bool_)
        return self.behind(link.lead, driven) if any(fed) else np.zeros(len(self.owners), np.bool_)

    @cached_property
    def meeting(self) -> tuple[tuple[str, str], ...]:
        """Pairs of units whose powered outputs meet, each once."""
        found: dict[tuple[str, str], None] = {}
        for n, one in enumerate(self.outputs):
            for other in self.outputs[n + 1 :]:
                if one[0] != other[0] and self.node(other) in self.reached(self.node(one)):
                    found[one[0], other[0]] = None
        return tuple(found)

    def is_reversed(self, unit: str) -> bool:
        """Whether what another unit drives reaches the speaker side of this one by any way but through it."""
        out = f"{unit}.out"
        return any(out in self.reached(self.node(key), unit) for key in self.outputs if key[0] != unit)


def _floating(names: Sequence[str], ends: Sequence[tuple[str, str]]) -> list[str]:
    """One node of every part that nothing ties to ground."""
    tied = merged(pair for pair in ends if GROUND not in pair)
    grounded = {tied.get(a, a) for a, b in ends if b == GROUND} | {tied.get(b, b) for a, b in ends if a == GROUND}
    return sorted({tied.get(name, name) for name in names} - grounded)


@dataclass(frozen=True)
class Slot:
    """One output of a unit over many states, every array of shape (S,), ohms and watts where it is there at all.

    `ohms`: what it sees, inf when open, 0 when shorted. `idle`: its amp does its work on another of its taps.
    """

    there: Truth
    wanted: Real
    tap: Real
    label: Real
    flat: Real
    played: Real
    by_voltage: Truth
    ohms: Real
    idle: Truth

    def powers(self) -> Real:
        """W at the label, flat out and as played, shape (S, 3), by the rule of `Output.powers_into`."""
        own = np.stack([self.label, self.flat, self.played], axis=1)
        driven = self.there & (self.ohms > 0) & (self.ohms < np.inf)
        by_voltage = np.divide(self.tap, self.ohms, out=np.zeros_like(self.ohms), where=driven)
        return own * np.where(self.by_voltage | self.idle, by_voltage, driven.astype(np.float64))[:, None]


SlotKey: TypeAlias = tuple[str, int]
"""A unit, and which of its outputs in use."""
RatedKey: TypeAlias = tuple[str, str]
"""A unit, and the part of it that is rated, empty for the whole."""


@dataclass(frozen=True)
class _Batch:
    """States of one shape: their rows in the whole, the conductance of every element (S, shape (S, E)), and for each
    of O outputs what it sees (Ω, shape (O, S)) and the volts it makes at every node per volt of its own, (O, S, N)."""

    rows: Index
    shape: Shape
    siemens: Real
    ohms: Real
    volts: Real


@dataclass(frozen=True)
class Joint:
    """Results of many joint states, S of them; the first is how the rig is set wherever `index` begins so.

    `watts`: W of everything rated, in the order of `ratings`, shape (S, R, 3). `through`: lead → W that go through
    it, shape (S, 3). `reversed_`: unit → whether it is fed at its speaker side, shape (S,).
    """

    tables: tuple[Table, ...]
    index: Index
    ratings: dict[RatedKey, Rating]
    watts: Real
    through: dict[str, Real]
    reversed_: dict[str, Truth]
    slots: dict[SlotKey, Slot]
    faces: tuple[tuple[_Face, ...], ...]
    batches: tuple[_Batch, ...]

    @cached_property
    def moved(self) -> Index:
        """How many controls each state has moved from how they are set, shape (S,)."""
        return movements(self.tables, self.index)

    @cached_property
    def switched(self) -> Index:
        """How many of them are switches of other kinds than steps, knobs and speaker switches, shape (S,)."""
        return switchings(self.tables, self.index)

    def watts_of(self, key: RatedKey) -> Real:
        """W of one thing that is rated, shape (S, 3); nothing of what no state rates."""
        names = list(self.ratings)
        return self.watts[:, names.index(key)] if key in self.ratings else np.zeros((len(self.index), 3))

    def at(self, row: int) -> tuple[_Batch, int]:
        """The batch a state was solved in, and its place there."""
        batch = next(b for b in self.batches if row in b.rows)
        return batch, int(np.flatnonzero(batch.rows == row)[0])

    @cached_property
    def shapes(self) -> list[Shape]:
        """The network's shape in every state."""
        found: dict[int, Shape] = {row: batch.shape for batch in self.batches for row in batch.rows.tolist()}
        return [found[row] for row in range(len(self.index))]

    def standing(self, row: int) -> tuple[Standing, ...]:
        """How every unit stands in one state."""
        return tuple(table[i] for table, i in zip(self.tables, self.index[row], strict=True))

    def output(self, slot: SlotKey, row: int) -> Output:
        """The output a unit has in one state."""
        u = [table[0].unit for table in self.tables].index(slot[0])
        return self.faces[u][int(self.index[row, u])].outputs[slot[1]]

    def ratio(self, slot: SlotKey, node: str) -> Real:
        """|V at a node| over |V where an output drives|, the other outputs silent, shape (S,); 0 where none arrives."""
        found = np.zeros(len(self.index))
        for batch in self.batches:
            at = batch.shape.column(node)
            if slot in batch.shape.outputs and at is not None:
                found[batch.rows] = np.abs(batch.volts[batch.shape.outputs.index(slot), :, at])
        return found

    def peaks(self, slot: SlotKey, node: str, factors: Sequence[float]) -> Real:
        """Highest peak (V) an output can make at a node at some flyback factors, shape (S, F)."""
        own = self.slots[slot]
        clean, clipped = np.sqrt(2 * own.label * own.tap), np.sqrt(own.flat * own.tap)
        peak = np.maximum(clean[:, None] * np.array(factors), clipped[:, None])
        return np.asarray((self.ratio(slot, node) * own.there)[:, None] * peak)


def solve(speakers: Speakers, tables: Sequence[Table], index: Index, leads: Sequence[Link] = ()) -> Joint:
    """Everything that is asked of the joint states in `index`. `leads`: those whose watts are wanted.

    Raises NetworkError where one of them has no single solution.
    """
    faces = tuple(tuple(_face(speakers.rig, s) for s in table) for table in tables)
    siemens = [_padded([f.face.siemens for f in each]) for each in faces]
    ratings = {
        (t[0].unit, r.part): r for t, each in zip(tables, faces, strict=True) for f in each for r in f.face.ratings
    }
    watts = np.zeros((len(index), len(ratings), 3))
    through = {k.lead: np.zeros((len(index), 3)) for k in leads}
    turned_round = {u: np.zeros(len(index), np.bool_) for u in speakers.units if _has_sides(speakers.rig, u)}
    batches = []
    for rows in _alike(faces, index):
        here = [each[i] for each, i in zip(faces, index[rows[0]], strict=True)]
        shape = Shape(here, speakers.units, speakers.links)
        blocks = [g[index[rows, u]][:, : len(here[u].face.siemens)] for u, g in enumerate(siemens)]
        batches.append(_batch(rows, shape, np.concatenate(blocks, axis=1)))
        for unit in turned_round:
            turned_round[unit][rows] = shape.is_reversed(unit)
    slots = _slots(tables, faces, index, batches)
    for batch in batches:
        for n, key in enumerate(batch.shape.outputs):
            node, power = batch.shape.node(key), slots[key].powers()[batch.rows]
            across = batch.volts[n] @ batch.shape.incidence.T
            taken = across**2 * batch.siemens
            whole = taken.sum(axis=1, keepdims=True)
            part = np.divide(taken, whole, out=np.zeros_like(taken), where=whole > 0)
            if ratings:
                counts = np.array([batch.shape.counts(*rated, node) for rated in ratings.items()], np.float64)
                watts[batch.rows] += (part @ counts.T)[:, :, None] * power[:, None, :]
            for link in leads:
                share = part @ batch.shape.through(link, node).astype(np.float64)
                through[link.lead][batch.rows] += share[:, None] * power
    return Joint(tuple(tables), index, ratings, watts, through, turned_round, slots, faces, tuple(batches))


def _has_sides(rig: Rig, unit: str) -> bool:
    return isinstance(rig.gear[unit], Attenuator | ReAmp)


def _padded(rows: Sequence[Sequence[float]]) -> Real:
    """Rows of unequal length as one array, what is missing being 0."""
    found = np.zeros((len(rows), max((len(r) for r in rows), default=0)))
    for i, row in enumerate(rows):
        found[i, : len(row)] = row
    return found


def _alike(faces: Sequence[Sequence[_Face]], index: Index) -> list[Index]:
    """Rows of `index` by the shape their units have there."""
    kind = np.zeros(len(index), np.intp)
    for u, each in enumerate(faces):
        known: dict[object, int] = {}
        own = np.array([known.setdefault(f.shape, len(known)) for f in each], np.intp)
        if len(known) > 1:
            _, kind = np.unique(kind * len(known) + own[index[:, u]], return_inverse=True)
    return [np.flatnonzero(kind == k) for k in range(int(kind.max()) + 1)]


def _batch(rows: Index, shape: Shape, siemens: Real) -> _Batch:
    impedances = shape.impedances(siemens)
    states, count = len(rows), len(shape.outputs)
    ohms, volts = np.full((count, states), np.inf), np.zeros((count, states, len(shape.columns)))
    for n, key in enumerate(shape.outputs):
        node = shape.node(key)
        at = shape.column(node)
        if at is None:
            ohms[n] = 0.0 if shape.find(node) == GROUND else np.inf
            continue
        own = impedances[:, at, at]
        # What only the defined reference of a floating part ties down is open.
        ohms[n] = np.where(own > OPEN_OHMS, np.inf, own)
        volts[n] = impedances[:, :, at] / own[:, None]
    return _Batch(rows, shape, siemens, ohms, volts)


def _slots(
    tables: Sequence[Table], faces: Sequence[Sequence[_Face]], index: Index, batches: Sequence[_Batch]
) -> dict[SlotKey, Slot]:
    found: dict[SlotKey, Slot] = {}
    for u, (table, each) in enumerate(zip(tables, faces, strict=True)):
        for n in range(max(len(f.outputs) for f in each)):
            outputs = [f.outputs[n] if n < len(f.outputs) else None for f in each]
            facts = np.array([_facts(o) for o in outputs])[index[:, u]]
            key, ohms = (table[0].unit, n), np.full(len(index), np.inf)
            for batch in batches:
                if key in batch.shape.outputs:
                    ohms[batch.rows] = batch.ohms[batch.shape.outputs.index(key)]
            there, wanted, tap, label, flat, played, by_voltage = facts.T
            nothing = np.zeros(len(index), np.bool_)
            found[key] = Slot(there > 0, wanted, tap, label, flat, played, by_voltage > 0, ohms, nothing)
    return {key: replace(slot, idle=_is_idle(key, found)) for key, slot in found.items()}


def _facts(output: Output | None) -> tuple[float, ...]:
    if output is None:
        return (0.0, 1.0, 1.0, 0.0, 0.0, 0.0, 0.0)
    played = output.flat_power if output.runs_flat_out else output.label_power
    own = (output.wanted, output.tap, output.label_power, output.flat_power, played)
    return (1.0, *own, float(output.is_source_of_voltage))


def _is_idle(key: SlotKey, slots: Mapping[SlotKey, Slot]) -> Truth:
    own = slots[key]
    others = (slot for other, slot in slots.items() if other[0] == key[0] and other != key)
    return is_idle(own.ohms, own.tap, ((np.where(s.there, s.ohms, np.inf), s.tap) for s in others))


def is_idle(ohms: Real, tap: Real, others: Iterable[tuple[Real, Real]]) -> Truth:
    """Where a tap (Ω, shape (S,)) that sees so many Ω carries next to nothing, while another tap of the same amp has
    a load of its own. `others`: what those see, and their Ω."""
    loaded = np.zeros(len(ohms), np.bool_)
    for seen, other in others:
        loaded |= seen < IDLE_OVER_TAP * other
    return np.asarray(loaded & (ohms >= IDLE_OVER_TAP * tap), np.bool_)
