"""Loads lost by a jack, a switch or a box without mains; outputs that must not meet earth."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from low_tide.core.capture import line_out_of
from low_tide.core.changes import SetControl
from low_tide.core.checks.load import FAMILY, amp_of, harmed_when_open, is_open
from low_tide.core.checks.moves import replug
from low_tide.core.checks.registry import Case, check
from low_tide.core.finding import Finding, Fix
from low_tide.core.gear import ReAmp, Switcher
from low_tide.core.gear.base import STAGE
from low_tide.core.hookup import End, Link
from low_tide.core.power import Seen
from low_tide.core.words import in_sentence, shown


@check(
    "empty-shorting-jack",
    FAMILY,
    "A first speaker jack that shorts itself when empty is empty, and only another jack of its tap is used.",
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
                "empty-shorting-jack",
                "stop",
                f"{amp.name} is shorted: its {case.rig.socket(first).label} jack is empty.",
                f"That jack shorts the output while no plug is in it; the lead sits in {case.rig.socket(used).label}.",
                (unit,),
                (link.lead,),
                fixes=(Fix(f"Move the lead to {case.rig.socket(first).label}", replug(link, used, first)),),
            )


@check(
    "inner-speaker-off",
    FAMILY,
    "A plug in a second speaker jack has cut the first jack off, and with it what hangs there.",
)
def inner_speaker_off(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        for jack in amp.cut_off(case.rig.site(unit)):
            far = case.rig.far_end(End(unit, jack))
            if far is None:
                continue
            yield Finding(
                "inner-speaker-off",
                "note",
                f"{case.rig.name(far.unit)} is cut off.",
                f"The plug in the second jack of {amp.name} switches its first jack off; only what hangs on the"
                " second counts.",
                (unit, far.unit),
            )


def _positions(case: Case, unit: str, gear: Switcher) -> Iterator[tuple[str, Case]]:
    """The hook-up with a switch at each of its positions, and what that position is called."""
    for control in gear.controls():
        for value in control.positions():
            if value != case.rig.settings(unit)[control.id]:
                where = f"{in_sentence(control.label)} {shown(control, value)}"
                yield where, replace(case, rig=case.rig.moved({unit: {control.id: value}}))


@check(
    "switcher-leaves-open",
    FAMILY,
    "A speaker or amp switch has a position, or a moment, in which a valve amp has no load.",
)
def switcher_leaves_open(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        if not isinstance(gear, Switcher):
            continue
        fed = {s.output.amp for s in case.seen if _reaches(case, s, unit, gear) and harmed_when_open(amp_of(case, s))}
        if not fed:
            continue
        names = " and ".join(case.rig.name(a) for a in sorted(fed))
        open_at = [
            f"{where}: {case.rig.name(s.output.amp)}"
            for where, there in _positions(case, unit, gear)
            for s in there.seen
            if s.output.amp in fed and is_open(s)
        ]
        if open_at and not (gear.idle == "unknown" and gear.inputs > 1):
            yield Finding(
                "switcher-leaves-open",
                "stop",
                f"{gear.name} has a position that leaves a valve amp without load.",
                f"At {'; at '.join(open_at)}. A hand on the switch is enough.",
                (unit, *sorted(fed)),
            )
        elif gear.idle == "unknown" and gear.inputs > 1:
            yield Finding(
                "switcher-leaves-open",
                "caution",
                f"Find out what {gear.name} does with an amp that is not selected.",
                f"If it leaves {names} without a load, a turn of the switch costs an output transformer. Until that is"
                " known the amp that waits is reckoned as open.",
                (unit, *sorted(fed)),
            )
        if gear.controls() and gear.gap != "none":
            is_known = gear.gap == "open"
            yield Finding(
                "switcher-leaves-open",
                "stop" if is_known else "caution",
                f"{gear.name} leaves {names} without a load while it switches."
                if is_known
                else f"Find out whether {gear.name} leaves {names} without a load while it switches.",
                "A moment is enough at full level. It may only be used on amps that stand an open output.",
                (unit, *sorted(fed)),
            )


def _reaches(case: Case, seen: Seen, unit: str, gear: Switcher) -> bool:
    reach = case.network.connected(seen.output.node)
    return any(case.network.find(f"{unit}.{s.id}") in reach for s in gear.sockets())


@check("unpowered-reamp", FAMILY, "A box that needs mains for its load, or for the speaker behind it, is off.")
def unpowered_reamp(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        if not isinstance(gear, ReAmp) or gear.is_powered(case.rig.site(unit)) or not case.rig.plugged(unit):
            continue
        gone = gear.load_is_out(case.rig.site(unit))
        doubt = " Whether its load stays is not known, so it counts as gone." if gear.load_needs_mains != "yes" else ""
        yield Finding(
            "unpowered-reamp",
            "stop" if gone else "note",
            f"{gear.name} is off{' and its load with it' if gone else ''}.",
            f"Without mains the box takes no power from the amp.{doubt}"
            if gone
            else "Its load stays, so the amp is safe; the speaker behind it is silent.",
            (unit,),
            fixes=(Fix(f"Switch {gear.name} on", (SetControl(unit, "mains", True),)),),
        )


@check(
    "bridged-into-earthed",
    FAMILY,
    "A bridged or floating speaker output meets a box, tap or lead that ties its sleeve to earth.",
)
def bridged_into_earthed(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        if amp.floating == "no":
            continue
        for link, box, isolated in _earthing(case, unit):
            sure = amp.floating == "yes" and isolated == "no"
            what = "ties the speaker jack's sleeve to earth" if isolated == "no" else "may tie its sleeve to earth"
            yield Finding(
                "bridged-into-earthed",
                "stop" if sure else "caution",
                f"{amp.name} has a floating output, and {case.rig.name(box)} {what}."
                if amp.floating == "yes"
                else f"Find out whether the output of {amp.name} is bridged or floating.",
                "Half of a bridged output stage is then shorted through the screen of the line. Use a box with a"
                " transformer, or none."
                if amp.floating == "yes"
                else f"If it is, the line out of {case.rig.name(box)} may short half of it through its screen.",
                (unit, box),
                (link.lead,),
            )


def _earthing(case: Case, amp: str) -> Iterator[tuple[Link, str, str]]:
    """Lines from boxes on this amp's speaker side to an earthed desk: lead, box, whether it is isolated."""
    for point in case.line_points:
        line = line_out_of(case.rig, point.source.unit)
        link = case.rig.link_at(point.source)
        if line is None or line.isolated == "yes" or link is None or line.origin == "preamp":
            continue
        if End(amp, STAGE) in case.signal.upstream(point.source):
            yield link, point.source.unit, line.isolated
