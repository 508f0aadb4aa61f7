"""Audio files: WAV, FLAC and AIFF in, measured with bounds on length, rate and channels."""

from __future__ import annotations

import io
from math import gcd
from pathlib import Path
from typing import Any, TypeAlias

import numpy as np
import soundfile
from numpy.typing import NDArray

from low_tide.core.audio import Measures, clipped_runs, decibels, true_peak
from low_tide.core.render import RATE
from low_tide.formats.sentences import FormatError

Samples: TypeAlias = NDArray[np.float32]
FORMATS = {"WAV": "wav", "WAVEX": "wav", "RF64": "wav", "FLAC": "flac", "AIFF": "aiff"}
LONGEST_S = 30 * 60
RATES = (8_000, 192_000)
MOST_CHANNELS = 2
DRY_RATES = (16_000, 96_000)
DRY_LONGEST_S = 3 * 60
SILENT = 1e-4
MOST_SAMPLES = LONGEST_S * 48_000 * MOST_CHANNELS
"""A few megabytes of packed silence must not unpack into all of the memory."""


def _opened(path: Path) -> soundfile.SoundFile:
    try:
        return soundfile.SoundFile(path)
    except (soundfile.LibsndfileError, RuntimeError):
        raise FormatError(["This is not a WAV, FLAC or AIFF file, whatever its name says."]) from None


def _read(path: Path, rates: tuple[int, int] = RATES, longest_s: float = LONGEST_S) -> tuple[Samples, int, str]:
    """Samples (n, channels), sample rate and kind ('wav', 'flac', 'aiff'). FormatError where it is out of bounds."""
    with _opened(path) as file:
        if file.format not in FORMATS:
            raise FormatError([f"WAV, FLAC or AIFF is wanted; this is {file.format}."])
        if not rates[0] <= file.samplerate <= rates[1]:
            raise FormatError([f"Sample rate: {file.samplerate} Hz is outside {rates[0]} to {rates[1]} Hz."])
        if not 1 <= file.channels <= MOST_CHANNELS:
            raise FormatError([f"Channels: {file.channels} is over the most allowed, {MOST_CHANNELS}."])
        seconds = file.frames / file.samplerate
        if seconds > longest_s:
            most = longest_s / 60
            raise FormatError([f"Length: {seconds / 60:.0f} minutes is over the most allowed, {most:.0f} minutes."])
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
    return samples, rate, kind


def measure(path: Path) -> tuple[Measures, str]:
    """Measures of a file and its kind ('wav', 'flac', 'aiff'). FormatError where it is out of bounds.

    Peak, RMS and clipped runs are computed here; integrated loudness (EBU R 128, ITU-R BS.1770-4) is
    pyloudnorm's and needs 0.4 s of sound.
    """
    samples, rate, kind = _read(path)
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
        loudness_lufs=loudness(samples, rate),
        crest_db=level - mean if level is not None and mean is not None else None,
        clipped_runs=clipped_runs(samples),
    )
    return measures, kind


def read_dry(path: Path) -> NDArray[np.float64]:
    """A direct track as one channel at 48 kHz, peaks at 1, for rendering. FormatError where it cannot serve."""
    from scipy.signal import resample_poly

    samples, rate, _ = _read(path, DRY_RATES, DRY_LONGEST_S)
    if len(samples) < rate:
        count = len(samples)
        how = "one sample" if count == 1 else f"{count / rate:.2g} s"
        raise FormatError([f"Length: {how} is under the least that can be rendered, 1 s."])
    mono = samples.astype(np.float64).mean(axis=1)
    peak = float(np.abs(mono).max())
    if peak < SILENT:
        raise FormatError(["There is nothing to hear in this file: it is silent."])
    common = gcd(RATE, rate)
    return np.asarray(resample_poly(mono / peak, RATE // common, rate // common))


def write_wav(samples: NDArray[np.float64], rate: int, subtype: str = "PCM_24") -> bytes:
    """Samples as a WAV file."""
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype=subtype)
    return out.getvalue()


def loudness(samples: NDArray[Any], rate: int) -> float | None:
    """Integrated loudness in LUFS; None under 0.4 s of sound, or where there is none."""
    import pyloudnorm

    if len(samples) < 0.4 * rate:
        return None
    found = float(pyloudnorm.Meter(rate).integrated_loudness(samples))
    return found if np.isfinite(found) else None
