"""Digital links: one clock leads, and all run at its rate."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.gear.digital import OWN_CLOCK
from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.rig.changes import SetControl
from low_tide.core.rig.hookup import End, Link

FAMILY = "Digital links"


def _links(case: Case) -> Iterator[tuple[Link, End, End]]:
    """Digital leads: lead, output end, input end."""
    for link in case.rig.hookup.links:
        if link.b is None:
            continue
        for a, b in ((link.a, link.b), (link.b, link.a)):
            out, into = case.rig.socket(a), case.rig.socket(b)
            if out.level == into.level == "digital" and out.flow == "out" and into.flow == "in":
                yield link, a, b


def _clock(case: Case, unit: str) -> str:
    return str(case.rig.settings(unit).get("clock", OWN_CLOCK))


def master_of(case: Case, unit: str) -> str | None:
    """The unit whose clock leads a unit; None where the clocks go round in a circle, or come from an empty socket."""
    seen: set[str] = set()
    while (clock := _clock(case, unit)) != OWN_CLOCK:
        seen.add(unit)
        far = case.rig.far_end(End(unit, clock))
        if far is None or far.unit in seen:
            return None
        unit = far.unit
    return unit


@check(
    "clock-source",
    FAMILY,
    "A digital link joins two clocks that both lead, none that does, or two rates.",
    reads=("leads", "signal"),
)
def clock_source(case: Case) -> Iterator[Finding]:
    for link, source, target in _links(case):
        names = case.rig.name(source.unit), case.rig.name(target.unit)
        units, leads = (source.unit, target.unit), (link.lead,)
        first, second = master_of(case, source.unit), master_of(case, target.unit)
        follow = Fix(
            f"Let {names[1]} follow {case.rig.socket(target).label}",
            (SetControl(target.unit, "clock", target.socket),),
        )
        lead = Fix(
            f"Let {names[0]} lead and {names[1]} follow",
            (SetControl(source.unit, "clock", OWN_CLOCK), *follow.changes)
            if case.rig.control(source.unit, "clock")
            else follow.changes,
        )
        if first is None or second is None:
            lost = names[0] if first is None else names[1]
            yield Finding(
                id="clock-source",
                severity="caution",
                text=f"Nobody leads the clock of {lost}.",
                reason="It follows a socket that nothing leads: an empty one, or one that follows it in turn. Then it"
                " drops out, or nothing comes through.",
                which="nobody",
                fixes=(lead,),
                units=units,
                leads=leads,
            )
        elif first != second:
            yield Finding(
                id="clock-source",
                severity="caution",
                text=f"Two clocks: {names[0]} and {names[1]} each run by their own.",
                reason="They drift apart, and every few seconds a sample is lost or doubled: clicks that no edit takes"
                " out. One leads, the other follows what it sends.",
                which="two",
                fixes=(follow,),
                units=units,
                leads=leads,
            )
        rates = tuple(str(case.rig.settings(unit).get("rate", "")) for unit in (source.unit, target.unit))
        if rates[0] != rates[1]:
            yield Finding(
                id="clock-source",
                severity="caution",
                text=f"Two rates: {names[0]} sends {rates[0]} kHz and {names[1]} runs at {rates[1]} kHz.",
                reason="Then it plays at another pitch, or nothing comes through.",
                which="rates",
                fixes=(
                    Fix(f"Set {names[1]} to {rates[0]} kHz", (SetControl(target.unit, "rate", rates[0]),)),
                    Fix(f"Set {names[0]} to {rates[1]} kHz", (SetControl(source.unit, "rate", rates[1]),)),
                ),
                units=units,
                leads=leads,
            )
        if first is not None and first == second and rates[0] == rates[1]:
            yield Finding(
                id="clock-source",
                severity="fine",
                text=f"One clock, {case.rig.name(first)}'s, at {rates[0]} kHz.",
                reason=f"{names[0]} and {names[1]} run by it.",
                which="fine",
                units=units,
                leads=leads,
            )


@check(
    "not-digital",
    FAMILY,
    "A digital socket is joined to one that carries no digital signal.",
    reads=("leads",),
)
def not_digital(case: Case) -> Iterator[Finding]:
    for link in case.rig.hookup.links:
        levels = {case.rig.socket(end).level for end in link.ends()}
        if link.b is None or "digital" not in levels or levels == {"digital"} or "speaker" in levels:
            continue
        yield Finding(
            id="not-digital",
            severity="caution",
            text=f"{case.rig.label(link.a)} and {case.rig.label(link.b)} do not speak the same.",
            reason="One is digital and the other is not, though the plugs may fit: noise, or nothing.",
            units=tuple(end.unit for end in link.ends()),
            leads=(link.lead,),
        )
