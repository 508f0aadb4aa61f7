"""The whole locker as a file: JSON, and CSV by kind."""

from __future__ import annotations

import csv
import io
import json
from itertools import islice
from typing import Any, Final

from low_tide.core.gear.ids import plain_unit
from low_tide.core.inventory import KINDS
from low_tide.formats.documents import MEBIBYTE, Json, read_json, within
from low_tide.formats.sentences import FormatError
from low_tide.formats.tables import write_csv

LOCKER_FORMAT: Final = "low-tide/locker"
LOCKER_VERSION = 1
MOST_UNITS = 5000
MOST_BYTES = 16 * MEBIBYTE


def write_locker(units: list[Json]) -> bytes:
    """A locker file: every unit as plain data, unknown fields and all."""
    document = {"format": LOCKER_FORMAT, "version": LOCKER_VERSION, "gear": units}
    return (json.dumps(document, ensure_ascii=False, indent=2) + "\n").encode()


def read_locker(data: bytes) -> list[Json]:
    """Plain data of the units in a locker file, JSON or CSV; FormatError where it is neither, or is newer."""
    within(data, MOST_BYTES, "a locker file")
    start = data.lstrip(b"\xef\xbb\xbf \t\r\n")[:1]
    units = [plain_unit(doc) for doc in (_from_json(data) if start in (b"{", b"[") else _from_csv(data))]
    if len(units) > MOST_UNITS:
        raise FormatError([f"The file holds more than {MOST_UNITS} units; that many are read at once at most."])
    return units


def _from_json(data: bytes) -> list[Json]:
    raw = read_json(data)
    if not isinstance(raw, dict) or raw.get("format") != LOCKER_FORMAT:
        raise FormatError([f"This is not a locker file: “format” should be “{LOCKER_FORMAT}”."])
    version = raw.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FormatError(["Version: a whole number from 1 up is wanted."])
    if version > LOCKER_VERSION:
        raise FormatError(
            [f"This file is version {version}; this program reads up to {LOCKER_VERSION}. Update the program."]
        )
    gear = raw.get("gear")
    if not isinstance(gear, list) or not all(isinstance(unit, dict) for unit in gear):
        raise FormatError(["Gear: a list of units is wanted."])
    return gear


def write_locker_csv(units: list[Json]) -> str:
    """Units of one kind as CSV: a column a field; what is more than one value stands as JSON in its cell."""
    names = list(dict.fromkeys(name for unit in units for name in unit))
    rows = ([_cell(unit.get(name)) for name in names] for unit in units)
    return write_csv(names, rows)


def _cell(value: Any) -> Any:
    if isinstance(value, list | dict):
        return json.dumps(value, ensure_ascii=False)
    if isinstance(value, bool):
        return "yes" if value else "no"
    return value


def _from_csv(data: bytes) -> list[Json]:
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise FormatError(["This is not a text file in UTF-8."]) from None
    try:
        # One more than may be, so that more is told and not read.
        rows = list(islice(csv.reader(io.StringIO(text, newline="")), MOST_UNITS + 2))
    except csv.Error as error:
        raise FormatError([f"Not readable as CSV: {error}."]) from None
    if not rows or "kind" not in rows[0] or "name" not in rows[0]:
        raise FormatError(["This is not a locker file: it is neither JSON nor CSV with the columns “kind” and “name”."])
    if len(set(rows[0])) < len(rows[0]):
        raise FormatError(["Line 1: two columns have the same name."])
    found = []
    for number, row in enumerate(rows[1:], 2):
        if not any(cell.strip() for cell in row):
            continue
        if len(row) != len(rows[0]):
            raise FormatError([f"Line {number}: it has {len(row)} columns where the heading has {len(rows[0])}."])
        kind = dict(zip(rows[0], row, strict=True)).get("kind", "")
        if kind not in KINDS:
            raise FormatError([f"Line {number}: “{kind[:30]}” is not a kind of gear."])
        fields = KINDS[kind][0].__dataclass_fields__
        found.append(
            {
                name: _value(cell, fields[name].type if name in fields else "str")
                for name, cell in zip(rows[0], row, strict=True)
                if cell != "" or (name in fields and "None" in str(fields[name].type))
            }
        )
    return found


def _value(cell: str, kind: Any) -> Any:
    """What a cell means, by the type its field is declared with; text stays text."""
    declared = str(kind)
    text = cell[1:] if cell.startswith("'") and cell[1:2] in "=+-@" else cell
    if cell == "":
        return None
    if cell[:1] in "[{":
        try:
            return read_json(cell.encode())
        except ValueError:
            return cell
    if "bool" in declared and text.lower() in ("yes", "no", "true", "false"):
        return text.lower() in ("yes", "true")
    if any(word in declared for word in ("Name", "Identity", "Notes", "[str")):
        return text
    try:
        return float(text)
    except ValueError:
        return text
