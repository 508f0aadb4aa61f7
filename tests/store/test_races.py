"""Use cases at one time: nothing that was acknowledged is lost, and nobody who may wait is refused."""

from __future__ import annotations

import io
import os
import threading
from collections.abc import Callable
from typing import Any

import pytest

from low_tide.app import bench, locker, log, readings, recordings
from low_tide.app.errors import InUse, NotFound, Refusal
from low_tide.core.rig.changes import AddUnit, RemoveUnit, SetControl
from low_tide.demo.fill import Recipe, encoded, take
from low_tide.store.database import database
from low_tide.store.home import Home, audio_file
from low_tide.store.models import ImpulseRow, SessionRow, TakeRow

ROUNDS = int(os.environ.get("ROUNDS", "12"))
"""How often each race is run; `make attack` asks for many more."""


def at_once(*doing: Callable[[], Any]) -> list[Any]:
    """Does several things at one time, each with a connection of its own; answers or refusals in their order."""
    found: list[Any] = [None] * len(doing)
    start = threading.Barrier(len(doing))

    def run(n: int) -> None:
        start.wait()
        try:
            with database.connection_context():
                found[n] = doing[n]()
        except Refusal as refused:
            found[n] = refused

    threads = [threading.Thread(target=run, args=(n,)) for n in range(len(doing))]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return found


def sound(seed: int) -> bytes:
    return encoded(take(Recipe((110.0,), 2.0, -10.0), seed=seed)[:8000], "WAV")


def test_what_is_said_of_a_take_and_its_audio_do_not_undo_each_other(lightship: Home) -> None:
    take_id = log.takes().takes[0].id
    for n in range(ROUNDS):
        wav, note = sound(n), {"name": f"Take {n}", "notes": "as heard"}
        at_once(
            lambda note=note: log.edit_take(take_id, note),
            lambda n=n, wav=wav: recordings.attach(lightship, take_id, f"take-{n}.wav", io.BytesIO(wav)),
        )
        after = log.take(take_id)
        assert (after.note.name, after.audio_name) == (f"Take {n}", f"take-{n}.wav")
        assert recordings.audio_path(lightship, take_id)[0].read_bytes() == wav


def test_archiving_does_not_undo_an_edit(lightship: Home) -> None:
    for n in range(ROUNDS):
        before = bench.state("quiet-hold")
        pot = SetControl("caisson-120", "line.pot", float(-(n % 30) - 1))
        edited, _ = at_once(
            lambda pot=pot, before=before: bench.change("quiet-hold", [pot], before.saves),
            lambda: bench.archive("quiet-hold"),
        )
        after = bench.unarchive("quiet-hold")
        assert (after.saves, after.revision) == (edited.saves, edited.revision)


def test_audio_that_two_takes_share_stays_while_one_has_it(lightship: Home) -> None:
    first, second = (t.id for t in log.takes().takes[:2])
    for n in range(ROUNDS):
        wav = sound(100 + n)
        recordings.attach(lightship, first, "a.wav", io.BytesIO(wav))
        at_once(
            lambda: recordings.attach(lightship, first, "b.wav", io.BytesIO(sound(500))),
            lambda wav=wav: recordings.attach(lightship, second, "c.wav", io.BytesIO(wav)),
        )
        assert recordings.audio_path(lightship, second)[0].read_bytes() == wav
    at_once(*(lambda t=t: log.delete_take(lightship, t) for t in (first, second)))
    kept = {row.audio for table in (TakeRow, ImpulseRow) for row in table.select() if row.audio}
    assert {f.name for f in lightship.audio.iterdir()} == kept


def test_audio_for_a_take_that_is_gone_is_refused(lightship: Home) -> None:
    take_id = log.takes().takes[0].id
    for n in range(4):
        session = log.sessions()[0].id
        take_id = log.log_take(session, "quiet-hold", {"name": "Gone"}).id
        attached, _ = at_once(
            lambda n=n, take_id=take_id: recordings.attach(lightship, take_id, "a.wav", io.BytesIO(sound(n))),
            lambda take_id=take_id: log.delete_take(lightship, take_id),
        )
        assert isinstance(attached, NotFound | log.Take)
        with pytest.raises(NotFound):
            log.take(take_id)
    kept = {row.audio for table in (TakeRow, ImpulseRow) for row in table.select() if row.audio}
    assert {f.name for f in lightship.audio.iterdir()} == kept


def test_a_first_session_is_begun_once(home: Home) -> None:
    with database.connection_context():
        at_once(*(lambda n=n: log.write_line(f"line {n}") for n in range(6)))
        assert SessionRow.select().count() == 1
        assert len(log.lines()) == 6


def test_many_at_once_wait_instead_of_being_refused(home: Home) -> None:
    with database.connection_context():
        made = at_once(*(lambda n=n: locker.add({"kind": "lead", "name": f"Lead {n}"}) for n in range(12)))
        assert {entry.unit.name for entry in made} == {f"Lead {n}" for n in range(12)}


def test_nothing_is_written_outside_a_transaction(lightship: Home) -> None:
    with pytest.raises(RuntimeError, match="outside a transaction"):
        SessionRow.create(name="Loose", started="2026-01-01")
    with pytest.raises(RuntimeError, match="outside a transaction"):
        TakeRow.update(name="Loose").execute()


def test_what_undo_may_lead_back_to_is_not_deleted(lightship: Home) -> None:
    lamp = locker.add({"kind": "pedal", "name": "Lamp", "does": "volume"}).unit.id
    state = bench.change("quiet-hold", [AddUnit(lamp)], bench.state("quiet-hold").saves)
    with pytest.raises(InUse, match="is used in"):
        locker.delete(lamp)
    state = bench.change("quiet-hold", [RemoveUnit(lamp)], state.saves)
    with pytest.raises(InUse, match="undo may lead back to it there"):
        locker.delete(lamp)
    assert lamp in {u.id for u in bench.step("quiet-hold", -1, state.saves).units}
    spare = locker.add({"kind": "pedal", "name": "Spare", "does": "volume"}).unit.id
    locker.delete(spare)
    with pytest.raises(NotFound):
        locker.get(spare)


@pytest.mark.parametrize("name", ["../../low-tide.db", "low-tide.db", "x.html", "/etc/hostname", "0" * 64 + ".html"])
def test_a_name_in_the_database_reaches_no_other_file(lightship: Home, name: str) -> None:
    outside = lightship.audio / name
    existed = outside.exists()
    take_id = log.takes().takes[0].id
    with database.atomic():
        TakeRow.update(audio=name, audio_name=name).where(TakeRow.id == take_id).execute()
    assert audio_file(lightship, name) is None
    with pytest.raises(NotFound):
        recordings.audio_path(lightship, take_id)
    log.delete_take(lightship, take_id)
    assert outside.exists() == existed


def test_readings_at_one_time_all_count(lightship: Home) -> None:
    doc = {"place": "at-the-desk", "level": 62.0}
    before = len(readings.listed())
    at_once(*(lambda n=n: readings.add("quiet-hold", {**doc, "level": 62.0 + n / 10}) for n in range(6)))
    assert len(readings.listed()) == before + 6
