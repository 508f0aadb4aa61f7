"""What a recording was found to hold; at which input a take was recorded, and where in the song it begins."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE inspection (audio TEXT NOT NULL PRIMARY KEY, version INTEGER NOT NULL, doc TEXT NOT NULL)",
    "CREATE TABLE played (take_id INTEGER NOT NULL PRIMARY KEY REFERENCES take (id) ON DELETE CASCADE,"
    " amp TEXT NOT NULL, mode TEXT NOT NULL, offset REAL NOT NULL, playing_range REAL, simulated INTEGER NOT NULL,"
    " used INTEGER NOT NULL)",
    "CREATE INDEX played_amp ON played (amp, mode)",
    "ALTER TABLE take ADD COLUMN recorded_at VARCHAR(255) NOT NULL DEFAULT ''",
    "ALTER TABLE take ADD COLUMN song_start REAL",
    "ALTER TABLE take ADD COLUMN simulated INTEGER NOT NULL DEFAULT 0",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
