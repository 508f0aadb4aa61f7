"""Short takes made from nothing: plucked strings through a soft limit, as each hook-up would have caught them."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
import soundfile
from numpy.typing import NDArray

from low_tide.core.audio.rendering import RATE, cab_filter, coloured, picked_up, pluck

HEAD_S, TAIL_S, STEP_S = 2.0, 1.0, 0.55
NOISE_DBFS = -82.0
MAINS_HZ = 50.04


@dataclass(frozen=True)
class Recipe:
    """A take: notes (Hz), drive (dB), peak (dBFS; over 0 it clips), speakers in series, and hum (dBFS; None: no)."""

    notes: tuple[float, ...]
    drive: float
    peak: float
    speakers: int = 0
    hum: float | None = None


def take(recipe: Recipe, seed: int) -> NDArray[np.float64]:
    """A phrase driven into a soft limit, with two quiet seconds before it."""
    rng, step = np.random.default_rng(seed), int(STEP_S * RATE)
    phrase = np.zeros(step * len(recipe.notes) + 2 * RATE)
    for i, note in enumerate(recipe.notes):
        string = pluck(note, 2.0, rng)
        phrase[i * step : i * step + len(string)] += string
    driven = np.tanh(picked_up(phrase) * 10 ** (recipe.drive / 20))
    for _ in range(recipe.speakers):
        driven = coloured(driven, cab_filter)
    loud = driven / np.abs(driven).max() * 10 ** (recipe.peak / 20)
    whole = np.concatenate((np.zeros(int(HEAD_S * RATE)), loud, np.zeros(int(TAIL_S * RATE))))
    whole += rng.normal(size=len(whole)) * 10 ** (NOISE_DBFS / 20)
    if recipe.hum is not None:
        t = np.arange(len(whole)) / RATE
        for k in range(1, 21):
            level = np.sqrt(2) * 10 ** (recipe.hum / 20) / k
            whole += level * np.sin(2 * np.pi * k * MAINS_HZ * t + rng.uniform(0, 2 * np.pi))
    return np.asarray(np.clip(whole, -1.0, 1.0))


def encoded(samples: NDArray[np.float64], kind: str) -> bytes:
    """The samples as a WAV, FLAC or AIFF file."""
    out = io.BytesIO()
    soundfile.write(out, samples, RATE, format=kind, subtype="PCM_24")
    return out.getvalue()
