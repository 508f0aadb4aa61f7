"""Loads lost by a jack, a switch or a box without mains; outputs that must not meet earth."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from low_tide.core.circuit.network import Network, input_impedance
from low_tide.core.gear.abilities import line_out_of
from low_tide.core.gear.base import STAGE
from low_tide.core.inventory import Amp, ReAmp, Switcher
from low_tide.core.judging.checks.load import FAMILY, amp_of, feeding_input, harmed_when_open, is_open
from low_tide.core.judging.checks.moves import replug
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.power.shares import Seen
from low_tide.core.power.speaker_network import node_of
from low_tide.core.rig.changes import Guard, SetControl
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.reachable_states import Standing, movable
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.words import in_sentence, shown


@check(
    "empty-shorting-jack",
    FAMILY,
    "A first speaker jack that shorts itself when empty is empty, and only another jack of its tap is used.",
    reads=("leads",),
    may_stop=True,
)
def empty_shorting_jack(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        for jack in amp.shorted(case.rig.site(unit)):
            beside = next(js for _, _, js in amp.tap_sockets() if js[0] == jack)
            used = next(End(unit, j) for j in beside[1:] if case.rig.link_at(End(unit, j)))
            link = case.rig.link_at(used)
            assert link is not None
            first = End(unit, jack)
            yield Finding(
                id="empty-shorting-jack",
                severity="stop",
                text=f"{amp.name} is shorted: its {case.rig.socket(first).label} jack is empty.",
                reason="That jack shorts the output while no plug is in it; the lead sits in"
                f" {case.rig.socket(used).label}.",
                units=(unit,),
                leads=(link.lead,),
                fixes=(Fix(f"Move the lead to {case.rig.socket(first).label}", replug(link, used, first)),),
            )


@check(
    "inner-speaker-off",
    FAMILY,
    "A plug in a second speaker jack has cut the first jack off, and with it what hangs there.",
    reads=("leads",),
)
def inner_speaker_off(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        for jack in amp.cut_off(case.rig.site(unit)):
            far = case.rig.far_end(End(unit, jack))
            if far is None:
                continue
            yield Finding(
                id="inner-speaker-off",
                severity="note",
                text=f"{case.rig.name(far.unit)} is cut off.",
                reason=f"The plug in the second jack of {amp.name} switches its first jack off; only what hangs on the"
                " second counts.",
                units=(unit, far.unit),
            )


def _opened(case: Case, unit: str) -> Iterator[tuple[str, str]]:
    """Amps that a turn of this switch leaves without load and that mind, over all its knobs: amp, and where."""
    for whole in case.reached:
        joint = whole.as_set
        for row, moved in enumerate(joint.index):
            away = [s for s in joint.standing(row) if s.moved] if moved.any() else []
            if [s.unit for s in away] != [unit]:
                continue
            for key in whole.slots(row):
                output, amp = joint.output(key, row), case.rig.gear[key[0]]
                assert isinstance(amp, Amp | ReAmp)
                if harmed_when_open(amp) and is_open(Seen(output, float(joint.slots[key].ohms[row]))):
                    yield key[0], _at(case, away[0])


def _at(case: Case, standing: Standing) -> str:
    controls = (case.rig.control(standing.unit, c) for c in standing.moved)
    return ", ".join(f"{in_sentence(c.label)} {shown(c, standing.settings[c.id])}" for c in controls if c)


@check(
    "switcher-leaves-open",
    FAMILY,
    "A speaker or amp switch has a position, or a moment, in which a valve amp has no load.",
    reads=("network", "seen", "reached"),
    may_stop=True,
    asks=("idle", "gap"),
)
def switcher_leaves_open(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        if not isinstance(gear, Switcher) or not movable(case.rig, unit):
            continue
        guards = tuple(_held(case.rig, unit))
        opened = tuple(dict.fromkeys(_opened(case, unit)))
        if opened and gear.idle == "unknown":
            loaded = replace(gear, idle="loaded")
            sure = replace(case, rig=replace(case.rig, gear={**case.rig.gear, unit: loaded}))
            if not any(_opened(sure, unit)):
                names = " and ".join(dict.fromkeys(case.rig.name(a) for a, _ in opened))
                yield Finding(
                    id="switcher-leaves-open",
                    severity="caution",
                    text=f"Find out what {gear.name} does with an amp that is not selected.",
                    reason=f"If it leaves {names} without a load, a turn of the switch costs an"
                    " output transformer. Until that"
                    " is known the amp that waits is reckoned as open.",
                    units=(unit, *dict.fromkeys(a for a, _ in opened)),
                    fixes=guards,
                )
                opened = ()
        if opened:
            yield Finding(
                id="switcher-leaves-open",
                severity="stop",
                text=f"{gear.name} has a position that leaves a valve amp without load.",
                reason=f"At {'; at '.join(f'{where}: {case.rig.name(a)}' for a, where in opened)}."
                " A hand on the switch is enough.",
                units=(unit, *dict.fromkeys(a for a, _ in opened)),
                fixes=guards,
            )
        lost = [s for s in _in_the_gap(case, unit) if harmed_when_open(amp_of(case, s))]
        if lost and gear.gap != "none":
            is_known = gear.gap == "open"
            names = " and ".join(dict.fromkeys(case.rig.name(s.output.amp) for s in lost))
            yield Finding(
                id="switcher-leaves-open",
                severity="stop" if is_known else "caution",
                text=f"{gear.name} leaves {names} without a load while it switches."
                if is_known
                else f"Find out whether {gear.name} leaves {names} without a load while it switches.",
                reason="A moment is enough at full level. It may only be used on amps that stand an open output.",
                units=(unit, *dict.fromkeys(s.output.amp for s in lost)),
                fixes=guards,
            )


def _held(rig: Rig, unit: str) -> Iterator[Fix]:
    """The knobs of a switch taped where they stand."""
    knobs = tuple(Guard(unit, control.id) for control, _ in movable(rig, unit))
    yield Fix(f"Tape {rig.name(unit)} where it stands", knobs)


def _in_the_gap(case: Case, unit: str) -> Iterator[Seen]:
    """Outputs that have a load now and none while the switch is between two positions."""
    for seen in case.seen:
        if is_open(seen):
            continue
        without = Network(
            [e for e in case.network.elements if e.unit != unit],
            [j for u, _ in case.rig.units() if u != unit for j in case.rig.face(case.rig.site(u)).parts.joints]
            + [(node_of(k.a), node_of(k.b)) for k in case.rig.speaker_links if k.b],
            1,
        )
        ohms = float(abs(input_impedance(without, seen.output.node)[0]))
        there = Seen(seen.output, ohms)
        if is_open(there):
            yield there


@check(
    "unpowered-reamp",
    FAMILY,
    "A box that needs mains for its load, or for the speaker behind it, is off.",
    reads=("network", "seen"),
    may_stop=True,
    asks=("load_needs_mains",),
)
def unpowered_reamp(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        if not isinstance(gear, ReAmp) or gear.is_powered(case.rig.site(unit)) or not case.rig.plugged(unit):
            continue
        gone = gear.load_is_out(case.rig.site(unit))
        feeding = feeding_input(case, unit)
        bad = [s for s in feeding if gone and is_open(s) and harmed_when_open(amp_of(case, s))]
        unknown = gear.load_needs_mains == "unknown"
        doubt = " Whether its load stays is not known, so it counts as gone." if unknown else ""
        yield Finding(
            id="unpowered-reamp",
            severity="stop" if bad else "caution" if gone and unknown and feeding else "note",
            text=f"{gear.name} is off{' and its load with it' if gone else ''}.",
            reason=f"Without mains the box takes no power from the amp.{doubt}"
            if gone
            else "Its load stays, so the amp is safe; the speaker behind it is silent.",
            units=(unit,),
            fixes=(Fix(f"Switch {gear.name} on", (SetControl(unit, "mains", True),)),),
        )


@check(
    "bridged-into-earthed",
    FAMILY,
    "A bridged or floating speaker output meets a box, tap or lead that ties its sleeve to earth.",
    reads=("signal_paths", "line_points"),
    may_stop=True,
)
def bridged_into_earthed(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        if amp.floating == "no":
            continue
        for link, box, isolated in _earthing(case, unit):
            sure = amp.floating == "yes" and isolated == "no"
            what = "ties the speaker jack's sleeve to earth" if isolated == "no" else "may tie its sleeve to earth"
            yield Finding(
                id="bridged-into-earthed",
                severity="stop" if sure else "caution",
                text=f"{amp.name} has a floating output, and {case.rig.name(box)} {what}."
                if amp.floating == "yes"
                else f"Find out whether the output of {amp.name} is bridged or floating.",
                reason="Half of a bridged output stage is then shorted through the screen of the line. Use a box with a"
                " transformer, or none."
                if amp.floating == "yes"
                else f"If it is, the line out of {case.rig.name(box)} may short half of it through its screen.",
                units=(unit, box),
                leads=(link.lead,),
            )


def _earthing(case: Case, amp: str) -> Iterator[tuple[Link, str, str]]:
    """Lines from boxes on this amp's speaker side to an earthed desk: lead, box, whether it is isolated."""
    for point in case.line_points:
        line = line_out_of(case.rig.gear[point.source.unit])
        link = case.rig.link_at(point.source)
        if line is None or line.isolated == "yes" or link is None or line.origin == "preamp":
            continue
        if End(amp, STAGE) in case.signal_paths.upstream(point.source):
            yield link, point.source.unit, line.isolated
