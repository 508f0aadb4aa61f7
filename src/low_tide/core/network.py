"""Nodal analysis of a passive network with voltage sources behind impedances, all frequencies in one batch.

Nodes are names; `GROUND` is the common return. Arrays have shape (F,) for F frequencies. Parts with no
way to ground get a defined reference, so a lead that hangs free has a voltage.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from low_tide.core.response import Complex, Real

GROUND = "0"
REFERENCE_SIEMENS = 1e-9


class NetworkError(ValueError):
    """The network has no single solution."""


@dataclass(frozen=True, eq=False)
class Element:
    """An impedance (Ω, shape (F,)) between two nodes, belonging to a part of a unit."""

    unit: str
    part: str
    a: str
    b: str
    impedance: Complex


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
        self.elements = tuple(e for e in elements if self.find(e.a) != self.find(e.b))
        names = {self.find(n) for e in elements for n in (e.a, e.b)} | set(self._same.values())
        self._nodes = sorted(names - {GROUND})
        self._index = {name: i for i, name in enumerate(self._nodes)}

    def find(self, node: str) -> str:
        """The node that stands for `node` after joining."""
        return self._same.get(node, node)

    def connected(self, node: str) -> frozenset[str]:
        """Every node reached from `node` through elements and joints without passing ground."""
        reach, todo = {self.find(node)}, [self.find(node)]
        while todo:
            here = todo.pop()
            for e in self.elements:
                a, b = self.find(e.a), self.find(e.b)
                if here in (a, b):
                    other = b if here == a else a
                    if other != GROUND and other not in reach:
                        reach.add(other)
                        todo.append(other)
        return frozenset(reach)

    def _admittance(self, sources: Sequence[Source]) -> Complex:
        size = len(self._nodes)
        y = np.zeros((self.points, size, size), dtype=np.complex128)

        def stamp(a: int | None, b: int | None, admittance: Complex) -> None:
            if a is not None:
                y[:, a, a] += admittance
            if b is not None:
                y[:, b, b] += admittance
            if a is not None and b is not None:
                y[:, a, b] -= admittance
                y[:, b, a] -= admittance

        for e in self.elements:
            stamp(self._index.get(self.find(e.a)), self._index.get(self.find(e.b)), 1 / e.impedance)
        for s in sources:
            stamp(self._index[self.find(s.node)], None, 1 / s.impedance)
        fed = {self.find(s.node) for s in sources}
        for node in self._unreferenced(fed):
            y[:, self._index[node], self._index[node]] += REFERENCE_SIEMENS
        return y

    def _unreferenced(self, fed: set[str]) -> list[str]:
        """One node of every part that neither an element nor a source ties to ground."""
        left, found = set(self._nodes), []
        while left:
            group = self.connected(min(left))
            tied = any(
                GROUND in (self.find(e.a), self.find(e.b)) and {self.find(e.a), self.find(e.b)} & group
                for e in self.elements
            )
            if not tied and not group & fed:
                found.append(min(group))
            left -= group
        return found

    def solve(self, sources: Sequence[Source]) -> Solution:
        """Node voltages with these sources. Raises NetworkError where there is no single solution."""
        known = [s for s in sources if self.find(s.node) in self._index]
        current = np.zeros((self.points, len(self._nodes), 1), dtype=np.complex128)
        for s in known:
            current[:, self._index[self.find(s.node)], 0] += s.voltage / s.impedance
        return self._finish(self._admittance(known), current)

    def drive(self, node: str, voltage: float = 1.0) -> Solution:
        """Node voltages with `node` held at `voltage` (V) by an ideal source."""
        at = self._index.get(self.find(node))
        if at is None:
            raise NetworkError(f"nothing is connected at {node}")
        y = self._admittance(())
        y[:, at, :] = 0
        y[:, at, at] = 1
        current = np.zeros((self.points, len(self._nodes), 1), dtype=np.complex128)
        current[:, at, 0] = voltage
        return self._finish(y, current)

    def _finish(self, y: Complex, current: Complex) -> Solution:
        if not self._nodes:
            return Solution(self, {})
        try:
            v: Complex = np.linalg.solve(y, current)[:, :, 0].astype(np.complex128)
        except np.linalg.LinAlgError as error:
            raise NetworkError("the network has no single solution") from error
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

    def current_into(self, node: str) -> Complex:
        """Current (A) that the network's elements draw from `node`."""
        at, total = self.network.find(node), np.zeros(self.network.points, dtype=np.complex128)
        for e in self.network.elements:
            a, b = self.network.find(e.a), self.network.find(e.b)
            flow = (self.voltage(e.a) - self.voltage(e.b)) / e.impedance
            if a == at:
                total = total + flow
            if b == at:
                total = total - flow
        return total


def input_impedance(network: Network, node: str) -> Complex:
    """What a source at `node` sees (Ω, shape (F,)); infinite where nothing draws current, 0 where it is shorted."""
    if network.find(node) == GROUND:
        return np.zeros(network.points, dtype=np.complex128)
    try:
        current = network.drive(node).current_into(node)
    except NetworkError:
        return np.full(network.points, np.inf, dtype=np.complex128)
    with np.errstate(divide="ignore", invalid="ignore"):
        open_circuit = np.abs(current) < REFERENCE_SIEMENS * 10
        return np.where(open_circuit, np.inf + 0j, 1 / np.where(open_circuit, 1, current))
