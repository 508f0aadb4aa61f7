"""The user's schools."""

from __future__ import annotations

from typing import Any

from low_tide.app.errors import Invalid
from low_tide.core.preferences import Preferences
from low_tide.formats.documents import dump, keep_unknown, parse
from low_tide.formats.sentences import FormatError
from low_tide.store.models import PreferenceRow, database


def preferences() -> Preferences:
    """The stored schools, or the defaults."""
    row = PreferenceRow.get_or_none(PreferenceRow.id == 1)
    return parse(Preferences, row.doc) if row else Preferences()


def choose(doc: dict[str, Any]) -> Preferences:
    """Store schools; Invalid where one is not known."""
    try:
        chosen = parse(Preferences, doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    with database.atomic():
        row = PreferenceRow.get_or_none(PreferenceRow.id == 1)
        kept = keep_unknown(row.doc, dump(chosen)) if row else dump(chosen)
        if row:
            row.doc = kept
            row.save()
        else:
            PreferenceRow.create(id=1, doc=kept)
    return chosen
