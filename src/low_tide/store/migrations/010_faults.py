"""Searches for faults, and units that are suspect."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE fault (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, hookup VARCHAR(255) NOT NULL,"
    " symptom VARCHAR(255) NOT NULL, doc TEXT NOT NULL, saves INTEGER NOT NULL DEFAULT 1,"
    " ended VARCHAR(255), cause VARCHAR(255), at VARCHAR(255) NOT NULL)",
    "CREATE INDEX fault_hookup ON fault (hookup)",
    "CREATE TABLE suspect (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, unit VARCHAR(255) NOT NULL,"
    " why TEXT NOT NULL, at VARCHAR(255) NOT NULL, cleared VARCHAR(255), word TEXT NOT NULL DEFAULT '')",
    "CREATE INDEX suspect_unit ON suspect (unit)",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
