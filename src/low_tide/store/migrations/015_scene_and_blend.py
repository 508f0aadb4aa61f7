"""The scene of its hook-up that a take was played in, which it can be found by; the blend that a line took."""

from typing import Any

STATEMENTS = (
    "ALTER TABLE take ADD COLUMN scene VARCHAR(255) NOT NULL DEFAULT ''",
    "ALTER TABLE note ADD COLUMN blend INTEGER",
    # Made anew with it.
    "DROP TABLE IF EXISTS take_words",
)


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    for statement in STATEMENTS:
        migrator.sql(statement)
