"""Impulse responses, and blends of them."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE impulse (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, audio VARCHAR(255) NOT NULL,"
    " channel INTEGER NOT NULL DEFAULT 0, doc TEXT NOT NULL, analysis TEXT NOT NULL, version INTEGER NOT NULL,"
    " at VARCHAR(255) NOT NULL)",
    "CREATE INDEX impulse_audio ON impulse (audio)",
    "CREATE TABLE blend (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, name VARCHAR(255) NOT NULL,"
    " doc TEXT NOT NULL, saves INTEGER NOT NULL DEFAULT 1, at VARCHAR(255) NOT NULL)",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
