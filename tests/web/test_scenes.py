"""Scenes over HTTP: on the Bench, in a file, and in the log."""

from __future__ import annotations

import json
from typing import Any

from flask.testing import FlaskClient

from tests.web.test_finding import refused

FRONT = "pedals-in-front"
URL = f"/api/hookups/{FRONT}"
BOOST = {"unit": "bladderwrack", "control": "on", "value": True}


def bench(client: FlaskClient) -> Any:
    return client.get(URL).json


def change(client: FlaskClient, *changes: dict[str, Any]) -> Any:
    return client.post(f"{URL}/changes", json={"saves": bench(client)["saves"], "changes": list(changes)})


def log(client: FlaskClient, **note: Any) -> Any:
    session = client.get("/api/sessions").json["sessions"][0]["id"]
    body = {"hookup": FRONT, "note": {"name": "Bell", **note}}
    return client.post(f"/api/sessions/{session}/takes", json=body)


def told(state: Any) -> dict[str, bool]:
    return {each["scene"]["name"]: each["stands"] for each in state["analysis"]["scenes"]}


def test_a_scene_is_added_put_on_dropped_and_undone(client: FlaskClient) -> None:
    before = bench(client)
    made = change(client, {"op": "scene", "scene": {"name": "Solo", "settings": [BOOST | {"value": False}]}})
    assert told(made.json) == {**told(before), "Solo": False}
    assert made.json["undo"] == "scene “Solo”"
    assert made.json["scenes_left"] == before["scenes_left"] - 1
    on = change(client, {"op": "put_on", "name": "Solo"}).json
    assert told(on)["Solo"] is True
    entry = next(e for e in client.get("/api/hookups").json["entries"] if e["id"] == FRONT)
    assert (entry["scene"], entry["scenes"]) == ("Solo", list(told(on)))
    assert "Solo" not in told(change(client, {"op": "drop_scene", "name": "Solo"}).json)
    for _ in range(3):
        state = bench(client)
        assert client.post(f"{URL}/undo", json={"saves": state["saves"]}).status_code == 200
    assert told(bench(client)) == told(before)


def test_what_is_no_scene_is_refused_and_nothing_is_changed(client: FlaskClient) -> None:
    before = bench(client)
    for body, said in (
        ({"op": "scene", "scene": {"name": ""}}, "changes 1, scene, Scene: it must not be empty."),
        ({"op": "scene", "scene": {"name": "x" * 61}}, "changes 1, scene, Scene: at most 60 characters, this has 61."),
        ({"op": "scene", "scene": {"name": "Answer"}}, "Two scenes are called “Answer”"),
        ({"op": "scene", "scene": {"name": "New"}, "was": "Bridge"}, "There is no scene “Bridge” here"),
        ({"op": "put_on", "name": "Bridge"}, "There is no scene “Bridge” here"),
        ({"op": "drop_scene", "name": "Bridge"}, "There is no scene “Bridge” here"),
        (
            {"op": "scene", "scene": {"name": "New", "settings": [{"unit": "bosun"}]}},
            "scene, Settings 1, Control is missing.",
        ),
    ):
        refused(change(client, body), said)
    assert bench(client)["saves"] == before["saves"]
    many = [{"op": "scene", "scene": {"name": f"Scene {n}"}} for n in range(before["scenes_left"] + 1)]
    refused(change(client, *many), "Scenes: 9 are more than the 8 that a hook-up may have")
    assert change(client, *many[1:]).json["scenes_left"] == 0


def test_a_scene_of_a_pedal_that_is_gone_is_told_and_kept_out_of_the_log(client: FlaskClient) -> None:
    state = change(client, {"op": "remove", "unit": "samphire"}).json
    said = [f["text"] for f in state["analysis"]["findings"] if f["id"] == "scene-amiss"]
    assert said[0] == "Scene “Under the voice” cannot be set as it says: Samphire is not in the hook-up."
    assert len(said) == 3
    refused(change(client, {"op": "put_on", "name": "Answer"}), "Samphire is not in the hook-up")
    refused(log(client, scene="Answer"), "Scene: Scene “Answer” cannot be set as it says")
    refused(log(client, scene="Bridge"), "Scene: There is no scene “Bridge” here; there is “Under the voice”, “Answer”")
    # What mends them takes the pedal out of each of them.
    for finding in client.post(f"{URL}/fixes", json={"changes": []}).json["findings"]:
        if finding["id"] == "scene-amiss":
            assert change(client, *finding["fix"]["changes"]).status_code == 200
    state = bench(client)
    assert not any(f["id"] == "scene-amiss" for f in state["analysis"]["findings"])
    assert told(state) == {"Under the voice": False, "Answer": True, "Bell, far off": False}


def test_a_take_names_its_scene_and_is_as_the_scene_was(client: FlaskClient) -> None:
    made = log(client, scene="Under the voice", controls=[{"name": "Gain", "value": "6"}, {"name": "Channel"}])
    assert made.status_code in (200, 201)
    take = made.json
    assert take["note"]["scene"] == "Under the voice"
    # The scene's knobs go into the log where nobody said where they stood.
    assert take["note"]["controls"] == [{"name": "Gain", "value": "6"}, {"name": "Channel", "value": "clean"}]
    seen = client.get(f"/api/takes/{take['id']}/snapshot").json["hookup"]
    settings = {unit["unit"]: unit["settings"] for unit in seen["units"]}
    assert settings["bosun"]["volume"] == -12.0
    assert settings["bladderwrack"]["on"] is False
    # The hook-up itself stays as it stood.
    assert not any(told(bench(client)).values())
    assert [t["id"] for t in client.get("/api/takes?search=under+voice").json["takes"]] == [take["id"]]
    url = f"/api/takes/{take['id']}"
    refused(
        client.put(url, json=take["note"] | {"scene": "Answer"}),
        "Scene: the take was logged in scene “Under the voice”, and its hook-up stays as it was.",
    )
    other = log(client, scene="Answer").json
    differs = client.get(f"/api/takes/{take['id']}/difference/{other['id']}").json["differs"]
    assert {"group": "said", "what": "Scene", "one": "Under the voice", "other": "Answer"} in differs
    assert any(d["group"] == "settings" for d in differs)
    assert "Answer" in client.get("/api/log.csv").text
    recalled = client.post(f"{url}/recall").json
    assert next(s["stands"] for s in recalled["analysis"]["scenes"] if s["scene"]["name"] == "Under the voice")


def test_scenes_go_out_with_the_hookup_and_come_in_again(client: FlaskClient) -> None:
    doc = json.loads(client.get(f"{URL}/file").text)
    brought = client.post("/api/hookups/import", data=json.dumps(doc), content_type="application/json")
    assert brought.status_code in (200, 201)
    assert told(brought.json) == told(bench(client))
    doc["hookup"]["scenes"][0]["settings"][0]["value"] = [1]
    refused(
        client.post("/api/hookups/import", data=json.dumps(doc), content_type="application/json"),
        "hookup, Scenes 1, Settings 1, value",
    )


def test_a_run_sheet_goes_through_every_scene(client: FlaskClient) -> None:
    scene = bench(client)["analysis"]["scenes"][2]["scene"] | {"order": ["samphire", "bladderwrack"]}
    assert change(client, {"op": "scene", "scene": scene, "was": scene["name"]}).status_code == 200
    steps = client.get(f"{URL}/run").json["steps"]
    found = [s["step"]["text"] for s in steps if s["step"]["text"].startswith("Scene ")]
    assert found == [
        "Scene “Under the voice”: Bosun's guitar volume −12 dB; Bladderwrack off; Samphire off; Channel clean",
        "Scene “Answer”: Bosun's guitar volume 0 dB; Bladderwrack on; Samphire off",
        "Scene “Bell, far off”: Bosun's guitar volume −3 dB; Bladderwrack on; Samphire on;"
        " pedals in the order Samphire, Bladderwrack; Channel lead",
    ]
