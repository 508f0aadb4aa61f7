"""The words of every take, kept in an index of their own: found at once however long the log has grown.

The index holds nothing that the takes do not say themselves. It is no part of a backup, and is made anew where it is
missing.
"""

from __future__ import annotations

from low_tide.store.database import Database, database

INDEX = "take_words"
COLUMNS = "name, part, notes, hookup_name, scene, gear, guitar, pickup, tuning, afterwards, controls"
SAID = COLUMNS.removesuffix("controls") + (
    "coalesce((SELECT group_concat(json_extract(value, '$.name') || ' ' || json_extract(value, '$.value'), '; ')"
    " FROM json_each(take.controls)), '')"
)
"""What stands in the columns: of the controls their names and values, and nothing of how they are kept."""


def make_if_missing(database: Database) -> None:
    """Make the index from the takes where there is none."""
    if INDEX not in database.get_tables():
        with database.atomic():
            database.execute_sql(f"CREATE VIRTUAL TABLE {INDEX} USING fts5({COLUMNS}, prefix='1 2 3')")
            database.execute_sql(f"INSERT INTO {INDEX} (rowid, {COLUMNS}) SELECT id, {SAID} FROM take")


def keep(take_id: int) -> None:
    """Bring the words of a take up to date, in the transaction that changed them."""
    forget(take_id)
    sql = f"INSERT INTO {INDEX} (rowid, {COLUMNS}) SELECT id, {SAID} FROM take WHERE id = ?"
    database.execute_sql(sql, (take_id,))


def forget(take_id: int) -> None:
    """Take the words of a take out."""
    database.execute_sql(f"DELETE FROM {INDEX} WHERE rowid = ?", (take_id,))


def wanted(search: str) -> str:
    """What to ask the index for: every word begins some word of the take. Nothing is found where a search has none.

    Each is quoted, so that nothing in it is taken for an operator.
    """
    words = "".join(c if c.isprintable() else " " for c in search).split()
    quoted = ['"' + word.replace('"', '""') + '"*' for word in words if any(c.isalnum() for c in word)]
    return " ".join(quoted) or '""'
