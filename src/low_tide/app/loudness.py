"""The Loudness section: a hook-up against every place, its warmth, and the tools around it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from low_tide.app import bench, readings
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.locker import GearName, read_form
from low_tide.app.preferences import preferences
from low_tide.core.acoustics import equal_loudness
from low_tide.core.acoustics.rooms import FACING
from low_tide.core.finder.level_plan import LevelPlan, level_plan
from low_tide.core.gear.ids import OPEN_AIR
from low_tide.core.inventory import Attenuator, Mount, Room
from low_tide.core.loudness import calibration
from low_tide.core.loudness.sound_level import phones, soundings
from low_tide.core.power.warm_boxes import warm_boxes
from low_tide.core.rig.hookup import Facing, Occasion
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.standing import stands
from low_tide.core.thermal import heating
from low_tide.stand_ins import meter, thermometer
from low_tide.store import takes

CURVE_POINTS = 49


@dataclass(frozen=True)
class Standing:
    """Where a unit of the hook-up stands: room and mount, empty where it is not said.

    `facing`: by place how it is turned; `direct`: places its sound comes straight to, where that counts.
    """

    unit: str
    name: str
    room: str
    mount: str
    sounds: bool
    facing: Mapping[str, Facing]
    direct: tuple[str, ...]


@dataclass(frozen=True)
class Box:
    """How a box warms over the session. `temperature` (°C) at `minutes`; None for both where it is not known.

    `heat_watts`: its mean heat as the session is played. `settled`, `limit` in °C, `reaches` and `rest` in min.
    """

    unit: str
    name: str
    minutes: tuple[float, ...]
    temperature: tuple[float, ...]
    heat_watts: float
    settled: float | None
    limit: float | None
    reaches: float | None
    rest: float | None
    estimate: tuple[str, ...]


@dataclass(frozen=True)
class PhonesState:
    """A pair of headphones that is plugged in, and how loud it can get (dB)."""

    unit: str
    name: str
    most: float


@dataclass(frozen=True)
class Half:
    """What a mark that only says “half” may mean."""

    name: str
    db: float


@dataclass(frozen=True)
class Quieter:
    """So many dB down, and how that sounds."""

    down_db: float
    words: str


@dataclass(frozen=True)
class Heard:
    """What a step is heard by: the newest take of the hook-up that has its recording, or the built-in one (None)."""

    take: int | None
    name: str


QUIETER = tuple(Quieter(db, equal_loudness.loudness_words(-db)) for db in (3.0, 6.0, 10.0))


@dataclass(frozen=True)
class LoudnessState:
    """All of the section for one hook-up; `playing` and `facings` are what there is to choose from, `quieter` what
    there is to hear beside full, by what is `heard`."""

    hookup: str
    occasion: Occasion
    plan: LevelPlan
    standing: tuple[Standing, ...]
    rooms: tuple[GearName, ...]
    mounts: tuple[GearName, ...]
    boxes: tuple[Box, ...]
    phones: tuple[PhonesState, ...]
    playing: tuple[GearName, ...]
    facings: tuple[GearName, ...]
    silent: bool
    heard: Heard
    quieter: tuple[Quieter, ...] = QUIETER


def _boxes(rig: Rig) -> tuple[Box, ...]:
    found = []
    span = rig.hookup.occasion.hours * 60
    minutes = tuple(float(m) for m in np.linspace(0, span, CURVE_POINTS))
    for unit, box in warm_boxes(rig):
        name = rig.name(unit)
        if box is None:
            found.append(Box(unit, name, (), (), 0.0, None, None, None, None, ()))
            continue
        reaches = box.reaches_limit if np.isfinite(box.reaches_limit) else None
        temperatures = tuple(box.at(m) for m in minutes)
        found.append(
            Box(
                unit,
                name,
                minutes,
                temperatures,
                box.watts,
                box.settled,
                box.limit,
                reaches,
                box.rest,
                box.estimate,
            )
        )
    return tuple(found)


def _direct(rig: Rig, unit: str) -> tuple[str, ...]:
    """Places in the room a unit stands in, or in the open with it."""
    room = rig.room_of(unit)
    here = room.id if room else "" if rig.is_outside(unit) else None
    return tuple(p.id for p in rig.places if p.room == here)


def _planned(rig: Rig, place: str, wanted: float | None, said: str) -> LevelPlan:
    try:
        return level_plan(rig, preferences(), place, wanted, said)
    except ValueError as error:
        raise Invalid(str(error), fields=[("said",)]) from None


def state(hookup_id: str, place: str = "", wanted: float | None = None, said: str = "") -> LoudnessState:
    """Everything the section shows of a hook-up; a wish given here, as dBA or in words, is looked at and not kept."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    placed = {p.unit: p for p in rig.hookup.units}
    sounding = {s.unit for s in soundings(rig)}
    return LoudnessState(
        hookup_id,
        rig.hookup.occasion,
        _planned(rig, place, wanted, said),
        tuple(
            Standing(
                unit,
                gear.name,
                placed[unit].room,
                placed[unit].mount,
                unit in sounding,
                placed[unit].facing,
                _direct(rig, unit),
            )
            for unit, gear in rig.units()
            if stands(gear) and gear.kind != "amp"
        ),
        (
            *(GearName(g.id, g.name) for g in rig.gear.values() if isinstance(g, Room) and not g.archived),
            GearName(OPEN_AIR, "the open air"),
        ),
        tuple(GearName(g.id, g.name) for g in rig.gear.values() if isinstance(g, Mount) and not g.archived),
        _boxes(rig),
        tuple(PhonesState(p.headphones, rig.name(p.headphones), p.most) for p in phones(rig)),
        tuple(GearName(id, name) for id, (name, _) in heating.DUTY.items()),
        tuple(GearName(id, name) for id, (name, _) in FACING.items() if id != "at"),
        not sounding,
        _heard(hookup_id),
    )


def _heard(hookup_id: str) -> Heard:
    take = takes.newest_with_audio(hookup_id)
    if take is None:
        return Heard(None, "a built-in take")
    return Heard(take.id, f"take {take.number}" + (f", {take.part}" if take.part else ""))


def meter_shows(
    hookup_id: str, place: str, weighting: Any, response: str, distance: float | None = None
) -> meter.Shown:
    """What the simulated meter shows while the hook-up sounds as it stands."""
    return readings.show(bench.rig_of(bench.row_of(hookup_id)), place, weighting, response, distance)


def thermometer_shows(hookup_id: str, unit: str, minutes: float) -> float:
    """What the simulated thermometer shows on a box after so many minutes of playing."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    box = next((b for u, b in warm_boxes(rig) if u == unit), None)
    if box is None:
        raise NotFound("Nothing that warms stands under that name in this hook-up, or its heat cannot be told.")
    return thermometer.read(unit, box, minutes, np.random.default_rng())


@dataclass(frozen=True)
class ThinCurve:
    """What is missing at each third octave (Hz, dB), and what the proposed shelf puts back there (dB)."""

    frequency: tuple[float, ...]
    thin: equal_loudness.Thin
    shelved: tuple[float, ...]


def thin(loud: float, quiet: float) -> ThinCurve:
    """What a quiet listening level takes away; Invalid where it is not quieter."""
    if quiet > loud:
        raise Invalid(f"Quiet: {quiet:g} dB is over the loud level of {loud:g} dB.")
    found = equal_loudness.thin(loud, quiet)
    shelved = equal_loudness.shelf_gain(found.shelf, equal_loudness.THIRDS)
    return ThinCurve(tuple(equal_loudness.THIRDS.tolist()), found, tuple(shelved.tolist()))


@dataclass(frozen=True)
class Positions:
    """Where an attenuator can be read: `steps` it has and no others, or a knob, with the positions that are known."""

    steps: bool
    names: tuple[str, ...]


def positions_of(doc: Mapping[str, Any]) -> Positions:
    """Where an attenuator can be read, as its record or form stands."""
    box = _attenuator(doc)
    names = tuple(m.at for m in box.marks) or tuple(f"{s:g}" for s in box.steps)
    return Positions(box.is_stepped(), names)


def _attenuator(doc: Mapping[str, Any]) -> Attenuator:
    box = read_form(doc)
    if not isinstance(box, Attenuator):
        raise Invalid(f"{box.name}: only an attenuator has positions to calibrate.")
    return box


def calibrated(
    doc: Mapping[str, Any], pairs: tuple[calibration.Pair, ...], reference: str, unit: Literal["V", "dB"]
) -> Attenuator:
    """An attenuator, as its record or form stands, with its positions from readings; Invalid says what is missing."""
    box = _attenuator(doc)
    try:
        return calibration.onto(box, calibration.marks_from(pairs, reference, unit))
    except ValueError as error:
        raise Invalid(str(error)) from None


def halves() -> tuple[Half, ...]:
    """What a step that only says “half” may mean."""
    return tuple(Half(name, decibels) for name, decibels in calibration.HALF_DB.values())


def fit_heat(ambient: float, watts: float, readings_: tuple[tuple[float, float], tuple[float, float]]) -> heating.Fit:
    """Thermal resistance and time constant from two readings; Invalid says what is wrong with them."""
    try:
        return heating.fit(ambient, watts, *readings_)
    except ValueError as error:
        raise Invalid(str(error)) from None
