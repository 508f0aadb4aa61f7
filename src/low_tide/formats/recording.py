"""Audio files: WAV, FLAC and AIFF in, measured with bounds on length, rate and channels."""

from __future__ import annotations

import io
from collections.abc import Iterator, Mapping
from functools import lru_cache
from pathlib import Path
from typing import Any, Literal, TypeAlias

import numpy as np
import soundfile
from numpy.typing import NDArray

from low_tide.core.audio.inspection import Inspected, Sound, inspect
from low_tide.core.audio.rendering import RATE
from low_tide.core.comparing.aligning import RATE as COMPARED_RATE
from low_tide.core.comparing.aligning import channel_weights
from low_tide.formats.sentences import FormatError

Samples: TypeAlias = NDArray[np.float32]
FORMATS = {"WAV": "wav", "WAVEX": "wav", "RF64": "wav", "FLAC": "flac", "AIFF": "aiff"}
LONGEST_S = 30 * 60
RATES = (8_000, 192_000)
MOST_CHANNELS = 2
DRY_RATES = (16_000, 96_000)
DRY_LONGEST_S = 3 * 60
SILENT = 1e-4
MOST_CHUNKS = 200
MOST_SAMPLES = LONGEST_S * 96_000 * MOST_CHANNELS
BLOCK_S = 2
"""Sound is measured in pieces of so many seconds, so that half an hour of it does not fill the memory."""
LEAST_S = 0.05
"""The window levels are told by: less sound than that has none."""
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
        raise FormatError([f"Length: {_minutes(seconds)} is over the most allowed, {_minutes(longest_s)}."])
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


def opened_sound(path: Path) -> tuple[Sound, str]:
    """A file as sound that can be read block by block, and its kind ('wav', 'flac', 'aiff').

    FormatError where it is out of bounds, and while it is read where it is not what it says.
    """
    with _opened(path) as file:
        rate, kind = _checked(file)
        if file.frames < LEAST_S * rate:
            how = "one sample" if file.frames == 1 else f"{file.frames / rate * 1000:.2g} ms"
            raise FormatError([f"Length: {how} is under the least that can be inspected, {LEAST_S * 1000:g} ms."])
        promised = _promised(path)
        if promised is not None and promised > file.frames:
            raise FormatError(
                [
                    f"This file ends early: its header promises {_minutes(promised / rate)} of sound and it holds"
                    f" {_minutes(file.frames / rate)}. Export it again."
                ]
            )
        lsb = LSB.get(file.subtype, 0.0)
        return Sound(rate, file.channels, file.frames, lsb, lambda overlap: _blocks(path, overlap)), kind


def _minutes(seconds: float) -> str:
    return f"{seconds / 60:.0f} minutes" if seconds >= 120 else f"{seconds:.1f} s"


def inspected(path: Path) -> tuple[Inspected, str]:
    """A file inspected in one go, and its kind. FormatError as in `opened_sound`."""
    sound, kind = opened_sound(path)
    *_, found = inspect(sound)
    assert isinstance(found, Inspected)
    return found, kind


def read_part(path: Path, start: int, stop: int) -> Samples:
    """Samples (n, channels) from one to before another, or to the end. FormatError where it cannot be read."""
    with _opened(path) as file:
        try:
            file.seek(min(max(0, start), file.frames))
            return np.asarray(file.read(max(0, stop - start), dtype="float32", always_2d=True))
        except (soundfile.LibsndfileError, RuntimeError):
            raise FormatError(["This audio file is damaged and cannot be read there."]) from None


def read_windows(path: Path, starts: list[int], size: int) -> NDArray[np.float32]:
    """Windows of `size` samples that begin at places in a file, shape (windows, channels, size); past its end silence.

    FormatError where it cannot be read.
    """
    with _opened(path) as file:
        found = np.zeros((len(starts), file.channels, size), np.float32)
        try:
            for window, start in zip(found, starts, strict=True):
                file.seek(min(max(0, start), file.frames))
                read = file.read(size, dtype="float32", always_2d=True)
                window[:, : len(read)] = read.T
        except (soundfile.LibsndfileError, RuntimeError):
            raise FormatError(["This audio file is damaged and cannot be read there."]) from None
    return found


SHORT_S = 60.0


def read_short(path: Path) -> tuple[Samples, int]:
    """A recording of up to a minute as samples (n, channels), and its rate. FormatError where it is none."""
    with _opened(path) as file:
        rate, _ = _checked(file, longest_s=SHORT_S)
    return np.concatenate(list(_blocks(path))), rate


IMPULSE_LONGEST_S = 5.0


def read_impulse(path: Path) -> tuple[Samples, int, str]:
    """An impulse response as samples (n, channels), its rate, and its kind ('wav', 'flac', 'aiff'). FormatError where
    it cannot be read as one."""
    with _opened(path) as file:
        rate, kind = _checked(file, longest_s=IMPULSE_LONGEST_S)
    return np.concatenate(list(_blocks(path))), rate, kind


BEXT_TIME = 338
"""Byte of a broadcast chunk at which the sample number it begins with stands, eight bytes long (EBU Tech 3285)."""
LATEST_START_S = 10 * 3600.0
UNKNOWN_SIZES = {0, 0xFFFFFFFF, 0x7FFFFFFF}
"""What a program writes as a length that does not know it yet."""


def _chunks(path: Path, want: Mapping[bytes, int]) -> dict[bytes, tuple[int, bytes]]:
    """Chunks of a WAV or AIFF file that are wanted: their size as told, and so many of their first bytes."""
    found: dict[bytes, tuple[int, bytes]] = {}
    with path.open("rb") as file:
        head = file.read(12)
        if len(head) < 12 or (head[:4], head[8:]) not in ((b"RIFF", b"WAVE"), (b"FORM", b"AIFF"), (b"FORM", b"AIFC")):
            return found
        order: Literal["little", "big"] = "little" if head[:4] == b"RIFF" else "big"
        for _ in range(MOST_CHUNKS):
            chunk = file.read(8)
            if len(chunk) < 8:
                break
            size = int.from_bytes(chunk[4:], order)
            at = file.tell()
            if chunk[:4] in want:
                found[chunk[:4]] = (size, file.read(min(size, want[chunk[:4]])))
            file.seek(at + size + size % 2)
    return found


def _promised(path: Path) -> int | None:
    """How many samples a channel a WAV or AIFF file says it holds; None where it does not say."""
    found = _chunks(path, {b"fmt ": 16, b"data": 0, b"COMM": 18})
    if b"COMM" in found and len(found[b"COMM"][1]) >= 6:
        return int.from_bytes(found[b"COMM"][1][2:6], "big")
    if b"fmt " not in found or b"data" not in found or len(found[b"fmt "][1]) < 14:
        return None
    size, frame = found[b"data"][0], int.from_bytes(found[b"fmt "][1][12:14], "little")
    return None if size in UNKNOWN_SIZES or not frame else size // frame


def song_start(path: Path) -> float | None:
    """Where in its time line a file says it begins, s: the time reference of a broadcast wave file; None without one.

    What lies beyond ten hours is a time of day rather than a place in a song.
    """
    _, bext = _chunks(path, {b"bext": BEXT_TIME + 8}).get(b"bext", (0, b""))
    if len(bext) < BEXT_TIME + 8:
        return None
    with _opened(path) as sound:
        start = int.from_bytes(bext[BEXT_TIME:], "little") / sound.samplerate
    return start if 0 < start <= LATEST_START_S else None


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


COMPARED_LONGEST_S = 10 * 60.0


@lru_cache(maxsize=64)
def _peaks(path: Path, _: int) -> NDArray[np.float64]:
    """The largest of each channel. Kept for as long as the file is what it was (when it was written)."""
    found = np.zeros(1)
    for block in _blocks(path):
        found = np.maximum(found, np.abs(block).max(axis=0))
    return found


def _weights(path: Path) -> NDArray[np.float64]:
    """What each channel of a recording counts for where it is folded: those that hold something, alike."""
    with _opened(path) as file:
        if file.channels == 1:
            return np.ones(1)
    return channel_weights(_peaks(path, path.stat().st_mtime_ns))


def _resampled(path: Path, mix: NDArray[np.float64]) -> tuple[NDArray[np.float64], int]:
    """A recording at 48 kHz, block by block, its channels mixed by `mix` of shape (channels, k), and its own rate."""
    import soxr

    with _opened(path) as file:
        rate, _ = _checked(file, longest_s=COMPARED_LONGEST_S)
    wide = mix.shape[1]
    stream = soxr.ResampleStream(rate, COMPARED_RATE, wide, dtype="float64", quality="VHQ")
    pieces = [np.asarray(stream.resample_chunk(block @ mix)).reshape(-1, wide) for block in _blocks(path)]
    pieces.append(stream.resample_chunk(np.zeros((0, wide)), last=True).reshape(-1, wide))
    found = np.concatenate(pieces)
    found -= found.mean(axis=0)
    return found, rate


def read_one_channel(path: Path) -> tuple[NDArray[np.float64], int]:
    """A recording as one channel at 48 kHz as it is compared, and its own rate. FormatError where it cannot be read.

    Read block by block, twice where there are two channels: those that hold nothing are found first.
    """
    found, rate = _resampled(path, _weights(path)[:, None])
    return found[:, 0], rate


def read_both_channels(path: Path) -> NDArray[np.float64]:
    """A recording at 48 kHz, shape (n, 2) where two channels hold something, else (n, 1). FormatError where it cannot
    be read."""
    weights = _weights(path)
    mix = np.eye(2) if (weights > 0).sum() == len(weights) == 2 else weights[:, None]
    return _resampled(path, mix)[0]


AROUND_S = 0.05
"""Read before and after a section, so that its resampling has something to begin on."""


def read_section(path: Path, start: float, stop: float) -> NDArray[np.float64]:
    """A section of a recording, s, as one channel at 48 kHz, shape (n,); silence where there is nothing of it.

    Folded as the whole recording is, so that it is as loud in every section. FormatError where it cannot be read.
    """
    import soxr

    with _opened(path) as file:
        rate, _ = _checked(file)
    first = max(0, round((start - AROUND_S) * rate))
    sound = read_part(path, first, max(first, round((stop + AROUND_S) * rate))).astype(np.float64)
    found = np.zeros(round(stop * COMPARED_RATE) - round(start * COMPARED_RATE))
    if not len(sound) or not np.abs(sound).max():
        return found
    there = np.asarray(soxr.resample(sound @ _weights(path), rate, COMPARED_RATE, quality="VHQ"))
    # What was read begins before the section, or after it where the recording does.
    late = round(first / rate * COMPARED_RATE) - round(start * COMPARED_RATE)
    begin, end = max(0, late), min(len(found), late + len(there))
    if begin < end:
        found[begin:end] = there[begin - late : end - late]
    return found


HEAD_BYTES = 128


def write_wav(samples: NDArray[np.floating[Any]], rate: int, subtype: str = "PCM_24") -> bytes:
    """Samples as a WAV file; the same samples make the same file."""
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype=subtype)
    data = out.getvalue()
    # One of floats is given the time it was written at, in a chunk of its peaks before the samples.
    at = data.find(b"PEAK", 0, HEAD_BYTES) if subtype in ("FLOAT", "DOUBLE") else -1
    return data if at < 0 else data[: at + 12] + bytes(4) + data[at + 16 :]


KEPT_SUBTYPES = {"FLOAT": ("FLOAT", "float32"), "DOUBLE": ("DOUBLE", "float64"), "PCM_32": ("PCM_32", "int32")}
"""What holds more than 24 bits stays as it is; everything else fits into them."""


def write_later(path: Path, target: Path, silence: float) -> int:
    """Write a recording as WAV that begins with so much silence (s, rounded to a sample): its samples stay as they are.
    Returns its rate, Hz. FormatError where it cannot be read.
    """
    with _opened(path) as source:
        subtype, dtype = KEPT_SUBTYPES.get(source.subtype, ("PCM_24", "int32"))
        rate, channels = int(source.samplerate), int(source.channels)
        left = round(silence * rate)
        try:
            with soundfile.SoundFile(target, "w", rate, channels, subtype, format="WAV") as out:
                while left > 0:
                    some = min(left, COPY_FRAMES)
                    out.write(np.zeros((some, channels), dtype))
                    left -= some
                while len(block := source.read(COPY_FRAMES, dtype=dtype, always_2d=True)):
                    out.write(block)
        except (soundfile.LibsndfileError, RuntimeError):
            raise FormatError(["This audio file is damaged, or too long for a WAV file."]) from None
    return rate


COPY_FRAMES = 1 << 16
