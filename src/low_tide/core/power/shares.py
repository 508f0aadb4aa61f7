"""Who takes how much power: shares of the jack power in the nominal network, against ratings."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from math import inf, isfinite
from typing import TypeAlias

import numpy as np

from low_tide.core.circuit.network import Network, NetworkError, input_impedance
from low_tide.core.inventory import Attenuator, ReAmp
from low_tide.core.power.joint_states import FLAT, LABEL, PLAYED, is_idle
from low_tide.core.power.speaker_network import Output, node_of, nominal_network, outputs
from low_tide.core.power.worst_case import ROUNDING, Among, Reached, Worst, moved_by, reached, turned, worst_watts
from low_tide.core.rig.changes import SetControl
from low_tide.core.rig.doubts import doubted
from low_tide.core.rig.kept import kept
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.words import in_sentence, shown
from low_tide.core.units import db, in_db_down


@dataclass(frozen=True)
class Seen:
    """What an output sees. `impedance` (Ω) is the nominal one, inf when open; `ratio` it over the wanted.

    `idle`: next to nothing hangs on this tap, and its amp does its work on another.
    """

    output: Output
    impedance: float
    idle: bool = False

    @property
    def ratio(self) -> float:
        """What is seen over what is wanted."""
        return self.impedance / self.output.wanted


@dataclass(frozen=True)
class Share:
    """A unit, or one of its parts, against its rating; powers in W, margin in dB.

    `label`, `flat` and `played` (flat out for amps that are set to run so, the label of the others) are each the
    worst over the states that are reached; `at` says where that is when it is not here, and `moves` by
    what. `now` is flat out as set. `rating` None: not known. `assumed`: what of the rating nobody stated.
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
    moves: tuple[SetControl, ...] = ()


@kept(nominal_network, outputs)
def seen_by(rig: Rig) -> tuple[Seen, ...]:
    """What every output in use sees in the nominal network."""
    net = nominal_network(rig)
    found = []
    for output in outputs(rig):
        z = input_impedance(net, output.node)[0]
        ohms = float(abs(z)) if isfinite(abs(z)) else float("inf")
        found.append(Seen(output, ohms))
    return tuple(replace(each, idle=_is_idle(each, found)) for each in found)


def _is_idle(seen: Seen, every: list[Seen]) -> bool:
    others = (s for s in every if s is not seen and s.output.amp == seen.output.amp)
    each = ((np.array([s.impedance]), np.array([s.output.tap])) for s in others)
    return bool(is_idle(np.array([seen.impedance]), np.array([seen.output.tap]), each)[0])


Watts: TypeAlias = dict[tuple[str, str], tuple[float, float]]
"""Label and flat-out watts by unit and part."""


@kept(nominal_network, outputs, seen_by)
def _by_output(rig: Rig) -> dict[Output, Watts]:
    """What outputs put where, of those that were asked for."""
    return {}


def powers_of(rig: Rig, output: Output) -> Watts:
    """Label and flat-out watts that one output puts into every part of every unit, as the nominal network shares it."""
    found = _by_output(rig)
    if output not in found:
        found[output] = _shared_out(rig, output)
    return found[output]


def _shared_out(rig: Rig, output: Output) -> Watts:
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


@kept(outputs, seen_by)
def powers(rig: Rig) -> Watts:
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
    for move in found.moves():
        gear, control = rig.gear[move.unit], rig.control(move.unit, move.control)
        assert control is not None
        if control.id == "step" and isinstance(gear, Attenuator) and not gear.has_unknown():
            said.append(f"{gear.name} at {in_db_down(gear.decibels(move.value))}")
        else:
            said.append(f"{gear.name}, {in_sentence(control.label)} {shown(control, move.value)}")
    return "with " + ", ".join(said) if said else ""


def shares_over(rig: Rig, whole: Reached, among: Among, said: bool = True) -> Iterator[Share]:
    """Everything rated in one speaker network at its worst over some states; what gets nothing there is left out.

    `said`: whether it is put into words where that is.
    """
    for key, (watts, at_label) in worst_watts(whole, among).items():
        rating = next(j.ratings[key] for j in whole.joints if key in j.ratings)
        if watts[LABEL] <= 0:
            continue
        yield Share(
            unit=key[0],
            part=key[1],
            now=float(whole.as_set.watts_of(key)[0, FLAT]),
            label=float(watts[LABEL]),
            flat=float(watts[FLAT]),
            played=float(watts[PLAYED]),
            at=_where(rig, at_label) if said else "",
            rating=rating.watts,
            rating_kind=rating.kind,
            margin_db=db(rating.watts / float(watts[FLAT])) if rating.watts else None,
            assumed=rating.assumed,
            moves=at_label.moves(),
        )


def _worst_of(ways: tuple[tuple[Share, ...], ...]) -> tuple[Share, ...]:
    """Everything rated at the greatest of several ways it may be; `now` is by the first, and so is the order."""
    found: dict[tuple[str, str], Share] = {}
    as_set = {(s.unit, s.part): s.now for s in ways[0]}
    for share in (s for way in ways for s in way):
        before = found.setdefault((share.unit, share.part), share)
        more = share if share.label > before.label * (1 + ROUNDING) else before
        found[share.unit, share.part] = replace(
            more,
            now=as_set.get((share.unit, share.part), 0.0),
            flat=max(share.flat, before.flat),
            played=max(share.played, before.played),
            margin_db=min((s.margin_db for s in (share, before) if s.margin_db is not None), default=None),
        )
    return tuple(found.values())


@kept(reached)
def shares(rig: Rig) -> tuple[Share, ...]:
    """Everything rated in the speaker network against its rating, at the worst that steps, knobs and speaker switches
    reach together, and at the worst of what is doubted. In the order of the hook-up. Raises NetworkError."""
    own = _in_order(rig, (s for whole in reached(rig) for s in shares_over(rig, whole, turned)))
    doubts = doubted(rig)
    return _worst_of((own, *(shares(there) for there in doubts))) if doubts else own


@kept(reached)
def switched_shares(rig: Rig) -> tuple[Share, ...]:
    """The same at the worst with one switch of another kind moved besides, for every such switch; `moves` names it."""
    return _in_order(
        rig,
        (
            s
            for whole in reached(rig)
            for move in whole.switches()
            for s in shares_over(rig, whole, moved_by(*move), said=False)
        ),
    )


def _in_order(rig: Rig, found: Iterable[Share]) -> tuple[Share, ...]:
    order = [unit for unit, _ in rig.units()]
    return tuple(sorted(found, key=lambda s: order.index(s.unit)))


@dataclass(frozen=True)
class Carried:
    """What goes through a speaker lead as it is set: W flat out, and by rated impedance the Ω that hang behind it."""

    watts: float
    ohms: float


@kept(reached)
def carried(rig: Rig) -> dict[str, Carried]:
    """What goes through every speaker lead, by its id; one that carries nothing is left out. Raises NetworkError.

    Watts add up over the outputs that drive it; R = V²/P, the least over them.
    """
    found: dict[str, Carried] = {}
    for whole in reached(rig):
        joint = whole.as_set
        batch, at = joint.at(0)
        for n, key in enumerate(batch.shape.outputs):
            each = (batch.volts[n, at] @ batch.shape.incidence.T) ** 2 * batch.siemens[at]
            flat, everything = float(joint.slots[key].powers()[0, FLAT]), float(each.sum())
            for link in whole.speakers.links:
                node = batch.shape.column(node_of(link.a))
                power = float(each @ batch.shape.through(link, batch.shape.node(key)))
                if node is None or power <= 0:
                    continue
                before = found.get(link.lead, Carried(0.0, inf))
                ohms = float(batch.volts[n, at, node]) ** 2 / power
                found[link.lead] = Carried(before.watts + flat * power / everything, min(before.ohms, ohms))
    return found


def voltage_ratio(rig: Rig, output: Output, node: str, net: Network | None = None) -> float:
    """|V at `node`| over |V at the output's jack| in the nominal network; 0 where it does not reach."""
    net = net or nominal_network(rig)
    if net.find(node) == net.find(output.node):
        return 1.0
    if net.find(node) not in net.connected(output.node):
        return 0.0
    return float(np.abs(net.gain(node, output.node))[0])
