"""Recordings that are compared, what was found between two of them, and what was heard without knowing."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE comparison (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, name VARCHAR(255) NOT NULL,"
    " doc TEXT NOT NULL, saves INTEGER NOT NULL DEFAULT 1, at VARCHAR(255) NOT NULL)",
    "CREATE TABLE compared_file (comparison_id INTEGER NOT NULL REFERENCES comparison (id) ON DELETE CASCADE,"
    " audio VARCHAR(255) NOT NULL, PRIMARY KEY (comparison_id, audio))",
    "CREATE INDEX compared_file_audio ON compared_file (audio)",
    "CREATE TABLE held (reference VARCHAR(255) NOT NULL, audio VARCHAR(255) NOT NULL, version INTEGER NOT NULL,"
    " doc TEXT NOT NULL, PRIMARY KEY (reference, audio))",
    "CREATE TABLE listening (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT,"
    " comparison_id INTEGER NOT NULL REFERENCES comparison (id) ON DELETE CASCADE, doc TEXT NOT NULL,"
    " at VARCHAR(255) NOT NULL)",
    "CREATE INDEX listening_comparison ON listening (comparison_id)",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
