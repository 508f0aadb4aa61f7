"""The first minutes over HTTP: starting points, and the lightship and back."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator
from typing import Annotated

from flask import Response, current_app
from pydantic import Field

from low_tide.app import first_steps
from low_tide.app.errors import Conflict
from low_tide.app.first_steps import Start
from low_tide.app.locker import LockerEntry
from low_tide.demo.visit import leave, visit
from low_tide.web.api.base import BenchOut, HookupPath, Model, SavesBody, Strict, api, home, reply, reply_root

MOST_AT_ONCE = 60

_lock = threading.Lock()


@contextlib.contextmanager
def _gangway() -> Iterator[None]:
    """One at a time goes aboard or ashore: of two at once the second would take the lightship for its own data.

    Nobody waits here, since whoever waits holds a connection that the first waits for.
    """
    if not _lock.acquire(blocking=False):
        raise Conflict("Somebody is going to the lightship or coming back this very moment.")
    try:
        yield
    finally:
        _lock.release()


class StartList(Model):
    starts: tuple[Start, ...]


class StartsBody(Strict):
    names: Annotated[tuple[Annotated[str, Field(max_length=80)], ...], Field(min_length=1, max_length=MOST_AT_ONCE)]


class BegunList(Model):
    entries: list[LockerEntry]


@api.get("/starts", responses={200: StartList})
def starts() -> Response:
    """Typical units to begin with."""
    return reply(StartList, {"starts": first_steps.starts()})


@api.post("/starts", responses={201: BegunList})
def starts_add(body: StartsBody) -> Response:
    """Put some of them into the locker, all or none; every figure of theirs is marked typical."""
    return reply(BegunList, {"entries": first_steps.begin_with(body.names)}, 201)


@api.post("/hookups/<hookup_id>/listen-here", responses={201: BenchOut})
def listen_here(path: HookupPath, body: SavesBody) -> Response:
    """A typical room with a listening place, and all of the hook-up stood in it."""
    return reply_root(BenchOut, first_steps.listen_here(path.hookup_id, body.saves), 201)


@api.post("/lightship", responses={204: None})
def lightship_visit() -> Response:
    """Look around the lightship, in a copy of its own; one's own data wait."""
    with _gangway():
        if current_app.config["DEMO"] or current_app.config["OWN"]:
            raise Conflict("This is the lightship already.")
        own = home()
        current_app.config.update(HOME_FOLDER=visit(own), OWN=own)
    return Response(status=204)


@api.delete("/lightship", responses={204: None})
def lightship_leave() -> Response:
    """Back to one's own data; what was done on the lightship is gone."""
    with _gangway():
        own = current_app.config["OWN"]
        if own is None:
            raise Conflict("These are your own data already.")
        current_app.config.update(HOME_FOLDER=leave(home(), own), OWN=None)
    return Response(status=204)
