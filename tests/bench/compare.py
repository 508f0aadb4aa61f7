"""How long Compare takes: two takes of three minutes and their memory, drift, a blind file, a sweep."""

from __future__ import annotations

import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

from low_tide.core.audio.dynamics import SoundPart
from low_tide.core.audio.rendering import cab_filter, coloured
from low_tide.core.comparing.aligning import RATE, align, delayed
from low_tide.core.comparing.sections import in_turn
from low_tide.core.comparing.sweep import measured
from low_tide.core.comparing.sweep import test_signal as signal_at
from low_tide.formats.cue_points import wav_with_cues
from tests.core.pieces import piece, taken

Timer = Callable[..., float]
Printer = Callable[..., None]

# Of a process alone, from two files to everything that is told of them.
WHOLE = """
import sys, time
from pathlib import Path
import scipy.signal, scipy.fft, scipy.linalg, scipy.stats, soxr, pyloudnorm
from low_tide.core.comparing.comparison import held_against
from low_tide.core.comparing.recording import Recorded
from low_tide.formats.recording import read_one_channel
began = time.perf_counter()
first, second = (Recorded(*read_one_channel(Path(name))) for name in sys.argv[1:])
*_, held = held_against(first, second)
assert held.relation == "same"
print(time.perf_counter() - began)
told = next(line for line in open("/proc/self/status") if line.startswith("VmHWM"))
print(int(told.split()[1]) / 1000)
"""


def compare(median_ms: Timer, line: Printer) -> None:
    """Prints all of it."""
    import soxr

    played = np.tanh(4 * piece(176, 1))
    first = taken(played, 1)
    slow = np.asarray(soxr.resample(coloured(first, cab_filter), 1.0, 1 + 20e-6, quality="VHQ"))
    second = delayed(slow, 333.3, len(first))
    with tempfile.TemporaryDirectory() as folder:
        paths = [Path(folder) / name for name in ("first.wav", "second.wav")]
        for path, samples in zip(paths, (first, second), strict=True):
            soundfile.write(path, samples, RATE, subtype="PCM_24")
        run = subprocess.run(
            [sys.executable, "-c", WHOLE, *map(str, paths)], capture_output=True, text=True, check=True
        )
        seconds, memory = map(float, run.stdout.split())
        line("two takes of three minutes compared", seconds, "s", "aim ≤ 6 s")
        line("memory of that, all of it", memory, "MB", "aim ≤ 500 MB")
    line("  of it brought into line, drift and all", median_ms(lambda: align(first, second), 1) / 1000, "s", "")
    section = [SoundPart(10.0 * n, 10.0 * n + 8.0) for n in range(4)]

    def blind_file() -> bytes:
        made = in_turn([first, second], section)
        return wav_with_cues(made.samples, RATE, [(c.at, f"{c.section}: {c.track}") for c in made.cues])

    line("a comparison file of four sections of two", median_ms(blind_file, 3), "ms", "")
    line("a sweep measured", median_ms(lambda: measured(signal_at(RATE), RATE), 3), "ms", "")
