"""Audio of takes, comparisons, impulse responses and mixes: none is left that nothing has, whatever is cut short."""

from __future__ import annotations

import contextlib
from collections.abc import Callable, Iterator

from low_tide.store import comparisons, impulses, inspections, mixes, waves
from low_tide.store import takes as kept
from low_tide.store.database import DatabaseError, database
from low_tide.store.home import Home, is_audio_name, mark_unsettled, remove_audio, remove_mark, unsettled


def _settle(home: Home, name: str) -> None:
    """Remove an audio file that nothing has any more; the write lock keeps anything from getting it meanwhile."""
    with database.atomic():
        if not any(each.has_audio(name) for each in (kept, comparisons, impulses, mixes)):
            inspections.forget(name)
            comparisons.forget(name)
            remove_audio(home, name)
            waves.forget(home, name)
        remove_mark(home, name)


def settle(home: Home) -> None:
    """Remove the audio that work cut short has left without a take. Only for who has the folder to himself."""
    with database.connection_context():
        for name in unsettled(home):
            _settle(home, name)


@contextlib.contextmanager
def settled(home: Home) -> Iterator[Callable[[str | None], None]]:
    """Gives what marks audio whose take may change in it; in the end those that no take has are removed.

    What cannot be removed then is no reason to call anything undone: it is when the program starts again.
    """
    names: list[str] = []

    def mark(name: str | None) -> None:
        if name is not None and is_audio_name(name):
            mark_unsettled(home, name)
            names.append(name)

    try:
        yield mark
    finally:
        with contextlib.suppress(DatabaseError, OSError):
            for name in names:
                _settle(home, name)
