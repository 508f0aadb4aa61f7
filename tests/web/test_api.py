"""The API: what each use case answers, how refusals read, who may ask, and that the schema tells the truth."""

from __future__ import annotations

import gzip
import io
import json
from typing import Any

import numpy as np
import pytest
import soundfile
from flask.testing import FlaskClient
from jsonschema import Draft202012Validator

from low_tide.core.judging.checks import REGISTRY
from low_tide.demo.fill import TAKES, TAKES_IN_ALL
from low_tide.demo.hookups import SHOOT_OUT
from low_tide.store.home import Home
from low_tide.web.server import STATIC
from tests.written import WRITTEN

RECORDED = sum(recipe is not None for _, _, _, recipe, _ in TAKES) + len(SHOOT_OUT)
"""Takes of the lightship that have a recording."""

TAP_4 = {"op": "set", "unit": "godwit-45", "control": "tap", "value": "4"}


def bench(client: FlaskClient, name: str = "split-fog") -> dict[str, Any]:
    return client.get(f"/api/hookups/{name}").json


def change(client: FlaskClient, *changes: dict[str, Any], saves: int = 1, name: str = "split-fog") -> Any:
    return client.post(f"/api/hookups/{name}/changes", json={"saves": saves, "changes": list(changes)})


def end(unit: str, socket: str) -> dict[str, str]:
    return {"unit": unit, "socket": socket}


def test_a_change_is_judged_and_undone(client: FlaskClient) -> None:
    assert bench(client)["analysis"]["verdict"]["words"] == "Do not switch on"
    after = change(client, TAP_4).json
    assert after["analysis"]["verdict"]["stops"] == 0
    assert after["undo"] == "Godwit 45: tap 4 Ω"
    undone = client.post("/api/hookups/split-fog/undo", json={"saves": 2}).json
    assert undone["analysis"]["verdict"]["stops"] == 1
    redone = client.post("/api/hookups/split-fog/redo", json={"saves": 3}).json
    assert redone["analysis"]["verdict"]["stops"] == 0
    assert client.post("/api/hookups/split-fog/redo", json={"saves": 4}).json["saves"] == 4


def test_the_later_of_two_windows_is_told_and_loses_nothing(client: FlaskClient) -> None:
    change(client, TAP_4)
    late = {"op": "set", "unit": "gabion-40", "control": "line.pot", "value": -9}
    answer = change(client, late)
    assert answer.status_code == 409
    assert "changed in another window" in answer.json["detail"]
    copy = client.post("/api/hookups/split-fog/copy", json={"revision": 1, "changes": [late]}).json
    values = {c["control"]["id"]: c["value"] for u in copy["units"] for c in u["controls"]}
    assert (values["tap"], values["line.pot"]) == ("8", -9)
    assert copy["name"].endswith("(copy)")


def test_a_copy_is_of_the_state_that_was_seen_whatever_came_after(client: FlaskClient) -> None:
    change(client, TAP_4)
    seen = change(client, {"op": "set", "unit": "gabion-40", "control": "line.pot", "value": -9}, saves=2).json
    client.post("/api/hookups/split-fog/undo", json={"saves": 3})
    client.post("/api/hookups/split-fog/undo", json={"saves": 4})
    change(client, {**TAP_4, "value": "16"}, saves=5)  # what was undone can no longer be redone
    assert bench(client)["redo"] is None
    body = {"revision": seen["revision"], "changes": [{"op": "disconnect", "lead": "line-1"}]}
    copy = client.post("/api/hookups/split-fog/copy", json=body).json
    values = {c["control"]["id"]: c["value"] for u in copy["units"] for c in u["controls"]}
    assert (values["tap"], values["line.pot"], len(copy["links"])) == ("4", -9, 2)
    assert client.post("/api/hookups/split-fog/copy", json={**body, "revision": 99}).status_code == 404
    back = client.post("/api/hookups/split-fog/undo", json={"saves": 6}).json
    assert (back["undo"], back["redo"]) == (None, "Godwit 45: tap 16 Ω")


@pytest.mark.parametrize(
    ("changes", "says"),
    [
        ([{**TAP_4, "value": "5"}], "“5” is not one of 4, 8, 16"),
        ([{**TAP_4, "control": "warp"}], "no control “warp”"),
        ([{"op": "connect", "lead": "speaker-c", "a": end("gabion-40", "hole")}], "no socket “hole”"),
        ([{"op": "connect", "lead": "speaker-c", "a": end("godwit-45", "out1")}], "Two leads in one socket"),
        ([{"op": "connect", "lead": "speaker-a", "a": end("gabion-40", "through")}], "used twice"),
        ([{"op": "add", "unit": "nobody"}], "not in the locker"),
        ([{"op": "remove", "unit": "dunlin-18"}], "not in the hook-up"),
        ([{"op": "disconnect", "lead": "speaker-d"}], "not in use"),
        ([TAP_4, {"op": "disconnect", "lead": "speaker-d"}], "not in use"),
        ([], "at least 1 needed"),
        ([{"op": "describe", "name": ""}], "must not be empty"),
    ],
)
def test_impossible_changes_are_refused_whole(client: FlaskClient, changes: list[dict], says: str) -> None:
    before = bench(client)
    answer = change(client, *changes)
    assert answer.status_code == 422
    assert answer.content_type == "application/problem+json"
    assert says in answer.json["detail"]
    assert bench(client) == before


def test_choices_and_previews(client: FlaskClient) -> None:
    found = client.post(
        "/api/hookups/split-fog/choices", json={"end": {"unit": "gabion-40", "socket": "through"}}
    ).json["choices"]
    assert any("Turnstone" in c["label"] for c in found)
    preview = client.post("/api/hookups/split-fog/preview", json={"changes": [TAP_4]}).json
    assert preview["text"].startswith("Godwit 45 then sees 4 Ω")
    assert bench(client)["saves"] == 1
    assert client.post("/api/hookups/split-fog/choices", json={"end": {"unit": "x", "socket": "y"}}).status_code == 404


def test_slips_are_listed(client: FlaskClient) -> None:
    found = client.get("/api/hookups/silent-night/slips").json["slips"]
    assert {"mismatch", "open-output"} <= {s["check"] for s in found}
    assert client.get("/api/hookups/nowhere/slips").status_code == 404


def test_a_combo_brings_its_speaker(client: FlaskClient) -> None:
    made = client.post("/api/hookups", json={"name": "Combo"}).json
    after = change(client, {"op": "add", "unit": "dunlin-18"}, name=made["id"]).json
    assert [u["id"] for u in after["units"]] == ["dunlin-18", "dunlin-speaker"]
    assert after["analysis"]["verdict"]["stops"] == 0


def test_hookup_files_go_out_and_come_back(client: FlaskClient) -> None:
    data = client.get("/api/hookups/quiet-hold/file").data
    document = json.loads(data)
    document["hookup"]["shelf"] = "aft"
    document["gear"][0]["colour"] = "grey"
    made = client.post("/api/hookups/import", data=json.dumps(document))
    assert made.status_code == 201
    assert [u["pinned"] for u in made.json["units"]] == [False] * 4
    again = json.loads(client.get(f"/api/hookups/{made.json['id']}/file").data)
    assert again["hookup"]["shelf"] == "aft"
    document["gear"][0]["crank"] = 2.0
    changed = client.post("/api/hookups/import", data=json.dumps(document)).json
    assert [u["pinned"] for u in changed["units"]] == [True, False, False, False]
    assert json.loads(client.get(f"/api/hookups/{changed['id']}/file").data)["gear"][0]["colour"] == "grey"
    cut = client.post("/api/hookups/import", data=data[:400])
    assert (cut.status_code, cut.json["title"]) == (422, "This cannot be read")


def test_locker_adds_edits_copies_and_deletes(client: FlaskClient) -> None:
    added = client.post("/api/gear", json={"kind": "lead", "name": "Fourth lead", "shelf": "aft"}).json
    path = f"/api/gear/{added['unit']['id']}"
    edited = client.put(path, json={"revision": 1, "unit": {**added["doc"], "length": 9.0}}).json
    assert (edited["unit"]["length"], edited["doc"]["shelf"], edited["revision"]) == (9.0, "aft", 2)
    stale = client.put(path, json={"revision": 1, "unit": added["doc"]})
    assert stale.status_code == 409
    kind = client.put(path, json={"revision": 2, "unit": {**added["doc"], "kind": "amp"}})
    assert "cannot change" in kind.json["detail"]
    copy = client.post(f"{path}/duplicate").json
    assert copy["unit"]["name"] == "Fourth lead (copy)"
    client.put(path, json={"revision": 2, "unit": {**edited["doc"], "archived": True}})
    assert [e["unit"]["name"] for e in client.get("/api/gear?search=fourth").json["entries"]] == ["Fourth lead (copy)"]
    assert len(client.get("/api/gear?archived=true").json["entries"]) == 1
    assert client.delete(path).status_code == 204
    assert client.get(path).status_code == 404


def test_gear_in_use_is_not_deleted(client: FlaskClient) -> None:
    answer = client.delete("/api/gear/godwit-45")
    assert answer.status_code == 409
    assert "Cue 3, load and cabinet together" in answer.json["detail"]


def test_editing_gear_changes_the_verdict(client: FlaskClient) -> None:
    entry = client.get("/api/gear/groyne-r8").json
    client.put("/api/gear/groyne-r8", json={"revision": 1, "unit": {**entry["doc"], "rating": 20}})
    assert bench(client, "silent-night")["analysis"]["verdict"]["severity"] == "stop"


def test_bad_gear_is_refused_by_field(client: FlaskClient) -> None:
    answer = client.post("/api/gear", json={"kind": "amp", "name": "", "crank": 9})
    assert answer.status_code == 422
    assert answer.json["fields"] == [["amp", "name"], ["amp", "crank"]]
    assert answer.json["problems"][1] == "Flat out gives label ×: 9 is over the most allowed, 2.5."


def test_schools_change_the_verdict(client: FlaskClient) -> None:
    client.put("/api/preferences", json={"match": "either_way"})
    assert bench(client)["analysis"]["verdict"]["stops"] == 0
    assert client.put("/api/preferences", json={"match": "whatever"}).status_code == 422
    assert bench(client, "empty-through")["analysis"]["verdict"]["severity"] == "stop"


def run(client: FlaskClient, name: str, action: str = "", **body: Any) -> Any:
    path = f"/api/hookups/{name}/run"
    return client.post(f"{path}/{action}", json=body) if action else client.get(path)


def tick_all(client: FlaskClient, name: str) -> None:
    for each in run(client, name).json["steps"]:
        if each["step"]["phase"] == "before":
            run(client, name, "tick", step=each["step"]["id"], done=True)


def test_run_sheet_holds_until_everything_is_done(client: FlaskClient) -> None:
    refused = run(client, "silent-night", "switch", on=True)
    assert (refused.status_code, refused.json["title"]) == (409, "Not ready to switch on")
    tick_all(client, "silent-night")
    assert run(client, "silent-night", "switch", on=True).json["is_on"]
    live = change(client, TAP_4, name="silent-night")
    assert live.status_code == 423
    pulled = change(client, {"op": "disconnect", "lead": "speaker-a"}, name="silent-night")
    assert pulled.status_code == 423
    level = {"op": "set", "unit": "groyne-r8", "control": "line.pot", "value": -6}
    assert change(client, level, name="silent-night").status_code == 200
    assert client.delete("/api/hookups/silent-night").status_code == 423
    off = run(client, "silent-night", "switch", on=False).json
    assert not any(s["done"] for s in off["steps"])
    assert change(client, TAP_4, saves=2, name="silent-night").status_code == 200


def test_undo_cannot_re_plug_while_on(client: FlaskClient) -> None:
    change(client, {**TAP_4, "value": "16"}, name="silent-night")
    change(client, {**TAP_4, "value": "8"}, saves=2, name="silent-night")
    tick_all(client, "silent-night")
    assert run(client, "silent-night", "switch", on=True).status_code == 200
    assert client.post("/api/hookups/silent-night/undo", json={"saves": 3}).status_code == 423


def test_stops_are_not_accepted_and_cautions_need_a_word(client: FlaskClient) -> None:
    tick_all(client, "split-fog")
    stop = run(client, "split-fog").json["stops"][0]
    assert run(client, "split-fog", "accept", key=stop["key"], word="trust me").status_code == 404
    assert run(client, "split-fog", "switch", on=True).status_code == 409
    tick_all(client, "tap-on-lead")
    for caution in run(client, "tap-on-lead").json["cautions"]:
        key = caution["finding"]["key"]
        assert run(client, "tap-on-lead", "accept", key=key, word="  ").json["cautions"]
        assert run(client, "tap-on-lead", "switch", on=True).status_code == 409
        run(client, "tap-on-lead", "accept", key=key, word="known box")
    assert run(client, "tap-on-lead", "switch", on=True).status_code == 200
    made = client.post("/api/sessions/1/takes", json={"hookup": "tap-on-lead", "note": {"name": "Drone again"}}).json
    assert {a["word"] for a in made["accepted"]} == {"known box"}


def test_an_accepted_caution_lapses_with_its_numbers(client: FlaskClient) -> None:
    cautions = run(client, "split-fog").json["cautions"]
    low = next(c["finding"] for c in cautions if c["finding"]["id"] == "converter-low")
    run(client, "split-fog", "accept", key=low["key"], word="fine")
    change(client, {"op": "set", "unit": "gabion-40", "control": "line.pot", "value": -12})
    after = {c["finding"]["id"]: c["word"] for c in run(client, "split-fog").json["cautions"]}
    assert after["converter-low"] is None


def a_wav(peak: float = 0.5) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, peak * np.sin(np.arange(48_000) / 10), 48_000, format="WAV")
    return out.getvalue()


def test_two_takes_are_held_against_each_other(client: FlaskClient) -> None:
    takes = {t["note"]["name"]: t["id"] for t in client.get("/api/takes").json["takes"]}
    one, other = takes["Fog theme, low strings"], takes["Bell answer"]
    found = client.get(f"/api/takes/{one}/difference/{other}").json
    assert (found["one"]["id"], found["other"]["id"]) == (one, other)
    told = {(d["group"], d["what"]): (d["one"], d["other"]) for d in found["differs"]}
    assert told["units", "Caisson 120"] == ("—", "in it")
    assert told["leads", "Speaker lead A"][1] == "Godwit 45, speaker 1 → Caisson 120, amp in"
    assert ("controls", "Gain") not in told
    assert client.get(f"/api/takes/{one}/difference/{one}").json["differs"] == []
    assert client.get(f"/api/takes/{one}/difference/4711").status_code == 404


def test_a_take_keeps_what_was(client: FlaskClient, lightship: Home) -> None:
    note = {"name": "Late", "controls": [{"name": "Gain", "value": "7"}], "measured_peak": -12}
    made = client.post("/api/sessions/1/takes", json={"hookup": "silent-night", "note": note}).json
    assert made["number"] == TAKES_IN_ALL + 1
    sent = client.post(f"/api/takes/{made['id']}/audio?name=..%2F..%2Fetc%2Fpasswd", data=a_wav()).json
    assert sent["measures"]["peak_dbfs"] == pytest.approx(-6.02, abs=0.01)
    assert sent["audio_name"] == "passwd"
    assert client.get(f"/api/takes/{made['id']}/audio").data == a_wav()
    assert all(p.name[:8].isalnum() and p.suffix for p in lightship.audio.iterdir())
    entry = client.get("/api/gear/godwit-45").json
    client.put("/api/gear/godwit-45", json={"revision": 1, "unit": {**entry["doc"], "crank": 2.2}})
    snapshot = client.get(f"/api/takes/{made['id']}/snapshot").json
    assert next(g for g in snapshot["gear"] if g["id"] == "godwit-45")["crank"] == 1.5
    recalled = client.post(f"/api/takes/{made['id']}/recall").json
    assert recalled["name"] == f"Cue 1, silent after 21:00, recalled from take {TAKES_IN_ALL + 1}"
    assert next(u for u in recalled["units"] if u["id"] == "godwit-45")["pinned"]
    assert recalled["analysis"]["shares"][0]["flat"] == pytest.approx(67.5)
    loosened = client.post(f"/api/hookups/{recalled['id']}/unpin").json
    assert loosened["analysis"]["shares"][0]["flat"] == pytest.approx(99)
    edited = client.put(f"/api/takes/{made['id']}", json={**note, "name": "Late, kept"}).json
    assert edited["note"]["name"] == "Late, kept"
    assert client.delete(f"/api/takes/{made['id']}").status_code == 204
    assert client.get(f"/api/takes/{made['id']}/audio").status_code == 404


def test_another_file_for_a_take_takes_the_old_ones_place(client: FlaskClient, lightship: Home) -> None:
    count = len(list(lightship.audio.iterdir()))
    for peak in (0.25, 0.5):
        client.post("/api/takes/5/audio?name=take.wav", data=a_wav(peak))
    assert len(list(lightship.audio.iterdir())) == count + 1
    client.post("/api/takes/4/audio?name=same.wav", data=a_wav(0.5))
    client.delete("/api/takes/5")
    assert client.get("/api/takes/4/audio").status_code == 200


def test_run_sheet_and_bench_tell_the_same_slips(client: FlaskClient) -> None:
    client.put("/api/preferences", json={"match": "either_way"})
    guards = {s["guard"] for s in client.get("/api/hookups/silent-night/slips").json["slips"]}
    steps = {s["step"]["text"] for s in run(client, "silent-night").json["steps"]}
    assert {t for t in steps if t.startswith(("Tape", "Push", "Label"))} == guards


def test_refused_audio_leaves_no_file(client: FlaskClient, lightship: Home) -> None:
    before = sorted(lightship.audio.iterdir())
    answer = client.post("/api/takes/5/audio?name=take.wav", data=b"only words " * 99)
    assert (answer.status_code, answer.json["problems"][0][:8]) == (422, "This is ")
    assert sorted(lightship.audio.iterdir()) == before
    assert client.get("/api/takes/5").json["audio_name"] is None


@pytest.mark.parametrize(
    ("note", "says"),
    [
        ({"name": ""}, "Take: it must not be empty."),
        ({"name": "x", "measured_peak": 3}, "Measured peak: 3 dBFS is over the most allowed, 0 dBFS."),
        ({"name": "x", "controls": [{"name": ""}]}, "Control: it must not be empty."),
    ],
)
def test_bad_takes_are_refused(client: FlaskClient, note: dict, says: str) -> None:
    answer = client.post("/api/sessions/1/takes", json={"hookup": "silent-night", "note": note})
    assert says in answer.json["detail"]
    assert client.get("/api/takes").json["total"] == TAKES_IN_ALL


def test_takes_are_filtered_and_exported(client: FlaskClient) -> None:
    assert [t["note"]["name"] for t in client.get("/api/takes?search=fog doubled").json["takes"]] == [
        "Fog theme, doubled"
    ]
    assert client.get("/api/takes?audio=true").json["total"] == RECORDED
    assert client.get("/api/takes?page=99").json["page"] == 1
    lines = client.get("/api/log.csv").text.splitlines()
    assert len(lines) == TAKES_IN_ALL + 1
    assert "Fog theme, low strings" in lines[1]
    exported = client.get("/api/log.json").json
    take = exported["sessions"][0]["takes"][0]
    assert take["snapshot"]["analysis"]["verdict"]["words"] == "Clear to switch on"


def test_hookups_that_hold_the_words_as_typed_come_first(client: FlaskClient) -> None:
    names = [h["name"] for h in client.get("/api/hookups?search=cue 2").json["entries"]]
    assert names == ["Cue 2, quiet in the hold", "Cue 2, turned down in the loop", "Cue 1, silent after 21:00"]


def test_find_looks_everywhere(client: FlaskClient) -> None:
    kinds = {f["type"] for f in client.get("/api/find?search=drone").json["found"]}
    assert kinds == {"take", "blend", "part"}
    assert client.get("/api/find?search=godwit").json["found"][0]["type"] == "gear"


@pytest.mark.parametrize(
    ("headers", "status"),
    [
        ({"Host": "127.0.0.1:8170"}, 200),
        ({"Host": "localhost"}, 200),
        ({"Host": "[::1]:8170"}, 200),
        ({"Host": "studio.example"}, 403),
        ({"Host": "127.0.0.1.example:80"}, 403),
        ({"Origin": "http://elsewhere.example"}, 403),
        ({"Origin": "null"}, 403),
        ({"Origin": "http://localhost"}, 200),
    ],
)
def test_only_this_machine_and_this_page(client: FlaskClient, headers: dict, status: int) -> None:
    assert client.get("/api/about", headers=headers).status_code == status


@pytest.mark.parametrize("path", ["hookups/quiet-hold/slips", "takes", "hookups/quiet-hold", "log.json"])
@pytest.mark.parametrize(
    ("site", "status"), [("cross-site", 403), ("same-site", 403), ("same-origin", 200), ("none", 200)]
)
def test_another_site_cannot_read_or_keep_the_server_busy(
    client: FlaskClient, path: str, site: str, status: int
) -> None:
    with client.get(f"/api/{path}", headers={"Sec-Fetch-Site": site}) as answer:
        assert answer.status_code == status


def test_another_site_cannot_write(client: FlaskClient) -> None:
    answer = client.post("/api/gear/godwit-45/duplicate", headers={"Sec-Fetch-Site": "cross-site"})
    assert answer.status_code == 403


def test_policy_names_no_outside_source(client: FlaskClient) -> None:
    policy = client.get("/api/about").headers["Content-Security-Policy"]
    assert "default-src 'none'" in policy
    assert "http" not in policy
    assert "unsafe" not in policy


def test_bodies_have_a_limit(client: FlaskClient) -> None:
    answer = client.post("/api/hookups/import", data=b"x" * (64 * 1024 * 1024 + 1))
    assert (answer.status_code, "64 MiB" in answer.json["detail"]) == (413, True)


@pytest.mark.parametrize("path", ["/api/nothing", "/api/hookups/none", "/api/takes/999", "/api/gear/none"])
def test_missing_things_are_problems(client: FlaskClient, path: str) -> None:
    answer = client.get(path)
    assert (answer.status_code, answer.content_type) == (404, "application/problem+json")


def test_a_fault_shows_no_trace(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("low_tide.app.locker.listed", lambda *_: 1 / 0)
    answer = client.get("/api/gear")
    assert answer.status_code == 500
    assert "ZeroDivision" not in answer.text


@pytest.mark.parametrize("body", [b"{", b"[]", b"null", b'{"saves": "x", "changes": 3}', b"\xff"])
def test_broken_bodies_are_refused(client: FlaskClient, body: bytes) -> None:
    answer = client.post("/api/hookups/split-fog/changes", data=body, content_type="application/json")
    assert 400 <= answer.status_code < 500
    assert answer.json["problems"]


SCHEMA_GETS = [
    "/api/about",
    "/api/preferences",
    "/api/kinds",
    "/api/checks",
    "/api/gear",
    "/api/gear/{gear_id}",
    "/api/hookups",
    "/api/hookups/{hookup_id}",
    "/api/hookups/{hookup_id}/run",
    "/api/hookups/{hookup_id}/slips",
    "/api/sessions",
    "/api/takes",
    "/api/takes/{take_id}",
]


@pytest.mark.parametrize("path", SCHEMA_GETS)
def test_answers_are_what_the_schema_says(client: FlaskClient, path: str) -> None:
    operation = WRITTEN["paths"][path]["get"]
    schema = operation["responses"]["200"]["content"]["application/json"]["schema"]
    filled = path.format(gear_id="godwit-45", hookup_id="tap-on-lead", take_id=1)
    validator = Draft202012Validator({**schema, "components": WRITTEN["components"]})
    assert list(validator.iter_errors(client.get(filled).json)) == []


def test_checks_are_listed_from_the_registry(client: FlaskClient) -> None:
    assert [c["id"] for c in client.get("/api/checks").json["checks"]] == list(REGISTRY)


@pytest.mark.parametrize(
    ("body", "says"),
    [
        (b'{"name": ' + b"[" * 70 + b"]" * 70 + b"}", "nested too deeply"),
        (b'{"name": "x", "notes": 1e999}', "too large a number"),
        (b'{"name": "x", "notes": 9007199254740993}', "is outside"),
        (rb'{"name": "\ud800"}', "half a character"),
        (rb'"{\"name\": \"in a text\"}"', "this is a text"),
        (b"{", "cut off"),
    ],
)
def test_a_body_is_read_by_the_bounds_of_a_file(client: FlaskClient, body: bytes, says: str) -> None:
    before = len(client.get("/api/sessions").json["sessions"])
    answer = client.post("/api/sessions", data=body, content_type="application/json")
    assert answer.status_code == 422
    assert says in answer.json["detail"]
    assert len(client.get("/api/sessions").json["sessions"]) == before


@pytest.mark.parametrize(
    ("accepts", "packed"), [("gzip, br", "br"), ("gzip", "gzip"), ("", None), ("br;q=0, gzip", "gzip")]
)
def test_what_was_packed_at_the_build_is_sent_packed(client: FlaskClient, accepts: str, packed: str | None) -> None:
    name = next(path.name for path in sorted((STATIC / "assets").glob("*.js")) if path.stat().st_size > 50_000)
    answer = client.get(f"/assets/{name}", headers={"Accept-Encoding": accepts})
    assert answer.headers.get("Content-Encoding") == packed
    assert answer.mimetype == "text/javascript"
    whole = (STATIC / "assets" / name).read_bytes()
    assert (len(answer.data) < len(whole) / 2) == bool(packed)
    if packed == "gzip":
        assert gzip.decompress(answer.data) == whole
    if not packed:
        assert answer.data == whole


def test_nothing_outside_the_assets_is_served(client: FlaskClient) -> None:
    for name in ("../index.html", "..%2Findex.html", "%2e%2e/server.py", "x.js", ".br"):
        assert client.get(f"/assets/{name}", headers={"Accept-Encoding": "br"}).status_code == 404
    assert client.get("/robots.txt").status_code == 200
