"""The judge: runs every check on a rig and keeps the fixes that really mend."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace
from itertools import islice

from low_tide.core.inventory import Interface
from low_tide.core.judging.checks import Case, run_all
from low_tide.core.judging.findings import RANK, Finding, Fix, Verdict, verdict
from low_tide.core.judging.over_scenes import InScene, in_scenes, over_scenes
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import Change, SetScene, changed
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.networks import separate_networks
from low_tide.core.rig.rig import Rig

MOST_TRIED = 6
MOST_OFFERED = 1


@dataclass(frozen=True)
class Judgement:
    """The case with its results, its findings worst first, the verdict over all scenes, and each scene by itself."""

    case: Case
    findings: tuple[Finding, ...]
    verdict: Verdict
    scenes: tuple[InScene, ...] = ()


def judge(rig: Rig, preferences: Preferences | None = None) -> Judgement:
    """Every check on the nominal network, in every scene, without working out fixes: quick enough for what-ifs."""
    case = Case(rig, preferences or Preferences())
    found = run_all(case)
    scenes = in_scenes(case, found)
    findings = over_scenes(found, scenes)
    return Judgement(case, findings, verdict(findings), scenes)


def _weight(findings: Iterable[Finding], rank: int) -> Counter[str]:
    """How many findings of this rank or worse each check has."""
    return Counter(f.id for f in findings if RANK[f.severity] >= rank)


def _what(finding: Finding) -> set[tuple[object, ...]]:
    """What a finding is about, whatever its numbers and its severity: once for each scene that has it."""
    return {(finding.id, finding.units, finding.which, scene) for scene in finding.scenes or ("",)}


def _mended(finding: Finding, before: Judgement, after: Judgement) -> bool:
    rank = RANK[finding.severity]
    if any(_what(f) & _what(finding) and RANK[f.severity] >= rank for f in after.findings):
        return False
    had, left = _weight(before.findings, rank), _weight(after.findings, rank)
    return left[finding.id] < had[finding.id] and all(left[check] <= had[check] for check in left)


def mends(fix: Fix, finding: Finding, judged: Judgement) -> bool:
    """Whether the fix takes its finding away and raises none elsewhere to the same severity or worse.

    A finding may move to another unit (a lead that is swapped); what counts is that none of its weight is new.
    """
    after = _after(fix.changes, judged)
    return after is not None and _mended(finding, judged, after)


def _after(changes: tuple[Change, ...], judged: Judgement) -> Judgement | None:
    """The judgement once changes are made; None where they cannot be."""
    try:
        return judge(changed(judged.case.rig, changes), judged.case.preferences)
    except HookupError:
        return None


def worsened(changes: tuple[Change, ...], judged: Judgement, but: tuple[str, ...] = ()) -> tuple[Finding, ...] | None:
    """Cautions and stops that changes bring, or make worse; None where they cannot be made. `but`: checks left out."""
    after = _after(changes, judged)
    if after is None:
        return None
    before: dict[object, int] = {}
    for each in judged.findings:
        for about in _what(each):
            before[about] = max(RANK[each.severity], before.get(about, 0))
    return tuple(
        f
        for f in after.findings
        if f.id not in but
        and RANK[f.severity] >= RANK["caution"]
        and RANK[f.severity] > min(before.get(about, 0) for about in _what(f))
    )


def _same(one: Finding, other: Finding) -> bool:
    return (_what(one), one.severity) == (_what(other), other.severity)


def with_fixes(judged: Judgement, between: Callable[[], None] = lambda: None) -> Judgement:
    """The same judgement, each finding keeping only the fix that really mends it.

    `between`: called between one try and the next; what it raises ends them.
    """
    parts = separate_networks(judged.case.rig) if any(f.fixes for f in judged.findings) else ()
    alone: dict[int, Judgement] = {}
    tried: dict[tuple[int, tuple[Change, ...]], Judgement | None] = {}

    def about(finding: Finding) -> Judgement:
        """The part of the hook-up a finding is about, where that alone has it too: sooner judged again.

        A scene is of the whole.
        """
        if any(isinstance(change, SetScene) for fix in finding.fixes for change in fix.changes):
            return judged
        units = {u for u in finding.units if not isinstance(judged.case.rig.gear[u], Interface)}
        own = (n for n, part in enumerate(parts) if all(part.has(u) for u in units))
        n = next(own, None) if units and len(parts) > 1 else None
        if n is None:
            return judged
        if n not in alone:
            alone[n] = judge(parts[n], judged.case.preferences)
        return alone[n] if any(_same(f, finding) for f in alone[n].findings) else judged

    def works(fix: Fix, finding: Finding, where: Judgement) -> bool:
        key = (id(where), fix.changes)
        if key not in tried:
            between()
            tried[key] = _after(fix.changes, where)
        after = tried[key]
        return after is not None and _mended(finding, where, after)

    def fixed(finding: Finding) -> Finding:
        where = about(finding)
        working = (c for c in finding.fixes[:MOST_TRIED] if works(c, finding, where))
        found = tuple(islice(working, MOST_OFFERED))
        return replace(finding, fix=next(iter(found), None), fixes=found)

    return replace(judged, findings=tuple(fixed(f) for f in judged.findings))
