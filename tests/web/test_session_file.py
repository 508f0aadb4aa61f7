"""A session as one file: what comes back is what went out, and what is none changes nothing."""

from __future__ import annotations

import hashlib
import io
import json
import shutil
import sqlite3
import struct
import zipfile
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient

from low_tide.app import session_file
from low_tide.demo.fill import TAKES_IN_ALL
from low_tide.store import archives
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import Home
from low_tide.web.server import create_app
from tests.formats.test_photo import png_that_claims
from tests.web.test_finding import refused
from tests.web.test_log import PICTURE, attach, attached, log_take

Members = dict[str, bytes]


def saved(client: FlaskClient, session: int = 1) -> bytes:
    answer = client.get(f"/api/sessions/{session}/file")
    assert answer.mimetype == "application/zip"
    return answer.data


def members(data: bytes) -> Members:
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        assert archive.testzip() is None
        return {name: archive.read(name) for name in archive.namelist()}


def zipped(parts: Members) -> bytes:
    """As the program packs them: recordings as they lie."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in parts.items():
            lies = name.startswith(("audio/", "attached/"))
            archive.writestr(name, data, zipfile.ZIP_STORED if lies else zipfile.ZIP_DEFLATED)
    return out.getvalue()


def brought(client: FlaskClient, data: bytes) -> str:
    upload: str = client.post("/api/uploads", json={"size": len(data)}).json["upload"]
    client.post(f"/api/uploads/{upload}", query_string={"at": 0}, data=data)
    return upload


def opened(client: FlaskClient, data: bytes) -> dict:
    """The last line of the answer."""
    answer = client.post("/api/sessions/open", json={"upload": brought(client, data)})
    lines = [json.loads(line) for line in answer.text.splitlines()]
    assert all(0 <= line["part"] <= 1 for line in lines[:-1])
    found: dict = lines[-1]
    return found


@pytest.fixture
def another(tmp_path: Path) -> Iterator[FlaskClient]:
    """Another copy of the program, its log empty."""
    home = open_home(tmp_path / "another")
    yield create_app(home).test_client()
    database.close()


@pytest.fixture(scope="module")
def full(filled: Path, tmp_path_factory: pytest.TempPathFactory) -> bytes:
    """The lightship's session, with all that may belong to one."""
    folder = tmp_path_factory.mktemp("sent") / "home"
    shutil.copytree(filled, folder)
    client = create_app(open_home(folder)).test_client()
    attach(client, 1, "photo", "amp.png", PICTURE.getvalue())
    attach(client, 1, "preset", "fog.bin", b"\0\xff")
    attach(client, 3, "preset", "the same.bin", b"\0\xff")
    guide = client.get("/api/log/narrowing").json["open_guides"][0]["id"]
    log_take(client, "Drums \N{BELL} “at last”", replaces=guide, tuning="C♯", notes="ünïcödé\n| *x*")
    client.post("/api/lines", json={"text": "The fog lifted.", "session": 1})
    data = saved(client)
    database.close()
    return data


def read_back(parts: Members) -> Members:
    """What is read back of a file; the papers in it are of the copy that wrote it."""
    return {name: data for name, data in parts.items() if not session_file.PAPER.fullmatch(name)}


def test_another_copy_opens_it_as_it_was(full: bytes, another: FlaskClient) -> None:
    upload = brought(another, full)
    holds = another.post("/api/sessions/contents", json={"upload": upload}).json
    assert (holds["takes"], holds["attachments"], holds["lines"], holds["here"]) == (TAKES_IN_ALL + 1, 3, 1, None)
    assert holds["recordings"] == len([n for n in members(full) if n.startswith("audio/")])
    made = opened(another, full)["session"]
    assert (made["name"], made["takes"]) == ("Fog Signal, first night", TAKES_IN_ALL + 1)
    again = saved(another, made["id"])
    assert read_back(members(again)) == read_back(members(full))
    # It is all there to be used: found, recalled, played, measured, looked at.
    (take,) = another.get("/api/takes", query_string={"search": "whimbrel drone"}).json["takes"]
    assert another.post(f"/api/takes/{take['id']}/recall").status_code == 201
    assert another.get(f"/api/takes/{take['id']}/report").json["inspection"] is not None
    assert another.get(f"/api/takes/{take['id']}/audio").status_code == 200
    first = another.get("/api/takes", query_string={"search": "fog low"}).json["takes"][0]
    assert [a["name"] for a in attached(another, first["id"])] == ["amp.jpg", "fog.bin"]
    assert another.get("/api/log/narrowing").json["open_guides"] == []
    # It teaches nothing of how hard the amps of this locker are played.
    assert another.get(f"/api/takes/{take['id']}/report").json["counting"] is None
    # Once more: it is said to be here, and may be opened beside it.
    holds = another.post("/api/sessions/contents", json={"upload": brought(another, full)}).json
    assert holds["here"] == "Fog Signal, first night"
    assert opened(another, full)["session"]["id"] != made["id"]


def test_recipes_of_blends_taken_in_it_go_out_with_it(client: FlaskClient) -> None:
    blend = client.get("/api/blends").json["blends"][0]
    assert not any(name.startswith("recipes/") for name in members(saved(client)))
    for why in ("dark enough", "still dark enough"):
        body = {"why": why, "part": "drone", "session": 1}
        assert client.post(f"/api/blends/{blend['id']}/commit", json=body).status_code == 201
    parts = members(saved(client))
    (name,) = (name for name in parts if name.startswith("recipes/"))
    assert name == f"recipes/{blend['name']}.json"
    made = client.post("/api/blends/recipe", data=parts[name], content_type="application/json")
    assert made.status_code == 201
    # A blend that is gone since is left out, and the rest goes out as it was.
    assert client.delete(f"/api/blends/{blend['id']}").status_code in (200, 204)
    assert read_back(members(saved(client))) == read_back(parts)
    assert not any(name.startswith("recipes/") for name in members(saved(client)))


def test_it_can_be_read_without_the_program(full: bytes) -> None:
    parts = members(full)
    assert "Fog Signal, first night" in parts["session.md"].decode()
    assert any(name.startswith("run-sheets/Cue 2") for name in parts)
    for name, data in parts.items():
        if name.startswith(("audio/", "attached/")):
            assert hashlib.sha256(data).hexdigest() == Path(name).stem


Change = Callable[[Members], object]


def change_json(name: str, change: Callable[[Any], object]) -> Change:
    def changed(parts: Members) -> None:
        found = json.loads(parts[name])
        change(found)
        parts[name] = json.dumps(found).encode()

    return changed


def without(begins: str) -> Change:
    def changed(parts: Members) -> None:
        for name in [name for name in parts if name.startswith(begins)]:
            del parts[name]

    return changed


def set_to(name: str, data: bytes) -> Change:
    return lambda parts: parts.update({name: data})


def spoiled(begins: str) -> Change:
    def changed(parts: Members) -> None:
        name = next(name for name in parts if name.startswith(begins))
        parts[name] = parts[name][:-1] + b"?"

    return changed


def another_take(parts: Members, number: int) -> bytes:
    return json.dumps({**json.loads(parts["takes/1.json"]), "number": number}).encode()


def photo_of(data: bytes) -> Change:
    """The photo is another, its hash and all that names it with it."""

    def changed(parts: Members) -> None:
        name = next(n for n in parts if n.endswith(".photo"))
        del parts[name]
        other = f"attached/{hashlib.sha256(data).hexdigest()}.photo"
        parts[other] = data
        parts["takes/1.json"] = parts["takes/1.json"].replace(name.encode(), other.encode())

    return changed


def deep(parts: Members) -> None:
    parts["takes/1.json"] = b'{"snapshot": ' + b"[" * 100_000 + b"]" * 100_000 + b"}"


ONE, HEAD = "takes/1.json", "session.json"
BAD: dict[str, tuple[Change, str]] = {
    "another program": (set_to("manifest", b"some-other-1"), "is not a session file"),
    "newer": (set_to("manifest", b"low-tide-session-2"), "comes from a newer version"),
    "newer inside": (change_json(HEAD, lambda d: d.update(version=2)), "comes from a newer version"),
    "a backup": (set_to("manifest", b"low-tide-backup-1"), "is a backup, not a session"),
    "no head": (without(HEAD), "is not a session file"),
    "no take": (without(ONE), "says it has 11 takes, and holds 10"),
    "a take too many": (lambda p: p.update({"takes/99.json": another_take(p, 99)}), "holds 12"),
    "a take under another name": (lambda p: p.update({"takes/2.json": p[ONE]}), "is take 1"),
    "a path": (set_to("takes/../../x.json", b"{}"), "which no session file has"),
    "a strange member": (set_to("low-tide.db", b"x"), "which no session file has"),
    "a bomb": (set_to("session.md", b"\0" * 50_000_000), "packed as no session file is"),
    "a recording is missing": (without("audio/"), "which is not in it"),
    "a recording is another": (spoiled("audio/"), "is not what it was"),
    "a photo is another": (spoiled("attached/"), "is not what it was"),
    "a photo that is none": (photo_of(b"no picture"), "is no picture"),
    "a photo of 200 megapixels": (photo_of(png_that_claims(20_000, 10_000)), "at most 80 megapixels"),
    "no JSON": (set_to(ONE, b"{"), "cannot be read"),
    "no number": (change_json(ONE, lambda d: d.update(expected_peak=float("nan"))), "cannot be read"),
    "half a letter": (set_to("takes/1.json", b'{"name": "\\ud800"}'), "cannot be read"),
    "deep": (deep, "cannot be read"),
    "a list": (set_to(HEAD, b"[]"), "Session"),
    "a level": (change_json(ONE, lambda d: d.update(expected_peak=4000)), "Expected peak"),
    "no instant": (change_json(ONE, lambda d: d.update(at="yesterday")), "is no instant"),
    "a year": (change_json(HEAD, lambda d: d.update(started="9999-01-01T00:00:00+00:00")), "1970 to 2199"),
    "no snapshot": (change_json(ONE, lambda d: d.update(snapshot={})), "Snapshot"),
    "a field of no take": (change_json(ONE, lambda d: d["note"].update(rating="best")), "Rating"),
    "no guide": (change_json(ONE, lambda d: d["note"].update(replaces=1)), "takes the place of a guide"),
    "a name": (change_json(ONE, lambda d: d["note"].update(name="x" * 121)), "Take"),
}


def everything(client: FlaskClient, home: Home) -> tuple[Any, ...]:
    log = client.get("/api/log.json").text
    return log, sorted(p.name for p in home.audio.iterdir()), client.get("/api/sessions").json


@pytest.mark.parametrize("how", BAD)
def test_what_is_no_session_file_changes_nothing(
    client: FlaskClient, lightship: Home, full: bytes, how: str, tmp_path: Path
) -> None:
    change, says = BAD[how]
    parts = members(full)
    change(parts)
    before = everything(client, lightship)
    bad = zipped(parts)
    looked = client.post("/api/sessions/contents", json={"upload": brought(client, bad)})
    answer = client.post("/api/sessions/open", json={"upload": brought(client, bad)})
    told = answer.text
    assert says in json.dumps(json.loads(told.splitlines()[-1]), ensure_ascii=False), told
    if how != "a recording is another":  # that is known once they have been unpacked
        refused(looked, says, looked.status_code)
        assert looked.status_code in (409, 422)
    assert everything(client, lightship) == before
    assert not [p for p in lightship.audio.iterdir() if p.name.startswith("incoming-")]


def test_what_is_no_zip_is_told(client: FlaskClient, full: bytes) -> None:
    for data in (b"PK\3\4 and then nothing", b"RIFF", full[: len(full) // 2], zipped({"manifest": b"x" * 200})):
        problem = opened(client, data)["problem"]
        assert "is not a session file" in problem


def test_one_that_claims_to_fill_a_disk_is_refused_unread(
    client: FlaskClient, full: bytes, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(archives, "MOST_BYTES", 1000)
    assert "a session file has at most 8 GiB" in opened(client, full)["problem"]
    monkeypatch.undo()
    encrypted = bytearray(full)
    at = encrypted.rfind(b"PK\1\2")
    struct.pack_into("<H", encrypted, at + 8, 1)
    assert "is encrypted" in opened(client, bytes(encrypted))["problem"]


def test_it_goes_out_whole_though_a_hookup_no_longer_goes_together(client: FlaskClient, lightship: Home) -> None:
    with sqlite3.connect(lightship.database) as kept:
        kept.execute("update gear set doc = '{}' where id = 'turnstone-212'")
    parts = members(saved(client))
    assert not any(name.startswith("run-sheets/Cue 2") for name in parts)
    assert any(name.startswith("run-sheets/Cue 1") for name in parts)
    assert sum(name.startswith("takes/") for name in parts) == TAKES_IN_ALL


def test_a_session_whose_recording_is_gone_does_not_go_out(client: FlaskClient, lightship: Home) -> None:
    (lightship.audio / client.get("/api/takes/1").json["audio"]).unlink()
    refused(client.get("/api/sessions/1/file"), "are not in the data folder any more")


def test_a_photo_with_a_position_loses_it_on_the_way(client: FlaskClient, full: bytes) -> None:
    parts = members(full)
    name = next(n for n in parts if n.endswith(".photo"))
    told = parts.pop(name).replace(b"\xff\xd8", b"\xff\xd8\xff\xfe\x00\x08harbor", 1)
    other = f"attached/{hashlib.sha256(told).hexdigest()}.photo"
    parts[other] = told
    parts[ONE] = parts[ONE].replace(name.encode(), other.encode())
    made = opened(client, zipped(parts))["session"]
    takes = client.get("/api/takes", query_string={"session": made["id"], "search": "fog low"}).json["takes"]
    photo = attached(client, takes[0]["id"])[0]
    assert b"harbor" not in client.get(f"/api/attachments/{photo['id']}").data


def test_a_session_is_called_otherwise_and_deleted_with_all_that_is_its_own(
    client: FlaskClient, lightship: Home, full: bytes
) -> None:
    made = opened(client, full)["session"]
    other = client.put(f"/api/sessions/{made['id']}", json={"name": "From the pilot", "notes": "n"}).json
    assert (other["name"], other["notes"]) == ("From the pilot", "n")
    refused(client.put(f"/api/sessions/{made['id']}", json={"name": " "}), "a name of 1 to 120")
    refused(client.delete(f"/api/sessions/{made['id']}", query_string={"takes": 3}), "has 11 takes by now, not 3", 409)
    audio = sorted(p.name for p in lightship.audio.iterdir())
    assert client.delete(f"/api/sessions/{made['id']}", query_string={"takes": made["takes"]}).status_code == 204
    # What the first session has too stays.
    assert sorted(p.name for p in lightship.audio.iterdir()) == audio
    shutil.copytree(lightship.audio, lightship.folder.parent / "kept")
    left = client.get("/api/sessions").json["sessions"]
    assert client.delete("/api/sessions/1", query_string={"takes": left[0]["takes"]}).status_code == 204
    assert client.get("/api/takes").json["total"] == 0
    assert client.get("/api/sessions").json["sessions"] == []
    assert not any(p.suffix == ".flac" for p in lightship.audio.iterdir())
