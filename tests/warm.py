"""What a server knows once it has answered for a while: the process that servers are forked from imports this."""

from __future__ import annotations

import tempfile
from pathlib import Path

from flask import Flask

from low_tide.app import bench, locker
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.documents import dump
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import Home
from low_tide.web import server

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
        app = server.create_app(open_home(Path(folder)))
        with database.connection_context():
            for unit in GEAR.values():
                locker.add(dump(unit))
            bench.create(hookup=HOOKUPS[HOOKUP], id=HOOKUP)
        client = app.test_client()
        for path in ASKED:
            assert client.get(path).status_code == 200, path
        database.close()
    return app


_app = _warmed()


def create_app(home: Home, demo: bool = False) -> Flask:
    """The application as `low_tide.web.server` makes it, made already."""
    server.begin(_app, home, demo)
    return _app
