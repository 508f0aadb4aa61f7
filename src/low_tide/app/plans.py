"""Projects: made, edited, undone, put away."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from low_tide.app.clock import read_date
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.app.plan_facts import ticked_off
from low_tide.core.planning.changes import LAID_OUT, LayOut, ProjectChange, changed, describe, fresh
from low_tide.core.planning.project import PlanError, Project
from low_tide.core.planning.sound_project import sound
from low_tide.formats.documents import dump, parse
from low_tide.formats.sentences import FormatError
from low_tide.store import plans
from low_tide.store.database import database
from low_tide.store.home import now
from low_tide.store.plans import PlanRecord, PlanRevision

FORMAT = "low-tide/plan"
VERSION = 1


@dataclass(frozen=True)
class PlanEntry:
    """A project in the list: how many parts it has, how many are done, its first and last day."""

    id: str
    name: str
    parts: int
    done: int
    begins: str
    ends: str
    updated: str


def row_of(plan_id: str) -> PlanRecord:
    """A stored project; NotFound where there is none."""
    row = plans.find(plan_id)
    if row is None:
        raise NotFound("There is no such project. It may have been deleted.")
    return row


def revision_of(row: PlanRecord, number: int) -> PlanRevision:
    """A state of a project; NotFound where there is none."""
    found = plans.revision(row.id, number)
    if found is None:
        raise NotFound(f"“{row.name}” has no revision {number}.")
    return found


def project_of(row: PlanRecord) -> Project:
    """A project as it stands."""
    return read_project(revision_of(row, row.current).doc)


def read_project(doc: Any) -> Project:
    """A project from plain data. Invalid names what is wrong in it."""
    try:
        return parse(Project, {key: value for key, value in doc.items() if key not in ("format", "version")})
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None


def document(project: Project) -> dict[str, Any]:
    """A project as plain data."""
    return {"format": FORMAT, "version": VERSION, **dump(project)}


def _entry(row: PlanRecord) -> PlanEntry:
    project = ticked_off(project_of(row))
    parts = [part for _, part in project.parts()]
    dates = [day.date for day in project.days]
    done = sum(bool(part.done) for part in parts)
    return PlanEntry(row.id, row.name, len(parts), done, min(dates, default=""), max(dates, default=""), row.updated)


def listed() -> tuple[PlanEntry, ...]:
    """Projects that are not put away, the one changed last first."""
    return tuple(_entry(row) for row in plans.listed())


@dataclass(frozen=True)
class PlannedPart:
    """A part of a project by name, with the project it is in."""

    plan: str
    project: str
    part: str
    name: str


def parts_with(words: Sequence[str]) -> tuple[PlannedPart, ...]:
    """Parts of projects that are not put away with all these words in their song, name or guitar."""
    found = []
    for row in plans.listed():
        for song, part in project_of(row).parts():
            text = f"{song.name}, {part.name} {part.role} {part.guitar}".casefold()
            if words and all(word in text for word in words):
                found.append(PlannedPart(row.id, row.name, part.id, f"{song.name}, {part.name}"))
    return tuple(found)


def create(project: Project) -> PlanRecord:
    """A new project."""
    checked = _sound(project)
    with database.atomic():
        row = PlanRecord(fresh(checked.name, plans.ids()), checked.name, now())
        plans.insert(row, "Begin the project", document(checked))
        return row


def _sound(project: Project) -> Project:
    for day in project.days:
        read_date(day.date)
    try:
        return sound(project)
    except PlanError as error:
        raise Invalid(*error.problems) from None


def _laid_out_since(row: PlanRecord, saves: int) -> bool:
    """Whether all that happened since a window looked is that a plan was put in, which touches no part and no day."""
    return row.saves == saves + 1 and revision_of(row, row.current).label == LAID_OUT


def _seen(row: PlanRecord, saves: int | None, even_if_laid_out: bool = False) -> None:
    if saves is not None and row.saves != saves and not (even_if_laid_out and _laid_out_since(row, saves)):
        raise Conflict(f"“{row.name}” was changed in another window. Nothing was lost: look at it as it is now.")


def change(plan_id: str, changes: Sequence[ProjectChange], saves: int | None) -> PlanRecord:
    """Carry changes out together as one revision, or refuse them all."""
    with database.atomic():
        row = row_of(plan_id)
        _seen(row, saves, even_if_laid_out=not any(isinstance(each, LayOut) for each in changes))
        project = project_of(row)
        try:
            after = _sound(changed(project, changes))
        except PlanError as error:
            raise Invalid(*error.problems) from None
        if after == project:
            return row
        label = describe(project, changes[0]) + (" and more" if len(changes) > 1 else "")
        return plans.save(replace(row, name=after.name, updated=now()), label, document(after))


def step(plan_id: str, by: int, saves: int | None) -> PlanRecord:
    """Undo (−1) or redo (+1). Nothing happens at either end."""
    with database.atomic():
        row = row_of(plan_id)
        _seen(row, saves)
        back = revision_of(row, row.current).parent
        target = back if by < 0 else next(iter(row.redo[-1:]), None)
        if target is None:
            return row
        redo = (*row.redo, row.current) if by < 0 else row.redo[:-1]
        name = read_project(revision_of(row, target).doc).name
        moved = replace(row, redo=redo, current=target, saves=row.saves + 1, updated=now(), name=name)
        plans.update(moved)
        return moved


def put_away(plan_id: str, away: bool, saves: int | None = None) -> PlanRecord:
    """Take a project off the list, or put it back."""
    with database.atomic():
        row = row_of(plan_id)
        _seen(row, saves)
        moved = replace(row, archived=away, saves=row.saves + 1, updated=now())
        plans.update(moved)
        return moved


def before_it_was_laid(row: PlanRecord) -> Project | None:
    """The project as it was before the plan that stands was laid out; None where it is the first."""
    here = revision_of(row, row.current)
    laid = read_project(here.doc).laid
    at: PlanRevision | None = here
    while at is not None and at.parent is not None:
        at = plans.revision(row.id, at.parent)
        if at is not None and (was := read_project(at.doc)).laid != laid:
            return was if was.laid.blocks else None
    return None
