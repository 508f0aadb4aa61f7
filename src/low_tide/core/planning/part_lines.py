"""A part from one typed line: "Cue 3 lead, loud, 40 min, after main"."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Annotated, Any

from low_tide.core.planning.project import Part, PlanError, Role, Tails
from low_tide.core.spec import Spec

MOST_LINES = 400
_ROLE_WORDS: dict[str, Role] = {
    "main": "main",
    "rhythm": "main",
    "riff": "main",
    "double": "double",
    "doubled": "double",
    "lead": "lead",
    "solo": "lead",
    "harmony": "harmony",
    "guide": "guide",
}
HELP = (
    "A line is the song and the part, then what is said of it with commas between: loud or silent, 40 min or"
    " 15 + 40 min, through a hook-up, scene, after or double of another part, with somebody, must, pan 30 left, guitar,"
    " tuning, tails before or after."
)


@dataclass(frozen=True)
class ReadPart:
    """A part as it was read, with what it names: its song, the hook-up it goes through, parts it comes after or
    doubles, people it needs."""

    song: Annotated[str, Spec("Song", ge=1, le=80)]
    part: Part
    after: Annotated[tuple[str, ...], Spec("After", le=20)] = ()
    double_of: Annotated[str, Spec("Double of", le=160)] = ""
    people: Annotated[tuple[str, ...], Spec("With", le=10)] = ()
    through: Annotated[str, Spec("Through", le=120)] = ""


def role_in(name: str) -> Role:
    """The role that the words of a part's name speak of."""
    words = re.findall(r"[a-z]+", name.lower())
    return next((_ROLE_WORDS[word] for word in words if word in _ROLE_WORDS), "other")


def song_and_part(text: str, songs: Iterable[str]) -> tuple[str, str]:
    """ "Cue 3 lead" in two: by a colon, by a song that is known, or before the first word that says a role. ValueError
    where neither says where the song ends."""
    if ":" in text:
        song, _, part = text.partition(":")
        if song.strip() and part.strip():
            return song.strip(), part.strip()
    for song in sorted(songs, key=len, reverse=True):
        rest = text[len(song) :]
        if text.casefold().startswith(song.casefold()) and rest[:1].isspace() and rest.strip():
            return song, rest.strip()
    for found in re.finditer(r"\S+", text):
        if found.start() and found[0].lower().strip("().") in _ROLE_WORDS:
            return text[: found.start()].strip(), text[found.start() :].strip()
    raise ValueError(f"“{text}”: where does the song end? Put a colon between song and part, as in “Cue 3: bells”.")


_MINUTES = re.compile(r"(?:(\d{1,3})\s*(?:min\w*)?\s*\+\s*)?(\d{1,3})\s*min\w*")
_PAN = re.compile(r"pan(?:ned)?\s+(?:(\d{1,3})\s*%?\s*)?(left|right|middle|centre|center|l|r)")


def _pan(match: re.Match[str]) -> int:
    much = int(match[1]) if match[1] else 100
    if much > 100:
        raise ValueError(f"pan: {much} is over the most, 100.")
    return {"l": -much, "r": much}.get(match[2][0], 0)


def _minutes(match: re.Match[str]) -> dict[str, Any]:
    play = int(match[2])
    if not 1 <= play <= 720 or (match[1] and int(match[1]) > 720):
        raise ValueError("minutes: 1 to 720 are understood.")
    return {"play": play, **({"find": int(match[1])} if match[1] else {})}


_TAILS: dict[str, Tails] = {
    "tails before": "before",
    "tails after": "after",
    "tails before on purpose": "before_on_purpose",
    "tails before, on purpose": "before_on_purpose",
}


def _said(read: ReadPart, field: str) -> ReadPart:
    """The part with one more thing said of it. ValueError where that is not understood."""
    low = " ".join(field.lower().split())
    first, _, rest = field.strip().partition(" ")
    word, rest = first.lower(), rest.strip()
    part = read.part
    if low in ("loud", "silent", "must"):
        more: dict[str, Any] = {"must": True} if low == "must" else {"sounds": low}
        return replace(read, part=replace(part, **more))
    if found := _MINUTES.fullmatch(low):
        return replace(read, part=replace(part, **_minutes(found)))
    if found := _PAN.fullmatch(low):
        return replace(read, part=replace(part, pan=_pan(found)))
    if low in _TAILS:
        return replace(read, part=replace(part, tails=_TAILS[low]))
    if low.startswith("double of ") or low.startswith("doubles "):
        of = field.strip()[len("double of ") if low.startswith("double of ") else len("doubles ") :]
        return replace(read, double_of=of.strip(), part=replace(part, role="double"))
    if rest and word in ("after", "with"):
        names = tuple(each.strip() for each in re.split(r"\s+and\s+", rest))
        return replace(read, after=read.after + names) if word == "after" else replace(read, people=read.people + names)
    if rest and word == "through":
        return replace(read, through=rest)
    if rest and word in ("guitar", "tuning", "scene"):
        said: dict[str, Any] = {word: rest}
        return replace(read, part=replace(part, **said))
    raise ValueError(f"“{field.strip()}” is not understood. {HELP}")


def read_line(line: str, songs: Iterable[str] = ()) -> ReadPart:
    """A part from a line. ValueError says what of it is not understood."""
    first, *fields = (field for field in line.split(",") if field.strip())
    song, name = song_and_part(" ".join(first.split()), songs)
    for label, text, most in (("song", song, 80), ("part", name, 80)):
        if len(text) > most:
            raise ValueError(f"the {label}’s name has {len(text)} letters; {most} is the most.")
    role = role_in(name)
    read = ReadPart(song, Part("new", name, role, find=0 if role in ("double", "guide") else 15))
    for field in fields:
        read = _said(read, field)
    return read


def read_lines(text: str, songs: Iterable[str] = ()) -> tuple[ReadPart, ...]:
    """A part from every line that is not empty. PlanError names each line that is not understood."""
    lines = [(number, line) for number, line in enumerate(text.splitlines(), 1) if line.strip(" ,\t")]
    if len(lines) > MOST_LINES:
        raise PlanError([f"Parts: {len(lines)} lines are over the most at one time, {MOST_LINES}."])
    known, found, wrong = list(songs), list[ReadPart](), list[str]()
    for number, line in lines:
        try:
            read = read_line(line, known)
        except ValueError as error:
            wrong.append(f"Line {number}: {error}")
            continue
        known.append(read.song)
        found.append(read)
    if wrong:
        raise PlanError(wrong[:20])
    return tuple(found)
