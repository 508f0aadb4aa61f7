"""Capture over HTTP: the line from the jack to the converter."""

from __future__ import annotations

from flask import Response, request

from low_tide.app import capture, recorder
from low_tide.app.capture import CaptureState
from low_tide.app.errors import Invalid
from low_tide.app.log import Take
from low_tide.app.recorder import Recording
from low_tide.formats.documents import parse
from low_tide.formats.sentences import FormatError
from low_tide.web.api.base import Count, HookupPath, Strict, Whole, api, home, json_lines, reply_root
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
