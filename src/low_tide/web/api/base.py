"""What the routes of every section share: the blueprint, how answers are made, models used in several."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Iterable, Iterator
from typing import Annotated, Any, Generic, TypeAlias, TypeVar
from urllib.parse import quote

from flask import Response, current_app
from flask_openapi3 import APIBlueprint
from flask_openapi3.utils import parse_parameters
from pydantic import BaseModel, ConfigDict, Field, RootModel

from low_tide.app.bench import BenchState
from low_tide.app.errors import Busy, Refusal
from low_tide.core.spec import Spec
from low_tide.formats.documents import MOST_WHOLE
from low_tide.store.database import database
from low_tide.store.home import Home
from low_tide.store.troubles import TROUBLES, trouble

Root = TypeVar("Root")


class Model(BaseModel):
    """Built when it is first used: building them all would double the time the server takes to start."""

    model_config = ConfigDict(defer_build=True)


class Whole(RootModel[Root], Generic[Root]):
    """A value that is the whole body or answer."""

    model_config = ConfigDict(defer_build=True)


class Strict(Model):
    model_config = ConfigDict(extra="forbid")


class HookupPath(Model):
    hookup_id: Annotated[str, Field(max_length=64)]


class TakePath(Model):
    take_id: Count


class SessionPath(Model):
    session_id: Count


class SavesBody(Strict):
    """The state of a hook-up that was looked at, by its count of saves."""

    saves: Count


class SearchQuery(Model):
    search: Annotated[str, Field(max_length=200)] = ""


Count: TypeAlias = Annotated[int, Spec("Number", ge=0, le=MOST_WHOLE)]
"""The number of a record, or of its changes."""


class SavesQuery(Model):
    """How often the record had been saved when it was looked at; one saved since is refused. Left out: any."""

    saves: Count | None = None


class BenchOut(Whole[BenchState]):
    pass


class Problem(Model):
    """A refusal, RFC 9457 problem details. `problems` are sentences, `fields` the paths they are about."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    problems: list[str]
    fields: list[list[str | int]]


def model_named(name: str, among: Iterable[type[BaseModel]] = (Model, Whole)) -> type[BaseModel]:
    """The request's or answer's model of that name; the plainest of all where there is none."""
    for each in among:
        found = each if each.__name__ == name else model_named(name, each.__subclasses__())
        if found is not BaseModel:
            return found
    return BaseModel


class Routes(APIBlueprint):
    """A blueprint that describes its routes only when asked to: schemas take longer to write than to serve."""

    def __init__(self, *args: Any, **options: Any) -> None:
        self._undescribed: list[tuple[tuple[Any, ...], dict[str, Any]]] = []
        super().__init__(*args, **options)

    def _collect_openapi_info(self, rule: str, func: Any, **options: Any) -> Any:
        self._undescribed.append(((rule, func), options))
        return parse_parameters(func, doc_ui=False)

    def describe(self) -> None:
        """Add every route to the OpenAPI document; before the blueprint is registered."""
        for args, options in self._undescribed:
            super()._collect_openapi_info(*args, **options)
        self._undescribed = []


api = Routes("api", __name__, url_prefix="/api", abp_responses={"4XX": Problem, "5XX": Problem})

Described: TypeAlias = dict[int, type[BaseModel] | dict[str, Any] | None]
BODY = "x-body"


def file(*types: str) -> Described:
    """Of a route: it answers with a file of one of these types."""
    return {200: {"content": {kind: {} for kind in types}}}


def takes(*types: str) -> dict[str, Any]:
    """Of a route: its body is a file, taken as it is; what it holds tells what it is."""
    return {BODY: list(types)}


def home() -> Home:
    found: Home = current_app.config["HOME_FOLDER"]
    return found


def reply(model: type[BaseModel], value: Any, status: int = 200) -> Response:
    """The value as the model's JSON. Values come from the program itself and are not validated again."""
    return Response(model.model_construct(**value).model_dump_json(), status, mimetype="application/json")


def reply_root(model: type[BaseModel], value: Any, status: int = 200) -> Response:
    return reply(model, {"root": value}, status)


MOST_EXPORTS = 2
"""Long answers that are sent at one time: a reader who stops reading holds a thread for as long as he likes."""
_exports = threading.BoundedSemaphore(MOST_EXPORTS)


def _attachment(name: str) -> dict[str, str]:
    """A name in any script: a header has no letters but ASCII, so the others go along as RFC 6266 writes them."""
    safe = "".join(c if c.isalnum() or c in "-_." else "-" for c in name)
    plain = "".join(c if c.isascii() else "-" for c in safe)
    more = "" if plain == safe else f"; filename*=UTF-8''{quote(safe, safe='')}"
    return {"Content-Disposition": f'attachment; filename="{plain}"{more}'}


def streamed(pieces: Iterable[str | bytes], name: str, mimetype: str, first: str = "") -> Response:
    """A download that is read from the store while it is sent, all of it as it stands at the beginning. Some at a time:
    Refusal beyond that."""
    if not _exports.acquire(blocking=False):
        raise Busy("Two exports are being sent already. Try again when one of them is done.")

    given_back = contextlib.ExitStack()
    given_back.callback(_exports.release)

    def sent() -> Iterator[str | bytes]:
        with given_back, database.reading():
            yield first
            yield from pieces

    response = Response(sent(), mimetype=mimetype, headers=_attachment(name))
    response.call_on_close(given_back.close)
    return response


class Line(Model):
    """One line of an answer that comes piece by piece; where it fails half-way, the last one says why."""

    problem: str | None = None


def json_lines(model: type[Line], found: Iterable[tuple[str, Any]]) -> Response:
    """An answer as lines of JSON while it is worked out, each a field of the model and its value."""

    def lines() -> Iterator[str]:
        try:
            for name, value in found:
                yield model.model_construct(**{name: value}).model_dump_json() + "\n"
        except (Refusal, *TROUBLES) as error:
            said = str(error) if isinstance(error, Refusal) else trouble(error).said
            yield model.model_construct(problem=said).model_dump_json() + "\n"

    return Response(lines(), mimetype="application/x-ndjson")


def download(data: str | bytes, name: str, mimetype: str) -> Response:
    return Response(data, mimetype=mimetype, headers=_attachment(name))
