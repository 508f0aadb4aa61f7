"""The network solver: invariants, and the cases that have no ordinary answer."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.circuit.network import GROUND, Element, Network, Source, input_impedance

OHMS = st.floats(0.5, 500)


def element(a: str, b: str, ohms: complex) -> Element:
    return Element("u", f"{a}-{b}", a, b, np.array([ohms], dtype=complex))


def source(node: str, volts: float, ohms: float) -> Source:
    return Source("s", node, np.array([volts + 0j]), np.array([ohms + 0j]))


@given(st.lists(st.tuples(st.integers(0, 4), st.integers(0, 4), OHMS, st.floats(-200, 200)), min_size=1, max_size=14))
def test_power_balance(parts: list[tuple[int, int, float, float]]) -> None:
    """What the source gives is what the elements take, whatever the network; none gives power."""
    elements = [element("01234"[a], "01234"[b], complex(r, x)) for a, b, r, x in parts if a != b]
    net = Network([*elements, element("1", GROUND, 10)], (), 1)
    solution = net.solve([source("1", 10, 2)])
    v = solution.voltage("1")[0]
    delivered = (v * np.conj((10 - v) / 2)).real
    taken = [float(solution.power(e)[0]) for e in net.elements]
    assert min(taken) >= -1e-12
    assert sum(taken) == pytest.approx(delivered, rel=1e-9, abs=1e-9)


@given(OHMS, OHMS, OHMS)
def test_reciprocity(a: float, b: float, c: float) -> None:
    def transfer(first: str, second: str) -> complex:
        ends = [element("1", GROUND, a), element("1", "2", b), element("2", GROUND, c)]
        solved = Network(ends, (), 1).solve([Source("s", first, np.array([1e9 + 0j]), np.array([1e9 + 0j]))])
        return complex(solved.voltage(second)[0])

    assert transfer("1", "2") == pytest.approx(transfer("2", "1"), rel=1e-6)


@given(OHMS, OHMS)
def test_another_resistor_across_never_raises_the_impedance(a: float, b: float) -> None:
    alone = input_impedance(Network([element("1", GROUND, a)], (), 1), "1")[0].real
    both = input_impedance(Network([element("1", GROUND, a), element("1", GROUND, b)], (), 1), "1")[0].real
    assert both == pytest.approx(a * b / (a + b))
    assert both < alone


def test_a_lead_with_a_free_end_has_a_voltage() -> None:
    net = Network([element("1", GROUND, 8), element("1", "free", 0.1)], (), 1)
    solution = net.solve([source("1", 16, 8)])
    assert solution.voltage("free")[0] == pytest.approx(8)
    floating = Network([element("1", GROUND, 8), element("a", "b", 5)], (), 1).solve([source("1", 16, 8)])
    assert floating.voltage("a")[0] == 0


def test_open_and_short() -> None:
    assert np.isinf(input_impedance(Network([element("1", "2", 5)], (), 1), "1")[0])
    assert np.isinf(input_impedance(Network([], (), 1), "1")[0])
    assert input_impedance(Network([element("1", "2", 5)], (("1", GROUND),), 1), "1")[0] == 0


def test_joints_make_one_node() -> None:
    net = Network([element("a", GROUND, 8), element("d", GROUND, 8)], (("a", "b"), ("c", "d"), ("b", "c")), 1)
    assert input_impedance(net, "c")[0].real == pytest.approx(4)
