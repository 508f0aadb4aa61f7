"""Photos and preset files of takes over HTTP."""

from __future__ import annotations

from typing import Annotated

from flask import Response, request
from pydantic import Field

from low_tide.app import attachments
from low_tide.app.attachments import Attachment, Kind
from low_tide.web.api.base import Count, Model, TakePath, Whole, api, download, file, reply, reply_root, takes

PHOTO, PRESET = "image/jpeg", "application/octet-stream"


class AttachmentPath(Model):
    attachment_id: Count


class AttachmentQuery(Model):
    kind: Kind
    name: Annotated[str, Field(max_length=300)] = ""


class AttachmentList(Model):
    attachments: tuple[Attachment, ...]


class AttachmentOut(Whole[Attachment]):
    pass


@api.get("/takes/<int:take_id>/attachments", responses={200: AttachmentList})
def attachment_list(path: TakePath) -> Response:
    return reply(AttachmentList, {"attachments": attachments.of_take(path.take_id)})


@api.post(
    "/takes/<int:take_id>/attachments",
    responses={201: AttachmentOut},
    openapi_extensions=takes("image/jpeg", "image/png", "image/webp", PRESET),
)
def attachment_new(path: TakePath, query: AttachmentQuery) -> Response:
    """Attach a photo, which is made smaller and loses all it says beside the picture, or a preset file as it is."""
    made = attachments.attach(path.take_id, query.kind, query.name, request.get_data())
    return reply_root(AttachmentOut, made, 201)


@api.get("/attachments/<int:attachment_id>", responses=file(PHOTO, PRESET))
def attachment_get(path: AttachmentPath) -> Response:
    found, data = attachments.opened(path.attachment_id)
    if found.kind == "preset":
        return download(data, found.name, PRESET)
    response = Response(data, mimetype=PHOTO)
    response.headers["Content-Security-Policy"] = "default-src 'none'; sandbox"
    return response


@api.delete("/attachments/<int:attachment_id>", responses={204: None})
def attachment_delete(path: AttachmentPath) -> Response:
    attachments.delete(path.attachment_id)
    return Response(status=204)
