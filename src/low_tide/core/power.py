"""Who takes how much power: shares of the jack power in the nominal network, against ratings."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping
from dataclasses import dataclass
from math import isfinite

import numpy as np

from low_tide.core.circuit import Output, level_positions, nominal_network, outputs, reachable
from low_tide.core.gear import Attenuator, Cabinet, Load, ReAmp, Switcher, TapBox
from low_tide.core.gear.base import Setting
from low_tide.core.hookup import Rig, per_rig
from low_tide.core.network import Network, NetworkError, input_impedance
from low_tide.core.units import db, figure


@dataclass(frozen=True)
class Seen:
    """What an output sees. `impedance` (Ω) is the nominal one, inf when open; `ratio` it over the wanted."""

    output: Output
    impedance: float
    ratio: float


@dataclass(frozen=True)
class Share:
    """A unit, or one of its parts, against its rating; powers in W, margin in dB.

    `label` and `flat` are the worst over every position the level controls reach, `at` says where that
    is when it is not here; `now` is flat out as set. `rating` None: not known.
    """

    unit: str
    part: str
    now: float
    label: float
    flat: float
    at: str
    rating: float | None
    rating_kind: str
    margin_db: float | None


@per_rig
def seen_by(rig: Rig) -> tuple[Seen, ...]:
    """What every output in use sees in the nominal network."""
    net = nominal_network(rig)
    found = []
    for output in outputs(rig):
        z = input_impedance(net, output.node)[0]
        ohms = float(abs(z)) if isfinite(abs(z)) else float("inf")
        found.append(Seen(output, ohms, ohms / output.wanted))
    return tuple(found)


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
    label, flat = output.powers_into(1 / whole)
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


@dataclass(frozen=True)
class _Rated:
    """A thing with a rating: which (unit, part) watts count against it."""

    unit: str
    part: str
    counts: tuple[tuple[str, str | None], ...]
    rating: float | None
    kind: str


def _rated(rig: Rig) -> list[_Rated]:
    found = []
    for unit, gear in rig.units():
        own: tuple[tuple[str, str | None], ...] = ((unit, None),)
        if isinstance(gear, Load | ReAmp):
            if not gear.load_is_out(rig.site(unit)):
                found.append(_Rated(unit, "", own, gear.rating, gear.rating_kind))
        elif isinstance(gear, Switcher):
            if gear.idle == "loaded":
                parts = [f"idle load {i + 1}" for i in range(gear.inputs)]
                found += [_Rated(unit, p, ((unit, p),), gear.idle_rating, "continuous") for p in parts]
        elif isinstance(gear, Attenuator):
            # A label rating speaks of the amp, so of all that goes in; continuous watts are heat in the box.
            whole = gear.rating_kind == "amp_label"
            fed = tuple((u, None) for u in sorted(downstream(rig, unit))) if whole else own
            found.append(_Rated(unit, "", fed, gear.rating, gear.rating_kind))
        elif isinstance(gear, TapBox):
            if gear.is_load(rig.site(unit)):
                found.append(_Rated(unit, "load mode", own, gear.load_watts, "continuous"))
        elif isinstance(gear, Cabinet):
            ratings = [d.rating for d in gear.drivers]
            if gear.rating is not None or None in ratings or len(ratings) == 1:
                rating = gear.rating if gear.rating is not None or len(ratings) > 1 else ratings[0]
                found.append(_Rated(unit, "", own, rating, "continuous"))
            if len(ratings) > 1:
                found += [
                    _Rated(unit, f"driver {i + 1}", ((unit, f"driver {i + 1}"),), r, "continuous")
                    for i, r in enumerate(ratings)
                    if r is not None
                ]
    return found


def _watts(rated: _Rated, taken: Mapping[tuple[str, str], tuple[float, float]]) -> tuple[float, float]:
    label = flat = 0.0
    for (unit, part), (a, b) in taken.items():
        if any(unit == u and (p is None or p == part) for u, p in rated.counts):
            label, flat = label + a, flat + b
    return label, flat


def _where(rig: Rig, moved: Mapping[str, Mapping[str, Setting]]) -> str:
    """'with Riprap 50 at −3 dB' for the positions that differ from how the rig is set."""
    said = []
    for unit, values in moved.items():
        changed = {k: v for k, v in values.items() if rig.settings(unit)[k] != v}
        if values.get("bypass"):
            if "bypass" in changed:
                said.append(f"{rig.name(unit)} bypassed")
            continue
        for key, value in changed.items():
            if key == "step":
                gear = rig.gear[unit]
                down = gear.decibels(value) if isinstance(gear, Attenuator) else float(value)
                said.append(f"{rig.name(unit)} at −{figure(down)} dB")
            elif key == "bypass":
                said.append(f"{rig.name(unit)} not bypassed")
    return "with " + ", ".join(said) if said else ""


@per_rig
def shares(rig: Rig) -> tuple[Share, ...]:
    """Every rated thing in the speaker network against its rating, worst position of the level controls."""
    now = powers(rig)
    if not now:
        return ()
    elsewhere = [(moved, powers(there)) for moved, there in zip(level_positions(rig), reachable(rig), strict=True)]
    found = []
    for rated in _rated(rig):
        here = _watts(rated, now)
        label, flat, at = here[0], here[1], ""
        for moved, taken in elsewhere:
            there = _watts(rated, taken)
            if there[0] > label * (1 + 1e-9):
                label, flat, at = there[0], there[1], _where(rig, moved)
        if label <= 0:
            continue
        margin = db(rated.rating / flat) if rated.rating else None
        found.append(Share(rated.unit, rated.part, here[1], label, flat, at, rated.rating, rated.kind, margin))
    return tuple(found)


def voltage_ratio(rig: Rig, output: Output, node: str, net: Network | None = None) -> float:
    """|V at `node`| over |V at the output's jack| in the nominal network; 0 where it does not reach."""
    net = net or nominal_network(rig)
    if net.find(node) == net.find(output.node):
        return 1.0
    if net.find(node) not in net.connected(output.node):
        return 0.0
    return float(np.abs(net.gain(node, output.node))[0])
