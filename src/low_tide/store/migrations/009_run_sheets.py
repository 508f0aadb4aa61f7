"""What runs by the clock, what was read off at steps, and what of a kit list is packed."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE timer (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, kind VARCHAR(255) NOT NULL,"
    " hookup VARCHAR(255) NOT NULL DEFAULT '', about VARCHAR(255) NOT NULL DEFAULT '', label TEXT NOT NULL,"
    " started VARCHAR(255) NOT NULL, ends VARCHAR(255) NOT NULL)",
    "CREATE TABLE step_reading (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, hookup VARCHAR(255) NOT NULL,"
    " step VARCHAR(255) NOT NULL, quantity VARCHAR(255) NOT NULL, about VARCHAR(255) NOT NULL DEFAULT '',"
    " state TEXT NOT NULL DEFAULT '', value REAL, answer VARCHAR(255) NOT NULL,"
    " simulated INTEGER NOT NULL DEFAULT 0, at VARCHAR(255) NOT NULL)",
    "CREATE INDEX step_reading_hookup ON step_reading (hookup)",
    "CREATE INDEX step_reading_about ON step_reading (about)",
    "CREATE TABLE kit (hookups VARCHAR(255) NOT NULL PRIMARY KEY, doc TEXT NOT NULL)",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
