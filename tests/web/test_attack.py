"""A short part of what `make attack` does at length."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from openapi_spec_validator import validate

from low_tide.web.openapi import document
from tests.attack import contract, disk, kills
from tests.conftest import Server
from tests.examples import many
from tests.written import WRITTEN


def test_the_document_is_valid() -> None:
    found = json.loads(json.dumps(document()))
    validate(found)
    assert found == WRITTEN


def test_the_server_answers_as_its_document_says(server: Server) -> None:
    assert list(contract.failures(server.url, examples=many(2))) == []


def test_kills_lose_nothing(filled: Path, tmp_path: Path) -> None:
    found = kills.run(filled, tmp_path / "killed", kills=15, seed=11)
    assert found.wrong == []
    assert found.kills == 15


def test_a_full_disk_saves_nothing_half(filled: Path, tmp_path: Path) -> None:
    with disk.small_disk(tmp_path / "disk") as mounted:
        if not mounted:
            pytest.skip("no disk can be mounted here; test_data.py fills a database instead")
        found = disk.run(filled, tmp_path / "disk", deeds=15, seed=3)
    assert found.wrong == []
    assert found.refused
