"""The database as everybody uses it: written in transactions alone, counted where it is written, and had alone by who
puts another in its place."""

from __future__ import annotations

import contextlib
import re
import threading
from collections import Counter
from collections.abc import Callable, Iterator
from functools import wraps
from pathlib import Path
from typing import Any, TypeVar

from peewee import DatabaseError, OperationalError, SqliteDatabase

__all__ = ["Database", "DatabaseError", "database", "remembered"]

PRAGMAS = {"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 5000, "synchronous": "full", "trusted_schema": 0}
PATIENCE_S = 20.0
OTHER_DATA = "*"
"""In place of a table that was written: another database was put in place."""
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
        self.heard_by: Callable[[tuple[str, ...]], None] | None = None

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
        if self.heard_by:
            self.heard_by((OTHER_DATA,))

    @property
    def epoch(self) -> int:
        return self._epoch

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

    def touched(self, what: str) -> None:
        self._dirty().add(what)

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
        if tables and self.heard_by:
            self.heard_by(tuple(sorted(tables)))


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

    @property
    def opened(self) -> int:
        """How often a database was put in place of another: what was begun with one must not end in the next."""
        return self._versions.epoch

    def version(self, *tables: str) -> tuple[int, ...] | None:
        """What is worked out of these tables holds as long as this stays the same. None: nothing may be kept or taken
        from what was kept, since they are being written, by this thread or by one that is about to have done so."""
        return self._versions.of(tables)

    def heard_by(self, hear: Callable[[tuple[str, ...]], None]) -> None:
        """After every commit that wrote, say which tables; OTHER_DATA where another database was put in place."""
        self._versions.heard_by = hear

    def touched(self, what: str) -> None:
        """Count something that is less than a table as written, by the transaction this thread is in."""
        self._versions.touched(what)

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
        if sql.startswith("ROLLBACK") and not self.connection().in_transaction:  # type: ignore[no-untyped-call]
            return None  # undone already, see `rollback`
        return super().execute_sql(sql, params)  # type: ignore[no-untyped-call]

    def rollback(self) -> None:
        """Undo what the transaction did. Where the disk failed SQLite has done so itself; asked again, it would answer
        with an error that hides the one that counts."""
        if self.connection().in_transaction:  # type: ignore[no-untyped-call]
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
