"""Short takes made from nothing: plucked strings through a soft limit and a low-pass that stands for a speaker."""

from __future__ import annotations

import io

import numpy as np
import soundfile
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from low_tide.core.audio.rendering import RATE, pluck


def take(notes: tuple[float, ...], drive_db: float, peak_dbfs: float, seed: int) -> NDArray[np.float64]:
    """A phrase of `notes` (Hz), driven into a soft limit, filtered, its peak set to `peak_dbfs`."""
    rng, step = np.random.default_rng(seed), int(0.55 * RATE)
    phrase = np.zeros(step * len(notes) + 2 * RATE)
    for i, note in enumerate(notes):
        string = pluck(note, 2.0, rng)
        phrase[i * step : i * step + len(string)] += string
    driven = np.tanh(phrase / np.abs(phrase).max() * 10 ** (drive_db / 20))
    heard = sosfilt(butter(4, [80, 4800], "bandpass", fs=RATE, output="sos"), driven)
    return np.asarray(heard / np.abs(heard).max() * 10 ** (peak_dbfs / 20))


def encoded(samples: NDArray[np.float64], kind: str) -> bytes:
    """The samples as a WAV, FLAC or AIFF file."""
    out = io.BytesIO()
    soundfile.write(out, samples, RATE, format=kind, subtype="PCM_24")
    return out.getvalue()
