"""Your data over HTTP: what is there, copies that are kept of it, and one put in place of it."""

from __future__ import annotations

from typing import Annotated

from flask import Response, current_app, request, send_file
from pydantic import Field

from low_tide.app import data
from low_tide.app.data import DataState, Restored
from low_tide.store.backups import KeptCopy
from low_tide.store.home import home_at
from low_tide.store.restoring import Contents
from low_tide.web.api.base import Line, Model, Strict, Whole, api, file, home, json_lines, reply, reply_root, takes


class CopyPath(Model):
    name: Annotated[str, Field(max_length=130)]


class UploadPath(Model):
    upload: Annotated[str, Field(max_length=40)]


class PieceQuery(Model):
    """The byte of the whole file that a piece begins with."""

    at: Annotated[int, Field(ge=0, le=data.MOST_BYTES)]


class NewUpload(Strict):
    """A file that is to be brought in, and the bytes it has: a backup, or a recording, which may be less large."""

    size: Annotated[int, Field(ge=0, le=2**53 - 1)]
    recording: bool = False


class Upload(Model):
    """A file that is brought in: its name here, and how many bytes of it are."""

    upload: str
    received: int


class RestoreBody(Strict):
    """What is to be put in place: a kept copy, or else a file that was brought in."""

    copy_name: Annotated[str, Field(max_length=130)] = ""
    upload: Annotated[str, Field(max_length=40)] = ""


class CopyLine(Line):
    """One line of the answer while a copy is made: the part that is done, or, last, the copy."""

    part: float | None = None
    kept: KeptCopy | None = None


class DataOut(Whole[DataState]):
    pass


class ContentsOut(Whole[Contents]):
    pass


class RestoredOut(Whole[Restored]):
    pass


@api.get("/data", responses={200: DataOut})
def data_state() -> Response:
    """How much there is, and the copies that are kept."""
    return reply_root(DataOut, data.state(home()))


@api.post("/backups", responses={200: CopyLine})
def backup_new() -> Response:
    """Keep a copy of everything, as lines of JSON while it is written."""
    steps = data.keep_copy(home())
    return json_lines(CopyLine, (("kept" if isinstance(step, KeptCopy) else "part", step) for step in steps))


@api.get("/backups/<name>", responses=file("application/zip"))
def backup_file(path: CopyPath) -> Response:
    found = data.copy_file(home(), path.name)
    return send_file(found, mimetype="application/zip", as_attachment=True, download_name=found.name)


@api.delete("/backups/<name>", responses={204: None})
def backup_delete(path: CopyPath) -> Response:
    data.delete_copy(home(), path.name)
    return Response(status=204)


@api.get("/backups/<name>/contents", responses={200: ContentsOut})
def backup_contents(path: CopyPath) -> Response:
    """What a kept copy holds, checked as for a restore."""
    return reply_root(ContentsOut, data.look_into(home(), copy=path.name))


@api.post("/uploads", responses={201: Upload})
def upload_new(body: NewUpload) -> Response:
    """Begin to bring a file in that is larger than a request may be."""
    return reply(Upload, {"upload": data.begin_upload(home(), body.size, body.recording), "received": 0}, 201)


@api.post("/uploads/<upload>", responses={200: Upload}, openapi_extensions=takes("application/octet-stream"))
def upload_piece(path: UploadPath, query: PieceQuery) -> Response:
    received = data.add_piece(home(), path.upload, query.at, request.stream)
    return reply(Upload, {"upload": path.upload, "received": received})


@api.get("/uploads/<upload>/contents", responses={200: ContentsOut})
def upload_contents(path: UploadPath) -> Response:
    """What a backup that was brought in holds, checked as for a restore."""
    return reply_root(ContentsOut, data.look_into(home(), upload=path.upload))


@api.post("/restore", responses={200: RestoredOut})
def restore(body: RestoreBody) -> Response:
    """Put a backup in place of everything; what was there is kept as a copy."""
    try:
        restored = data.restore(home(), body.copy_name, body.upload)
    finally:
        current_app.config["HOME_FOLDER"] = home_at(home().folder)
    return reply_root(RestoredOut, restored)
