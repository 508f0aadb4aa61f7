"""A server that is gone at a step of a deed.

"place:n:before" kills it when it comes to a place for the n-th time (from 0), before or after what is done there.
"""

from __future__ import annotations

import os
import signal
from typing import Any

from low_tide.app import kept_audio, recordings
from low_tide.store import restoring
from low_tide.store.database import Database

PLACES: dict[str, tuple[Any, str]] = {
    "commit": (Database, "commit"),
    "keep_audio": (recordings, "keep_audio"),
    **{name: (kept_audio, name) for name in ("remove_audio", "remove_mark")},
    **{
        name: (restoring, name)
        for name in ("sync", "remove", "_unpack", "_check", "_bring_up_to_date", "_put_by", "clear_leftovers")
    },
    "replace": (os, "replace"),
}


def die_at(step: str) -> None:
    """Put a mortal function in the place of a real one."""
    place, times, when = step.split(":")
    owner, name = PLACES[place]
    real, calls = getattr(owner, name), [0]

    def dies(*args: Any, **kwargs: Any) -> Any:
        calls[0] += 1
        due = calls[0] > int(times)
        if due and when == "before":
            os.kill(os.getpid(), signal.SIGKILL)
        found = real(*args, **kwargs)
        if due:
            os.kill(os.getpid(), signal.SIGKILL)
        return found

    setattr(owner, name, dies)
