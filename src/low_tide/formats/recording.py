"""Audio files: WAV, FLAC and AIFF in, measured with bounds on length, rate and channels."""

from __future__ import annotations

import io
from collections.abc import Iterator
from itertools import chain, pairwise
from pathlib import Path
from typing import Any, TypeAlias

import numpy as np
import soundfile
from numpy.typing import NDArray

from low_tide.core.audio.metering import LOOK, Measures, clipped_runs, decibels, true_peak
from low_tide.core.audio.rendering import RATE
from low_tide.formats.sentences import FormatError

Samples: TypeAlias = NDArray[np.float32]
FORMATS = {"WAV": "wav", "WAVEX": "wav", "RF64": "wav", "FLAC": "flac", "AIFF": "aiff"}
LONGEST_S = 30 * 60
RATES = (8_000, 192_000)
MOST_CHANNELS = 2
DRY_RATES = (16_000, 96_000)
DRY_LONGEST_S = 3 * 60
SILENT = 1e-4
MOST_SAMPLES = LONGEST_S * 96_000 * MOST_CHANNELS
BLOCK_S = 10
"""Sound is measured in pieces of so many seconds, so that half an hour of it does not fill the memory."""
TRUE_PEAK_TAPS = 11
"""Samples before a block that its oversampling still rests on."""
LSB = {"PCM_S8": 2.0**-7, "PCM_U8": 2.0**-7, "PCM_16": 2.0**-15, "PCM_24": 2.0**-23, "PCM_32": 2.0**-31}
"""One step of a file's samples, as a part of full scale; floating point has none."""


def _opened(path: Path) -> soundfile.SoundFile:
    try:
        return soundfile.SoundFile(path)
    except (soundfile.LibsndfileError, RuntimeError):
        raise FormatError(["This is not a WAV, FLAC or AIFF file, whatever its name says."]) from None


def _checked(
    file: soundfile.SoundFile, rates: tuple[int, int] = RATES, longest_s: float = LONGEST_S
) -> tuple[int, str]:
    """Rate and kind ('wav', 'flac', 'aiff') of an opened file. FormatError where it is out of bounds."""
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
        raise FormatError(["Too much sound: at most 30 minutes of stereo at 96 kHz, or less at a higher rate."])
    if file.frames < 1:
        raise FormatError(["There is no sound in this file."])
    return int(file.samplerate), FORMATS[file.format]


def _blocks(path: Path, overlap: int = 0) -> Iterator[Samples]:
    """Samples (n, channels) of a file, block by block, each beginning with the last `overlap` of the one before.

    FormatError where it cannot be read to its end.
    """
    with _opened(path) as file:
        rate, _ = _checked(file)
        read, last = 0, np.zeros((0, file.channels), np.float32)
        try:
            for block in file.blocks(BLOCK_S * rate, dtype="float32", always_2d=True):
                if not np.isfinite(block).all():
                    raise FormatError(["This audio file holds values that are not numbers."])
                read += len(block)
                yield np.concatenate((last, block))
                last = block[-overlap:] if overlap else last
        except (soundfile.LibsndfileError, RuntimeError):
            raise FormatError(["This audio file is damaged and cannot be read to its end."]) from None
    if read < 1:
        raise FormatError(["There is no sound in this file; its header promises more than it holds."])


def measure(path: Path) -> tuple[Measures, str]:
    """Measures of a file and its kind ('wav', 'flac', 'aiff'). FormatError where it is out of bounds.

    Read twice, block by block: what is loudest first, then what is held against that.
    """
    with _opened(path) as file:
        rate, kind = _checked(file)
        channels, lsb = file.channels, LSB.get(file.subtype, 0.0)
    highest, lowest = np.full(channels, -np.inf), np.full(channels, np.inf)
    squares, count, over = 0.0, 0, 0.0
    meter = Loudness(rate, channels)
    for block in _blocks(path, TRUE_PEAK_TAPS):
        fresh = block[TRUE_PEAK_TAPS if count else 0 :]
        highest, lowest = np.maximum(highest, fresh.max(axis=0)), np.minimum(lowest, fresh.min(axis=0))
        squares += float(np.sum(np.square(fresh, dtype=np.float64)))
        count += len(fresh)
        over = max(over, true_peak(block))
        meter.add(fresh)
    runs, begin, extremes = 0, 0, np.array([highest, lowest])
    seams: Iterator[Samples | None] = chain(_blocks(path, LOOK), (None,))
    for piece, following in pairwise(seams):
        assert piece is not None
        # What lies across the seam of two blocks is seen whole in both and counted in one.
        end = len(piece) if following is None else len(piece) - LOOK // 2
        runs += clipped_runs(piece, rate, lsb, extremes, begin, end)
        begin = LOOK // 2
    peak = float(max(highest.max(), -lowest.min()))
    level, mean = decibels(peak), decibels(float(np.sqrt(squares / (count * channels))))
    measures = Measures(
        seconds=count / rate,
        rate=rate,
        channels=channels,
        peak_dbfs=level,
        true_peak_dbtp=decibels(max(over, peak)),
        rms_dbfs=mean,
        loudness_lufs=meter.integrated(),
        crest_db=level - mean if level is not None and mean is not None else None,
        clipped_runs=runs,
    )
    return measures, kind


def read_dry(path: Path) -> NDArray[np.float64]:
    """A direct track as one channel at 48 kHz, peaks at 1, for rendering. FormatError where it cannot serve.

    Made one channel and brought to its rate block by block, so that what is packed small fills no memory.
    """
    import soxr

    with _opened(path) as file:
        rate, _ = _checked(file, DRY_RATES, DRY_LONGEST_S)
    stream, count, peak = soxr.ResampleStream(rate, RATE, 1, dtype="float32"), 0, 0.0
    pieces: list[NDArray[np.float32]] = []
    for block in _blocks(path):
        mono = block.mean(axis=1, dtype=np.float32)
        count, peak = count + len(mono), max(peak, float(np.abs(mono).max()))
        pieces.append(stream.resample_chunk(mono))
    if count < rate:
        how = "one sample" if count == 1 else f"{count / rate:.2g} s"
        raise FormatError([f"Length: {how} is under the least that can be rendered, 1 s."])
    if peak < SILENT:
        raise FormatError(["There is nothing to hear in this file: it is silent."])
    pieces.append(stream.resample_chunk(np.zeros(0, np.float32), last=True))
    return np.concatenate(pieces, dtype=np.float64) / peak


def write_wav(samples: NDArray[np.float64], rate: int, subtype: str = "PCM_24") -> bytes:
    """Samples as a WAV file."""
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype=subtype)
    return out.getvalue()


LOUDNESS_RATE = 48_000
STEP_S = 0.1
"""A gating block of 400 ms is four of these, and begins one of these after the one before."""
ABSOLUTE_LUFS, RELATIVE_LU = -70.0, -10.0


class Loudness:
    """Integrated loudness (ITU-R BS.1770-4, EBU R 128) of sound that comes block by block, at any rate.

    The K-weighting holds at 48 kHz alone, so everything is brought there first; its coefficients are pyloudnorm's.
    """

    def __init__(self, rate: int, channels: int) -> None:
        import pyloudnorm
        import soxr

        weighting = pyloudnorm.Meter(LOUDNESS_RATE, filter_class="DeMan")._filters.values()
        self._weighting = [(np.asarray(f.b), np.asarray(f.a)) for f in weighting]
        self._state = [np.zeros((2, channels)) for _ in self._weighting]
        self._rate = soxr.ResampleStream(rate, LOUDNESS_RATE, channels, dtype="float64")
        self._left = np.zeros((0, channels))
        self._steps: list[float] = []

    def add(self, block: NDArray[Any], last: bool = False) -> None:
        """The next samples, shape (n, channels)."""
        from scipy.signal import lfilter

        sound = self._rate.resample_chunk(np.ascontiguousarray(block, np.float64), last=last)
        for i, (b, a) in enumerate(self._weighting):
            if len(sound):
                sound, self._state[i] = lfilter(b, a, sound, axis=0, zi=self._state[i])
        sound = np.concatenate((self._left, sound))
        step = round(STEP_S * LOUDNESS_RATE)
        whole = len(sound) // step
        power = np.square(sound[: whole * step]).reshape(whole, step, sound.shape[1]).mean(axis=1)
        self._steps += power.sum(axis=1).tolist()
        self._left = sound[whole * step :]

    def integrated(self) -> float | None:
        """LUFS once all is there; None under 0.4 s of sound, or where there is none. Nothing may be added after it."""
        self.add(np.zeros((0, self._left.shape[1])), last=True)
        steps = np.array(self._steps)
        if len(steps) < 4:
            return None
        blocks = np.convolve(steps, np.ones(4) / 4, mode="valid")
        heard = blocks[_lufs(blocks) >= ABSOLUTE_LUFS]
        if not len(heard):
            return None
        heard = heard[_lufs(heard) >= _lufs(heard.mean()) + RELATIVE_LU]
        return float(_lufs(heard.mean()))


def _lufs(power: Any) -> Any:
    return -0.691 + 10 * np.log10(np.maximum(power, 1e-15))


def loudness(samples: NDArray[Any], rate: int) -> float | None:
    """Integrated loudness in LUFS of samples (n,) or (n, channels); None under 0.4 s of sound, or without any."""
    sound = samples if samples.ndim > 1 else samples[:, None]
    meter = Loudness(rate, sound.shape[1])
    meter.add(sound)
    return meter.integrated()
