"""What is wrong, over HTTP: a search from its symptom to the log, and units that are suspect."""

from __future__ import annotations

from typing import Any

from flask.testing import FlaskClient

from tests.web.test_finding import refused
from tests.web.test_run import HOLD, NIGHT, run, switch_on


def begin(client: FlaskClient, symptom: str, name: str = HOLD) -> Any:
    return client.post(f"/api/hookups/{name}/faults", json={"symptom": symptom})


def say(client: FlaskClient, state: dict, action: str, **body: Any) -> Any:
    return client.post(f"/api/faults/{state['id']}/{action}", json={"saves": state["saves"], **body})


def lines(client: FlaskClient) -> list[str]:
    return [line["text"] for line in client.get("/api/lines").json["lines"]]


def test_a_search_from_its_symptom_to_the_log(client: FlaskClient) -> None:
    state = begin(client, "hum").json
    assert state["symptom_name"] == "Hum"
    first = state["now"]["test"]
    one = say(client, state, "answer", test=first["id"], said="no").json
    assert [a["said"] for a in one["answered"]] == ["no"]
    # It is kept: another window goes on where this one stands, and an older answer is told.
    assert client.get(f"/api/faults/{state['id']}").json == one
    refused(say(client, state, "answer", test=one["now"]["test"]["id"], said="no"), "Another window", 409)
    refused(say(client, one, "answer", test=first["id"], said="yes"), "not one of those that are left", 404)
    back = say(client, one, "back").json
    assert (back["answered"], back["now"]["test"]["id"]) == ([], first["id"])
    refused(say(client, back, "back"), "Nothing has been answered", 409)
    cause = back["now"]["left"][0]
    still = say(client, back, "mended", cause=cause["id"], gone=False).json
    assert still["set_aside"] == [cause["name"]]
    assert cause["id"] not in {left["id"] for left in still["now"]["left"]}
    refused(say(client, still, "mended", cause=cause["id"], gone=True), "not one of those that are left", 404)
    other = still["now"]["left"][0]
    ended = say(client, still, "mended", cause=other["id"], gone=True).json
    assert ended["found"] == other["name"]
    assert any(line.startswith("“Cue 2, quiet in the hold”. Hum: ") for line in lines(client))
    refused(say(client, ended, "back"), "This search is over", 409)
    listed = client.get(f"/api/hookups/{HOLD}/faults").json["faults"]
    assert [(each["symptom_name"], each["found"]) for each in listed] == [("Hum", other["name"])]
    # What was found once is likelier the next time.
    again = begin(client, "hum").json["now"]["left"]
    before = next(left["share"] for left in back["now"]["left"] if left["id"] == other["id"])
    assert next(left["share"] for left in again if left["id"] == other["id"]) > before


def test_given_up(client: FlaskClient) -> None:
    state = begin(client, "late").json
    assert say(client, state, "give-up").json["ended"]
    assert any("Late: not found" in line for line in lines(client))


def test_a_remedy_is_a_change_to_the_hookup(client: FlaskClient) -> None:
    left = begin(client, "quiet").json["now"]["left"]
    fix = next(each["fix"] for each in left if each["id"] == "step-deep")
    # One step, and no more: what was too quiet must not come back all at once.
    assert (fix["changes"][0]["control"], fix["changes"][0]["value"]) == ("step", 15.0)
    done = client.post(f"/api/hookups/{HOLD}/changes", json={"saves": 1, "changes": fix["changes"]})
    assert done.status_code == 200


def test_danger_is_answered_at_once(client: FlaskClient) -> None:
    switch_on(client, HOLD)
    state = begin(client, "danger").json
    assert (state["now"]["danger"], state["now"]["test"]) == (True, None)
    assert state["now"]["steps"][0].startswith("Off at the mains, now")
    # What was in it is suspect in every hook-up from now on.
    suspects = {each["unit"] for each in client.get("/api/suspects").json["suspects"]}
    assert suspects == {"godwit-45", "caisson-120", "turnstone-212"}
    found = [c["finding"]["text"] for c in run(client, NIGHT).json["cautions"]]
    assert "Godwit 45 is suspect." in found
    assert not say(client, state, "give-up").json["now"]["left"]
    assert not run(client, HOLD).json["is_on"]
    refused(client.post("/api/suspects/godwit-45/clear", json={"word": " "}), "Your word: 1 to 200")
    refused(client.post("/api/suspects/groyne-r8/clear", json={"word": "fine"}), "not suspect", 404)
    client.post("/api/suspects/godwit-45/clear", json={"word": "bench-tested on Friday"})
    assert "Godwit 45 is cleared: bench-tested on Friday" in lines(client)
    assert "Godwit 45 is suspect." not in [c["finding"]["text"] for c in run(client, NIGHT).json["cautions"]]


def test_danger_pressed_by_mistake(client: FlaskClient) -> None:
    client.post("/api/suspects/godwit-45", json={"word": "It was dropped."})
    state = begin(client, "danger").json
    assert say(client, state, "mistake").json["ended"]
    left = [(s["unit"], s["why"]) for s in client.get("/api/suspects").json["suspects"] if not s["cleared"]]
    # What was suspect before is so still.
    assert left == [("godwit-45", "It was dropped.")]
    refused(say(client, begin(client, "hum").json, "mistake"), "This is a search", 409)


def test_suspect_by_hand(client: FlaskClient) -> None:
    refused(client.post("/api/suspects/nobody", json={"word": "dropped"}), "There is no unit", 404)
    refused(client.post("/api/suspects/groyne-r8", json={"word": "x" * 201}), "Why: 1 to 200")
    told = client.post("/api/suspects/groyne-r8", json={"word": "It was dropped."}).json["suspects"]
    assert [(each["name"], each["why"]) for each in told] == [("Groyne R8", "It was dropped.")]
    again = client.post("/api/suspects/groyne-r8", json={"word": "Dropped twice."}).json["suspects"]
    assert [each["why"] for each in again] == ["Dropped twice."]


def test_what_is_not_there(client: FlaskClient) -> None:
    refused(begin(client, "itches"), "Symptom: “itches” is not known")
    refused(begin(client, "hum", "nobody"), "There is no hook-up", 404)
    refused(client.get("/api/faults/99"), "no such search", 404)
    state = begin(client, "hum").json
    assert say(client, state, "answer", test="own:standby", said="perhaps").status_code == 422
