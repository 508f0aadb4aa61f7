"""The data folder: migrations, backup and restore, and a save cut short."""

from __future__ import annotations

import json
import sqlite3
import urllib.request
import zipfile
from pathlib import Path

import pytest

from low_tide.app import bench, locker, log, readings
from low_tide.core.changes import SetControl
from low_tide.demo.fill import fill
from low_tide.demo.gear import GEAR
from low_tide.store.files import Home, StoreError, backup, open_home, restore
from low_tide.store.models import database
from tests.conftest import Server


def test_opening_twice_changes_nothing(lightship: Home) -> None:
    before = len(locker.listed())
    database.close()
    open_home(lightship.folder)
    assert len(locker.listed()) == before
    assert not lightship.backups.exists()


def test_a_folder_from_a_newer_program_is_refused(home: Home) -> None:
    with sqlite3.connect(home.database) as connection:
        connection.execute("insert into migratehistory (name, migrated_at) values ('999_later', '2030-01-01')")
    with pytest.raises(StoreError, match="newer version"):
        open_home(home.folder)


def test_a_folder_of_the_first_release_is_brought_up_to_date(lightship: Home) -> None:
    with sqlite3.connect(lightship.database) as connection:
        connection.execute("drop table reading")
        connection.execute("drop table note")
        connection.execute("delete from migratehistory where name = '002_readings'")
    open_home(lightship.folder)
    with database.connection_context():
        assert readings.listed() == ()
        readings.listen("mussel-64", 80, 5)
        assert log.write_line("after the move").text == "after the move"
        assert log.takes().total == 5
    assert [p.name for p in lightship.backups.iterdir()] == ["before-002_readings.zip"]


def test_a_damaged_database_is_said(tmp_path: Path) -> None:
    (tmp_path / "low-tide.db").write_bytes(b"this is no database " * 100)
    with pytest.raises(StoreError, match="restore a backup"):
        open_home(tmp_path)


def test_backup_and_restore(lightship: Home, tmp_path: Path) -> None:
    target = tmp_path / "kept.zip"
    assert backup(lightship, target) == target.stat().st_size
    audio = sorted(p.name for p in lightship.audio.iterdir())
    locker.add({"kind": "lead", "name": "Later lead"})
    database.close()
    kept = restore(lightship, target)
    open_home(lightship.folder)
    assert not locker.listed("Later lead")
    assert sorted(p.name for p in lightship.audio.iterdir()) == audio
    assert log.takes().total == 5
    assert kept is not None
    database.close()
    restore(lightship, kept)
    open_home(lightship.folder)
    assert locker.listed("Later lead")


@pytest.mark.parametrize("content", ["words", "zip", "damaged"])
def test_what_is_no_backup_changes_nothing(lightship: Home, tmp_path: Path, content: str) -> None:
    bad = tmp_path / "bad.zip"
    if content == "words":
        bad.write_text("not a zip")
    else:
        with zipfile.ZipFile(bad, "w") as archive:
            archive.writestr("manifest" if content == "damaged" else "other", "low-tide-backup-1")
            archive.writestr("low-tide.db", b"broken")
    database.close()
    with pytest.raises(StoreError):
        restore(lightship, bad)
    assert len(locker.listed()) == len(GEAR)


def test_undo_survives_a_restart(home: Home) -> None:
    fill(home)
    bench.change("split-fog", [SetControl("godwit-45", "tap", "4")], 1)
    database.close()
    open_home(home.folder)
    state = bench.state("split-fog")
    assert state.undo == "Godwit 45: tap 4 Ω"
    undone = bench.step("split-fog", -1, state.saves)
    assert (undone.undo, undone.redo) == (None, "Godwit 45: tap 4 Ω")


def test_a_killed_server_leaves_whole_states(tmp_path: Path) -> None:
    folder = tmp_path / "served"
    home = open_home(folder)
    fill(home)
    database.close()
    server = Server(folder)
    url = f"{server.url}api/hookups/split-fog"
    for n in range(12):
        body = {"saves": n + 1, "changes": [{"op": "set", "unit": "gabion-40", "control": "line.pot", "value": -n}]}
        if n == 11:  # killed while the answer is still on its way
            request = urllib.request.Request(f"{url}/changes", json.dumps(body).encode(), method="POST")
            request.add_header("content-type", "application/json")
            with pytest.raises(OSError):  # noqa: PT012 -- the kill is what makes the call fail
                server.process.kill()
                urllib.request.urlopen(request, timeout=5)
            break
        request = urllib.request.Request(f"{url}/changes", json.dumps(body).encode(), method="POST")
        request.add_header("content-type", "application/json")
        urllib.request.urlopen(request, timeout=10).read()
    server.process.wait()
    server.start()
    state = json.load(urllib.request.urlopen(f"{server.url}api/hookups/split-fog", timeout=10))
    pot = next(c["value"] for u in state["units"] for c in u["controls"] if c["control"]["id"] == "line.pot")
    assert (state["saves"], pot) == (12, -10)
    server.kill()
    with sqlite3.connect(home.database) as check:
        assert check.execute("pragma integrity_check").fetchone() == ("ok",)
