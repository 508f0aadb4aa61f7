"""Sound made on request: it may go at any time, and is then made again."""

from __future__ import annotations

import os
import re
import secrets
from pathlib import Path

from low_tide.store.home import PART, Home

NAME = re.compile(r"[a-z]{1,20}-[0-9a-f]{24}\.wav")
MOST_FILES = 60


def put(home: Home, name: str, data: bytes) -> None:
    """Keep a sound under a name, and let the oldest go where there are many. ValueError for a name none is given."""
    if not NAME.fullmatch(name):
        raise ValueError(f"“{name[:80]}” is no name of made sound")
    home.renders.mkdir(exist_ok=True)
    part = home.renders / f"{name}-{secrets.token_hex(4)}{PART}"
    part.write_bytes(data)
    os.replace(part, home.renders / name)
    for old in sorted(home.renders.glob("*.wav"), key=lambda p: p.stat().st_mtime)[:-MOST_FILES]:
        old.unlink(missing_ok=True)


def find(home: Home, name: str) -> Path | None:
    """Where a sound lies; None where it has gone, or for a name none is given."""
    path = home.renders / name
    return path if NAME.fullmatch(name) and path.is_file() else None
