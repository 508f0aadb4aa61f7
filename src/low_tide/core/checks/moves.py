"""Building blocks of fixes: moving leads between taps, swapping leads, putting things away."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.changes import Change, Connect, Disconnect, Measure, SetControl
from low_tide.core.circuit import Output
from low_tide.core.finding import Fix
from low_tide.core.gear import Amp, Lead
from low_tide.core.hookup import End, Link, Rig, fits
from low_tide.core.units import figure


def replug(link: Link, end: End, to: End) -> tuple[Change, ...]:
    """Move one end of a lead into another socket."""
    a, b = (to if link.a == end else link.a), (to if link.b == end else link.b)
    return (Disconnect(link.lead), Connect(link.lead, a, b))


def to_other_tap(rig: Rig, output: Output) -> Iterator[Fix]:
    """Moves of everything on this amp to each of its other taps, the nearest tap first."""
    amp = rig.gear[output.amp]
    if not isinstance(amp, Amp):
        return
    if amp.tap_choice == "selector":
        for tap in amp.taps:
            if tap.impedance != output.tap or output.doubtful:
                value = f"{tap.impedance:g}"
                yield Fix(f"Set the tap to {figure(tap.impedance)} Ω", (SetControl(output.amp, "tap", value),))
        return
    plugged = [
        (link, end)
        for link in rig.hookup.links
        for end in link.ends()
        if end.unit == output.amp and rig.socket(end).level == "speaker"
    ]
    for tap, _, jacks in amp.tap_sockets():
        moving = [(link, end) for link, end in plugged if end.socket not in jacks]
        free = [j for j in jacks if rig.link_at(End(output.amp, j)) is None]
        if moving and len(free) >= len(moving):
            changes: list[Change] = []
            for (link, end), jack in zip(moving, free, strict=False):
                changes += replug(link, end, End(output.amp, jack))
            which = {1: "the lead", 2: "both leads" if len(plugged) == 2 else "two leads"}
            label = which.get(len(moving), "the leads")
            yield Fix(f"Move {label} to the {figure(tap.impedance)} Ω tap", tuple(changes))


def other_lead(rig: Rig, link: Link, construction: str) -> Iterator[Fix]:
    """Replacements of a lead by free ones of a construction that fit and are long enough, shortest first."""
    old = rig.conductor(link)
    if not isinstance(old, Lead):
        return
    a, b = rig.socket(link.a), rig.socket(link.b) if link.b else None
    enough = old.length if link.reach is None else link.reach
    spare = [g for g in rig.free(Lead) if isinstance(g, Lead) and g.construction == construction]
    for lead in sorted(spare, key=lambda g: (g.length < enough, link.tight and g.angled == "none", g.length)):
        if fits(lead, a, b):
            changes: list[Change] = [Disconnect(link.lead), Connect(lead.id, link.a, link.b)]
            if link.reach is not None or link.tight:
                changes.append(Measure(lead.id, link.reach, link.tight))
            yield Fix(f"Use {lead.name} instead ({figure(lead.length)} m)", tuple(changes))
