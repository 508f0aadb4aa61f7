"""Sessions of the log over HTTP: begun, named, on paper, as one file, opened from one, deleted."""

from __future__ import annotations

from typing import Annotated

from flask import Response
from pydantic import Field

from low_tide.app import hand_over, log, session_open, session_save, session_sheet
from low_tide.app.hand_over import HandOver
from low_tide.app.log import Session
from low_tide.app.session_open import SessionContents
from low_tide.app.session_sheet import SessionSheet
from low_tide.web.api.base import (
    Count,
    Line,
    Model,
    SessionPath,
    Strict,
    Whole,
    api,
    download,
    file,
    home,
    json_lines,
    reply,
    reply_root,
    streamed,
)


class SessionWords(Strict):
    """What a session is called, and what is said of it."""

    name: Annotated[str, Field(max_length=400)]
    notes: Annotated[str, Field(max_length=8000)] = ""


class SessionEdit(SessionWords):
    """The same, and how it read when it was looked at."""

    was: SessionWords | None = None

    def seen(self) -> log.SessionWords | None:
        return log.SessionWords(self.was.name, self.was.notes) if self.was else None


class SessionTakesQuery(Model):
    """How many takes a session had when it was looked at."""

    takes: Count


class HandOverQuery(Model):
    """Takes by their numbers in the whole log, with commas between; all that are not rated 'no' where it is left empty.
    `blend`: they go out through it as well."""

    takes: Annotated[str, Field(max_length=2000, pattern=r"^(\d{1,15}(,\d{1,15})*)?$")] = ""
    blend: Count | None = None

    def chosen(self) -> list[int]:
        return [int(number) for number in self.takes.split(",") if number]


class HandOverOut(Whole[HandOver]):
    pass


class SessionUpload(Strict):
    """A session file that was brought in by pieces."""

    upload: Annotated[str, Field(max_length=40)]


class SessionList(Model):
    sessions: list[Session]


class SessionOut(Whole[Session]):
    pass


class SessionSheetOut(Whole[SessionSheet]):
    pass


class SessionContentsOut(Whole[SessionContents]):
    pass


class SessionLine(Line):
    """One line of the answer while a session file is opened: the part that is done, or, last, the session."""

    part: float | None = None
    session: Session | None = None


@api.get("/sessions", responses={200: SessionList})
def session_list() -> Response:
    return reply(SessionList, {"sessions": log.sessions()})


@api.post("/sessions", responses={201: SessionOut})
def session_new(body: SessionWords) -> Response:
    return reply_root(SessionOut, log.new_session(body.name, body.notes), 201)


@api.put("/sessions/<int:session_id>", responses={200: SessionOut})
def session_edit(path: SessionPath, body: SessionEdit) -> Response:
    """Conflict where somebody changed it since it was looked at."""
    return reply_root(SessionOut, log.edit_session(path.session_id, body.name, body.notes, body.seen()))


@api.delete("/sessions/<int:session_id>", responses={204: None})
def session_delete(path: SessionPath, query: SessionTakesQuery) -> Response:
    """Delete a session with its takes, their audio and its lines."""
    log.delete_session(home(), path.session_id, query.takes)
    return Response(status=204)


@api.get("/sessions/<int:session_id>/sheet", responses={200: SessionSheetOut})
def session_sheet_get(path: SessionPath) -> Response:
    """What was recorded in a session, with which hook-up, and how to get it back."""
    return reply_root(SessionSheetOut, session_sheet.sheet(path.session_id))


@api.get("/sessions/<int:session_id>/sheet.md", responses=file("text/markdown"))
def session_sheet_markdown(path: SessionPath) -> Response:
    text = "".join(session_sheet.as_markdown(path.session_id))
    return download(text, f"session-{path.session_id}.md", "text/markdown")


@api.get("/sessions/<int:session_id>/file", responses=file("application/zip"))
def session_file_get(path: SessionPath) -> Response:
    """A session as one file that another copy of the program opens as it was."""
    pieces = session_save.prepare(home(), path.session_id)
    return streamed(pieces, session_save.file_name(path.session_id), "application/zip")


@api.get("/sessions/<int:session_id>/hand-over", responses={200: HandOverOut})
def session_hand_over(path: SessionPath, query: HandOverQuery) -> Response:
    """What a folder for whoever mixes would hold."""
    return reply_root(HandOverOut, hand_over.plan(path.session_id, query.chosen(), query.blend))


@api.get("/sessions/<int:session_id>/hand-over.zip", responses=file("application/zip"))
def session_hand_over_file(path: SessionPath, query: HandOverQuery) -> Response:
    """That folder: takes that all begin at one place in the song, and a text."""
    pieces = hand_over.prepare(home(), path.session_id, query.chosen(), query.blend)
    name = f"{log.session(path.session_id).name}, to be mixed.zip"
    return streamed(pieces, name, "application/zip")


@api.post("/sessions/contents", responses={200: SessionContentsOut})
def session_contents(body: SessionUpload) -> Response:
    """What a session file that was brought in holds, checked as for opening it."""
    return reply_root(SessionContentsOut, session_open.look_into(home(), body.upload))


@api.post("/sessions/open", responses={200: SessionLine})
def session_open_file(body: SessionUpload) -> Response:
    """Put a session file into the log, as lines of JSON while its recordings are inspected; closing the connection
    stops it, and nothing is left."""
    steps = session_open.opening(home(), body.upload)
    return json_lines(SessionLine, (("session" if isinstance(step, Session) else "part", step) for step in steps))
