"""Ids of gear: their alphabet, and how those from before there was one are made into such as have it."""

from __future__ import annotations

import hashlib
import re
from typing import Any

ID = "[a-z0-9][a-z0-9-]{0,63}"
"""What an id of gear is made of: it goes into addresses, file names and netlists as it is."""
OPEN_AIR = "@open"
"""What stands for a room where a unit stands in the open."""
_PLAIN = re.compile(ID)
_IN_A_UNIT = ("id", "inner_speaker", "between", "other", "room")
_IN_A_PLACING = ("unit", "room", "mount")


def slug(text: str) -> str:
    """The small letters and digits of a text with hyphens between, at most 40; empty where it has none."""
    return re.sub(r"[^a-z0-9]+", "-", text.lower()).strip("-")[:40]


def plain_id(old: Any) -> Any:
    """An id by today's alphabet, always the same for the same old one; one that has it stays, as does what is no id."""
    if not isinstance(old, str) or old in ("", OPEN_AIR) or _PLAIN.fullmatch(old):
        return old
    return f"{slug(old) or 'unit'}-{hashlib.sha256(old.encode(errors='replace')).hexdigest()[:8]}"


def plain_unit(doc: Any) -> Any:
    """Plain data of a unit with its id and those of what it refers to made plain."""
    return _with(doc, _IN_A_UNIT)


def plain_hookup(doc: Any) -> Any:
    """Plain data of a hook-up with every id in it made plain."""
    if not isinstance(doc, dict):
        return doc
    found = dict(doc)
    if isinstance(doc.get("units"), list):
        found["units"] = [_placing(each) for each in doc["units"]]
    if isinstance(doc.get("links"), list):
        found["links"] = [_link(each) for each in doc["links"]]
    if isinstance(doc.get("scenes"), list):
        found["scenes"] = [_scene(each) for each in doc["scenes"]]
    if "occasion" in doc:
        found["occasion"] = _with(doc["occasion"], ("place",))
    return found


def _with(doc: Any, names: tuple[str, ...]) -> Any:
    return {k: plain_id(v) if k in names else v for k, v in doc.items()} if isinstance(doc, dict) else doc


def _placing(doc: Any) -> Any:
    found = _with(doc, _IN_A_PLACING)
    if isinstance(found, dict) and isinstance(found.get("facing"), dict):
        found["facing"] = {plain_id(place): how for place, how in found["facing"].items()}
    return found


def _link(doc: Any) -> Any:
    found = _with(doc, ("lead",))
    if isinstance(found, dict):
        found.update({end: _with(found[end], ("unit",)) for end in ("a", "b") if end in found})
    return found


def _scene(doc: Any) -> Any:
    found = dict(doc) if isinstance(doc, dict) else doc
    if isinstance(found, dict) and isinstance(found.get("settings"), list):
        found["settings"] = [_with(each, ("unit",)) for each in found["settings"]]
    if isinstance(found, dict) and isinstance(found.get("order"), list):
        found["order"] = [plain_id(each) for each in found["order"]]
    return found
