"""What a multimeter should show at the amp end of a speaker lead."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from low_tide.core.circuit.network import input_impedance
from low_tide.core.gear.base import DirectCurrent, least_known
from low_tide.core.inventory import Lead
from low_tide.core.power.speaker_network import node_of, nominal_network, real_network
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.words import shown
from low_tide.core.session.expected import Expected
from low_tide.core.units import figure, in_ohms

METER_TOLERANCE, METER_OHMS = 0.15, 0.5
"""A meter reading further off than this part, or these Ω where they are more, is a stop where the coils are known, and
looked at where they are typical: something else hangs on the lead. Probes alone have 0.3 Ω."""
FAR_TOLERANCE, FAR_OHMS = 0.4, 0.7
"""Off by this part, or these Ω where they are more, no typical coil explains it, and it is a stop as well."""
RATED_SPAN = (0.6, 1.1)
"""Direct current sees this part of the rated impedance, where nothing better is known."""


@dataclass(frozen=True)
class MeterOhms:
    """What a multimeter should show: about `ohms`, from `low` to `high`. `known`: how well that is known.

    `behind`: the units that the plug leads to.
    """

    ohms: float
    low: float
    high: float
    known: DirectCurrent
    behind: tuple[str, ...] = ()


def meter_ohms(rig: Rig, link: Link, amp_end: End) -> MeterOhms | None:
    """What a multimeter should show at this lead's unplugged amp end; None when it hangs free.

    It measures with direct current, so the coils' own resistance through their wiring, never what a curve dips to.
    """
    far = link.b if link.a == amp_end else link.a
    if far is None:
        return None
    links = tuple(Link(k.lead, far) if k is link else k for k in rig.hookup.links)
    unplugged = Rig(replace(rig.hookup, links=links), rig.gear)
    nominal = nominal_network(unplugged)
    reach = nominal.connected(node_of(far))
    found = {e.unit for e, pair in zip(nominal.elements, nominal.ends, strict=True) if set(pair) & reach}
    behind = tuple(sorted(found))
    known = least_known(rig.gear[u].direct_current() for u in behind)
    conductor = rig.conductor(link)
    lead = conductor.resistance() if isinstance(conductor, Lead) else 0.02
    if known == "unknown":
        rated = float(abs(input_impedance(nominal, node_of(far))[0]))
        low, high = (part * rated + lead for part in RATED_SPAN)
        return MeterOhms(rated, low, high, known, behind)
    near_dc = np.array([1e-3])
    ohms = float(abs(input_impedance(real_network(unplugged, near_dc), node_of(far))[0])) + lead
    off = max(METER_TOLERANCE * ohms, METER_OHMS)
    return MeterOhms(ohms, max(0.0, ohms - off), ohms + off, known, behind)


def _far(found: MeterOhms) -> tuple[float, float]:
    """Outside of these it is a stop, Ω."""
    if found.known != "typical":
        return found.low, found.high
    off = max(FAR_TOLERANCE * found.ohms, FAR_OHMS)
    return max(0.0, found.ohms - off), found.ohms + off


def meter_words(found: MeterOhms) -> str:
    """What is expected, and what to do where it is not met."""
    span = f"{in_ohms(found.low)} or over {in_ohms(found.high)}"
    if found.known == "unknown":
        return (
            f"between {figure(found.low)} and {in_ohms(found.high)} on a multimeter, for {in_ohms(found.ohms)} rated:"
            " the coil's own resistance is not known. Outside that: stop"
        )
    if found.known == "typical":
        low, high = _far(found)
        return (
            f"about {in_ohms(found.ohms)} on a multimeter, from a typical coil. Under {span}: look first; under"
            f" {in_ohms(low)} or over {in_ohms(high)}: stop"
        )
    return f"about {in_ohms(found.ohms)} on a multimeter. Under {span}: stop"


def meter_expected(rig: Rig, found: MeterOhms) -> Expected:
    """The same as bounds for a reading. It is kept for the unit where a single one hangs behind the plug."""
    of = found.behind[0] if len(found.behind) == 1 else ""
    low, high = _far(found)
    return Expected("ohms", found.ohms, found.low, found.high, low, high, of, _state(rig, of) if of else "")


def _state(rig: Rig, unit: str) -> str:
    """How a unit's speaker side is set, since its ohms follow from that."""
    said = [
        f"{control.label} {shown(control, rig.settings(unit)[control.id])}"
        for control in rig.gear[unit].controls()
        if control.affects == "speaker" and not control.folded
    ]
    return "; ".join([*said, *sorted(rig.plugged(unit))])
