"""A part that does not fit: what leaves no room for it, and what would free it."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.app.bench import rig_of
from low_tide.app.clock import day_name
from low_tide.app.errors import Invalid
from low_tide.app.plan_facts import facts_of, marks_of, ticked_off
from low_tide.app.plan_picture import lies_of
from low_tide.app.plans import change, project_of, row_of
from low_tide.app.preferences import preferences
from low_tide.core.judging.judge import judge
from low_tide.core.loudness.sound_level import soundings
from low_tide.core.planning.changes import LayOut, changed
from low_tide.core.planning.facts import Through
from low_tide.core.planning.freeing import Asking, Freed, freed
from low_tide.core.planning.left_out import asked
from low_tide.core.planning.project import Laid, PlanError, Project
from low_tide.store import hookups
from low_tide.store.plans import PlanRecord

MOST_LOOKED_AT = 12


@dataclass(frozen=True)
class FreeWay:
    """One thing that would make room, in words, with where the part would lie then."""

    words: str
    where: str


@dataclass(frozen=True)
class WhyLeftOut:
    """Why a part is not laid. `words`: what leaves no room, without any one of which there would be; `alone`: there
    would be none if it were the only one; `sure`: proven. `ways`: what would free it, one thing each."""

    part: str
    choosing: bool
    name: str
    words: tuple[str, ...]
    alone: bool
    sure: bool
    ways: tuple[FreeWay, ...]


def _could_go_through(project: Project, hookup: str) -> list[Through]:
    """Hook-ups with an amp that are not put away and that no check stops: silent ones first, what the project uses
    before what it does not, and what is clear to switch on before what is to be checked."""
    used = {part.hookup for _, part in project.parts()}
    own = hookups.find(hookup) if hookup else None
    amps = {unit for unit, _ in rig_of(own).amps()} if own else set()
    ranked = []
    for row in (each for each in hookups.listed() if each.id != hookup):
        try:
            rig = rig_of(row)
        except Invalid:
            continue
        severity = judge(rig, preferences()).verdict.severity
        if severity == "stop" or not any(True for _ in rig.amps()):
            continue
        other = not amps & {unit for unit, _ in rig.amps()}
        rank = (bool(soundings(rig)), row.id not in used, severity == "caution", other, row.name)
        ranked.append((rank, Through(row.id, row.name, rig, rig, row.id)))
    return [way for _, way in sorted(ranked, key=lambda each: each[0])][:MOST_LOOKED_AT]


def _ways(project: Project, part: str, choosing: bool) -> tuple[Freed, ...]:
    try:
        _, about = project.part(part)
    except PlanError as error:
        raise Invalid(*error.problems) from None
    asking = Asking(project, part, choosing, lambda each: facts_of(each, from_now=True))
    return freed(asking, _could_go_through(project, about.hookup))


def why_left_out(plan_id: str, part: str, choosing: bool) -> WhyLeftOut:
    """Why a part is not in the plan, and what would free it."""
    project = ticked_off(project_of(row_of(plan_id)))
    facts = facts_of(project, from_now=True)
    job = facts.index(part, choosing)
    if job is None:
        raise Invalid("Part: it is done, or not in the project any more. Look again.")
    never = facts.problem.jobs[job].never
    lies, _ = lies_of(facts, project.laid.blocks)
    found = None if never else asked(facts, project, lies, job)
    words = (never,) if found is None else found.words
    ways = tuple(FreeWay(each.words, f"{day_name(each.date)}, {each.at}") for each in _ways(project, part, choosing))
    alone, sure = (True, True) if found is None else (found.alone, found.sure)
    return WhyLeftOut(part, choosing, project.called(part), words, alone, sure, ways)


def free(plan_id: str, part: str, choosing: bool, words: str, saves: int) -> PlanRecord:
    """Put one of the ways on: the change, and the plan with the part in it, as one step."""
    row = row_of(plan_id)
    project = ticked_off(project_of(row))
    way = next((each for each in _ways(project, part, choosing) if each.words == words), None)
    if way is None:
        raise Invalid("This no longer makes room for it: something has changed. Look again.")
    return change(plan_id, [*way.changes, LayOut(_laid(project, way))], saves)


def _laid(project: Project, way: Freed) -> Laid:
    kept = tuple(block for block in project.laid.blocks if project.is_over(block))
    marks = marks_of(changed(project, way.changes))
    return Laid((*kept, *way.blocks), marks=marks)
