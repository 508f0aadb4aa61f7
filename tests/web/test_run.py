"""The run sheet over HTTP: from what stands, readings, timers, left on, kit lists, files."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta
from typing import Any

import pytest
from flask.testing import FlaskClient

from low_tide.app import running, timers
from tests.web.test_finding import refused

NIGHT, HOLD, TWO = "silent-night", "quiet-hold", "tap-on-lead"


def run(client: FlaskClient, name: str, action: str = "", **body: Any) -> Any:
    path = f"/api/hookups/{name}/run"
    return client.post(f"{path}/{action}", json=body) if action else client.get(path)


def first_steps(state: dict) -> list[dict]:
    return [s for s in state["steps"] if s["step"]["phase"] in ("leave", "before")]


def make_ready(client: FlaskClient, name: str) -> None:
    for caution in run(client, name).json["cautions"]:
        run(client, name, "accept", key=caution["finding"]["key"], word="seen")
    for each in first_steps(run(client, name).json):
        assert run(client, name, "tick", step=each["step"]["id"], done=True).status_code == 200


def switch_on(client: FlaskClient, name: str) -> dict:
    make_ready(client, name)
    answer = run(client, name, "switch", on=True)
    assert answer.status_code == 200, answer.json
    found: dict = answer.json
    return found


def all_timers(client: FlaskClient) -> list[dict]:
    found: list[dict] = client.get("/api/timers").json["timers"]
    return found


def reads(client: FlaskClient, name: str, quantity: str) -> dict:
    steps = (s["step"] for s in run(client, name).json["steps"])
    return next(s for s in steps if s["reads"] and s["reads"]["quantity"] == quantity)


def at(client: FlaskClient, name: str, step: str) -> dict:
    return next(s for s in run(client, name).json["steps"] if s["step"]["id"] == step)


def test_from_what_stands_to_the_next(client: FlaskClient) -> None:
    # What the lightship left standing, its amp off.
    left = run(client, HOLD).json["stands"]
    assert (left["hookup"], left["is_on"]) == ("cupboard", False)
    refused(run(client, HOLD, "begin", standing=NIGHT), "never marked as switched on")
    refused(run(client, HOLD, "begin", standing=HOLD), "from itself")
    refused(run(client, HOLD, "begin", standing="nobody"), "There is no hook-up", 404)
    switch_on(client, NIGHT)
    offered = run(client, HOLD).json["stands"]
    assert (offered["hookup"], offered["is_on"], offered["off"]) == (NIGHT, True, True)
    state = run(client, HOLD, "begin", standing=NIGHT).json
    assert state["begins"] == offered
    words = [s["step"]["text"] for s in state["steps"]]
    assert words[1] == "Godwit 45: volume down, standby on, mains off"
    assert "Move Speaker lead A: Godwit 45, speaker 1 → Caisson 120, amp in" in words
    assert run(client, HOLD, "switch", on=True).status_code == 409
    switch_on(client, HOLD)
    assert not run(client, NIGHT).json["is_on"]
    again = run(client, HOLD).json
    # What was ticked stays ticked: how it came to be does not change with what came of it.
    assert all(s["done"] for s in first_steps(again))
    refused(run(client, HOLD, "begin", standing=""), "where it came from is past", 409)
    # The other way round, and dropped again.
    assert run(client, NIGHT).json["stands"]["hookup"] == HOLD
    run(client, NIGHT, "begin", standing=HOLD)
    assert run(client, NIGHT, "begin", standing="").json["begins"] is None


def test_one_amp_is_on_in_one_hookup_alone(client: FlaskClient) -> None:
    switch_on(client, NIGHT)
    switch_on(client, HOLD)
    assert [run(client, name).json["is_on"] for name in (NIGHT, HOLD)] == [False, True]


def test_a_line_is_moved_while_it_stays_on(client: FlaskClient) -> None:
    since = switch_on(client, NIGHT)["since"]
    lower = {"op": "set", "unit": "groyne-r8", "control": "line.pot", "value": -6}
    made = client.post(f"/api/hookups/{NIGHT}/copy", json={"changes": [lower], "revision": 1}).json
    state = run(client, made["id"], "begin", standing=NIGHT).json
    assert (state["begins"]["off"], state["begins"]["plugs"]) == (False, 0)
    assert not any("mains o" in s["step"]["text"] for s in state["steps"] if s["step"]["phase"] != "switch_off")
    after = switch_on(client, made["id"])
    # It never went off, so its hours go on.
    assert (after["since"], run(client, NIGHT).json["is_on"]) == (since, False)


def test_ticks_begin_what_is_waited_for(client: FlaskClient) -> None:
    switch_on(client, NIGHT)
    warm = next(s["step"] for s in run(client, NIGHT).json["steps"] if s["step"]["wait"])
    run(client, NIGHT, "tick", step=warm["id"], done=True)
    (found,) = [t for t in all_timers(client) if t["kind"] == "warm_up"]
    assert 55 < found["left"] <= 60
    assert found["label"] == "Godwit 45 is warm: standby off, volume still down"
    run(client, NIGHT, "tick", step=warm["id"], done=False)
    assert not [t for t in all_timers(client) if t["kind"] == "warm_up"]
    run(client, NIGHT, "tick", step=warm["id"], done=True)
    (found,) = [t for t in all_timers(client) if t["kind"] == "warm_up"]
    assert not [t for t in client.delete(f"/api/timers/{found['id']}").json["timers"] if t["kind"] == "warm_up"]
    refused(client.delete(f"/api/timers/{found['id']}"), "no such timer", 404)
    once, twice = (client.post("/api/timers/choosing", json={"blend": 1}).json["timers"] for _ in range(2))
    assert [t["ends"] for t in once] == [t["ends"] for t in twice if t["kind"] == "choosing"]


def test_a_clock_set_back_leaves_no_guess(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    client.post("/api/timers/choosing", json={"blend": 1})
    monkeypatch.setattr(timers, "_now", lambda: datetime.now(UTC) - timedelta(hours=1))
    (found,) = [t for t in all_timers(client) if t["kind"] == "choosing"]
    assert found["left"] is None
    assert "set back" in found["said"]


def test_a_reading_that_means_stop_holds_the_amp_off(client: FlaskClient) -> None:
    make_ready(client, HOLD)
    ohms = reads(client, HOLD, "ohms")
    step = ohms["id"]
    right, stop = ohms["reads"]["value"], 2 * ohms["reads"]["value"]
    run(client, HOLD, "read", step=step, value=stop)
    found = at(client, HOLD, step)["reading"]
    assert (found["held"]["answer"], found["value"]) == ("stop", stop)
    assert found["held"]["words"] in run(client, HOLD).json["blocked"][0]
    assert run(client, HOLD).json["verdict"]["severity"] == "stop"
    refused(run(client, HOLD, "switch", on=True), "one of two is missing", 409)
    back = run(client, HOLD, "take-back", step=step).json
    assert (back["blocked"], back["verdict"]["severity"]) == ([], "note")
    refused(run(client, HOLD, "take-back", step=step), "no reading", 404)
    # A meter that shows no end of ohms.
    assert "As good as nothing" in run(client, HOLD, "read", step=step, value=None).json["blocked"][0]
    assert run(client, HOLD, "read", step=step, value=right).json["blocked"] == []
    assert run(client, HOLD, "switch", on=True).status_code == 200


def test_a_units_ohms_are_kept_and_a_drift_is_told(client: FlaskClient) -> None:
    ohms = reads(client, NIGHT, "ohms")
    assert ohms["reads"]["of"] == "groyne-r8"
    first = ohms["reads"]["low"] + 0.01
    run(client, NIGHT, "read", step=ohms["id"], value=first)
    assert at(client, NIGHT, ohms["id"])["reading"]["drift"] == ""
    run(client, NIGHT, "read", step=ohms["id"], value=1.12 * first)
    assert "up by 12 %" in at(client, NIGHT, ohms["id"])["reading"]["drift"]


def test_simulated_devices_are_read_and_say_so(client: FlaskClient) -> None:
    level = reads(client, HOLD, "dba")
    run(client, HOLD, "read", step=level["id"], from_device=True)
    found = at(client, HOLD, level["id"])["reading"]
    assert found["simulated"]
    assert abs(found["value"] - level["reads"]["value"]) < 20
    peak = reads(client, HOLD, "dbfs")
    refused(run(client, HOLD, "read", step=peak["id"], from_device=True), "no simulated device")


def test_a_limit_that_holds_now_bounds_a_reading(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    """Played at night by a hook-up that was planned for the day: as loud as predicted is not as it should be."""
    steps = (s["step"] for s in run(client, HOLD).json["steps"])
    level = next(s for s in steps if s["reads"] and s["reads"]["of"] == "next-boat")
    value = level["reads"]["value"] + 7
    assert 40 < value < 60
    for minute, answer in ((12 * 60, "inside"), (22 * 60, "stop"), (3 * 60, "stop")):
        monkeypatch.setattr(running, "_minute", lambda _, minute=minute: minute)
        run(client, HOLD, "read", step=level["id"], value=value)
        assert at(client, HOLD, level["id"])["reading"]["held"]["answer"] == answer


def test_ticks_do_not_make_the_sheet_anew(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    first = run(client, NIGHT).json["steps"][0]["step"]["id"]
    made = []
    real = running._make
    monkeypatch.setattr(running, "_make", lambda row: made.append(row.id) or real(row))
    assert run(client, NIGHT, "tick", step=first, done=True).json["steps"][0]["done"]
    assert made == []
    # What it rests on makes it anew: the hook-up, the gear, the schools, what was found out.
    wish = {"op": "set", "unit": "groyne-r8", "control": "line.pot", "value": -6}
    client.post(f"/api/hookups/{NIGHT}/changes", json={"saves": 1, "changes": [wish]})
    client.put("/api/preferences", json={"match": "either_way"})
    client.post("/api/suspects/godwit-45", json={"word": "It was dropped."})
    for count in (1, 1):
        cautions = run(client, NIGHT).json["cautions"]
        assert len(made) == count
    assert "Godwit 45 is suspect." in {c["finding"]["text"] for c in cautions}


@pytest.mark.parametrize(
    ("quantity", "value", "said"),
    [
        ("ohms", -1, "Ohms at the plug: −1 is outside 0 to"),
        ("dbfs", 40, "Peak: 40 is outside −144 to 24 dBFS"),
        ("dbfs", None, "Peak: a number in dBFS is wanted"),
        ("dba", 1e9, "Level: 1000000000 is outside 0 to 150 dBA"),
    ],
)
def test_readings_out_of_bounds(client: FlaskClient, quantity: str, value: float | None, said: str) -> None:
    step = reads(client, HOLD, quantity)["id"]
    refused(run(client, HOLD, "read", step=step, value=value), said)
    assert at(client, HOLD, step)["reading"] is None


def test_a_tick_or_reading_for_a_step_that_is_gone(client: FlaskClient) -> None:
    ohms = reads(client, NIGHT, "ohms")["id"]
    plain = run(client, NIGHT).json["steps"][0]["step"]["id"]
    refused(run(client, NIGHT, "read", step=plain, value=3), "nothing is read off")
    tap = {"op": "set", "unit": "groyne-r8", "control": "impedance", "value": "16"}
    moved = client.post(f"/api/hookups/{NIGHT}/changes", json={"saves": 1, "changes": [tap]})
    if moved.status_code == 422:
        gone = {"op": "disconnect", "lead": "speaker-a"}
        client.post(f"/api/hookups/{NIGHT}/changes", json={"saves": 1, "changes": [gone]})
    refused(run(client, NIGHT, "read", step=ohms, value=7), "not on the sheet any more", 404)
    refused(run(client, NIGHT, "tick", step=ohms, done=True), "not on the sheet any more", 404)


def test_left_on_is_asked_about(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    assert switch_on(client, NIGHT)["left_on"] is None
    real = running._minutes_since
    monkeypatch.setattr(running, "_minutes_since", lambda stamp: real(stamp) + (61 if stamp else 0))
    assert run(client, NIGHT).json["left_on"] >= 61
    monkeypatch.setattr(running, "_minutes_since", real)
    client.post("/api/sessions/1/takes", json={"hookup": NIGHT, "note": {"name": "Late"}})
    assert run(client, NIGHT).json["left_on"] is None
    assert run(client, NIGHT, "still-on").status_code == 200
    run(client, NIGHT, "switch", on=False)
    refused(run(client, NIGHT, "still-on"), "not marked as switched on", 409)


def test_what_is_hot_cools_once_it_is_off(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    switch_on(client, TWO)
    assert [t["label"][:4] for t in all_timers(client) if t["kind"] == "play"] == ["Ears"]
    run(client, TWO, "switch", on=False)
    assert "play" not in {t["kind"] for t in all_timers(client)}
    switch_on(client, NIGHT)
    real = running._minutes_since
    monkeypatch.setattr(running, "_minutes_since", lambda stamp: real(stamp) + (600 if stamp else 0))
    run(client, NIGHT, "switch", on=False)
    (cooling,) = [t for t in all_timers(client) if t["kind"] == "touch"]
    assert cooling["label"] == "Groyne R8 may be touched: under 48 °C"
    assert 0 < cooling["left"] < 600


def test_the_sheet_as_markdown(client: FlaskClient) -> None:
    step = reads(client, HOLD, "ohms")
    run(client, HOLD, "read", step=step["id"], value=100)
    text = client.get(f"/api/hookups/{HOLD}/run.md").text
    assert text.startswith("# Run sheet: Cue 2, quiet in the hold\n")
    assert "read: 100 Ω" in text
    assert text.count("- [ ]") == len(run(client, HOLD).json["steps"])
    assert "lethal voltages" in text


def test_kit_lists(client: FlaskClient) -> None:
    both = f"/api/kit?hookups={HOLD},guide-track"
    state = client.get(both).json
    assert [h["name"] for h in state["hookups"]] == ["Cue 2, quiet in the hold", "Guide track, transistor"]
    assert (state["kg"], state["unweighed"]) == (pytest.approx(17.5 + 6.4 + 1.9 + 14, abs=5), 3)
    line = state["items"][0]["item"]["id"]
    body = {"hookups": ["guide-track", HOLD]}
    packed = client.post("/api/kit/pack", json={**body, "item": line, "packed": True}).json
    assert [p["packed"] for p in packed["items"]].count(True) == 1
    own = client.post(
        "/api/kit/settle", json={**body, "away": True, "own": ["The green rug", " ", "The green rug"]}
    ).json
    assert [p["item"]["text"] for p in own["items"] if p["item"]["group"] == "own"] == ["The green rug"]
    assert client.get(both).json["items"][0]["packed"]
    text = client.get(f"/api/kit.md?hookups={HOLD},guide-track").text
    assert "- [x] Godwit 45" in text
    assert "## Tags" in text
    refused(client.post("/api/kit/pack", json={**body, "item": "gone", "packed": True}), "not on the list", 404)
    refused(client.get("/api/kit?hookups="), "1 to 24 are wanted, these are 0")
    refused(client.get("/api/kit?hookups=nobody"), "There is no hook-up", 404)
    long = {"away": False, "own": ["x" * 121]}
    refused(client.post("/api/kit/settle", json={**body, **long}), "at most 120 characters")
    many = {"away": False, "own": [f"line {n}" for n in range(61)]}
    refused(client.post("/api/kit/settle", json={**body, **many}), "at most 60, these are 61")
