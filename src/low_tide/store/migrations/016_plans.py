"""Projects with their parts and days, laid out: revised and undone like hook-ups."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE plan (id VARCHAR(64) NOT NULL PRIMARY KEY, name VARCHAR(255) NOT NULL, archived INTEGER NOT NULL,"
    " current INTEGER NOT NULL, newest INTEGER NOT NULL, redo TEXT NOT NULL, saves INTEGER NOT NULL,"
    " updated VARCHAR(255) NOT NULL)",
    "CREATE TABLE plan_revision (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, plan_id VARCHAR(64) NOT NULL,"
    " number INTEGER NOT NULL, parent INTEGER, label VARCHAR(255) NOT NULL, doc TEXT NOT NULL,"
    " at VARCHAR(255) NOT NULL, FOREIGN KEY (plan_id) REFERENCES plan (id) ON DELETE CASCADE)",
    "CREATE UNIQUE INDEX plan_revision_number ON plan_revision (plan_id, number)",
    "CREATE INDEX plan_revision_plan ON plan_revision (plan_id)",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
