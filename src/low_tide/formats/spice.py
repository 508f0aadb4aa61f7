"""SPICE netlist of a hook-up's real speaker network, for an outside check: `ngspice -b` runs it unchanged."""

from __future__ import annotations

import re
from collections.abc import Iterator
from math import pi

import numpy as np

from low_tide.core.circuit.elements import Capacitor, Resistor, Scaled, Tabled
from low_tide.core.circuit.impedance import DriverModel, MeasuredCurve
from low_tide.core.circuit.network import GROUND, REFERENCE_SIEMENS, Element, NetworkError
from low_tide.core.frequency import POINTS, frequency_grid
from low_tide.core.power.delivered import node_voltages
from low_tide.core.power.speaker_network import outputs, real_network, sources
from low_tide.core.presentation.analysis import analyse
from low_tide.core.rig.rig import Rig
from low_tide.formats.documents import Json, dump

PER_DECADE = 160
"""Points a decade: with both ends the 481 of the program's own grid over three decades."""

PER_LINE = 6


RESULT = "hookup.dat"
"""The file that ngspice writes: frequency, then real and imaginary part of every node."""


def node_name(node: str) -> str:
    """A node's name in the netlist: unit and socket in letters, digits and underscores; ground stays 0."""
    return node if node == GROUND else re.sub(r"[^a-z0-9]", "_", node.lower().replace(".", "__"))


def comment(text: str) -> str:
    """A line that says something and can do nothing: a simulator carries out commands of its own, so whatever a name
    holds, only letters, digits and a few marks get there."""
    return "* " + re.sub(r"[^A-Za-z0-9 .,:()-]", "_", text)


def _driver(mark: str, a: str, b: str, model: DriverModel, k: float) -> Iterator[str]:
    """The equivalent circuit of a driver, every impedance times k: coil, lossy inductance, motional branch."""
    r_es = model.r_e * model.q_ms / model.q_es
    c_mes = model.q_es / (2 * pi * model.f_s * model.r_e)
    l_ces = model.r_e / (2 * pi * model.f_s * model.q_es)
    n1, n2, n3 = (f"{mark}_{i}" for i in (1, 2, 3))
    yield f"R{mark}_e {a} {n1} {k * model.r_e:.12g}"
    yield f"L{mark}_1 {n1} {n2} {k * model.l_1:.12g}"
    yield f"L{mark}_2 {n2} {n3} {k * model.l_2:.12g}"
    yield f"R{mark}_2 {n2} {n3} {k * model.r_2:.12g}"
    yield f"R{mark}_m {n3} {b} {k * r_es:.12g}"
    yield f"L{mark}_m {n3} {b} {k * l_ces:.12g}"
    yield f"C{mark}_m {n3} {b} {c_mes / k:.12g}"


def _table(values: np.ndarray) -> str:
    """A table over frequency (Hz) for a behavioural source, on continued lines."""
    pairs = [f"{f:.9g},{v:.12g}" for f, v in zip(frequency_grid(), values, strict=True)]
    lines = [", ".join(pairs[i : i + PER_LINE]) for i in range(0, len(pairs), PER_LINE)]
    return "pwl(hertz, " + ",\n+ ".join(lines) + ")"


def _measured(mark: str, a: str, b: str, made_of: Tabled) -> Iterator[str]:
    """A measured curve: a current set by conductance and susceptance over frequency.

    One ampere a volt through 1/(2π) H gives j·f times the voltage, which carries the imaginary part.
    """
    frequency = frequency_grid()
    curve = MeasuredCurve(made_of.frequency, made_of.real, made_of.imaginary)
    admittance = 1 / (made_of.factor * curve.impedance(frequency))
    yield f"G{mark}j 0 {mark}_j {a} {b} 1"
    yield f"L{mark}j {mark}_j 0 {1 / (2 * pi):.12g}"
    yield (
        f"B{mark} {a} {b} I = V({a},{b})*{_table(admittance.real)}\n"
        f"+ + V({mark}_j)*{_table(admittance.imag / frequency)}"
    )


def _element(mark: str, element: Element) -> Iterator[str]:
    a, b = node_name(element.a), node_name(element.b)
    yield comment(f"{element.unit}: {element.part}")
    match element.made_of:
        case Resistor(ohms=ohms):
            yield f"R{mark} {a} {b} {ohms:.12g}"
        case Capacitor(farads=farads):
            yield f"C{mark} {a} {b} {farads:.12g}"
        case Scaled(model=model, factor=factor):
            yield from _driver(mark, a, b, model, factor)
        case Tabled() as tabled:
            yield from _measured(mark, a, b, tabled)
        case None:
            raise ValueError(f"{element.unit}, {element.part}: nothing says what it is made of")


def write_netlist(rig: Rig) -> str:
    """The real speaker network with every source at label power, small signal; an AC sweep over the same 481 points."""
    net = real_network(rig, frequency_grid())
    used = tuple(o for o in outputs(rig) if net.find(o.node) in net.nodes)
    title = " ".join(rig.hookup.name.split()) or "hook-up"
    lines = [comment(title), "* voltages in V RMS; nodes are unit__socket"]
    for i, source in enumerate(sources(used, 1)):
        node = node_name(source.node)
        volts, ohms = source.voltage[0].real, source.impedance[0].real
        lines.append(comment(f"{source.unit}: small signal, at its label power"))
        lines += [f"Vs{i} s{i} 0 DC 0 AC {volts:.12g}", f"Rs{i} s{i} {node} {ohms:.12g}"]
    for i, element in enumerate(net.elements):
        lines += _element(f"x{i}", element)
    for i, (node, other) in enumerate(net.joined):
        lines.append(f"Vj{i} {node_name(node)} {node_name(other)} DC 0 AC 0")
    for i, node in enumerate(net.unreferenced({net.find(o.node) for o in used})):
        lines.append(f"Rref{i} {node_name(node)} 0 {1 / REFERENCE_SIEMENS:.12g}")
    names = [node_name(n) for n in net.names if net.find(n) in net.nodes]
    shown = " ".join(f"v({n})" for n in names)
    lines += [".control", "set filetype=ascii", "set numdgt=12", "set wr_singlescale", "set wr_vecnames"]
    lines += [f"ac dec {PER_DECADE} 20 20k", f"wrdata {RESULT} {shown}", "quit", ".endc", ".end"]
    assert 3 * PER_DECADE + 1 == POINTS
    return "\n".join(lines) + "\n"


def result_json(rig: Rig) -> Json:
    """The whole result of a hook-up as plain data, with the complex node voltages under the netlist's names."""
    result = dump(analyse(rig))
    try:
        voltages = node_voltages(rig)
    except NetworkError:
        voltages = {}
    result["nodes"] = {
        "frequency": frequency_grid().tolist(),
        "voltages": {
            node_name(name): {"real": v.real.tolist(), "imaginary": v.imag.tolist()} for name, v in voltages.items()
        },
    }
    return result
