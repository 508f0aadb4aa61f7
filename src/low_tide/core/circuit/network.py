"""Nodal analysis of a passive network with voltage sources behind impedances, all frequencies in one batch.

Nodes are names; `GROUND` is the common return. Arrays have shape (F,) for F frequencies. Parts with no
way to ground get a defined reference, so a lead that hangs free has a voltage.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from low_tide.core.circuit.elements import Lumped
from low_tide.core.frequency import Complex, Real

GROUND = "0"
REFERENCE_SIEMENS = 1e-9
OPEN_OHMS = 0.1 / REFERENCE_SIEMENS
"""Over this only the defined reference of a floating part is seen: nothing is connected."""


class NetworkError(ValueError):
    """The network has no single solution."""


@dataclass(frozen=True, eq=False)
class Element:
    """An impedance (Ω, shape (F,)) between two nodes, belonging to a part of a unit.

    `made_of`: the lumped parts it stands for, so that a circuit simulator can be given the same.
    """

    unit: str
    part: str
    a: str
    b: str
    impedance: Complex
    made_of: Lumped | None = None


@dataclass(frozen=True, eq=False)
class Source:
    """A voltage (V, shape (F,)) behind an impedance (Ω, shape (F,)), from ground to a node."""

    unit: str
    node: str
    voltage: Complex
    impedance: Complex


@dataclass(frozen=True)
class Parts:
    """What a unit puts into the network: elements, and pairs of nodes that are one."""

    elements: tuple[Element, ...] = ()
    joints: tuple[tuple[str, str], ...] = ()


def merged(joints: Iterable[tuple[str, str]]) -> dict[str, str]:
    """Representative of every joined node; ground represents its own group."""
    joints = tuple(joints)
    parent: dict[str, str] = {}

    def root(node: str) -> str:
        while parent.get(node, node) != node:
            node = parent[node]
        return node

    for a, b in joints:
        ra, rb = root(a), root(b)
        if ra != rb:
            keep, drop = (rb, ra) if rb == GROUND else (ra, rb)
            parent[drop] = keep
    return {node: root(node) for pair in joints for node in pair}


class Network:
    """Elements and joints, ready to be solved; immutable once made."""

    def __init__(self, elements: Sequence[Element], joints: Sequence[tuple[str, str]], points: int) -> None:
        self.points = points
        self._same = merged(tuple(joints))
        ends = [(self.find(e.a), self.find(e.b)) for e in elements]
        self.elements = tuple(e for e, (a, b) in zip(elements, ends, strict=True) if a != b)
        self.ends = tuple(pair for pair in ends if pair[0] != pair[1])
        """The joined nodes of every element, in the order of `elements`."""
        names = {name for pair in ends for name in pair} | set(self._same.values())
        self._nodes = sorted(names - {GROUND})
        self._index = {name: i for i, name in enumerate(self._nodes)}

    @property
    def names(self) -> tuple[str, ...]:
        """Names of all nodes, joined ones too, ground left out."""
        return tuple(sorted((set(self._same) | set(self._nodes)) - {GROUND}))

    @property
    def nodes(self) -> tuple[str, ...]:
        """Names of the nodes that stand for all joined to them, ground left out."""
        return tuple(self._nodes)

    def find(self, node: str) -> str:
        """The node that stands for `node` after joining."""
        return self._same.get(node, node)

    @cached_property
    def _parts(self) -> dict[str, frozenset[str]]:
        """Every node with those it reaches through elements without passing ground."""
        tied = merged(pair for pair in self.ends if GROUND not in pair)
        groups: dict[str, set[str]] = {}
        for name in self._nodes:
            groups.setdefault(tied.get(name, name), set()).add(name)
        return {name: group for members in groups.values() for group in (frozenset(members),) for name in members}

    def connected(self, node: str) -> frozenset[str]:
        """Every node reached from `node` through elements and joints without passing ground."""
        found = self.find(node)
        return self._parts.get(found, frozenset((found,)))

    def _admittance(self, sources: Sequence[Source]) -> Complex:
        size = len(self._nodes)
        y = np.zeros((self.points, size, size), dtype=np.complex128)
        for e, (a, b) in zip(self.elements, self.ends, strict=True):
            admittance = 1 / e.impedance
            i, j = self._index.get(a), self._index.get(b)
            if i is not None:
                y[:, i, i] += admittance
            if j is not None:
                y[:, j, j] += admittance
            if i is not None and j is not None:
                y[:, i, j] -= admittance
                y[:, j, i] -= admittance
        for s in sources:
            at = self._index[self.find(s.node)]
            y[:, at, at] += 1 / s.impedance
        for node in self.unreferenced({self.find(s.node) for s in sources}):
            y[:, self._index[node], self._index[node]] += REFERENCE_SIEMENS
        return y

    @property
    def joined(self) -> tuple[tuple[str, str], ...]:
        """Every joined node with the one that stands for it."""
        return tuple((name, self.find(name)) for name in self.names if self.find(name) != name)

    def unreferenced(self, fed: set[str]) -> list[str]:
        """One node of every part that neither an element nor a source ties to ground."""
        tied = {a if b == GROUND else b for a, b in self.ends if GROUND in (a, b)} | fed
        return [min(group) for group in set(self._parts.values()) if not group & tied]

    def solve(self, sources: Sequence[Source]) -> Solution:
        """Node voltages with these sources. Raises NetworkError where there is no single solution."""
        known = [s for s in sources if self.find(s.node) in self._index]
        if not self._nodes:
            return Solution(self, {})
        if len({self.connected(s.node) for s in known}) == len(known):
            # Each source has a part of the network to itself: by Thévenin its own column carries all of it.
            v = np.zeros((self.points, len(self._nodes)), dtype=np.complex128)
            for s in known:
                column, own = self._column(s.node), self._own(s.node)
                # What only the defined reference ties down draws nothing: the whole voltage stands there.
                inner = np.where(np.abs(own) > OPEN_OHMS, 0, s.impedance)
                v += column * (s.voltage / (inner + own))[:, None]
            return self._solution(v)
        current = np.zeros((self.points, len(self._nodes), 1), dtype=np.complex128)
        for s in known:
            current[:, self._index[self.find(s.node)], 0] += s.voltage / s.impedance
        return self._solution(self._solved(self._admittance(known), current)[:, :, 0])

    def _solved(self, y: Complex, current: Complex) -> Complex:
        try:
            return np.asarray(np.linalg.solve(y, current), np.complex128)
        except np.linalg.LinAlgError as error:
            raise NetworkError("the network has no single solution") from error

    @cached_property
    def _columns(self) -> dict[int, Complex]:
        return {}

    @cached_property
    def _inverse(self) -> Complex:
        """Open-circuit impedances (Ω, shape (1, N, N)) of a network at one point: everything is asked of it."""
        return self._solved(self._passive, np.eye(len(self._nodes), dtype=np.complex128)[None])

    def _column(self, node: str) -> Complex:
        """Volts at every node for one ampere into `node`, without sources: Ω, shape (F, N).

        At many points only the columns that are asked for are solved. Raises NetworkError where nothing is
        connected there.
        """
        at = self._index.get(self.find(node))
        if at is None:
            raise NetworkError(f"nothing is connected at {node}")
        if at not in self._columns:
            if self.points == 1:
                self._columns[at] = self._inverse[:, :, at]
            else:
                self._columns[at] = self._solved_column(at)
        return self._columns[at]

    def _solved_column(self, at: int) -> Complex:
        """One column at many points, solved on the part of the network that hangs together with it."""
        part = sorted(self._index[name] for name in self.connected(self._nodes[at]))
        current = np.zeros((self.points, len(part), 1), dtype=np.complex128)
        current[:, part.index(at), 0] = 1
        column = np.zeros((self.points, len(self._nodes)), dtype=np.complex128)
        column[:, part] = self._solved(self._passive[:, part][:, :, part], current)[:, :, 0]
        return column

    @cached_property
    def _passive(self) -> Complex:
        """Admittances (S, shape (F, N, N)) of the network without its sources."""
        return self._admittance(())

    def _own(self, node: str) -> Complex:
        """Open-circuit impedance (Ω, shape (F,)) between a node and ground."""
        return np.asarray(self._column(node)[:, self._index[self.find(node)]])

    def drive(self, node: str, voltage: float = 1.0) -> Solution:
        """Node voltages with `node` held at `voltage` (V) by an ideal source."""
        return self._solution(voltage * self._column(node) / self._own(node)[:, None])

    def driving_point(self, node: str) -> Complex | None:
        """Open-circuit impedance (Ω, shape (F,)) between a node and ground; None where nothing is connected."""
        return self._own(node) if self.find(node) in self._index else None

    def gain(self, node: str, driven: str) -> Complex:
        """Voltage at `node` over that at `driven`, held by an ideal source; complex, shape (F,)."""
        there = self._index.get(self.find(node))
        if there is None or self.find(driven) not in self._index:
            return np.zeros(self.points, dtype=np.complex128)
        return np.asarray(self._column(driven)[:, there] / self._own(driven))

    def powers(self, driven: str) -> Real:
        """Real power (W, shape (F, E)) in every element with 1 V held at `driven`, in the order of `elements`.

        Raises NetworkError where nothing is connected there.
        """
        volts = np.zeros((self.points, len(self._nodes) + 1), dtype=np.complex128)
        volts[:, :-1] = self._column(driven) / self._own(driven)[:, None]
        if not np.isfinite(volts).all():
            raise NetworkError("the network has no single solution")
        first, second, conductance = self._stamps
        return np.asarray(np.abs(volts[:, first] - volts[:, second]) ** 2 * conductance)

    @cached_property
    def _stamps(self) -> tuple[NDArray[np.intp], NDArray[np.intp], Real]:
        """Node numbers of both ends of every element (ground is the last), and its conductance (S, (F, E))."""
        ground = len(self._nodes)
        first, second = (
            np.array([self._index.get(pair[side], ground) for pair in self.ends], dtype=np.intp) for side in (0, 1)
        )
        if not self.elements:
            return first, second, np.zeros((self.points, 0))
        return first, second, np.real(1 / np.stack([e.impedance for e in self.elements], axis=1))

    def _solution(self, v: Complex) -> Solution:
        if not np.isfinite(v).all():
            raise NetworkError("the network has no single solution")
        return Solution(self, {name: v[:, i] for name, i in self._index.items()})


@dataclass(frozen=True)
class Solution:
    """Node voltages (V, complex, shape (F,)) of one network."""

    network: Network
    voltages: dict[str, Complex]

    def voltage(self, node: str) -> Complex:
        """Voltage at a node; ground and unknown nodes are at 0 V."""
        return self.voltages.get(self.network.find(node), np.zeros(self.network.points, dtype=np.complex128))

    def power(self, element: Element) -> Real:
        """Real power (W, shape (F,)) in an element: |V|²·Re Y, for RMS voltages."""
        across = self.voltage(element.a) - self.voltage(element.b)
        return np.asarray(np.abs(across) ** 2 * np.real(1 / element.impedance))


def input_impedance(network: Network, node: str) -> Complex:
    """What a source at `node` sees (Ω, shape (F,)); infinite where nothing draws current, 0 where it is shorted."""
    if network.find(node) == GROUND:
        return np.zeros(network.points, dtype=np.complex128)
    found = network.driving_point(node)
    if found is None:
        return np.full(network.points, np.inf, dtype=np.complex128)
    # What only the defined reference of a floating part ties down is open.
    return np.where(np.abs(found) > OPEN_OHMS, np.inf + 0j, found)
