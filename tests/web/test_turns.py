"""Long work gives way to short, and ends once nobody waits for it; a table comes back as CSV no spreadsheet runs."""

from __future__ import annotations

import csv
import io
import threading

import pytest
from flask.testing import FlaskClient

from low_tide.app import bench, turns
from low_tide.app.errors import Conflict
from low_tide.core.rig.changes import SetControl
from low_tide.store.database import database
from low_tide.store.home import Home


def test_work_stands_still_while_somebody_is_first() -> None:
    done = threading.Event()

    def work() -> None:
        turns.give_way()
        done.set()

    with turns.first():
        worker = threading.Thread(target=work)
        worker.start()
        assert not done.wait(0.1)
    assert done.wait(2)
    worker.join()


def test_work_is_not_held_up_for_ever(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(turns, "AT_MOST_S", 0.05)
    with turns.first():
        turns.give_way()


@pytest.mark.parametrize("work", [bench.one_slip, bench.fixes])
def test_what_an_edit_overtakes_ends(lightship: Home, work: object, monkeypatch: pytest.MonkeyPatch) -> None:
    calls = iter(range(1000))

    def edited_meanwhile() -> None:
        if next(calls) == 0:
            database.connect(reuse_if_open=True)
            saves = bench.state("split-fog").saves
            bench.change("split-fog", [SetControl("godwit-45", "tap", "4")], saves)

    monkeypatch.setattr(bench, "give_way", edited_meanwhile)
    with pytest.raises(Conflict, match="changed meanwhile"):
        work("split-fog")  # type: ignore[operator]
    assert next(calls) < 3


def test_fixes_follow_the_verdict(client: FlaskClient) -> None:
    state = client.get("/api/hookups/split-fog").json
    sought = [f["id"] for f in state["analysis"]["findings"] if f["sought"]]
    assert sought
    mended = client.post("/api/hookups/split-fog/fixes", json={"changes": []}).json
    assert mended["saves"] == state["saves"]
    assert [f["key"] for f in mended["findings"]] == [f["key"] for f in state["analysis"]["findings"]]
    assert {f["id"] for f in mended["findings"] if f["fix"]} <= set(sought)
    held = [{"op": "set", "unit": "godwit-45", "control": "tap", "value": "4"}]
    tried = client.post("/api/hookups/split-fog/fixes", json={"changes": held}).json
    assert "mismatch" not in {f["id"] for f in tried["findings"] if f["severity"] == "stop"}


def test_a_chart_s_table_as_csv(client: FlaskClient) -> None:
    table = {"head": ["Stage", "dB"], "rows": [["=1+1", -3.5], ["a, “b”", None]]}
    text = client.post("/api/tools/csv", json=table).json["text"]
    assert list(csv.reader(io.StringIO(text))) == [["Stage", "dB"], ["'=1+1", "-3.5"], ["a, “b”", ""]]
    assert client.post("/api/tools/csv", json={"head": [], "rows": []}).status_code == 422
    assert client.post("/api/tools/csv", json={"head": ["a"], "rows": [[float("inf")]]}).status_code in (400, 422)
