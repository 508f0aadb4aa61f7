"""Loudness through the API: wishes, readings and what they teach, ears, warmth, and what is refused."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

import pytest
from flask.testing import FlaskClient

from low_tide.app import clock, readings
from low_tide.app.errors import Invalid
from low_tide.stand_ins import meter
from tests.web.test_api import bench, change
from tests.web.test_finding import refused

DESK = {"place": "at-the-desk", "level": 66.0}


def loudness(client: FlaskClient, name: str = "quiet-hold", **query: Any) -> dict[str, Any]:
    answer = client.get(f"/api/hookups/{name}/loudness", query_string=query)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json
    return found


def steps(client: FlaskClient) -> list[dict[str, Any]]:
    return [step for ladder in loudness(client)["plan"]["ladders"] for step in ladder["steps"]]


def heard(client: FlaskClient, place: str = "at-the-desk", name: str = "quiet-hold") -> dict[str, Any]:
    return next(p for p in loudness(client, name)["plan"]["places"] if p["place"] == place)


def keep(client: FlaskClient, name: str = "quiet-hold", at: str = "", **reading: Any) -> Any:
    return client.post(f"/api/hookups/{name}/readings", json={"reading": {**DESK, **reading}, "at": at})


def test_a_wish_is_looked_at_and_not_kept(client: FlaskClient) -> None:
    before = bench(client, "quiet-hold")
    wished = loudness(client, place="by-the-amp", wanted=85)["plan"]
    assert (wished["place"], wished["wanted"]) == ("by-the-amp", 85)
    top = wished["full"][[p["place"] for p in wished["places"]].index("by-the-amp")]
    assert wished["need_db"] == pytest.approx(top - 85)
    assert {a["step"]["unit"] for a in wished["nearest"]} == {"caisson-120", "riprap-50", "sandbag-30", "dolos-50"}
    assert bench(client, "quiet-hold") == before


def test_a_setting_goes_onto_the_bench_with_one_change(client: FlaskClient) -> None:
    first = loudness(client)["plan"]["nearest"][0]["step"]
    after = change(client, *first["changes"], name="quiet-hold").json
    assert after["analysis"]["verdict"]["stops"] == 0
    now = next(r for r in steps(client) if r["is_now"])
    assert (now["unit"], now["position"]) == (first["unit"], first["position"])
    assert heard(client)["dba"] == pytest.approx(first["levels"][0])
    undone = client.post("/api/hookups/quiet-hold/undo", json={"saves": after["saves"]})
    assert undone.status_code == 200


def test_the_hour_decides_the_verdict(client: FlaskClient) -> None:
    occasion = loudness(client)["occasion"]
    night = change(client, {"op": "plan", "occasion": {**occasion, "hour": "23:00"}}, name="quiet-hold").json
    cautions = [f for f in night["analysis"]["findings"] if f["id"] == "over-limit" and f["severity"] == "caution"]
    assert [f["text"] for f in cautions] == ["Bunks: over its limit.", "Next boat: may be over its limit."]
    assert night["undo"] == "when and how loud"
    wrong = change(client, {"op": "plan", "occasion": {**occasion, "hour": "24:30"}}, name="quiet-hold", saves=2)
    refused(wrong, "“24:30” is no time of day")
    long = change(client, {"op": "plan", "occasion": {**occasion, "hours": 40}}, name="quiet-hold", saves=2)
    refused(long, "Session: 40 h is over the most allowed, 16 h.")


def test_readings_teach_the_prediction_and_the_verdict(client: FlaskClient) -> None:
    before = heard(client)
    assert before["readings"] == 0
    for level in (66.0, 66.4, 65.8):
        made = keep(client, level=level, background=30)
        assert made.status_code == 201
        assert made.json["offset"] == pytest.approx(level - before["raw"], abs=0.01)
    after = heard(client)
    assert (after["readings"], after["raw"]) == (3, before["raw"])
    assert after["dba"] == pytest.approx(66.0, abs=0.01)
    assert after["spread"]["up"] < before["spread"]["up"] / 2
    assert after["spread"]["up"] == after["spread"]["down"]
    facts = bench(client, "quiet-hold")["analysis"]["stages"]
    assert any(s["id"] == "ears:at-the-desk" and s["value"].startswith("66") for s in facts)
    # Another hook-up at the same place learns from it too.
    assert heard(client, name="split-fog")["readings"] == 3


def test_readings_go_out_as_a_table(client: FlaskClient) -> None:
    keep(client, background=40, device="=cmd()")
    keep(client, level=67, minutes=10)
    lines = list(csv.DictReader(io.StringIO(client.get("/api/readings.csv").text.removeprefix("\ufeff"))))
    assert [line["reading, dB"] for line in lines] == ["66.0", "67.0"]
    assert float(lines[0]["without background, dB"]) == pytest.approx(65.99, abs=0.01)
    assert float(lines[1]["offset, dB"]) == pytest.approx(67 - float(lines[1]["predicted, dB"]), abs=0.011)
    assert lines[0]["meter"] == "'=cmd()"  # nothing that a spreadsheet would run
    assert lines[1]["listened, min"] == "10.0"


def test_a_stray_reading_is_told_and_left_out(client: FlaskClient) -> None:
    for level in (94.0, 94.2, 112.0):
        keep(client, place="by-the-amp", level=level)
    found = client.get("/api/readings").json["readings"]
    assert "too near the grille" in found[0]["stray"]
    assert not found[1]["stray"]
    with_it = heard(client, "by-the-amp")["spread"]["up"]
    answer = client.put(f"/api/readings/{found[0]['id']}", json={"used": False})
    assert [r["used"] for r in answer.json["readings"]] == [False, True, True]
    assert heard(client, "by-the-amp")["readings"] == 2
    assert heard(client, "by-the-amp")["spread"]["up"] <= with_it
    assert client.delete(f"/api/readings/{found[0]['id']}").status_code == 204
    refused(client.delete(f"/api/readings/{found[0]['id']}"), "no such reading", 404)
    refused(client.put("/api/readings/999", json={"used": True}), "no such reading", 404)


def test_a_reading_is_held_against_the_gear_as_it_is_now(client: FlaskClient) -> None:
    keep(client)
    assert heard(client)["dba"] == pytest.approx(66.0)
    entry = client.get("/api/gear/turnstone-212").json
    louder = [{**d, "sensitivity": d["sensitivity"] + 3} for d in entry["doc"]["drivers"]]
    doc = {**entry["doc"], "drivers": louder}
    assert client.put("/api/gear/turnstone-212", json={"revision": 1, "unit": doc}).status_code == 200
    # The prediction rises by 3 dB, the correction falls by as much: the reading still stands.
    assert heard(client)["dba"] == pytest.approx(66.0)


def test_a_reading_made_turned_down_teaches_nothing_about_a_hook_up_that_is_not(client: FlaskClient) -> None:
    loud = heard(client)["dba"]
    down = {"op": "set", "unit": "godwit-45", "control": "master_down", "value": True}
    assert change(client, down, name="quiet-hold").status_code == 200
    for level in (27.0, 27.4):
        made = keep(client, level=level)
        if not made.json["used"]:
            assert "the only reading here" in made.json["stray"]
            client.put(f"/api/readings/{made.json['id']}", json={"used": True})
    assert heard(client)["dba"] == pytest.approx(27.2, abs=0.1)
    up = {**down, "value": False}
    assert change(client, up, name="quiet-hold", saves=2).status_code == 200
    assert (heard(client)["dba"], heard(client)["readings"]) == (pytest.approx(loud), 0)


def test_a_lone_reading_that_is_far_off_counts_once_somebody_says_so(client: FlaskClient) -> None:
    before = heard(client)["dba"]
    made = keep(client, level=before + 14)
    assert made.status_code == 201
    assert made.json["used"] is False
    assert "14 dB over the prediction" in made.json["stray"]
    assert heard(client)["readings"] == 0
    client.put(f"/api/readings/{made.json['id']}", json={"used": True})
    assert heard(client)["dba"] == pytest.approx(before + 14)
    assert keep(client, level=before + 13).json["used"] is True


def test_what_was_learned_follows_gear_that_a_hook_up_keeps_or_lets_go(client: FlaskClient) -> None:
    file = client.get("/api/hookups/quiet-hold/file").json
    for unit in file["gear"]:
        if unit["id"] == "turnstone-212":
            unit["drivers"] = [{**d, "sensitivity": d["sensitivity"] + 10} for d in unit["drivers"]]
    made = client.post("/api/hookups/import", data=json.dumps(file), content_type="application/json").json["id"]
    with_own = heard(client, name=made)["dba"]
    keep(client, level=with_own + 2, name=made)
    assert heard(client, name=made)["dba"] == pytest.approx(with_own + 2)
    assert client.post(f"/api/hookups/{made}/unpin").status_code == 200
    # With the locker's cabinet 10 dB less is predicted; what was read is what is heard all the same.
    again = heard(client, name=made)
    assert again["dba"] == pytest.approx(with_own + 2)
    assert again["dba"] - again["raw"] == pytest.approx(12, abs=0.1)


def test_a_cabinet_in_the_open_and_turned_away(client: FlaskClient) -> None:
    out = {"op": "stand", "unit": "turnstone-212", "room": "@open", "mount": None}
    assert change(client, out, name="quiet-hold").json["undo"] == "Turnstone 2×12: in the open"
    found = heard(client, "next-boat")
    assert found["way"] == "in the open, 12 m from the cabinet"
    turn = {"op": "turn", "unit": "turnstone-212", "place": "next-boat", "facing": "away"}
    assert change(client, turn, name="quiet-hold", saves=2).json["undo"] == "Turnstone 2×12: turned away from Next boat"
    assert heard(client, "next-boat")["dba"] < found["dba"] - 5
    refused(change(client, {**turn, "facing": "up"}, name="quiet-hold", saves=3), "It faces: “up” is not one of")


def test_tape_is_a_change_like_any_other(client: FlaskClient) -> None:
    tape = {"op": "guard", "unit": "winkle-1", "control": "mode", "on": True}
    taped = change(client, tape, name="tap-behind-pad").json
    (view,) = [
        c for u in taped["units"] if u["id"] == "winkle-1" for c in u["controls"] if c["control"]["id"] == "mode"
    ]
    assert view["taped"]
    assert not any(f["id"] == "one-movement" for f in taped["analysis"]["findings"])
    assert taped["undo"] == "Winkle 1: input taped"
    moved = change(
        client, {"op": "set", "unit": "winkle-1", "control": "mode", "value": "load"}, name="tap-behind-pad", saves=2
    )
    assert not any(c["taped"] for u in moved.json["units"] for c in u["controls"])
    refused(change(client, {**tape, "control": "none"}, name="tap-behind-pad", saves=3), "no control “none” to tape")


@pytest.mark.parametrize(
    ("reading", "said"),
    [
        ({"level": 300}, "Reading: 300 dB is over the most allowed, 150 dB."),
        ({"level": "loud"}, "Reading: “loud” is not a number."),
        ({"level": None}, "Reading: “None” is not a number."),
        ({"distance": 0}, "Distance: 0 m is under the least allowed, 0.02 m."),
        ({"background": 65}, "less than 3 dB over the background of 65 dB"),
        ({"weighting": "B"}, "Weighting"),
        ({"place": "attic"}, "There is no gear “attic”"),
        ({"place": "godwit-45"}, "is no listening place"),
        ({"minutes": -5}, "Listened: −5 min is under the least allowed, 0 min."),
    ],
)
def test_readings_that_cannot_be(client: FlaskClient, reading: dict[str, Any], said: str) -> None:
    answer = keep(client, **reading)
    refused(answer, said, answer.status_code)
    assert answer.status_code in (404, 422)
    assert client.get("/api/readings").json["readings"] == []


@pytest.mark.parametrize(
    ("kind", "doc", "said"),
    [
        ("place", {"distance": 0}, "Distance: 0 m is under the least allowed, 0.1 m."),
        ("place", {"limits": [{"level": 141}]}, "Limits 1, At most: 141 dBA is over the most allowed, 140 dBA."),
        ("place", {"limits": [{"start": "9pm"}]}, "“9pm” is no time of day"),
        ("place", {"limits": [{}, {"start": "22:00"}]}, "22:00 is in two of them"),
        ("partition", {"surfaces": [{"reduction": [-10] * 8}]}, "−10 dB is under the least allowed, 0 dB."),
        ("partition", {"surfaces": [{"reduction": [10] * 7}]}, "eight values are wanted"),
        ("room", {"volume": 0}, "Volume: 0 m³ is under the least allowed, 2 m³."),
        ("mount", {"deflection": 0}, "under the least allowed, 0.05 mm."),
        ("headphones", {"impedance": 0}, "Impedance: 0 Ω is under the least allowed, 4 Ω."),
    ],
)
def test_surroundings_that_cannot_be(client: FlaskClient, kind: str, doc: dict[str, Any], said: str) -> None:
    refused(client.post("/api/gear", json={"name": "New", "kind": kind, **doc}), said)


def test_what_others_lie_in_or_stand_on_is_not_deleted(client: FlaskClient) -> None:
    refused(client.delete("/api/gear/hold"), "is used in", 409)
    refused(client.delete("/api/gear/harbour-hall"), "Desk in the hall", 409)
    stand = {"op": "stand", "unit": "turnstone-212", "room": None, "mount": "spring-feet"}
    change(client, stand, name="quiet-hold")
    refused(client.delete("/api/gear/spring-feet"), "Cue 2", 409)
    standing = {s["unit"]: s for s in loudness(client)["standing"]}
    assert standing["turnstone-212"]["mount"] == "spring-feet"
    refused(change(client, {**stand, "mount": "hold"}, name="quiet-hold", saves=2), "that is no mount")
    refused(change(client, {"op": "add", "unit": "bunks"}, name="quiet-hold", saves=2), "nothing is plugged into it")


def test_the_simulated_meter_knows_the_room_better(client: FlaskClient) -> None:
    predicted = heard(client)["raw"]
    shown = [
        client.post("/api/hookups/quiet-hold/meter", json={"place": "at-the-desk"}).json["level"] for _ in range(12)
    ]
    mean = sum(shown) / len(shown)
    assert mean == pytest.approx(predicted + meter.room_error("at-the-desk"), abs=0.5)
    assert abs(meter.room_error("at-the-desk")) <= meter.ROOM_ERROR_DB
    assert len(set(shown)) > 1
    flat = client.post("/api/hookups/quiet-hold/meter", json={"place": "at-the-desk", "weighting": "C"}).json
    assert flat["level"] > mean + 2
    near = client.post("/api/hookups/quiet-hold/meter", json={"place": "by-the-amp", "distance": 0.1}).json["level"]
    far = client.post("/api/hookups/quiet-hold/meter", json={"place": "by-the-amp", "distance": 3}).json["level"]
    assert near > far + 8
    refused(client.post("/api/hookups/silent-night/meter", json={"place": "bunks"}), "no cabinet is driven")
    refused(client.post("/api/hookups/quiet-hold/meter", json={"place": "bunks", "distance": 0}), "Distance: 0 m")


def test_listening_fills_the_dose_by_every_school(client: FlaskClient) -> None:
    before = client.get("/api/ears").json
    assert before["dose"] == 0
    week = before["schools"][2]["dose"]  # the evening before counts in it
    assert week > 0
    answer = client.post("/api/ears", json={"what": "mussel-64", "level": 94, "minutes": 30})
    assert answer.status_code == 201
    found = client.get("/api/ears", query_string={"hookup": "quiet-hold"}).json
    # 94 dBA: 1 h by the first school, 8/2^0.8 h by the second; 40/2^(14/3) h a week by the third.
    doses = [s["dose"] for s in found["schools"]]
    assert doses == pytest.approx([0.5, 0.5 / (8 / 2**0.8), week + 0.5 / (40 / 2 ** (14 / 3))])
    assert [s["chosen"] for s in found["schools"]] == [True, False, False]
    assert found["exposures"][0]["name"] == "Mussel 64"
    assert found["where"] == "Wheelhouse desk"
    keep(client, level=94.0, minutes=45)
    found = client.get("/api/ears", query_string={"hookup": "quiet-hold"}).json
    assert found["dose"] == pytest.approx(1.25)
    assert found["warn"].startswith("All of what the day allows is used")
    verdict = bench(client, "quiet-hold")["analysis"]
    assert any(f["id"] == "dose" and f["severity"] == "caution" for f in verdict["findings"])
    client.post("/api/ears", json={"what": "mussel-64", "level": 120, "minutes": 1})
    assert client.get("/api/ears").json["dose"] is None


def test_one_is_warned_ahead_of_time(client: FlaskClient) -> None:
    found = client.get("/api/ears", query_string={"hookup": "tap-on-lead"}).json
    assert 0 < found["left_hours"] < 12
    assert "four fifths of it at" in found["warn"]


@pytest.mark.parametrize(
    ("body", "said"),
    [
        ({"what": "mussel-64", "level": 300, "minutes": 1}, "Level: 300 dBA is over the most allowed, 140 dBA."),
        ({"what": "mussel-64", "level": 80, "minutes": 0}, "Listened: 0 min is under the least allowed, 0.1 min."),
        ({"what": "godwit-45", "level": 80, "minutes": 1}, "is neither a place nor headphones"),
        ({"what": "mussel-64", "level": 80, "minutes": 1, "at": "2099-01-01T10:00"}, "yet to come"),
        ({"what": "mussel-64", "level": 80, "minutes": 1, "at": "yesterday"}, "is no date and time"),
    ],
)
def test_listening_that_cannot_be(client: FlaskClient, body: dict[str, Any], said: str) -> None:
    refused(client.post("/api/ears", json=body), said)
    assert client.get("/api/ears").json["exposures"] == []


@pytest.mark.usefixtures("harbour_time")
def test_an_hour_that_comes_twice_is_asked_about() -> None:
    with pytest.raises(Invalid, match=r"02:30 on 26 October comes twice .* \+02:00 for the first, \+01:00"):
        clock.instant("2025-10-26T02:30")
    assert clock.instant("2025-10-26T02:30+02:00") == "2025-10-26T00:30:00+00:00"
    assert clock.instant("2025-10-26T02:30+01:00") == "2025-10-26T01:30:00+00:00"
    assert clock.instant("2025-10-26T03:30") == "2025-10-26T02:30:00+00:00"
    with pytest.raises(Invalid, match="02:30 on 30 March does not exist"):
        clock.instant("2025-03-30T02:30")


@pytest.mark.usefixtures("harbour_time")
def test_a_reading_in_the_doubled_hour_is_refused_whole(client: FlaskClient) -> None:
    refused(keep(client, at="2025-10-26T02:30"), "comes twice that night")
    assert client.get("/api/readings").json["readings"] == []
    assert keep(client, at="2025-10-26T02:30+01:00").json["at"] == "2025-10-26T01:30:00+00:00"


def test_only_today_counts_by_the_day_and_a_week_by_the_week(client: FlaskClient) -> None:
    days_ago = clock.ago(days=2)
    client.post("/api/ears", json={"what": "mussel-64", "level": 94, "minutes": 30, "at": days_ago})
    by_school = [s["dose"] for s in client.get("/api/ears").json["schools"]]
    assert by_school[:2] == [0, 0]
    assert by_school[2] > 0.3
    choice = client.get("/api/preferences").json["preferences"]
    assert client.put("/api/preferences", json={**choice, "listening": "80_week"}).status_code == 200
    assert client.get("/api/ears").json["span"] == "week"
    assert readings.known().dose == pytest.approx(by_school[2])


def test_what_is_thin_when_quiet(client: FlaskClient) -> None:
    found = client.get("/api/tools/thin", query_string={"loud": 90, "quiet": 60}).json
    assert len(found["frequency"]) == len(found["thin"]["lost"]) == len(found["shelved"]) == 29
    assert found["thin"]["shelf"]["gain"] > 3
    refused(
        client.get("/api/tools/thin", query_string={"loud": 60, "quiet": 90}), "Quiet: 90 dB is over the loud level"
    )
    refused(client.get("/api/tools/thin", query_string={"loud": 300, "quiet": 90}), "Loud: 300 dB is over")


def test_a_calibrated_knob_is_kept_and_counts(client: FlaskClient) -> None:
    pairs = [{"at": "0", "value": 10}, {"at": "5", "value": 5}, {"at": "10", "value": 0.5}]
    entry = client.get("/api/gear/sandbag-30").json
    asked = {"box": entry["doc"], "reference": "0", "unit": "V"}
    table = client.post("/api/tools/knob", json={"pairs": pairs, **asked}).json["marks"]
    assert [m["down_db"] for m in table] == pytest.approx([0, 6.02, 26.02], abs=0.01)
    answer = client.put("/api/gear/sandbag-30", json={"revision": 1, "unit": {**entry["doc"], "marks": table}})
    assert answer.status_code == 200
    own = [r for r in steps(client) if r["unit"] == "sandbag-30"]
    assert {r["position"]: round(r["down_db"], 1) for r in own}["at 5"] == 6.0
    twice = [*table, {**table[1], "at": "7"}, {**table[0], "at": "8"}]
    both_ways = client.put("/api/gear/sandbag-30", json={"revision": 2, "unit": {**entry["doc"], "marks": twice}})
    assert both_ways.status_code == 200
    refused(client.post("/api/tools/knob", json={"pairs": pairs[:1], **asked}), "two positions at least")
    refused(client.post("/api/tools/knob", json={"pairs": [], **asked}), "Readings: at least 1 needed")
    load = client.get("/api/gear/groyne-r8").json["doc"]
    refused(client.post("/api/tools/knob", json={"pairs": pairs, **asked, "box": load}), "only an attenuator has")
    steps_of = {"kind": "attenuator", "name": "", "marks": [{"at": "half"}, {"at": "full"}], "steps": []}
    half = client.post("/api/tools/knob", json={"pairs": pairs, **asked, "box": steps_of})
    refused(half, "New has no step “0”; it has half, full.")
    assert [round(h["db"]) for h in client.get("/api/tools/half").json["halves"]] == [3, 6, 10]


@pytest.mark.parametrize(
    ("said", "below_full"),
    [("half the power", 3.01), ("half as loud", 10), ("−12 dB", 12), ("9 W", 3.01), ("1/4", 6.02)],
)
def test_a_wish_is_read_as_people_say_it(client: FlaskClient, said: str, below_full: float) -> None:
    plan = loudness(client, "combo-bunks", place="bunks", said=said)["plan"]
    at = [p["place"] for p in plan["places"]].index("bunks")
    assert plan["wanted"] == pytest.approx(plan["full"][at] - below_full, abs=0.02)
    assert plan["need_db"] == pytest.approx(below_full, abs=0.02)


def test_a_wish_that_is_none_is_refused_in_a_sentence(client: FlaskClient) -> None:
    for said, sentence in (
        ("lots", "Wanted: “lots” is not understood. Say a level (72 dBA)"),
        ("12 dB", "is “12 dB” a level (dBA), or how far down (−12 dB)"),
        ("400 dBA", "400 dBA is more than 140"),
    ):
        refused(client.get("/api/hookups/combo-bunks/loudness", query_string={"said": said}), sentence)


def test_marks_of_ones_own_stand_among_those_of_daily_life(client: FlaskClient) -> None:
    now = client.get("/api/preferences").json
    own = {**now["preferences"], "marks": [{"name": "the bilge pump", "level": 66}]}
    assert client.put("/api/preferences", json=own, query_string={"saves": now["saves"]}).status_code == 200
    names = [m["name"] for m in loudness(client)["plan"]["marks"]]
    assert names.index("talk, 1 m away") < names.index("the bilge pump") < names.index("a vacuum cleaner")
    loud = {**own, "marks": [{"name": "", "level": 200}]}
    refused(client.put("/api/preferences", json=loud), "Own marks of loudness 1, Mark: it must not be empty.")


def test_what_a_step_is_heard_by(client: FlaskClient) -> None:
    found = loudness(client)
    assert [(q["down_db"], q["words"]) for q in found["quieter"]] == [
        (3, "about four fifths as loud"),
        (6, "about two thirds as loud"),
        (10, "about half as loud"),
    ]
    take = client.get("/api/loudness/take.wav")
    assert (take.status_code, take.mimetype, take.data[:4]) == (200, "audio/wav", b"RIFF")


def test_the_nearest_says_what_is_plugged_anew(client: FlaskClient) -> None:
    advice = {a["step"]["unit"]: a for a in loudness(client, "combo-bunks", place="bunks")["plan"]["nearest"]}
    assert advice["riprap-50"]["replug"] == []
    assert any("Caisson 120, amp in" in line for line in advice["caisson-120"]["replug"])


def test_a_box_is_fitted_from_the_thermometer(client: FlaskClient) -> None:
    (box,) = loudness(client)["boxes"]
    assert box["unit"] == "caisson-120"
    assert box["estimate"]
    assert box["temperature"][0] == 19
    shown = [
        client.post("/api/hookups/quiet-hold/thermometer", json={"unit": "caisson-120", "minutes": m}).json["celsius"]
        for m in (10, 40)
    ]
    assert 19 < shown[0] < shown[1]
    body = {
        "ambient": 19,
        "watts": box["heat_watts"],
        "first": {"minutes": 10, "celsius": shown[0]},
        "second": {"minutes": 40, "celsius": shown[1]},
    }
    fit = client.post("/api/tools/heat", json=body).json
    assert 0.2 < fit["resistance"] < 1.5
    assert 5 < fit["minutes"] < 60
    body["second"] = {"minutes": 40, "celsius": shown[0]}
    refused(client.post("/api/tools/heat", json=body), "warmer than the one before")
    nobody = client.post("/api/hookups/quiet-hold/thermometer", json={"unit": "turnstone-212", "minutes": 5})
    refused(nobody, "Nothing that warms", 404)


def test_lines_of_the_log(client: FlaskClient) -> None:
    made = client.post("/api/lines", json={"text": "  picked the load  "}).json
    assert made["text"] == "picked the load"
    assert [line["id"] for line in client.get("/api/lines").json["lines"]] == [made["id"]]
    refused(client.post("/api/lines", json={"text": "   "}), "1 to 1000 characters")
    refused(client.post("/api/lines", json={"text": "x", "session": 99}), "", 404)
    sessions = client.get("/api/log.json").json["sessions"]
    assert sessions[0]["lines"][0]["text"] == "picked the load"
    assert client.delete(f"/api/lines/{made['id']}").status_code == 204
    refused(client.delete(f"/api/lines/{made['id']}"), "no such line", 404)


def test_kinds_that_are_no_units_say_so(client: FlaskClient) -> None:
    kinds = {k["kind"]: k for k in client.get("/api/kinds").json["kinds"]}
    not_placed = {k for k, info in kinds.items() if not info["placeable"]}
    assert not_placed == {"lead", "room", "partition", "place", "mount"}
    assert kinds["place"]["form"]["properties"]["room"]["x-refers"] == "room"


def test_a_reading_is_held_against_the_gear_its_hookup_has_now(client: FlaskClient) -> None:
    """Its prediction is kept until something it rests on changes: gear that was pinned and is let go of, too."""
    document = client.get("/api/hookups/quiet-hold/file").json
    (cabinet,) = [g for g in document["gear"] if g["kind"] == "cabinet"]
    for driver in cabinet["drivers"]:
        driver["sensitivity"] += 6
    made = client.post("/api/hookups/import", json=document).json
    kept = keep(client, name=made["id"], level=70.0).json
    offset = client.get("/api/readings").json["readings"][0]["offset"]
    assert offset == pytest.approx(kept["offset"])
    change(client, {"op": "describe", "notes": "an edit"}, name=made["id"])
    assert client.get("/api/readings").json["readings"][0]["offset"] == pytest.approx(offset)
    client.post(f"/api/hookups/{made['id']}/unpin")
    assert client.get("/api/readings").json["readings"][0]["offset"] == pytest.approx(offset + 6)
