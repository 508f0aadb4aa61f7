"""Plain SQL in, typed rows out: what every repository stands on."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from typing import Any, TypeAlias

from low_tide.store.database import database

Json: TypeAlias = dict[str, Any]
Row: TypeAlias = tuple[Any, ...]
AT_ONCE = 200


def one(sql: str, *values: object) -> Row | None:
    """The first row, or None."""
    found: Row | None = database.execute_sql(sql, values).fetchone()
    return found


def every(sql: str, *values: object) -> list[Row]:
    """All rows."""
    found: list[Row] = database.execute_sql(sql, values).fetchall()
    return found


def each(sql: str, *values: object) -> Iterator[Row]:
    """The rows one after the other, so that many need not lie in memory."""
    cursor = database.execute_sql(sql, values)
    while some := cursor.fetchmany(AT_ONCE):
        yield from some


def write(sql: str, *values: object) -> int:
    """Run a statement that writes; how many rows it touched."""
    return int(database.execute_sql(sql, values).rowcount)


def insert(table: str, values: Json) -> int:
    """Insert a row from its columns; its number."""
    marks = ", ".join("?" for _ in values)
    sql = f"INSERT INTO {table} ({', '.join(values)}) VALUES ({marks})"
    return int(database.execute_sql(sql, tuple(values.values())).lastrowid)


def update(table: str, values: Json, where: str, *at: object) -> int:
    """Set columns of the rows where something holds; how many there were."""
    marks = ", ".join(f"{column} = ?" for column in values)
    return write(f"UPDATE {table} SET {marks} WHERE {where}", *values.values(), *at)


def text(value: object) -> str | None:
    """A document as it lies in a column."""
    return None if value is None else json.dumps(value, ensure_ascii=False)


def plain(value: str | None) -> Any:
    """A document as it was."""
    return None if value is None else json.loads(value)


def marks(values: Sequence[object]) -> str:
    """As many question marks as values, for `IN (…)`."""
    return ", ".join("?" for _ in values)
