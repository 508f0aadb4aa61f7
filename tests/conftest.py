"""Shared fixtures: a data folder, the lightship in it, a client, a server with a browser."""

from __future__ import annotations

import gc
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from hypothesis import settings

from low_tide.cli import COLLECT_AT
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import Home
from low_tide.web.server import begin, create_app
from tests.lightship import PLACE
from tests.lightship import filled as filled_once
from tests.serving import Server

# The same examples in every run, so that a run tells of the change and not of the day; HYPOTHESIS=random takes others.
settings.register_profile("same", derandomize=True, deadline=None)
settings.register_profile("random", deadline=None)
settings.load_profile(os.environ.get("HYPOTHESIS", "same"))

gc.set_threshold(*COLLECT_AT)


def pytest_configure(config: pytest.Config) -> None:
    """A folder for all processes of this run. Where there are several, the lightship is filled while they look for
    their tests, instead of by one of them that all others wait for."""
    if PLACE in os.environ:
        return
    place = tempfile.mkdtemp(prefix="low-tide-")
    os.environ[PLACE] = place
    config.add_cleanup(lambda: shutil.rmtree(place, ignore_errors=True))
    config.add_cleanup(lambda: os.environ.pop(PLACE))
    if getattr(config.option, "numprocesses", 0):
        filling = subprocess.Popen([sys.executable, "-m", "tests.lightship"])
        config.add_cleanup(filling.wait)
        config.add_cleanup(filling.kill)


def pytest_collection_finish() -> None:
    """What there is by now stays to the end: a server leaves that out of its collections too."""
    gc.collect()
    gc.freeze()


@pytest.fixture
def home(tmp_path: Path) -> Iterator[Home]:
    """An opened, empty data folder."""
    yield open_home(tmp_path / "home")
    database.close()


@pytest.fixture(scope="session")
def filled() -> Path:
    """A closed data folder with the lightship in it, to be copied."""
    return filled_once()


@pytest.fixture
def lightship(filled: Path, tmp_path: Path) -> Iterator[Home]:
    """A data folder of the test's own with the lightship in it."""
    shutil.copytree(filled, tmp_path / "home")
    yield open_home(tmp_path / "home")
    database.close()


@pytest.fixture(scope="session")
def one_app(tmp_path_factory: pytest.TempPathFactory) -> Flask:
    """The application, made once: to register every route takes longer than most tests."""
    return create_app(Home(tmp_path_factory.mktemp("nowhere")))


@pytest.fixture
def client(one_app: Flask, lightship: Home) -> FlaskClient:
    begin(one_app, lightship)
    return one_app.test_client()


@pytest.fixture
def server(filled: Path, tmp_path: Path) -> Iterator[Server]:
    running = Server(Path(shutil.copytree(filled, tmp_path / "served")))
    yield running
    running.kill()


@pytest.fixture
def harbour_time(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """A clock that is changed: an hour back at the end of October, an hour on at the end of March."""
    monkeypatch.setenv("TZ", "CET-1CEST,M3.5.0,M10.5.0/3")
    time.tzset()
    yield
    monkeypatch.undo()
    time.tzset()
