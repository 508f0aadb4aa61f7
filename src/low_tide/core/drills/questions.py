"""Questions about a hook-up: pointing, judging, mending, setting a level; made, answered and explained by the judge."""

from __future__ import annotations

from dataclasses import dataclass
from random import Random

from low_tide.core.circuit.network import merged
from low_tide.core.drills.bases import Stock
from low_tide.core.drills.cards import KindId
from low_tide.core.drills.decoys import Decoy
from low_tide.core.drills.faults import Faulty, faulty, sound
from low_tide.core.drills.mistakes import MISTAKES, Mistake
from low_tide.core.inventory import Interface
from low_tide.core.judging.checks import REGISTRY, Case
from low_tide.core.judging.findings import RANK, Finding
from low_tide.core.judging.judge import judge
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import (
    AddUnit,
    Change,
    Connect,
    Disconnect,
    Guard,
    RemoveUnit,
    SetControl,
    SetOccasion,
    changed,
)
from low_tide.core.rig.hookup import End, HookupError
from low_tide.core.rig.rig import Rig

REASONS = 5
NO_REASON = "nothing-to-judge"
"""A check that nobody takes for the reason: there is always an amp."""
CLEAR_OF_THREE = 3
"""One in so many of *may it be switched on?* has nothing in it but what looks wrong."""
LEVEL_MISTAKES = ("over-full-scale", "into-the-noise")
OF_LEVEL = ("converter-clips", "converter-low", "input-damage", "limiter-works", "noise-lift")
MOST_TO_POINT_AT = 0.4
"""Of all there is to point at, no more than this part may be right: pointing anywhere must not do."""
VERDICT_OF = {"stop": "stop", "caution": "caution", "note": "clear", "fine": "clear"}


@dataclass(frozen=True)
class Reason:
    """A reason one may give: the check it is, and when that speaks up."""

    check: str
    text: str


@dataclass(frozen=True)
class AboutHookup:
    """A hook-up as it is asked about. `at`: ids that one may point at; `reasons`: those offered; `knobs`: controls that
    may be set, as unit and control; `undo`: what takes the mistake back."""

    rig: Rig
    at: tuple[str, ...]
    decoys: tuple[Decoy, ...]
    reasons: tuple[Reason, ...] = ()
    knobs: tuple[tuple[str, str], ...] = ()
    undo: tuple[Change, ...] = ()


def to_point_at(rig: Rig) -> tuple[str, ...]:
    """Ids of everything in a picture one can point at: units, then leads."""
    leads = (k.lead for k in rig.hookup.links if rig.gear[k.lead].kind == "lead")
    return tuple(dict.fromkeys((*(u for u, _ in rig.units()), *leads)))


def _can_be_pointed_at(made: Faulty) -> bool:
    return len(made.at) <= max(2, MOST_TO_POINT_AT * len(to_point_at(made.rig)))


def _can_be_mended(made: Faulty, preferences: Preferences) -> bool:
    return is_one_act(made.undo) and _mends(made.rig, made.undo, preferences)


def about_hookup(kind: KindId, card: str, of: Stock, level: int, lots: Random) -> AboutHookup | None:
    """A question of a kind about a mistake, or about the level window; None where nothing owned can be asked so."""

    def mendable(made: Faulty) -> bool:
        return _can_be_mended(made, of.preferences)

    if kind == "level":
        order = lots.sample(LEVEL_MISTAKES, len(LEVEL_MISTAKES))
        made = next(filter(None, (faulty(MISTAKES[m], of, level, lots, mendable) for m in order)), None)
        return None if made is None else _asked(made, knobs=_level_knobs(made.rig))
    mistake = MISTAKES[card]
    if kind == "may":
        clear = lots.randrange(CLEAR_OF_THREE) == 0
        found = sound(of, level, lots, mistake) if clear else None
        found = found or faulty(mistake, of, level, lots)
        return None if found is None else _asked(found, _reasons(found, mistake, of.preferences, lots))
    fits = mendable if kind == "mend" else _can_be_pointed_at
    made = faulty(mistake, of, level, lots, fits)
    return None if made is None else _asked(made)


def _asked(made: Faulty, reasons: tuple[Reason, ...] = (), knobs: tuple[tuple[str, str], ...] = ()) -> AboutHookup:
    return AboutHookup(made.rig, made.at, made.decoys, reasons, knobs, made.undo)


def _reasons(made: Faulty, mistake: Mistake, preferences: Preferences, lots: Random) -> tuple[Reason, ...]:
    """The right reason among others that hold for nothing in this hook-up, of its own family first."""
    there = {f.id for f in judge(made.rig, preferences).findings if f.severity != "fine"}
    right = made.finding.id if made.finding else ""
    family = {REGISTRY[check].family for check in mistake.checks if check in REGISTRY}
    others = [c for c in REGISTRY.values() if c.id not in {*there, *mistake.checks, NO_REASON}]
    lots.shuffle(others)
    others.sort(key=lambda c: c.family not in family)
    chosen = [c for c in others if c.family in family][: REASONS // 2]
    chosen += [c for c in others if c not in chosen][: REASONS - len(chosen) - bool(right)]
    named = [REGISTRY[right], *chosen] if right else chosen
    lots.shuffle(named)
    return tuple(Reason(c.id, c.when) for c in named)


def _level_knobs(rig: Rig) -> tuple[tuple[str, str], ...]:
    """Controls of what is plugged in that set the level of a line."""
    names = ("pot", "gain", "pad", "level", "trim")
    return tuple(
        (unit, control.id)
        for unit, gear in rig.units()
        for control in gear.controls()
        if control.id.split(".")[-1] in names
        and (control.id.split(".")[0] in rig.plugged(unit) or "." not in control.id)
    )


def is_one_act(changes: tuple[Change, ...]) -> bool:
    """Whether changes are what one hand does at once: one control with its tape, one unit, the hour, or at most the two
    leads that meet at one unit."""
    controls = {(c.unit, c.control) for c in changes if isinstance(c, SetControl | Guard)}
    units = {c.unit for c in changes if isinstance(c, AddUnit | RemoveUnit)}
    out = {c.lead for c in changes if isinstance(c, Disconnect)}
    into = {c.lead for c in changes if isinstance(c, Connect)}
    told = len(controls) + sum(isinstance(c, SetOccasion) for c in changes)
    others = (SetControl, Guard, AddUnit, RemoveUnit, Disconnect, Connect, SetOccasion)
    if not changes or not all(isinstance(c, others) for c in changes):
        return False
    if told:
        return told == 1 and not units | out | into
    return len(units) <= 1 and len(out) <= 2 and len(into) <= 2


def _plays(rig: Rig) -> tuple[int, int]:
    """How many inputs something is recorded at, and how many cabinets are driven."""
    case = Case(rig, Preferences())
    return len(case.signal_paths.recorded), len(case.soundings)


def _joins(rig: Rig) -> tuple[tuple[str, str], ...]:
    """What leads and air join, pair by pair. What an interface plays and what it records are two things to it."""

    def at(end: End) -> str:
        return f"{end.unit} {rig.socket(end).flow}" if isinstance(rig.gear[end.unit], Interface) else end.unit

    return tuple((at(k.a), at(k.b)) for k in rig.hookup.links if k.b)


def _still_plays(asked: AboutHookup, after: Rig) -> bool:
    """Whether everything that was joined before the mistake was made still is, and sounds and is recorded: putting away
    what is wrong mends nothing."""
    if not asked.undo:
        return True
    before = changed(asked.rig, asked.undo)
    groups = merged(_joins(after))
    if any(groups.get(one, one) != groups.get(other, other) for one, other in _joins(before)):
        return False
    return all(now >= had for now, had in zip(_plays(after), _plays(before), strict=True))


def _mends(rig: Rig, changes: tuple[Change, ...], preferences: Preferences) -> bool:
    try:
        after = judge(changed(rig, changes), preferences)
    except HookupError:
        return False
    return RANK[after.verdict.severity] < RANK["caution"]


@dataclass(frozen=True)
class Pointed:
    """An answer by pointing: the id of a unit or lead."""

    at: str


@dataclass(frozen=True)
class Judged:
    """An answer by a verdict ('clear', 'caution' or 'stop'), and the check that is its reason."""

    verdict: str
    reason: str = ""


@dataclass(frozen=True)
class Changed:
    """An answer by changes to the hook-up."""

    changes: tuple[Change, ...]


@dataclass(frozen=True)
class Outcome:
    """What an answer was worth: whether it was right, and what was said of it. `finding`: what the judge finds in the
    hook-up, worst first the one that was asked for. `verdict`: the right one. `left`: what an answer by changes leaves.
    """

    right: bool
    says: str
    finding: Finding | None
    verdict: str
    left: Finding | None = None


def stated(asked: AboutHookup, checks: tuple[str, ...], preferences: Preferences) -> tuple[str, Finding | None]:
    """The verdict on a hook-up that is asked about, and the finding that is its point; None where nothing is wrong."""
    judged = judge(asked.rig, preferences)
    worst = RANK[judged.verdict.severity]
    least = worst if worst >= RANK["caution"] else RANK["note"]
    found = [f for f in judged.findings if RANK[f.severity] >= least]
    about = set(asked.at)
    point = next(
        (f for f in found if f.id in checks and about & {*f.units, *f.leads}),
        next((f for f in found if f.id in checks), None),
    )
    return VERDICT_OF[judged.verdict.severity], point if asked.at else None


def answer_hookup(
    asked: AboutHookup,
    checks: tuple[str, ...],
    answer: Pointed | Judged | Changed,
    preferences: Preferences,
) -> Outcome:
    """What an answer is worth, by the judge. Raises HookupError where changes cannot be made, or are more than one act
    or other than what may be set."""
    verdict, finding = stated(asked, checks, preferences)
    if isinstance(answer, Pointed):
        right = answer.at in asked.at
        return Outcome(right, "" if right else _why_not(asked, answer.at, preferences), finding, verdict)
    if isinstance(answer, Judged):
        reasons = {f.id for f in judge(asked.rig, preferences).findings if f.severity == _severity(verdict)}
        same = answer.verdict == verdict
        right = same and (verdict == "clear" or answer.reason in reasons)
        says = "" if right else "The verdict is right, the reason is another." if same else ""
        return Outcome(right, says, finding, verdict)
    return _after_changes(asked, answer.changes, finding, verdict, preferences)


def _why_not(asked: AboutHookup, at: str, preferences: Preferences) -> str:
    """Why something one pointed at is not what was asked for."""
    decoy = next((d for d in asked.decoys if at in d.at), None)
    if decoy is not None:
        return decoy.why
    name = asked.rig.name(at) if at in asked.rig.gear else at
    bad = (f for f in judge(asked.rig, preferences).findings if RANK[f.severity] >= RANK["caution"])
    if any(at in (*f.units, *f.leads) for f in bad):
        return f"{name} suffers from it; what is wrong lies elsewhere."
    return f"{name} is as it should be."


def _severity(verdict: str) -> str:
    return verdict if verdict in ("stop", "caution") else "note"


def _after_changes(
    asked: AboutHookup, changes: tuple[Change, ...], finding: Finding | None, verdict: str, preferences: Preferences
) -> Outcome:
    if asked.knobs:
        wrong = [c for c in changes if not isinstance(c, SetControl) or (c.unit, c.control) not in asked.knobs]
        if wrong:
            raise HookupError(["Only what sets the level may be moved here."])
    elif not is_one_act(changes):
        raise HookupError(["One change is asked for: one control, one lead, or one unit taken out."])
    after = judge(changed(asked.rig, changes), preferences)
    bad = [f for f in after.findings if RANK[f.severity] >= RANK["caution"]]
    if not bad and finding is not None and finding.severity == "note":
        bad = [f for f in after.findings if f.id == finding.id and f.severity == "note"]
    if not bad and not _still_plays(asked, after.case.rig):
        says = "That makes it sound, but something that was recorded or heard before no longer is."
        return Outcome(False, says, finding, verdict)
    return Outcome(not bad, "", finding, verdict, bad[0] if bad else None)
