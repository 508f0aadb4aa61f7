"""A mistake put into a sound hook-up, with decoys beside it. What the judge does not find is not made."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from itertools import zip_longest
from random import Random

from low_tide.core.circuit.network import NetworkError
from low_tide.core.drills.bases import Stock, with_little_gear
from low_tide.core.drills.decoys import Decoy, with_decoys
from low_tide.core.drills.mistakes import Mistake, Twist
from low_tide.core.judging.checks import REGISTRY, Case
from low_tide.core.judging.findings import RANK, Finding
from low_tide.core.judging.judge import Judgement, judge
from low_tide.core.rig.changes import Change, changed
from low_tide.core.rig.hookup import Hookup, HookupError
from low_tide.core.rig.rig import Rig

MOST_BASES = 12
"""So many sound hook-ups are tried before a mistake counts as one that cannot be made."""
MOST_TWISTS = 12
MOST_UNFIT = 3
LEVELS = (1, 2, 3)
"""From few units and a plain mistake to many units and one near the edge."""
UNITS_OF_LEVEL = {1: (2, 5), 2: (3, 7), 3: (4, 9)}
DECOYS_OF_LEVEL = {1: 1, 2: 2, 3: 2}


@dataclass(frozen=True)
class Faulty:
    """A hook-up as it is asked about: what the judge says of it, and what was put in.

    `finding`: the one that the mistake is found by, None where there is none in it. `at`: ids of the units and leads
    that one may point at. `undo`: what takes the mistake back.
    """

    rig: Rig
    severity: str
    finding: Finding | None
    at: tuple[str, ...]
    decoys: tuple[Decoy, ...]
    undo: tuple[Change, ...] = ()


def _about(findings: tuple[Finding, ...]) -> set[tuple[object, ...]]:
    return {(f.id, f.units, f.which, f.severity) for f in findings}


def found_by(mistake: Mistake, before: Judgement, after: Judgement) -> Finding | None:
    """The finding a mistake shows as: new, as bad as anything found, and by one of the checks it is for."""
    worst, had = RANK[after.verdict.severity], _about(before.findings)
    least = max(RANK[mistake.least], worst if worst > RANK["note"] else 0)
    return next(
        (
            f
            for f in after.findings
            if f.id in mistake.checks and RANK[f.severity] >= least and (f.id, f.units, f.which, f.severity) not in had
        ),
        None,
    )


def _screened(mistake: Mistake, judged: Judgement, twist: Twist) -> Rig | None:
    """The hook-up after a twist, where the checks of the mistake find something new in it by themselves: judging it
    whole is then worth the time. None too where a hand cannot do that."""
    had = _about(judged.findings)
    try:
        rig = changed(judged.case.rig, twist.changes)
        case = Case(rig, judged.case.preferences)
        found = (f for check in mistake.checks for f in REGISTRY[check].about(case))
        return rig if any(f.severity != "fine" and _about((f,)) - had for f in found) else None
    except (HookupError, NetworkError):
        return None


def _in_order(twists: list[Twist], level: int, lots: Random) -> list[Twist]:
    """Those to try first: the plain ones at the first level, those near the edge at the last."""
    lots.shuffle(twists)
    if level == 1:
        return sorted(twists, key=lambda t: -t.size)
    return sorted(twists, key=lambda t: t.size) if level == LEVELS[-1] else twists


def put_in(
    mistake: Mistake, judged: Judgement, twists: list[Twist], level: int, lots: Random
) -> tuple[Twist, Judgement, Finding] | None:
    """Of ways to make a mistake in a sound hook-up, one that the judge finds; None where none of those tried is."""
    for twist in _in_order(twists, level, lots)[:MOST_TWISTS]:
        rig = _screened(mistake, judged, twist)
        if rig is None:
            continue
        after = judge(rig, judged.case.preferences)
        finding = found_by(mistake, judged, after)
        if finding is not None:
            return twist, after, finding
    return None


def _order(of: Stock, level: int, lots: Random) -> list[int]:
    """Recipes in a drawn order, those of the level's size first, one's own hook-ups between those that are built."""
    low, high = UNITS_OF_LEVEL[level]
    order = lots.sample(range(len(of.recipes)), len(of.recipes))
    own = [n for n in order if isinstance(of.recipes[n], Hookup)]
    built = [n for n in order if not isinstance(of.recipes[n], Hookup)]
    mixed = [n for pair in zip_longest(own, built) for n in pair if n is not None]
    return sorted(mixed, key=lambda n: not low <= of.units(n) <= high)


Fits = Callable[[Faulty], bool]


def faulty(mistake: Mistake, of: Stock, level: int, lots: Random, fits: Fits = lambda _: True) -> Faulty | None:
    """A hook-up with a mistake in it; None where nothing owned can be given it. `fits`: what more it must be."""
    tried = unfit = 0
    for number in _order(of, level, lots):
        raw = of.raw(number)
        if raw is None or of.is_hopeless(mistake.id, number) or not any(True for _ in mistake.ways(raw)):
            continue
        base = of.sound(number)
        if base is None:
            continue
        tried += 1
        if tried > MOST_BASES:
            return None
        twists = list(mistake.ways(base.case.rig))
        found = put_in(mistake, base, twists, level, lots)
        if found is None:
            if len(twists) <= MOST_TWISTS:
                of.give_up(mistake.id, number)
            continue
        made = _with_decoys(mistake, base, found, level, lots)
        if made is not None and fits(made):
            return made
        unfit += 1
        if unfit == MOST_UNFIT:
            return None
    return None


def _with_decoys(
    mistake: Mistake, base: Judgement, found: tuple[Twist, Judgement, Finding], level: int, lots: Random
) -> Faulty | None:
    """A mistake with decoys beside it, none of them at anything that a finding names."""
    twist, after, finding = found
    spoken_for = _named(after).union(_right(twist, after, finding))
    judged, decoys = with_decoys(base, DECOYS_OF_LEVEL[level], lots, spoken_for)
    try:
        rig = changed(judged.case.rig, twist.changes)
    except HookupError:
        return None
    return _shown(rig, base, mistake, twist, decoys)


def _right(twist: Twist, judged: Judgement, finding: Finding) -> tuple[str, ...]:
    """Where one may point: at what the mistake moved, and at whatever is named by what is found as bad as it. What is
    named by something milder suffers from it."""
    worst = [
        f for f in judged.findings if f is finding or RANK[f.severity] >= max(RANK["caution"], RANK[finding.severity])
    ]
    return tuple(dict.fromkeys((*twist.at, *(each for f in worst for each in (*f.units, *f.leads)))))


def _named(judged: Judgement) -> frozenset[str]:
    """Ids of all that a caution or stop names."""
    bad = (f for f in judged.findings if RANK[f.severity] >= RANK["caution"])
    return frozenset(each for f in bad for each in (*f.units, *f.leads))


def _shown(rig: Rig, base: Judgement, mistake: Mistake, twist: Twist, decoys: tuple[Decoy, ...]) -> Faulty | None:
    """The same with the gear that the question keeps, judged as it will be when it is answered."""
    shown = with_little_gear(rig, base.case.rig, twist.undo)
    judged = judge(shown, base.case.preferences)
    finding = found_by(mistake, base, judged)
    if finding is None:
        return None
    there = {u for u, _ in shown.units()} | {k.lead for k in shown.hookup.links}
    at = tuple(each for each in _right(twist, judged, finding) if each in there)
    if not at or any(_named(judged).union(at) & set(d.at) for d in decoys):
        return None
    return Faulty(shown, judged.verdict.severity, finding, at, decoys, twist.undo)


def sound(of: Stock, level: int, lots: Random, near: Mistake | None = None) -> Faulty | None:
    """A hook-up with decoys and no mistake. `near`: one is kept out that could be made in it."""
    for number in _order(of, level, lots)[:MOST_BASES]:
        raw = of.raw(number)
        if raw is None or (near is not None and not any(True for _ in near.ways(raw))):
            continue
        base = of.sound(number)
        if base is None:
            continue
        judged, decoys = with_decoys(base, max(2, DECOYS_OF_LEVEL[level]), lots)
        shown = with_little_gear(judged.case.rig, base.case.rig)
        after = judge(shown, base.case.preferences)
        if decoys and RANK[after.verdict.severity] < RANK["caution"]:
            return Faulty(shown, after.verdict.severity, None, (), decoys)
    return None
