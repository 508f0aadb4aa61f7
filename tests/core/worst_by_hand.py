"""Every joint state of a small speaker network, one after the other, by dense nodal analysis: what the rules say.

Nothing of the program's own networks, states or powers is used here, only what the gear's records say.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import product

import numpy as np

from low_tide.core.inventory import Amp, Attenuator, Cabinet, Load, ReAmp, Switcher, TapBox
from low_tide.core.rig.rig import Rig

NOTHING = 1e-12
GROUND = "ground"


@dataclass(frozen=True)
class Drive:
    """A power stage: the socket it drives, the ohms it wants, watts at label and as played, and whether it is V = E."""

    unit: str
    node: str
    wanted: float
    rated: float
    label: float
    played: float
    steady: bool


def positions(rig: Rig, unit: str) -> Iterator[tuple[dict, int, int]]:
    """Settings of a unit a hand can bring it to, how many switches of other kinds than knobs were moved, and how many
    controls in all."""
    gear, now = rig.gear[unit], dict(rig.settings(unit))
    choices: dict[str, tuple[list, bool]] = {}
    if isinstance(gear, Attenuator):
        steps = [f"{s:g}" for s in gear.steps] if gear.steps else list(np.linspace(gear.lowest, gear.highest, 400))
        choices["step"] = (steps, False)
        if gear.bypass:
            choices["bypass"] = ([False, True], True)
        if gear.mute != "none":
            choices["mute"] = ([False, True], True)
    elif isinstance(gear, ReAmp):
        choices = {"volume": ([0.0], False), "mains": ([False, True], True)}
    elif isinstance(gear, Switcher):
        if gear.inputs > 1:
            choices["input"] = ([str(i + 1) for i in range(gear.inputs)], False)
        outs = [str(i + 1) for i in range(gear.outputs)] + (["all"] if gear.together and gear.outputs > 1 else [])
        if len(outs) > 1:
            choices["output"] = (outs, False)
    elif isinstance(gear, Load) and len(gear.impedances) > 1:
        choices["impedance"] = ([f"{z:g}" for z in gear.impedances], True)
    elif isinstance(gear, TapBox) and gear.load_ohms:
        choices["mode"] = (["bridging", "load"], True)
    elif isinstance(gear, Cabinet) and gear.jack_wiring == "mono_stereo":
        choices["halves"] = (["mono", "stereo"], True)
    elif isinstance(gear, Amp) and len(gear.modes) > 1:
        choices["mode"] = ([m.name for m in gear.modes if not m.technician], True)
    guarded = next(p.guarded for p in rig.hookup.units if p.unit == unit)
    plugged = {e.socket for k in rig.hookup.links for e in k.ends() if e.unit == unit}
    free = {c: v for c, v in choices.items() if c not in guarded and plugged}
    for combination in product(*([now[c], *(v for v in values if v != now[c])] for c, (values, _) in free.items())):
        there = {**now, **dict(zip(free, combination, strict=True))}
        away = [kind for c, (_, kind) in free.items() if there[c] != now[c]]
        yield there, sum(away), len(away)


def _pad(db: float, ohms: float) -> tuple[float, float]:
    k = 10 ** (db / 20)
    return ohms * (k - 1) / k, ohms / (k - 1)


def resistors(rig: Rig, unit: str, at: dict) -> Iterator[tuple[str, str, str, float]]:
    """Resistors inside a unit, (part, node, node, Ω); 0 Ω joins two nodes."""
    gear = rig.gear[unit]
    plugged = {e.socket for k in rig.hookup.links for e in k.ends() if e.unit == unit}
    if isinstance(gear, Load):
        ohms = float(at.get("impedance", gear.impedances[0]))
        if gear.through != "none":
            yield "through", "in", "through", 0.0
        if not (gear.through == "switching" and "through" in plugged):
            yield "load", "in", GROUND, ohms
    elif isinstance(gear, ReAmp):
        if at["mains"] or gear.load_needs_mains == "no":
            yield "load", "in", GROUND, gear.impedance
    elif isinstance(gear, TapBox):
        loaded = gear.load_ohms and at.get("mode") == "load"
        yield "load mode" if loaded else "input", "in", GROUND, gear.load_ohms if loaded else gear.bridging_impedance
        if gear.through:
            yield "through", "in", "through", 0.0
    elif isinstance(gear, Attenuator):
        if at.get("mute"):
            if gear.mute == "loaded":
                yield "silent", "in", GROUND, gear.impedance
        elif at.get("bypass") or float(at["step"]) == 0:
            yield "bypass", "in", "out", 0.0
        else:
            series, shunt = _pad(float(at["step"]), gear.impedance)
            yield "series", "in", "out", series
            yield "shunt", "out", GROUND, shunt
    elif isinstance(gear, Switcher):
        chosen = at.get("output", "1")
        outs = range(1, gear.outputs + 1) if chosen == "all" else (int(chosen),)
        for out in outs:
            yield "way", f"in{at.get('input', '1')}", f"out{out}", 0.0
        for i in range(1, gear.inputs + 1):
            if str(i) != at.get("input", "1") and gear.idle == "loaded":
                yield f"idle load {i}", f"in{i}", GROUND, gear.idle_ohms
    elif isinstance(gear, Cabinet):
        yield from _drivers(gear, at, plugged)
    elif isinstance(gear, Amp):
        mode = next((m for m in gear.modes if m.name == at.get("mode")), gear.modes[0])
        assert gear.tap_choice == "selector"
        jacks = max(t.jacks for t in gear.taps)
        for i in range(1, jacks + 1):
            yield "jack", "tap", f"out{i}", 0.0
        if mode.attenuation:
            tap = float(at.get("tap", gear.taps[0].impedance))
            series, shunt = _pad(mode.attenuation, tap)
            yield "series", "stage", "tap", series
            yield "shunt", "tap", GROUND, shunt


def _drivers(cab: Cabinet, at: dict, plugged: set[str]) -> Iterator[tuple[str, str, str, float]]:
    count = len(cab.drivers)
    halves = cab.jack_wiring in ("separate", "mono_stereo")
    apart = cab.jack_wiring == "separate" or at.get("halves") == "stereo"
    groups = [(list(range(count)), "in1", "in2" if cab.jack_wiring == "series" and "in2" in plugged else GROUND)]
    if halves:
        left, right = list(range(count // 2)), list(range(count // 2, count))
        groups = [(left, "in1", GROUND), (right, "in2", GROUND)]
        if not apart:
            joined = [(left, "in1", "middle"), (right, "middle", GROUND)]
            groups = joined if cab.mono_joins == "series" else [(left, "in1", GROUND), (right, "in1", GROUND)]
    for who, above, below in groups:
        chain = who if cab.wiring == "series" else None
        for place, i in enumerate(who):
            top = above if chain is None or place == 0 else f"after{who[place - 1]}"
            bottom = below if chain is None or place == len(who) - 1 else f"after{i}"
            yield f"driver {i + 1}", top, bottom, cab.drivers[i].impedance
    if (cab.jack_wiring in ("parallel", "unknown") or (halves and not apart)) and cab.jacks > 1:
        yield "jacks", "in1", "in2", 0.0


def drives(rig: Rig, unit: str, at: dict) -> Iterator[Drive]:
    gear = rig.gear[unit]
    if isinstance(gear, Amp):
        mode = next((m for m in gear.modes if m.name == at.get("mode")), gear.modes[0])
        tap = float(at.get("tap", gear.taps[0].impedance))
        steady = gear.technology in ("transistor", "hybrid")
        label = mode.power * (10 ** (mode.attenuation / 10) if mode.label_counts == "after" else 1)
        flat = label * (1 if steady else gear.crank)
        node = "stage" if mode.attenuation else "tap"
        yield Drive(unit, node, tap * mode.load_factor, tap, label, flat if at["flat_out"] else label, steady)
    elif isinstance(gear, ReAmp) and at["mains"]:
        watts = gear.inner_power * 10 ** (at["volume"] / 10)
        yield Drive(unit, "out", gear.inner_into, gear.inner_into, watts, watts, True)


@dataclass(frozen=True)
class State:
    """One joint state: what each stage sees, and label and played watts by unit and part; what was moved for it."""

    switched: int
    moved: int
    sees: dict[str, tuple[float, float]]
    watts: dict[tuple[str, str], tuple[float, float]]


def states(rig: Rig) -> Iterator[State]:
    """All joint states with at most one switch of other kinds moved."""
    units = [p.unit for p in rig.hookup.units]
    for each in product(*(list(positions(rig, u)) for u in units)):
        switched, moved = sum(n for _, n, _ in each), sum(n for _, _, n in each)
        if switched <= 1:
            yield solved(rig, {u: at for u, (at, _, _) in zip(units, each, strict=True)}, switched, moved)


def solved(rig: Rig, at: dict[str, dict], switched: int, moved: int) -> State:
    """One joint state."""
    found = [
        (unit, part, f"{unit}.{a}" if a != GROUND else a, f"{unit}.{b}" if b != GROUND else b, ohms)
        for unit, settings in at.items()
        for part, a, b, ohms in resistors(rig, unit, settings)
    ]
    leads = [(f"{k.a.unit}.{k.a.socket}", f"{k.b.unit}.{k.b.socket}") for k in rig.speaker_links if k.b]
    joins = leads + [(a, b) for *_, a, b, ohms in found if ohms == 0]
    same: dict[str, str] = {}

    def root(node: str) -> str:
        while same.get(node, node) != node:
            node = same[node]
        return node

    for a, b in joins:
        if root(a) != root(b):
            same[root(a)] = root(b)
    real = [(u, p, root(a), root(b), ohms) for u, p, a, b, ohms in found if ohms > 0]
    stages = [d for unit, settings in at.items() for d in drives(rig, unit, settings)]
    nodes = sorted({n for *_, a, b, _ in real for n in (a, b)} | {root(f"{d.unit}.{d.node}") for d in stages})
    index = {n: i for i, n in enumerate(n for n in nodes if n != root(GROUND))}
    y = np.eye(len(index)) * NOTHING
    for *_, a, b, ohms in real:
        for n in (a, b):
            if n in index:
                y[index[n], index[n]] += 1 / ohms
        if a in index and b in index:
            y[index[a], index[b]] -= 1 / ohms
            y[index[b], index[a]] -= 1 / ohms
    z = np.linalg.inv(y)
    sees, watts = {}, {}
    for d in stages:
        node = root(f"{d.unit}.{d.node}")
        if node not in index:
            sees[d.unit] = (0.0, d.wanted)
            continue
        ohms = z[index[node], index[node]]
        sees[d.unit] = (np.inf if ohms > 1e8 else ohms, d.wanted)
        if ohms > 1e8:
            continue
        volts = z[:, index[node]] / ohms
        factor = d.rated / ohms if d.steady else 1.0
        for unit, part, a, b, r in real:
            v = (volts[index[a]] if a in index else 0.0) - (volts[index[b]] if b in index else 0.0)
            share = v * v / r * ohms * factor
            before = watts.get((unit, part), (0.0, 0.0))
            watts[unit, part] = (before[0] + share * d.label, before[1] + share * d.played)
    return State(switched, moved, sees, watts)


def ratings(rig: Rig) -> Iterator[tuple[str, set[str] | None, float | None, bool]]:
    """What has a rating, by the records: unit, the parts that count (None: all), watts, whether they are continuous."""
    for unit, gear in rig.units():
        if isinstance(gear, Load | Attenuator | ReAmp):
            yield unit, None, gear.rating, gear.rating_kind == "continuous"
        elif isinstance(gear, TapBox):
            yield unit, {"load mode"}, gear.load_watts, True
        elif isinstance(gear, Switcher) and gear.idle == "loaded":
            for i in range(1, gear.inputs + 1):
                yield unit, {f"idle load {i}"}, gear.idle_rating, True
        elif isinstance(gear, Cabinet):
            if gear.rating is not None:
                yield unit, None, gear.rating, True
            for i, driver in enumerate(gear.drivers):
                if driver.rating is not None or gear.rating is None:
                    yield unit, {f"driver {i + 1}"}, driver.rating, True


def overloaded(rig: Rig, state: State) -> bool:
    """Whether something rated gets more than it stands in a state, by the label or as it is played; a hair aside."""
    for unit, parts, rating, continuous in ratings(rig):
        own = [w for (u, p), w in state.watts.items() if u == unit and (parts is None or p in parts)]
        label, played = sum(a for a, _ in own), sum(b for _, b in own)
        if rating is not None and (label > rating * 1.001 or (continuous and played > rating * 1.001)):
            return True
    return False


def mismatched(rig: Rig, state: State, school: str) -> bool:
    """Whether an amp sees what is a stop: in the exact school as it is set, in every school one movement away."""
    for unit, (ohms, wanted) in state.sees.items():
        gear, ratio = rig.gear[unit], ohms / wanted
        if isinstance(gear, ReAmp):
            if 0 < ohms < (gear.inner_minimum or 0) * 0.99:
                return True
        elif isinstance(gear, Amp) and gear.technology == "transistor":
            if ratio < 0.099 or ohms < (gear.minimum_load or 0) * 0.99:
                return True
        elif ratio > (1.51 if school == "exact" else 2.01) or ratio < (0.78 if school == "exact" else 0.495):
            return True
    return False
