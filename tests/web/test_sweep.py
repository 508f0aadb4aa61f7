"""Sweeps through the API: the test file out, recordings of it in, and paths through the stand-in."""

from __future__ import annotations

import io

import numpy as np
import pytest
import soundfile
from flask.testing import FlaskClient

from tests.web.test_capture import encoded
from tests.web.test_finding import refused


def file_at(client: FlaskClient, rate: int) -> np.ndarray:
    answer = client.get("/api/sweeps/test.wav", query_string={"rate": rate})
    samples, found = soundfile.read(io.BytesIO(answer.data))
    assert found == rate
    return np.asarray(samples)


@pytest.mark.parametrize("rate", [44_100, 48_000, 96_000])
def test_the_file_comes_back(client: FlaskClient, rate: int) -> None:
    sent = file_at(client, rate)
    back = -0.5 * np.concatenate((np.zeros(441), sent))
    stereo = np.stack((back, np.zeros(len(back))), axis=1)
    found = client.post("/api/sweeps", data=encoded(stereo, rate)).json
    assert found["result"]["delay_samples"] == pytest.approx(441, abs=0.1)
    assert found["result"]["gain_db"] == pytest.approx(-6.02, abs=0.02)
    assert found["result"]["inverted"]
    impulse, at = soundfile.read(io.BytesIO(client.get(f"/api/sweeps/{found['impulse']}?after=20").data))
    assert at == rate
    assert len(impulse) == round(0.025 * rate)
    assert np.argmax(np.abs(impulse)) == np.argmin(impulse) == round(0.005 * rate)


def test_a_file_that_was_played_at_another_rate(client: FlaskClient) -> None:
    import soxr

    back = np.asarray(soxr.resample(file_at(client, 48_000), 48_000, 44_100))
    found = client.post("/api/sweeps?played=48000", data=encoded(back, 44_100)).json["result"]
    assert found["rate"] == 48_000
    assert found["gain_db"] == pytest.approx(0, abs=0.02)


def test_what_is_no_recording_of_it_is_refused(client: FlaskClient) -> None:
    sent = file_at(client, 48_000)
    refused(client.post("/api/sweeps", data=b"a letter"), "not a WAV, FLAC or AIFF file")
    refused(client.post("/api/sweeps", data=encoded(sent[: 4 * 48_000])), "cut off")
    refused(client.post("/api/sweeps", data=encoded(sent * 0)), "nothing in it")
    refused(client.post("/api/sweeps", data=encoded(sent, 32_000)), "Sample rate: 32 kHz")
    refused(client.get("/api/sweeps/impulse-nothing.wav"), "gone from the server", 404)
    refused(client.get("/api/sweeps/take-000000000000000000000000.wav"), "gone from the server", 404)


def test_a_path_through_the_stand_in(client: FlaskClient) -> None:
    """A resistive load is flat in the middle, a reactive one lifts the highs, and a stop is not played through."""
    flat = client.post("/api/hookups/dry-gabion/sweep").json["result"]
    bent = client.post("/api/hookups/dry-groyne/sweep").json["result"]

    def level(found: dict, hz: float) -> float:  # type: ignore[type-arg]
        return float(np.interp(np.log(hz), np.log(found["response"]["frequency"]), found["response"]["db"]))

    assert abs(level(flat, 4000) - level(flat, 400)) < 0.5
    assert level(bent, 4000) - level(bent, 400) == pytest.approx(3.7, abs=0.7)
    assert flat["drift_ppm"] == pytest.approx(0, abs=0.5)
    assert 40 <= flat["delay_samples"] <= 90
    refused(client.post("/api/hookups/empty-through/sweep"), "must not be switched on")
    refused(client.post("/api/hookups/nobody/sweep"), "", 404)
