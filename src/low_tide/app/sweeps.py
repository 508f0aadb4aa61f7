"""Sweeps: the test file out, its recording in, and what that says of the path; impulse responses of one's own."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import lru_cache
from typing import BinaryIO

import numpy as np

from low_tide.app import bench, recorder
from low_tide.app.errors import Invalid, NotFound
from low_tide.core.audio.rendering import Samples
from low_tide.core.comparing.aligning import channel_weights
from low_tide.core.comparing.sweep import AFTER_S, RATES, Decay, SweepResult, cut_after, decay, measured
from low_tide.core.comparing.sweep import test_signal as signal_at
from low_tide.core.signal_path.played import played
from low_tide.formats.recording import read_short, write_wav
from low_tide.formats.sentences import FormatError
from low_tide.store import renders
from low_tide.store.home import Home, incoming

READ = 1 << 20
THROUGH_S = 0.5
MEASURED, SIMULATED = "impulse-", "simulated-"
"""What the names of impulse responses begin with, so that a simulated one is known as that wherever it goes."""


@dataclass(frozen=True)
class SweepReport:
    """What a recording of the test file says, how its impulse response dies away, and the name it is fetched by."""

    result: SweepResult
    decay: Decay
    impulse: str
    simulated: bool


@lru_cache(maxsize=len(RATES))
def test_file(rate: int) -> bytes:
    """The test file at a rate (Hz) as WAV, 24-bit."""
    return write_wav(signal_at(rate), rate)


def _report(home: Home, samples: Samples, rate: int, simulated: bool = False) -> SweepReport:
    found = measured(samples, rate)
    if found.result.why:
        raise Invalid(f"This recording of the test file says nothing: {found.result.why}.")
    data = write_wav(found.impulse, rate, "FLOAT")
    name = f"{SIMULATED if simulated else MEASURED}{hashlib.sha256(data).hexdigest()[:24]}.wav"
    renders.put(home, name, data)
    return SweepReport(found.result, decay(found.impulse, rate), name, simulated)


def from_file(home: Home, stream: BinaryIO, played_at: int | None = None) -> SweepReport:
    """What a recording says. `played_at`: the rate of the test file that was played, the recording's where left out."""
    import soxr

    with incoming(home) as part:
        with part.open("wb") as out:
            while block := stream.read(READ):
                out.write(block)
        try:
            sound, rate = read_short(part)
        except FormatError as error:
            raise Invalid(*error.problems) from None
    wanted = played_at or rate
    if wanted not in RATES:
        rates = ", ".join(f"{r / 1000:g}" for r in RATES)
        raise Invalid(f"Sample rate: {wanted / 1000:g} kHz; test files are at {rates} kHz. Say which one was played.")
    mono = np.asarray(sound @ channel_weights(np.abs(sound).max(axis=0)), np.float64)
    if rate != wanted:
        mono = np.asarray(soxr.resample(mono, rate, wanted, quality="VHQ"))
    return _report(home, mono, wanted)


def through(home: Home, hookup_id: str, recorded_at: str = "", rate: int = 48_000) -> SweepReport:
    """The same through the simulated interface and a hook-up as it stands, played well under where it bends."""
    rig = bench.rig_of(bench.row_of(hookup_id))
    point = recorder.input_of_hookup(rig, recorded_at)
    sent = np.concatenate((signal_at(rate), np.zeros(round(THROUGH_S * rate))))
    found = played(rig, point, sent, 0.0, rate)
    if found.samples is None:
        raise Invalid(f"Nothing can be recorded there: {found.why}.")
    return _report(home, recorder.caught(home, rig, point, found.samples, rate), rate, True)


def impulse(home: Home, name: str, after_ms: float = AFTER_S * 1000) -> bytes:
    """An impulse response that was measured, up to so long after its peak, as a WAV of 32-bit floats."""
    path = renders.find(home, name) if name.startswith((MEASURED, SIMULATED)) else None
    if path is None:
        raise NotFound("This impulse response has gone from the server; measure it again.")
    samples, rate = read_short(path)
    return write_wav(cut_after(samples[:, 0].astype(np.float64), rate, after_ms / 1000), rate, "FLOAT")
