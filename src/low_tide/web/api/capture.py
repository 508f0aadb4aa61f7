"""Capture over HTTP: the line from the jack to the converter."""

from __future__ import annotations

from typing import Annotated

from flask import Response, request
from pydantic import Field

from low_tide.app import capture, hum, recorder
from low_tide.app.capture import CaptureState
from low_tide.app.errors import Invalid
from low_tide.app.hum import HumPlan
from low_tide.app.log import Take
from low_tide.app.recorder import Recording
from low_tide.core.audio.hum_routine import HumAnswer, HumReading, compared
from low_tide.core.spec import Spec
from low_tide.formats.documents import parse
from low_tide.formats.sentences import FormatError
from low_tide.store.home import AUDIO_TYPES
from low_tide.web.api.base import Count, HookupPath, Model, Strict, Whole, api, home, json_lines, reply_root, takes
from low_tide.web.api.bench import ChangeDoc
from low_tide.web.api.log import TakeLine


class CaptureOut(Whole[CaptureState]):
    pass


@api.get("/hookups/<hookup_id>/capture", responses={200: CaptureOut})
def capture_get(path: HookupPath) -> Response:
    """Levels, noise and the best setting of every line of a hook-up."""
    return reply_root(CaptureOut, capture.state(path.hookup_id))


class RecordBody(Strict):
    """What is to be recorded, and into which session; the newest without one."""

    recording: Recording
    session: Count | None = None


@api.post("/hookups/<hookup_id>/record", responses={200: TakeLine})
def capture_record(path: HookupPath, body: RecordBody) -> Response:
    """A take through the simulated interface, as lines of JSON while it is made; closing the connection stops it."""
    try:
        wanted = parse(Recording, request.get_json()["recording"])
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    steps = recorder.record(home(), path.hookup_id, wanted, body.session)
    return json_lines(TakeLine, (("take" if isinstance(step, Take) else "part", step) for step in steps))


class HumQuery(Model):
    """The input that hums; where none is named the one that is expected loudest."""

    input: Annotated[str, Field(max_length=130)] = ""


class HumRecordBody(Strict):
    """The input that is recorded, and what is changed for it: a position that is only tried."""

    input: Annotated[str, Field(max_length=130)] = ""
    changes: Annotated[tuple[ChangeDoc, ...], Spec("Changes", le=4)] = ()


class HumBody(Strict):
    """Readings of both positions."""

    a: HumReading
    b: HumReading


class HumPlanOut(Whole[HumPlan]):
    pass


class HumReadingOut(Whole[HumReading]):
    pass


class HumAnswerOut(Whole[HumAnswer]):
    pass


@api.get("/hookups/<hookup_id>/hum", responses={200: HumPlanOut})
def hum_plan(path: HookupPath, query: HumQuery) -> Response:
    """What a line has against hum, in order of effort."""
    return reply_root(HumPlanOut, hum.plan(path.hookup_id, query.input))


@api.post("/hookups/<hookup_id>/hum/reading", responses={200: HumReadingOut})
def hum_record(path: HookupPath, body: HumRecordBody) -> Response:
    """Five seconds of nothing in one position, through the simulated interface."""
    return reply_root(HumReadingOut, hum.recorded(home(), path.hookup_id, body.input, body.changes))


@api.post("/hum/reading", responses={200: HumReadingOut}, openapi_extensions=takes(*AUDIO_TYPES.values()))
def hum_file() -> Response:
    """The same of a recording that is brought in."""
    return reply_root(HumReadingOut, hum.from_file(home(), request.stream))


@api.post("/hum", responses={200: HumAnswerOut})
def hum_answer(body: HumBody) -> Response:
    """Which position is quieter, and whether that can be told."""
    return reply_root(HumAnswerOut, compared(body.a, body.b))
