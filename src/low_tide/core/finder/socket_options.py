"""What may go into a socket, and what would follow from each, computed before it is chosen."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from math import inf, isfinite, log

from low_tide.core.finder.plugging import Proposal, between, proposals
from low_tide.core.inventory import Lead
from low_tide.core.judging.findings import RANK, Finding, Fix
from low_tide.core.judging.judge import Judgement, judge
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import Change, SetControl, changed
from low_tide.core.rig.hookup import End, HookupError
from low_tide.core.rig.rig import Rig, differs
from low_tide.core.units import in_ohms, level_figure


@dataclass(frozen=True)
class Choice:
    """One thing to do with a socket: the changes, and the verdict that would follow.

    `group` sorts the list: the lead that is here, units in the hook-up, units in the locker. `needs`: a lead that is
    not in the locker yet and has to be put there first.
    """

    group: str
    label: str
    detail: str
    changes: tuple[Change, ...]
    severity: str
    consequence: str
    needs: Lead | None = None


NAMED_BY_WHAT_IT_SEES = {"mismatch", "open-output"}
"""Checks whose finding is told by what the amp sees on which tap."""


def consequence(before: Judgement, after: Judgement, speaker: bool) -> tuple[str, str]:
    """Severity and one sentence for what a change leads to; with a stop, always what stops and on which tap."""
    said = []
    stops = [f for f in after.findings if f.severity == "stop"]
    if speaker:
        taps = {(s.output.amp, s.output.tap) for s in before.case.seen}
        for seen in after.case.seen:
            ohms = in_ohms(seen.impedance) if isfinite(seen.impedance) else "no load"
            moved = (seen.output.amp, seen.output.tap) not in taps and seen.output.amp in {amp for amp, _ in taps}
            tap = "a tap not known" if seen.output.doubtful else f"its {in_ohms(seen.output.tap)} tap"
            where = f" on {tap}" if moved or (stops and isfinite(seen.impedance)) or seen.output.doubtful else ""
            said.append(f"{after.case.rig.name(seen.output.amp)} then sees {ohms}{where}")
    else:
        said += [f"peaks about {level_figure(p.dbfs)} dBFS" for p in after.case.line_points if p.dbfs is not None]
    known = {f.key for f in before.findings}
    new = [f for f in after.findings if f.key not in known and RANK[f.severity] >= RANK["caution"]]
    named = [*(f for f in new if f.severity == "stop"), *stops, *new]
    if named and not (speaker and named[0].id in NAMED_BY_WHAT_IT_SEES):
        said.append(("still: " if named[0].key in known else "") + named[0].text.rstrip("."))
    return after.verdict.severity, "; ".join(dict.fromkeys(said)) or after.verdict.words


def choices(rig: Rig, end: End, preferences: Preferences | None = None) -> tuple[Choice, ...]:
    """Everything that may be done at a socket, least dangerous first within its group.

    Where something would stop because of the tap, the same is offered with a tap on which less does.
    """
    return _weighed(rig, end, proposals(rig, end), preferences)


def in_between(
    rig: Rig, end: End, preferences: Preferences | None = None, pause: Callable[[], None] = lambda: None
) -> tuple[Choice, ...]:
    """Everything that may be put into the lead at a socket, least dangerous first; nothing where no lead is.

    `pause`: called between one and the next; what it raises ends them.
    """
    link = rig.link_at(end)
    return _weighed(rig, end, between(rig, link) if link else (), preferences, pause)


def _weighed(
    rig: Rig,
    end: End,
    found: Iterable[Proposal],
    preferences: Preferences | None,
    pause: Callable[[], None] = lambda: None,
) -> tuple[Choice, ...]:
    before = judge(rig, preferences)
    speaker = rig.socket(end).level == "speaker"
    weighed: list[tuple[tuple[int, int, int], Choice]] = []
    for each in found:
        pause()
        try:
            after = judge(changed(_owning(rig, each.needs), each.changes), preferences)
        except HookupError:
            continue
        for label, changes, judged in ((each.label, each.changes, after), *_on_other_tap(each, before, after)):
            severity, text = consequence(before, judged, speaker)
            choice = Choice(each.group, label, each.detail, changes, severity, text, each.needs)
            weight = (judged.verdict.stops, judged.verdict.cautions, int(each.needs is not None))
            weighed.append((weight, choice))
    groups = {name: i for i, name in enumerate(dict.fromkeys(c.group for _, c in weighed))}
    return tuple(c for _, c in sorted(weighed, key=lambda wc: (groups[wc[1].group], wc[0])))


def _owning(rig: Rig, lead: Lead | None) -> Rig:
    """The rig with a lead in the locker that is not there yet."""
    return rig if lead is None else Rig(rig.hookup, {**rig.gear, lead.id: lead}, rig.known, like=rig)


def _on_other_tap(
    each: Proposal, before: Judgement, after: Judgement
) -> Iterator[tuple[str, tuple[Change, ...], Judgement]]:
    """The same with the tap at which least stops, where it is for the tap that something more stops than before."""
    known = {f.key for f in before.findings}
    new = (f for f in after.findings if f.id == "mismatch" and f.severity == "stop" and f.key not in known)
    mismatch = next(new, None)
    if mismatch is None:
        return
    tried = []
    for fix in _nearest(mismatch, after):
        with contextlib.suppress(HookupError):
            tried.append((fix, judge(changed(after.case.rig, fix.changes), after.case.preferences)))
    least = min(tried, key=lambda fj: (fj[1].verdict.stops, fj[1].verdict.cautions), default=None)
    if least is None or least[1].verdict.stops >= after.verdict.stops:
        return
    fix, judged = least
    amp = mismatch.units[0]
    tap = next((s.output.tap for s in judged.case.seen if s.output.amp == amp), None)
    if tap is not None:
        yield f"{each.label}, with the tap at {in_ohms(tap)}", (*each.changes, *fix.changes), judged


def _nearest(mismatch: Finding, after: Judgement) -> tuple[Fix, ...]:
    """The fix that turns a selector to the tap nearest to what the amp sees; where leads have to move, all of them."""
    seen = next((s for s in after.case.seen if s.output.amp == mismatch.units[0]), None)
    taps = [
        (float(change.value), fix)
        for fix in mismatch.fixes
        for change in fix.changes
        if isinstance(change, SetControl) and change.control == "tap"
    ]
    if not taps or seen is None or not 0 < seen.impedance < inf:
        return mismatch.fixes
    return (min(taps, key=lambda tf: abs(log(seen.impedance / tf[0])))[1],)


def preview(rig: Rig, changes: tuple[Change, ...], preferences: Preferences | None = None) -> tuple[str, str]:
    """Severity and sentence for what a set of changes would lead to. Raises HookupError."""
    after = changed(rig, changes)
    speaker = bool(differs(rig, after) & {"leads", "speaker"})
    return consequence(judge(rig, preferences), judge(after, preferences), speaker)
