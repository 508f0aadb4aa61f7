"""Neighbours over HTTP: what they said, limits that are proposed, what they are told beforehand."""

from __future__ import annotations

from typing import Annotated

from flask import Response, request
from pydantic import Field

from low_tide.app import neighbours
from low_tide.app.neighbours import LimitProposal, NeighbourSaid, Notice
from low_tide.web.api.base import Count, HookupPath, Model, Strict, Whole, api, reply, reply_root
from low_tide.web.api.log import LogLineOut


class NeighbourBody(Strict):
    """What was said; `at`: the local time, now where it is left out. Without a session the newest has it."""

    said: NeighbourSaid
    at: Annotated[str, Field(max_length=40)] = ""
    session: Count | None = None


class PlacePath(Model):
    place_id: Annotated[str, Field(max_length=64)]


class ProposalList(Model):
    proposals: tuple[LimitProposal, ...]


class ProposalOut(Whole[LimitProposal]):
    pass


class NoticeOut(Whole[Notice]):
    pass


@api.post("/neighbours", responses={201: LogLineOut})
def neighbour_said(body: NeighbourBody) -> Response:
    """Write down a complaint, or that there was none."""
    made = neighbours.write(request.get_json()["said"], body.at, body.session)
    return reply_root(LogLineOut, made, 201)


@api.get("/neighbours/limits", responses={200: ProposalList})
def neighbour_limits() -> Response:
    """Limits that places should have by what was said there."""
    return reply(ProposalList, {"proposals": neighbours.proposals()})


@api.post("/neighbours/limits/<place_id>", responses={200: ProposalOut})
def neighbour_limit_accept(path: PlacePath) -> Response:
    """Give a place the limits that are proposed for it."""
    return reply_root(ProposalOut, neighbours.accept(path.place_id))


@api.get("/hookups/<hookup_id>/notice", responses={200: NoticeOut})
def neighbour_notice(path: HookupPath) -> Response:
    """How loud a hook-up comes to be at every place but one's own, to be told beforehand."""
    return reply_root(NoticeOut, neighbours.notice(path.hookup_id))
