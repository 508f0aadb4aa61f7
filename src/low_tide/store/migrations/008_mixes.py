"""Blends can be listened to without knowing, not comparisons alone; and what a guitar is heard against."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE listened (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, comparison_id INTEGER,"
    " doc TEXT NOT NULL, at VARCHAR(255) NOT NULL,"
    " FOREIGN KEY (comparison_id) REFERENCES comparison (id) ON DELETE CASCADE)",
    "INSERT INTO listened (id, comparison_id, doc, at) SELECT id, comparison_id, doc, at FROM listening",
    "DROP TABLE listening",
    "ALTER TABLE listened RENAME TO listening",
    "CREATE INDEX listening_comparison ON listening (comparison_id)",
    "CREATE TABLE mix (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, name VARCHAR(255) NOT NULL,"
    " doc TEXT NOT NULL, saves INTEGER NOT NULL DEFAULT 1, at VARCHAR(255) NOT NULL)",
    "CREATE TABLE mix_file (mix_id INTEGER NOT NULL, audio VARCHAR(255) NOT NULL, PRIMARY KEY (mix_id, audio),"
    " FOREIGN KEY (mix_id) REFERENCES mix (id) ON DELETE CASCADE)",
    "CREATE INDEX mix_file_audio ON mix_file (audio)",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
