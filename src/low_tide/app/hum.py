"""The hum routine: two positions recorded with nothing played, or read off a meter, and held against each other."""

from __future__ import annotations

from dataclasses import dataclass
from typing import BinaryIO

import numpy as np

from low_tide.app import bench
from low_tide.app.errors import Invalid
from low_tide.app.preferences import preferences
from low_tide.app.recorder import input_of_hookup, silent_take
from low_tide.core.audio.hum_routine import LEAST_SECONDS, HumReading, reading
from low_tide.core.judging.checks.registry import Case
from low_tide.core.judging.hum_steps import MAINS_EARTH, HumStep, Lift, hum_steps, lifts
from low_tide.core.rig.changes import Change, changed
from low_tide.core.rig.hookup import HookupError
from low_tide.formats.recording import read_short
from low_tide.formats.sentences import FormatError
from low_tide.store.home import Home, incoming

READ = 1 << 20
SECONDS = 5.0


@dataclass(frozen=True)
class HumPlan:
    """What a line has against hum: its audio-earth lifts, and what to try in order of effort."""

    input: str
    name: str
    lifts: tuple[Lift, ...]
    steps: tuple[HumStep, ...]
    always: str


def plan(hookup_id: str, recorded_at: str = "") -> HumPlan:
    """What the line to an input has against hum."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    point = input_of_hookup(rig, recorded_at)
    case = Case(rig, preferences())
    return HumPlan(
        point.input.name, rig.label(point.input), lifts(case, point.input), hum_steps(case, point.input), MAINS_EARTH
    )


def recorded(home: Home, hookup_id: str, recorded_at: str, changes: tuple[Change, ...]) -> HumReading:
    """Five seconds of nothing through the simulated interface, with changes made that are not kept."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    try:
        there = changed(rig, changes)
    except HookupError as error:
        raise Invalid(*error.problems) from None
    rate = 48_000
    return reading(silent_take(home, there, recorded_at, SECONDS, rate), rate)


def from_file(home: Home, stream: BinaryIO) -> HumReading:
    """A recording of one position from a file, with nothing played in it."""
    with incoming(home) as part:
        with part.open("wb") as out:
            while block := stream.read(READ):
                out.write(block)
        try:
            samples, rate = read_short(part)
        except FormatError as error:
            raise Invalid(*error.problems) from None
    if len(samples) < LEAST_SECONDS * rate:
        raise Invalid(
            f"Length: {len(samples) / rate:.2g} s is under the least that hum is told by, {LEAST_SECONDS:g} s."
        )
    return reading(np.asarray(samples, np.float64), rate)
