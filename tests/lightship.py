"""A closed data folder with the lightship in it, to be copied: filling one takes seconds. Of several processes that
test the first does so for all."""

from __future__ import annotations

import fcntl
import os
import tempfile
from pathlib import Path

from low_tide.demo.fill import fill
from low_tide.store.database import database
from low_tide.store.files import open_home

PLACE = "LOW_TIDE_TESTS"
"""Names the folder that the processes of one run share."""


def filled() -> Path:
    """That folder; filled if it is not yet, or waited for while another process fills it."""
    folder = Path(os.environ[PLACE]) / "lightship"
    with folder.with_suffix(".lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not folder.exists():
            half = Path(tempfile.mkdtemp(dir=folder.parent))
            fill(open_home(half))
            database.close()
            half.rename(folder)
    return folder


if __name__ == "__main__":
    filled()
