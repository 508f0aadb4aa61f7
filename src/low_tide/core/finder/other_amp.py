"""The same hook-up with another amp: which tap, and what changes by it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from math import isfinite

from low_tide.core.gear.base import Setting
from low_tide.core.inventory import Amp, Cabinet
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import Judgement, judge
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import (
    AddUnit,
    Change,
    Connect,
    Disconnect,
    Measure,
    RemoveUnit,
    SetControl,
    Stand,
    changed,
)
from low_tide.core.rig.hookup import End, HookupError, Link
from low_tide.core.rig.rig import Rig
from low_tide.core.units import figure, in_ohms, level_figure

LEAST_TOLD_DB = 0.05
MOST_FINDINGS_TOLD = 2


@dataclass(frozen=True)
class OtherAmp:
    """An amp in another's place, on the tap (Ω) where least is found: the verdict, what differs, what does it."""

    amp: str
    name: str
    tap: float
    severity: str
    words: str
    differs: tuple[str, ...]
    changes: tuple[Change, ...]


def with_other_amps(
    rig: Rig, unit: str, preferences: Preferences | None = None, pause: Callable[[], None] = lambda: None
) -> tuple[OtherAmp, ...]:
    """Every other amp that is owned in the place of one in the hook-up, those with the best verdict first.

    KeyError where `unit` is no amp of the hook-up. `pause`: called between one and the next; what it raises ends them.
    """
    old = dict(rig.amps())[unit]
    before = judge(rig, preferences)
    found = []
    for amp in rig.owned(Amp):
        if amp.id == old.id or rig.has(amp.id):
            continue
        tried = []
        for tap, changes, lost in _ways(rig, unit, amp):
            pause()
            try:
                tried.append((tap, changes, lost, judge(changed(rig, changes), preferences)))
            except HookupError:
                continue
        if tried:
            tap, changes, lost, after = min(tried, key=lambda each: _rank(each[3]))
            verdict, differs = after.verdict, _differs(rig, before, after, amp, lost)
            found.append(OtherAmp(amp.id, amp.name, tap, verdict.severity, verdict.words, differs, changes))
    return tuple(sorted(found, key=lambda o: RANK[o.severity]))


def _rank(judged: Judgement) -> tuple[int, int, float]:
    return judged.verdict.stops, judged.verdict.cautions, -(_margin(judged) or 0.0)


def _margin(judged: Judgement) -> float | None:
    return min((s.margin_db for s in judged.case.shares if s.margin_db is not None), default=None)


def _ways(rig: Rig, unit: str, amp: Amp) -> Iterator[tuple[float, tuple[Change, ...], tuple[Link, ...]]]:
    """Every tap of an amp that has jacks enough: what puts it in the other's place, and leads that find no socket."""
    links = [k for k in rig.hookup.links if unit in {end.unit for end in k.ends()}]
    ends = [(link, end) for link in links for end in link.ends() if end.unit == unit]
    speaker = [end for _, end in ends if rig.socket(end).level == "speaker"]
    others = {s.id for s in amp.sockets() if s.level != "speaker"}
    lost = tuple(k for k, end in ends if rig.socket(end).level != "speaker" and end.socket not in others)
    kept = [k for k in links if k not in lost]
    placed = next(p for p in rig.hookup.units if p.unit == unit)
    settings = _settings(rig, unit, amp)
    for tap, _, jacks in amp.tap_sockets():
        if len(jacks) < len(speaker):
            continue
        onto = dict(zip(speaker, jacks, strict=False))
        on_tap: dict[str, Setting] = {"tap": f"{tap.impedance:g}"} if _has(amp, "tap") else {}
        yield (
            tap.impedance,
            (
                AddUnit(amp.id),
                *([RemoveUnit(amp.inner_speaker)] if _brings_its_speaker(rig, amp) else []),
                *(Disconnect(k.lead) for k in links),
                RemoveUnit(unit),
                *([Stand(amp.id, placed.room, placed.mount)] if placed.room or placed.mount else []),
                *(SetControl(amp.id, control, value) for control, value in {**settings, **on_tap}.items()),
                *(_connected(k, unit, amp.id, onto) for k in kept),
                *(Measure(k.lead, k.reach, k.tight) for k in kept if k.reach is not None or k.tight),
            ),
            lost,
        )


def _has(amp: Amp, control: str) -> bool:
    return any(c.id == control for c in amp.controls())


def _settings(rig: Rig, unit: str, amp: Amp) -> dict[str, Setting]:
    """What the other amp is set to as the first one is, where it can be."""
    now = rig.settings(unit)
    same = ("mode", "flat_out", "master_down")
    return {
        c.id: now[c.id]
        for c in amp.controls()
        if c.id in same and c.id in now and now[c.id] != c.default and c.refuses(now[c.id]) is None
    }


def _brings_its_speaker(rig: Rig, amp: Amp) -> bool:
    """Whether a combo comes with its own speaker plugged in, which then has to come out."""
    speaker = rig.gear.get(amp.inner_speaker)
    return isinstance(speaker, Cabinet) and speaker.own_lead is not None and not rig.has(speaker.id)


def _connected(link: Link, unit: str, amp: str, onto: dict[End, str]) -> Connect:
    def moved(end: End) -> End:
        return End(amp, onto.get(end, end.socket)) if end.unit == unit else end

    return Connect(link.lead, moved(link.a), moved(link.b) if link.b else None)


def _differs(rig: Rig, before: Judgement, after: Judgement, other: Amp, lost: tuple[Link, ...]) -> tuple[str, ...]:
    """What differs, in sentences: what it sees, room to ratings, levels at the converter and at places, findings."""
    said = []
    for seen in after.case.seen:
        if seen.output.amp == other.id:
            ohms = in_ohms(seen.impedance) if isfinite(seen.impedance) else "no load"
            said.append(f"It sees {ohms} on its {in_ohms(seen.output.tap)} tap.")
    was, now = _margin(before), _margin(after)
    if now is not None:
        then = "" if was is None or abs(now - was) < LEAST_TOLD_DB else f" (now {level_figure(was)})"
        said.append(f"Least room to a rating, flat out: {level_figure(now)} dB{then}.")
    said += _moved_levels(before, after)
    if _brings_its_speaker(rig, other):
        said.append(f"{rig.gear[other.inner_speaker].name} is unplugged.")
    said += [f"{rig.gear[link.lead].name} finds no socket on it and stays out." for link in lost]
    known = {f.key for f in before.findings}
    new = [f for f in after.findings if f.key not in known and RANK[f.severity] >= RANK["caution"]]
    said += [f.text for f in new[:MOST_FINDINGS_TOLD]]
    more = len(new) - MOST_FINDINGS_TOLD
    if more > 0:
        said.append(f"{more} more to look at.")
    return tuple(dict.fromkeys(said))


def _moved_levels(before: Judgement, after: Judgement) -> Iterator[str]:
    peaks = {p.input: p.dbfs for p in before.case.line_points}
    for point in after.case.line_points:
        was = peaks.get(point.input)
        if point.dbfs is not None and (was is None or abs(point.dbfs - was) >= LEAST_TOLD_DB):
            then = "" if was is None else f" (now {level_figure(was)})"
            yield f"Peaks about {level_figure(point.dbfs)} dBFS at {after.case.rig.label(point.input)}{then}."
    heard = {h.place: h.dba for h in before.case.sound_levels}
    for h in after.case.sound_levels:
        was = heard.get(h.place)
        if h.dba is not None and was is not None and (h.ears or h.limit) and abs(h.dba - was) >= 1:
            yield f"About {figure(h.dba, 2)} dBA at {h.name} (now {figure(was, 2)})."
