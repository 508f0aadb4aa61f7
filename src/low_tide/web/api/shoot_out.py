"""Shoot-outs over HTTP: the list, and what comes of it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any

from flask import Response
from pydantic import Field

from low_tide.app import shoot_out
from low_tide.app.compare_work import Doing
from low_tide.app.comparison import ComparisonState
from low_tide.app.shoot_out import NewShootOut, ShootOutState, Variant
from low_tide.store.home import Home
from low_tide.web.api.base import HookupPath, Model, Strict, Whole, api, home, json_lines, reply, reply_root
from low_tide.web.api.compare import ComparisonLine, ComparisonOut, ComparisonPath, FileBody


class ShootOutBody(Strict):
    """What a shoot-out is to be of."""

    shoot_out: NewShootOut


class VaryBody(Strict):
    """A control whose positions are to be held against each other."""

    unit: Annotated[str, Field(max_length=64)]
    control: Annotated[str, Field(max_length=130)]


class ListedFileBody(FileBody):
    """The same of a file of a list: which one it is, by its name where left out."""

    number: Annotated[int | None, Field(ge=1, le=16)] = None


class VariantList(Model):
    variants: list[Variant]


class HookupIds(Model):
    hookups: list[str]


class ShootOutOut(Whole[ShootOutState]):
    pass


@api.post("/shoot-outs", responses={201: ComparisonOut})
def shoot_out_new(body: ShootOutBody) -> Response:
    """A list of recordings of one dry track, in the order that moves the fewest speaker leads."""
    return reply_root(ComparisonOut, shoot_out.begin(home(), body.shoot_out), 201)


@api.get("/comparisons/<int:comparison_id>/list", responses={200: ShootOutOut})
def shoot_out_list(path: ComparisonPath) -> Response:
    return reply_root(ShootOutOut, shoot_out.list_of(home(), path.comparison_id))


def _recorded(folder: Home, comparison_id: int) -> Iterator[tuple[str, Any]]:
    for step in shoot_out.record(folder, comparison_id):
        if isinstance(step, ComparisonState):
            yield "comparison", step
        else:
            yield "doing", Doing(step[0], "is recorded", step[1])


@api.post("/comparisons/<int:comparison_id>/list/record", responses={200: ComparisonLine})
def shoot_out_record(path: ComparisonPath) -> Response:
    """What is missing of the list through the simulated interface, as lines of JSON."""
    return json_lines(ComparisonLine, _recorded(home(), path.comparison_id))


@api.post("/comparisons/<int:comparison_id>/list/files", responses={200: ComparisonLine})
def shoot_out_file(path: ComparisonPath, body: ListedFileBody) -> Response:
    """A recording of the list that was made elsewhere."""
    steps = shoot_out.bring(home(), path.comparison_id, body.upload, body.file_name, body.number)
    return json_lines(
        ComparisonLine, (("comparison" if isinstance(step, ComparisonState) else "part", step) for step in steps)
    )


@api.get("/hookups/<hookup_id>/variants", responses={200: VariantList})
def variant_list(path: HookupPath) -> Response:
    """Controls whose positions can be held against each other."""
    return reply(VariantList, {"variants": shoot_out.variants(path.hookup_id)})


@api.post("/hookups/<hookup_id>/variants", responses={201: HookupIds})
def variants_new(path: HookupPath, body: VaryBody) -> Response:
    """A hook-up of its own for every position of a control."""
    return reply(HookupIds, {"hookups": shoot_out.vary(path.hookup_id, body.unit, body.control)}, 201)
