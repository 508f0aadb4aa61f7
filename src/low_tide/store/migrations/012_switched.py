"""From when to when hook-ups were on."""

from typing import Any

STATEMENTS = (
    "CREATE TABLE switched (id INTEGER NOT NULL PRIMARY KEY AUTOINCREMENT, hookup VARCHAR(255) NOT NULL,"
    " since VARCHAR(255) NOT NULL, until VARCHAR(255))",
    "CREATE INDEX switched_since ON switched (since)",
    "CREATE INDEX switched_on ON switched (hookup) WHERE until IS NULL",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
