"""The locker: listing, adding, editing, duplicating, archiving and deleting gear."""

from __future__ import annotations

import re
import secrets
from dataclasses import dataclass
from typing import Any

from low_tide.app.errors import Conflict, InUse, Invalid, NotFound
from low_tide.core.gear import KINDS, Unit
from low_tide.formats.documents import dump, keep_unknown, load_unit
from low_tide.formats.sentences import FormatError
from low_tide.store.files import now
from low_tide.store.models import GearRow, HookupRow, RevisionRow, database


@dataclass(frozen=True)
class LockerEntry:
    """A unit as the locker lists it. `doc` keeps fields this program does not know."""

    unit: Unit
    summary: str
    doc: dict[str, Any]
    revision: int
    updated: str
    used_in: tuple[str, ...]


def new_id(name: str) -> str:
    """A readable id that is free of clashes for any practical purpose: letters of the name, then chance."""
    stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-")[:40] or "unit"
    return f"{stem}-{secrets.token_hex(3)}"


def all_gear() -> dict[str, Unit]:
    """Every unit by id, archived ones too. A unit whose record no longer reads is left out."""
    found = {}
    for row in GearRow.select():
        try:
            found[row.id] = load_unit(row.doc)
        except FormatError:
            continue
    return found


def uses() -> dict[str, tuple[str, ...]]:
    """gear id → names of the hook-ups that use it as they stand now."""
    found: dict[str, list[str]] = {}
    rows = (
        RevisionRow.select(RevisionRow.doc, HookupRow.name)
        .join(HookupRow)
        .where(RevisionRow.number == HookupRow.current, ~HookupRow.archived)
    )
    for row in rows:
        ids = {u["unit"] for u in row.doc["units"]} | {k["lead"] for k in row.doc["links"]}
        for gear_id in ids:
            found.setdefault(gear_id, []).append(row.hookup.name)
    return {k: tuple(v) for k, v in found.items()}


def _entry(row: GearRow, used: dict[str, tuple[str, ...]]) -> LockerEntry:
    unit = load_unit(row.doc)
    return LockerEntry(unit, unit.summary(), row.doc, row.revision, row.updated, used.get(row.id, ()))


def listed(search: str = "", kind: str = "", archived: bool = False) -> list[LockerEntry]:
    """Units by kind and name. `search` looks in names, notes and kinds; archived ones only when asked for."""
    query = GearRow.select().where(GearRow.archived == archived)
    if kind:
        query = query.where(GearRow.kind == kind)
    used, words = uses(), search.lower().split()
    found = []
    for row in query:
        entry = _entry(row, used)
        text = f"{row.name} {row.doc.get('notes', '')} {entry.unit.summary()} {KINDS[row.kind][1]}".lower()
        if all(word in text for word in words):
            found.append(entry)
    order = list(KINDS)
    return sorted(found, key=lambda e: (order.index(e.unit.kind), e.unit.name.lower()))


def _row(gear_id: str) -> GearRow:
    row = GearRow.get_or_none(GearRow.id == gear_id)
    if row is None:
        raise NotFound(f"There is no gear “{gear_id}” in the locker.")
    return row


def get(gear_id: str) -> LockerEntry:
    return _entry(_row(gear_id), uses())


def _read(doc: dict[str, Any]) -> Unit:
    try:
        return load_unit(doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None


def add(doc: dict[str, Any]) -> LockerEntry:
    """Add a unit. A missing id is made from the name; an id that is taken is refused."""
    doc = {**doc, "id": doc.get("id") or new_id(str(doc.get("name", "")))}
    unit = _read(doc)
    kept = keep_unknown(doc, dump(unit))
    with database.atomic():
        if GearRow.get_or_none(GearRow.id == unit.id):
            raise Conflict(f"There is already gear with the id “{unit.id}”.")
        GearRow.create(id=unit.id, kind=unit.kind, name=unit.name, archived=unit.archived, doc=kept, updated=now())
    return get(unit.id)


def edit(gear_id: str, doc: dict[str, Any], revision: int) -> LockerEntry:
    """Replace a unit's record. `revision` is the one that was edited; an older one is refused."""
    with database.atomic("immediate"):
        row = _row(gear_id)
        if row.revision != revision:
            raise Conflict(f"{row.name} was changed in another window. Your values are still in the form.")
        unit = _read({**doc, "id": gear_id})
        if unit.kind != row.kind:
            raise Invalid(f"{row.name} is a {KINDS[row.kind][1].lower()}; its kind cannot change.")
        row.doc = keep_unknown(row.doc, keep_unknown(doc, dump(unit)))
        row.name, row.archived = unit.name, unit.archived
        row.revision, row.updated = row.revision + 1, now()
        row.save()
    return get(gear_id)


def duplicate(gear_id: str) -> LockerEntry:
    """A copy under a new id; the name says so."""
    row = _row(gear_id)
    name = f"{row.name} (copy)"[:80]
    return add({**row.doc, "id": new_id(name), "name": name, "archived": False})


def delete(gear_id: str) -> None:
    """Delete a unit for good. One that a hook-up uses is refused: archive it instead."""
    with database.atomic("immediate"):
        row = _row(gear_id)
        used = uses().get(gear_id)
        if used:
            raise InUse(f"{row.name} is used in {', '.join(used)}. Archive it, or take it out there first.")
        row.delete_instance()
