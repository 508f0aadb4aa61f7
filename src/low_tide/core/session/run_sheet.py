"""The run sheet: steps from what stands, or from nothing, to a hook-up that plays, by its own numbers, and off."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import groupby
from math import isfinite

from low_tide.core.acoustics.exposure import NO_ALLOWANCE_DBA, duration
from low_tide.core.inventory import Amp, Interface, ReAmp, TapBox
from low_tide.core.judging.checks.moves import tape
from low_tide.core.judging.slips import slips
from low_tide.core.loudness.sound_level import SoundLevel, sound_levels, spread_words
from low_tide.core.power.shares import powers
from low_tide.core.power.speaker_network import outputs
from low_tide.core.power.warm_boxes import warm_boxes
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import Link
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.scenes import in_scene, scene_words
from low_tide.core.session.change_over import (
    ChangeOver,
    at_speaker_level,
    change_over,
    dark_s,
    ends_words,
    lead_name,
    settings_in_use,
    warm_up_s,
)
from low_tide.core.session.expected import CLIPS_DBFS, Expected
from low_tide.core.session.meter import meter_expected, meter_ohms, meter_words
from low_tide.core.session.steps import Does, Phase, Step, Wait, step
from low_tide.core.signal_path.levels import LinePoint, levels
from low_tide.core.units import figure, in_ohms, in_watts, level_figure

UNTRIED_DB = 6.0
"""How far a peak may lie from its prediction where no take has taught better: playing, and gains without marks."""
FAR_UP_DB, FAR_DOWN_DB = 6.0, 15.0
"""Beyond what is known by so much more, a level means that something else is hooked up."""
NEAR_LIMIT_K = 5.0
"""A case this near to its limit is told of."""


@dataclass(frozen=True)
class Standing:
    """What is hooked up now, and whether its amp is on."""

    rig: Rig
    is_on: bool


def _settings(rig: Rig) -> Iterator[Step]:
    for unit, listed in groupby(settings_in_use(rig), key=lambda each: each[0]):
        yield step("before", f"Set {rig.gear[unit].name}", "; ".join(said for _, _, said in listed), (unit,))


def _of_lead(rig: Rig, link: Link) -> Does:
    return "speaker_lead" if at_speaker_level(rig, link) else "line_lead"


def _leads(rig: Rig) -> Iterator[Step]:
    """Speaker side first: a line that is in before its load is tells nothing and tempts to switch on."""
    for link in sorted(rig.hookup.links, key=lambda each: not at_speaker_level(rig, each)):
        units = tuple(e.unit for e in link.ends())
        yield step(
            "before",
            f"{lead_name(rig, link)}: {ends_words(rig, link)}",
            "both plugs fully in",
            units,
            does=_of_lead(rig, link),
        )


def _meter(rig: Rig) -> Iterator[Step]:
    for link in rig.hookup.links:
        for end in link.ends():
            if not isinstance(rig.gear[end.unit], Amp) or rig.socket(end).level != "speaker":
                continue
            found = meter_ohms(rig, link, end)
            if found is None or not isfinite(found.ohms):
                continue
            name = rig.conductor(link).name
            yield step(
                "before",
                f"Amp off: pull {name} out of {rig.label(end)}, measure at its plug, and put it back",
                meter_words(found),
                (end.unit,),
                meter_expected(rig, found),
                does="ohms",
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
        yield step("before", guard, otherwise, tuple(dict.fromkeys(units[guard])))


def _tapes(rig: Rig) -> Iterator[Step]:
    """What the hook-up counts on not to move."""
    for placed in rig.hookup.units:
        for key in placed.guarded:
            words = tape(rig, placed.unit, key).label
            yield step("before", words, "it stays there when a sleeve brushes it", (placed.unit,))


def _off(rig: Rig, unit: str) -> Step:
    return step("before", f"{rig.name(unit)} is off, its volume and master are down", "mains lamp dark", (unit,))


def _air(rig: Rig, units: frozenset[str]) -> Iterator[Step]:
    for unit, gear in rig.units():
        if unit not in units or gear.kind not in ("load", "attenuator"):
            continue
        heat = sum(flat for (u, _), (_, flat) in powers(rig).items() if u == unit)
        if heat > 0.5:
            warm = f"up to about {in_watts(heat)} becomes heat in it"
            yield step("before", f"Air all round {gear.name}, nothing on top", warm, (unit,))


def _before(rig: Rig, preferences: Preferences | None) -> Iterator[Step]:
    yield from (_off(rig, unit) for unit, _ in rig.amps())
    yield from _leads(rig)
    yield from _meter(rig)
    yield from _settings(rig)
    yield from _tapes(rig)
    yield from _air(rig, frozenset(unit for unit, _ in rig.units()))
    yield from _guards(rig, preferences)


def _leave(standing: Standing, moves: ChangeOver) -> Iterator[Step]:
    """What stands made safe to work on: off and dark where its speaker side changes, or turned down."""
    rig = standing.rig
    if moves.plugs or moves.needs_off:
        yield from _turned_down(rig, "leave")
    if standing.is_on and moves.needs_off:
        for unit, amp in rig.amps():
            yield _amp_off("leave", unit, amp)
    elif standing.is_on and moves.plugs:
        for unit, amp in rig.amps():
            yield step("leave", f"{amp.name}: volume down while plugs move", "it stays on", (unit,))
    elif not standing.is_on:
        for unit, amp in rig.amps():
            yield step("leave", f"{amp.name} is off, its volume and master are down", "mains lamp dark", (unit,))


def _moves(rig: Rig, moves: ChangeOver) -> Iterator[Step]:
    for each in moves.leads:
        does: Does = "speaker_lead" if each.speaker else "line_lead"
        if each.move == "put_away":
            yield step(
                "before", f"Take out {each.name}: {each.ends}", "coiled, and out of the way", each.units, does=does
            )
        elif each.move == "moved":
            yield step("before", f"Move {each.name}: {each.ends}", "both plugs fully in", each.units, does=does)
        elif each.move == "added":
            yield step("before", f"{each.name}: {each.ends}", "both plugs fully in", each.units, does=does)
    kept = moves.that("kept")
    if kept:
        yield step(
            "before",
            f"{'These stay' if len(kept) > 1 else 'This stays'}: look along {'each' if len(kept) > 1 else 'it'}",
            "; ".join(f"{each.name}: {each.ends}" for each in kept),
            tuple(dict.fromkeys(u for each in kept for u in each.units)),
        )


def _before_from(standing: Standing, moves: ChangeOver, rig: Rig, preferences: Preferences | None) -> Iterator[Step]:
    """Only what changes; but the ohms are measured whenever a speaker lead could have been moved."""
    there = {unit for unit, _ in standing.rig.units()}
    yield from _leave(standing, moves)
    yield from (_off(rig, unit) for unit, _ in rig.amps() if unit not in there)
    yield from _moves(rig, moves)
    if moves.needs_off:
        yield from _meter(rig)
    for unit, changed in groupby(moves.settings, key=lambda each: each.unit):
        yield step("before", f"Set {rig.name(unit)}", "; ".join(each.words for each in changed), (unit,))
    yield from _tapes(rig)
    yield from _air(rig, frozenset(unit for unit, _ in rig.units() if unit not in there))
    # What guards against a slip was put there for what stands, and stays as long as no speaker lead moves.
    done = set() if moves.needs_off else {each.id for each in _guards(standing.rig, preferences)}
    yield from (each for each in _guards(rig, preferences) if each.id not in done)


def _turned_down(rig: Rig, phase: Phase) -> Iterator[Step]:
    for unit, gear in rig.units():
        if isinstance(gear, Interface) and rig.plugged(unit):
            yield step(
                phase, f"Turn down monitors and the gain of {gear.name}", "no thump later", (unit,), does="turn_down"
            )


def _amp_off(phase: Phase, unit: str, amp: Amp) -> Step:
    how = "volume down, standby on, mains off" if amp.technology != "transistor" else "volume down, mains off"
    seconds = dark_s(amp)
    about = "" if amp.dark is not None else "about "
    expect = f"mains lamp dark; leave its speaker side alone for {about}{duration(seconds / 3600)}"
    wait = Wait("dark", seconds, f"{amp.name} dark: then its speaker leads may be moved") if seconds else None
    return step(phase, f"{amp.name}: {how}", expect if wait else "mains lamp dark", (unit,), wait=wait, does="amp_off")


def _warms(unit: str, amp: Amp) -> Step:
    seconds = warm_up_s(amp)
    about = "" if amp.warm_up is not None else "about "
    return step(
        "switch_on",
        f"{amp.name}: mains on, standby (if it has one) still on; let the valves warm",
        f"{about}{duration(seconds / 3600)}; no crackle, no smell of heat",
        (unit,),
        wait=Wait("warm_up", seconds, f"{amp.name} is warm: standby off, volume still down") if seconds else None,
        does="amp_on",
    )


def _line_on(rig: Rig, there: frozenset[str] = frozenset()) -> Iterator[Step]:
    """Interface and boxes are up before an amp plays into them; those that are there already are."""
    for unit, gear in rig.units():
        if unit not in there and isinstance(gear, Interface) and rig.plugged(unit):
            yield step(
                "switch_on",
                f"{gear.name} is on, its inputs and the monitors down",
                "its meters rest",
                (unit,),
                does="line_on",
            )
    for unit, gear in rig.units():
        if unit not in there and isinstance(gear, TapBox) and gear.line_out.phantom == "needs":
            yield step("switch_on", f"{gear.name} has its phantom power", "its lamp, if it has one", (unit,))


def _switch_on(rig: Rig) -> Iterator[Step]:
    yield from _line_on(rig)
    for unit, gear in rig.units():
        if isinstance(gear, ReAmp) and rig.plugged(unit):
            expect = "its lamp lit and its relay heard, if it has one: only then the amp"
            yield step("switch_on", f"{gear.name}: mains on, speaker volume down", expect, (unit,), does="box_on")
    for unit, amp in rig.amps():
        if amp.technology != "transistor":
            yield _warms(unit, amp)
            yield step(
                "switch_on", f"{amp.name}: standby off, volume still down", "quiet hiss", (unit,), does="standby"
            )
        else:
            yield step("switch_on", f"{amp.name}: mains on, volume down", "quiet", (unit,), does="amp_on")


def _bring_up(rig: Rig) -> Iterator[Step]:
    for unit, amp in rig.amps():
        driven = [c for u, c in rig.cabinets() if rig.plugged(u)]
        where = f"sound from {driven[0].name}" if driven else "signal on the meter, nothing in the room"
        yield step("bring_up", f"Play softly, raise the volume of {amp.name} a little", where, (unit,), does="softly")
        yield step(
            "bring_up",
            f"{amp.name} up to the working level in small steps",
            "listen for crackle, cut-outs or a smell of heat: volume down and off if there is any",
            (unit,),
            does="working_level",
        )
    for output in outputs(rig):
        volts = (output.jack_label * output.tap) ** 0.5
        yield step(
            "bring_up",
            f"{rig.name(output.amp)} at its label",
            f"about {in_watts(output.jack_label)}: {figure(volts)} V into its matched {in_ohms(output.tap)}",
            (output.amp,),
        )


def _level_expected(heard: SoundLevel) -> Expected | None:
    """A limit bounds what is heard only where the hour is said: at noon nobody asks for the night's."""
    if heard.dba is None:
        return None
    limit = heard.limit.level if heard.limit and heard.hour_said else NO_ALLOWANCE_DBA
    stop = min(heard.most + FAR_UP_DB, limit, NO_ALLOWANCE_DBA)
    high = min(heard.most, stop)
    low = min(heard.dba - heard.spread.down, high)
    return Expected("dba", heard.dba, None if heard.at_most else low, high, None, stop, heard.place)


def _heard(rig: Rig) -> Iterator[Step]:
    """What a sound level meter should show, at one's own ears and wherever a limit holds; and when a box must rest."""
    for h in sound_levels(rig):
        if h.dba is None or not (h.ears or h.limit):
            continue
        bound = f"; the limit is {figure(h.limit.level)} dBA from {h.limit.start}" if h.limit else ""
        about = "at most about" if h.at_most else "about"
        expect = f"{about} {figure(h.dba, 2)} dBA, {spread_words(h.spread)}{bound}"
        yield step("bring_up", f"Sound level meter at {h.name}, A, slow", expect, reads=_level_expected(h))
    for unit, box in warm_boxes(rig):
        if box is not None and isfinite(box.reaches_limit):
            yield step(
                "bring_up",
                f"Feel for the warmth of {rig.name(unit)} with the back of a hand, and let it rest",
                f"about {figure(box.limit)} °C after {figure(box.reaches_limit, 2)} min of it; then"
                f" {figure(box.rest, 2)} min of rest. A hot case burns",
                (unit,),
                Expected("celsius", box.limit, None, box.limit - NEAR_LIMIT_K, None, box.limit, unit),
            )


def _peak_expected(rig: Rig, point: LinePoint) -> tuple[Expected, float] | None:
    """A peak and the ± it is known to: learned from takes of the amp, or the usual one."""
    if point.dbfs is None:
        return None
    learned = rig.known.played.get(_played_by(rig))
    sure = learned.spread if learned else UNTRIED_DB
    stop = min(point.dbfs + sure + FAR_UP_DB, CLIPS_DBFS)
    high = min(point.dbfs + sure, stop)
    low = min(point.dbfs - sure, high)
    of = point.input.name
    return Expected("dbfs", point.dbfs, low, high, low - FAR_DOWN_DB, stop, of), sure


def _played_by(rig: Rig) -> tuple[str, str]:
    """The amp and its power mode, where there is one; two play into one input too seldom to be told apart."""
    first = next(rig.amps(), None)
    return (first[0], first[1].mode(rig.settings(first[0])).name) if first else ("", "")


def _scenes(rig: Rig) -> Iterator[Step]:
    """Every scene gone through once before it counts: what is set for it, and what then arrives at the loudest line."""
    for scene in rig.hookup.scenes:
        there = in_scene(rig, scene)
        lines = [p for p in levels(there).line_points if p.dbfs is not None]
        loudest = max(lines, key=lambda p: p.dbfs or 0.0, default=None)
        found = _peak_expected(there, loudest) if loudest else None
        expect, reads = "its level by the meter", None
        if loudest and loudest.dbfs is not None and found:
            reads, sure = found
            where = rig.label(loudest.input)
            expect = f"peaks about {level_figure(loudest.dbfs)} dBFS, ± {figure(sure, 2)} dB (estimated), at {where}"
        units = tuple(dict.fromkeys(each.unit for each in scene.settings if rig.has(each.unit)))
        yield step("capture", f"Scene “{scene.name}”: {scene_words(rig, scene)}", expect, units, reads)


def _capture(rig: Rig) -> Iterator[Step]:
    for point in levels(rig).line_points:
        where, found = rig.label(point.input), _peak_expected(rig, point)
        if found is None or point.dbfs is None:
            yield step("capture", f"Set the level at {where} by its meter", "peaks near −12 dBFS", (point.input.unit,))
            continue
        yield step(
            "capture",
            f"Play the loudest part and watch {where}",
            f"peaks about {level_figure(point.dbfs)} dBFS, ± {figure(found[1], 2)} dB (estimated);"
            f" {level_figure(point.peak_dbu)} dBu at the line",
            (point.input.unit,),
            found[0],
        )
    yield from _scenes(rig)
    yield step(
        "capture", "Record ten seconds and listen back", "no clipping, no hum, a speaker in the sound", does="record"
    )
    yield step("capture", "Write the controls down with the take", "in the Log, every knob that was moved")


def _switch_off(rig: Rig) -> Iterator[Step]:
    yield from _turned_down(rig, "switch_off")
    for unit, amp in rig.amps():
        yield _amp_off("switch_off", unit, amp)
    for unit, gear in rig.units():
        if isinstance(gear, ReAmp) and rig.plugged(unit):
            yield step(
                "switch_off",
                f"{gear.name}: mains off, after the amp",
                "its load may go with it",
                (unit,),
                does="box_off",
            )
    yield step(
        "switch_off",
        "Leave the load plugged in until the lamps are dark",
        "boxes stay hot for a while; do not cover them",
        does="stay_plugged",
    )
    taped = [placed.unit for placed in rig.hookup.units if placed.guarded]
    if taped:
        names = ", ".join(rig.name(unit) for unit in taped)
        yield step("switch_off", f"Tape off {names}, if it is not played like this again", "no glue left", tuple(taped))


def run_sheet(rig: Rig, preferences: Preferences | None = None, standing: Standing | None = None) -> tuple[Step, ...]:
    """All steps in order. Amps are needed: without one there is nothing to switch on and the sheet is empty.

    `standing`: what is hooked up now; then only what changes is done before it plays, and an amp that may stay on does.
    """
    if not any(rig.amps()):
        return ()
    rest = (*_bring_up(rig), *_heard(rig), *_capture(rig), *_switch_off(rig))
    if standing is None:
        return (*_before(rig, preferences), *_switch_on(rig), *rest)
    moves = change_over(standing.rig, rig, standing.is_on)
    stays_on = standing.is_on and not moves.needs_off
    there = frozenset(unit for unit, _ in standing.rig.units())
    return (
        *_before_from(standing, moves, rig, preferences),
        *(_line_on(rig, there) if stays_on else _switch_on(rig)),
        *rest,
    )
