"""The hand-over folder: equal starts, samples as they were, names, a text, and why something is not in it."""

from __future__ import annotations

import io
import zipfile
from typing import Any

import numpy as np
import pytest
import soundfile
from flask.testing import FlaskClient

from tests.web.test_finding import refused

STARTS = {1: 12.5, 3: 10.0}


@pytest.fixture
def placed(client: FlaskClient) -> FlaskClient:
    """Two takes whose place in the song is known."""
    for take, start in STARTS.items():
        note = client.get(f"/api/takes/{take}").json["note"]
        assert client.put(f"/api/takes/{take}", json={**note, "song_start": start}).status_code == 200
    return client


def folder(client: FlaskClient, **asked: Any) -> dict[str, bytes]:
    answer = client.get("/api/sessions/1/hand-over.zip", query_string=asked)
    assert answer.status_code == 200, answer.json
    with zipfile.ZipFile(io.BytesIO(answer.data)) as archive:
        assert archive.testzip() is None
        return {name: archive.read(name) for name in archive.namelist()}


def plan(client: FlaskClient, **asked: Any) -> dict:
    found: dict = client.get("/api/sessions/1/hand-over", query_string=asked).json
    return found


def test_all_begin_at_one_place_and_nothing_of_them_is_changed(placed: FlaskClient) -> None:
    found = plan(placed)
    assert found["begins"] == 10.0
    files = folder(placed)
    assert [f["name"] for f in found["files"]] == [n for n in files if n.endswith(".wav")]
    # All with a recording but the one that is rated “no”.
    assert [f["take"] for f in found["files"]] == [1, 2, 3, 6, 7, 8, 9, 10]
    for each in found["files"]:
        made, rate = soundfile.read(io.BytesIO(files[each["name"]]), dtype="int32", always_2d=True)
        was, its = soundfile.read(
            io.BytesIO(placed.get(f"/api/takes/{each['take']}/audio").data), dtype="int32", always_2d=True
        )
        silence = round(max(0.0, STARTS.get(each["take"], 10.0) - 10.0) * rate)
        assert rate == its
        assert not made[:silence].any()
        assert np.array_equal(made[silence:], was)
    text = files["read me.md"].decode()
    assert "Every file begins 10.000 s into the song" in text
    assert "2.500 s in" in text
    assert "its place in the song is not known" in text


def test_where_no_place_is_known_that_is_said(client: FlaskClient) -> None:
    text = folder(client, takes="1,2")["read me.md"].decode()
    assert "Of none of the files is it known where in the song it begins." in text
    assert "s into the song" not in text


def test_names_say_what_lies_before_a_take(placed: FlaskClient) -> None:
    kinds = {f["take"]: f["kind"] for f in plan(placed)["files"]}
    assert (kinds[1], kinds[6]) == ("bare", "speaker")
    assert plan(placed)["files"][0]["name"] == "01 Fog theme, low strings - main - bare.wav"


def test_the_blend_goes_through_what_wants_a_speaker_and_nothing_else(placed: FlaskClient) -> None:
    blend = placed.get("/api/blends").json["blends"][0]["id"]
    found = plan(placed, takes="1,6", blend=blend)
    assert [(f["take"], f["kind"]) for f in found["files"]] == [(1, "bare"), (1, "blended"), (6, "speaker")]
    assert len(found["left_out"]) == 1
    assert found["left_out"][0].startswith("6. Bell answer, in the cupboard, through the blend: ")
    files = folder(placed, takes="1,6", blend=blend)
    assert "blend.json" in files
    text = files["read me.md"].decode()
    assert "free to use" in text
    assert "Not here" in text
    blended = next(f["name"] for f in found["files"] if f["kind"] == "blended")
    made, rate = soundfile.read(io.BytesIO(files[blended]))
    assert rate == 48000
    assert np.abs(made).max() > 0.01


def test_what_cannot_go_out_is_told(placed: FlaskClient) -> None:
    refused(placed.get("/api/sessions/1/hand-over.zip", query_string={"takes": "5"}), "choose some")
    refused(placed.get("/api/sessions/1/hand-over", query_string={"takes": "1;2"}), "")
    refused(placed.get("/api/sessions/1/hand-over", query_string={"blend": 999}), "", 404)
    refused(placed.get("/api/sessions/9/hand-over"), "no such session", 404)
    note = placed.get("/api/takes/1").json["note"]
    placed.put("/api/takes/1", json={**note, "song_start": 9000})
    refused(placed.get("/api/sessions/1/hand-over"), "over an hour apart")
