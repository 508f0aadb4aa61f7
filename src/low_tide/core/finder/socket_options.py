"""What may go into a socket, and what would follow from each, computed before it is chosen."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from math import isfinite

from low_tide.core.gear.base import Socket
from low_tide.core.inventory import Amp, Cabinet, Lead, Surrounding
from low_tide.core.judging.findings import RANK, Finding
from low_tide.core.judging.judge import Judgement, judge
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import AddUnit, Change, Connect, Disconnect, changed
from low_tide.core.rig.hookup import End, HookupError
from low_tide.core.rig.rig import Rig, differs
from low_tide.core.rig.validation import fits
from low_tide.core.units import figure, level_figure


@dataclass(frozen=True)
class Choice:
    """One thing to do with a socket: the changes, and the verdict that would follow.

    `group` sorts the list: the lead that is here, units in the hook-up, units in the locker.
    """

    group: str
    label: str
    detail: str
    changes: tuple[Change, ...]
    severity: str
    consequence: str


CONSTRUCTION = {
    "speaker": "speaker",
    "line": "balanced",
    "instrument": "screened",
    "microphone": "balanced",
    "phones": "balanced",
    "air": "screened",
}


def best_lead(rig: Rig, a: Socket, b: Socket | None) -> Lead | None:
    """The free lead to use between two sockets: right construction first, then the shortest that fits."""
    wanted = CONSTRUCTION[a.level]
    signal = {"balanced": 0, "screened": 1, "speaker": 2}

    def order(lead: Lead) -> tuple[int, float]:
        if wanted == "speaker":
            return (0 if lead.construction == "speaker" else 1, lead.length)
        return (signal[lead.construction], lead.length)

    spare = [g for g in rig.free(Lead) if fits(g, a, b)]
    return min(spare, key=order, default=None)


def meets(a: Socket, b: Socket) -> bool:
    """Whether someone would plug a lead from `a` to `b`: an output and an input, or two speaker sockets."""
    if {"air", "phones"} & {a.level, b.level}:
        return a.level == b.level and a.flow != b.flow
    if {a.flow, b.flow} == {"in", "out"}:
        return a.level == b.level or a.level == "speaker" or b.level == "speaker" or "line" in (a.level, b.level)
    return False


def consequence(before: Judgement, after: Judgement, speaker: bool) -> tuple[str, str]:
    """Severity and one sentence for what a change leads to."""
    said = []
    if speaker:
        taps = {(s.output.amp, s.output.tap) for s in before.case.seen}
        for seen in after.case.seen:
            ohms = f"{figure(seen.impedance)} Ω" if isfinite(seen.impedance) else "no load"
            moved = (seen.output.amp, seen.output.tap) not in taps and seen.output.amp in {amp for amp, _ in taps}
            where = f" on its {figure(seen.output.tap)} Ω tap" if moved else ""
            said.append(f"{after.case.rig.name(seen.output.amp)} then sees {ohms}{where}")
    else:
        said += [f"peaks about {level_figure(p.dbfs)} dBFS" for p in after.case.line_points if p.dbfs is not None]
    known = {f.key for f in before.findings}
    new = [f for f in after.findings if f.key not in known and RANK[f.severity] >= RANK["caution"]]
    if new and new[0].id not in ("mismatch", "open-output"):
        said.append(_short(new[0]))
    return after.verdict.severity, "; ".join(said) or after.verdict.words


def _short(finding: Finding) -> str:
    return finding.text.rstrip(".")


def choices(rig: Rig, end: End, preferences: Preferences | None = None) -> tuple[Choice, ...]:
    """Everything that may be done at a socket, least dangerous first within its group."""
    before = judge(rig, preferences)
    speaker = rig.socket(end).level == "speaker"
    found, weight = [], []
    for group, label, detail, changes in _proposals(rig, end):
        try:
            after = judge(changed(rig, changes), preferences)
        except HookupError:
            continue
        severity, text = consequence(before, after, speaker)
        weight.append((after.verdict.stops, after.verdict.cautions))
        found.append(Choice(group, label, detail, changes, severity, text))
    groups = {name: i for i, name in enumerate(dict.fromkeys(c.group for c in found))}
    return tuple(c for _, c in sorted(enumerate(found), key=lambda ic: (groups[ic[1].group], weight[ic[0]], ic[0])))


Proposal = tuple[str, str, str, tuple[Change, ...]]


def _proposals(rig: Rig, end: End) -> Iterator[Proposal]:
    if rig.link_at(end):
        yield from _with_lead(rig, end)
    else:
        yield from _without_lead(rig, end)


def _with_lead(rig: Rig, end: End) -> Iterator[Proposal]:
    link = rig.link_at(end)
    assert link is not None
    conductor, here = rig.conductor(link), "The lead that is here"
    yield here, f"Put {conductor.name} away", "", (Disconnect(link.lead),)
    if link.b is not None and isinstance(conductor, Lead):
        loose: tuple[Change, ...] = (Disconnect(link.lead), Connect(link.lead, end))
        yield here, "Pull the far end out, leave this one in", "", loose
    if not isinstance(conductor, Lead):
        return
    a, b = rig.socket(link.a), rig.socket(link.b) if link.b else None
    for lead in rig.free(Lead):
        if fits(lead, a, b):
            swap: tuple[Change, ...] = (Disconnect(link.lead), Connect(lead.id, link.a, link.b))
            yield "Another lead in its place", lead.name, lead.summary(), swap
    if link.b is None:
        for other, label, detail, extra in _targets(rig, end):
            if fits(conductor, rig.socket(end), other[1]):
                both = (*extra, Disconnect(link.lead), Connect(link.lead, end, other[0]))
                yield "Its free end goes to", label, detail, both


def _without_lead(rig: Rig, end: End) -> Iterator[Proposal]:
    here = rig.socket(end)
    if here.own_lead is not None:
        for other, label, detail, extra in _targets(rig, end):
            group = "In the locker" if extra else "In this hook-up"
            yield group, label, detail, (*extra, Connect(end.unit, end, other[0]))
        return
    loose = [k for k in rig.hookup.links if k.b is None and k.a != end and isinstance(rig.conductor(k), Lead)]
    for link in loose:
        conductor = rig.conductor(link)
        assert isinstance(conductor, Lead)
        if fits(conductor, rig.socket(link.a), here):
            yield (
                "In this hook-up",
                f"The free end of {conductor.name}",
                f"from {rig.label(link.a)}",
                (Disconnect(link.lead), Connect(link.lead, link.a, end)),
            )
    for other, label, detail, extra in _targets(rig, end):
        group = "In the locker" if extra else "In this hook-up"
        if other[1].own_lead is not None:
            yield group, label, f"{detail}, by its own lead", (*extra, Connect(other[0].unit, end, other[0]))
            continue
        lead = best_lead(rig, here, other[1])
        if lead is not None:
            yield group, label, f"{detail}, {lead.name}", (*extra, Connect(lead.id, end, other[0]))
    lead = best_lead(rig, here, None)
    if lead is not None:
        yield "Nothing at the far end", f"{lead.name}, far end free", lead.summary(), (Connect(lead.id, end),)


def _targets(rig: Rig, end: End) -> Iterator[tuple[tuple[End, Socket], str, str, tuple[Change, ...]]]:
    """Free sockets a lead from here may go to, first in the hook-up, then on units in the locker."""
    here = rig.socket(end)
    for unit, gear in rig.units():
        for socket in gear.sockets():
            target = End(unit, socket.id)
            if unit != end.unit and rig.link_at(target) is None and meets(here, socket):
                yield (target, socket), f"{gear.name}, {socket.label}", gear.summary(), ()
    inside = set(rig.hookup.gear_ids())
    speakers = {g.inner_speaker for g in rig.gear.values() if isinstance(g, Amp)}
    for gear in rig.gear.values():
        if gear.id in inside or gear.archived or isinstance(gear, Lead | Surrounding):
            continue
        if isinstance(gear, Cabinet) and gear.own_lead and gear.id in speakers:
            continue  # a combo's speaker comes with its amp
        for socket in gear.sockets():
            # Nobody fetches a box to put the wrong level into it; with what stands here already it happens.
            if meets(here, socket) and (here.level == "speaker") == (socket.level == "speaker"):
                target = End(gear.id, socket.id)
                yield (target, socket), f"{gear.name}, {socket.label}", gear.summary(), (AddUnit(gear.id),)
                if socket.level == "speaker" and socket.flow == "in":
                    break  # one input jack of a unit stands for its parallel ones


def preview(rig: Rig, changes: tuple[Change, ...], preferences: Preferences | None = None) -> tuple[str, str]:
    """Severity and sentence for what a set of changes would lead to. Raises HookupError."""
    after = changed(rig, changes)
    speaker = bool(differs(rig, after) & {"leads", "speaker"})
    return consequence(judge(rig, preferences), judge(after, preferences), speaker)
