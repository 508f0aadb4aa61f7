"""Audio files: known signals measured, and files that are not what they say."""

from __future__ import annotations

import io
import struct
import subprocess
import sys
import time
from dataclasses import fields
from pathlib import Path

import numpy as np
import pytest
import soundfile

from low_tide.core.audio.clipping import longest_flat, strongest_partial
from low_tide.core.audio.metering import Measures
from low_tide.formats import recording
from low_tide.formats.recording import inspected, write_wav
from low_tide.formats.sentences import FormatError

RATE = 48_000


def written(path: Path, samples: np.ndarray, rate: int = RATE, **options: str) -> Path:
    soundfile.write(path, samples, rate, **options)
    return path


def measure(path: Path) -> tuple[Measures, str]:
    found, kind = inspected(path)
    return found.inspection.measures, kind


def sine(frequency: float, seconds: float, amplitude: float, phase: float = 0.0) -> np.ndarray:
    t = np.arange(int(RATE * seconds)) / RATE
    return amplitude * np.sin(2 * np.pi * frequency * t + phase)


@pytest.mark.parametrize("kind", ["wav", "flac", "aiff"])
def test_a_full_scale_sine(tmp_path: Path, kind: str) -> None:
    found, known = measure(written(tmp_path / f"x.{kind}", sine(997, 3, 1.0), subtype="PCM_24"))
    assert known == kind
    assert found.peak_dbfs == pytest.approx(0, abs=0.01)
    assert found.rms_dbfs == pytest.approx(-3.01, abs=0.01)
    assert found.crest_db == pytest.approx(3.01, abs=0.02)
    # ITU-R BS.1770: a 997 Hz sine at 0 dBFS in one channel measures −3.01 LUFS.
    assert found.loudness_lufs == pytest.approx(-3.01, abs=0.1)


def test_true_peak_between_samples(tmp_path: Path) -> None:
    """A quarter-rate sine sampled off its crests: 3 dB of peak lie between the samples."""
    found, _ = measure(written(tmp_path / "x.wav", sine(RATE / 4, 1, 1.0, np.pi / 4), subtype="FLOAT"))
    assert found.peak_dbfs == pytest.approx(-3.01, abs=0.01)
    assert found.true_peak_dbtp == pytest.approx(0.0, abs=0.15)


def test_clipped_runs_also_below_full_scale(tmp_path: Path) -> None:
    clean = sine(100, 1, 0.9)
    found, _ = measure(written(tmp_path / "a.wav", clean, subtype="FLOAT"))
    assert found.clipped_runs == 0
    limited, _ = measure(written(tmp_path / "b.wav", np.clip(clean, -0.5, 0.5), subtype="FLOAT"))
    assert limited.clipped_runs == 200


def test_silence_has_no_levels(tmp_path: Path) -> None:
    found, _ = measure(written(tmp_path / "x.wav", np.zeros(RATE)))
    assert (found.peak_dbfs, found.loudness_lufs, found.crest_db, found.clipped_runs) == (None, None, None, 0)


def test_too_little_sound_is_refused_and_a_little_has_no_loudness(tmp_path: Path) -> None:
    with pytest.raises(FormatError, match="one sample is under the least that can be inspected, 50 ms"):
        measure(written(tmp_path / "x.wav", np.array([0.5])))
    found, _ = measure(written(tmp_path / "y.wav", np.full(RATE // 20, 0.5)))
    assert found.peak_dbfs == pytest.approx(-6.02, abs=0.01)
    assert found.loudness_lufs is None


def wav_header(frames: int, rate: int = RATE, channels: int = 1) -> bytes:
    """A WAV header that promises `frames` of 16-bit sound; nothing follows it."""
    size = frames * channels * 2
    fmt = struct.pack("<HHIIHH", 1, channels, rate, rate * channels * 2, channels * 2, 16)
    return (
        b"RIFF"
        + struct.pack("<I", min(36 + size, 2**32 - 1))
        + b"WAVEfmt "
        + struct.pack("<I", 16)
        + fmt
        + b"data"
        + struct.pack("<I", min(size, 2**32 - 1))
    )


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"These are only words, in a file called take.wav.\n" * 40, "not a WAV, FLAC or AIFF"),
        (b"", "not a WAV, FLAC or AIFF"),
        (wav_header(3 * 3600 * RATE), "30 minutes|no sound"),
        (wav_header(0), "no sound"),
        (wav_header(100, rate=400_000) + bytes(200), "400000 Hz is outside 8000 to 192000"),
        (wav_header(100, channels=8) + bytes(1600), "8 is over the most allowed, 2"),
    ],
)
def test_files_that_are_not_what_they_say(tmp_path: Path, data: bytes, says: str) -> None:
    (tmp_path / "take.wav").write_bytes(data)
    with pytest.raises(FormatError, match=says):
        measure(tmp_path / "take.wav")


def test_a_long_file_is_refused_by_its_length(tmp_path: Path) -> None:
    path = written(tmp_path / "long.flac", np.zeros(31 * 60 * 8000), rate=8000)
    with pytest.raises(FormatError, match="31 minutes is over the most allowed, 30 minutes"):
        measure(path)


def test_packed_silence_does_not_unpack_into_all_memory(tmp_path: Path) -> None:
    path = tmp_path / "dense.flac"
    with soundfile.SoundFile(path, "w", 192_000, 2, "PCM_16", format="FLAC") as file:
        for _ in range(16):
            file.write(np.zeros((60 * 192_000, 2), dtype="int16"))
    assert path.stat().st_size < 8_000_000
    with pytest.raises(FormatError, match="Too much sound"):
        measure(path)


@pytest.mark.parametrize("rate", [8_000, 16_000, 44_100, 48_000, 96_000, 192_000])
def test_loudness_holds_at_every_rate(tmp_path: Path, rate: int) -> None:
    """EBU Tech 3341: a stereo 1 kHz sine at −23 dBFS measures −23 LUFS; here with a quiet stretch that is gated out."""
    t = np.arange(20 * rate) / rate
    loud = 10 ** (-23 / 20) * np.sin(2 * np.pi * 1000 * t)
    mono = np.concatenate((loud, 10 ** (-20 / 20) * loud))
    found, _ = measure(written(tmp_path / "x.wav", np.stack((mono, mono), axis=1), rate, subtype="PCM_24"))
    assert found.loudness_lufs == pytest.approx(-23.0, abs=0.03)


def test_blocks_change_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    lot = np.random.default_rng(3)
    sound = np.clip(0.4 * lot.normal(size=(5 * 44_100, 2)) * np.linspace(0, 1.5, 5 * 44_100)[:, None], -0.7, 0.7)
    sound[44_098:44_103] = 0.7
    path = written(tmp_path / "x.wav", sound, 44_100, subtype="PCM_16")
    whole, _ = measure(path)
    monkeypatch.setattr(recording, "BLOCK_S", 1)
    parts, _ = measure(path)
    for field in fields(whole):
        assert getattr(parts, field.name) == pytest.approx(getattr(whole, field.name), abs=1e-9), field.name
    assert whole.clipped_runs > 100


@pytest.mark.parametrize(
    ("subtype", "frequency"), [("PCM_16", 41.2), ("PCM_16", 82.4), ("PCM_16", 1000.0), ("PCM_24", 41.2)]
)
def test_the_top_of_a_slow_wave_is_no_clipping(tmp_path: Path, subtype: str, frequency: float) -> None:
    wave = sine(frequency, 2, 0.8)
    assert measure(written(tmp_path / "a.wav", wave, subtype=subtype))[0].clipped_runs == 0
    limited = np.clip(wave, -0.7, 0.7)
    assert measure(written(tmp_path / "b.wav", limited, subtype=subtype))[0].clipped_runs == pytest.approx(
        4 * frequency, abs=1
    )


def test_the_longest_flat_that_quantisation_makes() -> None:
    assert longest_flat(1.0, 2.0**-15, 41.0, 48_000) == 4
    assert longest_flat(1.0, 2.0**-15, 1000.0, 48_000) == 2
    assert longest_flat(0.001, 2.0**-15, 41.0, 48_000) == 94
    assert strongest_partial(sine(440, 0.1, 0.5) + sine(660, 0.1, 0.2), RATE) == pytest.approx(440, abs=12)


def test_values_that_are_not_numbers(tmp_path: Path) -> None:
    path = written(tmp_path / "x.wav", np.tile([0.1, np.nan, 0.2], 2000), subtype="FLOAT")
    with pytest.raises(FormatError, match="not numbers"):
        measure(path)


def test_silence_that_is_packed_small_fills_no_memory(tmp_path: Path) -> None:
    path = tmp_path / "night.flac"
    tick = np.zeros((960_000, 2), np.int16)
    tick[::1000] = 10_000
    with soundfile.SoundFile(path, "w", 96_000, 2, format="FLAC", subtype="PCM_16") as file:
        for _ in range(8):
            file.write(tick)
    assert path.stat().st_size < 4_000_000
    # Of this process alone: what a parent once had counts as its children's with getrusage.
    read = """
import sys
from pathlib import Path
from low_tide.formats.recording import inspected, read_dry
def most():
    return int(next(line for line in open("/proc/self/status") if line.startswith("VmHWM")).split()[1])
before = most()
[f(Path(sys.argv[1])) for f in (inspected, read_dry)]
print(most() - before)
"""
    run = subprocess.run([sys.executable, "-c", read, str(path)], capture_output=True, text=True, check=True)
    assert int(run.stdout) < 250_000  # kB; all of it at once would be 600 MB


def test_the_same_samples_make_the_same_file() -> None:
    """Also a second later: libsndfile writes the time into a file of floats."""
    samples = np.random.default_rng(1).normal(size=500)
    first = write_wav(samples, 48_000, "FLOAT")
    time.sleep(1.1)
    assert write_wav(samples, 48_000, "FLOAT") == first
    assert soundfile.read(io.BytesIO(first))[0] == pytest.approx(samples, abs=1e-6)


def two_sided(tmp_path: Path, rate: int) -> Path:
    """Four seconds of a tone of 1 kHz at 0.4 in the first channel; in the second it begins after two."""
    t = np.arange(4 * rate) / rate
    tone = 0.4 * np.sin(2 * np.pi * 1_000 * t)
    path = tmp_path / "stem.wav"
    path.write_bytes(write_wav(np.column_stack([tone, np.where(t < 2, 0.0, tone)]), rate))
    return path


@pytest.mark.parametrize("rate", [44_100, 48_000, 96_000])
def test_a_section_is_what_the_whole_is_there(tmp_path: Path, rate: int) -> None:
    """Folded alike in every section, however silent a channel is in it; silence before and after the recording."""
    path = two_sided(tmp_path, rate)
    whole, _ = recording.read_one_channel(path)
    for start, stop in ((0.5, 1.5), (1.25, 2.75), (2.5, 3.5)):
        there = recording.read_section(path, start, stop)
        assert len(there) == round((stop - start) * 48_000)
        assert there == pytest.approx(whole[round(start * 48_000) : round(stop * 48_000)], abs=2e-4)
    assert np.abs(recording.read_section(path, 0.5, 1.5)).max() == pytest.approx(0.2, abs=0.01)
    around = recording.read_section(path, -1.0, 5.0)
    assert len(around) == 6 * 48_000
    assert np.abs(around[:47_900]).max() < 1e-3
    assert np.abs(around[5 * 48_000 + 100 :]).max() < 1e-3
    assert around[48_000 + 4_800 : 4 * 48_000] == pytest.approx(whole[4_800 : 3 * 48_000], abs=2e-4)
    assert not recording.read_section(path, 10.0, 11.0).any()


def test_both_channels_are_kept_where_both_hold_something(tmp_path: Path) -> None:
    path = two_sided(tmp_path, 44_100)
    both = recording.read_both_channels(path)
    assert both.shape == (4 * 48_000, 2)
    assert both.mean(axis=1) == pytest.approx(recording.read_one_channel(path)[0], abs=1e-6)
    half = tmp_path / "half.wav"
    half.write_bytes(write_wav(np.column_stack([both[:, 0], np.zeros(len(both))]), 48_000))
    assert recording.read_both_channels(half)[:, 0] == pytest.approx(both[:, 0], abs=1e-4)
    # The same file written anew is read anew.
    half.write_bytes(write_wav(both, 48_000))
    assert recording.read_both_channels(half).shape[1] == 2
