"""Parts as a table: what a spreadsheet or a CSV file has, in and out."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable, Iterable
from typing import Any, cast

from low_tide.core.planning.part_lines import MOST_LINES, ReadPart, read_line, read_lines
from low_tide.core.planning.project import ROLES, Part, PlanError, Project, Role
from low_tide.formats.documents import parse
from low_tide.formats.sentences import FormatError
from low_tide.formats.tables import write_csv

COLUMNS = (
    "song",
    "part",
    "role",
    "double of",
    "hook-up",
    "scene",
    "loud or silent",
    "find, min",
    "play, min",
    "choose, min",
    "after",
    "with",
    "must",
    "pan, %",
    "guitar",
    "tuning",
    "tails",
    "notes",
)


def _parted(text: str) -> str:
    """What parts the cells of a table: a tab where there is one, else what there is most of in its first line."""
    first = text.splitlines()[0] if text.strip() else ""
    return "\t" if "\t" in text else max(",;", key=first.count)


def read_parts(text: str, songs: Iterable[str] = ()) -> tuple[ReadPart, ...]:
    """Parts from a table with a header line, from the cells of a spreadsheet, or from lines of words. PlanError names
    each line that is not understood."""
    text = text.lstrip("﻿")
    lines = [line for line in text.splitlines() if line.strip(" ,;\t")]
    if not lines:
        return ()
    mark = _parted("\n".join(lines))
    heads = [cell.strip().casefold() for cell in next(csv.reader([lines[0]], delimiter=mark))]
    if {"song", "part"} <= set(heads):
        return _table(text, mark, heads)
    if mark == "\t":
        return _cells(lines, songs)
    return read_lines(text, songs)


def _cells(lines: list[str], songs: Iterable[str]) -> tuple[ReadPart, ...]:
    """Lines of a spreadsheet without a header: the song, the part, then what is said of it as in a line of words."""
    if len(lines) > MOST_LINES:
        raise PlanError([f"Parts: {len(lines)} lines are over the most at one time, {MOST_LINES}."])
    found, wrong = list[ReadPart](), list[str]()
    for number, line in enumerate(lines, 1):
        song, _, rest = line.partition("\t")
        part, *said = (cell.strip() for cell in rest.split("\t"))
        try:
            found.append(read_line(", ".join([f"{song.strip()}: {part}", *filter(None, said)]), songs))
        except ValueError as error:
            wrong.append(f"Line {number}: {error}")
    if wrong:
        raise PlanError(wrong[:20])
    return tuple(found)


def _table(text: str, mark: str, heads: list[str]) -> tuple[ReadPart, ...]:
    if unknown := [head for head in heads if head and head not in COLUMNS]:
        raise PlanError([f"Columns: “{unknown[0]}” is none of {', '.join(COLUMNS)}."])
    found, wrong = list[ReadPart](), list[str]()
    for number, row in enumerate(csv.reader(io.StringIO(text), delimiter=mark), 1):
        if number == 1 or not any(cell.strip() for cell in row):
            continue
        said = {head: _plain(cell) for head, cell in zip(heads, row, strict=False)}
        try:
            found.append(_row(said))
        except (ValueError, FormatError) as error:
            wrong.append(f"Line {number}: {error}")
        if len(found) > MOST_LINES:
            raise PlanError([f"Parts: more than {MOST_LINES} lines are too many at one time."])
    if wrong:
        raise PlanError(wrong[:20])
    return tuple(found)


def _plain(cell: str) -> str:
    """A cell as it was: without the apostrophe that keeps a spreadsheet from taking it for a formula."""
    text = cell.strip()
    return text[1:] if text[:1] == "'" and text[1:2] in ("=", "+", "-", "@") else text


def _role(text: str) -> Role | None:
    found = next((role for role, name in ROLES.items() if text.casefold() in (role, name)), None)
    return cast("Role | None", found)


def _row(said: dict[str, str]) -> ReadPart:
    if not said.get("song") or not said.get("part"):
        raise ValueError("a song and a part are wanted.")
    minutes = {key: said.get(f"{key}, min", "") for key in ("find", "play", "choose")}
    read = read_line(f"{said['song']}: {said['part']}".replace(",", " "))
    doc: dict[str, Any] = {
        "id": "new",
        "name": said["part"],
        "role": read.part.role,
        "find": read.part.find,
        **{key: _number(value, f"{key}, min") for key, value in minutes.items() if value},
        "scene": said.get("scene", ""),
        "sounds": said.get("loud or silent", "").lower(),
        "must": said.get("must", "").lower() in ("yes", "x", "1", "true", "must"),
        "guitar": said.get("guitar", ""),
        "tuning": said.get("tuning", ""),
        "tails": said.get("tails", "").replace(" ", "_"),
        "notes": said.get("notes", ""),
    }
    if role := said.get("role"):
        known = _role(role)
        if known is None:
            raise ValueError(f"role: “{role}” is none of {', '.join(ROLES)}.")
        doc["role"] = known
    if pan := said.get("pan, %"):
        doc["pan"] = _number(pan, "pan, %")
    part = parse(Part, doc)
    return ReadPart(
        said["song"],
        part,
        _several(said.get("after", "")),
        said.get("double of", ""),
        _several(said.get("with", "")),
        said.get("hook-up", ""),
    )


def _number(text: str, column: str) -> int:
    try:
        return int(text)
    except ValueError:
        raise ValueError(f"{column}: “{text}” is no whole number.") from None


def _several(text: str) -> tuple[str, ...]:
    return tuple(each.strip() for each in text.split(";") if each.strip())


def parts_csv(project: Project, hookups: Callable[[str], str]) -> str:
    """The parts of a project as CSV, by columns that can be read again. `hookups`: id → name."""
    people = {person.id: person.name for person in project.people}

    def named(part_id: str, song: str) -> str:
        there, part = project.part(part_id)
        return part.name if there.name == song else f"{there.name} {part.name}"

    rows = [
        (
            song.name,
            part.name,
            part.role,
            named(part.double_of, song.name) if part.double_of else "",
            hookups(part.hookup) if part.hookup else "",
            part.scene,
            part.sounds,
            part.find,
            part.play,
            part.choose,
            "; ".join(named(each, song.name) for each in part.after),
            "; ".join(people[each] for each in part.people),
            "yes" if part.must else "",
            part.pan or "",
            part.guitar,
            part.tuning,
            part.tails.replace("_", " "),
            part.notes,
        )
        for song, part in project.parts()
    ]
    return write_csv(COLUMNS, rows)
