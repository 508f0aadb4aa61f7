"""The way from speaker level to the converter: peak levels at every line-level point."""

from __future__ import annotations

from dataclasses import dataclass
from math import sqrt

from low_tide.core.amplifier import peak_voltage
from low_tide.core.circuit import Output, outputs, reachable
from low_tide.core.gear import Amp, Cabinet, Interface, Load
from low_tide.core.gear.attenuator import Attenuator
from low_tide.core.gear.interface import UNKNOWN_ABSOLUTE_OVER_FULL_SCALE_DB, Input
from low_tide.core.gear.line_out import LineOut
from low_tide.core.hookup import End, Link, Rig
from low_tide.core.network import Network
from low_tide.core.power import fed_by, voltage_ratio
from low_tide.core.units import dbu, from_db_voltage

REACTIVE_PEAK_FACTOR = 1.25
DAMAGE_PEAK_FACTOR = 3.0
"""Inductive flyback in an overdriven output stage reaches 2.5 to 4.5 times the clean peak."""

WINDOW_DBFS = (-18.0, -6.0)
TARGET_DBFS = -12.0


@dataclass(frozen=True)
class LinePoint:
    """Level at one input of an interface. Peaks in V and dBu (of the sine with that peak), and dBFS.

    `dbfs` None: cannot be computed from what is known, `why` says so. `damage_dbu` is the level at the
    flyback factor, at the worst position that attenuators before the tap can reach. It is to be held
    against `absolute_max` (dBu), which may be an assumption.
    """

    source: End
    input: End
    lead: str
    peak_v: float
    peak_dbu: float
    dbfs: float | None
    damage_dbu: float
    absolute_max: float
    absolute_assumed: bool
    limited: bool
    why: str = ""


def line_out_of(rig: Rig, unit: str) -> LineOut | None:
    """The unit's line output, if it has one."""
    gear = rig.gear[unit]
    return None if isinstance(gear, Cabinet | Interface) else getattr(gear, "line_out", None)


def tapped_node(rig: Rig, unit: str, output: Output | None = None) -> str:
    """The speaker-level node a unit's line output takes its signal from."""
    return output.node if output and output.amp == unit else f"{unit}.in"


def line_links(rig: Rig) -> tuple[tuple[Link, End, End], ...]:
    """Leads from a line output to an interface input: (lead, output end, input end)."""
    found = []
    for link in rig.hookup.links:
        if link.b is None:
            continue
        for source, target in ((link.a, link.b), (link.b, link.a)):
            if (
                source.socket == "line"
                and isinstance(rig.gear[target.unit], Interface)
                and line_out_of(rig, source.unit)
            ):
                found.append((link, source, target))
    return tuple(found)


def input_gain_db(rig: Rig, end: End, each: Input) -> float:
    """Gain above the least, pad included, in dB, as the input is set."""
    settings = rig.settings(end.unit)
    gain = float(settings.get(f"{end.socket}.gain", each.least_gain)) - each.least_gain
    return gain - (each.pad or 0.0) * bool(settings.get(f"{end.socket}.pad", False))


def is_reactive(rig: Rig, net: Network, output: Output) -> bool:
    """Whether a speaker or a reactive load hangs on this output."""
    reach = net.connected(output.node)
    return any(
        net.find(e.a) in reach
        and (isinstance(g := rig.gear.get(e.unit), Cabinet) or getattr(g, "behaviour", "") == "reactive")
        for e in net.elements
        if isinstance(rig.gear.get(e.unit), Cabinet | Load | Attenuator)
    )


def line_points(rig: Rig, net: Network) -> tuple[LinePoint, ...]:
    """Peak level at every interface input that a line output feeds. Uses the nominal network for shares."""
    return tuple(_point(rig, net, *each) for each in line_links(rig))


def _point(rig: Rig, net: Network, link: Link, source: End, target: End) -> LinePoint:
    line = line_out_of(rig, source.unit)
    gear = rig.gear[target.unit]
    assert line is not None
    assert isinstance(gear, Interface)
    each = gear.input(target.socket)
    assumed = each.absolute_max is None
    absolute = each.max_level + UNKNOWN_ABSOLUTE_OVER_FULL_SCALE_DB if each.absolute_max is None else each.absolute_max
    own = isinstance(rig.gear[source.unit], Amp)
    node = tapped_node(rig, source.unit)
    feeding = tuple(o for o in fed_by_amp(rig, source.unit)) if own else fed_by(rig, net, node)
    why = ""
    if line.origin == "preamp":
        why = "this output lies before the power stage; its level is not known"
    elif not feeding:
        why = "no amp feeds this output"
    normal = damage = 0.0
    for output in feeding:
        tapped = tapped_node(rig, source.unit, output)
        ratio = voltage_ratio(rig, output, tapped, net)
        # A hand can put an attenuator before the tap to any of its positions: damage counts the worst.
        reach = max([ratio, *(voltage_ratio(other, output, tapped) for other in reachable(rig))])
        k = REACTIVE_PEAK_FACTOR if is_reactive(rig, net, output) else 1.0
        args = (output.label_power, output.flat_power, output.tap)
        normal = max(normal, ratio * peak_voltage(*args, k))
        damage = max(damage, reach * peak_voltage(*args, DAMAGE_PEAK_FACTOR))
    gain = from_db_voltage(line.gain_db(rig.settings(source.unit)))
    divider = each.impedance / (each.impedance + line.source_impedance)
    bound = line.limiter_v if line.limiter_v is not None else float("inf")
    peak, worst = (min(v * gain, bound) * divider for v in (normal, damage))
    known = not why and peak > 0
    level = dbu(peak / sqrt(2)) if known else float("-inf")
    return LinePoint(
        source=source,
        input=target,
        lead=link.lead,
        peak_v=peak,
        peak_dbu=level,
        dbfs=level - each.max_level + input_gain_db(rig, target, each) if known else None,
        damage_dbu=dbu(worst / sqrt(2)) if worst > 0 else float("-inf"),
        absolute_max=absolute,
        absolute_assumed=assumed,
        limited=known and normal * gain > bound,
        why=why or ("" if known else "nothing reaches this output"),
    )


def fed_by_amp(rig: Rig, amp: str) -> tuple[Output, ...]:
    """The outputs in use of one amp."""
    return tuple(o for o in outputs(rig) if o.amp == amp)
