"""The devices that were let in: in a file of the data folder and in no backup, being of this installation alone."""

from __future__ import annotations

import contextlib
import json
import os
from dataclasses import asdict, dataclass

from low_tide.store.home import PAIRINGS, PART, Home, StoreError, sync


@dataclass(frozen=True)
class PairingRecord:
    """A device: what it is called, what it may do, the SHA-256 of its token (hex), and instants (ISO 8601, UTC)."""

    id: str
    name: str
    scope: str
    hash: str
    paired: str
    seen: str


def load(home: Home) -> tuple[PairingRecord, ...]:
    """All of them. StoreError where the file cannot be read: nobody is let in by what is not understood."""
    path = home.folder / PAIRINGS
    try:
        found = json.loads(path.read_text(encoding="utf-8"))
        return tuple(PairingRecord(**{str(name): str(value) for name, value in each.items()}) for each in found)
    except FileNotFoundError:
        return ()
    except (OSError, ValueError, TypeError, AttributeError) as error:
        raise StoreError(
            f"“{PAIRINGS}” in {home.folder} cannot be read ({error}); remove it, and pair the devices anew."
        ) from None


def save(home: Home, pairings: tuple[PairingRecord, ...]) -> None:
    """Put these in place of what was there, readable by their owner alone; whole or not at all."""
    path = home.folder / PAIRINGS
    part = path.with_name(path.name + PART)
    with contextlib.suppress(FileNotFoundError):
        part.unlink()
    handle = os.open(part, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
    with os.fdopen(handle, "w", encoding="utf-8") as out:
        json.dump([asdict(each) for each in pairings], out, indent=1)
    sync(part)
    os.replace(part, path)
    sync(home.folder)
