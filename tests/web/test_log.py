"""The Log over HTTP: narrowed, guides replaced, what was decided, the day as a watch."""

from __future__ import annotations

import io
import sqlite3
from datetime import datetime
from typing import Any

import pytest
from flask.testing import FlaskClient
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from low_tide.store.home import Home
from tests.web.test_finding import refused
from tests.web.test_fuzz import QUIET
from tests.web.test_run import switch_on

NIGHT = "silent-night"


def takes(client: FlaskClient, **asked: Any) -> list[dict]:
    found: list[dict] = client.get("/api/takes", query_string=asked).json["takes"]
    return found


def log_take(client: FlaskClient, name: str, **said: Any) -> Any:
    session = client.get("/api/sessions").json["sessions"][0]["id"]
    note = {"name": name, **said}
    return client.post(f"/api/sessions/{session}/takes", json={"hookup": NIGHT, "note": note})


NARROWED = [
    ("rating", "keep", lambda t: t["note"]["rating"] == "keep"),
    ("rating", "none", lambda t: t["note"]["rating"] == ""),
    ("verdict", "clear", lambda t: t["severity"] in ("note", "fine")),
    ("verdict", "caution", lambda t: t["severity"] == "caution"),
    ("part", "lead", lambda t: t["note"]["part"] == "lead"),
    ("hookup", NIGHT, lambda t: t["hookup_id"] == NIGHT),
    ("guide", "guide", lambda t: t["note"]["guide"]),
    ("audio", "true", lambda t: t["audio"] is not None),
    ("clipped", "true", lambda t: t["measures"] is not None and t["measures"]["clipped_runs"] > 0),
]


@pytest.mark.parametrize(("name", "value", "holds"), NARROWED, ids=lambda v: v if isinstance(v, str) else "")
def test_takes_are_narrowed_to_those_that_are_so(client: FlaskClient, name: str, value: str, holds: Any) -> None:
    every = takes(client)
    found = takes(client, **{name: value})
    assert found == [t for t in every if holds(t)]
    assert 0 < len(found) < len(every)


def test_takes_are_found_by_gear_and_by_knobs(client: FlaskClient) -> None:
    assert {t["hookup_id"] for t in takes(client, search="whimbrel")} == {"tap-on-lead"}
    assert takes(client, search="middle 6.5 baritone") == takes(client, search="engine drone")
    assert takes(client, search="name") == []  # a word of how controls are kept, of none that there is


def test_a_guide_waits_until_a_take_has_its_place(client: FlaskClient) -> None:
    (guide,) = client.get("/api/log/narrowing").json["open_guides"]
    refused(log_take(client, "Drums", replaces=999), "there is no such guide")
    refused(log_take(client, "Drums", replaces=1), "there is no such guide")
    made = log_take(client, "Drums, at last", part="guide", replaces=guide["id"]).json
    assert made["note"]["replaces"] == guide["id"]
    assert client.get("/api/log/narrowing").json["open_guides"] == []
    assert [t["id"] for t in takes(client, guide="guide")] == [guide["id"]]
    assert takes(client, guide="open") == []
    # It is called a guide no more; what replaced it can still be spoken of.
    of_guide = f"/api/takes/{guide['id']}"
    assert client.put(of_guide, json={**guide["note"], "guide": False}).status_code == 200
    said = client.put(f"/api/takes/{made['id']}", json={**made["note"], "rating": "keep"})
    assert said.json["note"]["replaces"] == guide["id"]
    made, guide = said.json, client.put(of_guide, json=guide["note"]).json
    # What replaced it is gone: it waits again.
    client.delete(f"/api/takes/{made['id']}", query_string={"saves": made["saves"]})
    assert [t["id"] for t in takes(client, guide="open")] == [guide["id"]]
    own = {**guide["note"], "replaces": guide["id"]}
    answer = client.put(f"/api/takes/{guide['id']}", query_string={"saves": guide["saves"]}, json=own)
    refused(answer, "does not replace itself")


def test_a_guide_that_is_gone_is_replaced_by_nothing(client: FlaskClient) -> None:
    (guide,) = client.get("/api/log/narrowing").json["open_guides"]
    made = log_take(client, "Drums", replaces=guide["id"]).json
    client.delete(f"/api/takes/{guide['id']}", query_string={"saves": guide["saves"]})
    assert client.get(f"/api/takes/{made['id']}").json["note"]["replaces"] is None


def test_cautions_that_were_accepted_stand_in_one_place(client: FlaskClient) -> None:
    before = client.get("/api/log/decisions").json["decisions"]
    assert [d["take"] for d in before if d["hookup_id"] == "guide-track"][-1] == 5
    switch_on(client, "quiet-hold")
    found = client.get("/api/log/decisions").json["decisions"]
    cautions = client.get("/api/hookups/quiet-hold/run").json["cautions"]
    mine = [d for d in found if d["hookup_id"] == "quiet-hold" and d["take"] is None]
    assert [(d["caution"], d["word"]) for d in mine] == [(c["finding"]["text"], "seen") for c in cautions]


def day(client: FlaskClient, date: str) -> dict:
    found: dict = client.get(f"/api/log/days/{date}").json
    return found


def test_a_day_holds_what_was_on_it(client: FlaskClient) -> None:
    (session,) = client.get("/api/sessions").json["sessions"]
    (date,) = session["days"]
    found = day(client, date)
    assert [t["number"] for t in found["takes"]] == [7, 8, 9, 10, 1, 2, 3, 4, 5, 6]
    first = next(t for t in found["takes"] if t["number"] == 1)
    assert first["start"] == 18 * 60 + 40
    assert first["minutes"] == pytest.approx(8.3 / 60, abs=0.01)
    assert next(t for t in found["takes"] if t["number"] == 5)["minutes"] is None
    assert [s["hookup"] for s in found["on"]] == [NIGHT, "quiet-hold", "tap-on-lead", "cupboard"]
    assert found["filled"][-1]["part"] > 0
    assert {(q["name"], q["level"]) for q in found["quiet"]} >= {("Bunks", 35.0)}
    assert found["now"] is None


def test_what_is_on_goes_on_until_now(client: FlaskClient) -> None:
    switch_on(client, "quiet-hold")
    today = datetime.now().astimezone().date().isoformat()
    found = day(client, today)
    span = next(s for s in found["on"] if s["hookup"] == "quiet-hold")
    assert span["still"]
    assert span["stop"] == pytest.approx(found["now"], abs=0.1)
    client.post("/api/hookups/quiet-hold/run/switch", json={"on": False})
    assert not any(s["still"] for s in day(client, today)["on"])


@pytest.mark.usefixtures("harbour_time")
def test_the_hour_that_comes_twice_and_the_one_that_does_not(client: FlaskClient, lightship: Home) -> None:
    long, short = day(client, "2026-10-25"), day(client, "2026-03-29")
    assert (long["minutes"], short["minutes"]) == (1500, 1380)
    assert [h["label"] for h in long["hours"] if h["again"]] == ["02"]
    bunks = [q for q in long["quiet"] if q["name"] == "Bunks"]
    assert [(q["start"], q["stop"]) for q in bunks] == [(0, 480), (22 * 60, 1500)]
    with sqlite3.connect(lightship.database) as kept:
        kept.execute("update take set at = '2026-10-25T01:30:00+00:00' where id = 1")
        # On for three hours by the clock on the wall, four as they passed; and one whose clock was set back meanwhile.
        kept.execute("delete from switched")
        kept.executemany(
            "insert into switched (hookup, since, until) values (?, ?, ?)",
            [
                (NIGHT, "2026-10-24T23:00:00+00:00", "2026-10-25T03:00:00+00:00"),
                ("cupboard", "2026-10-25T12:00:00+00:00", "2026-10-25T11:00:00+00:00"),
            ],
        )
    found = day(client, "2026-10-25")
    assert [(t["number"], t["start"]) for t in found["takes"]] == [(1, 210)]
    on = {s["hookup"]: s for s in found["on"]}
    assert (on[NIGHT]["start"], on[NIGHT]["stop"]) == (60, 300)
    assert on["cupboard"]["start"] == on["cupboard"]["stop"]
    assert "set back" in on["cupboard"]["odd"]


@pytest.mark.parametrize(
    ("date", "says"), [("yesterday", "is no date"), ("0001-01-01", "outside"), ("2026-02-30", "no date")]
)
def test_a_day_that_is_none_is_refused(client: FlaskClient, date: str, says: str) -> None:
    refused(client.get(f"/api/log/days/{date}"), says)


def test_a_day_with_nothing_on_it_is_empty(client: FlaskClient) -> None:
    found = day(client, "2020-02-29")
    assert (found["takes"], found["on"], found["filled"]) == ([], [], [{"minute": 0, "part": 0}])


PICTURE = io.BytesIO()
Image.new("RGB", (2400, 1200), "teal").save(PICTURE, "JPEG")


def attach(client: FlaskClient, take: int, kind: str, name: str, data: bytes) -> Any:
    return client.post(f"/api/takes/{take}/attachments", query_string={"kind": kind, "name": name}, data=data)


def attached(client: FlaskClient, take: int) -> list[dict]:
    found: list[dict] = client.get(f"/api/takes/{take}/attachments").json["attachments"]
    return found


def test_photos_and_presets_are_kept_with_a_take(client: FlaskClient) -> None:
    made = attach(client, 1, "photo", "C:\\knobs\\amp.PNG", PICTURE.getvalue()).json
    preset = attach(client, 1, "preset", "../fog\n.bin", b"\0\xff anything").json
    assert (made["name"], preset["name"]) == ("amp.jpg", "fog.bin")
    assert [a["id"] for a in attached(client, 1)] == [made["id"], preset["id"]]
    shown = client.get(f"/api/attachments/{made['id']}")
    assert Image.open(io.BytesIO(shown.data)).size == (2000, 1000)
    assert "sandbox" in shown.headers["Content-Security-Policy"]
    given = client.get(f"/api/attachments/{preset['id']}")
    assert given.data == b"\0\xff anything"
    assert given.headers["Content-Disposition"].startswith("attachment")
    assert client.delete(f"/api/attachments/{preset['id']}").status_code == 204
    refused(client.get(f"/api/attachments/{preset['id']}"), "no such file", 404)
    # They go with their take.
    client.delete("/api/takes/1")
    refused(client.get(f"/api/attachments/{made['id']}"), "no such file", 404)


def test_what_cannot_be_attached_is_refused(client: FlaskClient) -> None:
    refused(attach(client, 1, "photo", "a.jpg", b"no picture"), "is no picture that can be read")
    refused(attach(client, 1, "preset", "a.bin", b"\0" * (4 * 1024**2 + 1)), "at most 4 MiB are taken")
    refused(attach(client, 1, "preset", "a.bin", b""), "the file is empty")
    refused(attach(client, 99, "preset", "a.bin", b"1"), "no such take", 404)
    assert attached(client, 1) == []
    for n in range(24):
        assert attach(client, 2, "preset", f"{n}.bin", b"1").status_code == 201
    refused(attach(client, 2, "preset", "one too many", b"1"), "at most 24 files")


def test_a_session_on_paper_says_how_to_get_each_hookup_back(client: FlaskClient) -> None:
    # The hook-up is changed between two takes of it: both ways stand on the sheet, told apart.
    state = client.get(f"/api/hookups/{NIGHT}").json
    change = {"op": "set", "unit": "groyne-r8", "control": "line.pot", "value": -10}
    answer = client.post(f"/api/hookups/{NIGHT}/changes", json={"changes": [change], "saves": state["saves"]})
    assert answer.status_code == 200, answer.json
    log_take(client, "Fog | theme, *again*", notes="1. louder\n2. slower", guitar="Bosun's guitar")
    sheet = client.get("/api/sessions/1/sheet").json
    names = [h["name"] for h in sheet["hookups"]]
    cue = "Cue 1, silent after 21:00"
    assert [n for n in names if n.startswith(cue)] == [f"{cue} (a)", f"{cue} (b)"]
    first = next(h for h in sheet["hookups"] if h["name"] == f"{cue} (a)")
    assert first["takes"] == [1, 2]
    assert first["leads"][0] == "Speaker lead A: Godwit 45, speaker 1 → Groyne R8, amp in"
    assert "Groyne R8: line level −4 dB, cab filter off, audio-earth lift off" in first["settings"]
    assert [t["hookup"] for t in sheet["takes"]][-1] == f"{cue} (b)"
    text = client.get("/api/sessions/1/sheet.md").text
    assert "| 11\\. Fog \\| theme, \\*again\\* |" in text
    assert "1\\. louder 2. slower |" in text
    assert f"## To get it back: {cue} (b)" in text
    assert "without a load" in text
    assert text.count("\n| ") == 1 + 1 + len(sheet["takes"])
    refused(client.get("/api/sessions/99/sheet"), "no such session", 404)


@QUIET
@given(name=st.text(min_size=1, max_size=60))
def test_a_file_of_any_name_can_be_sent(client: FlaskClient, name: str) -> None:
    made = attach(client, 1, "preset", name, b"1").json
    header = client.get(f"/api/attachments/{made['id']}").headers["Content-Disposition"]
    assert header.isascii()
    assert header.isprintable()
    client.delete(f"/api/attachments/{made['id']}")


def test_sessions_and_parts_are_found_beside_takes(client: FlaskClient) -> None:
    def found(words: str) -> set[tuple[str, str]]:
        return {(f["type"], f["name"]) for f in client.get("/api/find", query_string={"search": words}).json["found"]}

    log_take(client, "Bass & more", part="B&ss / low")
    assert ("session", "Fog Signal, first night") in found("first fog")
    assert {("part", "lead"), ("take", "Bell answer")} <= found("lead")
    hits = client.get("/api/find", query_string={"search": "b&ss"}).json["found"]
    (part,) = [hit["id"] for hit in hits if hit["type"] == "part"]
    assert part == "B%26ss%20%2F%20low"
    assert not {kind for kind, _ in found("")} & {"part", "session"}


def test_what_was_decided_is_told_though_a_hookup_no_longer_goes_together(client: FlaskClient, lightship: Home) -> None:
    switch_on(client, "quiet-hold")
    before = client.get("/api/log/decisions").json["decisions"]
    with sqlite3.connect(lightship.database) as kept:
        kept.execute("update gear set doc = '{}' where id = 'turnstone-212'")
    after = client.get("/api/log/decisions").json["decisions"]
    assert [d for d in after if d["hookup_id"] != "quiet-hold"] == [d for d in before if d["hookup_id"] != "quiet-hold"]


def test_a_session_named_in_two_windows_loses_no_words(client: FlaskClient) -> None:
    there = client.get("/api/sessions").json["sessions"][0]
    was = {"name": there["name"], "notes": there["notes"]}
    url = f"/api/sessions/{there['id']}"
    assert client.put(url, json={"name": "First", "notes": "calm", "was": was}).status_code == 200
    late = {"name": "Second", "notes": "windy", "was": was}
    refused(client.put(url, json=late), "it is called “First”, and its notes are “calm”", 409)
    assert client.get("/api/sessions").json["sessions"][0]["name"] == "First"
    assert client.put(url, json=late | {"was": {"name": "First", "notes": "calm"}}).json["name"] == "Second"
