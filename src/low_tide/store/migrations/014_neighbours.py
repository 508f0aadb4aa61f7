"""What neighbours said: lines of the log of a kind, at a place, at a level."""

from typing import Any

STATEMENTS = (
    "ALTER TABLE note ADD COLUMN kind VARCHAR(255) NOT NULL DEFAULT ''",
    "ALTER TABLE note ADD COLUMN place VARCHAR(255) NOT NULL DEFAULT ''",
    "ALTER TABLE note ADD COLUMN level REAL",
    "CREATE INDEX note_of_neighbours ON note (place) WHERE kind <> ''",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
