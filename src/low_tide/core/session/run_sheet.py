"""The run sheet: steps for switching on, bringing up, capturing and switching off, made from this hook-up."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import groupby
from math import isfinite
from typing import Literal, TypeAlias

import numpy as np

from low_tide.core.circuit.network import input_impedance
from low_tide.core.gear.base import Control, DirectCurrent, least_known
from low_tide.core.inventory import Amp, Cabinet, Interface, Lead, ReAmp, TapBox
from low_tide.core.judging.checks.moves import tape
from low_tide.core.judging.slips import slips
from low_tide.core.loudness.sound_level import sound_levels, spread_words
from low_tide.core.power.shares import powers
from low_tide.core.power.speaker_network import node_of, nominal_network, outputs, real_network
from low_tide.core.power.warm_boxes import warm_boxes
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.words import in_sentence, shown
from low_tide.core.signal_path.levels import levels
from low_tide.core.units import figure, in_ohms, in_watts, level_figure

Phase: TypeAlias = Literal["before", "switch_on", "bring_up", "capture", "switch_off"]

PHASES: dict[str, str] = {
    "before": "Before switching on",
    "switch_on": "Switch on",
    "bring_up": "Bring it up",
    "capture": "Capture",
    "switch_off": "Switch off",
}

METER_TOLERANCE, METER_OHMS = 0.15, 0.5
"""A meter reading further off than this part, or these Ω where they are more, is a stop: something else hangs on the
lead. Probes alone have 0.3 Ω."""
RATED_SPAN = (0.6, 1.1)
"""Direct current sees this part of the rated impedance, where nothing better is known."""


@dataclass(frozen=True)
class Step:
    """One thing to do, and what should be seen. `id` changes with the words, so a tick never outlives them."""

    id: str
    phase: Phase
    text: str
    expect: str
    units: tuple[str, ...] = ()


def _step(phase: Phase, text: str, expect: str = "", units: tuple[str, ...] = ()) -> Step:
    digest = hashlib.sha256(f"{phase}|{text}|{expect}".encode()).hexdigest()[:12]
    return Step(digest, phase, text, expect, units)


@dataclass(frozen=True)
class MeterOhms:
    """What a multimeter should show: about `ohms`, from `low` to `high`. `known`: how well that is known."""

    ohms: float
    low: float
    high: float
    known: DirectCurrent


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
    behind = {e.unit for e, pair in zip(nominal.elements, nominal.ends, strict=True) if set(pair) & reach}
    known = least_known(rig.gear[u].direct_current() for u in behind)
    conductor = rig.conductor(link)
    lead = conductor.resistance() if isinstance(conductor, Lead) else 0.02
    if known == "unknown":
        rated = float(abs(input_impedance(nominal, node_of(far))[0]))
        low, high = (part * rated + lead for part in RATED_SPAN)
        return MeterOhms(rated, low, high, known)
    near_dc = np.array([1e-3])
    ohms = float(abs(input_impedance(real_network(unplugged, near_dc), node_of(far))[0])) + lead
    off = max(METER_TOLERANCE * ohms, METER_OHMS)
    return MeterOhms(ohms, max(0.0, ohms - off), ohms + off, known)


def meter_words(found: MeterOhms) -> str:
    """What is expected, and what to do where it is not met."""
    span = f"{in_ohms(found.low)} or over {in_ohms(found.high)}"
    if found.known == "unknown":
        return (
            f"between {figure(found.low)} and {in_ohms(found.high)} on a multimeter, for {in_ohms(found.ohms)} rated:"
            " the coil's own resistance is not known. Outside that: stop"
        )
    if found.known == "typical":
        return f"about {in_ohms(found.ohms)} on a multimeter, from a typical coil. Under {span}: look first"
    return f"about {in_ohms(found.ohms)} on a multimeter. Under {span}: stop"


def settings_in_use(rig: Rig) -> Iterator[tuple[str, Control, str]]:
    """Every setting that counts in a hook-up, and how it is said beside its unit's name: those of sockets nothing is
    plugged into are left out, and so is how an amp is played."""
    for unit, gear in rig.units():
        used = rig.plugged(unit)
        for control in gear.controls():
            socket = control.id.split(".")[0]
            if control.id == "flat_out" or control.folded or (isinstance(gear, Interface) and socket not in used):
                continue
            if control.id.startswith("line.") and "line" not in used:
                continue
            end = next((s for s in gear.sockets() if s.id == socket), None)
            where = f"{end.label} " if isinstance(gear, Interface) and end else ""
            value = shown(control, rig.settings(unit)[control.id])
            yield unit, control, f"{where}{in_sentence(control.label)} {value}"


def _settings(rig: Rig) -> Iterator[Step]:
    for unit, listed in groupby(settings_in_use(rig), key=lambda each: each[0]):
        yield _step("before", f"Set {rig.gear[unit].name}", "; ".join(said for _, _, said in listed), (unit,))


def _leads(rig: Rig) -> Iterator[Step]:
    for link in rig.hookup.links:
        name = rig.conductor(link).name
        if isinstance(rig.conductor(link), Cabinet):
            name = f"The own lead of {name}"
        far = rig.label(link.b) if link.b else "nothing"
        units = tuple(e.unit for e in link.ends())
        yield _step("before", f"{name}: {rig.label(link.a)} → {far}", "both plugs fully in", units)


def _meter(rig: Rig) -> Iterator[Step]:
    for link in rig.hookup.links:
        for end in link.ends():
            if not isinstance(rig.gear[end.unit], Amp) or rig.socket(end).level != "speaker":
                continue
            found = meter_ohms(rig, link, end)
            if found is None or not isfinite(found.ohms):
                continue
            name = rig.conductor(link).name
            yield _step(
                "before",
                f"Amp off: pull {name} out of {rig.label(end)}, measure at its plug, and put it back",
                meter_words(found),
                (end.unit,),
            )


def _guards(rig: Rig, preferences: Preferences | None) -> Iterator[Step]:
    """What keeps a single slip from becoming a stop, each guard once."""
    guards: dict[str, list[str]] = {}
    units: dict[str, tuple[str, ...]] = {}
    for slip in slips(rig, preferences):
        guards.setdefault(slip.guard, []).append(slip.stop)
        units[slip.guard] = (*units.get(slip.guard, ()), *slip.units)
    for guard, stops in guards.items():
        otherwise = "one slip, and: " + " ".join(dict.fromkeys(stops))
        yield _step("before", guard, otherwise, tuple(dict.fromkeys(units[guard])))


def _tapes(rig: Rig) -> Iterator[Step]:
    """What the hook-up counts on not to move."""
    for placed in rig.hookup.units:
        for key in placed.guarded:
            words = tape(rig, placed.unit, key).label
            yield _step("before", words, "it stays there when a sleeve brushes it", (placed.unit,))


def _before(rig: Rig, preferences: Preferences | None) -> Iterator[Step]:
    amps = [(u, a) for u, a in rig.amps()]
    for unit, amp in amps:
        yield _step("before", f"{amp.name} is off, its volume and master are down", "mains lamp dark", (unit,))
    yield from _leads(rig)
    yield from _meter(rig)
    yield from _settings(rig)
    yield from _tapes(rig)
    boxes = [(u, g) for u, g in rig.units() if g.kind in ("load", "attenuator")]
    for unit, gear in boxes:
        heat = sum(flat for (u, _), (_, flat) in powers(rig).items() if u == unit)
        if heat > 0.5:
            warm = f"up to about {in_watts(heat)} becomes heat in it"
            yield _step("before", f"Air all round {gear.name}, nothing on top", warm, (unit,))
    yield from _guards(rig, preferences)


def _switch_on(rig: Rig) -> Iterator[Step]:
    for unit, gear in rig.units():
        if isinstance(gear, TapBox) and gear.line_out.phantom == "needs":
            yield _step("switch_on", f"{gear.name} has its phantom power", "its lamp, if it has one", (unit,))
    for unit, gear in rig.units():
        if isinstance(gear, ReAmp) and rig.plugged(unit):
            expect = "its lamp lit and its relay heard, if it has one: only then the amp"
            yield _step("switch_on", f"{gear.name}: mains on, speaker volume down", expect, (unit,))
    for unit, amp in rig.amps():
        if amp.technology != "transistor":
            yield _step(
                "switch_on",
                f"{amp.name}: mains on, standby (if it has one) still on; let the valves warm",
                "about one minute; no crackle, no smell of heat",
                (unit,),
            )
            yield _step("switch_on", f"{amp.name}: standby off, volume still down", "quiet hiss", (unit,))
        else:
            yield _step("switch_on", f"{amp.name}: mains on, volume down", "quiet", (unit,))


def _bring_up(rig: Rig) -> Iterator[Step]:
    for unit, amp in rig.amps():
        driven = [c for u, c in rig.cabinets() if rig.plugged(u)]
        where = f"sound from {driven[0].name}" if driven else "signal on the meter, nothing in the room"
        yield _step("bring_up", f"Play softly, raise the volume of {amp.name} a little", where, (unit,))
        yield _step(
            "bring_up",
            f"{amp.name} up to the working level in small steps",
            "listen for crackle, cut-outs or a smell of heat: volume down and off if there is any",
            (unit,),
        )
    for output in outputs(rig):
        volts = (output.jack_label * output.tap) ** 0.5
        yield _step(
            "bring_up",
            f"{rig.name(output.amp)} at its label",
            f"about {in_watts(output.jack_label)}: {figure(volts)} V into its matched {in_ohms(output.tap)}",
            (output.amp,),
        )


def _heard(rig: Rig) -> Iterator[Step]:
    """What a sound level meter should show, at one's own ears and wherever a limit holds; and when a box must rest."""
    for h in sound_levels(rig):
        if h.dba is None or not (h.ears or h.limit):
            continue
        bound = f"; the limit is {figure(h.limit.level)} dBA from {h.limit.start}" if h.limit else ""
        about = "at most about" if h.at_most else "about"
        expect = f"{about} {figure(h.dba, 2)} dBA, {spread_words(h.spread)}{bound}"
        yield _step("bring_up", f"Sound level meter at {h.name}, A, slow", expect)
    for unit, box in warm_boxes(rig):
        if box is not None and isfinite(box.reaches_limit):
            yield _step(
                "bring_up",
                f"Feel for the warmth of {rig.name(unit)} with the back of a hand, and let it rest",
                f"about {figure(box.limit)} °C after {figure(box.reaches_limit, 2)} min of it; then"
                f" {figure(box.rest, 2)} min of rest. A hot case burns",
                (unit,),
            )


def _capture(rig: Rig) -> Iterator[Step]:
    for point in levels(rig).line_points:
        where = rig.label(point.input)
        if point.dbfs is None:
            yield _step("capture", f"Set the level at {where} by its meter", "peaks near −12 dBFS", (point.input.unit,))
            continue
        yield _step(
            "capture",
            f"Play the loudest part and watch {where}",
            f"peaks about {level_figure(point.dbfs)} dBFS (estimated), {level_figure(point.peak_dbu)} dBu at the line",
            (point.input.unit,),
        )
    yield _step("capture", "Record ten seconds and listen back", "no clipping, no hum, a speaker in the sound")
    yield _step("capture", "Write the controls down with the take", "in the Log, every knob that was moved")


def _switch_off(rig: Rig) -> Iterator[Step]:
    for unit, gear in rig.units():
        if isinstance(gear, Interface) and rig.plugged(unit):
            yield _step("switch_off", f"Turn down monitors and the gain of {gear.name}", "no thump later", (unit,))
    for unit, amp in rig.amps():
        how = "volume down, standby on, mains off" if amp.technology != "transistor" else "volume down, mains off"
        yield _step("switch_off", f"{amp.name}: {how}", "mains lamp dark", (unit,))
    for unit, gear in rig.units():
        if isinstance(gear, ReAmp) and rig.plugged(unit):
            yield _step("switch_off", f"{gear.name}: mains off, after the amp", "its load may go with it", (unit,))
    yield _step(
        "switch_off",
        "Leave the load plugged in until the lamps are dark",
        "boxes stay hot for a while; do not cover them",
    )


def run_sheet(rig: Rig, preferences: Preferences | None = None) -> tuple[Step, ...]:
    """All steps in order. Amps are needed: without one there is nothing to switch on and the sheet is empty."""
    if not any(rig.amps()):
        return ()
    return (
        *_before(rig, preferences),
        *_switch_on(rig),
        *_bring_up(rig),
        *_heard(rig),
        *_capture(rig),
        *_switch_off(rig),
    )
