"""Your data over HTTP: copies, backups brought in piece by piece, a restore beside people at work, and what the disk
cannot do."""

from __future__ import annotations

import errno
import io
import json
import sqlite3
import threading
import zipfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from low_tide.app import locker, recordings
from low_tide.demo.fill import TAKES_IN_ALL
from low_tide.store import backups, uploads
from low_tide.store.database import Database, database
from low_tide.store.home import Home, home_at
from low_tide.store.troubles import trouble

PIECE = 500_000


def kept(client: FlaskClient) -> str:
    """Make a copy, and its name."""
    lines = [json.loads(line) for line in client.post("/api/backups").text.splitlines()]
    assert all(line["part"] is not None for line in lines[:-1])
    assert lines[-2]["part"] == 1.0
    return str(lines[-1]["kept"]["name"])


def brought(client: FlaskClient, data: bytes) -> str:
    upload = client.post("/api/uploads", json={"size": len(data)}).json["upload"]
    for at in range(0, len(data), PIECE):
        answer = client.post(f"/api/uploads/{upload}?at={at}", data=data[at : at + PIECE])
        assert answer.json["received"] == min(len(data), at + PIECE)
    return str(upload)


def test_a_copy_is_made_looked_into_and_put_back(client: FlaskClient) -> None:
    before = client.get("/api/data").json
    assert before["holds"]["takes"] == TAKES_IN_ALL
    assert before["copies"] == []
    name = kept(client)
    with zipfile.ZipFile(io.BytesIO(client.get(f"/api/backups/{name}").data)) as archive:
        assert archive.testzip() is None
    assert client.delete("/api/takes/1").status_code == 204
    assert client.get(f"/api/backups/{name}/contents").json == before["holds"]
    restored = client.post("/api/restore", json={"copy_name": name}).json
    assert restored["holds"] == before["holds"]
    assert client.get("/api/takes/1/audio").status_code == 200
    copies = client.get("/api/data").json["copies"]
    assert {copy["name"] for copy in copies} == {name, restored["kept"]}
    assert client.delete(f"/api/backups/{name}").status_code == 204
    assert client.get(f"/api/backups/{name}").status_code == 404


def test_a_backup_is_brought_in_piece_by_piece(client: FlaskClient) -> None:
    data = client.get(f"/api/backups/{kept(client)}").data
    assert len(data) > 2 * PIECE
    client.delete("/api/takes/2")
    upload = brought(client, data)
    assert client.get(f"/api/uploads/{upload}/contents").json["takes"] == TAKES_IN_ALL
    assert client.post("/api/restore", json={"upload": upload}).json["holds"]["takes"] == TAKES_IN_ALL
    assert client.get("/api/takes/2").status_code == 200
    assert client.get(f"/api/uploads/{upload}/contents").status_code == 422  # it is there no more


@pytest.mark.parametrize(
    ("at", "size", "says"),
    [(1, 10, "does not follow: 0 bytes are here"), (0, 11, "more than the 10 bytes"), (0, 9, "Only 9 of 10 bytes")],
)
def test_a_piece_that_does_not_fit_is_refused(client: FlaskClient, at: int, size: int, says: str) -> None:
    upload = client.post("/api/uploads", json={"size": 10}).json["upload"]
    answers = [client.post(f"/api/uploads/{upload}?at={at}", data=b"x" * size)]
    answers.append(client.get(f"/api/uploads/{upload}/contents"))
    refused = next(a for a in answers if a.status_code != 200)
    assert refused.status_code in (409, 422)
    assert says in refused.json["detail"]


def test_an_upload_has_its_bounds(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    for size in (0, 8 * 1024**3 + 1):
        assert "are taken" in client.post("/api/uploads", json={"size": size}).json["detail"]
    first = client.post("/api/uploads", json={"size": 10}).json["upload"]
    client.post("/api/uploads", json={"size": 10})
    assert "given up" in client.post(f"/api/uploads/{first}?at=0", data=b"x").json["detail"]
    for name in ("..current", "0" * 16, f"{'0' * 16}-5"):
        assert client.post(f"/api/uploads/{name}?at=0", data=b"x").status_code in (404, 422)
    monkeypatch.setattr(backups.shutil, "disk_usage", lambda _: type("Disk", (), {"free": 2 * 10**6}))
    assert "only 2 MB are free" in client.post("/api/uploads", json={"size": 10}).json["detail"]
    line = json.loads(client.post("/api/backups").text)
    assert "only 2 MB are free" in line["problem"]


@pytest.mark.parametrize("name", ["../low-tide.db", "low-tide.db", "a.zip", "%2e%2e%2fcurrent", "x.html"])
def test_no_name_reaches_anything_but_a_copy(client: FlaskClient, lightship: Home, name: str) -> None:
    lightship.backups.mkdir()
    (lightship.backups / "a.zip").symlink_to(lightship.database)
    for answer in (client.get(f"/api/backups/{name}"), client.delete(f"/api/backups/{name}")):
        assert answer.status_code in (404, 405)
    assert client.post("/api/restore", json={"copy_name": name}).status_code == 404
    assert lightship.database.exists()


@pytest.mark.parametrize("body", [{}, {"upload": "no"}, {"copy_name": "no"}, {"copy_name": 3}, {"other": "x"}, []])
def test_a_restore_of_nothing_changes_nothing(client: FlaskClient, lightship: Home, body: Any) -> None:
    assert client.post("/api/restore", json=body).status_code in (404, 422)
    assert home_at(lightship.folder) == lightship
    assert client.get("/api/data").json["copies"] == []


def test_a_page_read_before_a_restore_does_not_write_after_it(client: FlaskClient) -> None:
    page = client.get("/api/takes/1")
    seen = {"Low-Tide-Data": page.headers["Low-Tide-Data"]}
    at = f"/api/takes/1?saves={page.json['saves']}"
    client.post("/api/restore", json={"copy_name": kept(client)})
    refused = client.put(at, json={"name": "Over it"}, headers=seen)
    assert refused.status_code == 409
    assert "Load the page again" in refused.json["detail"]
    now = client.get("/api/takes/1")
    assert now.json["note"] == page.json["note"]
    assert now.headers["Low-Tide-Data"] != seen["Low-Tide-Data"]
    assert client.put(at, json={"name": "Again"}, headers={"Low-Tide-Data": now.headers["Low-Tide-Data"]}).json


def test_a_restore_waits_for_who_is_at_work_and_they_for_it(client: FlaskClient, lightship: Home) -> None:
    name, done = kept(client), []
    ready, go = threading.Event(), threading.Event()

    def works() -> None:
        with database.connection_context(), database.atomic():
            ready.set()
            go.wait()
            locker.add({"kind": "lead", "name": "Worked on"})
        done.append("worked")

    def restores() -> None:
        client.post("/api/restore", json={"copy_name": name})
        done.append("restored")

    database.close()
    threads = [threading.Thread(target=works), threading.Thread(target=restores)]
    threads[0].start()
    ready.wait()
    threads[1].start()
    threads[1].join(0.3)
    assert done == []
    go.set()
    for thread in threads:
        thread.join()
    assert done == ["worked", "restored"]
    copies = client.get("/api/data").json["copies"]
    before = next(c["name"] for c in copies if c["name"].startswith("before-restore"))
    gear = client.get("/api/data").json["holds"]["gear"]
    assert client.get(f"/api/backups/{before}/contents").json["gear"] == gear + 1


def test_who_does_not_leave_is_not_waited_for_for_ever(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("low_tide.store.database.PATIENCE_S", 0.05)
    mine = Database()
    mine.lies_at(home.database)
    inside, leave = threading.Event(), threading.Event()

    def stays() -> None:
        with mine.connection_context():
            inside.set()
            leave.wait()

    thread = threading.Thread(target=stays)
    thread.start()
    inside.wait()
    with pytest.raises(Exception, match="locked"), mine.alone():
        pass
    leave.set()
    thread.join()
    with mine.alone(), mine.connection_context():
        assert mine.get_tables()


@pytest.fixture
def small_disk(lightship: Home, client: FlaskClient) -> Iterator[FlaskClient]:
    """A client of a database that has no room to grow by a page."""
    with database.connection_context():
        pages = database.execute_sql("pragma page_count").fetchone()[0]
    real = Database._connect

    def connected(self: Database) -> sqlite3.Connection:
        connection: sqlite3.Connection = real(self)
        connection.execute(f"pragma max_page_count = {pages}")
        return connection

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Database, "_connect", connected)
        yield client
    database.close()


def test_a_full_disk_is_said_and_saves_nothing(small_disk: FlaskClient) -> None:
    before = small_disk.get("/api/takes").json
    take = {"hookup": "whole-ship", "note": {"name": "No room", "notes": "x" * 8000}}
    answers = [small_disk.post("/api/sessions/1/takes", json=take) for _ in range(3)]
    assert [a.status_code for a in answers][-1] == 507
    assert "disk that holds the data is full" in answers[-1].json["detail"]
    assert "Nothing was saved." in answers[-1].json["problems"]
    saved = sum(a.status_code == 201 for a in answers)
    assert small_disk.get("/api/takes").json["total"] == before["total"] + saved


def test_a_folder_that_may_only_be_read_is_said(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    real = Database._connect

    def connected(self: Database) -> sqlite3.Connection:
        connection: sqlite3.Connection = real(self)
        connection.execute("pragma query_only = 1")
        return connection

    database.close()
    monkeypatch.setattr(Database, "_connect", connected)
    refused = client.post("/api/lines", json={"text": "not kept"})
    assert refused.status_code == 503
    assert "may only be read" in refused.json["detail"]
    assert client.get("/api/lines").json["lines"] == []


def test_a_database_that_is_gone_is_said_and_not_made_anew(client: FlaskClient, lightship: Home) -> None:
    database.close()
    for path in lightship.folder.glob("low-tide.db*"):
        path.unlink()
    for answer in (client.get("/api/takes"), client.post("/api/lines", json={"text": "x"})):
        assert answer.status_code == 503
        assert "not where it was" in answer.json["detail"]
    assert not lightship.database.exists()


def test_a_database_another_program_holds_is_said(client: FlaskClient, lightship: Home) -> None:
    other = sqlite3.connect(lightship.database, isolation_level=None)
    other.execute("begin immediate")
    real = Database._connect

    def impatient(self: Database) -> sqlite3.Connection:
        connection: sqlite3.Connection = real(self)
        connection.execute("pragma busy_timeout = 10")
        return connection

    database.close()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(Database, "_connect", impatient)
        patch.setattr("low_tide.store.database.PRAGMAS", {})
        database.lies_at(lightship.database)
        refused = client.post("/api/lines", json={"text": "x"})
    other.close()
    assert refused.status_code == 503
    assert "Another program holds the database" in refused.json["detail"]
    database.lies_at(lightship.database)


@pytest.mark.parametrize("code", [errno.ENOSPC, errno.EDQUOT, errno.EROFS, errno.EACCES, errno.EIO, errno.EMFILE])
def test_a_disk_that_fails_is_said(client: FlaskClient, monkeypatch: pytest.MonkeyPatch, code: int) -> None:
    def fails(*_: Any) -> None:
        raise OSError(code, "said by the disk", "audio")

    monkeypatch.setattr(recordings, "keep_audio", fails)
    wav = client.get("/api/takes/3/audio").data
    answer = client.post("/api/takes/5/audio?name=a.wav", data=wav)
    assert answer.status_code in (503, 507)
    assert "Traceback" not in answer.text
    assert trouble(OSError(code, "said by the disk", "audio")).said in answer.json["detail"]
    assert client.get("/api/takes/5").json["audio_name"] is None
    assert client.get("/api/takes/5/audio").status_code == 404


def test_an_upload_left_behind_goes(lightship: Home, client: FlaskClient) -> None:
    upload = brought(client, b"x" * 10)
    path, _ = uploads.uploaded(lightship, upload)
    client.post("/api/restore", json={"upload": upload})
    assert path.exists()  # a file that was refused may be looked at again
    uploads.begin(lightship, 5, 10)
    assert not path.exists()


def test_a_stream_that_fails_half_way_says_why(client: FlaskClient, monkeypatch: pytest.MonkeyPatch) -> None:
    def fails(*_: Any) -> Any:
        yield 0.5
        raise OSError(errno.ENOSPC, "full")

    monkeypatch.setattr(backups, "writing", fails)
    lines = [json.loads(line) for line in client.post("/api/backups").text.splitlines()]
    assert [line["part"] for line in lines] == [0.5, None]
    assert "full" in lines[-1]["problem"]
    assert client.get("/api/data").json["copies"] == []


def test_many_copies_at_one_time_never_take_each_others_name(lightship: Home) -> None:
    made: list[Path] = []
    threads = [threading.Thread(target=lambda: made.append(backups.keep_copy(lightship, "same"))) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert len(set(made)) == 6
    assert len(backups.kept_copies(lightship)) == 6
