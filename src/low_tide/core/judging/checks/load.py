"""No load or the wrong load: the mistakes that cost an output transformer."""

from __future__ import annotations

from collections.abc import Iterator
from math import isinf

from low_tide.core.inventory import Amp, Attenuator, Load, PowerStage, ReAmp
from low_tide.core.judging.checks.moves import replug, to_other_tap
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.power.joint_states import IDLE_OVER_TAP
from low_tide.core.power.shares import Seen, seen_by
from low_tide.core.rig.changes import Disconnect, SetControl
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.rig import Rig
from low_tide.core.units import in_ohms

FAMILY = "No or wrong load"
OPEN_OVER_TAP = 4.0


def amp_of(case: Case, seen: Seen) -> PowerStage:
    """The amp, or re-amplifier, whose output sees something."""
    amp = case.rig.gear[seen.output.amp]
    assert isinstance(amp, Amp | ReAmp)
    return amp


def feeding_input(case: Case, unit: str) -> list[Seen]:
    """Outputs that drive what hangs at a box's way in."""
    node = case.network.find(f"{unit}.in")
    return [s for s in case.seen if node in case.network.connected(s.output.node)]


def is_open(seen: Seen) -> bool:
    """Over four times what the tap wants counts as nothing. Of a tap that is not known only "nothing" can be told."""
    if seen.output.doubtful:
        return isinf(seen.impedance)
    return seen.impedance > OPEN_OVER_TAP * seen.output.wanted


def ohms(seen: Seen) -> str:
    """What is seen, in words."""
    return "no load" if isinf(seen.impedance) else in_ohms(seen.impedance)


def harmed_when_open(amp: PowerStage) -> bool:
    """A valve amp with an output transformer, unless its maker says yes. Unknown counts as no."""
    return amp.technology == "valve" and amp.safe_without_load != "yes"


def ask_the_maker(amp: PowerStage) -> bool:
    """A power stage without output transformer, of which only its maker knows what an open output does."""
    return amp.technology in ("transformerless", "hybrid") and amp.safe_without_load != "yes"


@check(
    "nothing-to-judge",
    FAMILY,
    "There is no amp in the hook-up, so nothing can be judged.",
    reads=("leads",),
)
def nothing_to_judge(case: Case) -> Iterator[Finding]:
    if not any(case.rig.amps()):
        yield Finding(
            id="nothing-to-judge",
            severity="caution",
            text="There is no amp in this hook-up yet.",
            reason="Without one there is no tap to match and no power to hold against a rating.",
        )


def _free_ends(case: Case, seen: Seen) -> list[Link]:
    reach = case.network.connected(seen.output.node)
    return [k for k in case.rig.hookup.links if k.b is None and case.network.find(f"{k.a.unit}.{k.a.socket}") in reach]


def _why_open(case: Case, seen: Seen) -> str:
    jacks = {End(seen.output.amp, j) for j in seen.output.jacks}
    if not any(case.rig.link_at(j) for j in jacks):
        return "No lead is plugged into its speaker jack."
    if not isinf(seen.impedance):
        return f"What hangs on it comes to {in_ohms(seen.impedance)}, far too little load."
    if any(k.a in jacks for k in _free_ends(case, seen)):
        return "The lead in its speaker jack ends in the air."
    return "A lead leaves its speaker jack, but nothing at the end of the chain takes power."


@check(
    "open-output",
    FAMILY,
    "A valve amp's speaker jack sees nothing, or over four times what its tap wants.",
    reads=("network", "seen"),
    may_stop=True,
    asks=("safe_without_load",),
)
def open_output(case: Case) -> Iterator[Finding]:
    for seen in case.seen:
        amp = amp_of(case, seen)
        if not is_open(seen):
            continue
        if not harmed_when_open(amp):
            if ask_the_maker(amp):
                yield Finding(
                    id="open-output",
                    severity="caution",
                    text=f"{amp.name} has no load.",
                    reason="Without an output transformer only its maker can say what that does; its manual "
                    + ("says it should have one." if amp.safe_without_load == "no" else "tells: look it up."),
                    units=(seen.output.amp,),
                )
                continue
            yield Finding(
                id="open-output",
                severity="note",
                text=f"{amp.name} has no load, and does not mind.",
                reason="Its kind of power stage, or its maker, allows an open output. Nothing will be heard.",
                units=(seen.output.amp,),
            )
            continue
        fixes = [Fix(f"Put {case.rig.gear[k.lead].name} away", (Disconnect(k.lead),)) for k in _free_ends(case, seen)]
        fixes += [
            Fix(f"Switch {g.name} out of bypass", (SetControl(u, "bypass", False),))
            for u, g in case.rig.units()
            if isinstance(g, Attenuator) and case.rig.settings(u).get("bypass")
        ]
        fixes += [
            Fix(f"Switch “silent” of {g.name} off", (SetControl(u, "mute", False),))
            for u, g in case.rig.units()
            if isinstance(g, Attenuator) and g.is_muted(case.rig.site(u)) and g.mute == "open"
        ]
        fixes += [
            Fix(f"Switch {g.name} on", (SetControl(u, "mains", True),))
            for u, g in case.rig.units()
            if isinstance(g, ReAmp) and g.load_is_out(case.rig.site(u))
        ]
        doubt = " Whether its maker allows that is not known." if amp.safe_without_load == "unknown" else ""
        yield Finding(
            id="open-output",
            severity="stop",
            text=f"{amp.name} has no load.",
            reason=f"{_why_open(case, seen)} A valve output stage without a load can destroy its transformer.{doubt}",
            units=(seen.output.amp,),
            leads=tuple(k.lead for k in _free_ends(case, seen)),
            fixes=tuple(fixes),
        )


@check(
    "switched-out-load",
    FAMILY,
    "A plug in a switching socket has taken an inner load out; with nothing fit at the far end it is a stop.",
    reads=("network", "seen"),
    may_stop=True,
)
def switched_out_load(case: Case) -> Iterator[Finding]:
    for unit, gear in case.rig.units():
        if not isinstance(gear, Load) or not gear.load_is_out(case.rig.site(unit)):
            continue
        link = case.rig.link_at(End(unit, "through"))
        assert link is not None
        feeding = feeding_input(case, unit)
        bad = [s for s in feeding if is_open(s) and harmed_when_open(amp_of(case, s))]
        sees = ", ".join(f"{case.rig.name(s.output.amp)} now sees {ohms(s)}" for s in feeding)
        put_away = Fix(f"Take the lead out of {gear.name}'s through socket", (Disconnect(link.lead),))
        yield Finding(
            id="switched-out-load",
            severity="stop" if bad else "note",
            text=f"The plug in {gear.name}'s through socket takes its load out.",
            reason=(f"{sees}. " if sees else "")
            + ("Nothing fit is at the far end of that lead." if bad else "Only what follows the socket counts."),
            units=(unit, *(s.output.amp for s in feeding)),
            leads=(link.lead,),
            fixes=(put_away,) if bad else (),
        )


@check(
    "shorted-output",
    FAMILY,
    "An amp sees under a tenth of what its tap wants.",
    reads=("seen",),
    may_stop=True,
)
def shorted_output(case: Case) -> Iterator[Finding]:
    for seen in case.seen:
        if seen.ratio < 0.1:
            yield Finding(
                id="shorted-output",
                severity="stop",
                text=f"{case.rig.name(seen.output.amp)} is as good as shorted: {in_ohms(seen.impedance)}.",
                reason=f"Its tap wants {in_ohms(seen.output.wanted)}; under a tenth of that counts as a short.",
                units=(seen.output.amp,),
            )


@check(
    "speaker-into-input",
    FAMILY,
    "A signal that comes from a power stage goes into a jack that has no speaker-level rating.",
    reads=("network",),
    may_stop=True,
)
def speaker_into_input(case: Case) -> Iterator[Finding]:
    for link in case.rig.hookup.links:
        if link.b is None:
            continue
        for source, target in ((link.a, link.b), (link.b, link.a)):
            out, into = case.rig.socket(source), case.rig.socket(target)
            if out.level != "speaker" or into.speaker_rated:
                continue
            fed = any(
                case.network.find(f"{source.unit}.{source.socket}") in case.network.connected(s.output.node)
                for s in seen_by(case.rig)
            )
            yield Finding(
                id="speaker-into-input",
                severity="stop" if fed else "caution",
                text=f"Speaker level goes into {case.rig.label(target)}.",
                reason=f"The lead comes from {case.rig.label(source)}. A line, instrument or microphone input is"
                " not made for a power stage, however low it is turned.",
                units=(source.unit, target.unit),
                leads=(link.lead,),
                fixes=(Fix(f"Take {case.rig.gear[link.lead].name} out", (Disconnect(link.lead),)),),
            )


@check(
    "outputs-joined",
    FAMILY,
    "The outputs of two amps meet.",
    reads=("network",),
    may_stop=True,
)
def outputs_joined(case: Case) -> Iterator[Finding]:
    said: set[frozenset[str]] = set()
    every = seen_by(case.rig)
    for one in every:
        reach = case.network.connected(one.output.node)
        for other in every:
            pair = frozenset((one.output.amp, other.output.amp))
            if len(pair) < 2 or pair in said or case.network.find(other.output.node) not in reach:
                continue
            said.add(pair)
            names = " and ".join(case.rig.name(a) for a in (one.output.amp, other.output.amp))
            yield Finding(
                id="outputs-joined",
                severity="stop",
                text=f"The outputs of {names} meet.",
                reason="Each would drive the other's output stage. Only one powered output may feed a load.",
                units=(one.output.amp, other.output.amp),
            )


@check(
    "two-taps-used",
    FAMILY,
    "Two different impedance taps of one amp are loaded together.",
    reads=("seen",),
    may_stop=True,
)
def two_taps_used(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        loaded = [s for s in case.seen if s.output.amp == unit and s.impedance < IDLE_OVER_TAP * s.output.tap]
        if len(loaded) < 2 or amp.several_taps:
            continue
        named = " and ".join(in_ohms(s.output.tap) for s in loaded)
        fixes = [f for s in loaded for f in to_other_tap(case.rig, s.output)]
        links = [k.lead for k in case.rig.hookup.links if unit in {e.unit for e in k.ends()}]
        yield Finding(
            id="two-taps-used",
            severity="stop",
            text=f"{amp.name} is loaded on its {named} taps at once.",
            reason="Taps are parts of one winding; loaded together they ask for more than the output stage has.",
            units=(unit,),
            leads=tuple(links),
            fixes=tuple({f.label: f for f in fixes}.values()),
        )


@check(
    "reversed-attenuator",
    FAMILY,
    "Power comes to an attenuator or re-amplifier from its speaker side, by whatever way.",
    reads=("reached",),
    may_stop=True,
)
def reversed_attenuator(case: Case) -> Iterator[Finding]:
    for whole in case.reached:
        for unit in (u for u, backwards in whole.as_set.reversed_.items() if backwards[0]):
            name = case.rig.name(unit)
            leads = tuple(k.lead for k in (case.rig.link_at(End(unit, s)) for s in ("in", "out")) if k)
            yield Finding(
                id="reversed-attenuator",
                severity="stop",
                text=f"{name} is in backwards: power comes to its speaker side.",
                reason="The full output then lies across a part that is made for what is left after"
                " attenuation, and what"
                " the amp sees changes with every step.",
                units=(unit, *(a for a, _ in case.rig.amps() if a in whole.speakers.units)),
                leads=leads,
                fixes=tuple(_turned_round(case.rig, unit)),
            )


def _turned_round(rig: Rig, unit: str) -> Iterator[Fix]:
    """The leads at both sides of a box swapped; or the one that brings power to its speaker side put away."""
    out, into = End(unit, "out"), End(unit, "in")
    wrong, right = rig.link_at(out), rig.link_at(into)
    if wrong is None:
        return
    changes = list(replug(wrong, out, into))
    if right:
        changes = [Disconnect(wrong.lead), *replug(right, into, out), changes[1]]
    yield Fix(f"Swap in and out of {rig.name(unit)}", tuple(changes))
    yield Fix(f"Take {rig.conductor(wrong).name} out", (Disconnect(wrong.lead),))
