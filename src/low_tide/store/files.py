"""Opening the data folder: made if missing, and brought up to date."""

from __future__ import annotations

import contextlib
import sqlite3
from pathlib import Path

from peewee import DatabaseError

from low_tide.store.backups import keep_copy
from low_tide.store.database import database
from low_tide.store.home import Home, StoreError, home_at
from low_tide.store.schema import bring_up_to_date, outstanding


def open_home(folder: Path) -> Home:
    """Open a data folder, made if missing, and bring its schema up to date; a backup comes before that.

    Raises StoreError where it cannot be used or comes from a newer program.
    """
    home = home_at(folder)
    try:
        home.audio.mkdir(parents=True, exist_ok=True)
        home.renders.mkdir(exist_ok=True)
        home.waves.mkdir(exist_ok=True)
        fresh = not home.database.exists() or home.database.stat().st_size == 0
        if fresh and (home.generation or any(home.audio.iterdir())):
            raise StoreError(f"The database is gone from {home.data}; restore a backup.")
        home.database.touch()
    except OSError as error:
        raise StoreError(f"The data folder {folder} cannot be used: {error.strerror}.") from None
    database.lies_at(home.database)
    try:
        with contextlib.closing(sqlite3.connect(home.database)) as look:
            todo = outstanding(look)
        if todo and not fresh:
            keep_copy(home, f"before-{todo[0]}")
        bring_up_to_date(database)
    except (DatabaseError, sqlite3.DatabaseError) as error:
        raise StoreError(f"The database in {folder} cannot be read ({error}); restore a backup.") from None
    finally:
        database.close()
    return home
