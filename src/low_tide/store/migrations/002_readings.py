"""Readings of levels, and lines of the log that belong to no take."""

from typing import Any

TABLES = """
CREATE TABLE reading (id INTEGER NOT NULL PRIMARY KEY, kind VARCHAR(255) NOT NULL, place VARCHAR(255) NOT NULL,
    hookup VARCHAR(255), revision INTEGER, minutes REAL NOT NULL, level REAL NOT NULL, used INTEGER NOT NULL,
    doc TEXT NOT NULL, at VARCHAR(255) NOT NULL);
CREATE INDEX readingrow_place ON reading (place);
CREATE INDEX readingrow_at ON reading (at);
CREATE TABLE note (id INTEGER NOT NULL PRIMARY KEY, session_id INTEGER NOT NULL, text TEXT NOT NULL,
    at VARCHAR(255) NOT NULL, FOREIGN KEY (session_id) REFERENCES session (id) ON DELETE CASCADE);
CREATE INDEX noterow_session_id ON note (session_id);
CREATE INDEX noterow_at ON note (at);
"""


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    """Create their tables."""
    for statement in TABLES.split(";\n"):
        if statement.strip():
            migrator.sql(statement)
