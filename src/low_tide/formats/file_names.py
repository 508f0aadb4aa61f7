"""What the name of a recording's file says of it."""

from __future__ import annotations

import re
from collections.abc import Iterable
from typing import TypeVar
from unicodedata import combining, normalize

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


def on_any_disk(name: str, most: int) -> str:
    """A name as every disk takes it, `most` letters at the most; empty where nothing is left of it."""
    return re.sub(r'[<>:"/\\|?*\x00-\x1f]+', " ", name).strip(" .")[:most].strip(" .")


def _letters(text: str) -> str:
    """Letters and numbers alone, those with accents as those without."""
    return "".join(c for c in normalize("NFKD", text).casefold() if c.isalnum())


def named_in(file_name: str, among: Iterable[tuple[T, str]]) -> T | None:
    """The one of several whose name is in the file's, as letters and numbers; the longest where more than one is."""
    there = _letters(file_name)
    found = [(len(_letters(name)), each) for each, name in among if _letters(name) in there]
    return max((f for f in found if f[0] >= LEAST_LETTERS), key=lambda f: f[0], default=(0, None))[1]


def file_name(number: int, name: str) -> str:
    """What a recording of a list should be called: its number, and its name in letters every disk takes."""
    plain = (c for c in normalize("NFKD", name) if not combining(c))
    words = "".join(c if c.isascii() and c.isalnum() else "-" for c in plain)
    return f"{number:02d}-{re.sub('-+', '-', words).strip('-').lower()[:60] or 'take'}.wav"


def numbered_in(file: str, among: Iterable[tuple[T, str]]) -> T | None:
    """The one of several file names of a list that a file has, whatever was added to it; by its number where its name
    was left, None where neither is to be found."""
    names = list(among)
    found = named_in(file, ((each, name.rpartition(".")[0]) for each, name in names))
    if found is not None:
        return found
    begins = re.match(r"\D*(\d{1,2})(?!\d)", file.replace("\\", "/").rsplit("/", 1)[-1])
    wanted = f"{int(begins[1]):02d}-" if begins else ""
    return next((each for each, name in names if wanted and name.startswith(wanted)), None)


def told_apart(names: list[str]) -> list[str]:
    """Names without the words all of them begin with; none where some are the same."""
    if len(set(names)) < max(2, len(names)):
        return []
    words = [name.split() for name in names]
    same = 0
    # What is left is still a word: “Take 2” is not called “2”.
    while all(any(c.isalpha() for c in "".join(w[same + 1 :])) for w in words) and len({w[same] for w in words}) == 1:
        same += 1
    return [" ".join(w[same:]) for w in words]
