"""Drills: sittings, their questions with the answers, and when each card is due."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE drill_sitting (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, source VARCHAR(255) NOT NULL,"
    " kinds TEXT NOT NULL, began VARCHAR(255) NOT NULL, ended VARCHAR(255))",
    "CREATE TABLE drill (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, sitting_id INTEGER NOT NULL,"
    " kind VARCHAR(255) NOT NULL, card VARCHAR(255) NOT NULL, level INTEGER NOT NULL, once_more INTEGER NOT NULL,"
    " doc TEXT, asked VARCHAR(255) NOT NULL, hint INTEGER NOT NULL, answered VARCHAR(255), answer TEXT,"
    " is_right INTEGER, seconds REAL, rating VARCHAR(255),"
    " FOREIGN KEY (sitting_id) REFERENCES drill_sitting (id) ON DELETE CASCADE)",
    "CREATE INDEX drill_sitting_id ON drill (sitting_id)",
    "CREATE INDEX drill_answered ON drill (answered)",
    "CREATE TABLE drill_card (card VARCHAR(255) NOT NULL PRIMARY KEY, doc TEXT NOT NULL, due VARCHAR(255) NOT NULL,"
    " in_a_row INTEGER NOT NULL)",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
