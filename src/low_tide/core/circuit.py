"""From a rig to its speaker network, nominal or real, and the outputs that drive it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product

import numpy as np

from low_tide.core.amplifier import source_voltage
from low_tide.core.gear import Amp, Cabinet, Lead
from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.base import Setting
from low_tide.core.hookup import End, Link, Rig
from low_tide.core.leads import SCREENED_FARADS_PER_METRE, loop_resistance
from low_tide.core.network import GROUND, Element, Network, Source
from low_tide.core.response import Real

OWN_LEAD_AWG = 16
"""Gauge taken for the fixed lead inside a combo."""

MOST_COMBINATIONS = 96
"""Positions of level controls tried together; above this only the ends of each are."""


@dataclass(frozen=True)
class Output:
    """One tap of one amp that drives the network: powers in W, `tap` and `wanted` in Ω."""

    amp: str
    tap: float
    wanted: float
    node: str
    jacks: tuple[str, ...]
    label_power: float
    flat_power: float
    damping_factor: float
    permitted: tuple[float, ...]
    is_source_of_voltage: bool

    def powers_into(self, seen: float) -> tuple[float, float]:
        """Label and flat-out power (W) into `seen` Ω, as ratings count them.

        A valve amp gets no credit for a mismatch; a transistor amp is a voltage source, P·R_label/R.
        """
        if not self.is_source_of_voltage:
            return self.label_power, self.flat_power
        factor = self.tap / seen if 0 < seen < np.inf else 0.0
        return self.label_power * factor, self.flat_power * factor


def node_of(end: End) -> str:
    return f"{end.unit}.{end.socket}"


def outputs(rig: Rig) -> tuple[Output, ...]:
    """Taps in use: the selected one, or every tap whose own jack holds a plug (the first if none does)."""
    found = []
    for unit, amp in rig.amps():
        settings, plugged = rig.settings(unit), rig.plugged(unit)
        taps = amp.tap_sockets()
        if amp.tap_choice == "selector":
            chosen = str(settings.get("tap", f"{amp.taps[0].impedance:g}"))
            used = [t for t in taps if f"{t[0].impedance:g}" == chosen]
        else:
            used = [t for t in taps if plugged & set(t[2])] or [taps[0]]
        mode = amp.mode(settings)
        found += [_output(unit, amp, mode, tap, node, jacks) for tap, node, jacks in used]
    return tuple(found)


def _output(unit: str, amp: Amp, mode: PowerMode, tap: Tap, node: str, jacks: tuple[str, ...]) -> Output:
    return Output(
        amp=unit,
        tap=tap.impedance,
        wanted=tap.impedance * mode.load_factor,
        node=f"{unit}.{node}",
        jacks=jacks,
        label_power=mode.power,
        flat_power=mode.power * amp.crank,
        damping_factor=amp.damping(),
        permitted=tap.permitted,
        is_source_of_voltage=amp.technology == "transistor",
    )


def network(rig: Rig, frequency: Real | None = None) -> Network:
    """The speaker network. `frequency` None gives the nominal one: rated resistances, ideal leads."""
    elements: list[Element] = []
    joints: list[tuple[str, str]] = []
    for unit, gear in rig.units():
        parts = gear.parts(rig.site(unit, frequency))
        elements += parts.elements
        joints += parts.joints
    for link in rig.speaker_links():
        if frequency is None:
            joints.append((node_of(link.a), node_of(link.b or link.a)))
        else:
            elements += _lead_elements(rig, link, frequency)
    return Network(elements, joints, 1 if frequency is None else len(frequency))


def _lead_elements(rig: Rig, link: Link, frequency: Real) -> list[Element]:
    """Loop resistance in series; a screened lead also has its capacitance across the far end."""
    conductor = rig.conductor(link)
    a, b = node_of(link.a), node_of(link.b or link.a)
    if isinstance(conductor, Cabinet):
        length = conductor.own_lead.length if conductor.own_lead else 0.0
        ohms, screened = loop_resistance(length, OWN_LEAD_AWG, plugs=1), 0.0
    else:
        assert isinstance(conductor, Lead)
        ohms = conductor.resistance()
        screened = conductor.length if conductor.construction != "speaker" else 0.0
    found = [Element(link.lead, "lead", a, b, np.full(len(frequency), ohms, np.complex128))]
    if screened:
        across = np.asarray(1 / (2j * np.pi * frequency * SCREENED_FARADS_PER_METRE * screened), np.complex128)
        found.append(Element(link.lead, "capacitance", b, GROUND, across))
    return found


def sources(found: tuple[Output, ...], points: int) -> tuple[Source, ...]:
    """Every output as a voltage behind its output impedance, small signal, at label power."""
    return tuple(
        Source(
            o.amp,
            o.node,
            np.full(points, source_voltage(o.label_power, o.tap, o.damping_factor), np.complex128),
            np.full(points, o.tap / o.damping_factor, np.complex128),
        )
        for o in found
    )


def level_positions(rig: Rig) -> tuple[dict[str, dict[str, Setting]], ...]:
    """Combinations of positions that the level controls can reach, each as unit → control → value."""
    knobs = [
        (unit, control, control.positions())
        for unit, gear in rig.units()
        for control in gear.controls()
        if control.reaches_levels and rig.plugged(unit)
    ]
    count = int(np.prod([len(p) for _, _, p in knobs], dtype=float)) if knobs else 0
    if count > MOST_COMBINATIONS:
        knobs = [(u, c, (p[0], p[-1])) for u, c, p in knobs]
    count = int(np.prod([len(p) for _, _, p in knobs], dtype=float)) if knobs else 0
    whole = count <= MOST_COMBINATIONS
    found = []
    for values in product(*(p for _, _, p in knobs)) if whole else _one_at_a_time([p for *_, p in knobs]):
        moved: dict[str, dict[str, Setting]] = {}
        for (unit, control, _), value in zip(knobs, values, strict=True):
            moved.setdefault(unit, {})[control.id] = value
        found.append(moved)
    return tuple(found) if knobs else ()


def reachable(rig: Rig) -> Iterator[Rig]:
    """The rig with its level controls at each combination of positions they can reach."""
    return (rig.moved(settings) for settings in level_positions(rig))


def _one_at_a_time(ends: list[tuple[Setting, ...]]) -> list[tuple[Setting, ...]]:
    """Too many knobs to try together: all low, all high, and each alone at its other end."""
    low, high = tuple(e[0] for e in ends), tuple(e[-1] for e in ends)
    single = [(*low[:i], high[i], *low[i + 1 :]) for i in range(len(ends))]
    return [low, high, *single, *[(*high[:i], low[i], *high[i + 1 :]) for i in range(len(ends))]]
