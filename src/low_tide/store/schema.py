"""The database's schema: what it consists of, and how an older one is brought up to date."""

from __future__ import annotations

import sqlite3
from pathlib import Path

from low_tide.store import take_words
from low_tide.store.database import Database
from low_tide.store.home import StoreError
from low_tide.store.models import TABLES

MIGRATIONS = Path(__file__).with_name("migrations")
KNOWN_TABLES = {table._meta.table_name for table in TABLES} | {"migratehistory", "sqlite_sequence", "sqlite_stat1"}


def outstanding(connection: sqlite3.Connection) -> list[str]:
    """Names of the migrations a database has yet to see, in order. StoreError where it has seen some not known here."""
    known = sorted(path.stem for path in MIGRATIONS.glob("[0-9]*.py"))
    made = connection.execute("select 1 from sqlite_master where name = 'migratehistory'").fetchone()
    done = {row[0] for row in connection.execute("select name from migratehistory")} if made else set()
    if done - set(known):
        raise StoreError("This data folder was written by a newer version; update the program.")
    return [name for name in known if name not in done]


def bring_up_to_date(database: Database) -> None:
    """Run what a database has yet to see, and make what is kept in no backup. StoreError where it then has not what it
    should have, whatever it says of itself."""
    with database.connection_context():
        connection: sqlite3.Connection = database.connection()  # type: ignore[no-untyped-call]
        if outstanding(connection):
            from peewee_migrate import Router

            Router(database, migrate_dir=MIGRATIONS).run()
        for table in TABLES:
            there = {column.name for column in database.get_columns(table._meta.table_name)}
            if not {field.column_name for field in table._meta.sorted_fields} <= there:
                raise StoreError(f"Its table “{table._meta.table_name}” is not as this program makes it.")
        take_words.make_if_missing(database)


def fault(path: Path) -> str:
    """What keeps a database from being used here, as a sentence; empty where nothing does.

    It is looked at as it is, with nothing that is written in it carried out.
    """
    check = sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)
    try:
        check.execute("pragma trusted_schema=off")
        made = check.execute("select type, name, tbl_name, coalesce(sql, '') from sqlite_master").fetchall()
        for kind, name, table, sql in made:
            if kind not in ("table", "index") or table not in KNOWN_TABLES or "virtual" in sql.lower().split()[:2]:
                return f"it holds a {kind} “{str(name)[:60]}” that this program never makes."
        if check.execute("pragma integrity_check").fetchone()[0] != "ok":
            return "it is damaged."
        if check.execute("pragma foreign_key_check").fetchone() is not None:
            return "some of its records belong to nothing."
        check.execute("select count(*) from hookup")
        outstanding(check)
    except sqlite3.DatabaseError:
        return "it is damaged."
    except StoreError:
        return "it comes from a newer version; update the program."
    finally:
        check.close()
    return ""
