"""The locker: listing, adding, editing, duplicating, archiving and deleting gear."""

from __future__ import annotations

import dataclasses
import re
import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from itertools import count
from typing import Any

from low_tide.app.errors import Conflict, InUse, Invalid, NotFound
from low_tide.app.preferences import preferences
from low_tide.core.circuit.amplifier import Readings, TwoReading, two_reading_output_impedance, with_damping
from low_tide.core.circuit.dc_reading import Likely, Plug, likely
from low_tide.core.circuit.network import Network, input_impedance
from low_tide.core.frequency import frequency_grid
from low_tide.core.gear.base import Site
from low_tide.core.gear.ids import slug
from low_tide.core.gear.papers import Papers
from low_tide.core.inventory import KINDS, Cabinet, Surrounding, Unit
from low_tide.core.rig.completeness import gaps
from low_tide.core.rig.needs import labels_present
from low_tide.core.rig.worth import in_money, papers_of, weight_of, worth
from low_tide.core.units import in_ohms
from low_tide.formats.curves import write_curve_csv, write_zma
from low_tide.formats.documents import dump, keep_unknown, load_unit
from low_tide.formats.locker import read_locker, write_locker, write_locker_csv
from low_tide.formats.sentences import FormatError
from low_tide.formats.tables import write_csv
from low_tide.store import gear, hookups
from low_tide.store.database import database, remembered
from low_tide.store.gear import GearRecord
from low_tide.store.home import now
from low_tide.store.hookups import HookupRecord

MOST_PROBLEMS = 20
MOST_NAMED = 3
CURVE_KINDS = ("load", "cabinet", "reamp")

DRAFT = "draft"
"""What a unit goes by that is not in the locker yet."""


@dataclass(frozen=True)
class LockerEntry:
    """A unit as the locker lists it. `doc` keeps fields this program does not know."""

    unit: Unit
    summary: str
    doc: dict[str, Any]
    revision: int
    updated: str
    used_in: tuple[str, ...]
    gaps: tuple[str, ...]


@dataclass(frozen=True)
class GearName:
    """A unit by id and name, for lists to choose from."""

    id: str
    name: str


@dataclass(frozen=True)
class Imported:
    """What an import did: names of units that are new, replaced, and left as they were."""

    added: tuple[str, ...]
    replaced: tuple[str, ...]
    kept: tuple[str, ...]


def new_id(name: str) -> str:
    """A readable id that is free of clashes for any practical purpose: letters of the name, then chance."""
    return f"{slug(name) or 'unit'}-{secrets.token_hex(3)}"


def numbered(name: str, taken: set[str]) -> str:
    """The name, or with the next number where it is taken: 'speaker lead, 2'."""
    if name not in taken:
        return name
    stem = re.sub(r", \d+$", "", name)
    return next(found for n in count(2) if (found := f"{stem[:70]}, {n}") not in taken)


@remembered("gear")
def all_gear() -> Mapping[str, Unit]:
    """Every unit by id, archived ones too. A unit whose record no longer reads is left out."""
    found = {}
    for row in gear.every():
        try:
            found[row.id] = load_unit(row.doc)
        except FormatError:
            continue
    return found


def _used_by(doc: dict[str, Any]) -> set[str]:
    """Ids of the gear that a hook-up's record uses, rooms and mounts around it included."""
    ids = {u["unit"] for u in doc["units"]} | {k["lead"] for k in doc["links"]}
    return ids | {u[where] for u in doc["units"] for where in ("room", "mount") if u.get(where)}


def uses_gear(row: HookupRecord, gear_id: str) -> bool:
    """Whether a hook-up uses this gear as it stands now."""
    revision = hookups.revision(row.id, row.current)
    return revision is not None and gear_id in _used_by(revision.doc)


@remembered("gear", "hookup", "revision")
def uses() -> Mapping[str, tuple[str, ...]]:
    """gear id → names of the hook-ups that use it as they stand now, and for a room of what lies around it."""
    found: dict[str, list[str]] = {}
    for name, doc in hookups.as_they_stand():
        for gear_id in _used_by(doc):
            found.setdefault(gear_id, []).append(name)
    for around in gear.every(("place", "partition")):
        for room in {str(around.doc.get(field) or "") for field in ("room", "between", "other")} - {""}:
            found.setdefault(room, []).append(around.name)
    return {k: tuple(v) for k, v in found.items()}


def _led_back_to(gear_id: str) -> tuple[str, ...]:
    """Names of the hook-ups, archived ones too, that undo or redo may lead back to this gear."""
    named = hookups.that_ever_named(gear_id)
    return tuple(dict.fromkeys(name for name, doc in named if gear_id in _used_by(doc)))


def _entry(row: GearRecord, used: Mapping[str, tuple[str, ...]]) -> LockerEntry:
    unit = load_unit(row.doc)
    return LockerEntry(unit, unit.summary(), row.doc, row.revision, row.updated, used.get(row.id, ()), gaps(unit))


def listed(search: str = "", kind: str = "", archived: bool = False) -> list[LockerEntry]:
    """Units by kind and name. `search` looks in names, notes and kinds; archived ones only when asked for."""
    used, words = uses(), search.lower().split()
    found = []
    for row in gear.every((kind,) if kind else (), archived):
        try:
            entry = _entry(row, used)
        except FormatError:
            continue
        text = f"{row.name} {row.doc.get('notes', '')} {entry.unit.summary()} {KINDS[row.kind][1]}".lower()
        if all(word in text for word in words):
            found.append(entry)
    order = list(KINDS)
    return sorted(found, key=lambda e: (order.index(e.unit.kind), e.unit.name.lower()))


def _row(gear_id: str) -> GearRecord:
    row = gear.find(gear_id)
    if row is None:
        raise NotFound(f"There is no gear “{gear_id}” in the locker.")
    return row


def get(gear_id: str) -> LockerEntry:
    return _entry(_row(gear_id), uses())


def read_unit(doc: Mapping[str, Any]) -> Unit:
    """A unit from plain data; Invalid names every field that is refused."""
    try:
        return load_unit(dict(doc))
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None


def read_form(doc: Mapping[str, Any]) -> Unit:
    """A unit as it stands in its form, which may have neither id nor name yet; Invalid names what is refused."""
    return read_unit({**doc, "id": doc.get("id") or DRAFT, "name": doc.get("name") or "New"})


def _without_ghosts(doc: dict[str, Any]) -> dict[str, Any]:
    """The record without typical marks of what it has no longer: a line out that was ticked and unticked."""
    there = labels_present(read_unit(doc))
    marks = {
        name: [label for label in doc[name] if label in there] for name in ("typical", "inferred") if doc.get(name)
    }
    return {**doc, **marks}


def _record(unit: Unit, doc: dict[str, Any], revision: int = 1) -> GearRecord:
    return GearRecord(unit.id, unit.kind, unit.name, unit.archived, doc, now(), revision)


def add(doc: dict[str, Any]) -> LockerEntry:
    """Add a unit. A missing id is made from the name; an id that is taken is refused."""
    doc = _without_ghosts({**doc, "id": doc.get("id") or new_id(str(doc.get("name", "")))})
    unit = read_unit(doc)
    kept = keep_unknown(doc, dump(unit))
    with database.atomic():
        if gear.find(unit.id):
            raise Conflict(f"There is already gear with the id “{unit.id}”.")
        gear.insert([_record(unit, kept)])
        return get(unit.id)


def edit(gear_id: str, doc: dict[str, Any], revision: int) -> LockerEntry:
    """Replace a unit's record. `revision` is the one that was edited; an older one is refused."""
    with database.atomic():
        row = _row(gear_id)
        if row.revision != revision:
            raise Conflict(f"{row.name} was changed in another window. Your values are still in the form.")
        doc = _without_ghosts({**doc, "id": gear_id})
        unit = read_unit(doc)
        if unit.kind != row.kind:
            raise Invalid(f"{row.name} is a {KINDS[row.kind][1].lower()}; its kind cannot change.")
        gear.update(_record(unit, keep_unknown(row.doc, keep_unknown(doc, dump(unit))), row.revision + 1))
        return get(gear_id)


def duplicate(gear_id: str) -> LockerEntry:
    """A copy under a new id; the name says so."""
    with database.atomic():
        row = _row(gear_id)
        name = f"{row.name} (copy)"[:80]
        return add({**row.doc, "id": new_id(name), "name": name, "archived": False})


def delete(gear_id: str, revision: int | None = None) -> None:
    """Delete a unit for good. One that a hook-up uses, or used in a state it can come back to, is refused: archive it
    instead. So is one changed since `revision` (None asks for no such care)."""
    with database.atomic():
        row = _row(gear_id)
        if revision is not None and row.revision != revision:
            raise Conflict(f"{row.name} was changed in another window. Look at it as it is now.")
        used = uses().get(gear_id)
        if used:
            raise InUse(f"{row.name} is used in {', '.join(used)}. Archive it, or take it out there first.")
        before = _led_back_to(gear_id)
        if before:
            raise InUse(
                f"{row.name} was used in {', '.join(before[:MOST_NAMED])}, and undo may lead back to it there."
                " Archive it instead."
            )
        gear.delete(gear_id)


def _docs(kind: str = "") -> list[dict[str, Any]]:
    """Documents of all units, or of one kind, by kind and name."""
    found = gear.every((kind,) if kind else ())
    return [record.doc for record in sorted(found, key=lambda r: (r.kind, r.name))]


def locker_file() -> bytes:
    """Every unit, archived ones too, as one JSON file."""
    return write_locker(_docs())


def locker_csv(kind: str) -> str:
    """Every unit of a kind as CSV."""
    if kind not in KINDS:
        raise NotFound(f"There is no kind of gear “{kind}”.")
    return write_locker_csv(_docs(kind))


def bring_in(data: bytes, replace: bool = False) -> Imported:
    """Take the units of a locker file in, all or none. One that is here already is replaced or kept, as asked."""
    docs = read_locker(data)
    problems: list[str] = []
    units: list[tuple[Unit, dict[str, Any]]] = []
    for place, doc in enumerate(docs, 1):
        whole = {**doc, "id": doc.get("id") or new_id(str(doc.get("name", "")))}
        try:
            units.append((load_unit(whole), whole))
        except FormatError as error:
            name = str(doc.get("name") or f"unit {place}")[:80]
            problems += [f"{name}: {said}" for said in error.problems[:3]]
        if len(problems) > MOST_PROBLEMS:
            problems.append("There is more; these come first.")
            break
    if problems:
        raise Invalid(*problems)
    if len({unit.id for unit, _ in units}) < len(units):
        raise Invalid("Gear: two units in this file have the same id.")
    fresh: list[GearRecord] = []
    replaced, kept = [], []
    with database.atomic():
        here = {row.id: row for row in gear.every()}
        taken = {row.name for row in here.values()}
        for unit, doc in units:
            row = here.get(unit.id)
            stored = keep_unknown(doc, dump(unit))
            if row is None:
                name = numbered(unit.name, taken)
                taken.add(name)
                fresh.append(_record(dataclasses.replace(unit, name=name), {**stored, "name": name}))
            elif row.doc == stored or not replace:
                kept.append(unit.name)
            elif row.kind != unit.kind:
                raise Invalid(f"{unit.name}: the locker has another kind of gear under its id; nothing was taken in.")
            else:
                gear.update(_record(unit, stored, row.revision + 1))
                replaced.append(unit.name)
        gear.insert(fresh)
    added = [row.name for row in fresh]
    return Imported(tuple(added), tuple(replaced), tuple(kept))


def curve_file(gear_id: str, to: str) -> str:
    """The impedance of a load, cabinet or re-amplifier by itself, as ZMA or CSV text."""
    unit = get(gear_id).unit
    if unit.kind not in CURVE_KINDS:
        raise Invalid(f"{unit.name} has no impedance curve of its own.")
    frequency = frequency_grid()
    settings = {c.id: c.default for c in unit.controls()}
    socket = "in1" if isinstance(unit, Cabinet) else "in"
    parts = unit.parts(Site(unit.id, settings, frozenset({socket}), frequency))
    z = input_impedance(Network(parts.elements, parts.joints, len(frequency)), f"{unit.id}.{socket}")
    if to == "csv":
        return write_curve_csv(frequency.tolist(), z)
    said = "; ".join(unit.assumptions())
    return write_zma(frequency.tolist(), z, f"{unit.name}{', ' + said if said else ''}")


@dataclass(frozen=True)
class Insured:
    """A line of the list for an insurer."""

    unit: str
    name: str
    kind: str
    papers: Papers
    weight: float | None
    price: str


@dataclass(frozen=True)
class InsurerList:
    """All that is owned, with what its papers say; the sum, and how many have no price yet."""

    units: tuple[Insured, ...]
    total: str
    unpriced: int


def for_insurer() -> InsurerList:
    """What is owned and not put away, kind by kind, the dearest first."""
    currency = preferences().currency
    owned = [u for u in all_gear().values() if not u.archived and not isinstance(u, Surrounding)]
    order = list(KINDS)
    owned.sort(key=lambda u: (order.index(u.kind), -(papers_of(u).price or 0.0), u.name))
    whole = worth(owned)
    rows = (
        Insured(
            u.id,
            u.name,
            KINDS[u.kind][1],
            papers_of(u),
            weight_of(u),
            "" if (price := papers_of(u).price) is None else in_money(price, currency),
        )
        for u in owned
    )
    return InsurerList(tuple(rows), in_money(whole.price, currency), whole.unpriced)


def insurer_csv() -> str:
    """The same as CSV."""
    found, currency = for_insurer(), preferences().currency
    head = ["Kind", "Name", "Serial number", f"Price, {currency}", "Weight, kg", "Last service", "Flat out since, h"]
    rows = (
        [u.kind, u.name, u.papers.serial, u.papers.price, u.weight, u.papers.serviced, u.papers.flat_out_hours]
        for u in found.units
    )
    return write_csv(head, rows)


@dataclass(frozen=True)
class FromOhms:
    """What ohms at a cabinet's plug make likely, and how many drivers are behind that plug."""

    drivers: int
    found: tuple[Likely, ...]


def from_ohms(doc: Mapping[str, Any], ohms: float) -> FromOhms:
    """Ratings and wirings that explain ohms at the plug of a cabinet, as its form stands; Invalid where none does."""
    box = read_form(doc)
    if not isinstance(box, Cabinet):
        raise Invalid(f"{box.name}: only a cabinet has drivers to tell.")
    drivers = box.drivers_behind_a_jack()
    found = likely(Plug(ohms, drivers))
    if not found:
        many = f"{drivers} common drivers" if drivers > 1 else "a common driver"
        raise Invalid(
            f"Ohms at the plug: {in_ohms(ohms)} is not what {many} would read. Is something else plugged in,"
            " a driver open, or a plug half out?"
        )
    return FromOhms(drivers, found)


def output_impedance(readings: Readings) -> TwoReading:
    """Output impedance from two readings at one drive; Invalid says what is wrong with them."""
    try:
        found = two_reading_output_impedance(readings.r1, readings.v1, readings.r2, readings.v2)
        return with_damping(found, readings.tap)
    except ValueError as error:
        raise Invalid(f"{str(error)[:1].upper()}{str(error)[1:]}.") from None
