"""Photos and preset files that belong to a take."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE attachment (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, take_id INTEGER NOT NULL"
    " REFERENCES take (id) ON DELETE CASCADE, kind VARCHAR(255) NOT NULL, name VARCHAR(255) NOT NULL,"
    " size INTEGER NOT NULL, content BLOB NOT NULL, at VARCHAR(255) NOT NULL)",
    "CREATE INDEX attachment_take ON attachment (take_id)",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
