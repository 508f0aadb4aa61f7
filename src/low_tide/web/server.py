"""The application: opens the data folder, wires security, problems, API and front end."""

from __future__ import annotations

import mimetypes
from pathlib import Path

from flask import Flask, Response, g, request, send_from_directory
from flask_openapi3 import Info, OpenAPI

from low_tide import __version__
from low_tide.app.errors import Conflict
from low_tide.app.live import Live
from low_tide.app.sharing import Sharing
from low_tide.store.database import database
from low_tide.store.home import Home
from low_tide.web import access, problems, security
from low_tide.web.api import api
from low_tide.web.api.base import Problem

STATIC = Path(__file__).with_name("static")
UNBUILT = "The front end has not been built yet. Run: make build\n"


DATA_HEADER = "Low-Tide-Data"
"""Which data an answer rests on, and a request that names others is refused: a restore may come in between."""


def _counted(app: OpenAPI) -> str:
    home: Home = app.config["HOME_FOLDER"]
    return f"lightship-{home.folder.name}" if app.config["OWN"] else home.generation or "first"


PACKED = {"br": ".br", "gzip": ".gz"}
"""How a file may be packed at the build, the tightest first, and what its name ends in then."""


def _packed(folder: Path, name: str) -> Response:
    """A file as it was packed at the build, where whoever asks can unpack it."""
    asks = request.accept_encodings
    found = next((by for by, end in PACKED.items() if asks.quality(by) > 0 and (folder / (name + end)).is_file()), "")
    if not found:
        return send_from_directory(folder, name)
    kind = mimetypes.guess_type(name)[0] or "application/octet-stream"
    response = send_from_directory(folder, name + PACKED[found], mimetype=kind)
    response.headers["Content-Encoding"] = found
    response.vary.add("Accept-Encoding")
    return response


def begin(app: Flask, home: Home, demo: bool = False) -> None:
    """Begin with a data folder: nobody follows yet, and nothing is shared."""
    live = Live()
    live.follow()
    app.config.update(HOME_FOLDER=home, OWN=None, DEMO=demo, LIVE=live, SHARING=Sharing(home, live))


def create_app(home: Home, demo: bool = False, static: Path = STATIC) -> OpenAPI:
    """The WSGI application over an opened data folder."""
    app = OpenAPI(
        "low_tide",
        info=Info(title="Low Tide", version=__version__),
        doc_ui=False,
        validation_error_model=Problem,
        validation_error_callback=problems.invalid_request,
        static_folder=None,
    )
    app.config.update(MAX_CONTENT_LENGTH=security.BODY_LIMIT)
    begin(app, home, demo)
    security.guard(app)
    access.guard(app)
    problems.install(app)

    @app.before_request
    def connect() -> None:
        if request.path.startswith("/api/"):
            database.connect(reuse_if_open=True)

    @app.teardown_request
    def disconnect(_: BaseException | None) -> None:
        if not database.is_closed():
            database.close()

    @app.before_request
    def of_these_data() -> None:
        seen = request.headers.get(DATA_HEADER)
        if seen is not None and seen != _counted(app):
            raise Conflict(
                "This page was read from other data: a backup was put in their place, or somebody went to the"
                " lightship or came back. Load the page again."
            )

    @app.after_request
    def say_which_data(response: Response) -> Response:
        if g.get("known"):
            response.headers[DATA_HEADER] = _counted(app)
        return response

    app.register_api(api)

    @app.route("/assets/<path:name>")
    def assets(name: str) -> Response:
        response = _packed(static / "assets", name)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response

    @app.route("/icon.svg")
    def icon() -> Response:
        return send_from_directory(static, "icon.svg")

    @app.route("/robots.txt")
    def robots() -> Response:
        return send_from_directory(static, "robots.txt")

    @app.route("/sw.js")
    def service_worker() -> Response:
        return send_from_directory(static, "sw.js", max_age=0)

    @app.route("/", defaults={"_": ""})
    @app.route("/<path:_>")
    def page(_: str) -> Response | tuple[Response, int]:
        if _.startswith("api/"):
            return problems.problem(404, "Not found", ["There is nothing at this address."])
        index = static / "index.html"
        if not index.exists():
            return Response(UNBUILT, mimetype="text/plain"), 503
        html = index.read_text(encoding="utf-8").replace("{{nonce}}", g.nonce)
        response = Response(html, mimetype="text/html")
        response.headers["Cache-Control"] = "no-store"
        return response

    @app.route(access.PAIR)
    def pairing_page() -> Response | tuple[Response, int]:
        return page("")

    return app
