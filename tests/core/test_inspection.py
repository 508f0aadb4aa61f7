"""What a recording holds: synthetic takes with known answers, from blocks of any size."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.audio import hum as hums
from low_tide.core.audio.dynamics import FRAME_S, Levels
from low_tide.core.audio.frames import Windows, planes, runs
from low_tide.core.audio.hum import MAINS_HZ, find_hum, windows_of
from low_tide.core.audio.inspection import Inspected, Inspection, Sound, inspect
from low_tide.core.audio.loudness import Loudness
from low_tide.core.audio.metering import true_peak
from low_tide.core.audio.speaker_sound import SpeakerSound, if_rolled_off, speaker_sound
from low_tide.core.audio.spectrum import a_weighting, band_centres, band_levels
from low_tide.core.audio.waveform import BIN, Bins, trace

RATE = 48_000


def sound_of(samples: np.ndarray, rate: int = RATE, size: int = 100_000, lsb: float = 2.0**-23) -> Sound:
    """Samples (n,) or (n, channels) as sound that is read in blocks of `size`."""
    whole = np.asarray(samples if samples.ndim > 1 else samples[:, None], np.float32)

    def blocks(overlap: int) -> Iterator[np.ndarray]:
        for at in range(0, len(whole), size):
            yield whole[max(0, at - overlap) : at + size]

    return Sound(rate, whole.shape[1], len(whole), lsb, blocks)


def found_in(samples: np.ndarray, rate: int = RATE, **how: float) -> Inspection:
    *_, last = inspect(sound_of(samples, rate, **how))  # type: ignore[arg-type]
    assert isinstance(last, Inspected)
    return last.inspection


def sine(frequency: float, seconds: float, dbfs: float, rate: int = RATE) -> np.ndarray:
    """A sine of an RMS level."""
    t = np.arange(round(seconds * rate)) / rate
    return np.sqrt(2) * 10 ** (dbfs / 20) * np.sin(2 * np.pi * frequency * t)


def noise(seconds: float, dbfs: float, seed: int = 1, rate: int = RATE) -> np.ndarray:
    return np.random.default_rng(seed).normal(size=round(seconds * rate)) * 10 ** (dbfs / 20)


def comb(mains: float, seconds: float, lines: dict[int, float], rate: int = RATE) -> np.ndarray:
    """Lines of the mains, each of an RMS level in dBFS."""
    return np.sum([sine(k * mains, seconds, level, rate) for k, level in lines.items()], axis=0)


def plucked(at: list[float], seconds: float, decay: float, frequency: float = 1000.0) -> np.ndarray:
    """Tones that begin at once and die away exponentially, time constant `decay` s."""
    t = np.arange(round(seconds * RATE)) / RATE
    whole = np.zeros(len(t))
    for begin in at:
        after = t - begin
        whole += np.where(after >= 0, 0.5 * np.exp(-after / decay) * np.sin(2 * np.pi * frequency * after), 0)
    return whole


# ---------------------------------------------------------------- blocks


@given(st.integers(4_096, 60_000), st.sampled_from([1, 2]))
def test_where_blocks_end_changes_nothing(size: int, channels: int) -> None:
    lot = np.random.default_rng(5)
    samples = lot.normal(size=(2 * RATE, channels)) * np.geomspace(1e-4, 0.3, 2 * RATE)[:, None]
    samples = np.clip(samples, -0.5, 0.6)
    whole, parts = found_in(samples, size=10**6), found_in(samples, size=size)
    assert parts.clips == whole.clips
    assert parts.channels == whole.channels
    assert parts.dynamics.attack == whole.dynamics.attack
    for name in ("peak_dbfs", "true_peak_dbtp", "rms_dbfs", "loudness_lufs", "clipped_runs"):
        assert getattr(parts.measures, name) == pytest.approx(getattr(whole.measures, name), abs=1e-6), name
    assert parts.noise is not None
    assert whole.noise is not None
    assert vars(parts.noise) == pytest.approx(vars(whole.noise), abs=1e-4)
    assert parts.spectrum.loud == pytest.approx(whole.spectrum.loud, abs=1e-3)


@given(st.lists(st.integers(1, 40), min_size=1, max_size=12), st.integers(1, 9), st.integers(1, 9))
def test_windows_are_those_of_the_whole(lengths: list[int], size: int, hop: int) -> None:
    whole = np.arange(sum(lengths), dtype=np.float32)[:, None]
    hop = min(size, hop)
    windows, at, found = Windows(size, hop), 0, []
    for length in lengths:
        found += windows.of(planes(whole[at : at + length]))[0].tolist()
        at += length
    assert found == [whole[i : i + size, 0].tolist() for i in range(0, len(whole) - size + 1, hop)]


@given(st.lists(st.booleans()))
def test_runs_are_what_is_true(flags: list[bool]) -> None:
    there = np.zeros(len(flags), bool)
    for start, stop in runs(np.array(flags, bool)):
        assert stop > start
        there[start:stop] = True
    assert there.tolist() == flags


# ---------------------------------------------------------------- levels


def test_noise_floor_dc_and_silence() -> None:
    take = np.concatenate((noise(3, -70), sine(220, 4, -12), noise(1.5, -70, seed=2))) + 0.01
    found = found_in(take)
    assert found.noise is not None
    assert found.noise.dbfs == pytest.approx(-70, abs=0.4)
    assert found.dc_dbfs == pytest.approx(-40, abs=0.1)
    assert found.silence.head == pytest.approx(3, abs=FRAME_S)
    assert found.silence.tail == pytest.approx(1.5, abs=FRAME_S)
    assert [(s.start, s.stop) for s in found.quiet] == [
        (0, pytest.approx(3, abs=0.06)),
        (7, pytest.approx(8.5, abs=0.06)),
    ]
    assert found.loud_dbfs == pytest.approx(-12, abs=0.1)


def test_digital_silence_is_no_noise_floor() -> None:
    found = found_in(np.concatenate((np.zeros(4 * RATE), noise(2, -60), sine(220, 3, -12))))
    assert found.noise is not None
    assert found.noise.dbfs == pytest.approx(-60, abs=0.5)
    assert found.silence.head == pytest.approx(6, abs=0.06)


def test_a_take_that_is_played_through_has_no_quiet_part() -> None:
    found = found_in(sine(220, 5, -12))
    assert found.quiet == ()
    assert found.hum is None
    assert "no quiet part" in found.hum_why


@pytest.mark.parametrize(("low", "span"), [(-50.0, 0.0), (-30.0, 14.0)])
def test_the_range_of_what_is_played(low: float, span: float) -> None:
    """Half of it at each of two levels: L10 is the upper, L90 the lower; what lies beyond the gate does not count."""
    found = found_in(np.concatenate((sine(220, 5, -16), sine(220, 5, low))))
    assert found.dynamics.range_db == pytest.approx(span, abs=0.05)


@pytest.mark.parametrize("decay", [0.15, 0.4, 1.2])
def test_attack_over_sustain_of_an_exponential(decay: float) -> None:
    """Closed form: the peak lies within a quarter of a period, the RMS over 100 to 300 ms is that of the envelope."""
    held = 0.5 * decay * (np.exp(-0.2 / decay) - np.exp(-0.6 / decay)) / 0.2 / 2
    found = found_in(plucked([0.5, 1.5, 2.5, 3.5], 4.5, decay) + noise(4.5, -90))
    assert found.dynamics.attack is not None
    assert found.dynamics.attack.notes == 4
    assert found.dynamics.attack.median_db == pytest.approx(-10 * np.log10(held), abs=0.15)


def test_notes_are_found_where_they_begin() -> None:
    begins = [0.4, 0.9, 1.25, 2.0, 2.8, 3.05]
    *_, last = inspect(sound_of(plucked(begins, 4, 0.2) + noise(4, -80)))
    assert isinstance(last, Inspected)
    assert last.inspection.dynamics.attack is not None
    # The one that the next cuts short after 300 ms or less has no sustain.
    assert last.inspection.dynamics.attack.notes == len(begins) - 1


def test_loudness_range_of_two_levels() -> None:
    """EBU Tech 3342, case 1: 20 s at −20 and 20 s at −30 dBFS come to 10 LU ± 1."""
    tone = np.concatenate((sine(1000, 20, -23.01), sine(1000, 20, -33.01)))
    found = found_in(np.stack((tone, tone), axis=1))
    assert found.loudness_range_lu == pytest.approx(10, abs=1)
    assert not found.loudness_range_sure
    assert found_in(tone[: 2 * RATE]).loudness_range_lu is None


@pytest.mark.parametrize(("levels", "lu"), [((-20, -15), 5), ((-40, -20), 20), ((-50, -35, -20, -35, -50), 15)])
def test_loudness_ranges_of_the_published_cases(levels: tuple[int, ...], lu: int) -> None:
    """EBU Tech 3342, cases 2 to 4, each ± 1 LU."""
    meter = Loudness(RATE, 2)
    for level in levels:
        tone = sine(1000, 20, level - 3.01)
        meter.add(np.stack((tone, tone), axis=1))
    meter.end()
    assert meter.loudness_range() == pytest.approx(lu, abs=1)


def test_true_peak_skips_only_what_cannot_be_the_largest() -> None:
    lot = np.random.default_rng(2)
    for _ in range(20):
        samples = lot.normal(size=(30_000, 1)) * np.geomspace(0.001, 1, 30_000)[lot.permutation(30_000)[0] :: -1][:1]
        samples *= lot.uniform(0.01, 1, size=(30_000, 1)) ** 3
        best = max(true_peak(samples[at : at + 5000], 0.0) for at in range(0, 25_001, 1000))
        assert true_peak(samples) >= best - 1e-6


# ---------------------------------------------------------------- clipping


def test_clipping_has_its_places_its_count_and_its_cause() -> None:
    take = sine(200, 4, -20)
    take[RATE : RATE + 960] = np.clip(6 * take[RATE : RATE + 960], -0.5, 0.5)
    take[3 * RATE : 3 * RATE + 480] = np.clip(6 * take[3 * RATE : 3 * RATE + 480], -0.5, 0.5)
    found = found_in(take)
    assert [(c.by, pytest.approx(c.start, abs=0.005)) for c in found.clips] == [("limiter", 1.0), ("limiter", 3.0)]
    assert [c.runs for c in found.clips] == [8, 4]
    assert found.clips[0].dbfs == pytest.approx(-6.02, abs=0.01)
    (hot,) = found_in(np.clip(sine(200, 1, 3), -1, 1)).clips
    assert (hot.by, hot.runs) == ("converter", 400)


def test_a_flat_top_that_wobbles_is_one_and_a_noisy_crest_is_none() -> None:
    lot = np.random.default_rng(3)
    limited = np.clip(sine(150, 2, -3), -0.4, 0.4)
    wobbling = np.round((limited + lot.uniform(-1, 1, len(limited)) * 2.0**-16) * 2**15) / 2**15
    assert found_in(wobbling, lsb=2.0**-15).measures.clipped_runs == pytest.approx(600, abs=12)
    crest = np.round((sine(150, 2, -10) + lot.normal(size=2 * RATE) * 2.0**-15) * 2**15) / 2**15
    assert found_in(crest, lsb=2.0**-15).measures.clipped_runs == 0


# ---------------------------------------------------------------- hum


@pytest.mark.parametrize("mains", [49.53, 50.0, 50.41, 59.55, 60.38])
@pytest.mark.parametrize("rate", [8_000, 44_100, 48_000, 96_000])
def test_hum_is_found_with_its_frequency_and_its_level(mains: float, rate: int) -> None:
    lines = {k: -58 - 6 * np.log2(k) for k in range(1, 21)}
    quiet = comb(mains, 3, lines, rate) + noise(3, -80, rate=rate)
    found = found_in(np.concatenate((quiet, sine(440, 2, -12, rate))), rate)
    assert found.hum is not None
    assert found.hum.mains_hz == pytest.approx(mains, abs=0.06)
    assert found.hum.nominal_hz == round(mains / 10) * 10
    assert found.hum.dbfs == pytest.approx(-58, abs=0.5)
    assert (found.hum.line, found.hum.buzz) == (1, False)


def test_a_rectifier_hums_at_twice_the_mains_and_a_dimmer_buzzes() -> None:
    rectified = found_in(
        np.concatenate((comb(50, 3, {1: -75, 2: -55, 4: -62, 6: -66}) + noise(3, -85), sine(440, 2, -12)))
    )
    assert rectified.hum is not None
    assert rectified.hum.line == 2
    buzzing = comb(50, 3, dict.fromkeys(range(1, 21), -60)) + noise(3, -85)
    dimmer = found_in(np.concatenate((buzzing, sine(440, 2, -12))))
    assert dimmer.hum is not None
    assert dimmer.hum.buzz


def windows_with(lines: dict[int, float], count: int, lot: np.random.Generator) -> np.ndarray:
    """Windows of white noise of power 1 in a Hz, with mains lines so many dB over it, at any phase."""
    length = (count + 1) * hums.RATE // 2
    t = np.arange(length) / hums.RATE
    mains = lot.uniform(*MAINS_HZ[lot.integers(2)])
    whole = lot.normal(size=length) * np.sqrt(hums.RATE / 2)
    for k, over in lines.items():
        whole += np.sqrt(2 * 10 ** (over / 10)) * np.sin(2 * np.pi * k * mains * t + lot.uniform(0, 2 * np.pi))
    return windows_of([whole])


@pytest.mark.parametrize("count", [2, 4, 12])
def test_noise_is_seldom_taken_for_hum(count: int) -> None:
    """One search in a hundred may; of 500, more than 14 come in less than one run of a thousand."""
    lot = np.random.default_rng(count)
    assert sum(find_hum(windows_with({}, count, lot)) is not None for _ in range(500)) <= 14


@pytest.mark.parametrize("lines", [dict.fromkeys(range(1, 21), 12.0), dict.fromkeys((1, 2, 3), 12.0)])
@pytest.mark.parametrize("count", [2, 4, 9])
def test_lines_of_12_db_are_found(lines: dict[int, float], count: int) -> None:
    lot = np.random.default_rng(7)
    found = [find_hum(windows_with(lines, count, lot)) for _ in range(150)]
    assert sum(each is not None for each in found) >= 0.95 * len(found)


@pytest.mark.parametrize("note", [48.99, 51.91, 61.74, 58.27, 82.41, 98.0, 110.0, 123.47])
def test_a_note_that_rings_is_no_hum(note: float) -> None:
    ringing = sum(sine(k * note, 3, -60 - 3 * k) for k in range(1, 12)) + noise(3, -90)
    assert found_in(np.concatenate((ringing, sine(440, 2, -12)))).hum is None


def test_less_quiet_than_one_and_a_half_seconds_says_so() -> None:
    found = found_in(np.concatenate((noise(1.2, -70), sine(440, 3, -12))))
    assert found.hum is None
    assert found.hum_why == "1.2 s of quiet are not enough; 1.5 s are wanted"
    with pytest.raises(ValueError, match=r"1\.5 s of quiet"):
        find_hum(np.zeros((1, hums.RATE)))


# ---------------------------------------------------------------- speakers


def falling(slope_db: float, drive: float = 3.0, seed: int = 1, rate: int = RATE) -> np.ndarray:
    """Driven sound whose power falls by so many dB from 3..4.5 to 8..11 kHz."""
    lot = np.random.default_rng(seed)
    size = 4 * rate
    f = np.fft.rfftfreq(size, 1 / rate)
    across = np.clip(np.log2(np.maximum(f, 1) / 3700) / np.log2(9400 / 3700), 0, None)
    spectrum = np.fft.rfft(np.tanh(drive * lot.normal(size=size))) * 10 ** (-slope_db * across / 20)
    shaped = np.fft.irfft(spectrum, size)
    return shaped / np.abs(shaped).max() * 0.4


@pytest.mark.parametrize(("slope", "says"), [(10, "none"), (17, "none"), (26, "cannot tell"), (40, "one"), (60, "two")])
def test_speakers_by_the_slope(slope: float, says: str) -> None:
    frequency = np.linspace(0, RATE / 2, 2049)
    across = np.clip(np.log2(np.maximum(frequency, 1) / 3700) / np.log2(9400 / 3700), 0, None)
    spectrum = 10 ** (-slope * across / 10)
    assert speaker_sound(spectrum, spectrum * 1e-9, frequency, RATE, 8.0).speakers == says


def test_what_keeps_speakers_from_being_told() -> None:
    frequency = np.linspace(0, RATE / 2, 2049)
    flat = np.ones(2049)
    assert "rate" in speaker_sound(flat, None, frequency, 44_099, 8.0).why
    assert "clean" in speaker_sound(flat, None, frequency, RATE, 12.0).why
    assert "noise" in speaker_sound(flat, flat / 2, frequency, RATE, 8.0).why
    assert "nothing is played" in speaker_sound(None, None, frequency, RATE, None).why
    assert speaker_sound(flat, None, frequency, RATE, 8.0).speakers == "none"


@given(st.floats(0, 90))
def test_a_roll_off_only_widens_what_cannot_be_told(slope: float) -> None:
    order = ["none", "cannot tell", "one", "two"]
    told = "none" if slope < 20 else "cannot tell" if slope < 33 else "one" if slope <= 50 else "two"
    widened = if_rolled_off(SpeakerSound(told, slope, ""))  # type: ignore[arg-type]
    assert order.index(widened.speakers) <= order.index(told)
    assert (widened.speakers == "none") == (told == "none")
    assert (widened.speakers == "two") == (slope > 62)


@pytest.mark.parametrize(("slope", "says"), [(12, "none"), (41, "one"), (60, "two")])
def test_speakers_of_a_whole_take(slope: float, says: str) -> None:
    take = np.concatenate((noise(2, -120), falling(slope)))
    found = found_in(take).speaker
    assert found.slope_db == pytest.approx(slope, abs=8)
    assert found.speakers in (says, "cannot tell")


# ---------------------------------------------------------------- spectra, waveform, channels


def test_bands_hold_the_power_of_the_spectrum() -> None:
    found = found_in(np.concatenate((noise(1, -90), sine(1000, 4, -20))))
    at = int(np.argmax(found.spectrum.loud))
    assert found.spectrum.frequency[at] == pytest.approx(1000, rel=0.06)
    assert found.spectrum.loud[at] == pytest.approx(-20, abs=0.2)
    flat = band_levels(np.full(2049, 2e-6), RATE)
    centres = band_centres(RATE)
    assert flat == pytest.approx(10 * np.log10(2e-6 * centres * (2 ** (1 / 12) - 2 ** (-1 / 12))), abs=0.6)


def test_a_weighting_of_the_published_table() -> None:
    """IEC 61672-1, table 3."""
    table = {31.5: -39.4, 63: -26.2, 125: -16.1, 250: -8.6, 500: -3.2, 1000: 0.0, 2000: 1.2, 4000: 1.0, 8000: -1.1}
    for frequency, gain in table.items():
        exact = 10 ** (round(10 * np.log10(frequency)) / 10)
        assert 10 * np.log10(a_weighting(np.array([exact]))[0]) == pytest.approx(gain, abs=0.1), frequency


def test_a_waveform_misses_no_peak() -> None:
    lot = np.random.default_rng(4)
    samples = lot.uniform(-0.9, 0.9, size=(BIN * 400, 2)).astype(np.float32)
    bins = Bins()
    for at in range(0, len(samples), 7000):
        bins.add(planes(samples[at : at + 7000]))
    drawn = trace(bins.all(), 0, 1, 37)
    assert len(drawn.low[0]) == 37
    for channel in (0, 1):
        assert max(drawn.high[channel]) == round(float(samples[:, channel].max()) * 32767)
        assert min(drawn.low[channel]) == round(float(samples[:, channel].min()) * 32767)
    assert not drawn.points
    assert trace(bins.all()[:0], 0, 0, 10).low == ()


def test_channels() -> None:
    tone, other = sine(220, 1, -12), sine(330, 1, -12)
    assert found_in(tone).channels == "mono"
    assert found_in(np.stack((tone, other), axis=1)).channels == "stereo"
    assert found_in(np.stack((tone, tone), axis=1)).channels == "same"
    assert found_in(np.stack((tone, 1e-5 * other), axis=1)).channels == "left only"
    assert found_in(np.stack((0 * tone, other), axis=1)).channels == "right only"


def test_silence_gives_no_answer_rather_than_a_wrong_one() -> None:
    found = found_in(np.zeros(3 * RATE))
    told = replace(found, measures=replace(found.measures, seconds=0))
    assert (told.noise, told.hum, told.loud_dbfs, told.dynamics.range_db, told.clips) == (None, None, None, None, ())
    assert told.speaker.speakers == "cannot tell"
    assert told.silence.longest == pytest.approx(3)


def test_a_noisy_tail_counts_its_frames() -> None:
    levels = Levels(np.array([1e-8] * 10 + [1e-2] * 30))
    assert levels.noise_floor() == pytest.approx(-80)
    assert levels.loud() == pytest.approx(-20)
    assert levels.quiet_under() == pytest.approx(-74)
