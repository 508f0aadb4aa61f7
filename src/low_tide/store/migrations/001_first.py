"""The first schema."""

from typing import Any

TABLES = """
CREATE TABLE gear (id VARCHAR(64) NOT NULL PRIMARY KEY, kind VARCHAR(255) NOT NULL, name VARCHAR(255) NOT NULL,
    archived INTEGER NOT NULL, revision INTEGER NOT NULL, doc TEXT NOT NULL, updated VARCHAR(255) NOT NULL);
CREATE INDEX gearrow_kind ON gear (kind);
CREATE TABLE hookup (id VARCHAR(64) NOT NULL PRIMARY KEY, name VARCHAR(255) NOT NULL, archived INTEGER NOT NULL,
    current INTEGER NOT NULL, newest INTEGER NOT NULL, redo TEXT NOT NULL, saves INTEGER NOT NULL,
    is_on INTEGER NOT NULL, run TEXT NOT NULL, pinned TEXT NOT NULL, updated VARCHAR(255) NOT NULL);
CREATE TABLE revision (id INTEGER NOT NULL PRIMARY KEY, hookup_id VARCHAR(64) NOT NULL, number INTEGER NOT NULL,
    parent INTEGER, label VARCHAR(255) NOT NULL, doc TEXT NOT NULL, at VARCHAR(255) NOT NULL,
    FOREIGN KEY (hookup_id) REFERENCES hookup (id) ON DELETE CASCADE);
CREATE INDEX revisionrow_hookup_id ON revision (hookup_id);
CREATE UNIQUE INDEX revisionrow_hookup_id_number ON revision (hookup_id, number);
CREATE TABLE session (id INTEGER NOT NULL PRIMARY KEY, name VARCHAR(255) NOT NULL, notes TEXT NOT NULL,
    started VARCHAR(255) NOT NULL);
CREATE TABLE take (id INTEGER NOT NULL PRIMARY KEY, session_id INTEGER NOT NULL, number INTEGER NOT NULL,
    name VARCHAR(255) NOT NULL, part VARCHAR(255) NOT NULL, notes TEXT NOT NULL, controls TEXT NOT NULL,
    measured_peak REAL, hookup_name VARCHAR(255) NOT NULL, hookup_id VARCHAR(255) NOT NULL,
    verdict VARCHAR(255) NOT NULL, expected_peak REAL, accepted TEXT NOT NULL, snapshot TEXT NOT NULL,
    audio VARCHAR(255), audio_name VARCHAR(255), measures TEXT, at VARCHAR(255) NOT NULL,
    FOREIGN KEY (session_id) REFERENCES session (id) ON DELETE CASCADE);
CREATE INDEX takerow_session_id ON take (session_id);
CREATE INDEX takerow_at ON take (at);
CREATE UNIQUE INDEX takerow_session_id_number ON take (session_id, number);
CREATE TABLE preference (id INTEGER NOT NULL PRIMARY KEY, doc TEXT NOT NULL);
"""


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    """Create the tables of the first release."""
    for statement in TABLES.split(";\n"):
        if statement.strip():
            migrator.sql(statement)
