"""The judge: runs every check on a rig and keeps the fixes that really mend."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, replace
from itertools import islice

from low_tide.core.changes import changed
from low_tide.core.checks import Case, run_all
from low_tide.core.finding import RANK, Finding, Fix, Verdict, verdict
from low_tide.core.gear import Interface
from low_tide.core.hookup import HookupError, Rig, islands
from low_tide.core.preferences import Preferences

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


def mends(fix: Fix, finding: Finding, judged: Judgement) -> bool:
    """Whether the fix takes its finding away and raises none elsewhere to the same severity or worse.

    A finding may move to another unit (a lead that is swapped); what counts is that none of its weight is new.
    """
    rig = judged.case.rig
    try:
        after = judge(changed(rig, fix.changes), judged.case.preferences, judged)
    except HookupError:
        return False
    rank = RANK[finding.severity]
    if any((f.id, f.units) == (finding.id, finding.units) and RANK[f.severity] >= rank for f in after.findings):
        return False
    had, left = _weight(judged.findings, rank), _weight(after.findings, rank)
    return left[finding.id] < had[finding.id] and all(left[check] <= had[check] for check in left)


def with_fixes(judged: Judgement) -> Judgement:
    """The same judgement, each finding keeping only the fixes that really mend it."""
    parts = islands(judged.case.rig) if any(f.fixes for f in judged.findings) else ()
    alone = [judge(part, judged.case.preferences) for part in parts] if len(parts) > 1 else []

    def about(finding: Finding) -> Judgement:
        """The part of the hook-up a finding is about, where it is about one alone: sooner judged again."""
        units = {u for u in finding.units if not isinstance(judged.case.rig.gear[u], Interface)}
        return next((j for j in alone if units and all(j.case.rig.has(u) for u in units)), judged)

    def fixed(finding: Finding) -> Finding:
        where = about(finding)
        working = (c for c in finding.fixes[:MOST_TRIED] if mends(c, finding, where))
        found = tuple(islice(working, MOST_OFFERED))
        return replace(finding, fix=next(iter(found), None), fixes=found)

    return replace(judged, findings=tuple(fixed(f) for f in judged.findings))
