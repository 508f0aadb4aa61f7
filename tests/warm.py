"""What a server knows once it has answered for a while: the process that servers are forked from imports this."""

from __future__ import annotations

import gc
import shutil
import tempfile
from pathlib import Path

from flask import Flask

from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import Home
from low_tide.web import server
from tests.lightship import filled

HOOKUP = "silent-night"
ASKED = (
    "/api/about",
    "/api/gear",
    "/api/kinds",
    "/api/hookups",
    "/api/preferences",
    f"/api/hookups/{HOOKUP}",
    f"/api/hookups/{HOOKUP}/run",
    f"/api/hookups/{HOOKUP}/feel",
    f"/api/hookups/{HOOKUP}/loudness",
    "/api/takes",
    "/api/sessions",
)


def _warmed() -> Flask:
    with tempfile.TemporaryDirectory() as folder:
        app = server.create_app(open_home(Path(shutil.copytree(filled(), folder, dirs_exist_ok=True))))
        client = app.test_client()
        for path in ASKED:
            assert client.get(path).status_code == 200, path
        database.close()
    return app


_app = _warmed()
# What there is by now is left out of the collections of those that are forked: to look at it would be to copy it.
gc.collect()
gc.freeze()


def create_app(home: Home, demo: bool = False) -> Flask:
    """The application as `low_tide.web.server` makes it, made already."""
    server.begin(_app, home, demo)
    return _app
