"""Ticks and readings that a device held without a network: put in where they still are true, shown where not."""

from __future__ import annotations

import itertools
from typing import Any

import pytest
from flask.testing import FlaskClient

from tests.web.test_finding import refused
from tests.web.test_run import NIGHT, all_timers, at, first_steps, reads, run, switch_on

_keys = (f"{n:032x}" for n in itertools.count())


def held(client: FlaskClient, kind: str = "tick", step: str = "", **said: Any) -> dict[str, Any]:
    """Something held, as it is made on the sheet as it stands now."""
    state = run(client, NIGHT).json
    step = step or first_steps(state)[0]["step"]["id"]
    worth = {"done": True} if kind == "tick" else {"value": 0.2}
    now = {"revision": state["revision"], "round": state["round"], "age_s": 60.0}
    return {"kind": kind, "key": next(_keys), "step": step, **now, **worth, **said}


def put_in(client: FlaskClient, *some: dict[str, Any]) -> dict[str, Any]:
    answer = run(client, NIGHT, "held", held=list(some))
    assert answer.status_code == 200, answer.json
    found: dict[str, Any] = answer.json
    return found


def why(found: dict[str, Any]) -> list[str]:
    return [each["why"] for each in found["left_out"]]


def change(client: FlaskClient) -> None:
    saves = client.get(f"/api/hookups/{NIGHT}").json["saves"]
    move = {"op": "set", "unit": "groyne-r8", "control": "line.pot", "value": -6}
    assert client.post(f"/api/hookups/{NIGHT}/changes", json={"changes": [move], "saves": saves}).status_code == 200


def test_what_was_done_though_its_answer_was_lost_is_not_done_again_by_what_was_held(client: FlaskClient) -> None:
    ohms = reads(client, NIGHT, "ohms")["id"]
    tick, reading = held(client, age_s=2.0), held(client, "reading", ohms, value=6.7, age_s=2.0)
    for _ in range(2):
        run(client, NIGHT, "tick", step=tick["step"], done=True, key=tick["key"])
        run(client, NIGHT, "read", step=ohms, value=6.7, key=reading["key"])
    assert put_in(client, tick, reading)["left_out"] == []
    run(client, NIGHT, "take-back", step=ohms)
    # There was the one reading, which has been taken back.
    assert next(s for s in run(client, NIGHT).json["steps"] if s["step"]["id"] == ohms)["reading"] is None


def test_a_tick_is_put_in_with_its_age(client: FlaskClient) -> None:
    found = put_in(client, held(client))
    assert found["left_out"] == []
    assert found["state"]["steps"][0]["done"]
    waits = next(s["step"] for s in run(client, NIGHT).json["steps"] if s["step"]["wait"])
    put_in(client, held(client, step=waits["id"], age_s=20.0))
    (timer,) = all_timers(client)
    assert timer["left"] == pytest.approx(waits["wait"]["seconds"] - 20, abs=3)


def test_what_is_sent_twice_is_put_in_once(client: FlaskClient) -> None:
    ohms = reads(client, NIGHT, "ohms")["id"]
    tick, reading = held(client), held(client, "reading", ohms, value=6.7)
    put_in(client, tick, reading)
    run(client, NIGHT, "tick", step=tick["step"], done=False)
    run(client, NIGHT, "take-back", step=ohms)
    assert put_in(client, tick, reading)["left_out"] == []
    assert not run(client, NIGHT).json["steps"][0]["done"]
    assert at(client, NIGHT, ohms)["reading"] is None


def test_in_the_order_in_which_it_was_done(client: FlaskClient) -> None:
    later, sooner = held(client, done=False, age_s=5.0), held(client, age_s=50.0)
    assert put_in(client, later, sooner)["left_out"] == []
    assert not run(client, NIGHT).json["steps"][0]["done"]


def test_what_was_done_since_stands(client: FlaskClient) -> None:
    tick = held(client, age_s=3600.0)
    run(client, NIGHT, "tick", step=tick["step"], done=True)
    run(client, NIGHT, "tick", step=tick["step"], done=False)
    assert why(put_in(client, tick)) == ["Somebody has ticked this step, or taken the tick back, since then."]
    assert not run(client, NIGHT).json["steps"][0]["done"]


@pytest.mark.parametrize("meanwhile", ["changed", "begun anew", "switched off"])
def test_of_another_state_it_is_shown(client: FlaskClient, meanwhile: str) -> None:
    ohms = reads(client, NIGHT, "ohms")["id"]
    tick, reading = held(client), held(client, "reading", ohms, value=6.7)
    if meanwhile == "changed":
        change(client)
    elif meanwhile == "begun anew":
        run(client, NIGHT, "begin", standing="")
    else:
        switch_on(client, NIGHT)
        run(client, NIGHT, "switch", on=False)
    before = run(client, NIGHT).json
    found = put_in(client, tick, reading)
    assert len(found["left_out"]) == 2
    assert {each["key"] for each in found["left_out"]} == {tick["key"], reading["key"]}
    assert found["state"] == before


def test_a_step_that_is_gone_is_said(client: FlaskClient) -> None:
    assert why(put_in(client, held(client, step="before-nothing"))) == [
        "The hook-up has changed since: this step is not on the sheet any more."
    ]


@pytest.mark.parametrize("meanwhile", ["nothing", "changed", "read again", "read long after"])
def test_a_reading_that_means_stop_always_wins(client: FlaskClient, meanwhile: str) -> None:
    ohms = reads(client, NIGHT, "ohms")["id"]
    stop = held(client, "reading", ohms, value=0.1, age_s=7200.0)
    if meanwhile == "changed":
        change(client)
    elif meanwhile.startswith("read"):
        assert run(client, NIGHT, "read", step=ohms, value=6.7).json["verdict"]["severity"] != "stop"
    found = put_in(client, stop)
    assert found["left_out"] == []
    assert found["state"]["verdict"]["severity"] == "stop"
    assert any("Speaker lead A" in said for said in found["state"]["blocked"])
    # And what was read as it should be, before that or after it on another device, does not take it away unseen.
    fine = held(client, "reading", ohms, value=6.7, age_s=9000.0)
    assert why(put_in(client, fine)) == ["This was read again since then."]
    assert run(client, NIGHT).json["verdict"]["severity"] == "stop"


def test_a_reading_out_of_bounds_is_shown(client: FlaskClient) -> None:
    ohms = reads(client, NIGHT, "ohms")["id"]
    assert "is outside" in why(put_in(client, held(client, "reading", ohms, value=-5)))[0]
    assert why(put_in(client, held(client, "reading", first_steps(run(client, NIGHT).json)[0]["step"]["id"]))) == [
        "Reading: nothing is read off at this step."
    ]


def test_no_end_of_ohms_is_a_reading(client: FlaskClient) -> None:
    ohms = reads(client, NIGHT, "ohms")["id"]
    put_in(client, held(client, "reading", ohms, value=None))
    assert at(client, NIGHT, ohms)["reading"]["value"] is None


@pytest.mark.parametrize(
    ("wrong", "said"),
    [
        ({"age_s": -1}, "Age"),
        ({"age_s": 1e12}, "Age"),
        ({"key": "short"}, "Key"),
        ({"key": "x" * 16 + "\n"}, "Key"),
        ({"round": -1}, "Number"),
        ({"kind": "wish"}, "kind"),
    ],
)
def test_what_cannot_be_read_is_refused(client: FlaskClient, wrong: dict[str, Any], said: str) -> None:
    before = run(client, NIGHT).json
    answer = run(client, NIGHT, "held", held=[held(client) | wrong, held(client)])
    assert answer.status_code == 422
    assert run(client, NIGHT).json == before
    refused(run(client, NIGHT, "held", held=[]), "")
