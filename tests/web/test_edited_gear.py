"""A unit's form before it is saved: its picture and what it would do, over HTTP; nothing is kept."""

from __future__ import annotations

from typing import Any

import pytest
from flask.testing import FlaskClient


def doc_of(client: FlaskClient, gear_id: str) -> dict[str, Any]:
    found: dict[str, Any] = client.get(f"/api/gear/{gear_id}").get_json()["doc"]
    return found


def test_the_picture_follows_the_form(client: FlaskClient) -> None:
    doc = doc_of(client, "groyne-r8")
    for through, contact in (("switching", "takes_out"), ("parallel", "beside"), ("unknown", "unknown")):
        back = client.post("/api/gear/back", json={**doc, "through": through}).get_json()
        assert {j["socket"]: j["contact"] for j in back["jacks"]}["through"] == contact
    # A form without a name or an id yet is drawn as well.
    bare = client.post("/api/gear/back", json={"kind": "load", "name": "", "id": ""})
    assert bare.status_code == 200
    assert [n["field"] for n in bare.get_json()["needs"] if not n["known"]] == ["rating", "rating_kind", "cutout"]


@pytest.mark.parametrize(
    ("field", "value"), [("rating", -3), ("rating", "much"), ("kind", "anchor"), ("impedances", [])]
)
def test_a_form_that_cannot_be_read_is_refused_by_field(client: FlaskClient, field: str, value: object) -> None:
    doc = {**doc_of(client, "groyne-r8"), field: value}
    for path in ("back", "groyne-r8/effects"):
        refused = client.post(f"/api/gear/{path}", json=doc)
        assert refused.status_code == 422
        assert refused.get_json()["problems"]


def test_effects_are_those_of_saving_and_nothing_is_saved(client: FlaskClient) -> None:
    doc = {**doc_of(client, "groyne-r8"), "rating": 20}
    before = {h["id"]: h["severity"] for h in client.get("/api/hookups").get_json()["entries"]}
    said = {e["hookup"]: e for e in client.post("/api/gear/groyne-r8/effects", json=doc).get_json()["effects"]}
    assert {h["id"]: h["severity"] for h in client.get("/api/hookups").get_json()["entries"]} == before
    revision = client.get("/api/gear/groyne-r8").get_json()["revision"]
    client.put("/api/gear/groyne-r8", json={"revision": revision, "unit": doc})
    after = {h["id"]: h["severity"] for h in client.get("/api/hookups").get_json()["entries"]}
    assert len(said) > 3
    for hookup, severity in after.items():
        if severity != before[hookup]:
            assert (said[hookup]["before"], said[hookup]["after"]) == (before[hookup], severity)


def test_a_change_that_takes_a_socket_away_says_so(client: FlaskClient) -> None:
    doc = {**doc_of(client, "groyne-r8"), "line_out": None}
    said = client.post("/api/gear/groyne-r8/effects", json=doc).get_json()["effects"]
    assert said[0]["after"] == "stop"
    assert said[0]["words"].startswith("could no longer be laid out: Groyne R8 has no")


def test_what_no_hookup_notices_has_no_effects(client: FlaskClient) -> None:
    doc = {**doc_of(client, "groyne-r8"), "notes": "salt on the lid"}
    assert client.post("/api/gear/groyne-r8/effects", json=doc).get_json()["effects"] == []


def test_what_was_ticked_and_unticked_leaves_no_mark(client: FlaskClient) -> None:
    doc = {**doc_of(client, "groyne-r8"), "id": "", "typical": ["Speaker to line", "Rating", "of nothing"]}
    kept = client.post("/api/gear", json=doc).get_json()
    assert kept["unit"]["typical"] == ["Speaker to line", "Rating"]
    bare = {**kept["doc"], "line_out": None}
    saved = client.put(f"/api/gear/{kept['unit']['id']}", json={"revision": kept["revision"], "unit": bare}).get_json()
    assert saved["unit"]["typical"] == ["Rating"]
