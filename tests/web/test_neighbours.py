"""Neighbours over HTTP: what they said becomes a limit of their place, and a notice tells them beforehand."""

from __future__ import annotations

from typing import Any

import pytest
from flask.testing import FlaskClient

from tests.web.test_finding import refused

BOAT = "next-boat"


def said(client: FlaskClient, kind: str, level: float | None, at: str = "2026-03-01T22:40", **more: Any) -> Any:
    body = {"said": {"kind": kind, "place": BOAT, "level": level, "words": ""}, "at": at, **more}
    return client.post("/api/neighbours", json=body)


def proposals(client: FlaskClient) -> list[dict]:
    found: list[dict] = client.get("/api/neighbours/limits").json["proposals"]
    return found


@pytest.mark.usefixtures("harbour_time")
def test_a_complaint_proposes_a_limit_that_is_put_on_with_one_press(client: FlaskClient) -> None:
    assert proposals(client) == []
    line = said(client, "complaint", 38).json
    assert (line["kind"], line["level"]) == ("complaint", 38)
    assert line["text"] == "Next boat, complaint at 38 dBA"
    (found,) = proposals(client)
    assert found["name"] == "Next boat"
    assert [limit["level"] for limit in found["limits"] if limit["start"] == "21:00"] == [33]
    said(client, "none", 36)
    assert "none at 36 dBA: at most 36 dBA from 21:00 to 07:00" in proposals(client)[0]["why"][0]
    made = client.post(f"/api/neighbours/limits/{BOAT}")
    assert made.status_code == 200
    place = client.get(f"/api/gear/{BOAT}").json["unit"]
    assert {(x["start"], x["end"], x["level"]) for x in place["limits"]} >= {("21:00", "07:00", 36)}
    assert proposals(client) == []
    refused(client.post(f"/api/neighbours/limits/{BOAT}"), "Nothing is proposed for this place any more", 409)
    # The line gone, nothing speaks for the limit any more; the place keeps what it was given.
    client.delete(f"/api/lines/{line['id']}")
    assert proposals(client) == []


def test_what_has_no_level_proposes_nothing(client: FlaskClient) -> None:
    assert said(client, "complaint", None).status_code == 201
    assert proposals(client) == []


@pytest.mark.usefixtures("harbour_time")
@pytest.mark.parametrize(
    ("body", "says"),
    [
        ({"level": 150}, "Level there: 150 dBA is over the most allowed, 140 dBA."),
        ({"kind": "rage"}, "kind"),
        ({"place": "godwit-45"}, "is no listening place"),
        ({"words": "x" * 801}, "In words"),
    ],
)
def test_what_cannot_be_is_refused(client: FlaskClient, body: dict[str, Any], says: str) -> None:
    before = client.get("/api/lines").json
    doc = {"kind": "complaint", "place": BOAT, "level": 40, "words": "", **body}
    refused(client.post("/api/neighbours", json={"said": doc}), says)
    refused(said(client, "none", 40, at="2099-01-01T10:00"), "yet to come")
    refused(said(client, "none", 40, at="2025-10-26T02:30"), "comes twice that night")
    assert client.get("/api/lines").json == before


def test_a_notice_says_how_loud_it_comes_to_be_at_theirs(client: FlaskClient) -> None:
    found = client.get("/api/hookups/tap-on-lead/notice").json
    plan = client.get("/api/hookups/tap-on-lead/loudness").json["plan"]
    ears = {p["place"] for p in plan["places"] if p["ears"]}
    assert {p["place"] for p in found["places"]}.isdisjoint(ears)
    boat = next(p for p in found["places"] if p["place"] == BOAT)
    level = next(p for p in plan["places"] if p["place"] == BOAT)
    assert boat["level"] == pytest.approx(level["dba"])
    assert boat["most"] == pytest.approx(level["dba"] + level["spread"]["up"])
    assert boat["words"].startswith(("quieter than", "about as loud as", "louder than"))
