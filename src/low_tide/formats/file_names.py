"""What the name of a recording's file says of it."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import TypeVar
from unicodedata import normalize

LONGEST = 120
LEAST_LETTERS = 3
"""A name with fewer letters is in too many others to say anything."""

T = TypeVar("T")


def take_name(file_name: str) -> str:
    """What a take may be called: without folder, ending, a number at its end, and what joins its words."""
    base = re.sub(r"\.[^.]+$", "", file_name.replace("\\", "/").rsplit("/", 1)[-1])
    words = re.sub(r"[_\-\s]+", " ", base)
    bare = re.sub(r"\s*\b(take|tk)?\s*\d+\s*$", "", words, flags=re.IGNORECASE).strip()
    return (bare or words.strip() or "take")[:LONGEST].strip()


def _letters(text: str) -> str:
    """Letters and numbers alone, those with accents as those without."""
    return "".join(c for c in normalize("NFKD", text).casefold() if c.isalnum())


def named_in(file_name: str, among: Iterable[tuple[T, str]]) -> T | None:
    """The one of several whose name is in the file's, as letters and numbers; the longest where more than one is."""
    there = _letters(file_name)
    found = [(len(_letters(name)), each) for each, name in among if _letters(name) in there]
    return max((f for f in found if f[0] >= LEAST_LETTERS), key=lambda f: f[0], default=(0, None))[1]
