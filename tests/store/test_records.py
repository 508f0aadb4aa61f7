"""Records: brought up to date from older ones, found by their words, and never overwritten unseen."""

from __future__ import annotations

import io
import json
import re
import sqlite3
import zipfile
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

import pytest
from flask.testing import FlaskClient
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from peewee_migrate import Router

from low_tide.app import bench, kept_audio, locker, log, log_export, readings, recordings
from low_tide.app.clock import instant
from low_tide.app.errors import Conflict, Invalid
from low_tide.app.log import TakeFilter
from low_tide.core.gear.ids import ID, plain_hookup, plain_id, plain_unit
from low_tide.core.rig.changes import SetControl
from low_tide.demo.fill import TAKES_IN_ALL
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.documents import dump, load_hookup, load_unit, read_hookup_file, write_hookup_file
from low_tide.formats.sentences import FormatError
from low_tide.store import comparisons, listening, take_words, takes
from low_tide.store.backups import backup
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import INSTALLATION, Home, home_at, installation, mark_unsettled
from low_tide.store.models import GearRow, HookupRow
from low_tide.store.schema import MIGRATIONS
from tests.examples import many

QUIET = settings(max_examples=many(60), suppress_health_check=[HealthCheck.function_scoped_fixture])
ODD = "Caisson 120\n.shell touch /tmp/x"


def odd(doc: Any, old: str = "caisson-120", new: str = ODD) -> Any:
    """Plain data with an id put in place of another wherever it stands."""
    if isinstance(doc, dict):
        return {(new if k == old else k): odd(v, old, new) for k, v in doc.items()}
    if isinstance(doc, list):
        return [odd(each, old, new) for each in doc]
    return new if doc == old else doc


@given(old=st.text(min_size=1, max_size=64))
def test_any_old_id_becomes_a_plain_one_once_and_for_all(old: str) -> None:
    made = plain_id(old)
    assert made == "@open" if old == "@open" else re.fullmatch(ID, made)
    assert plain_id(made) == made
    assert made == old or not re.fullmatch(ID, old)


@pytest.mark.parametrize("name", HOOKUPS)
def test_every_place_an_id_stands_in_is_made_plain(name: str) -> None:
    hookup = dump(HOOKUPS[name])
    gear = [dump(GEAR[i]) for i in HOOKUPS[name].gear_ids()]
    old = {unit["id"]: f"Old {unit['id']}!" for unit in gear}
    for before, after in old.items():
        hookup, gear = odd(hookup, before, after), odd(gear, before, after)
    rig, _ = read_hookup_file(write_hookup_file(hookup, gear))
    plain = {before: plain_id(after) for before, after in old.items()}
    back = dump(HOOKUPS[name])
    for before, after in plain.items():
        back = odd(back, before, after)
    assert dump(rig.hookup) == back
    assert set(rig.gear) == set(plain.values())


@pytest.mark.parametrize("bad", ["", "A", "a b", "-a", "a\n", "é", "a" * 65, ODD])
def test_an_id_outside_its_alphabet_is_refused_where_it_is_new(client: FlaskClient, bad: str) -> None:
    unit = {**dump(GEAR["caisson-120"]), "id": bad}
    with pytest.raises(FormatError, match="Id"):
        load_unit(unit)
    with pytest.raises(FormatError):
        load_hookup(odd(dump(HOOKUPS["quiet-hold"]), new=bad))
    answer = client.post("/api/gear", json=unit)
    assert answer.status_code == (201 if bad == "" else 422)  # an id left out is made from the name


LATER_COLUMNS = {
    *("saves", "recorded_at", "song_start", "simulated", "rating", "guide", "replaces"),
    *("guitar", "pickup", "guitar_volume", "tuning", "afterwards", "gear", "clipped", "scene"),
}


def old_database(path: Path, lightship: Home, release: str) -> None:
    """A data folder as an earlier release left it: its schema, the lightship, an id with anything in it."""
    path.mkdir()
    with database.connection_context():
        gear, hookups = list(GearRow.select().dicts()), list(HookupRow.select().dicts())
    with sqlite3.connect(lightship.database) as now:
        now.row_factory = sqlite3.Row
        rows = {
            t: [dict(r) for r in now.execute(f"select * from {t}")] for t in ("session", "take", "revision", "note")
        }
        rows["preference"] = [dict(r) for r in now.execute("select id, doc from preference")]
        snapshots = dict(now.execute("select take_id, doc from snapshot").fetchall())
    database.close()
    database.init(path / "low-tide.db")
    Router(database, migrate_dir=MIGRATIONS).run(release)
    database.close()
    for take in rows["take"]:
        take["snapshot"] = json.dumps(odd(json.loads(snapshots[take["id"]])))
        for added in LATER_COLUMNS:
            del take[added]
    for revision in rows["revision"]:
        revision["doc"] = json.dumps(odd(json.loads(revision["doc"])))
    rows["gear"] = [{**g, "id": odd(g["id"]), "doc": json.dumps(odd(g["doc"]))} for g in gear]
    lists = ("redo", "run", "pinned")
    rows["hookup"] = [{**h, **{name: json.dumps(odd(h[name])) for name in lists}} for h in hookups]
    doc = dump(readings.Reading(place="foredeck", level=80.0))
    rows["reading"] = [
        {"kind": "meter", "place": "foredeck", "hookup": "quiet-hold", "revision": 1, "minutes": 5.0, "level": 80.0}
        | {"used": 1, "doc": json.dumps(doc), "at": "2026-03-01T20:00:00+00:00"}
    ]
    with sqlite3.connect(path / "low-tide.db") as old:
        tables = ["gear", "hookup", "revision", "session", "take", "preference"]
        for table in tables + (["note", "reading"] if release == "002_readings" else []):
            for row in rows[table]:
                marks = ", ".join("?" * len(row))
                old.execute(f"insert into {table} ({', '.join(row)}) values ({marks})", list(row.values()))


@pytest.mark.parametrize("release", ["001_first", "002_readings"])
def test_a_folder_of_an_earlier_release_loses_nothing(lightship: Home, tmp_path: Path, release: str) -> None:
    before = {h.id: (h.name, h.severity) for h in bench.listed()}
    was = {f.name: f.default for f in fields(log.TakeNote) if f.name in LATER_COLUMNS}
    said = [(t.id, t.number, replace(t.note, **was), t.audio) for t in log.takes().takes]
    old_database(tmp_path / "old", lightship, release)
    home = open_home(tmp_path / "old")
    assert len(list(home.backups.iterdir())) == 1
    with database.connection_context():
        assert {h.id: (h.name, h.severity) for h in bench.listed()} == before
        assert [(t.id, t.number, t.note, t.audio) for t in log.takes().takes] == said
        assert all(re.fullmatch(ID, gear_id) for gear_id in locker.all_gear())
        assert GearRow.get(GearRow.id == plain_id(ODD)).name == GEAR["caisson-120"].name
        assert [r.reading.level for r in readings.listed()] == ([80.0] if release == "002_readings" else [])
        recalled = log.recall(next(t.id for t in log.takes().takes if t.hookup_id == "quiet-hold"))
        assert plain_id(ODD) in [unit.id for unit in recalled.units]
        assert log.takes(TakeFilter(search="fog theme")).total == 2
        assert log.takes(TakeFilter(search="whimbrel middle")).total == 1
        assert log.takes(TakeFilter(clipped=True)).total == 1


def test_a_number_of_the_log_is_never_given_to_another_record(lightship: Home) -> None:
    newest = log.takes().takes[0]
    log.delete_take(lightship, newest.id)
    assert log.log_take(newest.session, "quiet-hold", {"name": "Next"}).id > newest.id
    line = log.write_line("one")
    log.delete_line(line.id)
    assert log.write_line("two").id > line.id


def test_what_another_window_said_of_a_take_is_not_overwritten(client: FlaskClient) -> None:
    take = client.get("/api/takes/1").json
    at = f"/api/takes/1?saves={take['saves']}"
    assert client.put(at, json={"name": "Mine"}).json["saves"] == take["saves"] + 1
    refused = client.put(at, json={"name": "Later"})
    assert refused.status_code == 409
    assert "another window" in refused.json["detail"]
    assert client.delete(at).status_code == 409
    assert client.get("/api/takes/1").json["note"]["name"] == "Mine"
    assert client.delete(f"/api/takes/1?saves={take['saves'] + 1}").status_code == 204


def test_a_recording_another_window_brought_is_not_replaced(client: FlaskClient, lightship: Home) -> None:
    wav = recordings.audio_path(lightship, 3)[0].read_bytes()
    take = client.get("/api/takes/1").json
    brought = client.post(f"/api/takes/1/audio?name=a.wav&replaced={take['audio']}", data=wav)
    assert brought.status_code == 200
    refused = client.post(f"/api/takes/1/audio?name=b.wav&replaced={take['audio']}", data=wav)
    assert refused.status_code == 409
    assert client.get("/api/takes/1").json["audio_name"] == "a.wav"
    assert client.post("/api/takes/5/audio?name=b.wav&replaced=", data=wav).status_code == 200


def test_preferences_and_hookups_changed_elsewhere_are_told(client: FlaskClient) -> None:
    before = client.get("/api/preferences").json
    changed = {**before["preferences"], "session_name": "Fog Signal"}
    at = f"/api/preferences?saves={before['saves']}"
    assert client.put(at, json=changed).json["saves"] == before["saves"] + 1
    assert client.put(at, json=changed).status_code == 409
    state = client.get("/api/hookups/quiet-hold").json
    pot = {"op": "set", "unit": "caisson-120", "control": "line.pot", "value": -7}
    client.post("/api/hookups/quiet-hold/changes", json={"saves": state["saves"], "changes": [pot]})
    assert client.delete(f"/api/hookups/quiet-hold?saves={state['saves']}").status_code == 409
    assert client.post(f"/api/hookups/quiet-hold/unpin?saves={state['saves']}").status_code == 409


@QUIET
@given(search=st.text(max_size=30))
def test_no_search_is_taken_for_more_than_its_words(lightship: Home, search: str) -> None:
    found = log.takes(TakeFilter(search=search))
    assert found.total <= TAKES_IN_ALL
    if not search.strip():
        assert found.total == TAKES_IN_ALL


def said_of(take: log.Take) -> list[str]:
    """The words of a take: what was said, set and used."""
    note = take.note
    said = (note.name, note.part, note.notes, take.hookup, note.guitar, note.pickup, note.tuning, note.afterwards)
    controls = (f"{c.name} {c.value}" for c in note.controls)
    doc = log.snapshot(take.id)
    placed = {each["unit"] for each in doc["hookup"]["units"]}
    gear = (unit["name"] for unit in doc["gear"] if unit["id"] in placed)  # leads are everywhere, and told of nothing
    return re.findall(r"\w+", " ".join((*said, *controls, *gear)))


@QUIET
@given(data=st.data())
def test_a_take_is_found_by_the_beginnings_of_its_words(lightship: Home, data: st.DataObject) -> None:
    take = data.draw(st.sampled_from(log.takes().takes))
    words = said_of(take)
    some = data.draw(st.lists(st.sampled_from(words), min_size=1, max_size=3))
    search = " ".join(word[: data.draw(st.integers(1, len(word)))].swapcase() for word in some)
    assert take.id in [t.id for t in log.takes(TakeFilter(search=search)).takes]
    every = " ".join(words).lower().split()
    for each in log.takes(TakeFilter(search=search)).takes:
        has = [word.lower() for word in said_of(each)]
        assert all(any(h.startswith(w.lower()) for h in has) for w in search.split()), every


def test_words_are_found_as_they_are_now(lightship: Home) -> None:
    take = log.takes(TakeFilter(search="fog")).takes[0]
    log.edit_take(take.id, {"name": 'Kelp "quoted" OR nothing'})
    assert log.takes(TakeFilter(search="kelp")).total == log.takes(TakeFilter(search='"quoted"')).total == 1
    assert log.takes(TakeFilter(search="kelp OR engine")).total == 0  # or is a word as any other
    log.delete_take(lightship, take.id)
    assert log.takes(TakeFilter(search="kelp")).total == 0


def test_the_index_is_in_no_backup_and_is_made_anew(lightship: Home, tmp_path: Path) -> None:
    backup(lightship, tmp_path / "kept.zip")
    zipfile.ZipFile(tmp_path / "kept.zip").extract("low-tide.db", tmp_path)
    with sqlite3.connect(tmp_path / "low-tide.db") as probe:
        assert not [n for (n,) in probe.execute("select name from sqlite_master") if take_words.INDEX in n]
    database.close()
    with sqlite3.connect(lightship.database) as connection:
        connection.execute(f"drop table {take_words.INDEX}")
    open_home(lightship.folder)
    with database.connection_context():
        assert log.takes(TakeFilter(search="engine drone")).total == 1


def test_the_log_goes_out_whole_while_it_is_written(lightship: Home) -> None:
    with database.reading():
        pieces = log_export.export_json()
        first = next(pieces)
        log_text = first + "".join(pieces)
    told = json.loads(log_text)
    (session,) = told["sessions"]
    assert [t["id"] for t in session["takes"]] == list(range(1, TAKES_IN_ALL + 1))
    for take in session["takes"]:
        assert take["snapshot"] == log.snapshot(take["id"])
        assert take["note"]["name"] == log.take(take["id"]).note.name
    assert json.loads("".join(log_export.export_json(session=99)))["sessions"] == []


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("0001-01-01T00:00", "outside 1970 to 2199"),
        ("1969-12-31T23:59", "outside 1970 to 2199"),
        ("2200-01-01T00:00", "outside 1970 to 2199"),
        ("9999-12-31T23:59:59", "outside 1970 to 2199"),
        ("2199-12-31T00:00", "yet to come"),
        ("12026-01-01", "no date and time"),
    ],
)
def test_a_date_no_clock_shows_is_refused(text: str, says: str) -> None:
    with pytest.raises(Invalid, match=says):
        instant(text)
    assert instant("1970-06-01T12:00+00:00") == "1970-06-01T12:00:00+00:00"


def test_audio_that_work_cut_short_left_without_a_take_goes(lightship: Home) -> None:
    used, unused = log.take(1).audio, "0" * 64 + ".wav"
    assert used
    (lightship.audio / unused).write_bytes(b"RIFF")
    for name in (used, unused):
        mark_unsettled(lightship, name)
    count = len(list(lightship.audio.iterdir()))
    kept_audio.settle(lightship)
    assert len(list(lightship.audio.iterdir())) == count - 3
    assert (lightship.audio / used).exists()


def test_a_take_that_cannot_be_saved_leaves_no_audio(lightship: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    wav = recordings.audio_path(lightship, 3)[0].read_bytes() + b"\0" * 8
    before = sorted(p.name for p in lightship.audio.iterdir())

    def full(*_: Any, **__: Any) -> Any:
        raise sqlite3.OperationalError("database or disk is full")

    monkeypatch.setattr(takes, "update", full)
    with pytest.raises(sqlite3.OperationalError):
        recordings.attach(lightship, 1, "a.wav", io.BytesIO(wav))
    assert sorted(p.name for p in lightship.audio.iterdir()) == before


def test_what_answers_with_a_refusal_has_saved_nothing(lightship: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    state = bench.state("quiet-hold")
    at = {"units": state.units, "saves": state.saves}

    def fails(*_: Any, **__: Any) -> Any:
        raise Conflict("the answer cannot be made")

    for doing in (
        lambda: bench.change("quiet-hold", [SetControl("caisson-120", "line.pot", -7.0)], state.saves),
        lambda: bench.unpin("quiet-hold", state.saves),
        lambda: bench.create("Never kept"),
    ):
        with monkeypatch.context() as patch:
            patch.setattr(bench, "_state", fails)
            with pytest.raises(Conflict, match="cannot be made"):
                doing()
    assert {"units": bench.state("quiet-hold").units, "saves": bench.state("quiet-hold").saves} == at
    assert "Never kept" not in [h.name for h in bench.listed()]


def test_plain_data_that_is_no_record_is_left_alone() -> None:
    for nothing in (None, 3, "x", [], {"units": 3, "links": None, "occasion": []}, {"units": [3], "links": [None]}):
        assert plain_hookup(nothing) == nothing
        assert plain_unit(nothing) == nothing


def test_an_installation_has_one_name_wherever_its_folder_lies(home: Home, tmp_path: Path) -> None:
    drawn = installation(home)
    assert installation(home) == drawn
    database.close()
    moved = home.folder.rename(tmp_path / "elsewhere")
    assert installation(home_at(moved)) == drawn
    (moved / INSTALLATION).write_bytes(b"\xff not a name")
    assert installation(home_at(moved)) not in ("", drawn)


def test_runs_of_listening_outlive_the_change_that_lets_blends_have_them(tmp_path: Path) -> None:
    database.init(tmp_path / "low-tide.db")
    Router(database, migrate_dir=MIGRATIONS).run("007_impulses")
    database.close()
    with sqlite3.connect(tmp_path / "low-tide.db") as old:
        old.execute("insert into comparison (name, doc, saves, at) values ('Four loads', '{}', 1, 'then')")
        old.execute("insert into listening (id, comparison_id, doc, at) values (7, 1, '{\"a\": 1}', 'then')")
    open_home(tmp_path)
    with database.connection_context(), database.atomic():
        assert [(r.id, r.doc, r.at) for r in listening.of(1)] == [(7, {"a": 1}, "then")]
        made = listening.begin(None, {"b": 2}, "now")
        assert made > 7
        assert [r.id for r in listening.of(None)] == [made]
        comparisons.delete(1)
        assert (listening.of(1), listening.find(7)) == ([], None)
