"""Tables. Documents are JSON text; what lists filter and sort by stands in columns of its own."""

from __future__ import annotations

import contextlib
import json
import re
import threading
from collections import Counter
from collections.abc import Callable, Iterator
from functools import wraps
from pathlib import Path
from typing import Any, TypeVar

from peewee import (
    AutoField,
    BooleanField,
    CharField,
    FloatField,
    ForeignKeyField,
    IntegerField,
    Model,
    OperationalError,
    SqliteDatabase,
    TextField,
)

PRAGMAS = {"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 5000, "synchronous": "full", "trusted_schema": 0}
PATIENCE_S = 20.0
WRITES = ("INSERT", "UPDATE", "DELETE", "REPLACE")


INTO = re.compile(r'\s*(?:INSERT(?:\s+OR\s+\w+)?\s+INTO|REPLACE\s+INTO|UPDATE|DELETE\s+FROM)\s+"?(\w+)', re.IGNORECASE)


class Versions:
    """How often each table was written, counted where it is written: only one program ever writes a database.

    While a commit is under way its tables have no version, so that nothing read before it is kept as if read after.
    """

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._count: Counter[str] = Counter()
        self._under_way: Counter[str] = Counter()
        self._epoch = 0
        self._mine = threading.local()

    def _dirty(self) -> set[str]:
        found: set[str] = self._mine.__dict__.setdefault("tables", set())
        return found

    def _looking_back(self) -> bool:
        return bool(self._mine.__dict__.get("looking_back", False))

    @contextlib.contextmanager
    def looking_back(self) -> Iterator[None]:
        """What this thread reads may be older than what is there by now."""
        self._mine.looking_back = True
        try:
            yield
        finally:
            self._mine.looking_back = False

    def begin_anew(self) -> None:
        """Another database: nothing that was kept holds."""
        with self._lock:
            self._epoch += 1

    def of(self, tables: tuple[str, ...]) -> tuple[int, ...] | None:
        with self._lock:
            mine = self._looking_back() or self._dirty().intersection(tables)
            if mine or any(self._under_way[table] for table in tables):
                return None
            return self._epoch, *(self._count[table] for table in tables)

    def written(self, sql: str) -> None:
        """This thread has written; nobody else sees it yet."""
        found = INTO.match(sql)
        self._dirty().add(found[1].lower() if found else "")

    def undone(self) -> None:
        self._dirty().clear()

    @contextlib.contextmanager
    def being_done(self) -> Iterator[None]:
        """While it lasts, what this thread has written may be seen by others at any moment."""
        tables = tuple(self._dirty())
        with self._lock:
            self._under_way.update(tables)
        try:
            yield
        finally:
            self._dirty().clear()
            with self._lock:
                self._count.update(tables)
                self._under_way.subtract(tables)


Made = TypeVar("Made")


def remembered(*tables: str) -> Callable[[Callable[[], Made]], Callable[[], Made]]:
    """Of a function of these tables alone: what it gave last is given again until one of them is written. Whoever gets
    it leaves it as it is."""

    def of(make: Callable[[], Made]) -> Callable[[], Made]:
        kept: list[tuple[tuple[int, ...], Made]] = []

        @wraps(make)
        def found() -> Made:
            version = database.version(*tables)
            last = kept[-1] if kept else None
            if version is not None and last is not None and last[0] == version:
                return last[1]
            made = make()
            if version is not None:
                kept[:] = [(version, made)]
            return made

        return found

    return of


class Database(SqliteDatabase):
    """One that is written in transactions alone, each of which holds the write lock from its beginning: what a use
    case saw in it still holds when it writes, and another that wants to write waits instead of being refused."""

    def __init__(self) -> None:
        super().__init__(None, lock_type="IMMEDIATE")
        self._versions = Versions()
        self._gate = threading.Condition()
        self._opened = 0
        self._alone: int | None = None

    def lies_at(self, path: Path) -> None:
        """Say where the database lies. It is there already: what is gone is not made anew unseen."""
        if not self.is_closed():
            self.close()
        self.init(f"{path.absolute().as_uri()}?mode=rw", uri=True, pragmas=PRAGMAS)
        self._versions.begin_anew()

    def version(self, *tables: str) -> tuple[int, ...] | None:
        """What is worked out of these tables holds as long as this stays the same. None: nothing may be kept or taken
        from what was kept, since they are being written, by this thread or by one that is about to have done so."""
        return self._versions.of(tables)

    def connect(self, reuse_if_open: bool = False) -> bool:
        """Open this thread's connection. Waits while somebody has the database alone."""
        if reuse_if_open and not self.is_closed():
            return False
        with self._gate:
            me = threading.get_ident()
            if not self._gate.wait_for(lambda: self._alone in (None, me), PATIENCE_S):
                raise OperationalError("database is locked")
            self._opened += 1
        try:
            opened: bool = super().connect(reuse_if_open)
        except BaseException:
            self._left()
            raise
        return opened

    def close(self) -> bool:
        closed: bool = super().close()
        if closed:
            self._left()
        return closed

    def _left(self) -> None:
        with self._gate:
            self._opened -= 1
            self._gate.notify_all()

    @contextlib.contextmanager
    def alone(self) -> Iterator[None]:
        """No other thread has a connection in it, or gets one before its end. OperationalError where some do not close
        theirs in time."""
        self.close()
        with self._gate:
            if not self._gate.wait_for(lambda: self._alone is None, PATIENCE_S):
                raise OperationalError("database is locked")
            self._alone = threading.get_ident()
            if not self._gate.wait_for(lambda: self._opened == 0, PATIENCE_S):
                self._alone = None
                self._gate.notify_all()
                raise OperationalError("database is locked")
        try:
            yield
        finally:
            self.close()
            with self._gate:
                self._alone = None
                self._gate.notify_all()

    def execute_sql(self, sql: str, params: Any = None) -> Any:
        if sql.lstrip()[:7].upper().startswith(WRITES):
            if not self.in_transaction():
                raise RuntimeError("the database is written outside a transaction")
            self._versions.written(sql)
        if sql.startswith("ROLLBACK") and not self.connection().in_transaction:
            return None  # undone already, see `rollback`
        return super().execute_sql(sql, params)

    def rollback(self) -> None:
        """Undo what the transaction did. Where the disk failed SQLite has done so itself; asked again, it would answer
        with an error that hides the one that counts."""
        if self.connection().in_transaction:
            super().rollback()
        self._versions.undone()

    def commit(self) -> None:
        with self._versions.being_done():
            super().commit()

    @contextlib.contextmanager
    def reading(self) -> Iterator[None]:
        """Everything read in it is as it stands at its beginning; others write meanwhile. With a connection of its own
        where the thread has none."""
        opened = self.connect(reuse_if_open=True)
        try:
            with self._versions.looking_back(), self.transaction("DEFERRED"):
                yield
        finally:
            if opened:
                self.close()


database = Database()
"""The one database; `files.open_home` says where it lies."""


class JsonField(TextField):
    """JSON text in the column, plain data in Python."""

    def db_value(self, value: Any) -> str | None:
        return None if value is None else json.dumps(value, ensure_ascii=False)

    def python_value(self, value: str | None) -> Any:
        return None if value is None else json.loads(value)


class Table(Model):
    class Meta:
        database = database


class GearRow(Table):
    """A unit of the locker. `revision` counts its edits, so two tabs cannot overwrite each other unseen."""

    id = CharField(primary_key=True, max_length=64)
    kind = CharField(index=True)
    name = CharField()
    archived = BooleanField(default=False)
    revision = IntegerField(default=1)
    doc = JsonField()
    updated = CharField()

    class Meta:
        table_name = "gear"


class HookupRow(Table):
    """A hook-up: which revision it stands at, whether it is on, and its run sheet's state.

    `redo` holds the revisions that undo came from, the nearest last. `saves` counts every move.
    """

    id = CharField(primary_key=True, max_length=64)
    name = CharField()
    archived = BooleanField(default=False)
    current = IntegerField(default=1)
    newest = IntegerField(default=1)
    redo = JsonField(default=list)
    saves = IntegerField(default=1)
    is_on = BooleanField(default=False)
    run = JsonField(default=dict)
    pinned = JsonField(default=list)
    updated = CharField()

    class Meta:
        table_name = "hookup"


class RevisionRow(Table):
    """One state of a hook-up and the one it was made from. Numbers are never used again and rows never
    deleted, so a window that saw a state can always come back to it."""

    id = AutoField()
    hookup = ForeignKeyField(HookupRow, backref="revisions", on_delete="CASCADE")
    number = IntegerField()
    parent = IntegerField(null=True)
    label = CharField()
    doc = JsonField()
    at = CharField()

    class Meta:
        table_name = "revision"
        indexes = ((("hookup", "number"), True),)


class SessionRow(Table):
    id = AutoField()
    name = CharField()
    notes = TextField(default="")
    started = CharField()

    class Meta:
        table_name = "session"


class TakeRow(Table):
    """A take. `saves` counts what was said of it, so two tabs cannot overwrite each other unseen."""

    id = AutoField()
    session = ForeignKeyField(SessionRow, backref="takes", on_delete="CASCADE")
    session_id: int
    number = IntegerField()
    saves = IntegerField(default=1)
    name = CharField()
    part = CharField(default="")
    notes = TextField(default="")
    controls = JsonField(default=list)
    measured_peak = FloatField(null=True)
    hookup_name = CharField()
    hookup_id = CharField()
    verdict = CharField()
    expected_peak = FloatField(null=True)
    accepted = JsonField(default=list)
    audio = CharField(null=True, index=True)
    audio_name = CharField(null=True)
    measures = JsonField(null=True)
    at = CharField()

    class Meta:
        table_name = "take"
        indexes = ((("session", "number"), True),)


class SnapshotRow(Table):
    """The hook-up, gear and results as they were at a take; never written again. It is large, and no list needs it."""

    take = ForeignKeyField(TakeRow, primary_key=True, on_delete="CASCADE")
    doc = JsonField()

    class Meta:
        table_name = "snapshot"


class ReadingRow(Table):
    """A level that was read off a meter, or listened to. `doc` says which and how.

    `hookup` and `revision`: what sounded, None where nobody said. `used`: it counts for the calibration.
    """

    id = AutoField()
    kind = CharField()
    place = CharField(index=True)
    hookup = CharField(null=True)
    revision = IntegerField(null=True)
    minutes = FloatField(default=0)
    level = FloatField()
    used = BooleanField(default=True)
    doc = JsonField()
    at = CharField(index=True)

    class Meta:
        table_name = "reading"


class NoteRow(Table):
    """A line in the log that belongs to no take: what was picked, what was noticed."""

    id = AutoField()
    session = ForeignKeyField(SessionRow, backref="lines", on_delete="CASCADE")
    text = TextField()
    at = CharField()

    class Meta:
        table_name = "note"


class PreferenceRow(Table):
    """The user's schools, one row. `saves` counts their changes."""

    id = IntegerField(primary_key=True)
    doc = JsonField()
    saves = IntegerField(default=1)

    class Meta:
        table_name = "preference"


TABLES = (GearRow, HookupRow, RevisionRow, SessionRow, TakeRow, SnapshotRow, PreferenceRow, ReadingRow, NoteRow)
