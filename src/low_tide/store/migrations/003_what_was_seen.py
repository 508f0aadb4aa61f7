"""What a window saw is counted for takes and preferences too; no number of a record is ever used again; what a take
keeps of its hook-up lies apart, so that lists need not read over it; ids of gear have a fixed alphabet."""

import json
from collections.abc import Callable
from typing import Any

from low_tide.core.gear.ids import plain_hookup, plain_id, plain_unit

COUNTED = """
ALTER TABLE preference ADD COLUMN saves INTEGER NOT NULL DEFAULT 1;
ALTER TABLE session RENAME TO old_session;
ALTER TABLE take RENAME TO old_take;
ALTER TABLE note RENAME TO old_note;
ALTER TABLE reading RENAME TO old_reading;
CREATE TABLE session (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, notes TEXT NOT NULL,
    started TEXT NOT NULL);
INSERT INTO session SELECT id, name, notes, started FROM old_session;
CREATE TABLE take (id INTEGER PRIMARY KEY AUTOINCREMENT, session_id INTEGER NOT NULL, number INTEGER NOT NULL,
    saves INTEGER NOT NULL, name TEXT NOT NULL, part TEXT NOT NULL, notes TEXT NOT NULL, controls TEXT NOT NULL,
    measured_peak REAL, hookup_name TEXT NOT NULL, hookup_id TEXT NOT NULL, verdict TEXT NOT NULL, expected_peak REAL,
    accepted TEXT NOT NULL, audio TEXT, audio_name TEXT, measures TEXT, at TEXT NOT NULL,
    FOREIGN KEY (session_id) REFERENCES session (id) ON DELETE CASCADE);
INSERT INTO take SELECT id, session_id, number, 1, name, part, notes, controls, measured_peak, hookup_name, hookup_id,
    verdict, expected_peak, accepted, audio, audio_name, measures, at FROM old_take;
CREATE TABLE snapshot (take_id INTEGER NOT NULL PRIMARY KEY, doc TEXT NOT NULL,
    FOREIGN KEY (take_id) REFERENCES take (id) ON DELETE CASCADE);
INSERT INTO snapshot SELECT id, snapshot FROM old_take;
CREATE TABLE note (id INTEGER PRIMARY KEY AUTOINCREMENT, session_id INTEGER NOT NULL, text TEXT NOT NULL,
    at TEXT NOT NULL, FOREIGN KEY (session_id) REFERENCES session (id) ON DELETE CASCADE);
INSERT INTO note SELECT id, session_id, text, at FROM old_note;
CREATE TABLE reading (id INTEGER PRIMARY KEY AUTOINCREMENT, kind TEXT NOT NULL, place TEXT NOT NULL, hookup TEXT,
    revision INTEGER, minutes REAL NOT NULL, level REAL NOT NULL, used INTEGER NOT NULL, doc TEXT NOT NULL,
    at TEXT NOT NULL);
INSERT INTO reading SELECT id, kind, place, hookup, revision, minutes, level, used, doc, at FROM old_reading;
DROP TABLE old_reading;
DROP TABLE old_note;
DROP TABLE old_take;
DROP TABLE old_session;
CREATE UNIQUE INDEX takerow_session_id_number ON take (session_id, number);
CREATE INDEX takerow_audio ON take (audio);
CREATE INDEX noterow_session_id ON note (session_id);
CREATE INDEX readingrow_place ON reading (place);
CREATE INDEX readingrow_at ON reading (at);
"""


def _rewrite(database: Any, table: str, column: str, made: Callable[[str], str], where: str = "1") -> None:
    """Put `made(text)` in place of every text of a column that it changes."""
    for key, text in database.execute_sql(f"SELECT rowid, {column} FROM {table} WHERE {where}").fetchall():
        if text is not None and (found := made(text)) != text:
            database.execute_sql(f"UPDATE {table} SET {column} = ? WHERE rowid = ?", (found, key))


def _in_json(made: Callable[[Any], Any]) -> Callable[[str], str]:
    return lambda text: json.dumps(made(json.loads(text)), ensure_ascii=False)


def _plain_ids(database: Any) -> None:
    old = [row[0] for row in database.execute_sql("SELECT id FROM gear").fetchall()]
    if all(plain_id(each) == each for each in old):
        return
    _rewrite(database, "gear", "id", plain_id)
    _rewrite(database, "gear", "doc", _in_json(plain_unit))
    _rewrite(database, "hookup", "pinned", _in_json(lambda docs: [plain_unit(doc) for doc in docs]))
    _rewrite(database, "revision", "doc", _in_json(plain_hookup))
    _rewrite(database, "reading", "place", plain_id)
    _rewrite(
        database, "reading", "doc", _in_json(lambda doc: {**doc, "place": plain_id(doc.get("place"))}), "kind = 'meter'"
    )


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in COUNTED.split(";\n"):
        if statement.strip():
            migrator.sql(statement)
    migrator.run(_plain_ids, database)
