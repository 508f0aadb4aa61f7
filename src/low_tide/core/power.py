"""Who takes how much power: shares of the jack power in the nominal network, against ratings."""

from __future__ import annotations

from collections import defaultdict
from dataclasses import dataclass, replace
from math import inf, isfinite

import numpy as np

from low_tide.core.circuit import Output, node_of, nominal_network, outputs
from low_tide.core.gear import Attenuator, ReAmp
from low_tide.core.gear.base import Setting
from low_tide.core.hookup import Link, Rig, per_rig
from low_tide.core.joint import FLAT, IDLE_OVER_TAP, LABEL, PLAYED, Joint, RatedKey, solve
from low_tide.core.network import Network, NetworkError, input_impedance
from low_tide.core.units import db, figure
from low_tide.core.words import in_sentence, shown
from low_tide.core.worst_case import Reached, Worst, reached, worst


@dataclass(frozen=True)
class Seen:
    """What an output sees. `impedance` (Ω) is the nominal one, inf when open; `ratio` it over the wanted.

    `idle`: next to nothing hangs on this tap, and its amp does its work on another.
    """

    output: Output
    impedance: float
    ratio: float
    idle: bool = False


@dataclass(frozen=True)
class Share:
    """A unit, or one of its parts, against its rating; powers in W, margin in dB.

    `label`, `flat` and `played` (flat out for amps that are set to run so, the label of the others) are each the
    worst over the states that are reached; `at` says where that is when it is not here, and `moves` (unit, control,
    value) by what. `now` is flat out as set. `rating` None: not known. `assumed`: what of the rating nobody stated.
    """

    unit: str
    part: str
    now: float
    label: float
    flat: float
    played: float
    at: str
    rating: float | None
    rating_kind: str
    margin_db: float | None
    assumed: str = ""
    moves: tuple[tuple[str, str, Setting], ...] = ()


@per_rig
def seen_by(rig: Rig) -> tuple[Seen, ...]:
    """What every output in use sees in the nominal network."""
    net = nominal_network(rig)
    found = []
    for output in outputs(rig):
        z = input_impedance(net, output.node)[0]
        ohms = float(abs(z)) if isfinite(abs(z)) else float("inf")
        found.append(Seen(output, ohms, ohms / output.wanted))
    return tuple(replace(each, idle=_is_idle(each, found)) for each in found)


def _is_idle(seen: Seen, every: list[Seen]) -> bool:
    loaded = any(
        other.output.amp == seen.output.amp and other is not seen and other.impedance < IDLE_OVER_TAP * other.output.tap
        for other in every
    )
    return loaded and seen.impedance >= IDLE_OVER_TAP * seen.output.tap


def powers_of(rig: Rig, output: Output) -> dict[tuple[str, str], tuple[float, float]]:
    """Label and flat-out watts that one output puts into every part of every unit, as the nominal network shares it."""
    net = nominal_network(rig)
    found: dict[tuple[str, str], tuple[float, float]] = defaultdict(lambda: (0.0, 0.0))
    try:
        taken = net.powers(output.node)[0].tolist()
    except NetworkError:
        return {}
    whole = sum(taken)
    if whole <= 0:
        return {}
    label, flat = output.powers_into(1 / whole, any(s.idle for s in seen_by(rig) if s.output == output))
    for element, part in zip(net.elements, taken, strict=True):
        before, share = found[element.unit, element.part], part / whole
        if part > 0:
            found[element.unit, element.part] = (before[0] + share * label, before[1] + share * flat)
    return dict(found)


@per_rig
def powers(rig: Rig) -> dict[tuple[str, str], tuple[float, float]]:
    """Label and flat-out watts in every part of every unit, (unit, part) → (W, W), as set; several outputs add up."""
    total: dict[tuple[str, str], tuple[float, float]] = defaultdict(lambda: (0.0, 0.0))
    for output in outputs(rig):
        for part, (label, flat) in powers_of(rig, output).items():
            before = total[part]
            total[part] = (before[0] + label, before[1] + flat)
    return dict(total)


def downstream(rig: Rig, unit: str) -> frozenset[str]:
    """Units fed through this unit's speaker-level outputs, itself included.

    What a re-amplifier drives takes its power from the mains, not from the amp before it.
    """
    reach, todo = {unit}, [unit]
    while todo:
        here = todo.pop()
        if isinstance(rig.gear[here], ReAmp):
            continue
        for link in rig.speaker_links:
            for end, other in ((link.a, link.b), (link.b, link.a)):
                if end is None or other is None or end.unit != here or other.unit in reach:
                    continue
                if rig.socket(end).flow == "out" and rig.socket(other).flow == "in":
                    reach.add(other.unit)
                    todo.append(other.unit)
    return frozenset(reach)


def _where(rig: Rig, found: Worst) -> str:
    """'with Riprap 50 at −3 dB' for what was moved to get to a worst case; empty for as it is set."""
    said = []
    for unit, key, value in found.moves():
        gear, control = rig.gear[unit], rig.control(unit, key)
        assert control is not None
        if key == "step" and isinstance(gear, Attenuator):
            said.append(f"{gear.name} at −{figure(gear.decibels(value))} dB")
        else:
            said.append(f"{gear.name}, {in_sentence(control.label)} {shown(control, value)}")
    return "with " + ", ".join(said) if said else ""


def _share(rig: Rig, whole: Reached, key: RatedKey, switched: int) -> Share | None:
    """A rated thing at its worst; None where it gets nothing in any of those states."""
    rating = next(j.ratings[key] for j in whole.joints if key in j.ratings)

    def at_most(kind: int) -> Worst | None:
        return worst(whole, lambda j: j.watts[key][:, kind] if key in j.watts else np.zeros(len(j.index)), switched)

    at_label, flat_out, as_played = at_most(LABEL), at_most(FLAT), at_most(PLAYED)
    if at_label is None or flat_out is None or as_played is None or at_label.value <= 0:
        return None
    here = whole.as_set.watts[key][0] if key in whole.as_set.watts else np.zeros(3)
    margin = db(rating.watts / flat_out.value) if rating.watts else None
    return Share(
        unit=key[0],
        part=key[1],
        now=float(here[FLAT]),
        label=at_label.value,
        flat=flat_out.value,
        played=as_played.value,
        at=_where(rig, at_label),
        rating=rating.watts,
        rating_kind=rating.kind,
        margin_db=margin,
        assumed=rating.assumed,
        moves=at_label.moves(),
    )


@per_rig
def shares(rig: Rig) -> tuple[Share, ...]:
    """Everything rated in the speaker network against its rating, at the worst that steps, knobs and speaker switches
    reach together. In the order of the hook-up. Raises NetworkError."""
    return _in_order(rig, 0)


@per_rig
def switched_shares(rig: Rig) -> tuple[Share, ...]:
    """The same at the worst with one switch of another kind moved: each once, `moves` names the switch."""
    return _in_order(rig, 1)


def _in_order(rig: Rig, switched: int) -> tuple[Share, ...]:
    found = {
        key: share
        for whole in reached(rig)
        for key in whole.rated()
        if (share := _share(rig, whole, key, switched)) is not None
    }
    order = [unit for unit, _ in rig.units()]
    return tuple(sorted(found.values(), key=lambda s: order.index(s.unit)))


def _as_set(whole: Reached, leads: tuple[Link, ...]) -> Joint:
    tables = tuple(table[:1] for table in whole.as_set.tables)
    return solve(whole.speakers, tables, np.zeros((1, len(tables)), dtype=np.intp), leads)


@per_rig
def watts_through(rig: Rig) -> dict[str, float]:
    """Watts that go through every speaker lead flat out, as set: lead → W. Raises NetworkError."""
    joints = [_as_set(whole, whole.speakers.links) for whole in reached(rig)]
    return {lead: float(watts[0, FLAT]) for joint in joints for lead, watts in joint.through.items()}


@per_rig
def ohms_behind(rig: Rig) -> dict[str, float]:
    """What hangs behind every speaker lead by rated impedance, as set: lead → Ω. Raises NetworkError.

    R = V²/P of what goes through it, the least over the outputs that drive it; a lead that carries nothing is left out.
    """
    found: dict[str, float] = {}
    for whole in reached(rig):
        (batch,) = _as_set(whole, ()).batches
        for n, key in enumerate(batch.shape.outputs):
            watts = (batch.volts[n, 0] @ batch.shape.incidence.T) ** 2 * batch.siemens[0]
            for link in whole.speakers.links:
                at, carried = batch.shape.column(node_of(link.a)), batch.shape.through(link, batch.shape.node(key))
                power = float(watts @ carried)
                if at is not None and power > 0:
                    ohms = float(batch.volts[n, 0, at]) ** 2 / power
                    found[link.lead] = min(found.get(link.lead, inf), ohms)
    return found


def voltage_ratio(rig: Rig, output: Output, node: str, net: Network | None = None) -> float:
    """|V at `node`| over |V at the output's jack| in the nominal network; 0 where it does not reach."""
    net = net or nominal_network(rig)
    if net.find(node) == net.find(output.node):
        return 1.0
    if net.find(node) not in net.connected(output.node):
        return 0.0
    return float(np.abs(net.gain(node, output.node))[0])
