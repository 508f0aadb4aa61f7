"""Cab blend through the API: files into the library, blends, what is heard, what goes out and comes back."""

from __future__ import annotations

import io
import json
import struct
from typing import Any

import numpy as np
import pytest
import soundfile
from flask.testing import FlaskClient

from low_tide.core.audio.rendering import cab_filter, coloured
from low_tide.core.cab.impulse import RATE
from low_tide.formats.recording import write_wav
from low_tide.stand_ins.impulses import MADE
from low_tide.store.home import Home
from tests.web.test_capture import brought, encoded, lines
from tests.web.test_finding import refused

WIDE = "Fog, wide"


def cab(seed: int = 0, seconds: float = 0.1, rate: int = RATE) -> np.ndarray:
    spike = np.zeros(round(seconds * rate))
    spike[20 + seed] = 0.5
    return coloured(spike, cab_filter, rate)


def sent(client: FlaskClient, data: bytes, name: str = "closed 4x12, ribbon, 15 cm.wav") -> Any:
    return client.post("/api/impulses", query_string={"file_name": name}, data=data)


def library(client: FlaskClient, **query: Any) -> dict[str, Any]:
    found: dict[str, Any] = client.get("/api/impulses", query_string=query).json
    return found


def blend(client: FlaskClient, name: str = WIDE) -> dict[str, Any]:
    number = next(b["id"] for b in client.get("/api/blends").json["blends"] if b["name"] == name)
    found: dict[str, Any] = client.get(f"/api/blends/{number}").json
    return found


def put(client: FlaskClient, state: dict[str, Any], doc: dict[str, Any], saves: int | None = None) -> Any:
    body = {"name": state["name"], "doc": doc, "saves": saves}
    return client.put(f"/api/blends/{state['id']}", json=body)


# ---------------------------------------------------------------- library


def test_the_demo_brings_eighteen_marked_as_made(client: FlaskClient) -> None:
    found = library(client)
    assert (found["of"], found["listed"], len(found["impulses"])) == (18, 6, len(MADE))
    assert {each["origin"] for each in found["impulses"]} == {"made"}
    assert sum(each["inverted"] for each in found["impulses"]) == 1
    alike = library(client, within=1.5)
    assert alike["groups"] < 18
    assert sum(each["under"] is None for each in alike["impulses"]) == alike["groups"]
    assert sum(each["folds"] for each in alike["impulses"]) == 18 - alike["groups"]
    assert library(client, within=0)["groups"] == 18
    assert {e["note"]["microphone"] for e in library(client, search="ribbon 4x12")["impulses"]} <= {"ribbon"}
    assert library(client, search="no such thing")["impulses"] == []


def test_a_file_becomes_one_and_its_name_is_read(client: FlaskClient, home: Home) -> None:
    answer = sent(client, write_wav(cab(), RATE, "FLOAT"))
    assert answer.status_code == 201, answer.text
    (made,) = answer.json["impulses"]
    assert (made["note"]["cabinet"], made["note"]["microphone"], made["note"]["distance"]) == (
        "closed 4×12",
        "ribbon",
        15,
    )
    assert made["onset"] == pytest.approx(20 / RATE * 1000, abs=0.05)
    refused(
        sent(client, write_wav(cab(), RATE, "FLOAT"), "another name.wav"), "in the library already, as “closed 4x12"
    )
    body = {**made["note"], "licence": "my own", "tags": ["drone"], "favourite": True}
    assert client.put(f"/api/impulses/{made['id']}", json=body).json["note"]["licence"] == "my own"
    assert [e["id"] for e in library(client, search="drone favourite")["impulses"]] == [made["id"]]
    there = len(list(home.audio.glob("*.wav")))
    assert client.post("/api/impulses/delete", json={"ids": [made["id"]]}).status_code == 204
    assert len(list(home.audio.glob("*.wav"))) == there - 1


def test_channels_that_differ_are_two(client: FlaskClient) -> None:
    both = np.column_stack([cab(), cab(40)])
    names = [e["note"]["name"] for e in sent(client, write_wav(both, RATE, "FLOAT"), "pair.wav").json["impulses"]]
    assert names == ["pair, left", "pair, right"]
    same = np.column_stack([cab(1), cab(1)])
    assert len(sent(client, write_wav(same, RATE, "FLOAT"), "same.wav").json["impulses"]) == 1
    one_empty = np.column_stack([np.zeros(len(cab())), cab(2)])
    (made,) = sent(client, write_wav(one_empty, RATE, "FLOAT"), "half.wav").json["impulses"]
    out, _ = soundfile.read(io.BytesIO(client.get(f"/api/impulses/{made['id']}/file.wav").data))
    assert out == pytest.approx(cab(2), abs=1e-6)


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (write_wav(np.zeros(600 * 8_000), 8_000, "PCM_16"), "Length: 10 minutes is over the most allowed, 5.0 s."),
        (write_wav(np.zeros(4_800), RATE), "it is silent"),
        (write_wav(np.full(48_000, 0.5), RATE), "nothing in it but a constant offset"),
        (write_wav(np.full(4_800, np.nan), RATE, "FLOAT"), "values that are not numbers"),
        (write_wav(np.zeros((100, 3)), RATE), "Channels: 3 is over the most allowed, 2."),
        (write_wav(np.zeros(100), 4_000), "Sample rate: 4000 Hz is outside"),
        (b"\0\1\2" * 400, "not a WAV, FLAC or AIFF file"),
        (b"100 0 0\n", "no curve: at least two lines"),
        (b"1000 -3 0\n2000 -4 0\n", "at least 200 to 5000 Hz are wanted"),
        (b"100 -3 0\n9000 1e300 0\n", "a level over 200 dB"),
        (b"", "not a WAV, FLAC or AIFF file"),
    ],
)
def test_what_is_no_impulse_response(client: FlaskClient, data: bytes, says: str) -> None:
    before = library(client)["of"]
    refused(sent(client, data), says)
    assert library(client)["of"] == before


def test_a_low_rate_and_a_strange_name_are_taken(client: FlaskClient) -> None:
    low = sent(client, write_wav(cab(rate=8_000), 8_000, "FLOAT"), "../../" + "x" * 300 + ".wav").json["impulses"][0]
    assert low["rate"] == 8_000
    assert low["note"]["name"] == "x" * 120


def test_a_response_becomes_one_of_minimum_phase_and_goes_out_again(client: FlaskClient) -> None:
    hz = np.geomspace(40, 16_000, 120)
    text = "\n".join(f"{f:.2f} {20 * np.log10(abs(v)):.3f}" for f, v in zip(hz, cab_filter(hz), strict=True))
    (made,) = sent(client, text.encode(), "measured.frd").json["impulses"]
    assert made["origin"] == "response"
    out = client.get(f"/api/impulses/{made['id']}/response.frd").text
    rows = [line.split() for line in out.splitlines() if line[0] != "*"]
    found = np.interp(np.log([100, 1_000, 4_000]), np.log([float(r[0]) for r in rows]), [float(r[1]) for r in rows])
    assert found == pytest.approx(20 * np.log10(np.abs(cab_filter(np.array([100, 1_000, 4_000])))), abs=0.2)


def test_the_short_list_is_short(client: FlaskClient) -> None:
    every = library(client)["impulses"]
    free = [e for e in every if not e["note"]["listed"]]
    for each in free[:2]:
        assert client.put(f"/api/impulses/{each['id']}", json={**each["note"], "listed": True}).status_code == 200
    refused(client.put(f"/api/impulses/{free[2]['id']}", json={**free[2]["note"], "listed": True}), "at most 8")
    wrong = client.put(f"/api/impulses/{free[2]['id']}", json={**free[2]["note"], "distance": 5000})
    refused(wrong, "Distance: 5000 cm is over the most allowed, 1000 cm.")
    refused(client.put("/api/impulses/999", json=free[2]["note"]), "no such impulse response", 404)


def test_a_sweep_becomes_one(client: FlaskClient) -> None:
    measured = client.post("/api/hookups/dry-groyne/sweep").json
    body = {"impulse": measured["impulse"], "name": "Groyne, bare"}
    (made,) = client.post("/api/impulses/from-sweep", json=body).json["impulses"]
    assert (made["origin"], made["note"]["name"]) == ("simulated", "Groyne, bare")
    measured_file = client.get(f"/api/sweeps/{measured['impulse']}", query_string={"after": 50}).data
    short = client.post("/api/impulses/from-sweep", json={**body, "after": 50})
    assert short.json["impulses"][0]["seconds"] == pytest.approx(0.055, abs=1e-3)
    refused(sent(client, measured_file), "in the library already")
    hits = client.get("/api/find", query_string={"search": "groyne, bare"}).json["found"]
    assert [h["type"] for h in hits] == ["impulse", "impulse"]
    assert "blend" in [h["type"] for h in client.get("/api/find", query_string={"search": "fog, wide"}).json["found"]]
    gone = {"impulse": "impulse-" + "0" * 24 + ".wav", "name": "x"}
    refused(client.post("/api/impulses/from-sweep", json=gone), "measure it again", 404)


# ---------------------------------------------------------------- blends


def test_out_of_phase_as_recorded_and_in_line_by_best_sum(client: FlaskClient) -> None:
    found = blend(client)
    assert found["lost"]["low_mid"] > 3
    assert [p["turn"] for p in found["parts"]] == [False, False, True]
    doc = {**found["doc"], "parts": [{**p, "inverted": i == 2} for i, p in enumerate(found["doc"]["parts"])]}
    lined = client.post("/api/blends/line-up", json={"doc": doc, "how": "sum"}).json
    assert lined["parts"][1]["delay"] == pytest.approx(-2.77, abs=0.1)
    now = put(client, found, lined, found["saves"]).json
    assert now["lost"]["low"] < 0.5
    assert now["lost_recorded"]["low_mid"] > now["lost"]["low_mid"] + 1
    assert not any(p["turn"] for p in now["parts"])
    assert now["stereo"]
    refused(put(client, found, found["doc"], found["saves"]), "changed in another window", 409)


def test_what_is_gone_is_said_and_does_not_go_out(client: FlaskClient) -> None:
    found = blend(client)
    used = found["doc"]["parts"][1]["impulse"]
    client.post("/api/impulses/delete", json={"ids": [used]})
    now = blend(client)
    assert [p["gone"] for p in now["parts"]] == [False, True, False]
    assert now["response"] is not None
    alone = [{**p, "solo": i == 1} for i, p in enumerate(now["doc"]["parts"])]
    assert [p["heard"] for p in put(client, now, {**now["doc"], "parts": alone}).json["parts"]] == [True, False, True]
    refused(client.get(f"/api/blends/{now['id']}/impulse.wav"), "no longer in the library", 409)
    # It may stay in its place while the rest is changed, and nothing that is not here may come in.
    assert put(client, now, now["doc"]).status_code == 200
    strange = {**now["doc"], "parts": [*now["doc"]["parts"], {"impulse": 999}]}
    refused(put(client, now, strange), "Part 4: its impulse response is not in the library.")


@pytest.mark.parametrize(
    ("change", "says"),
    [
        ({"gain": 13}, "Gain: 13 dB is over the most allowed, 12 dB."),
        ({"delay": -6}, "Delay: −6 ms is under the least allowed, −5 ms."),
        ({"pan": 2}, "Pan: 2 is over the most allowed, 1."),
    ],
)
def test_bounds_of_a_part(client: FlaskClient, change: dict[str, Any], says: str) -> None:
    found = blend(client)
    doc = {**found["doc"], "parts": [{**found["doc"]["parts"][0], **change}]}
    refused(put(client, found, doc), says)


def test_nothing_is_heard_of_a_blend_without_parts(client: FlaskClient) -> None:
    made = client.post("/api/blends", json={"name": "Empty"}).json
    assert (made["response"], made["report"]) == (None, [])
    query = {"source": "driven", "start": 0, "stop": 2}
    refused(client.get(f"/api/blends/{made['id']}/sound", query_string=query), "Nothing is heard of this blend")
    refused(client.post("/api/blends", json={"name": " "}), "Name: 1 to 120 characters")
    assert client.delete(f"/api/blends/{made['id']}").status_code == 204
    refused(client.get(f"/api/blends/{made['id']}"), "no such blend", 404)


def test_it_is_heard_as_loud_as_the_bare_tap(client: FlaskClient) -> None:
    from low_tide.core.audio.loudness import loudness

    found = blend(client)
    levels = []
    for source, bare in (("driven", False), ("driven", True), ("clean", False), ("take-1", False)):
        query = {"source": source, "start": 1, "stop": 5, "bare": str(bare).lower()}
        answer = client.get(f"/api/blends/{found['id']}/sound", query_string=query)
        assert answer.status_code == 200, answer.text
        sound, rate = soundfile.read(io.BytesIO(answer.data))
        assert len(sound) == 4 * rate
        levels.append(loudness(sound, rate))
    assert levels == pytest.approx([-23] * 4, abs=0.1)
    for source, says in (("take-999", "no such take"), ("take-x", "no such take"), ("take-5", "no such take")):
        query = {"source": source, "start": 0, "stop": 2}
        refused(client.get(f"/api/blends/{found['id']}/sound", query_string=query), says)
    late = {"source": "driven", "start": 100, "stop": 102}
    refused(client.get(f"/api/blends/{found['id']}/sound", query_string=late), "beyond the end")


def test_out_and_back(client: FlaskClient) -> None:
    found = blend(client)
    out = f"/api/blends/{found['id']}/impulse.wav"
    plain, rate = soundfile.read(io.BytesIO(client.get(out).data))
    assert (rate, plain.ndim) == (RATE, 1)
    (again,) = sent(client, client.get(out).data, "out.wav").json["impulses"]
    alone = {"name": "Again", "impulses": [again["id"]]}
    back = client.post("/api/blends", json=alone).json
    same, _ = soundfile.read(io.BytesIO(client.get(f"/api/blends/{back['id']}/impulse.wav").data))
    count = min(len(plain), len(same))
    left = np.square(plain[:count] - same[:count]).sum()
    assert 10 * np.log10(max(left, 1e-30) / np.square(plain).sum()) < -120
    for query, shape in (({"rate": "96000"}, 1), ({"stereo": "true", "minimum": "true", "level": "peak"}, 2)):
        sound, rate = soundfile.read(io.BytesIO(client.get(out, query_string=query).data))
        assert (rate, sound.ndim) == (int(query.get("rate", RATE)), shape)
        if "level" in query:
            assert 20 * np.log10(np.abs(sound).max()) == pytest.approx(-1, abs=0.01)


def test_a_recipe_reads_back(client: FlaskClient) -> None:
    found = blend(client)
    recipe = client.get(f"/api/blends/{found['id']}/recipe.json", query_string={"level": "peak"}).json
    assert recipe["parts"][0]["of"]["licence"] == "free to use"
    assert recipe["gain"] != 0
    for path in (f"{found['id']}/impulse.wav", f"{found['id']}/takes/1/file.wav"):
        data = client.get(f"/api/blends/{path}", query_string={"level": "peak"}).data
        told = data[data.index(b"ICMT") + 8 :].split(b"\0")[0]
        assert json.loads(told)["parts"] == recipe["parts"]
        assert struct.unpack("<I", data[4:8])[0] == len(data) - 8
    again = client.post("/api/blends/recipe", json=recipe).json
    assert again["doc"]["parts"] == found["doc"]["parts"]
    assert again["response"] == found["response"]
    refused(client.post("/api/blends/recipe", json={"kind": "soup"}), "no recipe of a blend")
    refused(client.post("/api/blends/recipe", json={**recipe, "version": 9}), "newer Low Tide")
    strange = json.loads(json.dumps(recipe))
    strange["parts"][1]["of"] |= {"file": "0" * 64 + ".wav", "name": "Far away"}
    refused(
        client.post("/api/blends/recipe", json=strange), "“Far away” is not in the library: bring its file in first."
    )


def test_a_take_with_a_speaker_in_it_is_asked_about_first(client: FlaskClient) -> None:
    found = blend(client)
    sources = {s["id"]: s for s in client.get("/api/blends/sources").json["sources"]}
    assert sources["take-1"]["warning"] == ""
    assert "two speakers already" in sources["take-3"]["warning"]
    assert "speaker in it already" in sources["take-6"]["warning"]
    where = f"/api/blends/{found['id']}/takes"
    refused(client.get(f"{where}/6/file.wav"), "speaker in it already", 409)
    answer = client.get(f"{where}/6/file.wav", query_string={"anyway": "true"})
    assert answer.status_code == 200
    bare, _ = soundfile.read(io.BytesIO(client.get(f"{where}/1/file.wav").data))
    assert bare.ndim == 2
    assert np.abs(bare).max() <= 1
    refused(client.get(f"{where}/5/file.wav"), "no recording")
    # What is rendered through a speaker sounds like one.
    made = brought(client, encoded(bare[:, 0], RATE), name="rendered.wav")["take"]
    assert {s["id"]: s for s in client.get("/api/blends/sources").json["sources"]}[f"take-{made['id']}"]["warning"]


def test_what_was_taken_goes_to_the_log(client: FlaskClient) -> None:
    found = blend(client)
    body = {"part": "main", "why": "the rhythm is full and leaves room", "trusted": False, "tried": 7}
    line = client.post(f"/api/blends/{found['id']}/commit", json=body).json
    words = "Speaker for main: “Fog, wide”. the rhythm is full and leaves room (7 were tried.) It is Sanderling"
    assert line["text"].startswith(words)
    refused(client.post(f"/api/blends/{found['id']}/commit", json={**body, "why": " "}), "Why: 1 to 400 characters")
    client.post(f"/api/blends/{found['id']}/commit", json={**body, "trusted": True})
    assert library(client)["listed"] == 8


def test_how_late_one_hears_oneself(client: FlaskClient) -> None:
    path = {
        "buffer": 512,
        "rate": 48_000,
        "converters": 1,
        "plug_ins": 0,
        "impulse": 0.5,
        "distance": 0,
        "direct": True,
    }
    found = client.post("/api/tools/monitoring-delay", json=path).json
    assert (found["late"], round(found["total"], 2)) == (True, 22.83)
    assert "128 samples take 16 ms off" in found["words"][1]
    assert "cancel at 21.9 Hz" in found["words"][2]
    refused(
        client.post("/api/tools/monitoring-delay", json={**path, "buffer": 1}), "Buffer: 1 samples is under the least"
    )
    refused(client.post("/api/tools/monitoring-delay", json={**path, "distance": "far"}), "Distance of the monitors")


def test_blends_are_suggested_from_the_short_list(client: FlaskClient) -> None:
    found = blend(client)
    *parts, last = lines(client.post(f"/api/blends/{found['id']}/suggest"))
    assert [p["part"] for p in parts] == sorted(p["part"] for p in parts)
    made = last["suggestions"]
    assert (made["of"], made["against"], len(made["blends"])) == (6, "the rest of your library", 5)
    assert made["blends"][0]["words"].endswith("no band is 2 dB off.")
    nearest = put(client, found, {**found["doc"], "parts": made["blends"][0]["parts"]}).json
    assert nearest["report"] == ["It is like the rest of your library: no band is 2 dB off."]
    # Held against one of them, that one alone is nearest.
    listed = next(e for e in library(client)["impulses"] if e["note"]["listed"])
    doc = {**found["doc"], "reference": {"against": "impulse", "id": listed["id"]}}
    assert put(client, found, doc).json["against"] == f"“{listed['note']['name']}”"
    first = lines(client.post(f"/api/blends/{found['id']}/suggest"))[-1]["suggestions"]["blends"][0]
    assert [p["impulse"] for p in first["parts"]] == [listed["id"]]
    for each in library(client)["impulses"]:
        if each["note"]["listed"]:
            client.put(f"/api/impulses/{each['id']}", json={**each["note"], "listed": False})
    assert "short list is empty" in lines(client.post(f"/api/blends/{found['id']}/suggest"))[-1]["problem"]


# ---------------------------------------------------------------- several at once


def noted(client: FlaskClient, *changed: tuple[dict[str, Any], dict[str, Any]]) -> Any:
    notes = [{"id": entry["id"], "note": {**entry["note"], **note}} for entry, note in changed]
    return client.post("/api/impulses/notes", json={"notes": notes})


def test_several_are_named_at_once(client: FlaskClient) -> None:
    first, second, *rest = library(client)["impulses"]
    assert (
        noted(client, (first, {"licence": "ours"}), (second, {"licence": "ours", "tags": ["deck"]})).status_code == 204
    )
    now = {e["id"]: e for e in library(client)["impulses"]}
    assert [now[e["id"]]["note"]["licence"] for e in (first, second)] == ["ours", "ours"]
    assert now[second["id"]]["note"]["tags"] == ["deck"]
    assert [now[e["id"]] for e in rest] == rest


def test_several_are_changed_all_or_none(client: FlaskClient) -> None:
    before = library(client)["impulses"]
    first, second = before[:2]
    refused(noted(client, (first, {"room": "hold"}), (second, {"distance": 5000})), "5000 cm is over the most allowed")
    refused(noted(client, (first, {"room": "hold"}), ({**second, "id": 9999}, {})), "no such impulse response", 404)
    others = [e for e in before if not e["note"]["listed"]]
    refused(noted(client, *((e, {"listed": True}) for e in others[:3])), "Short list: at most 8")
    assert library(client)["impulses"] == before
    listed = next(e for e in before if e["note"]["listed"])
    swapped = [(e, {"listed": True}) for e in others[:3]] + [(listed, {"listed": False})]
    assert noted(client, *swapped).status_code == 204
    assert library(client)["listed"] == 8


# ---------------------------------------------------------------- the other school, and without knowing


def filtered(client: FlaskClient, name: str = "Fog by filter", **changes: Any) -> dict[str, Any]:
    made = client.post("/api/blends", json={"name": name, "school": "filter"}).json
    found: dict[str, Any] = put(client, made, {**made["doc"], "filter": {**made["doc"]["filter"], **changes}}).json
    return found


def test_a_filter_is_a_blend_like_any_other(client: FlaskClient) -> None:
    """It is drawn, told, heard, goes out with a recipe that reads back, and is taken for a part."""
    found = filtered(client, presence_gain=9.0, bare=-20.0)
    assert found["filter"]["words"].endswith("the bare signal at −20 dB")
    assert {len(found["filter"][each]) for each in ("stages", "bare")} == {len(found["frequency"])}
    assert (found["lost"], found["notches"], found["parts"]) == (None, [], [])
    base = f"/api/blends/{found['id']}"
    heard = client.get(f"{base}/sound", query_string={"source": "clean", "start": 0, "stop": 2})
    assert heard.status_code == 200, heard.text
    data = client.get(f"{base}/impulse.wav", query_string={"rate": "48000"}).data
    sound, rate = soundfile.read(io.BytesIO(data))
    assert (rate, sound[0]) == (48_000, pytest.approx(float(sound[0])))
    size = 1 << 16
    level = 20 * np.log10(np.abs(np.fft.rfft(sound, size)))
    at = np.round(np.array(found["frequency"]) * size / 48_000).astype(int)[50::50]
    assert level[at] == pytest.approx(np.array(found["response"])[50::50], abs=0.2)
    recipe = client.get(f"{base}/recipe.json").json
    again = client.post("/api/blends/recipe", json=recipe).json
    assert (again["doc"]["school"], again["doc"]["filter"]) == ("filter", found["doc"]["filter"])
    line = client.post(f"{base}/commit", json={"why": "dark", "trusted": True})
    assert "a filter: high-pass 80 Hz" in line.json["text"]
    assert library(client)["listed"] == 6


def test_a_filter_is_brought_near_to_what_it_is_held_against(client: FlaskClient) -> None:
    found = filtered(client)
    listed = library(client)["impulses"][0]
    doc = {**found["doc"], "reference": {"against": "impulse", "id": listed["id"]}}
    fitted = client.post(f"/api/blends/{found['id']}/fit", json={"doc": doc}).json
    assert listed["note"]["name"] in fitted["against"]
    assert fitted["distance"] < 1.5
    assert blend(client, "Fog by filter")["doc"] == found["doc"]
    refused(
        client.post(f"/api/blends/{found['id']}/fit", json={"doc": {**doc, "filter": {"bass": 10}}}),
        "Bass resonance: 10 Hz is under the least allowed, 60 Hz",
    )


def test_impulse_responses_stay_for_when_the_filter_is_left(client: FlaskClient) -> None:
    found = blend(client)
    by_filter = put(client, found, {**found["doc"], "school": "filter"}).json
    assert by_filter["doc"]["parts"] == found["doc"]["parts"]
    assert by_filter["response"] != found["response"]
    back = put(client, by_filter, found["doc"]).json
    assert back["response"] == found["response"]


def test_two_blends_are_heard_without_knowing(client: FlaskClient) -> None:
    """What is drawn stays with the server; what is changed after a run began is not heard in it."""
    one, other = blend(client), filtered(client)
    wanted = {"kind": "prefer", "other": other["id"], "source": "driven", "trials": 4}
    run = client.post(f"/api/blends/{one['id']}/runs", json={"run": wanted}).json
    assert (run["a"], run["b"], run["said"], run["over"]) == (f"“{WIDE}”", "“Fog by filter”", "", False)
    place = {"start": 0, "stop": 1}
    base = f"/api/runs/{run['id']}"
    sounds = {w: client.get(f"{base}/sound/{w}", query_string=place).data for w in ("a", "b", "first", "second")}
    assert {sounds["first"], sounds["second"]} == {sounds["a"], sounds["b"]}
    assert sounds["a"] != sounds["b"]
    put(client, other, {**other["doc"], "filter": {**other["doc"]["filter"], "low_pass": 2_000}})
    assert client.get(f"{base}/sound/b", query_string=place).data == sounds["b"]
    for trial in range(4):
        first = client.get(f"{base}/sound/first", query_string=place).data == sounds["a"]
        run = client.post(f"{base}/answer", json={"trial": trial, "said": 0 if first else 1}).json
    assert run["said"].startswith(f"“{WIDE}” preferred 4 of 4 times.")
    for each in (one, other):
        assert [r["said"] for r in client.get(f"/api/blends/{each['id']}/runs").json["runs"]] == [run["said"]]
    third = client.post("/api/blends", json={"name": "Third"}).json
    assert client.get(f"/api/blends/{third['id']}/runs").json["runs"] == []
    client.delete(f"/api/blends/{other['id']}")
    assert client.get(f"{base}/sound/b", query_string=place).data == sounds["b"]
    client.post("/api/impulses/delete", json={"ids": [one["doc"]["parts"][1]["impulse"]]})
    refused(client.get(f"{base}/sound/a", query_string=place), "no longer in the library", 409)


@pytest.mark.parametrize(
    ("change", "said", "status"),
    [
        ({"other": 999}, "no such blend", 404),
        ({"other": "own"}, "two different ones are wanted", 422),
        ({"other": "empty"}, "“Nothing in it”: Nothing is heard of this blend", 422),
        ({"source": "take-999"}, "Heard on: there is no such take", 422),
        ({"trials": 3}, "Trials: 3 is under the least allowed, 4", 422),
    ],
)
def test_a_run_that_cannot_be_is_refused(client: FlaskClient, change: dict[str, Any], said: str, status: int) -> None:
    one = blend(client)
    empty = client.post("/api/blends", json={"name": "Nothing in it"}).json
    own = {"own": one["id"], "empty": empty["id"]}
    change = {k: own.get(v, v) if isinstance(v, str) else v for k, v in change.items()}
    wanted = {"kind": "prefer", "other": None, "source": "clean", "trials": 4, **change}
    refused(client.post(f"/api/blends/{one['id']}/runs", json={"run": wanted}), said, status)
    assert client.get(f"/api/blends/{one['id']}/runs").json["runs"] == []


# ---------------------------------------------------------------- stereo takes


def test_both_sides_of_a_stereo_take_go_through(client: FlaskClient) -> None:
    """Each channel through the blend by itself; the take of one channel, through the same, is what each comes to."""
    rng = np.random.default_rng(4)
    left, right = (0.05 * rng.standard_normal(2 * RATE) for _ in range(2))
    near = blend(client, "Drone, near and dark")

    def made(samples: np.ndarray, name: str) -> np.ndarray:
        take = brought(client, encoded(samples, RATE), name=name)["take"]
        answer = client.get(f"/api/blends/{near['id']}/takes/{take['id']}/file.wav", query_string={"anyway": "true"})
        assert answer.status_code == 200, answer.text
        return np.asarray(soundfile.read(io.BytesIO(answer.data), always_2d=True)[0])

    both = made(np.column_stack([left, right]), "both")
    one, other = made(left, "left"), made(right, "right")
    assert (both.shape[1], one.shape[1]) == (2, 1)
    for place, alone in enumerate((one, other)):
        # Held under full scale each for itself, so as loud up to a factor.
        factor = (both[:, place] @ alone[:, 0]) / (alone[:, 0] @ alone[:, 0])
        assert np.abs(both[:, place] - factor * alone[:, 0]).max() < 1e-5
    assert made(np.column_stack([left, np.zeros(len(left))]), "half").shape[1] == 1


def test_a_copy_is_a_blend_of_its_own(client: FlaskClient) -> None:
    one = blend(client)
    made = client.post(f"/api/blends/{one['id']}/copy", json={"name": "Fog, narrower"}).json
    assert (made["doc"], made["response"], made["name"]) == (one["doc"], one["response"], "Fog, narrower")
    put(client, made, {**made["doc"], "school": "filter"})
    assert blend(client) == one
    refused(client.post(f"/api/blends/{one['id']}/copy", json={"name": " "}), "Name: 1 to 120 characters")
    refused(client.post("/api/blends/999/copy", json={"name": "Nothing"}), "no such blend", 404)
