"""What people ask of what they own, over HTTP: which amp into what, another amp, papers, ohms at a plug."""

from __future__ import annotations

import csv
import io
from typing import Any

from flask.testing import FlaskClient

from tests.web.test_finding import refused


def test_two_boxes_at_one_time(client: FlaskClient) -> None:
    def pair(**query: str) -> dict[tuple[str, str], Any]:
        found = client.get("/api/pairs", query_string=query).json["pairs"]
        return {(p["amp"], p["box"]): p for p in found}

    alone, both = pair(), pair(beside="turnstone-212")
    assert alone["godwit-45", "gabion-40"]["tap"] == 8
    assert both["godwit-45", "gabion-40"]["tap"] == 4
    assert ("godwit-45", "turnstone-212") not in both
    refused(client.get("/api/pairs", query_string={"beside": "nobody"}), "no unit “nobody”", 404)
    for gear_id in ("godwit-45", "dunlin-speaker"):
        refused(client.get("/api/pairs", query_string={"beside": gear_id}), "is no load or cabinet that goes on an amp")


def test_another_amp_in_the_same_hookup(client: FlaskClient) -> None:
    found = client.get("/api/hookups/quiet-hold/other-amps", query_string={"amp": "godwit-45"}).json["amps"]
    best = found[0]
    assert best["differs"][0].startswith("It sees 8 Ω on its 8 Ω tap.")
    state = client.get("/api/hookups/quiet-hold").json
    made = client.post("/api/hookups/quiet-hold/changes", json={"changes": best["changes"], "saves": state["saves"]})
    assert made.json["analysis"]["verdict"]["words"] == best["words"]
    assert best["amp"] in [u["id"] for u in made.json["units"]]
    refused(client.get("/api/hookups/quiet-hold/other-amps", query_string={"amp": "skerry-4"}), "no amp", 404)


def test_papers_are_listed_for_an_insurer_and_leave_with_nothing_else(client: FlaskClient) -> None:
    found = client.get("/api/locker/insurer").json
    head = next(u for u in found["units"] if u["unit"] == "godwit-45")
    assert (head["price"], head["papers"]["serial"], head["weight"]) == ("1,650 EUR", "0213", 17.5)
    assert found["total"].endswith(" EUR")
    assert not any(u["kind"] == "Room" for u in found["units"])
    rows = list(csv.reader(io.StringIO(client.get("/api/locker/insurer.csv").data.decode("utf-8-sig"))))
    assert rows[0][3] == "Price, EUR"
    assert ["Amp", "Godwit 45", "0213"] in [row[:3] for row in rows]
    assert "papers" not in client.get("/api/hookups/quiet-hold/file").text
    # What a take keeps of its gear has none either, and recalled it is the locker's own, not an older copy of it.
    take = client.post("/api/sessions/1/takes", json={"hookup": "quiet-hold", "note": {"name": "a"}})
    assert take.status_code == 201, take.text
    assert "papers" not in client.get(f"/api/takes/{take.json['id']}/snapshot").text
    back = client.post(f"/api/takes/{take.json['id']}/recall").json
    assert not any(u["pinned"] for u in back["units"])


def test_prices_are_in_ones_own_currency(client: FlaskClient) -> None:
    now = client.get("/api/preferences").json
    chosen = {**now["preferences"], "currency": "shells"}
    assert client.put("/api/preferences", json=chosen, query_string={"saves": now["saves"]}).status_code == 200
    assert client.get("/api/locker/insurer").json["total"].endswith(" shells")
    refused(client.put("/api/preferences", json={**chosen, "currency": ""}), "Prices are in")


def test_ohms_at_a_plug(client: FlaskClient) -> None:
    def told(ohms: float, **box: Any) -> Any:
        doc = {"kind": "cabinet", "drivers": [{}], **box}
        return client.post("/api/tools/ohms-at-the-plug", json={"box": doc, "ohms": ohms})

    assert [(each["driver"], each["rated"]) for each in told(6.6).json["found"]] == [(8, 8)]
    halves = told(13.1, drivers=[{}] * 4, jacks=2, jack_wiring="separate").json
    assert halves["drivers"] == 2  # one half hangs on each jack
    assert ("series", 8) in [(each["wiring"], each["driver"]) for each in halves["found"]]
    refused(told(90, drivers=[{}, {}]), "90 Ω is not what 2 common drivers would read")
    refused(told(0), "Ohms at the plug: 0 Ω is under")
    load = client.get("/api/gear/groyne-r8").json["doc"]
    nothing = client.post("/api/tools/ohms-at-the-plug", json={"box": load, "ohms": 6})
    refused(nothing, "Groyne R8: only a cabinet has drivers to tell.")


def test_where_an_attenuator_can_be_read(client: FlaskClient) -> None:
    def asked(gear_id: str) -> Any:
        return client.post("/api/tools/positions", json={"box": client.get(f"/api/gear/{gear_id}").json["doc"]})

    assert asked("riprap-50").json == {"steps": True, "names": ["8", "16", "24"]}
    assert asked("sandbag-30").json == {"steps": False, "names": ["0", "3", "6", "10"]}
    assert asked("caisson-120").json == {"steps": False, "names": []}
    refused(asked("groyne-r8"), "only an attenuator has positions to calibrate")


def test_how_far_down_is_said_in_words(client: FlaskClient) -> None:
    wish = {"goal": "down", "line": False, "amp": "godwit-45", "cabinet": "turnstone-212"}
    found = client.post("/api/hookups/find", json={"wish": {**wish, "down_said": "half as loud"}, "now": ""})
    assert found.status_code == 200
    assert "About 10 dB down" in found.text
    refused(
        client.post("/api/hookups/find", json={"wish": {**wish, "down_said": "rather"}, "now": ""}), "Down by: “rather”"
    )
