"""The ways to turn down, what speaks for and against each, and the candidates each brings."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from low_tide.core.finder import candidates as make
from low_tide.core.finder.candidates import Base, Candidate
from low_tide.core.finder.wish import ABOUT_3_DB, Way, Wish
from low_tide.core.inventory import Amp, Attenuator, Unit

WAY_NAMES: dict[Way, str] = {
    "load": "A load box in the speaker's place",
    "attenuator": "An attenuator between amp and speaker",
    "split": "A load beside the speaker",
    "reamp": "Load, then re-amplify",
    "cabinet": "The real cabinet, shut away",
    "mode": "A lower power mode of the amp",
    "loop": "A volume in the effects loop",
    "master": "The master volume",
    "inline": "A volume before a small transistor combo",
    "barely": "The amp barely turned up",
    "direct": "No valve power stage at all",
}

PRO: dict[Way, str] = {
    "load": "the power stage works as hard as you like and the room stays silent",
    "attenuator": "the power stage keeps working, its noise goes down with it, and the real speaker is heard",
    "split": "cheap and simple, and the power stage keeps working",
    "reamp": "any level from whisper to louder than the amp; the amp sees one load at every level",
    "cabinet": "the real speaker and a real microphone, nothing simulated",
    "mode": "nothing to buy and nothing in the signal; the power stage can still be worked hard",
    "loop": "cheap, no heat, no rating to watch",
    "master": "there already, no lead to move",
    "inline": "simplest of all where the power stage has no sound of its own to lose",
    "barely": "amp, speaker and microphone as they are: nothing to buy and nothing between",
    "direct": "silent, cool and the same every time; there is no rating and no load to mind",
}
CON: dict[Way, str] = {
    "load": "the speaker's own sound has to come from an IR or a filter",
    "attenuator": "a resistive pad flattens the speaker's curve from about 10 dB down, and its steps may be coarse",
    "split": "only about 3 dB, which is far from half as loud",
    "reamp": "one more amplifier, and a box that needs mains",
    "cabinet": "a cupboard takes off 10 to 20 dB at best, least at the low end",
    "mode": "few steps, and an attenuated or halved stage sounds a little different",
    "loop": "the power stage works less and gives less of its own sound; noise after the loop stays",
    "master": "the power stage works less and gives less of its own sound",
    "inline": "a valve power stage would lose its drive; noise of the amp stays",
    "barely": "the power stage hardly works, and how loud it is nobody knows before a reading",
    "direct": "what a power stage and its transformer do to the sound is not there; something else has to do it",
}


ANY_MODE: tuple[Way, ...] = ("load", "cabinet", "mode")
"""Ways that every power mode may serve; the others count their dB from the amp's strongest."""

STRONGEST_WITHIN_DB = 0.5


def candidates_of(way: Way, base: Base, gear: tuple[Unit, ...], wish: Wish) -> Iterator[Candidate]:
    """Every candidate of one way for one amp, tap and mode."""
    amp, _, mode = base
    wanted = wish.wanted_db()
    if way not in ANY_MODE and make.mode_down_db(amp, mode) > STRONGEST_WITHIN_DB:
        return
    if way == "load":
        yield from make.loads(base, gear)
    elif way == "attenuator":
        yield from make.attenuators(base, gear, wish.cabinet, ABOUT_3_DB if wanted is None else wanted)
    elif way == "split":
        yield from make.splits(base, gear, wish.cabinet)
    elif way == "reamp":
        yield from make.reamps(base, gear, wish.cabinet, wanted)
    elif way == "cabinet":
        yield from make.bare(base, gear, wish.cabinet, way, 0.0)
    elif way == "mode":
        down = make.mode_down_db(amp, mode)
        if down > 0.5:
            yield from make.bare(base, gear, wish.cabinet, way, down)
    elif way == "barely" and amp.master:
        yield from make.bare(base, gear, wish.cabinet, way, None)
    elif way == "master" and amp.master:
        yield from make.bare(base, gear, wish.cabinet, way, wanted)
    elif way == "loop" and amp.loop:
        for box in make.loop_boxes(gear):
            volume = {"volume": -float(round(wanted or 0.0))}
            for each in make.bare(base, gear, wish.cabinet, way, wanted):
                yield replace(each, box=box, settings=volume)
    elif way == "inline" and amp.technology == "transistor" and amp.form == "combo":
        for box in make.volume_boxes(gear):
            volume = {"volume": -float(round(wanted or 0.0))}
            for each in make.bare(base, gear, wish.cabinet, way, wanted):
                yield replace(each, box=box, settings=volume)


def _of_unknown_steps(gear: tuple[Unit, ...]) -> str:
    """The attenuator that is owned, by name, where the dB of all steps of all of them are unknown; else empty."""
    boxes = [u for u in gear if isinstance(u, Attenuator) and not u.archived]
    return boxes[0].name if boxes and not any(box.nearest(0.0) is not None for box in boxes) else ""


def missing(way: Way, gear: tuple[Unit, ...], wish: Wish) -> str:
    """Why a way has no candidate at all, from what is not owned."""
    kinds = {u.kind for u in gear if not u.archived}
    amps = [u for u in gear if u.kind == "amp" and (not wish.amp or u.id == wish.amp)]
    if not amps and way != "direct":
        return "there is no amp in the locker"
    if way in ("load", "split") and "load" not in kinds:
        return "you own no load box"
    if way == "attenuator" and "attenuator" not in kinds:
        return "you own no attenuator"
    if way == "attenuator" and (vague := _of_unknown_steps(gear)):
        return f"nobody knows what the steps of {vague} take; two readings tell"
    if way == "reamp" and "reamp" not in kinds:
        return "you own no load with an amplifier behind it"
    if way == "loop":
        if not any(isinstance(a, Amp) and a.loop for a in amps):
            return "no amp meant here has an effects loop"
        return "you own no volume made for a loop"
    if way == "direct":
        return "you own neither a processor nor a box from guitar to line"
    if way in ("master", "barely"):
        return "no amp meant here has a master volume"
    if way == "inline":
        return "it only serves a small transistor combo, with a volume box before it"
    if way == "mode":
        return "no amp meant here has a lower power mode"
    if way != "load" and "cabinet" not in kinds:
        return "you own no cabinet"
    return "nothing owned goes together this way"
