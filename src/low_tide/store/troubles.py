"""What the disk and the database answer when they cannot, as sentences a person can act on."""

from __future__ import annotations

import errno
import sqlite3
from dataclasses import dataclass
from typing import Literal

from peewee import DatabaseError, InterfaceError

from low_tide.store.home import StoreError

Kind = Literal["full", "read-only", "gone", "busy", "damaged", "unusable", "failing"]


@dataclass(frozen=True)
class Trouble:
    """What is wrong, in a heading and a sentence."""

    kind: Kind
    title: str
    said: str


FULL = Trouble("full", "The disk is full", "The disk that holds the data is full. Make room on it, then try again.")
READ_ONLY = Trouble("read-only", "The data cannot be written", "The data folder may only be read. Allow writing in it.")
GONE = Trouble("gone", "The data are gone", "The database is not where it was. Put it back, or restore a backup.")
BUSY = Trouble("busy", "The database is busy", "Another program holds the database. Try again in a moment.")
FAILING = Trouble(
    "failing",
    "The disk does not answer as it should",
    "The disk did not do what the database asked of it: it may be full, or failing. Look at it before you go on.",
)
DAMAGED = Trouble("damaged", "The database is damaged", "The database cannot be read. Restore a backup.")

IN_A_DATABASE: tuple[tuple[str, Trouble], ...] = (
    ("disk is full", FULL),
    ("disk I/O error", FAILING),
    ("readonly", READ_ONLY),
    ("unable to open", GONE),
    ("no such table", GONE),
    ("locked", BUSY),
    ("busy", BUSY),
    ("malformed", DAMAGED),
    ("not a database", DAMAGED),
)
ON_A_DISK = {
    errno.ENOSPC: FULL,
    errno.EDQUOT: FULL,
    errno.EROFS: READ_ONLY,
    errno.EACCES: READ_ONLY,
    errno.EPERM: READ_ONLY,
}
TROUBLES = (StoreError, OSError, sqlite3.DatabaseError, DatabaseError, InterfaceError)


def trouble(error: BaseException) -> Trouble:
    """What one of `TROUBLES` means."""
    if isinstance(error, StoreError):
        return Trouble("unusable", "That cannot be done with the data", str(error))
    if isinstance(error, OSError):
        found = ON_A_DISK.get(error.errno or 0)
        said = f"{error.filename}: {error.strerror}." if error.filename and error.strerror else f"{error}."
        return found or Trouble("failing", "The disk does not answer as it should", said)
    said = str(error)
    found = next((each for words, each in IN_A_DATABASE if words in said), None)
    return found or Trouble("failing", "The database does not answer as it should", f"It says: {said}.")
