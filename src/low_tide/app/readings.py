"""Levels that were read or listened to, what they teach about each place, and the dose they add up to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from math import isfinite
from typing import Any

import numpy as np

from low_tide.app import locker
from low_tide.app.clock import ago, instant, local, start_of_day
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.playing import played
from low_tide.app.preferences import preferences
from low_tide.core.acoustics.exposure import LISTENING, allowed_hours, day_words, dose, duration
from low_tide.core.acoustics.rooms import weighted_level
from low_tide.core.inventory import Headphones, Place, Unit
from low_tide.core.loudness.calibration import Reading, asks, corrected, correction, strays
from low_tide.core.loudness.sound_level import cabinet_of, is_turned_down_unknown, listening_level, predicted_bands
from low_tide.core.preferences import LISTENING_NAMES
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.known import Correction, Known
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.formats.documents import dump, load_hookup, load_unit, parse
from low_tide.formats.sentences import FormatError
from low_tide.formats.tables import log_csv
from low_tide.stand_ins import meter
from low_tide.store import hookups, suspects
from low_tide.store import readings as kept
from low_tide.store.database import database, remembered
from low_tide.store.home import now
from low_tide.store.hookups import HookupRecord
from low_tide.store.readings import LISTENING as LISTENED
from low_tide.store.readings import METER, ReadingRecord

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
    """What one school says of the same listening: dose 1 is all of it, None more than any. `over`: more than all."""

    name: str
    chosen: bool
    dose: float | None
    over: bool


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
    left_words: str
    warn: str


def _gear(row: HookupRecord) -> dict[str, Unit]:
    return {**locker.all_gear(), **{u.id: u for u in (load_unit(doc) for doc in row.pinned)}}


def _rig_at(hookup_id: str, revision: int) -> Rig | None:
    """A hook-up as it was at a revision, with the gear of today; None where that no longer goes together."""
    row, found = hookups.find(hookup_id), hookups.revision(hookup_id, revision)
    if row is None or found is None:
        return None
    try:
        return checked(load_hookup(found.doc), _gear(row))
    except (HookupError, FormatError):
        return None


def _read(row: ReadingRecord) -> Reading:
    return parse(Reading, row.doc)


@dataclass(frozen=True)
class _Basis:
    """What a reading was made of: its prediction without any correction, in its own weighting and at its distance; the
    cabinet that was loudest and the room it stood in; whether that is the room of the place; whether something was
    turned down before the power stage."""

    predicted: float | None
    cabinet: str = ""
    room: str = ""
    same_room: bool = False
    turned_down: bool = False

    @property
    def kind(self) -> tuple[str, str, bool]:
        """What its offset may be held together with."""
        return self.cabinet, self.room, self.turned_down


def _basis(rig: Rig, reading: Reading) -> _Basis:
    place = rig.gear.get(reading.place)
    if not isinstance(place, Place):
        return NO_BASIS
    bands = predicted_bands(rig, place, reading.distance)[0]
    predicted = None if bands is None else weighted_level(bands, reading.weighting)
    cabinet = cabinet_of(rig)
    room = rig.room_of(cabinet.id) if cabinet else None
    inside = room is not None and place.room == room.id
    turned_down = is_turned_down_unknown(rig)
    return _Basis(predicted, cabinet.id if cabinet else "", room.id if room else "", inside, turned_down)


NO_BASIS = _Basis(None)


@remembered("gear", "reading", hookups.PINS)
def _bases() -> Mapping[int, _Basis]:
    """Reading id → what it was made of. Revisions never change, so of a hook-up only its pinned gear counts."""
    rigs: dict[tuple[str, int], Rig | None] = {}
    found: dict[int, _Basis] = {}
    for row in kept.of_meter():
        if row.hookup is None:
            continue
        key = (row.hookup, row.revision or 0)
        if key not in rigs:
            rigs[key] = _rig_at(*key)
        rig = rigs[key]
        found[row.id] = _basis(rig, _read(row)) if rig else NO_BASIS
    return found


Offsets = dict[int, tuple[str, float]]


def _offsets() -> Offsets:
    """Reading id → its place and measured less predicted, dB, of every reading that counts."""
    bases, found = _bases(), {}
    for row in kept.of_meter():
        predicted = bases.get(row.id, NO_BASIS).predicted
        if row.used and predicted is not None:
            found[row.id] = (row.place, corrected(_read(row)) - predicted)
    return found


def _beside(reading_id: int, place: str, offsets: Offsets) -> list[float]:
    """Offsets of the other readings at a place that were made of the same: cabinet, room and how it was played."""
    bases = _bases()
    kind = bases.get(reading_id, NO_BASIS).kind
    return [o for i, (p, o) in offsets.items() if p == place and i != reading_id and bases[i].kind == kind]


@remembered("gear", "reading", hookups.PINS)
def corrections() -> dict[str, tuple[Correction, ...]]:
    """Place → what its readings add to the prediction, for each cabinet, room and manner they were made with."""
    bases = _bases()
    gathered: dict[str, dict[tuple[str, str, bool], list[float]]] = {}
    for reading_id, (place, offset) in _offsets().items():
        gathered.setdefault(place, {}).setdefault(bases[reading_id].kind, []).append(offset)
    return {
        place: tuple(made for kind, offsets in kinds.items() if (made := correction(offsets, *kind)) is not None)
        for place, kinds in gathered.items()
    }


def _since(school: str) -> str:
    days = LISTENING[school].days
    return start_of_day() if days == 1 else ago(days=days)


def _dose(school: str) -> float:
    return dose([(row.level, row.minutes / 60) for row in kept.listened_since(_since(school))], school)


def known() -> Known:
    """What was measured: a correction for each place, the dose so far by the chosen school, and what is suspect."""
    return Known(corrections(), _dose(preferences().listening), played(), suspects.reasons())


def _place(place_id: str) -> Place:
    unit = locker.get(place_id).unit
    if not isinstance(unit, Place):
        raise Invalid(f"Place: {unit.name} is no listening place.")
    return unit


def add(hookup_id: str, doc: Any, at: str = "") -> ReadingState:
    """Keep a reading of a hook-up as it stands. Invalid names the field and its bound.

    A lone one that is far from its prediction is kept and does not count before somebody says so.
    """
    try:
        reading = parse(Reading, doc)
        corrected(reading)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    except ValueError as error:
        raise Invalid(str(error)) from None
    when = instant(at) if at else now()
    with database.atomic():
        row = hookups.find(hookup_id)
        if row is None:
            raise NotFound(f"There is no hook-up “{hookup_id}”.")
        _place(reading.place)
        record = ReadingRecord(METER, reading.place, reading.level, dump(reading), when, row.id, row.current)
        made = kept.insert(replace(record, minutes=reading.minutes))
        alone = next(r for r in listed() if r.id == made)
        if alone.offset is not None and asks(alone.offset, len(_beside(made, reading.place, _offsets()))):
            kept.use(made, False)
        return next(r for r in listed() if r.id == made)


def use(reading_id: int, used: bool) -> None:
    """Let a reading count for the calibration, or leave it out."""
    with database.atomic():
        if not kept.use(reading_id, used):
            raise NotFound("There is no such reading.")


def delete(reading_id: int) -> None:
    """Delete a reading or a stretch of listening for good."""
    with database.atomic():
        if not kept.delete(reading_id):
            raise NotFound("There is no such reading.")


def listed(place: str = "", most: int | None = MOST_LISTED) -> tuple[ReadingState, ...]:
    """Readings of the meter, newest first, `most` of them at most."""
    names = locker.all_gear()
    named = hookups.names()
    bases, offsets = _bases(), _offsets()
    found = []
    for row in kept.of_meter(place, most):
        reading, basis = _read(row), bases.get(row.id, NO_BASIS)
        measured, where = corrected(reading), names.get(row.place)
        offset = None if basis.predicted is None else measured - basis.predicted
        here = _beside(row.id, row.place, offsets)
        stray = ""
        if offset is not None:
            asked = "" if row.used else asks(offset, len(here))
            stray = asked or strays(offset, [*here, offset], reading, basis.same_room)
        name = where.name if where else row.place
        hookup = named.get(row.hookup or "", "")
        found.append(
            ReadingState(
                row.id, row.place, name, reading, measured, basis.predicted, offset, stray, row.used, hookup, row.at
            )
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
    return "".join(log_csv(rows, COLUMNS))


def show(rig: Rig, place_id: str, weighting: Any, response: str, distance: float | None) -> meter.Shown:
    """What the simulated meter shows at a place while this hook-up sounds."""
    place = _place(place_id)
    bands, _, why = predicted_bands(rig, place, distance)
    if bands is None:
        raise Invalid(f"The meter shows nothing of it: {why}.")
    return meter.read(bands, place_id, weighting, response, np.random.default_rng())


def listen(what: str, level: float, minutes: float, at: str = "") -> None:
    """Log a stretch of listening, at a place or in headphones."""
    when = instant(at) if at else now()
    with database.atomic():
        unit = locker.get(what).unit
        if not isinstance(unit, Place | Headphones):
            raise Invalid(f"Where: {unit.name} is neither a place nor headphones.")
        kept.insert(ReadingRecord(LISTENED, what, level, {}, when, minutes=minutes))


def _finite(value: float) -> float | None:
    return value if isfinite(value) else None


def _school_dose(school: str, name: str, chosen: bool) -> SchoolDose:
    part = _dose(school)
    return SchoolDose(name, chosen, _finite(part), part > 1)


def ears(rig: Rig | None = None) -> Ears:
    """Listening so far, by every school, and how long one may go on with this hook-up."""
    school = preferences().listening
    names = {gear_id: unit.name for gear_id, unit in locker.all_gear().items()}
    rows = kept.listened_since(_since(school))
    used = _dose(school)
    level, where = listening_level(rig) if rig else (None, "")
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
        tuple(_school_dose(s, name, s == school) for s, name in LISTENING_NAMES.items()),
        tuple(Exposure(r.id, names.get(r.place, r.place), r.level, r.minutes, r.at) for r in rows),
        level,
        where,
        left,
        _left_words(left, LISTENING[school].days),
        warn,
    )


def _left_words(hours: float | None, days: int) -> str:
    if hours is None:
        return ""
    return day_words(hours) if days == 1 else duration(hours)
