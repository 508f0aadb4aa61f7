"""Sweeps over HTTP: the test file, what its recording says, impulse responses."""

from __future__ import annotations

from typing import Annotated, Literal

from flask import Response, request
from pydantic import Field

from low_tide.app import sweeps
from low_tide.app.sweeps import SweepReport
from low_tide.store.home import AUDIO_TYPES
from low_tide.web.api.base import HookupPath, Model, Whole, api, download, file, home, reply_root, takes
from low_tide.web.api.compare import RateQuery


class PlayedQuery(Model):
    """The rate of the test file that was played; the recording's own where left out."""

    played: Literal["", "44100", "48000", "96000"] = ""


class AtQuery(Model):
    """The input that records; the one that is expected loudest where left out."""

    input: Annotated[str, Field(max_length=130)] = ""


class CutQuery(Model):
    """Up to how long after its peak an impulse response is kept, ms."""

    after: Annotated[float, Field(ge=1, le=200)] = 200.0


class ImpulsePath(Model):
    name: Annotated[str, Field(max_length=80)]


class SweepOut(Whole[SweepReport]):
    pass


@api.get("/sweeps/test.wav", responses=file("audio/wav"))
def sweep_test(query: RateQuery) -> Response:
    """The test file: silence, a sine of 1 kHz, a sweep, silence; peaks at −18 dBFS."""
    return download(sweeps.test_file(int(query.rate)), f"low-tide-test-{query.rate}.wav", "audio/wav")


@api.post("/sweeps", responses={200: SweepOut}, openapi_extensions=takes(*AUDIO_TYPES.values()))
def sweep_file(query: PlayedQuery) -> Response:
    """What a recording of the test file says of the path it went through. The body is the recording."""
    played_at = int(query.played) if query.played else None
    return reply_root(SweepOut, sweeps.from_file(home(), request.stream, played_at))


@api.post("/hookups/<hookup_id>/sweep", responses={200: SweepOut})
def sweep_through(path: HookupPath, query: AtQuery) -> Response:
    """The same through the simulated interface."""
    return reply_root(SweepOut, sweeps.through(home(), path.hookup_id, query.input))


@api.get("/sweeps/<name>", responses=file("audio/wav"))
def sweep_impulse(path: ImpulsePath, query: CutQuery) -> Response:
    """The impulse response of a path that was measured."""
    return download(sweeps.impulse(home(), path.name, query.after), "impulse.wav", "audio/wav")
