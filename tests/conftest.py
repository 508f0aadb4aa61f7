"""Shared fixtures: a data folder, the lightship in it, a client, a server with a browser."""

from __future__ import annotations

import fcntl
import gc
import os
import shutil
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask import Flask
from flask.testing import FlaskClient
from hypothesis import settings

from low_tide.cli import COLLECT_AT
from low_tide.demo.fill import fill
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import Home
from low_tide.web.server import begin, create_app
from tests.serving import Server

# The same examples in every run, so that a run tells of the change and not of the day; HYPOTHESIS=random takes others.
settings.register_profile("same", derandomize=True, deadline=None)
settings.register_profile("random", deadline=None)
settings.load_profile(os.environ.get("HYPOTHESIS", "same"))

gc.set_threshold(*COLLECT_AT)


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
def filled(tmp_path_factory: pytest.TempPathFactory, worker_id: str) -> Path:
    """A closed data folder with the lightship in it, to be copied: filling one takes seconds. Of several processes that
    test the first does so for all."""
    base = tmp_path_factory.getbasetemp()
    folder = (base if worker_id == "master" else base.parent) / "lightship"
    with folder.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.exists():
            half = Path(tempfile.mkdtemp(dir=folder.parent))
            fill(open_home(half))
            database.close()
            half.rename(folder)
    return folder


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
