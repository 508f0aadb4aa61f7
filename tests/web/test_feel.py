"""Load feel through the API: curves, pads, corrections, renders and the tracks that go into them."""

from __future__ import annotations

import io
import json
from typing import Any

import numpy as np
import pytest
import soundfile
from flask.testing import FlaskClient

from low_tide.core.audio.correction import without_mean
from low_tide.core.audio.loudness import loudness
from low_tide.core.frequency import frequency_grid
from low_tide.core.power.load_feel import contenders, feel_set
from low_tide.demo.gear import GEAR
from low_tide.store.home import Home
from tests.web.test_finding import refused

PAIR = {"source": "resistor", "like": "turnstone-212"}


def feel(client: FlaskClient, name: str = "silent-night", **query: Any) -> dict[str, Any]:
    answer = client.get(f"/api/hookups/{name}/feel", query_string=query)
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json
    return found


def wav(samples: np.ndarray, rate: int = 48_000, kind: str = "WAV", subtype: str = "PCM_16") -> bytes:
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format=kind, subtype=subtype)
    return out.getvalue()


def render(client: FlaskClient, **body: Any) -> list[dict[str, Any]]:
    answer = client.post("/api/hookups/silent-night/feel/render", json={"choices": ["resistor"], **body})
    assert answer.status_code == 200, answer.text
    return [json.loads(line) for line in answer.text.splitlines()]


def test_curves_of_everything_on_the_hookups_own_amp(client: FlaskClient) -> None:
    found = feel(client)
    assert found["amp"] == "godwit-45"
    assert found["here"] == ["groyne-r8|8|"]
    assert found["damping_typical"]
    feels = {f["id"]: f for f in found["feels"]["feels"]}
    assert len(found["feels"]["frequency"]) == len(feels["resistor"]["difference"]) == 121
    core = feel_set(contenders(GEAR), (4.0, 8.0, 16.0), 0.6)
    wanted = next(f for f in core.feels if f.id == "turnstone-212")
    assert feels["turnstone-212"]["difference"] == pytest.approx(wanted.difference[::4])
    assert feels["turnstone-212"]["words"].startswith("Against the 8 Ω resistor: ")


def test_another_amp_another_damping_another_reference(client: FlaskClient) -> None:
    own = feel(client, amp="redshank-100")
    assert (own["feels"]["damping_factor"], own["damping_typical"]) == (1.4, False)
    typed = feel(client, damping=0.15)["feels"]
    assert typed["damping_factor"] == 0.15
    lift = {f["id"]: f["bass"] for f in typed["feels"]}
    assert lift["turnstone-212"] > 8
    turned = feel(client, reference="turnstone-212")["feels"]["feels"]
    assert max(abs(x) for f in turned if f["id"] == "turnstone-212" for x in f["difference"]) < 1e-9
    path = "/api/hookups/silent-night/feel"
    refused(client.get(path, query_string={"reference": "x"}), "Reference: there is no load “x”", 404)
    refused(client.get(path, query_string={"amp": "x"}), "There is no amp “x”", 404)
    refused(client.get(path, query_string={"damping": 0}), "Damping factor: 0 is under the least allowed, 0.02.")
    refused(client.get("/api/hookups/nowhere/feel"), "There is no hook-up", 404)


def test_the_switch_of_a_load_says_which_of_its_modes_is_here(client: FlaskClient) -> None:
    assert feel(client, "whole-ship")["here"][0] == "revetment-16|8|closed 4×12"


def test_a_pad_over_a_cabinet(client: FlaskClient) -> None:
    query = {"pad": "riprap-50", "cabinet": "turnstone-212"}
    found = client.get("/api/hookups/silent-night/feel/pad", query_string=query).json
    assert [s["down_db"] for s in found["steps"]] == [0, 3, 6, 10, 16, 20, 30]
    assert "Straight on, Turnstone 2×12 has" in found["words"]
    path = "/api/hookups/silent-night/feel/pad"
    refused(client.get(path, query_string={**query, "pad": "gabion-40"}), "There is no attenuator", 404)
    refused(client.get(path, query_string={"pad": "riprap-50"}), "missing")


def test_a_correction_as_settings_csv_and_wav(client: FlaskClient) -> None:
    path = "/api/hookups/silent-night/feel/correction"
    found = client.get(path, query_string=PAIR).json
    assert (found["source"], found["like"]) == ("8 Ω resistor", "Turnstone 2×12")
    bands = found["correction"]["bands"]
    assert 1 <= len(bands) <= 6
    lines = client.get(f"{path}.csv", query_string=PAIR).text.removeprefix("\ufeff").splitlines()
    assert lines[0] == 'kind,"frequency, Hz","gain, dB",Q'
    assert len(lines) == len(bands) + 3
    assert lines[-1] == '"at a rate of, Hz",48000,,'
    assert lines[1].split(",")[0] == bands[0]["kind"]
    core = {f.id: np.array(f.difference) for f in feel_set(contenders(GEAR), (4.0, 8.0, 16.0), 0.6).feels}
    target = without_mean(core["turnstone-212"] - core["resistor"])
    grid = frequency_grid()
    told = (grid >= 60) & (grid <= 10_000)
    for rate in (44_100, 48_000, 96_000):
        answer = client.get(f"{path}.wav", query_string={**PAIR, "rate": rate})
        assert answer.mimetype == "audio/wav"
        impulse, read = soundfile.read(io.BytesIO(answer.data))
        assert read == rate
        gain = 20 * np.log10(np.abs(np.fft.rfft(impulse, 1 << 18)))
        at = np.interp(grid[told], np.fft.rfftfreq(1 << 18, 1 / rate), gain)
        assert np.abs(at - target[told]).max() < 0.2
    refused(client.get(f"{path}.wav", query_string={**PAIR, "rate": 22_050}), "22050")
    refused(client.get(path, query_string={**PAIR, "like": "resistor"}), "choose another")
    refused(client.get(path, query_string={**PAIR, "like": "x"}), "Like: there is no load", 404)


def test_renders_are_matched_in_level(client: FlaskClient, lightship: Home) -> None:
    choices = ["resistor", "turnstone-212", "revetment-16|8|bright"]
    lines = render(client, choices=choices, drive_db=12)
    assert [line["progress"]["done"] for line in lines[:-1]] == [0, 1, 2, 3]
    tracks = lines[-1]["rendered"]["tracks"]
    assert [t["choice"] for t in tracks] == choices
    levels = []
    for track in tracks:
        data = client.get(f"/api/renders/{track['file']}")
        samples, rate = soundfile.read(io.BytesIO(data.data), dtype="float32", always_2d=True)
        assert rate == 48_000
        assert len(samples) / rate == pytest.approx(lines[-1]["rendered"]["seconds"])
        assert np.abs(samples).max() < 0.99
        levels.append(loudness(samples, rate))
    assert max(levels) - min(levels) < 0.1
    # The same again is the same file: nothing is left to chance.
    assert render(client, choices=choices, drive_db=12)[-1]["rendered"]["tracks"] == tracks
    assert len(list(lightship.renders.glob("*.wav"))) == 3
    refused(client.get("/api/renders/..%2Flow-tide.db"), "", 404)
    refused(client.get("/api/renders/take-none.wav"), "render it again", 404)


def test_what_cannot_be_rendered_says_so_before_it_begins(client: FlaskClient) -> None:
    path = "/api/hookups/silent-night/feel/render"
    refused(client.post(path, json={"choices": []}), "Choices: at least 1 needed")
    refused(client.post(path, json={"choices": ["x"]}), "Choice: there is no load “x”", 404)
    refused(client.post(path, json={"choices": ["resistor"], "source": "gone.wav"}), "render it again", 404)
    refused(client.post(path, json={"choices": ["resistor"], "drive_db": 90}), "Drive: 90 dB is over")


def bring(client: FlaskClient, data: bytes, name: str = "track.wav") -> Any:
    return client.post(f"/api/feel/source?name={name}", data=data, content_type="application/octet-stream")


@pytest.mark.parametrize(("kind", "rate"), [("WAV", 44_100), ("FLAC", 96_000), ("AIFF", 48_000)])
def test_a_direct_track_is_taken_and_rendered(client: FlaskClient, kind: str, rate: int) -> None:
    t = np.arange(int(1.5 * rate)) / rate
    tone = 0.2 * np.sin(2 * np.pi * 220 * t)
    made = bring(client, wav(np.column_stack((tone, tone)), rate, kind), "../my take.wav")
    assert made.status_code == 201
    assert (made.json["name"], made.json["seconds"]) == ("my take.wav", pytest.approx(1.5, abs=0.01))
    last = render(client, source=made.json["id"])[-1]["rendered"]
    assert last["seconds"] == pytest.approx(1.5, abs=0.01)


SECOND = np.zeros(48_000)
NOISE = np.random.default_rng(1).uniform(-0.5, 0.5, 48_000)


@pytest.mark.parametrize(
    ("data", "said"),
    [
        (wav(np.array([0.5])), "Length: one sample is under the least that can be rendered, 1 s."),
        (wav(NOISE[:24_000]), "Length: 0.5 s is under the least that can be rendered, 1 s."),
        (wav(SECOND), "it is silent"),
        (wav(np.where(SECOND == 0, np.nan, 0), subtype="FLOAT"), "values that are not numbers"),
        (wav(np.tile(NOISE[:, None], (1, 8))), "Channels: 8 is over the most allowed, 2."),
        (wav(NOISE, 192_000), "Sample rate: 192000 Hz is outside 16000 to 96000 Hz."),
        (wav(np.tile(NOISE[:8000], 400), 16_000), "Length: 3 minutes is over the most allowed, 3 minutes."),
        (b"RIFFnothing at all", "not a WAV, FLAC or AIFF file"),
        (b"", "not a WAV, FLAC or AIFF file"),
    ],
    ids=["one sample", "half a second", "silence", "NaN", "8 channels", "192 kHz", "too long", "no sound", "empty"],
)
def test_direct_tracks_that_cannot_serve(client: FlaskClient, lightship: Home, data: bytes, said: str) -> None:
    refused(bring(client, data), said)
    assert list(lightship.renders.iterdir()) == []


def test_old_renders_make_room_for_new_ones(client: FlaskClient, lightship: Home, monkeypatch: Any) -> None:
    monkeypatch.setattr("low_tide.store.renders.MOST_FILES", 2)
    for drive in (0, 6, 12):
        render(client, drive_db=drive)
    assert len(list(lightship.renders.glob("*.wav"))) == 2


def picking(client: FlaskClient, choice: str, name: str = "whole-ship", **more: Any) -> dict[str, Any]:
    answer = client.put(f"/api/hookups/{name}/feel/pick", json={"choice": choice, **more})
    assert answer.status_code == 200, answer.text
    found: dict[str, Any] = answer.json
    return found


def test_a_pick_is_kept_for_amp_mode_and_guitar_and_shown_at_the_switch(client: FlaskClient) -> None:
    def at_the_switch() -> Any:
        state = client.get("/api/hookups/whole-ship").json
        load = next(u for u in state["units"] if u["id"] == "revetment-16")
        return next(c["picked"] for c in load["controls"] if c["control"]["id"] == "curve")

    assert (feel(client, "whole-ship")["picked"], at_the_switch()) == (None, None)
    bright = next(f["id"] for f in feel(client)["feels"]["feels"] if f["label"].startswith("Revetment 16, 8 Ω, bright"))
    made = picking(client, bright)
    assert made["playing"] == "Godwit 45, Bosun's guitar"
    assert made["picked"]["choice"] == bright
    assert at_the_switch() == "bright"
    # Another guitar, none at all, or another amp has a pick of its own.
    assert feel(client, "silent-night")["picked"] is None
    picking(client, "groyne-r8|8|", amp="redshank-100")
    assert feel(client, "whole-ship")["picked"]["choice"] == bright
    told = feel(client, "whole-ship", amp="redshank-100")
    assert told["picked"]["choice"] == "groyne-r8|8|"
    assert told["playing"] == "Redshank 100, half, Baritone guitar"
    state = client.get("/api/hookups/whole-ship").json
    mode = {"op": "set", "unit": "redshank-100", "control": "mode", "value": "low"}
    edit = {"changes": [mode], "saves": state["saves"]}
    assert client.post("/api/hookups/whole-ship/changes", json=edit).status_code == 200
    assert feel(client, "whole-ship", amp="redshank-100")["picked"] is None
    # The later pick stands in the place of the earlier, and is taken back.
    assert picking(client, "turnstone-212")["picked"]["label"] == "Turnstone 2×12"
    assert at_the_switch() is None
    assert picking(client, "")["picked"] is None
    refused(client.put("/api/hookups/whole-ship/feel/pick", json={"choice": "nobody"}), "Pick: there is no load", 404)
