"""Building blocks of fixes: moving leads between taps, swapping leads, taping what must not move."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.gear.base import Setting
from low_tide.core.inventory import Amp, Attenuator, Lead
from low_tide.core.judging.findings import Fix
from low_tide.core.power.speaker_network import Output
from low_tide.core.rig.changes import Change, Connect, Disconnect, Guard, Measure, SetControl
from low_tide.core.rig.hookup import End, Link
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import fits
from low_tide.core.rig.words import in_sentence, shown
from low_tide.core.units import figure, in_db_down, in_ohms


def replug(link: Link, end: End, to: End) -> tuple[Change, ...]:
    """Move one end of a lead into another socket."""
    a, b = (to if link.a == end else link.a), (to if link.b == end else link.b)
    return (Disconnect(link.lead), Connect(link.lead, a, b))


def standing_words(rig: Rig, unit: str, control: str, value: Setting | None = None) -> str:
    """'−12 dB', 'bridging': where a control stands, or another value of it, as it reads on the unit."""
    found, gear = rig.control(unit, control), rig.gear[unit]
    assert found is not None
    now = rig.settings(unit)[control] if value is None else value
    if control == "step" and isinstance(gear, Attenuator) and not gear.marks:
        return in_db_down(gear.decibels(now))
    return shown(found, now)


def tape(rig: Rig, unit: str, control: str) -> Fix:
    """A control taped where it stands."""
    found = rig.control(unit, control)
    assert found is not None
    what = rig.name(unit) if control == "step" else f"the {in_sentence(found.label)} of {rig.name(unit)}"
    return Fix(f"Tape {what} at {standing_words(rig, unit, control)}", (Guard(unit, control),))


def to_other_tap(rig: Rig, output: Output) -> Iterator[Fix]:
    """Moves of everything on this amp to each of its other taps, the nearest tap first."""
    amp = rig.gear[output.amp]
    if not isinstance(amp, Amp):
        return
    if amp.tap_choice == "selector":
        for tap in amp.taps:
            if tap.impedance != output.tap or output.doubtful:
                value = f"{tap.impedance:g}"
                yield Fix(f"Set the tap to {in_ohms(tap.impedance)}", (SetControl(output.amp, "tap", value),))
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
            yield Fix(f"Move {label} to the {in_ohms(tap.impedance)} tap", tuple(changes))


def other_lead(rig: Rig, link: Link, construction: str, cut: bool = False) -> Iterator[Fix]:
    """Replacements of a lead by free ones of a construction that fit and are long enough, shortest first.

    `cut`: ones whose screen is cut at one end; else none of these.
    """
    old = rig.conductor(link)
    if not isinstance(old, Lead):
        return
    a, b = rig.socket(link.a), rig.socket(link.b) if link.b else None
    enough = old.length if link.reach is None else link.reach
    spare = [g for g in rig.free(Lead) if g.construction == construction and g.screen_is_cut == cut]
    for lead in sorted(spare, key=lambda g: (g.length < enough, link.tight and g.angled == "none", g.length)):
        if fits(lead, a, b):
            changes: list[Change] = [Disconnect(link.lead), Connect(lead.id, link.a, link.b)]
            if link.reach is not None or link.tight:
                changes.append(Measure(lead.id, link.reach, link.tight))
            yield Fix(f"Use {lead.name} instead ({figure(lead.length)} m)", tuple(changes))
