"""How long Capture takes: inspection and its memory, a waveform's view, a recorded take, a best setting."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

from low_tide.app import bench, locker, log, recordings
from low_tide.core.audio.rendering import picked_up, riff
from low_tide.core.rig.validation import checked
from low_tide.core.signal_path.gain_staging import ladders
from low_tide.core.signal_path.levels import levels
from low_tide.core.signal_path.played import played
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.documents import dump
from low_tide.formats.recording import inspected
from low_tide.stand_ins.audio_interface import Line, record
from low_tide.store.database import database
from low_tide.store.files import open_home

Timer = Callable[..., float]
Printer = Callable[..., None]

RATE = 48_000
# Of this process alone: what a parent once had counts as its children's with getrusage.
MEMORY = """
import sys
from pathlib import Path
from low_tide.formats.recording import inspected
inspected(Path(sys.argv[1]))
told = next(line for line in open("/proc/self/status") if line.startswith("VmHWM"))
print(int(told.split()[1]) / 1000)
"""


def _stereo(minutes: float) -> np.ndarray:
    """Riffs with quiet parts between them, two channels that differ."""
    phrase = np.concatenate((np.zeros(2 * RATE), np.tanh(4 * riff(14.0)) * 0.3))
    phrase = phrase + np.random.default_rng(1).normal(size=len(phrase)) * 1e-4
    whole = np.tile(phrase, int(minutes * 60 / 16) + 1)[: int(minutes * 60 * RATE)]
    return np.stack((whole, np.roll(whole, 311)), axis=1).astype(np.float32)


def capture(median_ms: Timer, line: Printer) -> None:
    """Prints all of it."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "half-an-hour.wav"
        soundfile.write(path, _stereo(30), RATE, subtype="PCM_24")
        run = subprocess.run([sys.executable, "-c", MEMORY, str(path)], capture_output=True, text=True, check=True)
        line("memory while 30 minutes of stereo are inspected, all of it", float(run.stdout), "MB", "aim ≤ 300 MB")
        short = Path(folder) / "three.wav"
        soundfile.write(short, _stereo(3), RATE, subtype="PCM_24")
        seconds = median_ms(lambda: inspected(short), 3) / 1000
        line("inspecting 3 minutes of stereo at 48 kHz", 180 / seconds, "× real", "aim ≥ 60 ×")
        home = open_home(Path(folder) / "home")
        with database.connection_context():
            _fill()
            session = log.new_session("bench").id
            made = log.log_take(session, "silent-night", {"name": "x"})
            with path.open("rb") as stream:
                recordings.attach(home, made.id, "half-an-hour.wav", stream)
            view = median_ms(lambda: recordings.waveform(home, made.id, 0, 1800), 9)
            line("a waveform's view of 30 minutes", view, "ms", "aim ≤ 50 ms")
            close = median_ms(lambda: recordings.waveform(home, made.id, 900, 905), 9)
            line("a waveform's view of 5 s of them", close, "ms", "aim ≤ 50 ms")
    rig = checked(HOOKUPS["silent-night"], GEAR)
    point = levels(rig).line_points[0]
    dry = picked_up(riff(30.0))

    def take() -> None:
        found = played(rig, point, dry, 10.0, RATE)
        assert found.samples is not None
        heard = Line(found.samples, 10.0, 0.0, -75.0, "loop", False, False)
        record(heard, RATE, "bench", np.random.default_rng(1))

    line("a take recorded through the stand-in", 30_000 / median_ms(take, 3), "× real", "aim ≥ 20 ×")
    whole = checked(HOOKUPS["processor-around"], GEAR)
    line("the best setting of two lines", median_ms(lambda: ladders(whole), 9), "ms", "aim ≤ 100 ms")


def _fill() -> None:
    """The gear and the hook-up the bench's take is made with."""
    for unit in GEAR.values():
        locker.add(dump(unit))
    bench.create(hookup=HOOKUPS["silent-night"], id="silent-night")
