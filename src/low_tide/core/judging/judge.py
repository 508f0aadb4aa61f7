"""The judge: runs every check on a rig and keeps the fixes that really mend."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace
from itertools import islice

from low_tide.core.inventory import Interface
from low_tide.core.judging.checks import Case, run_all
from low_tide.core.judging.findings import RANK, Finding, Fix, Verdict, verdict
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import Change, changed
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.networks import separate_networks
from low_tide.core.rig.rig import Rig

MOST_TRIED = 6
MOST_OFFERED = 1


@dataclass(frozen=True)
class Judgement:
    """The case with its results, its findings worst first, and the verdict."""

    case: Case
    findings: tuple[Finding, ...]
    verdict: Verdict


def judge(rig: Rig, preferences: Preferences | None = None, before: Judgement | None = None) -> Judgement:
    """Every check on the nominal network, without working out fixes: quick enough for what-ifs.

    `before`: the judgement of the rig this one was changed from; what cannot have changed is taken from it.
    """
    case = Case(rig, preferences or Preferences())
    same = before is not None and rig.speaker_side_of is before.case.rig
    findings = run_all(case, before.findings if before and same else None)
    return Judgement(case, findings, verdict(findings))


def _weight(findings: Iterable[Finding], rank: int) -> Counter[str]:
    """How many findings of this rank or worse each check has."""
    return Counter(f.id for f in findings if RANK[f.severity] >= rank)


def _mended(finding: Finding, before: Judgement, after: Judgement) -> bool:
    rank = RANK[finding.severity]
    if any(
        (f.id, f.units, f.which) == (finding.id, finding.units, finding.which) and RANK[f.severity] >= rank
        for f in after.findings
    ):
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
        return judge(changed(judged.case.rig, changes), judged.case.preferences, judged)
    except HookupError:
        return None


def _alone(part: Rig, judged: Judgement) -> Judgement:
    """What a judgement says of one part of its hook-up."""
    inside = {unit for unit, gear in part.units() if not isinstance(gear, Interface)}
    findings = tuple(f for f in judged.findings if not f.units or inside.intersection(f.units))
    return Judgement(Case(part, judged.case.preferences), findings, verdict(findings))


def with_fixes(judged: Judgement) -> Judgement:
    """The same judgement, each finding keeping only the fix that really mends it."""
    parts = separate_networks(judged.case.rig) if any(f.fixes for f in judged.findings) else ()
    alone = [_alone(part, judged) for part in parts] if len(parts) > 1 else []
    tried: dict[tuple[int, tuple[Change, ...]], Judgement | None] = {}

    def about(finding: Finding) -> Judgement:
        """The part of the hook-up a finding is about, where it is about one alone: sooner judged again."""
        units = {u for u in finding.units if not isinstance(judged.case.rig.gear[u], Interface)}
        return next((j for j in alone if units and all(j.case.rig.has(u) for u in units)), judged)

    def works(fix: Fix, finding: Finding, where: Judgement) -> bool:
        key = (id(where), fix.changes)
        if key not in tried:
            tried[key] = _after(fix.changes, where)
        after = tried[key]
        return after is not None and _mended(finding, where, after)

    def fixed(finding: Finding) -> Finding:
        where = about(finding)
        working = (c for c in finding.fixes[:MOST_TRIED] if works(c, finding, where))
        found = tuple(islice(working, MOST_OFFERED))
        return replace(finding, fix=next(iter(found), None), fixes=found)

    return replace(judged, findings=tuple(fixed(f) for f in judged.findings))
