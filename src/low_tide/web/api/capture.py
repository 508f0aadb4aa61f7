"""Capture over HTTP: the line from the jack to the converter."""

from __future__ import annotations

from flask import Response

from low_tide.app import capture
from low_tide.app.capture import CaptureState
from low_tide.web.api.base import HookupPath, Whole, api, reply_root


class CaptureOut(Whole[CaptureState]):
    pass


@api.get("/hookups/<hookup_id>/capture", responses={200: CaptureOut})
def capture_get(path: HookupPath) -> Response:
    """Levels, noise and the best setting of every line of a hook-up."""
    return reply_root(CaptureOut, capture.state(path.hookup_id))
