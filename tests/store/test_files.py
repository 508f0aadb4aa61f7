"""The data folder: migrations, backup and restore, and a save cut short."""

from __future__ import annotations

import contextlib
import json
import os
import re
import shutil
import sqlite3
import urllib.request
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from low_tide.app import bench, locker, log, recordings
from low_tide.app.log import TakeFilter
from low_tide.core.rig.changes import SetControl
from low_tide.demo.fill import TAKES, TAKES_IN_ALL
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import SHOOT_OUT
from low_tide.stand_ins.impulses import MADE
from low_tide.store import backups, restoring
from low_tide.store.backups import backup, writing
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import POINTER, Home, StoreError, clear_leftovers
from low_tide.store.restoring import restore
from tests.conftest import Server
from tests.serving import command

RECORDED = sum(recipe is not None for _, _, _, recipe, _ in TAKES) + len(SHOOT_OUT)
"""Takes of the lightship that have a recording."""


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
    kept = restore(lightship.folder, target)
    again = open_home(lightship.folder)
    assert not locker.listed("Later lead")
    assert sorted(p.name for p in again.audio.iterdir()) == audio
    assert log.takes().total == TAKES_IN_ALL
    assert kept is not None
    database.close()
    restore(lightship.folder, kept)
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
        restore(lightship.folder, bad)
    assert len(locker.listed()) == len(GEAR)


@pytest.fixture(scope="session")
def boat(filled: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The lightship with two takes left, one of them with a recording: what is tried step by step is tried often."""
    folder = Path(shutil.copytree(filled, tmp_path_factory.mktemp("boat") / "home"))
    home = open_home(folder)
    with database.connection_context():
        with_sound = min(log.takes(TakeFilter(audio=True)).takes, key=lambda take: take.measures.seconds)
        without = next(take for take in log.takes().takes if not take.audio)
        for take in log.takes().takes:
            if take.id not in (with_sound.id, without.id):
                log.delete_take(home, take.id)
    database.close()
    return folder


BOAT_TAKES = 2


@pytest.fixture
def small(boat: Path, tmp_path: Path) -> Iterator[Home]:
    """A copy of it."""
    yield open_home(Path(shutil.copytree(boat, tmp_path / "small")))
    database.close()


@pytest.fixture(scope="session")
def packed(boat: Path) -> Path:
    """A backup of it, made once."""
    target = boat.with_name("kept.zip")
    backup(open_home(boat), target)
    database.close()
    return target


@pytest.fixture
def kept(packed: Path, tmp_path: Path) -> Path:
    """A copy of it."""
    return Path(shutil.copy(packed, tmp_path / "kept.zip"))


def spoilt(home: Home, target: Path, *sql: str, extra: dict[str, bytes] | None = None) -> Path:
    """A backup of a home with something done to the database in it, or put beside it."""
    backup(home, target)
    folder = target.with_suffix("")
    with zipfile.ZipFile(target) as archive:
        archive.extractall(folder)
    if sql:
        with contextlib.closing(sqlite3.connect(folder / "low-tide.db")) as inside:
            inside.executescript(";".join(sql))
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as archive:
        for file in sorted(p for p in folder.rglob("*") if p.is_file()):
            archive.write(file, file.relative_to(folder).as_posix())
        for name, data in (extra or {}).items():
            archive.writestr(name, data)
    return target


def everything(home: Home) -> dict[str, bytes]:
    files = (f for f in sorted(home.folder.rglob("*")) if f.is_file() and f.name != "lock" and "-shm" not in f.name)
    return {str(f.relative_to(home.folder)): f.read_bytes() for f in files}


@pytest.mark.parametrize(
    ("sql", "extra", "says"),
    [
        (["create trigger t after insert on gear begin delete from take; end"], {}, "a trigger “t”"),
        (["create view v as select 1"], {}, "a view “v”"),
        (["create table other (a)"], {}, "a table “other”"),
        (["drop table revision", "drop table hookup"], {}, "damaged"),
        (["insert into migratehistory (name, migrated_at) values ('999_later', '2030-01-01')"], {}, "newer version"),
        (["pragma foreign_keys=off", "update take set session_id = 4711"], {}, "belong to nothing"),
        ([], {"../outside.txt": b"x"}, "“../outside.txt”, which no backup has"),
        ([], {"audio/../../outside.wav": b"x"}, "which no backup has"),
        ([], {"audio/x.html": b"<script>"}, "which no backup has"),
        ([], {f"audio/{'0' * 64}.wav": b"\0" * 20_000_000}, "packed as no backup is"),
    ],
)
def test_a_backup_that_is_not_as_ours_changes_nothing(
    small: Home, tmp_path: Path, sql: list[str], extra: dict[str, bytes], says: str
) -> None:
    bad = spoilt(small, tmp_path / "bad.zip", *sql, extra=extra)
    database.close()
    before = everything(small)
    with pytest.raises(StoreError, match=re.escape(says)):
        restore(small.folder, bad)
    assert everything(small) == before
    assert not (tmp_path / "outside.txt").exists()


def test_an_encrypted_backup_is_said_to_be_so(small: Home, kept: Path) -> None:
    data = bytearray(kept.read_bytes())
    at = data.index(b"PK\x01\x02")
    while at >= 0:
        data[at + 8] |= 1
        at = data.find(b"PK\x01\x02", at + 1)
    kept.write_bytes(data)
    database.close()
    with pytest.raises(StoreError, match="encrypted"):
        restore(small.folder, kept)


@pytest.mark.parametrize("left", ["garbage", "nothing"])
def test_a_backup_comes_back_over_what_cannot_be_read(small: Home, kept: Path, left: str) -> None:
    database.close()
    audio = {f.name: f.read_bytes() for f in small.audio.iterdir()}
    for suffix in ("", "-wal", "-shm"):
        small.database.with_name(small.database.name + suffix).unlink(missing_ok=True)
    if left == "garbage":
        small.database.write_bytes(b"this is no database " * 100)
    was = restore(small.folder, kept)
    open_home(small.folder)
    with database.connection_context():
        assert log.takes().total == BOAT_TAKES
    assert (was is not None) == (left == "garbage")
    if was:
        assert (was / "low-tide.db").read_bytes() == b"this is no database " * 100
        assert {f.name: f.read_bytes() for f in (was / "audio").iterdir()} == audio


def test_a_backup_comes_back_where_the_audio_is_gone(small: Home, kept: Path) -> None:
    database.close()
    shutil.rmtree(small.audio)
    assert restore(small.folder, kept) is not None
    assert len(list(open_home(small.folder).audio.iterdir())) == 1 + len(MADE)


@pytest.mark.parametrize("after", range(12))
def test_a_restore_that_fails_on_the_disk_takes_nothing_away(
    small: Home, kept: Path, monkeypatch: pytest.MonkeyPatch, after: int
) -> None:
    database.close()
    real, calls = restoring.sync, [0]

    def fails(path: Path) -> None:
        calls[0] += 1
        if calls[0] > after:
            raise OSError("disk")
        real(path)

    with monkeypatch.context() as patch:
        patch.setattr(restoring, "sync", fails)
        with contextlib.suppress(OSError):
            restore(small.folder, kept)
    again = open_home(small.folder)
    with database.connection_context():
        assert log.takes().total == BOAT_TAKES
        for each in log.takes(TakeFilter(audio=True)).takes:
            assert recordings.audio_path(again, each.id)[0].stat().st_size


class Killed(BaseException):
    """The process is gone: nothing after it is done."""


STEPS = ("_unpack", "fault", "_put_by", "sync", "os.replace", "clear_leftovers")


@pytest.mark.parametrize("after", range(8))
@pytest.mark.parametrize("step", STEPS)
def test_a_restore_that_is_killed_leaves_the_old_or_the_new(
    small: Home, kept: Path, monkeypatch: pytest.MonkeyPatch, step: str, after: int
) -> None:
    locker.add({"kind": "lead", "name": "Later lead"})
    database.close()
    where, _, name = step.rpartition(".")
    module = os if where == "os" else restoring
    real, calls = getattr(module, name), [0]

    def dies(*args: Any, **kwargs: Any) -> Any:
        calls[0] += 1
        if calls[0] > after:
            raise Killed
        return real(*args, **kwargs)

    with monkeypatch.context() as patch:
        patch.setattr(module, name, dies)
        # Nothing is cleared up by a process that is gone.
        patch.setattr(restoring, "remove", lambda path: None)
        with contextlib.suppress(Killed):
            restore(small.folder, kept)
    again = open_home(small.folder)
    with database.connection_context():
        later = bool(locker.listed("Later lead"))
        assert later == (again.generation == "")
        assert log.takes().total == BOAT_TAKES
        for each in log.takes(TakeFilter(audio=True)).takes:
            assert recordings.audio_path(again, each.id)[0].stat().st_size
    clear_leftovers(again)
    left = {p.name for p in again.folder.iterdir()} - {"lock", "renders", "waves", "backups", "installation", POINTER}
    assert left - {"low-tide.db-wal", "low-tide.db-shm"} == (
        {again.generation} if again.generation else {"low-tide.db", "audio"}
    )


def test_a_pointer_to_nothing_is_said_and_a_backup_comes_back_over_it(small: Home, kept: Path) -> None:
    database.close()
    restore(small.folder, kept)
    (small.folder / POINTER).write_text("../elsewhere")
    with pytest.raises(StoreError, match="names no data that is there"):
        open_home(small.folder)
    was = restore(small.folder, kept)
    assert was is not None
    open_home(small.folder)
    with database.connection_context():
        assert log.takes().total == BOAT_TAKES


def test_two_never_work_in_one_folder(lightship: Home, tmp_path: Path) -> None:
    database.close()
    server = Server(lightship.folder)
    there, target, said = str(lightship.folder), str(tmp_path / "kept.zip"), tmp_path / "said"
    try:
        assert command("serve", said=said, LOW_TIDE_PORT="0", LOW_TIDE_HOME=there) == 1
        assert "Another Low Tide is at work" in said.read_text()
        # A backup beside a server is fine; a restore would take the data from under it.
        assert command("backup", target, said=said, LOW_TIDE_HOME=there) == 0
        assert command("restore", target, said=said, LOW_TIDE_HOME=there) == 1
        assert "Another Low Tide is at work" in said.read_text()
        assert urllib.request.urlopen(f"{server.url}api/takes").status == 200
    finally:
        server.kill()
    assert command("restore", target, said=said, LOW_TIDE_HOME=there) == 0


def test_what_cut_short_work_left_goes_at_the_next_start(lightship: Home) -> None:
    stray = [
        lightship.audio / "incoming-half",
        lightship.folder / "work-x" / "low-tide.db",
        lightship.folder / ("data-" + "0" * 16) / "low-tide.db",
        lightship.folder / "backups" / "kept.zip.part",
        lightship.renders / "take.wav.part",
    ]
    for path in stray:
        path.parent.mkdir(exist_ok=True)
        path.write_text("half")
    before = {p.name for p in lightship.audio.iterdir()} - {"incoming-half"}
    clear_leftovers(lightship)
    assert not any(path.exists() for path in stray)
    assert {p.name for p in lightship.audio.iterdir()} == before


def test_copies_that_are_kept_never_take_each_others_place(lightship: Home, tmp_path: Path) -> None:
    backup(lightship, tmp_path / "kept.zip")
    database.close()
    kept = [restore(lightship.folder, tmp_path / "kept.zip") for _ in range(3)]
    assert len({str(k) for k in kept}) == 3
    assert all(k and k.exists() for k in kept)


def test_a_backup_is_not_written_over_the_data(lightship: Home) -> None:
    before = everything(lightship)
    for name in ("low-tide.db", "audio/all.zip", "all.zip"):
        with pytest.raises(StoreError, match="choose another place"):
            backup(lightship, lightship.folder / name)
    assert everything(lightship) == before
    assert backup(lightship, lightship.backups / "by-hand.zip")


def test_a_backup_takes_only_what_the_program_keeps(lightship: Home, tmp_path: Path) -> None:
    secret = tmp_path / "secret.txt"
    secret.write_text("not ours")
    (lightship.audio / ("0" * 64 + ".wav")).symlink_to(secret)
    (lightship.audio / "incoming-half").write_text("half")
    real = next(f for f in lightship.audio.iterdir() if f.is_file() and not f.is_symlink() and len(f.name) > 60)
    os.utime(real, (0, 0))  # from before a ZIP's time begins
    backup(lightship, tmp_path / "kept.zip")
    with zipfile.ZipFile(tmp_path / "kept.zip") as archive:
        names = {n.removeprefix("audio/") for n in archive.namelist() if n.startswith("audio/")}
    assert real.name in names
    assert not names & {"incoming-half", "0" * 64 + ".wav"}


def test_undo_survives_a_restart(lightship: Home) -> None:
    bench.change("split-fog", [SetControl("godwit-45", "tap", "4")], 1)
    database.close()
    open_home(lightship.folder)
    state = bench.state("split-fog")
    assert state.undo == "Godwit 45: tap 4 Ω"
    undone = bench.step("split-fog", -1, state.saves)
    assert (undone.undo, undone.redo) == (None, "Godwit 45: tap 4 Ω")


def test_a_killed_server_leaves_whole_states(lightship: Home) -> None:
    database.close()
    folder = lightship.folder
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
    server.process.join()
    server.start()
    state = json.load(urllib.request.urlopen(f"{server.url}api/hookups/split-fog", timeout=10))
    pot = next(c["value"] for u in state["units"] for c in u["controls"] if c["control"]["id"] == "line.pot")
    assert (state["saves"], pot) == (12, -10)
    server.kill()
    with sqlite3.connect(lightship.database) as check:
        assert check.execute("pragma integrity_check").fetchone() == ("ok",)


def test_a_take_deleted_while_a_backup_is_written_does_not_stop_it(lightship: Home, tmp_path: Path) -> None:
    steps = writing(lightship, tmp_path / "kept.zip")
    next(steps)  # the database is copied and the first of it written; the audio is still to come
    gone = log.takes(TakeFilter(audio=True)).takes
    for each in gone:
        log.delete_take(lightship, each.id)
    assert all(part <= 1.0 for part in steps)
    with zipfile.ZipFile(tmp_path / "kept.zip") as archive:
        assert archive.testzip() is None


def test_audio_that_vanishes_between_list_and_read_does_not_stop_a_backup(
    lightship: Home, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real = backups._members

    def vanishing(home: Home, copy: Path) -> Iterator[tuple[str, Path]]:
        for name, file in real(home, copy):
            if name.startswith("audio/"):
                file.unlink()
            yield name, file

    monkeypatch.setattr(backups, "_members", vanishing)
    assert backup(lightship, tmp_path / "kept.zip")
    with zipfile.ZipFile(tmp_path / "kept.zip") as archive:
        assert sorted(archive.namelist()) == ["low-tide.db", "manifest"]
