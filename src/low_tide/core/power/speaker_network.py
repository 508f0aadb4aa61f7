"""From a rig to its speaker network, nominal or real, and the outputs that drive it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from low_tide.core.circuit.amplifier import DAMPING_PRESETS, source_voltage
from low_tide.core.circuit.cable import SCREENED_FARADS_PER_METRE, loop_resistance
from low_tide.core.circuit.elements import Capacitor, Resistor
from low_tide.core.circuit.network import GROUND, Element, Network, Source
from low_tide.core.frequency import Real
from low_tide.core.gear.amp import NOT_KNOWN, PowerMode, Tap
from low_tide.core.gear.base import Site
from low_tide.core.inventory import Amp, Cabinet, Lead, ReAmp, Unit
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.kept import kept
from low_tide.core.rig.rig import Rig
from low_tide.core.units import from_db_power

OWN_LEAD_AWG = 16
"""Gauge taken for the fixed lead inside a combo."""


@dataclass(frozen=True)
class Output:
    """One tap of one amp that drives the network: powers of the power stage in W, `tap` and `wanted` in Ω.

    `node` is where the power stage drives it: the tap, or the near side of a built-in attenuator. `doubtful`: the
    selector stands at a place nobody knows, and the tap is only the first of those it could be. `runs_flat_out`:
    the amp is set to be run so. `passed`: the part of its power that a built-in attenuator lets through to the jack.
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
    runs_flat_out: bool = False
    passed: float = 1.0

    @property
    def jack_label(self) -> float:
        """Label power (W) at the jack into the tap's own load."""
        return self.label_power * self.passed

    @property
    def jack_flat(self) -> float:
        """Flat-out power (W) there."""
        return self.flat_power * self.passed

    def powers_into(self, seen: float, idle: bool = False) -> tuple[float, float]:
        """Label and flat-out power (W) into `seen` Ω, as ratings count them.

        A valve amp gets no credit for a mismatch; a source of voltage gives P·R_label/R, and so does the `idle`
        tap of a transformer whose work is done on another.
        """
        if not (self.is_source_of_voltage or idle):
            return self.label_power, self.flat_power
        factor = self.tap / seen if 0 < seen < np.inf else 0.0
        return self.label_power * factor, self.flat_power * factor


def node_of(end: End) -> str:
    """The node of the speaker network that a socket is."""
    return f"{end.unit}.{end.socket}"


@kept("leads", "speaker")
def outputs(rig: Rig) -> tuple[Output, ...]:
    """Every tap in use of every amp, and the inner amplifier of every re-amplifier that is switched on."""
    return tuple(o for unit, gear in rig.units() for o in outputs_of(gear, rig.site(unit)))


def outputs_of(gear: Unit, site: Site) -> tuple[Output, ...]:
    """The outputs of one unit as it stands; none for what drives nothing."""
    if isinstance(gear, Amp):
        mode = gear.mode(site.settings)
        return tuple(
            _output(gear, site, mode, tap, gear.stage_node(site, node), jacks) for tap, node, jacks in gear.in_use(site)
        )
    if isinstance(gear, ReAmp) and gear.is_powered(site):
        return (inner_output(site.unit, gear, float(site.settings["volume"])),)
    return ()


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


def _output(amp: Amp, site: Site, mode: PowerMode, tap: Tap, node: str, jacks: tuple[str, ...]) -> Output:
    power = mode.stage_power()
    return Output(
        amp=site.unit,
        tap=tap.impedance,
        wanted=tap.impedance * mode.load_factor,
        node=site.node(node),
        jacks=jacks,
        label_power=power,
        flat_power=power * amp.flat_out_factor(),
        damping_factor=amp.damping(),
        permitted=tap.permitted,
        is_source_of_voltage=amp.is_source_of_voltage(),
        doubtful=site.settings.get("tap") == NOT_KNOWN,
        runs_flat_out=bool(site.settings.get("flat_out")),
        passed=mode.jack_power() / power,
    )


@kept("leads", "speaker")
def nominal_network(rig: Rig) -> Network:
    """The speaker network by ratings: every curve its rated resistance, leads ideal."""
    elements: list[Element] = []
    joints: list[tuple[str, str]] = []
    for unit, _ in rig.units():
        parts = rig.face(rig.site(unit)).parts
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
