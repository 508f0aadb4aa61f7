"""Opening the data folder: made if missing, and brought up to date."""

from __future__ import annotations

from pathlib import Path

from peewee import DatabaseError
from peewee_migrate import Router

from low_tide.store import take_words
from low_tide.store.backups import MIGRATIONS, backup, kept_as
from low_tide.store.home import Home, StoreError, home_at
from low_tide.store.models import database

PRAGMAS = {"journal_mode": "wal", "foreign_keys": 1, "busy_timeout": 5000, "synchronous": "full"}


def open_home(folder: Path) -> Home:
    """Open a data folder, made if missing, and bring its schema up to date; a backup comes before that.

    Raises StoreError where it cannot be used or comes from a newer program.
    """
    home = home_at(folder)
    try:
        home.audio.mkdir(parents=True, exist_ok=True)
        home.renders.mkdir(exist_ok=True)
    except OSError as error:
        raise StoreError(f"The data folder {folder} cannot be used: {error.strerror}.") from None
    fresh = not home.database.exists()
    if not database.is_closed():
        database.close()
    database.init(home.database, pragmas=PRAGMAS)
    try:
        database.connect()
        router = Router(database, migrate_dir=MIGRATIONS)
        known = {path.stem for path in MIGRATIONS.glob("[0-9]*.py")}
        newer = [name for name in router.done if name not in known]
        if newer:
            raise StoreError("This data folder was written by a newer version; update the program.")
        if router.diff:
            if not fresh:
                backup(home, kept_as(home, f"before-{router.diff[0]}"))
            router.run()
        take_words.make_if_missing(database)
    except DatabaseError as error:
        raise StoreError(f"The database in {folder} cannot be read ({error}); restore a backup.") from None
    finally:
        database.close()
    return home
