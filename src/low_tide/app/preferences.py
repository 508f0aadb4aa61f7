"""The user's schools."""

from __future__ import annotations

from typing import Any

from low_tide.app.errors import Conflict, Invalid
from low_tide.core.preferences import Preferences
from low_tide.formats.documents import dump, keep_unknown, parse
from low_tide.formats.sentences import FormatError
from low_tide.store.database import database, remembered
from low_tide.store.models import PreferenceRow


def preferences() -> Preferences:
    """The stored schools, or the defaults."""
    return counted()[0]


@remembered("preference")
def counted() -> tuple[Preferences, int]:
    """The stored schools, or the defaults, and how often they were saved."""
    row = PreferenceRow.get_or_none(PreferenceRow.id == 1)
    return (parse(Preferences, row.doc), row.saves) if row else (Preferences(), 0)


def choose(doc: dict[str, Any], saves: int | None = None) -> Preferences:
    """Store schools; Invalid where one is not known, Conflict where they were saved since `saves` (None: whatever)."""
    try:
        chosen = parse(Preferences, doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    with database.atomic():
        row = PreferenceRow.get_or_none(PreferenceRow.id == 1)
        if saves is not None and saves != (row.saves if row else 0):
            raise Conflict(
                "Your preferences were changed in another window. What you chose still stands in the form;"
                " save once more to put it in place of that."
            )
        kept = keep_unknown(row.doc, dump(chosen)) if row else dump(chosen)
        if row:
            row.doc, row.saves = kept, row.saves + 1
            row.save()
        else:
            PreferenceRow.create(id=1, doc=kept)
    return chosen
