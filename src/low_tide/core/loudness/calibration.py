"""What readings teach: a correction for each place, and the dB of knobs and steps that carry none."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import hypot, log10
from statistics import fmean, median
from typing import Annotated, Literal

from low_tide.core.acoustics.rooms import Weighting
from low_tide.core.gear.attenuator import Attenuator, Mark, monotone
from low_tide.core.gear.base import identity
from low_tide.core.rig.known import Correction, learned_spread
from low_tide.core.spec import Spec
from low_tide.core.units import db_voltage, figure

LEAST_OVER_BACKGROUND_DB = 3.0
NEAR_M = 0.5
LONELY_OFFSET_DB = 10.0
"""A single reading further than this from the prediction is asked about before it counts."""
LEAST_MARK_SPREAD_DB = 1.0
MUCH_LOUDER_DB = 0.5
STRAY_DB = 5.0

HALF_DB: dict[str, tuple[str, float]] = {
    "power": ("half the power", 3.01),
    "voltage": ("half the voltage", 6.02),
    "loudness": ("half as loud", 10.0),
}
"""What a mark that only says “half” may mean, and the dB of each."""


@dataclass(frozen=True)
class Reading:
    """A level read off a sound level meter. `background`: the same with nothing played.

    `distance`: from the cabinet, m, where it was not the place's own. `minutes`: how long one listened to it.
    """

    place: Annotated[str, identity("Place")]
    level: Annotated[float, Spec("Reading", "dB", 10, 150)]
    weighting: Annotated[Weighting, Spec("Weighting")] = "A"
    response: Annotated[Literal["slow", "fast"], Spec("Response")] = "slow"
    background: Annotated[float | None, Spec("Background", "dB", 0, 140)] = None
    distance: Annotated[float | None, Spec("Distance", "m", 0.02, 5000)] = None
    minutes: Annotated[float, Spec("Listened", "min", 0, 1440)] = 0.0
    device: Annotated[str, Spec("Meter", le=60)] = ""


def without_background(level: float, background: float) -> float:
    """A level (dB) with its background taken off: 10·log10(10^(L/10) − 10^(Lb/10)).

    ValueError where it is less than 3 dB over the background: what is left says nothing.
    """
    if level - background < LEAST_OVER_BACKGROUND_DB:
        raise ValueError(
            f"Reading: {figure(level)} dB is less than {figure(LEAST_OVER_BACKGROUND_DB)} dB over the background of"
            f" {figure(background)} dB. Play louder, or make it quieter around."
        )
    return 10 * log10(10 ** (level / 10) - 10 ** (background / 10))


def corrected(reading: Reading) -> float:
    """The reading (dB) without its background."""
    return reading.level if reading.background is None else without_background(reading.level, reading.background)


def correction(offsets: list[float], cabinet: str = "", room: str = "", turned_down: bool = False) -> Correction | None:
    """What measured less predicted levels (dB) teach: their median, with the ± of `learned_spread`."""
    if not offsets:
        return None
    return Correction(median(offsets), learned_spread(offsets), len(offsets), cabinet, room, turned_down)


def asks(offset: float, others: int) -> str:
    """What a lone reading that is far from the prediction is asked, as a sentence; empty where it may count."""
    if others or abs(offset) <= LONELY_OFFSET_DB:
        return ""
    way = "over" if offset > 0 else "under"
    return (
        f"{figure(abs(offset), 2)} dB {way} the prediction, and the only reading here. Check place, setting and what"
        " else sounds; if it is right, let it count."
    )


def strays(offset: float, everyone: list[float], reading: Reading, same_room: bool) -> str:
    """Why a reading does not go with the rest of its place, as a sentence; empty when it does.

    `offset`: its measured less predicted level, dB; `everyone`: the same of all readings there, its own too.
    `same_room`: the cabinet stood in the room of the place.
    """
    if len(everyone) < 2:
        return ""
    off = offset - median(everyone)
    if abs(off) < STRAY_DB:
        return ""
    way = "over" if off > 0 else "under"
    if off > 0 and same_room and (reading.distance is None or reading.distance < NEAR_M):
        guess = "Was the meter too near the grille?"
    elif off > 0:
        guess = "Was something else sounding?"
    else:
        guess = "Was it played more quietly, or with another setting?"
    return f"{figure(abs(off), 2)} dB {way} what the readings here say on the whole. {guess}"


@dataclass(frozen=True)
class Pair:
    """A reading at a position of a knob: volts, or a level, against the same at the reference position."""

    at: Annotated[str, Spec("Position", ge=1, le=20)]
    value: Annotated[float, Spec("Reading", "V or dB", -100, 500)]


def _half_range(levels: list[float]) -> float:
    return (max(levels) - min(levels)) / 2


def marks_from(pairs: tuple[Pair, ...], reference: str, unit: Literal["V", "dB"]) -> tuple[Mark, ...]:
    """A table of positions in dB down from readings; several at one position average.

    ± is half their range, with the reference's own in squares. Where noise breaks the order of a knob's numbers, the
    nearest order is taken (monotone regression), and what that moves is in the ± too. `reference`: the position that
    counts as 0 dB. Volts count as 20·log10. ValueError names what is missing.
    """
    by_position: dict[str, list[float]] = {}
    for pair in pairs:
        if unit == "V" and pair.value <= 0:
            raise ValueError(f"Reading at {pair.at}: {figure(pair.value)} V; more than 0 V is wanted.")
        by_position.setdefault(pair.at.strip(), []).append(db_voltage(pair.value) if unit == "V" else pair.value)
    if reference not in by_position:
        raise ValueError(f"There is no reading at “{reference}”, which is to count as 0 dB.")
    if len(by_position) < 2:
        raise ValueError("Readings at two positions at least are wanted.")
    zero, own = fmean(by_position[reference]), _half_range(by_position[reference])
    floor = 0.1 if unit == "V" else LEAST_MARK_SPREAD_DB
    found = []
    for at, levels in by_position.items():
        down = zero - fmean(levels)
        spread = max(floor, hypot(_half_range(levels), own if at != reference else 0.0))
        if down < -max(MUCH_LOUDER_DB, 2 * spread):
            raise ValueError(f"At “{at}” it is louder than at “{reference}”, which was to be 0 dB.")
        found.append(Mark(at, max(0.0, down), spread))
    return tuple(_in_order(found, [len(levels) for levels in by_position.values()]))


def _in_order(marks: list[Mark], readings: list[int]) -> Iterator[Mark]:
    """The same with the dB of a knob's numbers going one way; steps that are only named stay as they are."""
    numbers = [m.number() for m in marks]
    read = down = [m.down_db or 0.0 for m in marks]
    if all(n is not None for n in numbers):
        down = monotone([n or 0.0 for n in numbers], read, readings)
    for mark, value, before in zip(marks, down, read, strict=True):
        moved = hypot(mark.spread, value - before)
        yield Mark(mark.at, round(value, 2), round(moved, 2))


def onto(unit: Attenuator, read: tuple[Mark, ...]) -> Attenuator:
    """A unit with its positions as readings showed them.

    A knob can be read anywhere, so the readings are its table. Steps are what they are: those that were read have
    their dB, the others keep what they had. ValueError for a reading at a step that the box lacks.
    """
    if not unit.is_stepped():
        return replace(unit, marks=read, marks_are="knob")
    own = unit.marks or tuple(Mark(f"{s:g}", s, 0.0) for s in unit.steps)
    names, found = [m.at for m in own], {m.at: m for m in read}
    lacking = next((at for at in found if at not in names), None)
    if lacking is not None:
        raise ValueError(f"{unit.name} has no step “{lacking}”; it has {', '.join(names)}.")
    return replace(unit, marks=tuple(found.get(m.at, m) for m in own), marks_are="steps")
