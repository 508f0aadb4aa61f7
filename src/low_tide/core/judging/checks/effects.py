"""Effects: tails before a distorting power stage, loops, feedback, half a stereo."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.gear.base import STAGE
from low_tide.core.inventory import Amp, Lead, Pedal
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix, School, SchoolView
from low_tide.core.rig.changes import Change, Connect, Disconnect, SetControl
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import fits

FAMILY = "Effects"


def _distorting(case: Case) -> Iterator[tuple[str, Amp]]:
    """Amps whose power stage is run into distortion."""
    for unit, amp in case.rig.amps():
        if case.rig.settings(unit).get("flat_out"):
            yield unit, amp


def after_the_load(rig: Rig, unit: str) -> Iterator[Fix]:
    """A mono pedal taken out of its place and put into a line on its way to the interface, where plugs allow it."""
    into, out = rig.link_at(End(unit, "in")), rig.link_at(End(unit, "out"))
    source, target = rig.far_end(End(unit, "in")), rig.far_end(End(unit, "out"))
    if into is None or out is None or source is None or target is None:
        return
    for line in rig.hookup.links:
        conductor = rig.conductor(line)
        if line.b is None or not isinstance(conductor, Lead) or line in (into, out):
            continue
        a, b = (line.a, line.b) if rig.socket(line.a).flow == "out" else (line.b, line.a)
        if a.socket != "line" or rig.gear[b.unit].kind != "interface":
            continue
        # One of the pedal's leads stays where it was without it, the other goes on from it to the interface.
        second = rig.conductor(out)
        if not isinstance(second, Lead) or not fits(second, rig.socket(End(unit, "out")), rig.socket(b)):
            continue
        changes: tuple[Change, ...] = (
            Disconnect(into.lead),
            Disconnect(out.lead),
            Disconnect(line.lead),
            Connect(into.lead, source, target),
            Connect(line.lead, a, End(unit, "in")),
            Connect(out.lead, End(unit, "out"), b),
        )
        yield Fix(f"Move {rig.name(unit)} after the load", changes)


@check(
    "tails-before-drive",
    FAMILY,
    "Delay or reverb, the amp's own too, lies before a power stage that distorts; marked as on purpose it is a note.",
    reads=("signal_paths",),
)
def tails_before_drive(case: Case) -> Iterator[Finding]:
    for amp_unit, amp in _distorting(case):
        upstream = case.signal_paths.upstream(End(amp_unit, STAGE))
        seen: set[str] = set()
        for edge in case.signal_paths.edges:
            tails = edge.transfer.tails if edge.transfer else ""
            if not tails or edge.b not in upstream or edge.a.unit in seen or edge.a not in upstream:
                continue
            unit = edge.a.unit
            seen.add(unit)
            on_purpose = bool(case.rig.settings(unit).get("on_purpose"))
            control = edge.transfer.control if edge.transfer else ""
            off = "off" if case.rig.gear[unit].kind == "processor" else False
            fixes = [] if on_purpose else list(after_the_load(case.rig, unit))
            if not on_purpose and case.rig.gear[unit].kind == "processor":
                fixes.append(Fix(f"Put the tails of {tails} after its return", (SetControl(unit, control, "after"),)))
            if not on_purpose and control:
                fixes.append(Fix(f"Switch {tails} off", (SetControl(unit, control, off),)))
                if case.rig.control(unit, "on_purpose"):
                    fixes.append(Fix("It is meant so: mark it", (SetControl(unit, "on_purpose", True),)))
            yield Finding(
                id="tails-before-drive",
                severity="note" if on_purpose else "caution",
                text=f"{tails[:1].upper()}{tails[1:]} lies before the distorting power stage of {amp.name}.",
                reason="Its tails are distorted with the notes: they swell and smear instead of fading. "
                + ("It is marked as meant so." if on_purpose else "After the load they stay clean."),
                units=tuple(dict.fromkeys((unit, amp_unit))),
                school=School(
                    "tails",
                    "before the power stage, on purpose" if on_purpose else "after the power stage",
                    (
                        SchoolView(
                            "after the power stage" if on_purpose else "before it, on purpose",
                            "caution" if on_purpose else "note",
                        ),
                    ),
                ),
                fixes=tuple(fixes),
            )


@check(
    "loop-needed",
    FAMILY,
    "A volume box made for an effects loop, and no amp here has a loop.",
    reads=("leads",),
    may_stop=True,
)
def loop_needed(case: Case) -> Iterator[Finding]:
    amps = list(case.rig.amps())
    for unit, gear in case.rig.units():
        if not isinstance(gear, Pedal) or gear.does != "loop_volume" or not amps:
            continue
        if any(amp.loop for _, amp in amps):
            continue
        names = " and ".join(amp.name for _, amp in amps)
        yield Finding(
            id="loop-needed",
            severity="stop",
            text=f"{gear.name} needs an effects loop, and {names} has none.",
            reason="It turns down between preamp and power stage. Without a loop, turn down between"
            " amp and speaker instead.",
            units=(unit, *(u for u, _ in amps)),
        )


@check(
    "loop-turns-down-drive",
    FAMILY,
    "The level is turned down in the loop, at the master or before the amp: the power stage works less.",
    reads=("signal_paths",),
)
def loop_turns_down_drive(case: Case) -> Iterator[Finding]:
    for amp_unit, amp in case.rig.amps():
        upstream = case.signal_paths.upstream(End(amp_unit, STAGE))
        said: set[str] = set()
        for edge in case.signal_paths.edges:
            down = edge.transfer.down if edge.transfer else ""
            if not down or down in said or edge.b not in upstream or edge.a not in upstream:
                continue
            said.add(down)
            where = "at the master" if down == "the master" else f"by {down}, before its power stage"
            yield Finding(
                id="loop-turns-down-drive",
                severity="note",
                text=f"{amp.name} is turned down {where}.",
                reason="That is cheap and simple, but the power stage works less and gives less of"
                " its own sound; noise that"
                " arises after that point stays. Between amp and speaker both go down together.",
                units=tuple(dict.fromkeys((edge.a.unit, amp_unit))),
                school=School(
                    "where to turn down",
                    "before the power stage, as hooked up here",
                    (SchoolView("between amp and speaker, so that the power stage keeps working", "note"),),
                ),
            )


@check(
    "feedback-path",
    FAMILY,
    "A signal comes back to where it came from: a processor's return reaches its own send.",
    reads=("signal_paths",),
    may_stop=True,
)
def feedback_path(case: Case) -> Iterator[Finding]:
    cycle = case.signal_paths.cycle()
    if not cycle:
        return
    units = tuple(dict.fromkeys(e.a.unit for e in cycle))
    leads = tuple(e.link.lead for e in cycle if e.link)
    last = next((e.link for e in reversed(cycle) if e.link), None)
    yield Finding(
        id="feedback-path",
        severity="stop",
        text=f"The signal goes round in a circle: {' → '.join(case.rig.name(u) for u in units)} and back.",
        reason="It would howl at once, at whatever level the amp can give.",
        units=units,
        leads=leads,
        fixes=(Fix(f"Take {case.rig.gear[last.lead].name} out", (Disconnect(last.lead),)),) if last else (),
    )


@check(
    "stereo-half-used",
    FAMILY,
    "A stereo effect has only one of its two sides connected.",
    reads=("leads", "signal"),
)
def stereo_half_used(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        pairs = [("outL", "outR")] if {"outL", "outR"} <= {s.id for s in gear.sockets()} else []
        for pair in pairs:
            used = [side for side in pair if case.rig.link_at(End(unit, side))]
            if len(used) != 1 or not any(t.tails for t in gear.transfers(case.rig.site(unit))):
                continue
            yield Finding(
                id="stereo-half-used",
                severity="note",
                text=f"Only one side of {gear.name} is connected.",
                reason="Its tails are in stereo; one side alone may lack part of them. Some units"
                " sum to mono on one socket:"
                " its manual tells.",
                units=(unit,),
            )
