"""What waveforms are drawn from: kept, since it takes long to make, and made anew from the sound where it is gone."""

from __future__ import annotations

import contextlib
import os
import secrets
from pathlib import Path

import numpy as np

from low_tide.core.audio.waveform import Extremes
from low_tide.store.home import PART, Home, is_audio_name

MOST = 200
"""Of the oldest that are more than so many, none is kept."""
ENDING = ".npy"


def _path(home: Home, audio: str) -> Path:
    if not is_audio_name(audio):
        raise ValueError(f"“{audio[:80]}” is no name of kept audio")
    return home.waves / f"{audio}{ENDING}"


def keep(home: Home, audio: str, extremes: Extremes) -> None:
    """Keep what a file is drawn from. Where there is no room for it, it is made again each time."""
    path = _path(home, audio)
    part = path.with_name(f"{path.name}-{secrets.token_hex(4)}{PART}")
    try:
        home.waves.mkdir(exist_ok=True)
        with part.open("wb") as out:
            np.save(out, extremes)
        os.replace(part, path)
        for old in sorted(home.waves.glob(f"*{ENDING}"), key=lambda p: p.stat().st_mtime)[:-MOST]:
            old.unlink(missing_ok=True)
    except OSError:
        with contextlib.suppress(OSError):
            part.unlink(missing_ok=True)


def forget(home: Home, audio: str) -> None:
    """What a file is drawn from is wanted no more."""
    _path(home, audio).unlink(missing_ok=True)


def find(home: Home, audio: str) -> Extremes | None:
    """What a file is drawn from; None where it has to be made anew."""
    try:
        found = np.load(_path(home, audio), allow_pickle=False)
    except (OSError, ValueError):
        return None
    return found if found.ndim == 3 and found.dtype == np.int16 and found.shape[2] == 2 else None
