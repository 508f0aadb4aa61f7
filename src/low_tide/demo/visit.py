"""A look around the lightship from one's own data: in a copy of its own, and back."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from pathlib import Path

from low_tide.demo.fill import filling
from low_tide.store.database import database
from low_tide.store.files import open_home
from low_tide.store.home import WORK, Home, home_at, remove


def visiting(own: Home) -> Iterator[float | Home]:
    """The lightship in a folder of its own beside one's data, which are not touched: the part of it that is done, then
    its home. Whoever is at work is waited for; where it is given up half-way nothing is left.

    What a program that ended meanwhile leaves of it is cleared at the next start.
    """
    folder = Path(tempfile.mkdtemp(prefix=WORK, dir=own.folder))
    try:
        with database.alone():
            yield 0.0
            try:
                ship = open_home(folder)
                yield from filling(ship)
            except BaseException:
                database.lies_at(own.database)
                raise
            yield ship
    except BaseException:
        remove(folder)
        raise


def leave(ship: Home, own: Home) -> Home:
    """One's own data again; the lightship goes with whatever was done there."""
    back = home_at(own.folder)
    with database.alone():
        database.lies_at(back.database)
    remove(ship.folder)
    return back
