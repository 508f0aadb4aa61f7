"""A look around the lightship from one's own data: in a copy of its own, and back."""

from __future__ import annotations

import tempfile
from pathlib import Path

from low_tide.demo.fill import fill
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import WORK, Home, home_at, remove


def visit(own: Home) -> Home:
    """The lightship in a folder of its own beside one's data, which are not touched. Whoever is at work is waited for.

    What a program that ended meanwhile leaves of it is cleared at the next start.
    """
    folder = Path(tempfile.mkdtemp(prefix=WORK, dir=own.folder))
    with database.alone():
        try:
            ship = open_home(folder)
            fill(ship)
        except BaseException:
            database.lies_at(own.database)
            remove(folder)
            raise
    return ship


def leave(ship: Home, own: Home) -> Home:
    """One's own data again; the lightship goes with whatever was done there."""
    back = home_at(own.folder)
    with database.alone():
        database.lies_at(back.database)
    remove(ship.folder)
    return back
