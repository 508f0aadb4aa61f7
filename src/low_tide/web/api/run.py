"""The Run sheet over HTTP."""

from __future__ import annotations

from typing import Annotated

from flask import Response
from pydantic import Field

from low_tide.app import running
from low_tide.app.running import RunState
from low_tide.web.api.base import HookupPath, Strict, Whole, api, reply_root


class TickBody(Strict):
    step: Annotated[str, Field(max_length=40)]
    done: bool


class AcceptBody(Strict):
    key: Annotated[str, Field(max_length=1000)]
    word: Annotated[str, Field(max_length=400)]


class SwitchBody(Strict):
    on: bool


class RunOut(Whole[RunState]):
    pass


@api.get("/hookups/<hookup_id>/run", responses={200: RunOut})
def run_get(path: HookupPath) -> Response:
    return reply_root(RunOut, running.state(path.hookup_id))


@api.post("/hookups/<hookup_id>/run/tick", responses={200: RunOut})
def run_tick(path: HookupPath, body: TickBody) -> Response:
    return reply_root(RunOut, running.tick(path.hookup_id, body.step, body.done))


@api.post("/hookups/<hookup_id>/run/accept", responses={200: RunOut})
def run_accept(path: HookupPath, body: AcceptBody) -> Response:
    return reply_root(RunOut, running.accept(path.hookup_id, body.key, body.word))


@api.post("/hookups/<hookup_id>/run/switch", responses={200: RunOut})
def run_switch(path: HookupPath, body: SwitchBody) -> Response:
    return reply_root(RunOut, running.switch(path.hookup_id, body.on))
