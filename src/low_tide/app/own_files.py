"""What comparisons, blends and mixes have in common: their names, and files that are brought into one of them alone."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from low_tide.app.errors import Conflict, Invalid
from low_tide.app.kept_audio import settled
from low_tide.app.recordings import Found, inspected_file, keep_inspected
from low_tide.store import uploads
from low_tide.store.database import database
from low_tide.store.home import Home, incoming, keep_audio


def named(name: str) -> str:
    """A name as it is kept; Invalid where it is none."""
    name = name.strip()
    if not 1 <= len(name) <= 120:
        raise Invalid("Name: 1 to 120 characters are wanted.")
    return name


def brought(
    home: Home, upload: str, room: Callable[[], None], join: Callable[[Found, Path], None]
) -> Iterator[float | Found]:
    """A file that was brought in by pieces, inspected and given to what has it; yields the part that is done, and last
    what was found. `room` refuses before anything is read; `join` takes the file, in the transaction that keeps it."""
    with incoming(home) as part:
        with database.connection_context():
            room()
            path, size = uploads.uploaded(home, upload)
        if path.stat().st_size < size:
            raise Conflict(f"Only {path.stat().st_size} of {size} bytes are here.")
        path.replace(part)
        for step in inspected_file(part):
            if isinstance(step, Found):
                with database.connection_context(), settled(home) as mark, database.atomic():
                    mark(step.name)
                    join(step, part)
                    keep_audio(home, part, step.name)
                    keep_inspected(home, step)
            yield step
