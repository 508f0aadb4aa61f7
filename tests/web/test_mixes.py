"""In the mix through the API: what a guitar is heard against, where in the song, and what comes through."""

from __future__ import annotations

import io
from typing import Any

import numpy as np
import pytest
import soundfile
from flask.testing import FlaskClient

from low_tide.formats.recording import write_wav
from low_tide.store.home import Home
from tests.web.test_cab import blend, filtered, library
from tests.web.test_capture import encoded, lines, uploaded
from tests.web.test_finding import refused

MIX = "Fog Signal, cue 3"
BUILT_IN = ["backing-bass", "backing-drums", "backing-harmonium", "backing-bell-buoy"]
RATE = 48_000


def mix(client: FlaskClient, name: str = MIX) -> dict[str, Any]:
    number = next(m["id"] for m in client.get("/api/mixes").json["mixes"] if m["name"] == name)
    found: dict[str, Any] = client.get(f"/api/mixes/{number}").json
    return found


def put(client: FlaskClient, state: dict[str, Any], saves: int | None = None, **changes: Any) -> Any:
    doc = {**state["doc"], **changes}
    return client.put(f"/api/mixes/{state['id']}", json={"name": state["name"], "doc": doc, "saves": saves})


def new(client: FlaskClient, tracks: list[str], guitar: str = "driven") -> dict[str, Any]:
    answer = client.post("/api/mixes", json={"name": "Mine", "tracks": tracks, "guitar": guitar})
    assert answer.status_code == 201, answer.text
    found: dict[str, Any] = answer.json
    return found


def heard(client: FlaskClient, state: dict[str, Any], of: dict[str, Any]) -> Any:
    return client.get(f"/api/mixes/{state['id']}/blends/{of['id']}")


def sound(client: FlaskClient, state: dict[str, Any], of: dict[str, Any], what: str = "both") -> np.ndarray:
    answer = client.get(f"/api/mixes/{state['id']}/blends/{of['id']}/sound", query_string={"what": what})
    assert answer.status_code == 200, answer.text
    found, rate = soundfile.read(io.BytesIO(answer.data))
    assert rate == RATE
    return np.asarray(found)


def stem(client: FlaskClient, state: dict[str, Any], samples: np.ndarray, name: str = "buoy.wav") -> dict[str, Any]:
    upload = uploaded(client, encoded(samples, RATE))
    told = lines(client.post(f"/api/mixes/{state['id']}/files", json={"upload": upload, "file_name": name}))
    found: dict[str, Any] = told[-1]["mix"]
    return found


def noise(seconds: float, gain: float = 0.1) -> np.ndarray:
    return gain * np.random.default_rng(5).standard_normal(round(seconds * RATE))


def test_the_demo_has_a_solo_that_is_not_heard(client: FlaskClient) -> None:
    found = mix(client)
    assert [t["name"] for t in found["tracks"]] == [
        f"built-in {n}" for n in ("bass", "drums", "harmonium", "bell buoy")
    ]
    said = heard(client, found, blend(client, "Solo, under the deck")).json
    assert said["heard"] < 8
    assert "none over 2 kHz: brighter" in said["words"][0]
    assert [b["heard"] for b in said["bands"] if b["hz"] > 2000] == [False] * 7


def test_a_brighter_filter_brings_it_out(client: FlaskClient) -> None:
    """What is advised is what helps: with its top given back it is heard above 2 kHz."""
    found = mix(client)
    bright = filtered(client, "Brighter", presence_gain=9.0, low_pass=7_000.0)
    after = heard(client, found, bright).json
    assert any(b["heard"] for b in after["bands"] if b["hz"] > 2000)


def test_the_short_list_is_ranked_as_each_is_heard(client: FlaskClient) -> None:
    found = mix(client)
    told = lines(client.post(f"/api/mixes/{found['id']}/rank"))
    ranking = told[-1]["ranking"]
    counts = [s["heard"] for s in ranking["speakers"]]
    assert counts == sorted(counts, reverse=True)
    listed = {e["id"] for e in library(client)["impulses"] if e["note"]["listed"]}
    assert {s["id"] for s in ranking["speakers"] if s["kind"] == "impulse"} == listed
    blends = {b["name"] for b in client.get("/api/blends").json["blends"]}
    assert {s["name"] for s in ranking["speakers"] if s["kind"] == "blend"} == blends
    for each in ranking["speakers"]:
        of = {"id": each["id"]}
        if each["kind"] == "impulse":
            of = client.post("/api/blends", json={"name": "Alone", "impulses": [each["id"]]}).json
        alone = heard(client, found, of).json
        assert (alone["heard"], alone["words"][0]) == (each["heard"], each["words"])
    assert [line["part"] for line in told[:-1]] == sorted(line["part"] for line in told[:-1])


def test_what_cannot_be_ranked_is_told_and_the_rest_is(client: FlaskClient) -> None:
    client.post("/api/blends", json={"name": "Nothing in it"})
    ranking = lines(client.post(f"/api/mixes/{mix(client)['id']}/rank"))[-1]["ranking"]
    assert [why for why in ranking["left_out"] if "Nothing in it" in why]
    assert len(ranking["speakers"]) == 9


def test_guitar_and_backing_are_what_both_are(client: FlaskClient) -> None:
    found, of = mix(client), blend(client)
    both, guitar, other = (sound(client, found, of, what) for what in ("both", "guitar", "backing"))
    assert len(both) == 7 * RATE
    assert np.abs(both - guitar - other).max() < 1e-5
    louder = put(client, found, level=0.0).json
    assert np.square(sound(client, louder, of, "guitar")).sum() > np.square(guitar).sum()


def test_a_stem_sounds_where_it_begins_in_the_song(client: FlaskClient, home: Home) -> None:
    """A file of one second that begins at 10 s is heard from 10 to 11 s, at its level."""
    found = stem(client, new(client, []), noise(1.0), "buoy, far.wav")
    (track,) = found["tracks"]
    assert (track["name"], track["about"], track["at"]) == ("buoy, far", "a file", 0.0)
    moved = {**found["doc"]["tracks"][0], "at": 10.0}
    placed = put(client, found, tracks=[moved], start=9.0, stop=12.0, at=9.0).json
    assert placed["tracks"][0]["at"] == 10.0
    there = sound(client, placed, blend(client), "backing")
    power = np.square(there).reshape(3, RATE).sum(axis=1)
    assert power[1] > 1e5 * max(power[0], power[2])
    quieter = put(client, placed, tracks=[{**moved, "gain": -40.0}, *map(track_of, BUILT_IN)]).json
    assert quieter["tracks"][0]["track"]["gain"] == -40.0
    muted = put(client, quieter, tracks=[{**moved, "mute": True}]).json
    refused(heard(client, muted, blend(client)), "Backing: nothing of it sounds in this section")
    files = len(list(home.audio.iterdir()))
    client.delete(f"/api/mixes/{found['id']}")
    assert len(list(home.audio.iterdir())) == files - 1
    assert client.get(f"/api/mixes/{found['id']}").status_code == 404


def track_of(source: str) -> dict[str, Any]:
    return {"source": source}


def test_a_take_begins_where_it_says(client: FlaskClient) -> None:
    """A take whose place in the song is known stands there until it is moved."""
    take = client.get("/api/takes?audio=true").json["takes"][0]
    note = {**take["note"], "song_start": 20.0}
    assert client.put(f"/api/takes/{take['id']}", json=note).status_code == 200
    found = new(client, [f"take-{take['id']}"], f"take-{take['id']}")
    assert (found["tracks"][0]["at"], found["at"], found["doc"]["start"]) == (20.0, 20.0, 20.0)
    moved = put(client, found, tracks=[{**found["doc"]["tracks"][0], "at": 3.5}], at=1.0).json
    assert (moved["tracks"][0]["at"], moved["at"]) == (3.5, 1.0)


def test_a_take_that_is_gone_is_told_and_left_out(client: FlaskClient) -> None:
    take = client.get("/api/takes?audio=true").json["takes"][0]
    found = new(client, [f"take-{take['id']}", "backing-bass"])
    client.delete(f"/api/takes/{take['id']}")
    now = mix(client, "Mine")
    assert [t["gone"] for t in now["tracks"]] == ["gone: it is left out", ""]
    assert heard(client, now, blend(client)).status_code == 200
    assert put(client, now, level=-3.0).status_code == 200
    there = put(client, now, guitar=f"take-{take['id']}")
    refused(there, "Guitar: there is no such take, or it has no recording")
    assert found["doc"]["guitar"] == mix(client, "Mine")["doc"]["guitar"]


def test_it_is_found_by_its_name(client: FlaskClient) -> None:
    hits = client.get("/api/find", query_string={"search": "cue 3 signal"}).json["found"]
    assert [(h["type"], h["name"], h["detail"]) for h in hits] == [("mix", MIX, "4 tracks")]
    solo = client.get("/api/find", query_string={"search": "under the deck"}).json["found"]
    assert [(h["type"], h["detail"]) for h in solo] == [("blend", "an adjustable filter")]


def test_a_track_that_is_bare_is_told(client: FlaskClient) -> None:
    """Through a speaker it would cover less of the top."""
    sources = [s for s in client.get("/api/blends/sources").json["sources"] if s["id"].startswith("take-")]
    for each in sources:
        (track,) = new(client, [each["id"]])["tracks"]
        assert track["about"] == ("a take, no speaker in it" if each["speakers"] == "none" else "a take")
    assert {s["speakers"] for s in sources} > {"none"}


def test_a_guitar_with_a_speaker_in_it_is_told(client: FlaskClient) -> None:
    sources = client.get("/api/blends/sources").json["sources"]
    doubled = next(s for s in sources if s["speakers"] in ("one", "two"))
    assert new(client, BUILT_IN, doubled["id"])["warning"] == doubled["warning"]


def test_edits_in_two_windows_do_not_overwrite_each_other(client: FlaskClient) -> None:
    found = mix(client)
    now = put(client, found, found["saves"], level=-3.0).json
    refused(put(client, found, found["saves"], level=-12.0), "changed in another window", 409)
    assert mix(client)["doc"]["level"] == now["doc"]["level"] == -3.0


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"start": 5.0, "stop": 5.5}, "Section: 1 to 30 s are wanted, this is 0.5 s"),
        ({"start": 0.0, "stop": 31.0}, "Section: 1 to 30 s are wanted, this is 31 s"),
        ({"start": 9.0, "stop": 2.0}, "Section: 1 to 30 s are wanted, this is -7 s"),
        ({"level": -31.0}, "Guitar over the backing: −31 LU is under the least allowed, −30 LU"),
        ({"guitar": "take-9999"}, "Guitar: there is no such take"),
        ({"guitar": "take-²"}, "Guitar: there is no such take"),
        ({"tracks": [{"source": "take-99999999999999999999"}]}, "Track 1: there is no such take or file in this mix"),
        ({"tracks": [{"source": "file-../../low-tide.db"}]}, "Track 1: there is no such take or file in this mix"),
        ({"tracks": [{"source": "backing-bass", "gain": 13}]}, "Gain: 13 dB is over the most allowed, 12 dB"),
        ({"tracks": [{"source": "backing-bass", "at": -1}]}, "Begins at: −1 s is under the least allowed, 0 s"),
        ({"tracks": [{"source": "backing-bass"}] * 25}, "Tracks"),
    ],
)
def test_what_a_mix_cannot_be_is_refused(client: FlaskClient, changes: dict[str, Any], said: str) -> None:
    found = mix(client)
    refused(put(client, found, **changes), said)
    assert mix(client) == found


def test_a_section_without_guitar_or_backing_is_said(client: FlaskClient) -> None:
    found, of = mix(client), blend(client)
    late = put(client, found, at=100.0).json
    refused(heard(client, late, of), "Guitar: too little is played in this section")
    refused(client.get(f"/api/mixes/{late['id']}/blends/{of['id']}/sound"), "Guitar: too little is played")
    beyond = put(client, found, start=50.0, stop=57.0).json
    refused(heard(client, beyond, of), "Backing: nothing of it sounds in this section")
    told = lines(client.post(f"/api/mixes/{beyond['id']}/rank"))
    assert "nothing of it sounds" in told[-1]["problem"]
    refused(heard(client, found, {"id": 999}), "no such blend", 404)
    empty = client.post("/api/blends", json={"name": "Nothing in it"}).json
    refused(heard(client, found, empty), "Nothing is heard of this blend")


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (b"not a sound at all, only words", "not a WAV, FLAC or AIFF file"),
        (encoded(np.zeros(0), RATE), "no sound in this file"),
    ],
)
def test_what_is_no_stem_leaves_nothing(client: FlaskClient, home: Home, data: bytes, said: str) -> None:
    found = mix(client)
    before = sorted(p.name for p in home.audio.iterdir())
    told = lines(client.post(f"/api/mixes/{found['id']}/files", json={"upload": uploaded(client, data)}))
    assert said in told[-1]["problem"]
    assert mix(client) == found
    assert sorted(p.name for p in home.audio.iterdir()) == before


def test_the_same_stem_twice_is_refused(client: FlaskClient) -> None:
    found = stem(client, new(client, []), noise(1.0))
    upload = uploaded(client, encoded(noise(1.0), RATE))
    told = lines(client.post(f"/api/mixes/{found['id']}/files", json={"upload": upload}))
    assert "in the mix already" in told[-1]["problem"]


def test_a_stem_that_was_taken_out_can_be_brought_back(client: FlaskClient) -> None:
    found = stem(client, new(client, []), noise(1.0))
    without = put(client, found, tracks=[]).json
    assert without["tracks"] == []
    back = put(client, without, tracks=found["doc"]["tracks"]).json
    assert [t["gone"] for t in back["tracks"]] == [""]
    other = new(client, ["backing-bass"])
    refused(put(client, other, tracks=found["doc"]["tracks"]), "Track 1: there is no such take or file in this mix")


def test_stereo_stems_at_other_rates_are_heard(client: FlaskClient) -> None:
    """Two channels at 96 kHz, one of them empty: it is as loud as the one that holds something."""
    t = np.arange(3 * 96_000) / 96_000
    tone = 0.25 * np.sin(2 * np.pi * 1_000 * t)
    data = write_wav(np.column_stack([tone, np.zeros(len(t))]), 96_000)
    state = new(client, [])
    told = lines(client.post(f"/api/mixes/{state['id']}/files", json={"upload": uploaded(client, data)}))
    placed = put(client, told[-1]["mix"], start=0.5, stop=2.5).json
    there = sound(client, placed, blend(client), "backing")
    spectrum = np.abs(np.fft.rfft(there * np.hanning(len(there))))
    assert np.argmax(spectrum) * RATE / len(there) == pytest.approx(1_000, abs=1)
