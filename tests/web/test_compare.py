"""Compare through the API: takes and files held against a reference, heard, judged blind, and taken with a reason."""

from __future__ import annotations

import io
import struct
import zipfile
from typing import Any

import numpy as np
import pytest
import soundfile
from flask.testing import FlaskClient

from low_tide.core.audio.rendering import cab_filter, coloured
from low_tide.core.comparing.aligning import RATE, delayed
from low_tide.store.home import Home
from tests.core.pieces import piece, taken
from tests.web.test_capture import brought, encoded, lines, uploaded
from tests.web.test_finding import refused

NAME = "Fog theme, held side by side"


@pytest.fixture(scope="module")
def played() -> np.ndarray:
    return np.asarray(np.tanh(4 * piece(8, 1)))


def begun(client: FlaskClient, *tracks: int, name: str = NAME) -> dict[str, Any]:
    doc = {"tracks": [{"take": t} for t in tracks], "sections": []}
    answer = client.post("/api/comparisons", json={"name": name, "doc": doc})
    assert answer.status_code == 201, answer.text
    found: dict[str, Any] = answer.json
    return found


def worked(client: FlaskClient, comparison: int) -> dict[str, Any]:
    found = lines(client.post(f"/api/comparisons/{comparison}/work", json={}))
    parts = [line["doing"]["part"] for line in found[:-1]]
    assert parts == sorted(parts)
    last: dict[str, Any] = found[-1]["comparison"]
    assert last is not None, found[-1]
    return last


def joined(client: FlaskClient, comparison: int, data: bytes, name: str = "elsewhere_2.wav") -> dict[str, Any]:
    body = {"upload": uploaded(client, data), "file_name": name}
    last: dict[str, Any] = lines(client.post(f"/api/comparisons/{comparison}/files", json=body))[-1]
    return last


def words(track: dict[str, Any]) -> str:
    return " ".join(said["text"] for said in track["said"])


def take_of(client: FlaskClient, samples: np.ndarray, name: str, rate: int = RATE) -> int:
    number: int = brought(client, encoded(samples, rate), name=name)["take"]["id"]
    return number


def test_two_takes_from_beginning_to_the_log(client: FlaskClient, played: np.ndarray) -> None:
    first = take_of(client, taken(played, 1), "Straight")
    second = take_of(client, taken(0.5 * delayed(coloured(played, cab_filter), 480, len(played)), 2), "Through a cab")
    made = begun(client, first, second)
    assert made["wanting"]
    assert [t["state"] for t in made["tracks"]] == ["to do", "to do"]
    found = worked(client, made["id"])
    assert not found["wanting"]
    straight, cab = found["tracks"]
    assert (straight["called"], cab["called"]) == ("Straight", "Through a cab")
    assert cab["held"]["relation"] == "same"
    assert cab["held"]["filter"]["share"] > 0.99
    assert words(cab).startswith("Through a cab is ")
    assert "late by 10" in cab["lies"]
    # What is heard is matched, and everything stays under full scale.
    part = {"start": 2.0, "stop": 9.0}
    heard = []
    for track in found["tracks"]:
        answer = client.get(f"/api/comparisons/{made['id']}/sound/{track['audio']}", query_string=part)
        samples, rate = soundfile.read(io.BytesIO(answer.data))
        assert rate == RATE
        assert np.abs(samples).max() <= 10 ** (-0.99 / 20)
        heard.append(samples)
    assert len(heard[0]) == len(heard[1]) == 7 * RATE
    # Once worked out it is there, and nothing is done a second time.
    assert len(lines(client.post(f"/api/comparisons/{made['id']}/work", json={}))) == 1
    body = {"audio": cab["audio"], "why": "Tighter under the bells."}
    line = client.post(f"/api/comparisons/{made['id']}/pick", json=body)
    assert line.json["text"] == f"{NAME}: picked Through a cab. Tighter under the bells. (Over Straight.)"
    refused(client.post(f"/api/comparisons/{made['id']}/pick", json={**body, "why": " "}), "Why")
    trace = client.get(
        f"/api/comparisons/{made['id']}/waveform/{cab['audio']}", query_string={"start": 0, "stop": 12, "columns": 300}
    ).json
    assert len(trace["low"][0]) == 300


def test_a_take_says_that_it_is_the_other_way_round(client: FlaskClient, played: np.ndarray) -> None:
    dry = take_of(client, taken(played, 1), "Dry")
    same, turned = take_of(client, taken(played, 3), "As it was"), take_of(client, -taken(played, 2), "Turned")
    says = {t: client.get(f"/api/takes/{t}/report").json["says"] for t in (dry, same, turned)}
    assert not any(s["finding"]["id"] == "take-turned" for each in says.values() for s in each)
    worked(client, begun(client, dry, same, turned)["id"])
    told = {
        t: [
            s["finding"]["text"]
            for s in client.get(f"/api/takes/{t}/report").json["says"]
            if s["finding"]["id"] == "take-turned"
        ]
        for t in (dry, same, turned)
    }
    number = {t: client.get(f"/api/takes/{t}").json["number"] for t in told}
    assert told[turned] == [f"The other way round than “{number[dry]}. Dry”."]
    assert told[dry] == [f"The other way round than “{number[turned]}. Turned”."]
    assert told[same] == []


def through_both(client: FlaskClient, source: str, drive: float) -> list[dict[str, Any]]:
    """The same dry track through the resistor and the reactive load, by the stand-in."""
    recording = {"note": {"name": source}, "source": source, "drive": drive, "seconds": 8.0, "rate": 48000}
    answers = (
        client.post(f"/api/hookups/{hookup}/record", json={"recording": recording})
        for hookup in ("dry-gabion", "dry-groyne")
    )
    return [lines(answer)[-1]["take"] for answer in answers]


def test_it_finds_what_load_feel_predicts(client: FlaskClient) -> None:
    """By the stand-in, and again as files from elsewhere at another rate: within 0.5 dB."""
    query = {"reference": "gabion-40|8", "amp": "redshank-100"}
    feel = client.get("/api/hookups/dry-groyne/feel", query_string=query).json
    wanted = next(f for f in feel["feels"]["feels"] if f["unit"] == "groyne-r8")
    takes = through_both(client, "pink", -3.0)
    by_stand_in = worked(client, begun(client, *(t["id"] for t in takes))["id"])["tracks"][1]
    assert by_stand_in["simulated"]
    files = begun(client, name="From elsewhere")
    for take in takes:
        joined(client, files["id"], _changed(client.get(f"/api/takes/{take['id']}/audio").data))
    from_elsewhere = worked(client, files["id"])["tracks"][1]
    for held in (by_stand_in["held"], from_elsewhere["held"]):
        # Taps and gains come to the same in both, so what differs as it came is the load alone.
        spectrum, by = held["spectrum"], held["level"]["lu"]
        told = [
            (hz, db + by)
            for hz, db, yes in zip(spectrum["frequency"], spectrum["db"], spectrum["told"], strict=True)
            if yes and 60 <= hz <= 8000
        ]
        # How many of the lowest bands can be told varies with the hum that the stand-in draws anew for each folder.
        assert sum(hz <= 220 for hz, _ in told) >= 6
        for hz, db in told:
            expected = np.interp(np.log(hz), np.log(feel["feels"]["frequency"]), wanted["difference"])
            assert db == pytest.approx(expected, abs=0.5), hz
        assert max(db for hz, db in told if hz <= 220) == pytest.approx(wanted["bass"], abs=0.5)
        assert spectrum["presence"] + by == pytest.approx(wanted["presence"], abs=0.5)
        assert spectrum["programme"] + by == pytest.approx(wanted["level"], abs=0.5)
        assert from_elsewhere["as_it_came"].startswith("As it came, weighed as in Load feel: +1.")


def _changed(data: bytes) -> bytes:
    """The same sound as another file: at another rate."""
    import soxr

    samples, rate = soundfile.read(io.BytesIO(data))
    return encoded(np.asarray(soxr.resample(samples, rate, 96_000)), 96_000)


def test_files_join_and_go_with_their_comparison(client: FlaskClient, lightship: Home, played: np.ndarray) -> None:
    made = begun(client)
    assert not made["wanting"]
    first = joined(client, made["id"], encoded(taken(played, 1)), "C:\\mixes\\straight take 1.wav")["comparison"]
    assert [t["called"] for t in first["tracks"]] == ["straight"]
    assert "very file" in joined(client, made["id"], encoded(taken(played, 1)))["problem"]
    second = joined(client, made["id"], encoded(taken(0.5 * played, 2)), "softer.wav")["comparison"]
    audio = [t["audio"] for t in second["tracks"]]
    assert all((lightship.audio / each).is_file() for each in audio)
    assert worked(client, made["id"])["tracks"][1]["held"]["level"]["lu"] == pytest.approx(-6.02, abs=0.1)
    keep = {"name": NAME, "doc": {"tracks": [{"audio": audio[0], "name": "straight"}], "sections": []}}
    assert client.put(f"/api/comparisons/{made['id']}", json=keep).status_code == 200
    # What was taken off can be brought back, until the comparison itself goes.
    assert all((lightship.audio / each).is_file() for each in audio)
    both = {"name": NAME, "doc": {"tracks": [{"audio": a, "name": "x"} for a in audio], "sections": []}}
    back = client.put(f"/api/comparisons/{made['id']}", json=both).json
    assert [t["heard"] for t in back["tracks"]] == [True, True]
    assert not back["wanting"]
    assert client.delete(f"/api/comparisons/{made['id']}").status_code == 204
    assert not any((lightship.audio / each).is_file() for each in audio)
    assert client.get(f"/api/comparisons/{made['id']}").status_code == 404


def test_what_cannot_be_compared_is_told_in_words(client: FlaskClient, played: np.ndarray) -> None:
    sounds = {
        "Straight": (taken(played, 1), RATE),
        "Eight": (taken(played, 1)[::6], 8_000),
        "Other piece": (taken(np.tanh(4 * piece(8, 50)), 2), RATE),
        "Silence": (np.zeros(4 * RATE), RATE),
        "Short": (taken(played, 1)[: RATE // 2], RATE),
        "Hot": (np.clip(30 * taken(played, 5), -1, 1), RATE),
        "Half": (np.stack((np.zeros(len(taken(played, 1))), taken(played, 3)), axis=1), RATE),
        "Again": (taken(np.tanh(4 * piece(8, 1, 7, 0.02)), 4), RATE),
    }
    takes = [take_of(client, samples, name, rate) for name, (samples, rate) in sounds.items()]
    found = worked(client, begun(client, *takes)["id"])
    said = {t["called"]: words(t) for t in found["tracks"]}
    assert "up to 3.6 kHz" in said["Eight"]
    assert "is not compared" in said["Other piece"]
    assert "holds nothing to hear" in said["Silence"]
    assert "at least 1 s" in said["Short"]
    assert "is as loud as the reference" in said["Half"]
    assert "One of its channels is empty" in said["Half"]
    assert "It is clipped " in said["Hot"]
    assert "played again" in said["Again"]
    assert [t["heard"] for t in found["tracks"]] == [True, True, False, False, False, True, True, True]


def test_the_same_recording_twice(client: FlaskClient, played: np.ndarray) -> None:
    whole = taken(played, 1)
    takes = [take_of(client, whole, "One"), take_of(client, 0.5 * whole, "Other")]
    found = worked(client, begun(client, *takes)["id"])
    assert "very same recording" in words(found["tracks"][1])
    copies = [take_of(client, whole, "One"), take_of(client, whole, "The same file")]
    found = worked(client, begun(client, *copies)["id"])
    assert words(found["tracks"][0]) == ""
    assert "The same file is the very same recording: nothing is left" in words(found["tracks"][1])
    twice = {"name": NAME, "doc": {"tracks": [{"take": takes[0]}, {"take": takes[0]}], "sections": []}}
    refused(client.post("/api/comparisons", json=twice), "named twice")


def test_a_take_that_is_deleted_is_told_and_the_rest_stays(client: FlaskClient, played: np.ndarray) -> None:
    takes = [take_of(client, taken(g * played, n), f"Take {n}") for n, g in ((1, 1.0), (2, 0.7), (3, 0.5))]
    made = begun(client, *takes)
    worked(client, made["id"])
    assert client.delete(f"/api/takes/{takes[1]}").status_code == 204
    found = client.get(f"/api/comparisons/{made['id']}").json
    assert [t["state"] for t in found["tracks"]] == ["held", "gone", "held"]
    assert "its recording is gone" in words(found["tracks"][1])
    # Sections can still be kept, and the missing one taken off.
    tracks = [{"take": t} for t in takes]
    section = {"start": 2.0, "stop": 5.0}
    body = {"name": NAME, "doc": {"tracks": tracks, "sections": [section]}, "saves": found["saves"]}
    kept = client.put(f"/api/comparisons/{made['id']}", json=body).json
    assert kept["sections"] == [section]
    body = {"name": NAME, "doc": {"tracks": [tracks[0], tracks[2]], "sections": [section]}}
    assert client.put(f"/api/comparisons/{made['id']}", json={**body, "saves": 1}).status_code == 409
    assert len(client.put(f"/api/comparisons/{made['id']}", json=body).json["tracks"]) == 2
    assert client.delete(f"/api/takes/{takes[0]}").status_code == 204
    problem = lines(client.post(f"/api/comparisons/{made['id']}/work", json={}))[-1]["problem"]
    assert "its recording is gone" in problem or "wanted" in problem


def test_the_other_reference_is_another_answer(client: FlaskClient, played: np.ndarray) -> None:
    takes = [take_of(client, taken(g * played, n), f"Take {n}") for n, g in ((1, 1.0), (2, 0.5))]
    made = begun(client, *takes)
    assert worked(client, made["id"])["tracks"][1]["held"]["level"]["lu"] == pytest.approx(-6.0, abs=0.1)
    body = {"name": "Turned round", "doc": {"tracks": [{"take": t} for t in takes[::-1]], "sections": []}}
    assert client.put(f"/api/comparisons/{made['id']}", json=body).json["wanting"]
    assert worked(client, made["id"])["tracks"][1]["held"]["level"]["lu"] == pytest.approx(6.0, abs=0.1)


@pytest.mark.parametrize(
    ("name", "doc", "told"),
    [
        ("", {"tracks": []}, "Name"),
        ("x" * 121, {"tracks": []}, "Name"),
        ("x", {"tracks": [{"take": 4711}]}, "Recording 1"),
        ("x", {"tracks": [{"audio": "0" * 64 + ".wav"}]}, "Recording 1"),
        ("x", {"tracks": [{"take": n} for n in range(1, 12)]}, "Recordings"),
        ("x", {"tracks": [], "sections": [{"start": 1, "stop": 1.5}]}, "Section 1"),
        ("x", {"tracks": [], "sections": [{"start": 0, "stop": 99}]}, "Section 1"),
        ("x", {"tracks": [], "sections": [{"start": -2, "stop": 3}]}, "Section 1"),
    ],
)
def test_what_no_comparison_can_be(client: FlaskClient, name: str, doc: dict[str, Any], told: str) -> None:
    answer = client.post("/api/comparisons", json={"name": name, "doc": {"sections": [], **doc}})
    refused(answer, told)
    assert len(client.get("/api/comparisons").json["comparisons"]) == 1


# ---------------------------------------------------------------- heard in turn, and without knowing


def test_a_comparison_file_has_cues_and_its_blind_one_a_key(client: FlaskClient, played: np.ndarray) -> None:
    takes = [take_of(client, taken(g * played, n), f"Take {n}") for n, g in ((1, 1.0), (2, 0.5))]
    made = begun(client, *takes)
    refused(client.get(f"/api/comparisons/{made['id']}/file.zip"), "compare first")
    worked(client, made["id"])
    sections = [{"start": 2.0, "stop": 4.0}, {"start": 5.0, "stop": 7.5}]
    body = {"name": NAME, "doc": {"tracks": [{"take": t} for t in takes], "sections": sections}}
    client.put(f"/api/comparisons/{made['id']}", json=body)
    for blind in (False, True):
        answer = client.get(f"/api/comparisons/{made['id']}/file.zip", query_string={"blind": blind})
        with zipfile.ZipFile(io.BytesIO(answer.data)) as packed:
            wav, text = (packed.read(n) for n in sorted(packed.namelist(), reverse=True))
        samples, rate = soundfile.read(io.BytesIO(wav))
        assert soundfile.info(io.BytesIO(wav)).subtype == "PCM_24"
        assert len(samples) / rate == pytest.approx(2 * (2.0 + 2.5) - 2 * 0.01 + 2 * 0.5, abs=0.05)
        cues = wav[wav.index(b"cue ") :]
        assert struct.unpack("<I", cues[8:12]) == (4,)
        assert wav.count(b"labl") == 4
        said = text.decode()
        assert ("Take 2" in said) == (not blind)
        if blind:
            token = said.split("the word ")[1].split(".")[0]
            key = client.get(f"/api/comparisons/{made['id']}/key/{token}.txt").text
            assert key == client.get(f"/api/comparisons/{made['id']}/key/{token}.txt").text
            assert key.count("Take 1") == key.count("Take 2") == 2
            other = {"name": NAME, "doc": {"tracks": [{"take": t} for t in takes], "sections": sections[:1]}}
            client.put(f"/api/comparisons/{made['id']}", json=other)
            refused(client.get(f"/api/comparisons/{made['id']}/key/{token}.txt"), "were changed since", 409)
            client.put(f"/api/comparisons/{made['id']}", json=body)
            assert client.get(f"/api/comparisons/{made['id']}/key/{token}.txt").text == key
    assert client.get(f"/api/comparisons/{made['id']}/key/nothing.txt").status_code == 404


def test_blind_runs_tell_nothing_before_they_are_over(client: FlaskClient, played: np.ndarray) -> None:
    takes = [take_of(client, taken(g * played, n), f"Take {n}") for n, g in ((1, 1.0), (2, 0.5))]
    made = begun(client, *takes)
    tracks = worked(client, made["id"])["tracks"]
    wanted = {"kind": "tell apart", "a": 0, "b": 1, "trials": 4}
    part = {"start": 2.0, "stop": 4.0}
    run = client.post(f"/api/comparisons/{made['id']}/runs", json={"run": wanted}).json
    base = f"/api/runs/{run['id']}"
    sounds = [client.get(f"/api/comparisons/{made['id']}/sound/{t['audio']}", query_string=part).data for t in tracks]
    for trial in range(4):
        assert not run["over"]
        assert run["said"] == ""
        x = client.get(f"{base}/sound/x", query_string=part).data
        assert client.get(f"{base}/sound/a", query_string=part).data == sounds[0]
        run = client.post(f"{base}/answer", json={"trial": trial, "said": sounds.index(x)}).json
    assert run["over"]
    assert run["said"] == "Take 1 or Take 2: 4 of 4 right. By guessing so many or more happen 6 times in 100."
    refused(client.post(f"{base}/answer", json={"trial": 4, "said": 0}), "answered already")
    liked = client.post(f"/api/comparisons/{made['id']}/runs", json={"run": {**wanted, "kind": "prefer"}}).json
    base = f"/api/runs/{liked['id']}"
    for trial in range(4):
        first = client.get(f"{base}/sound/first", query_string=part).data
        said = 0 if first == sounds[1] else 1
        liked = client.post(f"{base}/answer", json={"trial": trial, "said": said}).json
    assert liked["said"].startswith("Take 2 preferred 4 of 4 times.")
    early = client.post(f"/api/comparisons/{made['id']}/runs", json={"run": wanted}).json
    client.post(f"/api/runs/{early['id']}/answer", json={"trial": 0, "said": 0})
    stopped = client.post(f"/api/runs/{early['id']}/stop").json
    assert "Stopped after 1 of 4" in stopped["said"]
    assert [r["over"] for r in client.get(f"/api/comparisons/{made['id']}/runs").json["runs"]] == [True] * 3
    for bad, told in (
        ({**wanted, "b": 0}, "two different"),
        ({**wanted, "trials": 3}, "Trials"),
        ({**wanted, "b": 7}, "two"),
    ):
        refused(client.post(f"/api/comparisons/{made['id']}/runs", json={"run": bad}), told)


def test_the_matching_filter_undoes_the_difference(client: FlaskClient, played: np.ndarray) -> None:
    from low_tide.core.comparing.comparison import Held, held_against
    from low_tide.core.comparing.recording import recorded

    whole = taken(played, 1, -90)
    bright = coloured(whole, lambda f: (1 + 1j * f / 2000) / (1 + 1j * f / 5000))
    takes = [take_of(client, whole, "Straight"), take_of(client, bright * 0.5, "Bright")]
    made = begun(client, *takes)
    track = worked(client, made["id"])["tracks"][1]
    base = f"/api/comparisons/{made['id']}/matching/{track['audio']}"
    found = client.get(base).json
    assert "Bright sound like Straight" in found["words"]
    taps, _ = soundfile.read(io.BytesIO(client.get(f"{base}/filter.wav").data))
    *_, held = held_against(recorded(whole, RATE), recorded(np.convolve(bright, taps)[: len(whole)], RATE))
    assert isinstance(held, Held)
    assert held.spectrum is not None
    left = [d for d, told in zip(held.spectrum.db, held.spectrum.told, strict=True) if told]
    assert max(map(abs, left)) < 0.6
    assert client.get(f"{base}/bands.csv").text.startswith("\ufeffkind,")
    reference = found["correction"]
    assert reference["bands"]
    other = client.get(f"/api/comparisons/{made['id']}/matching/{'0' * 64}.wav")
    assert other.status_code == 404


# ---------------------------------------------------------------- shoot-outs


def shot_out(client: FlaskClient, **wanted: Any) -> Any:
    body = {"name": "Four loads", "hookups": ["dry-groyne", "dry-gabion"], "seconds": 4.0, **wanted}
    return client.post("/api/shoot-outs", json={"shoot_out": body})


def test_a_list_is_recorded_by_the_stand_in(client: FlaskClient) -> None:
    made = shot_out(client, set_on="dry-gabion", second_pass=True).json
    assert made["has_list"]
    assert "Dry track into Gabion 40" in made["bias"]
    base = f"/api/comparisons/{made['id']}"
    found = client.get(f"{base}/list").json
    assert [(i["number"], i["again"], i["take"]) for i in found["items"]] == [
        (1, False, None), (2, True, None), (3, False, None), (4, True, None)
    ]  # fmt: skip
    assert found["missing"] == 4
    assert found["items"][0]["file_name"] == "01-dry-track-into-groyne-r8.wav"
    recorded = lines(client.post(f"{base}/list/record", json={}))
    parts = [line["doing"]["part"] for line in recorded if line["doing"]]
    assert parts == sorted(parts)
    tracks = recorded[-1]["comparison"]["tracks"]
    assert len(tracks) == 4
    assert all(t["simulated"] for t in tracks)
    # What the amp was set on is the reference.
    assert tracks[0]["called"].startswith("Dry track into Gabion 40") or "Gabion" in tracks[0]["about"]
    assert client.get(f"{base}/list").json["missing"] == 0
    assert len(lines(client.post(f"{base}/list/record", json={}))) == 1
    worked_out = worked(client, made["id"])
    assert [t["held"]["relation"] for t in worked_out["tracks"]][1:] == ["same"] * 3
    # An edit of what is compared leaves the list alone.
    doc = {"tracks": [{"take": t["take"]} for t in tracks[:2]], "sections": []}
    assert client.put(base, json={"name": "Two of them", "doc": doc}).json["has_list"]


def test_files_of_a_list_come_back_in_any_order(client: FlaskClient, played: np.ndarray) -> None:
    made = shot_out(client).json
    base = f"/api/comparisons/{made['id']}"
    names = [i["file_name"] for i in client.get(f"{base}/list").json["items"]]
    for name, samples in ((f"mix_{names[1][:-4]}_v2.wav", 0.5 * played), ("1 bounce.wav", played)):
        body = {"upload": uploaded(client, encoded(taken(samples, 3))), "file_name": name}
        last = lines(client.post(f"{base}/list/files", json=body))[-1]
        assert last["comparison"] is not None, last
    items = client.get(f"{base}/list").json["items"]
    assert all(i["take"] for i in items)
    hookups = [client.get(f"/api/takes/{i['take']}").json["hookup_id"] for i in items]
    assert hookups == ["dry-groyne", "dry-gabion"]
    assert worked(client, made["id"])["tracks"][1]["held"]["level"]["lu"] == pytest.approx(-6.0, abs=0.2)
    body = {"upload": uploaded(client, encoded(taken(played, 4))), "file_name": "nothing like it.wav"}
    assert "Say which one" in lines(client.post(f"{base}/list/files", json=body))[-1]["problem"]
    body = {"upload": uploaded(client, encoded(taken(played, 5))), "file_name": "x.wav", "number": 2}
    assert lines(client.post(f"{base}/list/files", json=body))[-1]["comparison"]
    assert client.get(f"{base}/list").json["items"][1]["take"] != items[1]["take"]


def test_a_file_without_a_name_is_told_by_its_sound(client: FlaskClient) -> None:
    """What each hook-up is expected to sound like tells a reactive load from a resistor, but not one from its twin."""
    made = shot_out(client, drive=0.0).json
    base = f"/api/comparisons/{made['id']}"
    recording = {"note": {"name": "x"}, "source": "built-in", "drive": 0.0, "seconds": 4.0, "rate": 48000}
    for hookup in ("dry-gabion", "dry-groyne"):
        take = lines(client.post(f"/api/hookups/{hookup}/record", json={"recording": recording}))[-1]["take"]
        data = client.get(f"/api/takes/{take['id']}/audio").data
        body = {"upload": uploaded(client, data), "file_name": f"bounce-{'x' if hookup == 'dry-gabion' else 'y'}.wav"}
        last = lines(client.post(f"{base}/list/files", json=body))[-1]
        assert last["comparison"] is not None, last
        item = next(i for i in client.get(f"{base}/list").json["items"] if i["hookup"] == hookup)
        assert item["take"] is not None


def test_lists_that_cannot_be_are_refused(client: FlaskClient) -> None:
    refused(shot_out(client, hookups=["dry-groyne"]), "Hook-ups")
    refused(shot_out(client, hookups=["dry-groyne", "dry-groyne"]), "named twice")
    refused(shot_out(client, hookups=["dry-groyne", "empty-through"]), "fewer than two of them")
    refused(shot_out(client, hookups=["dry-groyne", "nobody"]), "", 404)
    refused(shot_out(client, seconds=1), "Length")
    refused(shot_out(client, direct="nothing.wav"), "", 404)
    eight = ["dry-groyne", "dry-gabion", "dry-revetment", "dry-cabinet", "dry-track"]
    refused(shot_out(client, hookups=eight, second_pass=True), "at most 8")
    found = shot_out(client, hookups=["dry-groyne", "empty-through", "dry-gabion"]).json
    told = client.get(f"/api/comparisons/{found['id']}/list").json["left_out"]
    assert told == ["Cue 4, what the night shift left: Redshank 100 has no load."]
    assert client.get("/api/comparisons/1/list").status_code == 200
    plain = begun(client)
    assert client.get(f"/api/comparisons/{plain['id']}/list").status_code == 404


def test_a_hookup_that_became_a_stop_is_not_begun_with(client: FlaskClient) -> None:
    made = shot_out(client).json
    link = next(k for k in client.get("/api/hookups/dry-groyne").json["links"] if k["lead"] == "speaker-a")
    saves = client.get("/api/hookups/dry-groyne").json["saves"]
    pulled = [{"op": "disconnect", "lead": link["lead"]}]
    body = {"saves": saves, "changes": pulled}
    assert client.post("/api/hookups/dry-groyne/changes", json=body).status_code == 200
    first, second = client.get(f"/api/comparisons/{made['id']}/list").json["items"]
    assert "no load" in first["stop"]
    assert first["moves"] == []
    assert second["stop"] == ""
    problem = lines(client.post(f"/api/comparisons/{made['id']}/list/record", json={}))[-1]["problem"]
    assert "must not be switched on" in problem


def test_every_position_of_a_control_as_a_hookup(client: FlaskClient) -> None:
    variants = client.get("/api/hookups/dry-revetment/variants").json["variants"]
    curve = next(v for v in variants if v["control"] == "curve")
    assert curve["positions"] == ["closed 4×12", "open back", "bright", "soft"]
    body = {"unit": curve["unit"], "control": curve["control"]}
    made = client.post("/api/hookups/dry-revetment/variants", json=body).json["hookups"]
    names = [h["name"] for h in client.get("/api/hookups").json["entries"] if h["id"] in made]
    assert len(made) == 4
    assert "Dry track into Revetment 16, bright" in names
    assert shot_out(client, hookups=made).status_code == 201
    assert client.post("/api/hookups/dry-revetment/variants", json={**body, "control": "x"}).status_code == 404


def test_the_reference_recorded_twice_says_what_no_hookup_is_to_blame_for(client: FlaskClient) -> None:
    recording = {"note": {"name": "Loud"}, "source": "built-in", "drive": 12.0, "seconds": 6.0, "rate": 48000}
    first, again, other = (
        lines(client.post(f"/api/hookups/{h}/record", json={"recording": recording}))[-1]["take"]["id"]
        for h in ("dry-groyne", "dry-groyne", "dry-gabion")
    )
    found = worked(client, begun(client, first, again, other)["id"])["tracks"]
    assert "recording the reference twice" not in words(found[1])
    assert "over what recording the reference twice leaves: how the amp reacted" in words(found[2])
    left = [track["held"]["filter"]["left"] for track in found[1:]]
    assert left[0] < left[1] - 6
