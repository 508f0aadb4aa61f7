"""Plans over HTTP: projects, their parts and days, how they are laid out, why something does not fit."""

from __future__ import annotations

from typing import Annotated, TypeAlias

from flask import Response
from pydantic import Field

from low_tide.app import plan_asked, plan_out, plan_parts, plan_picture, plan_work, plans
from low_tide.app.plan_asked import WhyLeftOut
from low_tide.app.plan_picture import PlanState
from low_tide.app.plan_work import Working
from low_tide.app.plans import PlanEntry
from low_tide.core.planning.changes import ProjectChange
from low_tide.core.planning.project import Project
from low_tide.store.plans import PlanRecord
from low_tide.web.api.base import Count, Model, Strict, Whole, api, download, file, reply, reply_root

ProjectChangeDoc: TypeAlias = Annotated[ProjectChange, Field(discriminator="op")]
PartId = Annotated[str, Field(max_length=64)]


class PlanPath(Model):
    plan_id: Annotated[str, Field(max_length=64)]


class NewPlanBody(Strict):
    project: Project


class PlanSavesBody(Strict):
    """`saves`: the state of the project that was looked at."""

    saves: Count


class ProjectChangesBody(PlanSavesBody):
    changes: Annotated[tuple[ProjectChangeDoc, ...], Field(min_length=1, max_length=400)]


class PlanStepBody(PlanSavesBody):
    """`by`: −1 undoes, +1 does again."""

    by: Annotated[int, Field(ge=-1, le=1)]


class LinesBody(PlanSavesBody):
    """Parts, one a line as they are said, or a table as a spreadsheet has it."""

    text: Annotated[str, Field(max_length=200_000)]


class WorkBody(Strict):
    """`keep_looking`: for a minute or two instead of a few seconds."""

    keep_looking: bool = False


class AskedBody(Strict):
    part: PartId
    choosing: bool = False


class FreeBody(AskedBody):
    """`words`: of the way that is put on."""

    words: Annotated[str, Field(max_length=400)]
    saves: Count


class PlanList(Model):
    plans: tuple[PlanEntry, ...]


class PlanOut(Whole[PlanState]):
    pass


class PlanWorkOut(Model):
    """How far a plan is that is being laid out, None where nothing was begun; the best so far as it would be shown."""

    working: Working | None
    best: PlanState | None


class WhyLeftOutOut(Whole[WhyLeftOut]):
    pass


def _shown(row: PlanRecord, status: int = 200) -> Response:
    return reply_root(PlanOut, plan_picture.picture(row), status)


@api.get("/plans", responses={200: PlanList})
def plan_list() -> Response:
    return reply(PlanList, {"plans": plans.listed()})


@api.post("/plans", responses={201: PlanOut})
def plan_create(body: NewPlanBody) -> Response:
    return _shown(plans.create(body.project), 201)


@api.get("/plans/<plan_id>", responses={200: PlanOut})
def plan_get(path: PlanPath) -> Response:
    return reply_root(PlanOut, plan_picture.state(path.plan_id))


@api.post("/plans/<plan_id>/changes", responses={200: PlanOut})
def plan_change(path: PlanPath, body: ProjectChangesBody) -> Response:
    return _shown(plans.change(path.plan_id, body.changes, body.saves))


@api.post("/plans/<plan_id>/step", responses={200: PlanOut})
def plan_step(path: PlanPath, body: PlanStepBody) -> Response:
    return _shown(plans.step(path.plan_id, body.by, body.saves))


@api.post("/plans/<plan_id>/lines", responses={200: PlanOut})
def plan_lines(path: PlanPath, body: LinesBody) -> Response:
    """Add parts from lines of words, or from a table."""
    return _shown(plan_parts.add(path.plan_id, body.text, body.saves))


@api.post("/plans/<plan_id>/away", responses={200: PlanOut})
def plan_away(path: PlanPath, body: PlanSavesBody) -> Response:
    return _shown(plans.put_away(path.plan_id, True, body.saves))


@api.post("/plans/<plan_id>/back", responses={200: PlanOut})
def plan_back(path: PlanPath) -> Response:
    return _shown(plans.put_away(path.plan_id, False))


@api.get("/plans/<plan_id>/before", responses={200: PlanOut})
def plan_before(path: PlanPath) -> Response:
    """The project as it was before the plan that stands was laid out."""
    return reply_root(PlanOut, plan_picture.before(path.plan_id))


@api.post("/plans/<plan_id>/work", responses={200: PlanWorkOut})
def plan_lay_out(path: PlanPath, body: WorkBody) -> Response:
    """Begin to lay it out, beside everything else."""
    return reply(PlanWorkOut, {"working": plan_work.begin(path.plan_id, body.keep_looking), "best": None})


@api.get("/plans/<plan_id>/work", responses={200: PlanWorkOut})
def plan_working(path: PlanPath) -> Response:
    """How far it is."""
    plans.row_of(path.plan_id)
    return reply(PlanWorkOut, {"working": plan_work.look(path.plan_id), "best": plan_work.so_far(path.plan_id)})


@api.post("/plans/<plan_id>/work/stop", responses={200: PlanWorkOut})
def plan_work_stop(path: PlanPath) -> Response:
    """End it; the best so far is put in."""
    return reply(PlanWorkOut, {"working": plan_work.stop(path.plan_id), "best": None})


@api.post("/plans/<plan_id>/asked", responses={200: WhyLeftOutOut})
def plan_why_left_out(path: PlanPath, body: AskedBody) -> Response:
    """Why a part is not laid, and what would make room for it."""
    return reply_root(WhyLeftOutOut, plan_asked.why_left_out(path.plan_id, body.part, body.choosing))


@api.post("/plans/<plan_id>/free", responses={200: PlanOut})
def plan_free(path: PlanPath, body: FreeBody) -> Response:
    """Put on what makes room for a part."""
    return _shown(plan_asked.free(path.plan_id, body.part, body.choosing, body.words, body.saves))


@api.get("/plans/<plan_id>/plan.ics", responses=file("text/calendar"))
def plan_calendar(path: PlanPath) -> Response:
    return download(plan_out.as_calendar(path.plan_id), f"{path.plan_id}.ics", "text/calendar; charset=utf-8")


@api.get("/plans/<plan_id>/plan.csv", responses=file("text/csv"))
def plan_csv(path: PlanPath) -> Response:
    return download(plan_out.as_csv(path.plan_id), f"{path.plan_id}.csv", "text/csv; charset=utf-8")


@api.get("/plans/<plan_id>/parts.csv", responses=file("text/csv"))
def plan_parts_csv(path: PlanPath) -> Response:
    return download(plan_out.parts_csv(path.plan_id), f"{path.plan_id}-parts.csv", "text/csv; charset=utf-8")


@api.get("/plans/<plan_id>/plan.md", responses=file("text/markdown"))
def plan_markdown(path: PlanPath) -> Response:
    return download(plan_out.as_markdown(path.plan_id), f"{path.plan_id}.md", "text/markdown; charset=utf-8")
