"""What is worked out of tables once is given again only while they are what they were."""

from __future__ import annotations

import threading
import time

import pytest

from low_tide.app import bench, locker
from low_tide.app.preferences import choose, preferences
from low_tide.demo.gear import GEAR
from low_tide.formats.documents import dump
from low_tide.store.database import database, remembered
from low_tide.store.files import open_home
from low_tide.store.home import Home
from low_tide.store.models import NoteRow, SessionRow


@remembered("note")
def notes() -> int:
    """How many there are; slow enough for somebody to write meanwhile."""
    found = NoteRow.select().count()
    time.sleep(0.001)
    return found


def write() -> None:
    with database.atomic():
        NoteRow.create(session=SessionRow.select().first(), text="x", at="")


def elsewhere(do: object) -> list[object]:
    """What something gives in a thread with a connection of its own."""
    found: list[object] = []

    def run() -> None:
        with database.connection_context():
            found.append(do())  # type: ignore[operator]

    thread = threading.Thread(target=run)
    thread.start()
    thread.join()
    return found


def test_it_is_given_again_until_its_tables_are_written(lightship: Home) -> None:
    first = locker.all_gear()
    assert locker.all_gear() is first
    write()
    assert locker.all_gear() is first
    locker.add({"kind": "lead", "name": "New"})
    assert len(locker.all_gear()) == len(first) + 1


def test_what_is_not_committed_is_seen_by_who_wrote_it_alone(lightship: Home) -> None:
    before = notes()
    with database.atomic() as transaction:
        NoteRow.create(session=SessionRow.select().first(), text="x", at="")
        assert notes() == before + 1
        assert elsewhere(notes) == [before]
        transaction.rollback()
    assert notes() == before


def test_what_is_read_of_an_older_state_is_not_kept(lightship: Home) -> None:
    before = notes()
    with database.reading():
        NoteRow.select().count()  # from here on this thread sees the records as they are now
        elsewhere(write)
        assert notes() == before
    assert notes() == before + 1


def test_nobody_is_given_less_than_was_acknowledged(lightship: Home) -> None:
    acknowledged, stop, wrong = [notes()], threading.Event(), []

    def writes() -> None:
        with database.connection_context():
            for _ in range(60):
                write()
                acknowledged[0] += 1

    def reads() -> None:
        with database.connection_context():
            while not stop.is_set():
                least = acknowledged[0]
                found = notes()
                if found < least:
                    wrong.append((least, found))

    readers = [threading.Thread(target=reads) for _ in range(3)]
    writer = threading.Thread(target=writes)
    for thread in (*readers, writer):
        thread.start()
    writer.join()
    stop.set()
    for thread in readers:
        thread.join()
    assert wrong == []
    assert notes() == acknowledged[0]


def test_another_database_is_another_matter(lightship: Home, tmp_path_factory: pytest.TempPathFactory) -> None:
    assert locker.all_gear()
    database.close()
    open_home(tmp_path_factory.mktemp("empty"))
    with database.connection_context():
        assert locker.all_gear() == {}
        assert bench.listed() == []


def test_a_listed_verdict_follows_gear_schools_and_edits(lightship: Home) -> None:
    def told() -> str:
        return next(h.severity for h in bench.listed() if h.id == "quiet-hold")

    assert told() == bench.state("quiet-hold").analysis.verdict.severity
    entry = locker.get("caisson-120")
    locker.edit("caisson-120", {**dump(GEAR["caisson-120"]), "rating": 5.0}, entry.revision)
    assert told() == bench.state("quiet-hold").analysis.verdict.severity == "stop"
    locker.edit("caisson-120", dump(GEAR["caisson-120"]), entry.revision + 1)
    assert told() == bench.state("quiet-hold").analysis.verdict.severity
    choose({**dump(preferences()), "margin": "double"})
    for entry_ in bench.listed():
        assert entry_.severity == bench.state(entry_.id).analysis.verdict.severity
