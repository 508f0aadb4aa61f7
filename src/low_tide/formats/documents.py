"""JSON documents: units of gear, hook-ups, and the hook-up file that carries its gear with it."""

from __future__ import annotations

import json
import re
from collections.abc import Hashable
from functools import cache
from math import isfinite
from typing import Annotated, Any, Final, Literal, TypeAlias, TypeVar, cast

from pydantic import BaseModel, BeforeValidator, ConfigDict, Field, TypeAdapter, ValidationError

from low_tide.core.gear.ids import plain_hookup, plain_unit
from low_tide.core.inventory import Unit
from low_tide.core.rig.changes import Change
from low_tide.core.rig.hookup import Hookup
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.formats.sentences import FormatError, sentences

HOOKUP_FORMAT: Final = "low-tide/hookup"
HOOKUP_VERSION = 1


def _upgraded(raw: Any) -> Any:
    """A unit by today’s names: a built-in attenuator was called `soak` once, and the label counted before it."""
    if not isinstance(raw, dict) or raw.get("kind") != "amp" or not isinstance(raw.get("modes"), list | tuple):
        return raw
    modes = [
        {"attenuation": m["soak"], "label_counts": "before", **m}
        if isinstance(m, dict) and "soak" in m and "attenuation" not in m
        else m
        for m in raw["modes"]
    ]
    return {**raw, "modes": modes}


UnitDoc: TypeAlias = Annotated[Unit, Field(discriminator="kind"), BeforeValidator(_upgraded)]
ChangeDoc: TypeAlias = Annotated[Change, Field(discriminator="op")]
Json: TypeAlias = dict[str, Any]
T = TypeVar("T")


class HookupFile(BaseModel):
    """A hook-up with the gear it uses: complete in itself, so it can be sent to somebody else."""

    model_config = ConfigDict(defer_build=True)

    format: Literal["low-tide/hookup"] = HOOKUP_FORMAT
    version: int = HOOKUP_VERSION
    hookup: Hookup
    gear: tuple[UnitDoc, ...]


@cache
def adapter(kind: Any) -> TypeAdapter[Any]:
    """Reader and writer of a core type, made when it is first needed: making one takes its time."""
    return TypeAdapter(kind)


def parse(kind: type[T], raw: Any) -> T:
    """A core value of a dataclass from plain data; FormatError in sentences otherwise."""
    try:
        found: T = adapter(cast(Hashable, kind)).validate_python(raw)
    except ValidationError as error:
        raise sentences(error, kind) from None
    return found


def load_unit(raw: Any) -> Unit:
    """A unit of gear from plain data."""
    return cast(Unit, parse(cast(Any, UnitDoc), raw))


def load_hookup(raw: Any) -> Hookup:
    """A hook-up from plain data; its gear is not looked at."""
    return parse(Hookup, raw)


def dump(value: Any) -> Json:
    """Plain JSON data of a core dataclass or model; infinities become null."""
    found: Json = json.loads(adapter(cast(Hashable, type(value))).dump_json(value))
    return found


MEBIBYTE = 1024 * 1024
MOST_BYTES = 8 * MEBIBYTE
"""A hook-up file is never larger: sixty units with all their gear stay far under it."""


def within(data: bytes, most: int, what: str) -> None:
    """FormatError where a file is larger than anything this program writes of its kind; told before it is read."""
    if len(data) > most:
        size, bound = -(-len(data) // MEBIBYTE), most // MEBIBYTE
        raise FormatError([f"The file has {size} MiB; {what} has at most {bound} MiB."])


DEEPEST = 64
MOST_WHOLE = 2**53 - 1
"""Whole numbers beyond this are not the same in every program that reads JSON."""
_TOKEN = re.compile(r'"(?:[^"\\]++|\\.)*+"?|[\[\]{}]', re.DOTALL)
_HALF = re.compile(rb"\\u[dD][89a-fA-F]")
"""Half a character, perhaps: a pair of these is one whole, a single one nothing that can be written down again."""


def _depth(text: str) -> int:
    """How deep arrays and objects lie in each other, counted without building any of them."""
    here = most = 0
    for token in _TOKEN.finditer(text):
        if token[0] in "[{":
            here += 1
            most = max(most, here)
        elif token[0] in "]}":
            here -= 1
    return most


def _whole(digits: str) -> int:
    if len(digits) > len(str(MOST_WHOLE)) + 1 or abs(int(digits)) > MOST_WHOLE:
        raise FormatError(
            [f"{digits[:24]} is outside −(2⁵³ − 1) to 2⁵³ − 1, where whole numbers are the same everywhere."]
        )
    return int(digits)


def _fraction(digits: str) -> float:
    if not isfinite(found := float(digits)):
        raise FormatError([f"{digits[:24]} is too large a number."])
    return found


def _no_number(word: str) -> Any:
    raise FormatError([f"{word} is not a number that JSON allows."])


def read_json(data: bytes) -> Any:
    """Plain data from bytes, by bounds that hold for everything that is read: FormatError where it is not whole or no
    JSON, lies deeper than 64, or holds a number or a text that other programs would read otherwise."""
    try:
        text = data.decode("utf-8-sig")
        if data.count(b"[") + data.count(b"{") > DEEPEST and _depth(text) > DEEPEST:
            raise FormatError([f"This is nested too deeply: more than {DEEPEST} levels."])
        found = json.loads(text, parse_constant=_no_number, parse_int=_whole, parse_float=_fraction)
        if _HALF.search(data):
            json.dumps(found, ensure_ascii=False).encode()
    except UnicodeDecodeError:
        raise FormatError(["This is not a text file in UTF-8."]) from None
    except UnicodeEncodeError:
        raise FormatError(["A text in this holds half a character, which no file can keep."]) from None
    except json.JSONDecodeError as error:
        cut = "" if data.rstrip().endswith((b"}", b"]")) else " It looks cut off."
        raise FormatError([f"Not readable as JSON at line {error.lineno}: {error.msg}.{cut}"]) from None
    return found


def read_hookup_file(data: bytes) -> tuple[Rig, Json]:
    """The rig in a hook-up file, and the file's plain data with whatever fields are not known here.

    Raises FormatError for what cannot be read or comes from a newer version, HookupError for what is
    readable but impossible.
    """
    within(data, MOST_BYTES, "a hook-up file")
    raw = read_json(data)
    if not isinstance(raw, dict) or raw.get("format") != HOOKUP_FORMAT:
        raise FormatError([f"This is not a hook-up file: “format” should be “{HOOKUP_FORMAT}”."])
    version = raw.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise FormatError(["Version: a whole number from 1 up is wanted."])
    if version > HOOKUP_VERSION:
        raise FormatError(
            [f"This file is version {version}; this program reads up to {HOOKUP_VERSION}. Update the program."]
        )
    raw = plain_rig(raw)
    try:
        file = HookupFile.model_validate(raw)
    except ValidationError as error:
        raise sentences(error, HookupFile) from None
    gear = {unit.id: unit for unit in file.gear}
    if len(gear) < len(file.gear):
        raise FormatError(["Gear: two units in this file have the same id."])
    return checked(file.hookup, gear), raw


def plain_rig(raw: Json) -> Json:
    """Plain data of a hook-up with its gear, every id in it by today's alphabet."""
    gear = raw.get("gear")
    found = {**raw, "hookup": plain_hookup(raw.get("hookup"))}
    return {**found, "gear": [plain_unit(doc) for doc in gear]} if isinstance(gear, list) else found


def write_hookup_file(hookup: Json, gear: list[Json]) -> bytes:
    """A hook-up file from plain data, unknown fields and all."""
    document = {"format": HOOKUP_FORMAT, "version": HOOKUP_VERSION, "hookup": hookup, "gear": gear}
    return (json.dumps(document, ensure_ascii=False, indent=2) + "\n").encode()


_IDENTITIES = ("id", "unit", "lead", "name")


def _identity(item: Any) -> Any:
    return next((item[k] for k in _IDENTITIES if k in item), None) if isinstance(item, dict) else None


def keep_unknown(before: Any, after: Any) -> Any:
    """`after` with the fields of `before` that this program does not know put back where they were."""
    if isinstance(before, dict) and isinstance(after, dict):
        return {
            **{k: v for k, v in before.items() if k not in after},
            **{k: keep_unknown(before[k], v) if k in before else v for k, v in after.items()},
        }
    if isinstance(before, list) and isinstance(after, list):
        named = {_identity(item): item for item in before if _identity(item) is not None}
        if named:
            return [keep_unknown(named.get(_identity(item)), item) for item in after]
        if len(before) == len(after):
            return [keep_unknown(b, a) for b, a in zip(before, after, strict=True)]
    return after
