"""The Log over HTTP: sessions, takes, recordings, lines."""

from __future__ import annotations

import json
from typing import Annotated

from flask import Response, request, send_file
from pydantic import Field

from low_tide.app import log
from low_tide.app.log import LogLine, Session, Take, TakeNote, TakePage
from low_tide.core.spec import Spec
from low_tide.store.home import AUDIO_TYPES
from low_tide.web.api.base import (
    BenchOut,
    Count,
    Model,
    SavesQuery,
    Strict,
    Whole,
    api,
    download,
    file,
    home,
    reply,
    reply_root,
    streamed,
    takes,
)


class TakePath(Model):
    take_id: Count


class SessionPath(Model):
    session_id: Count


class TakesQuery(Model):
    session: Count | None = None
    search: Annotated[str, Field(max_length=200)] = ""
    page: Annotated[int, Field(ge=1, le=1_000_000)] = 1
    audio: bool = False


class LogQuery(Model):
    session: Count | None = None


class AudioQuery(Model):
    """What the file is called, and the audio it is to take the place of: empty for none, left out for any."""

    name: Annotated[str, Field(max_length=300)] = "take"
    replaced: Annotated[str | None, Field(max_length=80)] = None


class NoteBody(Whole[TakeNote]):
    pass


class NewSession(Strict):
    name: Annotated[str, Field(max_length=400)]
    notes: Annotated[str, Field(max_length=8000)] = ""


class NewTake(Strict):
    hookup: Annotated[str, Field(max_length=64)]
    note: TakeNote


class SessionList(Model):
    sessions: list[Session]


class TakeOut(Whole[Take]):
    pass


class TakePageOut(Whole[TakePage]):
    pass


class SessionOut(Whole[Session]):
    pass


class LinePath(Model):
    line_id: Count


class NewLine(Strict):
    text: Annotated[str, Spec("Note", le=1000)]
    session: Count | None = None


class LineList(Model):
    lines: tuple[LogLine, ...]


class LogLineOut(Whole[LogLine]):
    pass


@api.get("/sessions", responses={200: SessionList})
def session_list() -> Response:
    return reply(SessionList, {"sessions": log.sessions()})


@api.post("/sessions", responses={201: SessionOut})
def session_new(body: NewSession) -> Response:
    return reply_root(SessionOut, log.new_session(body.name, body.notes), 201)


@api.post("/sessions/<int:session_id>/takes", responses={201: TakeOut})
def take_new(path: SessionPath, body: NewTake) -> Response:
    return reply_root(TakeOut, log.log_take(path.session_id, body.hookup, request.get_json()["note"]), 201)


@api.get("/takes", responses={200: TakePageOut})
def take_list(query: TakesQuery) -> Response:
    return reply_root(TakePageOut, log.takes(query.session, query.search, query.page, query.audio))


@api.get("/takes/<int:take_id>", responses={200: TakeOut})
def take_get(path: TakePath) -> Response:
    return reply_root(TakeOut, log.take(path.take_id))


@api.put("/takes/<int:take_id>", responses={200: TakeOut})
def take_edit(path: TakePath, query: SavesQuery, body: NoteBody) -> Response:
    return reply_root(TakeOut, log.edit_take(path.take_id, request.get_json(), query.saves))


@api.delete("/takes/<int:take_id>", responses={204: None})
def take_delete(path: TakePath, query: SavesQuery) -> Response:
    log.delete_take(home(), path.take_id, query.saves)
    return Response(status=204)


@api.get("/takes/<int:take_id>/snapshot", responses=file("application/json"))
def take_snapshot(path: TakePath) -> Response:
    return download(json.dumps(log.snapshot(path.take_id)), f"take-{path.take_id}.json", "application/json")


@api.post("/takes/<int:take_id>/audio", responses={200: TakeOut}, openapi_extensions=takes(*AUDIO_TYPES.values()))
def take_attach(path: TakePath, query: AudioQuery) -> Response:
    return reply_root(TakeOut, log.attach(home(), path.take_id, query.name, request.stream, query.replaced))


@api.get("/takes/<int:take_id>/audio", responses=file(*AUDIO_TYPES.values()))
def take_audio(path: TakePath) -> Response:
    found, name = log.audio_path(home(), path.take_id)
    response = send_file(found, mimetype=AUDIO_TYPES[found.suffix], download_name=name, conditional=True)
    response.headers["Content-Security-Policy"] = "default-src 'none'; sandbox"
    return response


@api.post("/takes/<int:take_id>/recall", responses={201: BenchOut})
def take_recall(path: TakePath) -> Response:
    return reply_root(BenchOut, log.recall(path.take_id), 201)


@api.get("/log.csv", responses=file("text/csv"))
def log_csv(query: LogQuery) -> Response:
    return streamed(log.export_csv(query.session), "low-tide-log.csv", "text/csv", "\ufeff")


@api.get("/log.json", responses=file("application/json"))
def log_json(query: LogQuery) -> Response:
    return streamed(log.export_json(query.session), "low-tide-log.json", "application/json")


@api.get("/lines", responses={200: LineList})
def line_list(query: LogQuery) -> Response:
    """Lines of the log that belong to no take."""
    return reply(LineList, {"lines": log.lines(query.session)})


@api.post("/lines", responses={201: LogLineOut})
def line_new(body: NewLine) -> Response:
    return reply_root(LogLineOut, log.write_line(body.text, body.session), 201)


@api.delete("/lines/<int:line_id>", responses={204: None})
def line_delete(path: LinePath) -> Response:
    log.delete_line(path.line_id)
    return Response(status=204)
