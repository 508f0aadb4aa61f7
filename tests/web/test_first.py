"""The first minutes over HTTP: starting points with every figure marked, the lightship and back with nothing mixed."""

from __future__ import annotations

import errno
import json
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from itertools import islice
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from werkzeug.test import TestResponse

from low_tide.app import locker
from low_tide.core.rig.needs import needs
from low_tide.core.starting_points import starting_points
from low_tide.demo import visit
from low_tide.demo.fill import STEPS
from low_tide.formats.documents import dump, load_unit
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import Home, clear_leftovers
from low_tide.web.server import create_app


@pytest.fixture
def empty(home: Home) -> FlaskClient:
    return create_app(home).test_client()


@pytest.mark.parametrize("name", starting_points())
def test_a_starting_point_is_a_sound_record_without_a_claim(name: str) -> None:
    for unit in starting_points()[name].units:
        doc = dump(unit)
        assert dump(load_unit(doc)) == doc
        # Every figure a verdict rests on is typical or missing: nothing is known of a unit nobody has described.
        figures = [n for n in needs(unit) if isinstance(getattr(unit, n.field), int | float)]
        assert not [n.field for n in figures if n.known and not isinstance(getattr(unit, n.field), bool)]


def test_starting_points_come_together_or_not_at_all(empty: FlaskClient) -> None:
    offered = [s["name"] for s in empty.get("/api/starts").get_json()["starts"]]
    assert offered == list(starting_points())
    refused = empty.post("/api/starts", json={"names": ["50 W valve head", "a lighthouse"]})
    assert refused.status_code == 404
    assert empty.get("/api/gear").get_json()["entries"] == []
    wanted = ["20 W valve combo", "Speaker lead, 1.5 m", "Speaker lead, 1.5 m"]
    made = empty.post("/api/starts", json={"names": wanted})
    names = [e["unit"]["name"] for e in made.get_json()["entries"]]
    assert names == [
        "20 W valve combo",
        "Speaker of the 20 W valve combo",
        "Speaker lead, 1.5 m",
        "Speaker lead, 1.5 m, 2",
    ]
    combo, speaker = (e["unit"] for e in made.get_json()["entries"][:2])
    assert combo["inner_speaker"] == speaker["id"]
    assert "Label power" in combo["typical"]


@pytest.mark.parametrize("body", [{"names": []}, {"names": "guitar"}, {}, {"names": ["x" * 200]}])
def test_what_is_no_list_of_starting_points_is_refused(empty: FlaskClient, body: object) -> None:
    assert empty.post("/api/starts", json=body).status_code == 422


def few(home: Home) -> Iterator[float]:
    """A ship with one lead aboard: for who only wants to know how one gets there and back."""
    with database.connection_context():
        yield 0.5
        locker.add({"kind": "lead", "name": "Mooring line"})
        yield 1.0


@pytest.fixture
def small_ship(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(visit, "filling", few)


def aboard(client: FlaskClient) -> TestResponse:
    """The whole answer to somebody who goes to the lightship."""
    response = client.post("/api/lightship")
    response.get_data()
    return response


def test_the_lightship_is_a_copy_and_ones_own_data_wait(empty: FlaskClient, home: Home) -> None:
    empty.post("/api/starts", json={"names": ["50 W valve head"]})
    own = empty.get("/api/about").headers["Low-Tide-Data"]
    parts = [json.loads(line)["part"] for line in aboard(empty).text.splitlines()]
    assert parts == sorted(parts)
    assert (parts[0], parts[-1], len(parts)) == (0, 1, 1 + STEPS)
    there = empty.get("/api/about")
    assert there.get_json()["visiting"]
    assert len(empty.get("/api/gear").get_json()["entries"]) > 50
    assert empty.post("/api/lightship").status_code == 409
    # A page of one's own data cannot write into the lightship.
    late = empty.post("/api/starts", json={"names": ["Guitar"]}, headers={"Low-Tide-Data": own})
    assert late.status_code == 409
    assert empty.delete("/api/lightship").status_code == 204
    assert [e["unit"]["name"] for e in empty.get("/api/gear").get_json()["entries"]] == ["50 W valve head"]
    assert not empty.get("/api/about").get_json()["visiting"]
    assert empty.get("/api/about").headers["Low-Tide-Data"] == own
    assert empty.delete("/api/lightship").status_code == 409
    assert not [p.name for p in home.folder.iterdir() if p.name.startswith("work-")]


@pytest.mark.usefixtures("small_ship")
def test_who_stops_on_the_lightship_starts_at_home(tmp_path: Path) -> None:
    own = open_home(tmp_path / "home")
    client = create_app(own).test_client()
    client.post("/api/starts", json={"names": ["Guitar"]})
    aboard(client)
    database.close()
    again = open_home(tmp_path / "home")
    clear_leftovers(again)
    assert not [p.name for p in again.folder.iterdir() if p.name.startswith("work-")]
    entries = create_app(again).test_client().get("/api/gear").get_json()["entries"]
    assert [e["unit"]["name"] for e in entries] == ["Guitar"]
    database.close()


@pytest.mark.usefixtures("small_ship")
@pytest.mark.parametrize("lines", [0, 1, 2])
def test_who_turns_round_on_the_way_to_the_lightship_is_at_home(empty: FlaskClient, home: Home, lines: int) -> None:
    empty.post("/api/starts", json={"names": ["Guitar"]})
    on_the_way = empty.post("/api/lightship")
    for _ in range(lines):
        next(on_the_way.response)
    on_the_way.close()
    assert not empty.get("/api/about").get_json()["visiting"]
    assert [e["unit"]["name"] for e in empty.get("/api/gear").get_json()["entries"]] == ["Guitar"]
    assert not [p.name for p in home.folder.iterdir() if p.name.startswith("work-")]
    assert aboard(empty).status_code == 200
    assert empty.delete("/api/lightship").status_code == 204


def test_a_ship_that_cannot_be_laid_out_says_so_and_leaves_one_at_home(
    empty: FlaskClient, home: Home, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(home: Home) -> Iterator[float]:
        yield from islice(few(home), 1)
        raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(visit, "filling", full)
    *_, last = (json.loads(line) for line in aboard(empty).text.splitlines())
    assert "full" in last["problem"]
    assert not empty.get("/api/about").get_json()["visiting"]
    assert not [p.name for p in home.folder.iterdir() if p.name.startswith("work-")]


def test_the_demo_has_no_other_ship_to_visit(client: FlaskClient) -> None:
    client.application.config["DEMO"] = True
    assert client.post("/api/lightship").status_code == 409


@pytest.mark.usefixtures("small_ship")
def test_of_several_who_go_aboard_at_once_one_does_and_all_come_back_home(home: Home) -> None:
    app = create_app(home)
    app.test_client().post("/api/starts", json={"names": ["Guitar"]})

    def go(_: int) -> int:
        return aboard(app.test_client()).status_code

    with ThreadPoolExecutor(4) as crowd:
        first, *others = sorted(crowd.map(go, range(4)))
    assert first == 200
    # Refused, or told to come again while the change is made.
    assert set(others) <= {409, 503}
    client = app.test_client()
    assert client.delete("/api/lightship").status_code == 204
    assert [e["unit"]["name"] for e in client.get("/api/gear").get_json()["entries"]] == ["Guitar"]


def test_a_room_of_ones_own_is_one_press_away(client: FlaskClient) -> None:
    state = client.get("/api/hookups/quiet-hold").json
    made = client.post("/api/hookups/quiet-hold/listen-here", json={"saves": state["saves"]})
    assert made.status_code == 201
    gear = {e["unit"]["name"]: e["unit"] for e in client.get("/api/gear").json["entries"]}
    room, place = gear["My room"], gear["Where I listen"]
    assert (place["room"], place["ears"], room["typical"], place["typical"]) == (
        room["id"],
        True,
        ["Volume"],
        ["Distance"],
    )
    told = client.get("/api/hookups/quiet-hold/loudness", query_string={"place": place["id"]}).json
    assert {s["room"] for s in told["standing"]} == {room["id"]}
    here = next(p for p in told["plan"]["places"] if p["place"] == place["id"])
    assert here["dba"] is not None
    # Overtaken, it is refused, and nothing is put anywhere; once more is another room, by another name.
    late = client.post("/api/hookups/quiet-hold/listen-here", json={"saves": state["saves"]})
    assert late.status_code == 409
    assert "My room, 2" not in {e["unit"]["name"] for e in client.get("/api/gear").json["entries"]}
    assert client.post("/api/hookups/quiet-hold/undo", json={"saves": made.json["saves"]}).status_code == 200
