"""From a rig to its speaker network, nominal or real, and the outputs that drive it."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np

from low_tide.core.amplifier import DAMPING_PRESETS, source_voltage
from low_tide.core.gear import Amp, Cabinet, Lead, ReAmp
from low_tide.core.gear.amp import NOT_KNOWN, PowerMode, Tap
from low_tide.core.gear.base import Setting
from low_tide.core.hookup import End, Link, Rig, per_rig
from low_tide.core.leads import SCREENED_FARADS_PER_METRE, loop_resistance
from low_tide.core.lumped import Capacitor, Resistor
from low_tide.core.network import GROUND, Element, Network, Source
from low_tide.core.response import Real
from low_tide.core.units import from_db_power

OWN_LEAD_AWG = 16
"""Gauge taken for the fixed lead inside a combo."""

MOST_COMBINATIONS = 96
"""Positions of level controls tried together; above this only the ends of each are."""


@dataclass(frozen=True)
class Output:
    """One tap of one amp that drives the network: powers in W, `tap` and `wanted` in Ω.

    `node` is where the power stage drives it: the tap, or the near side of a built-in soak. `doubtful`: the
    selector stands at a place nobody knows, and the tap is only the first of those it could be.
    """

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
    doubtful: bool = False

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


@per_rig
def outputs(rig: Rig) -> tuple[Output, ...]:
    """Every tap in use of every amp, and the inner amplifier of every re-amplifier that is switched on."""
    found: list[Output] = []
    for unit, gear in rig.units():
        if isinstance(gear, Amp):
            site = rig.site(unit)
            mode = gear.mode(rig.settings(unit))
            doubtful = rig.settings(unit).get("tap") == NOT_KNOWN
            found += [
                _output(unit, gear, mode, tap, gear.stage_node(site, node), jacks, doubtful)
                for tap, node, jacks in gear.in_use(site)
            ]
        elif isinstance(gear, ReAmp) and gear.is_powered(rig.site(unit)):
            found.append(inner_output(unit, gear, float(rig.settings(unit)["volume"])))
    return tuple(found)


def inner_output(unit: str, gear: ReAmp, volume_db: float) -> Output:
    """A re-amplifier's inner amplifier at a volume (dB under full): a transistor amp that never exceeds its watts."""
    power = gear.inner_power * from_db_power(volume_db)
    return Output(
        amp=unit,
        tap=gear.inner_into,
        wanted=gear.inner_into,
        node=f"{unit}.out",
        jacks=("out",),
        label_power=power,
        flat_power=power,
        damping_factor=DAMPING_PRESETS["transistor"],
        permitted=(),
        is_source_of_voltage=True,
    )


def _output(
    unit: str, amp: Amp, mode: PowerMode, tap: Tap, node: str, jacks: tuple[str, ...], doubtful: bool
) -> Output:
    return Output(
        amp=unit,
        tap=tap.impedance,
        wanted=tap.impedance * mode.load_factor,
        node=f"{unit}.{node}",
        doubtful=doubtful,
        jacks=jacks,
        label_power=mode.power,
        flat_power=mode.power * amp.crank,
        damping_factor=amp.damping(),
        permitted=tap.permitted,
        is_source_of_voltage=amp.technology == "transistor",
    )


@per_rig
def nominal_network(rig: Rig) -> Network:
    """The speaker network by ratings: every curve its rated resistance, leads ideal."""
    elements: list[Element] = []
    joints: list[tuple[str, str]] = []
    for unit, gear in rig.units():
        key = (unit, rig.plugged(unit), *rig.settings(unit).values())
        if key not in rig.parts_kept:
            rig.parts_kept[key] = gear.parts(rig.site(unit))
        parts = rig.parts_kept[key]
        elements += parts.elements
        joints += parts.joints
    joints += [(node_of(link.a), node_of(link.b or link.a)) for link in rig.speaker_links]
    return Network(elements, joints, 1)


def real_network(rig: Rig, frequency: Real) -> Network:
    """The speaker network as it sounds: curves and leads at these frequencies (Hz)."""
    elements: list[Element] = []
    joints: list[tuple[str, str]] = []
    for unit, gear in rig.units():
        parts = gear.parts(rig.site(unit, frequency))
        elements += parts.elements
        joints += parts.joints
    for link in rig.speaker_links:
        elements += _lead_elements(rig, link, frequency)
    return Network(elements, joints, len(frequency))


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
    found = [Element(link.lead, "lead", a, b, np.full(len(frequency), ohms, np.complex128), Resistor(ohms))]
    if screened:
        across = np.asarray(1 / (2j * np.pi * frequency * SCREENED_FARADS_PER_METRE * screened), np.complex128)
        farads = SCREENED_FARADS_PER_METRE * screened
        found.append(Element(link.lead, "capacitance", b, GROUND, across, Capacitor(farads)))
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


@per_rig
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


@per_rig
def reachable(rig: Rig) -> tuple[Rig, ...]:
    """The rig with its level controls at each combination of positions they can reach."""
    return tuple(rig.moved(settings) for settings in level_positions(rig))


def _one_at_a_time(ends: list[tuple[Setting, ...]]) -> list[tuple[Setting, ...]]:
    """Too many knobs to try together: all low, all high, and each alone at its other end."""
    low, high = tuple(e[0] for e in ends), tuple(e[-1] for e in ends)
    single = [(*low[:i], high[i], *low[i + 1 :]) for i in range(len(ends))]
    return [low, high, *single, *[(*high[:i], low[i], *high[i + 1 :]) for i in range(len(ends))]]
