"""Every refusal as RFC 9457 problem details, in sentences and without a trace."""

from __future__ import annotations

import logging
from collections.abc import Iterable, Sequence

from flask import Flask, Response, make_response, request
from pydantic import ValidationError
from werkzeug.exceptions import HTTPException

from low_tide.app.errors import Busy, Conflict, InUse, Invalid, NotFound, NotReady, Refusal, SwitchedOn
from low_tide.app.sharing import CodeRefused, NotPaired
from low_tide.core.planning.project import PlanError
from low_tide.core.rig.hookup import HookupError
from low_tide.formats.sentences import FormatError, sentences
from low_tide.store.troubles import TROUBLES, trouble
from low_tide.web.api.base import Problem, model_named

STATUS: dict[type[Refusal], int] = {
    NotFound: 404,
    Conflict: 409,
    InUse: 409,
    NotReady: 409,
    Busy: 429,
    Invalid: 422,
    SwitchedOn: 423,
    CodeRefused: 403,
    NotPaired: 401,
}
TROUBLE_STATUS = {"full": 507, "unusable": 422}
WORDS = {413: "That is larger than 64 MiB, the most that is taken.", 404: "There is nothing at this address."}

log = logging.getLogger(__name__)


def problem(status: int, title: str, problems: Sequence[str], fields: Iterable[Sequence[str | int]] = ()) -> Response:
    body = Problem(
        title=title, status=status, detail=" ".join(problems), problems=list(problems), fields=[list(f) for f in fields]
    )
    response = make_response(body.model_dump_json(), status)
    response.content_type = "application/problem+json"
    return response


def invalid_request(error: ValidationError) -> Response:
    """What a request's own model refuses: body, query or path."""
    found = sentences(error, model_named(error.title))
    fields = [[s for s in path if s not in ("unit", "root")] for path in found.fields]
    return problem(422, Invalid.title, found.problems, fields)


def troubled(error: Exception) -> Response:
    """What the disk or the database cannot do."""
    found = trouble(error)
    if found.kind != "unusable":
        log.warning("%s: %s", found.kind, error)
    saved = [] if request.method in ("GET", "HEAD") else ["Nothing was saved."]
    return problem(TROUBLE_STATUS.get(found.kind, 503), found.title, [found.said, *saved])


def install(app: Flask) -> None:
    @app.errorhandler(Refusal)
    def refused(error: Refusal) -> Response:
        fields = error.fields if isinstance(error, Invalid) else ()
        return problem(STATUS.get(type(error), 400), error.title, error.problems, fields)

    @app.errorhandler(FormatError)
    def unreadable(error: FormatError) -> Response:
        return problem(422, "This cannot be read", error.problems, error.fields)

    @app.errorhandler(HookupError)
    @app.errorhandler(PlanError)
    def impossible(error: HookupError | PlanError) -> Response:
        return problem(422, "This hook-up cannot be", error.problems)

    for kind in TROUBLES:
        app.register_error_handler(kind, troubled)

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Response:
        status = error.code or 500
        said = WORDS.get(status) or error.description or error.name
        return problem(status, error.name, [said])

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        log.exception("unexpected error")
        return problem(500, "Something went wrong here", ["Nothing was saved. The server's log has the details."])
