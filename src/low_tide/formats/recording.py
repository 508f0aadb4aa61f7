"""Audio files: WAV, FLAC and AIFF in, measured with bounds on length, rate and channels."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import soundfile

from low_tide.core.audio import Measures, clipped_runs, decibels, true_peak
from low_tide.formats.sentences import FormatError

FORMATS = {"WAV": "wav", "WAVEX": "wav", "RF64": "wav", "FLAC": "flac", "AIFF": "aiff"}
LONGEST_S = 30 * 60
RATES = (8_000, 192_000)
MOST_CHANNELS = 2
MOST_SAMPLES = LONGEST_S * 48_000 * MOST_CHANNELS
"""A few megabytes of packed silence must not unpack into all of the memory."""


def _opened(path: Path) -> soundfile.SoundFile:
    try:
        return soundfile.SoundFile(path)
    except (soundfile.LibsndfileError, RuntimeError):
        raise FormatError(["This is not a WAV, FLAC or AIFF file, whatever its name says."]) from None


def measure(path: Path) -> tuple[Measures, str]:
    """Measures of a file and its kind ('wav', 'flac', 'aiff'). FormatError where it is out of bounds.

    Peak, RMS and clipped runs are computed here; integrated loudness (EBU R 128, ITU-R BS.1770-4) is
    pyloudnorm's and needs 0.4 s of sound.
    """
    with _opened(path) as file:
        if file.format not in FORMATS:
            raise FormatError([f"WAV, FLAC or AIFF is wanted; this is {file.format}."])
        if not RATES[0] <= file.samplerate <= RATES[1]:
            raise FormatError([f"Sample rate: {file.samplerate} Hz is outside {RATES[0]} to {RATES[1]} Hz."])
        if not 1 <= file.channels <= MOST_CHANNELS:
            raise FormatError([f"Channels: {file.channels} is over the most allowed, {MOST_CHANNELS}."])
        seconds = file.frames / file.samplerate
        if seconds > LONGEST_S:
            raise FormatError([f"Length: {seconds / 60:.0f} minutes is over the most allowed, 30 minutes."])
        if file.frames * file.channels > MOST_SAMPLES:
            raise FormatError(["Too much sound: at most 30 minutes of stereo at 48 kHz, or less at a higher rate."])
        if file.frames < 1:
            raise FormatError(["There is no sound in this file."])
        try:
            samples = file.read(dtype="float32", always_2d=True)
        except (soundfile.LibsndfileError, RuntimeError):
            raise FormatError(["This audio file is damaged and cannot be read to its end."]) from None
        kind, rate = FORMATS[file.format], int(file.samplerate)
    if len(samples) < 1:
        raise FormatError(["There is no sound in this file; its header promises more than it holds."])
    if not np.isfinite(samples).all():
        raise FormatError(["This audio file holds values that are not numbers."])
    peak = float(np.abs(samples).max())
    rms = float(np.sqrt(sum(float(c @ c) for c in samples.T.astype(np.float64)) / samples.size))
    level, mean = decibels(peak), decibels(rms)
    measures = Measures(
        seconds=len(samples) / rate,
        rate=rate,
        channels=samples.shape[1],
        peak_dbfs=level,
        true_peak_dbtp=decibels(true_peak(samples)),
        rms_dbfs=mean,
        loudness_lufs=_loudness(samples, rate),
        crest_db=level - mean if level is not None and mean is not None else None,
        clipped_runs=clipped_runs(samples),
    )
    return measures, kind


def _loudness(samples: np.ndarray, rate: int) -> float | None:
    import pyloudnorm

    if len(samples) < 0.4 * rate:
        return None
    found = float(pyloudnorm.Meter(rate).integrated_loudness(samples))
    return found if np.isfinite(found) else None
