"""The user's schools."""

from __future__ import annotations

from typing import Any

from low_tide.app.errors import Conflict, Invalid
from low_tide.core.preferences import Preferences
from low_tide.formats.documents import dump, keep_unknown, parse
from low_tide.formats.sentences import FormatError
from low_tide.store import schools
from low_tide.store.database import database, remembered


def preferences() -> Preferences:
    """The stored schools, or the defaults."""
    return counted()[0]


@remembered("preference")
def counted() -> tuple[Preferences, int]:
    """The stored schools, or the defaults, and how often they were saved."""
    found = schools.find()
    return (parse(Preferences, found[0]), found[1]) if found else (Preferences(), 0)


def choose(doc: dict[str, Any], saves: int | None = None) -> Preferences:
    """Store schools; Invalid where one is not known, Conflict where they were saved since `saves` (None: whatever)."""
    try:
        chosen = parse(Preferences, doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    with database.atomic():
        before, count = schools.find() or ({}, 0)
        if saves is not None and saves != count:
            raise Conflict(
                "Your preferences were changed in another window. What you chose still stands in the form;"
                " save once more to put it in place of that."
            )
        schools.put(keep_unknown(before, dump(chosen)), count + 1)
    return chosen
