"""Recording a take through the simulated interface: what is played, through the hook-up as it stands, to a file."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Annotated, Literal, TypeAlias

import numpy as np

from low_tide.app import audition, bench, log, recordings
from low_tide.app.errors import Invalid
from low_tide.app.log import Take, TakeNote
from low_tide.app.preferences import preferences
from low_tide.app.turns import give_way
from low_tide.core.audio.rendering import RATE, Samples, picked_up, riff
from low_tide.core.audio.signals import exponential_sweep, pink_noise, sine
from low_tide.core.inventory import Interface
from low_tide.core.judging.checks.earth import earthing_at
from low_tide.core.judging.checks.registry import Case
from low_tide.core.judging.judge import judge
from low_tide.core.judging.takes import input_of
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.gain_staging import as_it_stands
from low_tide.core.signal_path.levels import LinePoint, input_gain_db, levels
from low_tide.core.signal_path.played import Played, played
from low_tide.core.spec import Spec
from low_tide.core.units import peak_of_dbu
from low_tide.formats.recording import write_wav
from low_tide.stand_ins import audio_interface
from low_tide.store.database import database
from low_tide.store.home import Home, incoming, installation

Source: TypeAlias = Literal["built-in", "direct", "sine", "pink", "sweep", "silence"]
SOURCE_NAMES = {
    "built-in": "the built-in take",
    "direct": "a direct track",
    "sine": "a sine of 440 Hz",
    "pink": "pink noise",
    "sweep": "a sweep from 20 Hz to 20 kHz",
    "silence": "nothing: the noise and the hum",
}
LEAD_S, TAIL_S = 2.0, 0.5
"""Nothing is played so long before and after, to tell hum and noise by."""


@dataclass(frozen=True)
class Recording:
    """What is to be recorded: what is played and how hard, at which input, how long and at which rate."""

    note: TakeNote
    source: Annotated[Source, Spec("Played", names=SOURCE_NAMES)] = "built-in"
    direct: Annotated[str, Spec("Direct track", le=80)] = ""
    drive: Annotated[float, Spec("Drive", "dB", -40, 40)] = 10.0
    seconds: Annotated[float, Spec("Length", "s", 1, 180)] = 10.5
    rate: Annotated[Literal[44100, 48000, 96000], Spec("Sample rate", "Hz")] = 48000


def record(
    home: Home, hookup_id: str, wanted: Recording, session_id: int | None = None, at: str = ""
) -> Iterator[float | Take]:
    """A take through the simulated interface: yields the part that is done, and last the take, marked simulated.

    Invalid where the hook-up must not be switched on, or nothing of a known level reaches the input. `at`: when it was
    made, now where left out.
    """
    with database.connection_context():
        row = bench.row_of(hookup_id)
        rig = bench.rig_in(row, wanted.note.scene)
        point = input_of_hookup(rig, wanted.note.recorded_at)
        yield 0.02
        dry = _dry(home, wanted)
        yield 0.1
        brought = _brought(rig, wanted, dry)
        if brought.samples is None:
            raise Invalid(f"Nothing can be recorded there: {brought.why}.")
        give_way()
        yield 0.5
        written = caught(home, rig, point, brought.samples, wanted.rate)
        yield 0.6
        with incoming(home) as part:
            part.write_bytes(write_wav(written, wanted.rate))
            for step in recordings.inspected_file(part):
                if isinstance(step, recordings.Found):
                    name = f"{wanted.note.name}.wav"
                    made = recordings.keep_take(home, part, step, name, hookup_id, wanted.note, session_id, True, at)
                    yield log.take(made.id)
                else:
                    yield 0.6 + 0.4 * step


def expected_sound(home: Home, rig: Rig, wanted: Recording) -> Samples | None:
    """What would be recorded of a rig (V at the input, at 48 kHz), without the interface's own errors; None where
    nothing would."""
    return _brought(rig, wanted, _dry(home, wanted)).samples


def _brought(rig: Rig, wanted: Recording, dry: Samples) -> Played:
    """What arrives at the input. Takes that were made like this teach how hard an amp is played; none may follow from
    the ones before it, or each would drift further."""
    rig = replace(rig, known=rig.known.of_real_takes())
    point = input_of(levels(rig).line_points, wanted.note.recorded_at)
    if point is None:
        return Played(None, "nothing is plugged into that input")
    return played(rig, point, dry, wanted.drive, wanted.rate)


def caught(home: Home, rig: Rig, point: LinePoint, samples: Samples, rate: int) -> Samples:
    """What the simulated interface writes of samples (V) that arrive at an input."""
    return audio_interface.record(_line(rig, point, samples), rate, installation(home), np.random.default_rng())


def silent_take(home: Home, rig: Rig, recorded_at: str, seconds: float, rate: int) -> Samples:
    """What the simulated interface records of a rig with nothing played: noise and hum."""
    point = input_of_hookup(rig, recorded_at)
    return caught(home, rig, point, np.zeros(round(seconds * rate)), rate)


def input_of_hookup(rig: Rig, recorded_at: str) -> LinePoint:
    """The input that is recorded; Invalid where there is none, or where the amp must not be switched on."""
    verdict = judge(rig, preferences()).verdict
    if verdict.severity == "stop":
        raise Invalid("This hook-up must not be switched on: clear its stops on the Bench first.")
    points = levels(rig).line_points
    found = input_of(points, recorded_at)
    if found is None:
        nothing = "Nothing is plugged into an input that records."
        raise Invalid("Recorded at: there is no such input in this hook-up." if points else nothing)
    return found


@lru_cache(maxsize=2)
def _built_in(seconds: float, rate: int) -> Samples:
    """The built-in take; of a list of recordings it is the same for all."""
    found = picked_up(riff(seconds, rate), rate)
    found.setflags(write=False)
    return found


def _dry(home: Home, wanted: Recording) -> Samples:
    """What is played, with nothing before and after it."""
    rate, seconds = wanted.rate, wanted.seconds
    match wanted.source:
        case "built-in":
            found = _built_in(seconds, rate)
        case "direct":
            found = _direct(home, wanted)
        case "sine":
            found = sine(440.0, seconds, rate)
        case "pink":
            found = pink_noise(seconds, rate)
        case "sweep":
            found = exponential_sweep(20.0, 20_000.0, seconds, rate)
        case "silence":
            found = np.zeros(round(seconds * rate))
    return np.concatenate((np.zeros(round(LEAD_S * rate)), found, np.zeros(round(TAIL_S * rate))))


def _direct(home: Home, wanted: Recording) -> Samples:
    import soxr

    if not wanted.direct:
        raise Invalid("Direct track: choose the file that is to be played.")
    found = audition.direct_track(home, wanted.direct)
    return found if wanted.rate == RATE else np.asarray(soxr.resample(found, RATE, wanted.rate))


def _line(rig: Rig, point: LinePoint, samples: Samples) -> audio_interface.Line:
    unit, socket = point.input.unit, point.input.socket
    gear = rig.gear[unit]
    assert isinstance(gear, Interface)
    each = gear.input(socket)
    there = levels(rig)
    way = there.loudest_way(point.input)
    noise = as_it_stands(rig, point).noise
    # What it plays itself, through an amp or not, comes back by the same clock.
    from_itself = any(end.unit == unit for end in (way[0].a, *there.graph.upstream(way[0].a)))
    return audio_interface.Line(
        samples=samples,
        full_scale=peak_of_dbu(each.max_level),
        gain_db=input_gain_db(rig, point.input, each),
        noise=-120.0 if noise is None else noise,
        earthing=earthing_at(Case(rig, preferences()), point.input),
        phantom=bool(rig.settings(unit).get(f"{socket}.phantom", False)),
        own_clock=from_itself,
    )
