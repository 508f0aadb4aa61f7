"""The first minutes over HTTP: starting points, and the lightship and back."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterator
from itertools import chain
from typing import Annotated

from flask import Config, Response, current_app
from pydantic import Field

from low_tide.app import first_steps
from low_tide.app.errors import Conflict
from low_tide.app.first_steps import Start
from low_tide.app.locker import LockerEntry
from low_tide.demo.visit import leave, visiting
from low_tide.store.home import Home
from low_tide.web.api.base import (
    BenchOut,
    HookupPath,
    Line,
    Model,
    SavesBody,
    Strict,
    api,
    home,
    json_lines,
    reply,
    reply_root,
)

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


class VisitLine(Line):
    """One line of the answer while the lightship is laid out: the part that is done, the last of them 1."""

    part: float | None = None


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


@api.post("/lightship", responses={200: VisitLine})
def lightship_visit() -> Response:
    """Look around the lightship, in a copy of its own, as lines of JSON while it is laid out; one's own data wait, and
    closing the connection leaves all as it was."""
    steps = _going_aboard(current_app.config, home())
    # What is refused at once is refused as everything else; only what comes after it is told in lines.
    first = next(steps)
    return json_lines(VisitLine, (("part", part) for part in chain((first,), steps)))


def _going_aboard(config: Config, own: Home) -> Iterator[float]:
    with _gangway():
        if config["DEMO"] or config["OWN"]:
            raise Conflict("This is the lightship already.")
        for step in visiting(own):
            if isinstance(step, Home):
                config.update(HOME_FOLDER=step, OWN=own)
            else:
                yield step


@api.delete("/lightship", responses={204: None})
def lightship_leave() -> Response:
    """Back to one's own data; what was done on the lightship is gone."""
    with _gangway():
        own = current_app.config["OWN"]
        if own is None:
            raise Conflict("These are your own data already.")
        current_app.config.update(HOME_FOLDER=leave(home(), own), OWN=None)
    return Response(status=204)
