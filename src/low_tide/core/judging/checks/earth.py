"""Earth and hum: more than one audio earth in a path, or none. Mains earth is never a part to play with."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal, TypeAlias

from low_tide.core.gear.abilities import line_out_of
from low_tide.core.inventory import Amp, Interface, Lead, LineBox
from low_tide.core.judging.checks.moves import other_lead
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.rig.changes import SetControl
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.kept import kept
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.graph import Route, signal_graph

FAMILY = "Earth and hum"


@dataclass(frozen=True)
class _Screen:
    """The screen of one way from an amp to a desk: where it could be lifted, and whether it is broken."""

    route: Route
    amp: str
    desk: str
    lifts: tuple[tuple[str, str], ...]
    lifted: bool
    isolated: bool


@kept(signal_graph)
def _screens(rig: Rig) -> tuple[_Screen, ...]:
    return tuple(_screens_of(rig))


def _screens_of(rig: Rig) -> Iterator[_Screen]:
    for end, routes in signal_graph(rig).takes:
        for route in routes[:1]:
            amps = [u for u in route.units() if isinstance(rig.gear[u], Amp)]
            # Through the air nothing is connected: a microphone has no screen in common with the amp.
            if not amps or any(e.b.socket == "capsule" for e in route.edges):
                continue
            lifts, isolated = [], False
            for unit in route.units():
                gear, settings = rig.gear[unit], rig.settings(unit)
                line = line_out_of(rig.gear[unit])
                used = End(unit, "line") in route.ends
                isolated |= (line is not None and used and line.isolated == "yes") or (
                    isinstance(gear, LineBox) and gear.isolated == "yes"
                )
                lifts += [(unit, c) for c in ("line.lift", "lift") if c in settings]
            isolated |= any(isinstance(lead := rig.gear[id], Lead) and lead.screen_is_cut for id in route.leads())
            lifted = any(rig.settings(u)[c] for u, c in lifts)
            yield _Screen(route, amps[0], end.unit, tuple(lifts), lifted, isolated)


def _earthed(case: Case, unit: str) -> str:
    gear = case.rig.gear[unit]
    if isinstance(gear, Amp):
        return gear.mains_earth
    return gear.earthed if isinstance(gear, Interface) else "unknown"


@check(
    "earth-loop",
    FAMILY,
    "Amp and interface are both earthed and a screen joins them: two audio earths in one path.",
    reads=("signal_paths",),
    asks=("earthed",),
)
def earth_loop(case: Case) -> Iterator[Finding]:
    said: set[tuple[str, str]] = set()
    for screen in _screens(case.rig):
        pair = (screen.amp, screen.desk)
        both = _earthed(case, screen.amp) == "yes" and _earthed(case, screen.desk) == "yes"
        if not both or screen.lifted or screen.isolated or pair in said:
            continue
        said.add(pair)
        names = f"{case.rig.name(screen.amp)} and {case.rig.name(screen.desk)}"
        fixes = (
            *(Fix(f"Lift the audio earth at {case.rig.name(u)}", (SetControl(u, c, True),)) for u, c in screen.lifts),
            *cut_lead_fixes(case, screen.route),
        )
        yield Finding(
            id="earth-loop",
            severity="note",
            text=f"Two audio earths: {names} are joined by the screen of the line.",
            reason=(
                f"If it hums, lift the audio earth at {case.rig.name(screen.lifts[0][0])} first; compare both positions"
                " on the meter and keep the quieter one."
                if screen.lifts
                else "If it hums, a box with a transformer or an audio-earth lift between them helps."
            )
            + " Mains earth stays connected, always.",
            units=screen.route.units(),
            leads=screen.route.leads(),
            fixes=fixes,
        )


def cut_lead_fixes(case: Case, route: Route) -> Iterator[Fix]:
    """Leads on the way replaced by balanced ones whose screen is cut at one end, where both ends are balanced."""
    for edge in route.edges:
        if edge.link is None or not is_balanced(case, edge.link):
            continue
        lead = case.rig.conductor(edge.link)
        if isinstance(lead, Lead) and not lead.screen_is_cut:
            yield from other_lead(case.rig, edge.link, "balanced", cut=True)


def is_balanced(case: Case, link: Link) -> bool:
    """Whether signal comes back by a core of its own, and needs no screen to."""
    lead = case.rig.conductor(link)
    if not isinstance(lead, Lead) or lead.construction != "balanced" or link.b is None:
        return False
    ends = [(end, case.rig.socket(end)) for end in link.ends()]
    if any(socket.connector in ("jack", "rca") for _, socket in ends):
        return False
    lines = (line_out_of(case.rig.gear[end.unit]) for end, socket in ends if end.socket == "line")
    return all(line is None or line.balanced for line in lines)


@check(
    "screen-cut",
    FAMILY,
    "A lead whose screen is cut at one end joins what is not balanced: the screen is the way back.",
    reads=("leads",),
)
def screen_cut(case: Case) -> Iterator[Finding]:
    for link in case.rig.hookup.links:
        lead = case.rig.conductor(link)
        if not isinstance(lead, Lead) or not lead.screen_is_cut or link.b is None or is_balanced(case, link):
            continue
        yield Finding(
            id="screen-cut",
            severity="caution",
            text=f"The screen of {lead.name} is cut, and the line is not balanced.",
            reason="Then the screen is the signal's way back: it hums loudly, or nothing arrives.",
            units=tuple(end.unit for end in link.ends()),
            leads=(link.lead,),
            fixes=(*other_lead(case.rig, link, lead.construction), *other_lead(case.rig, link, "balanced")),
        )


Earthing: TypeAlias = Literal["loop", "broken", "nothing"]


def earthing_at(case: Case, recorded_at: End) -> Earthing:
    """How the audio earth of the line to an input lies: in a loop, broken somewhere, or with nothing earthed."""
    for screen in _screens(case.rig):
        if screen.desk != recorded_at.unit or recorded_at not in screen.route.ends:
            continue
        desk = _earthed(case, screen.desk) == "yes"
        if screen.lifted and not desk:
            return "nothing"
        if desk and _earthed(case, screen.amp) == "yes" and not screen.lifted and not screen.isolated:
            return "loop"
    return "broken"


def route_to(case: Case, recorded_at: End) -> Route | None:
    """The way of a screen from an amp to an input; None where nothing joins them."""
    found = (s.route for s in _screens(case.rig) if s.desk == recorded_at.unit and recorded_at in s.route.ends)
    return next(found, None)


def lifts_to(case: Case, recorded_at: End) -> tuple[tuple[str, str], ...]:
    """Unit and control of every audio-earth lift on the way to an input."""
    return next((s.lifts for s in _screens(case.rig) if s.desk == recorded_at.unit and recorded_at in s.route.ends), ())


def lift_fixes(case: Case, recorded_at: End) -> Iterator[Fix]:
    """The other position of every audio-earth lift on the way to an input: which is quieter only trying tells."""
    for unit, control in lifts_to(case, recorded_at):
        lifted = bool(case.rig.settings(unit)[control])
        name = case.rig.name(unit)
        label = f"Put the lift of {name} off" if lifted else f"Lift the audio earth at {name}"
        yield Fix(label, (SetControl(unit, control, not lifted),))


@check(
    "nothing-earthed",
    FAMILY,
    "An audio-earth lift is on, and the interface has no audio earth of its own.",
    reads=("signal_paths",),
    asks=("earthed",),
)
def nothing_earthed(case: Case) -> Iterator[Finding]:
    for screen in _screens(case.rig):
        if not screen.lifted or _earthed(case, screen.desk) == "yes":
            continue
        unknown = _earthed(case, screen.desk) == "unknown"
        name = case.rig.name(screen.desk)
        on = [(u, c) for u, c in screen.lifts if case.rig.settings(u)[c]]
        yield Finding(
            id="nothing-earthed",
            severity="caution",
            text=f"The audio earth is lifted and {name} may have none of its own."
            if unknown
            else f"The audio earth is lifted and {name} has none of its own.",
            reason="Then nothing holds the line's screen at earth: it hums and picks up everything. "
            + (
                f"Find out whether {name} is earthed, by its plug or the computer's."
                if unknown
                else "Put the lift off."
            ),
            units=screen.route.units(),
            leads=screen.route.leads(),
            fixes=tuple(Fix(f"Put the lift of {case.rig.name(u)} off", (SetControl(u, c, False),)) for u, c in on),
        )


@check(
    "no-mains-earth",
    FAMILY,
    "An amp has no mains earth, or nobody knows whether it has.",
    reads=("leads",),
    may_stop=True,
    asks=("mains_earth",),
)
def no_mains_earth(case: Case) -> Iterator[Finding]:
    for unit, amp in case.rig.amps():
        if amp.mains_earth == "yes":
            continue
        lacks = amp.mains_earth == "no"
        yield Finding(
            id="no-mains-earth",
            severity="stop" if lacks else "caution",
            text=f"{amp.name} has no mains earth." if lacks else f"Find out whether {amp.name} has a mains earth.",
            reason="Without it a fault can put mains on the strings. A qualified technician sees to it before use."
            if lacks
            else "The plug and the maker's manual tell; a two-pin amp goes to a qualified technician first.",
            units=(unit,),
        )
