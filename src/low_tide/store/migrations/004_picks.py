"""Which load, in which position of its curve switch, was picked for an amp in a power mode with a guitar."""

from typing import Any

PICK = """CREATE TABLE pick (amp TEXT NOT NULL, mode TEXT NOT NULL, guitar TEXT NOT NULL, choice TEXT NOT NULL,
    unit TEXT NOT NULL, switch TEXT NOT NULL, label TEXT NOT NULL, at TEXT NOT NULL, PRIMARY KEY (amp, mode, guitar))"""


def migrate(migrator: Any, database: Any, **kwargs: Any) -> None:
    migrator.sql(PICK)
