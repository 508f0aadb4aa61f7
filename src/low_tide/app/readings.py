"""Levels that were read or listened to, what they teach about each place, and the dose they add up to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from math import isfinite
from typing import Any

import numpy as np
from peewee import fn

from low_tide.app import locker
from low_tide.app.clock import ago, instant, local, start_of_day
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.preferences import preferences
from low_tide.core.acoustics import weighted_level
from low_tide.core.calibration import Reading, corrected, correction, offsets_by_place, strays
from low_tide.core.gear import Headphones, Place, Unit
from low_tide.core.hearing import LISTENING, allowed_hours, dose
from low_tide.core.hookup import Correction, HookupError, Known, Rig, checked
from low_tide.core.loudness import heard, phones, predicted_bands
from low_tide.core.preferences import LISTENING_NAMES
from low_tide.formats.documents import dump, load_hookup, load_unit, parse
from low_tide.formats.sentences import FormatError
from low_tide.formats.tables import log_csv
from low_tide.stand_ins import meter
from low_tide.store.files import now
from low_tide.store.models import GearRow, HookupRow, ReadingRow, RevisionRow, database

MOST_LISTED = 200
ALMOST = 0.8
"""Part of an allowance from which one is warned."""


@dataclass(frozen=True)
class ReadingState:
    """A reading as it is listed. `measured` has its background taken off; `offset` is measured less predicted, dB.

    `stray` says why it does not go with the others of its place.
    """

    id: int
    place: str
    place_name: str
    reading: Reading
    measured: float
    predicted: float | None
    offset: float | None
    stray: str
    used: bool
    hookup_name: str
    at: str


@dataclass(frozen=True)
class Exposure:
    """Something that was listened to."""

    id: int
    name: str
    level: float
    minutes: float
    at: str


@dataclass(frozen=True)
class SchoolDose:
    """What one school says of the same listening: dose 1 is all of it, None more than any."""

    name: str
    chosen: bool
    dose: float | None


@dataclass(frozen=True)
class Ears:
    """Listening so far: today, or over the rolling week of the third school.

    `at_level`: hours left at the level predicted where one's own ears are, from now on; `warn` says when it ends.
    """

    span: str
    dose: float | None
    schools: tuple[SchoolDose, ...]
    exposures: tuple[Exposure, ...]
    level: float | None
    where: str
    left_hours: float | None
    warn: str


def _gear(row: HookupRow) -> dict[str, Unit]:
    return {**locker.all_gear(), **{u.id: u for u in (load_unit(doc) for doc in row.pinned)}}


def _rig_at(hookup_id: str, revision: int) -> Rig | None:
    """A hook-up as it was at a revision, with the gear of today; None where that no longer goes together."""
    row = HookupRow.get_or_none(HookupRow.id == hookup_id)
    found = RevisionRow.get_or_none(RevisionRow.hookup == hookup_id, RevisionRow.number == revision)
    if row is None or found is None:
        return None
    try:
        return checked(load_hookup(found.doc), _gear(row))
    except (HookupError, FormatError):
        return None


def _stamp() -> tuple[Any, ...]:
    """What corrections rest on: as long as it stays the same, so do they."""
    gear = GearRow.select(fn.COUNT(GearRow.id), fn.SUM(GearRow.revision), fn.MAX(GearRow.updated))
    read = ReadingRow.select(fn.COUNT(ReadingRow.id), fn.MAX(ReadingRow.id), fn.SUM(ReadingRow.used))
    return (str(database.database), tuple(gear.tuples()), tuple(read.tuples()))


def _read(row: ReadingRow) -> Reading:
    return parse(Reading, row.doc)


@lru_cache(maxsize=4)
def _predictions(stamp: tuple[Any, ...]) -> Mapping[int, tuple[float | None, bool]]:
    """Reading id → what is predicted for it without any correction, in its own weighting and at its distance;
    and whether a cabinet then stood in the room of its place."""
    rigs: dict[tuple[str, int], Rig | None] = {}
    found: dict[int, tuple[float | None, bool]] = {}
    for row in ReadingRow.select().where(ReadingRow.kind == "meter", ReadingRow.hookup.is_null(False)):
        key = (str(row.hookup), int(row.revision or 0))
        if key not in rigs:
            rigs[key] = _rig_at(*key)
        rig, reading = rigs[key], _read(row)
        place = rig.gear.get(reading.place) if rig else None
        bands = predicted_bands(rig, place, reading.distance)[0] if rig and isinstance(place, Place) else None
        predicted = None if bands is None else weighted_level(bands, reading.weighting)
        rooms = {room.id for u, _ in rig.cabinets() if (room := rig.room_of(u))} if rig else set()
        found[row.id] = (predicted, isinstance(place, Place) and place.room in rooms)
    return found


def _offsets() -> dict[int, tuple[str, float]]:
    """Reading id → its place and measured less predicted, dB, of every reading that counts."""
    predictions, found = _predictions(_stamp()), {}
    for row in ReadingRow.select().where(ReadingRow.kind == "meter", ReadingRow.used):
        predicted = predictions.get(row.id, (None, False))[0]
        if predicted is not None:
            found[row.id] = (row.place, corrected(_read(row)) - predicted)
    return found


def corrections() -> dict[str, Correction]:
    """Place → what its readings add to the prediction."""
    by_place = offsets_by_place(list(_offsets().values()))
    return {place: made for place, offsets in by_place.items() if (made := correction(offsets)) is not None}


def _exposures(since: str) -> list[ReadingRow]:
    query = ReadingRow.select().where(ReadingRow.minutes > 0, ReadingRow.at >= since)
    return list(query.order_by(ReadingRow.at.desc()))


def _since(school: str) -> str:
    days = LISTENING[school].days
    return start_of_day() if days == 1 else ago(days=days)


def _dose(school: str) -> float:
    return dose([(row.level, row.minutes / 60) for row in _exposures(_since(school))], school)


def known() -> Known:
    """What was measured: a correction for each place, and the dose so far by the chosen school."""
    return Known(corrections(), _dose(preferences().listening))


def _place(place_id: str) -> Place:
    unit = locker.get(place_id).unit
    if not isinstance(unit, Place):
        raise Invalid(f"Place: {unit.name} is no listening place.")
    return unit


def add(hookup_id: str, doc: Any, at: str = "") -> ReadingState:
    """Keep a reading of a hook-up as it stands. Invalid names the field and its bound."""
    row = HookupRow.get_or_none(HookupRow.id == hookup_id)
    if row is None:
        raise NotFound(f"There is no hook-up “{hookup_id}”.")
    try:
        reading = parse(Reading, doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    _place(reading.place)
    try:
        corrected(reading)
    except ValueError as error:
        raise Invalid(str(error)) from None
    made = ReadingRow.create(
        kind="meter",
        place=reading.place,
        hookup=row.id,
        revision=row.current,
        minutes=reading.minutes,
        level=reading.level,
        doc=dump(reading),
        at=instant(at) if at else now(),
    )
    return next(r for r in listed() if r.id == made.id)


def use(reading_id: int, used: bool) -> None:
    """Let a reading count for the calibration, or leave it out."""
    row = ReadingRow.get_or_none(ReadingRow.id == reading_id)
    if row is None:
        raise NotFound("There is no such reading.")
    row.used = used
    row.save()


def delete(reading_id: int) -> None:
    """Delete a reading or a stretch of listening for good."""
    if not ReadingRow.delete().where(ReadingRow.id == reading_id).execute():
        raise NotFound("There is no such reading.")


def listed(place: str = "", most: int | None = MOST_LISTED) -> tuple[ReadingState, ...]:
    """Readings of the meter, newest first, `most` of them at most."""
    names = locker.all_gear()
    hookups = {row.id: row.name for row in HookupRow.select(HookupRow.id, HookupRow.name)}
    predictions, offsets = _predictions(_stamp()), _offsets()
    query = ReadingRow.select().where(ReadingRow.kind == "meter")
    if place:
        query = query.where(ReadingRow.place == place)
    found = []
    for row in query.order_by(ReadingRow.at.desc(), ReadingRow.id.desc()).limit(most):
        reading, (predicted, same_room) = _read(row), predictions.get(row.id, (None, False))
        measured, where = corrected(reading), names.get(row.place)
        offset = None if predicted is None else measured - predicted
        here = [o for i, (p, o) in offsets.items() if p == row.place and i != row.id]
        stray = "" if offset is None else strays(offset, [*here, offset], reading, same_room)
        name = where.name if where else row.place
        hookup = hookups.get(str(row.hookup), "")
        found.append(
            ReadingState(row.id, row.place, name, reading, measured, predicted, offset, stray, row.used, hookup, row.at)
        )
    return tuple(found)


COLUMNS = (
    "at",
    "place",
    "hookup",
    "reading, dB",
    "weighting",
    "response",
    "background, dB",
    "distance, m",
    "without background, dB",
    "predicted, dB",
    "offset, dB",
    "counts",
    "listened, min",
    "meter",
)


def export_csv() -> str:
    """Every reading of the meter as CSV, oldest first."""
    rows = (
        {
            "at": r.at,
            "place": r.place_name,
            "hookup": r.hookup_name,
            "reading, dB": r.reading.level,
            "weighting": r.reading.weighting,
            "response": r.reading.response,
            "background, dB": r.reading.background,
            "distance, m": r.reading.distance,
            "without background, dB": round(r.measured, 2),
            "predicted, dB": None if r.predicted is None else round(r.predicted, 2),
            "offset, dB": None if r.offset is None else round(r.offset, 2),
            "counts": "yes" if r.used else "no",
            "listened, min": r.reading.minutes,
            "meter": r.reading.device,
        }
        for r in reversed(listed(most=None))
    )
    return log_csv(rows, COLUMNS)


def show(rig: Rig, place_id: str, weighting: Any, response: str, distance: float | None) -> meter.Shown:
    """What the simulated meter shows at a place while this hook-up sounds."""
    place = _place(place_id)
    bands, _, why = predicted_bands(rig, place, distance)
    if bands is None:
        raise Invalid(f"The meter shows nothing of it: {why}.")
    return meter.read(bands, place_id, weighting, response, np.random.default_rng())


def listen(what: str, level: float, minutes: float, at: str = "") -> None:
    """Log a stretch of listening, at a place or in headphones."""
    unit = locker.get(what).unit
    if not isinstance(unit, Place | Headphones):
        raise Invalid(f"Where: {unit.name} is neither a place nor headphones.")
    ReadingRow.create(
        kind="listening",
        place=what,
        minutes=minutes,
        level=level,
        doc={},
        at=instant(at) if at else now(),
    )


def _finite(value: float) -> float | None:
    return value if isfinite(value) else None


def ears(rig: Rig | None = None) -> Ears:
    """Listening so far, by every school, and how long one may go on with this hook-up."""
    school = preferences().listening
    names = {gear_id: unit.name for gear_id, unit in locker.all_gear().items()}
    rows = _exposures(_since(school))
    used = _dose(school)
    # At the edge of what is predicted: an allowance is not told too long.
    own = [(h.dba + h.spread, h.name) for h in (heard(rig) if rig else ()) if h.ears and h.dba is not None]
    level, where = max(own, default=(None, ""))
    for pair in phones(rig) if rig and level is None else ():
        level, where = pair.most, f"{names.get(pair.headphones, pair.headphones)}, at full travel"
    left = None
    warn = ""
    span = "week" if LISTENING[school].days > 1 else "day"
    if level is not None:
        left = min(24.0 * LISTENING[school].days, max(0.0, 1 - used) * allowed_hours(level, school))
        ends = local(ago(hours=-left))
        if used >= 1:
            warn = f"All of what the {span} allows is used. Hearing does not come back: stop for today."
        elif left == 0:
            warn = "Over 115 dBA nothing is allowed at all."
        elif left < 12:
            most = local(ago(hours=-max(0.0, ALMOST - used) * allowed_hours(level, school)))
            before = f"four fifths of it at {most:%H:%M}, " if used < ALMOST else ""
            warn = f"From now on at this level the {span}’s allowance is used up: {before}all of it at {ends:%H:%M}."
    elif used >= 1:
        warn = f"All of what the {span} allows is used. Hearing does not come back: stop for today."
    elif used >= ALMOST:
        warn = f"{used * 100:.0f} % of what the {span} allows is used."
    return Ears(
        span,
        _finite(used),
        tuple(SchoolDose(name, s == school, _finite(_dose(s))) for s, name in LISTENING_NAMES.items()),
        tuple(Exposure(r.id, names.get(r.place, r.place), r.level, r.minutes, r.at) for r in rows),
        level,
        where,
        left,
        warn,
    )
