"""What others change, as it happens: a stream, or asked for every so often."""

from __future__ import annotations

from collections.abc import Iterator

from flask import Response, current_app, request

from low_tide.app.live import Changes, Live
from low_tide.web.access import WINDOW, device
from low_tide.web.api.base import Count, Model, Whole, api, file, reply_root

DESK = "desk"


class SinceQuery(Model):
    """The number of the last change that was heard of; none, to hear of what comes from now on."""

    at: Count | None = None


class ChangesOut(Whole[Changes]):
    pass


def _live() -> Live:
    found: Live = current_app.config["LIVE"]
    return found


@api.get("/live", responses={200: ChangesOut})
def live_since(query: SinceQuery) -> Response:
    return reply_root(ChangesOut, _live().since(query.at))


@api.get("/live/stream", responses=file("text/event-stream"))
def live_stream(query: SinceQuery) -> Response:
    """Server-sent events: `data` is what `/api/live` answers; a comment now and then says that it still goes on."""
    asks = device()
    # At the desk every open page has one of its own; a device has one, whatever is open on it.
    name = asks.id if asks else f"{DESK} {request.headers.get(WINDOW, '')[:64]}"
    found = _live().stream(name, query.at)

    def sent() -> Iterator[str]:
        for changes in found:
            yield ": still here\n\n" if changes is None else f"data: {_json(changes)}\n\n"

    response = Response(sent(), mimetype="text/event-stream")
    response.call_on_close(found.close)
    return response


def _json(changes: Changes) -> str:
    return ChangesOut.model_construct(root=changes).model_dump_json()
