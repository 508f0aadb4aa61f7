"""A path measured by a sweep, against paths that are known."""

from __future__ import annotations

import numpy as np
import pytest
import soxr
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.audio.rendering import Samples, cab_filter, coloured
from low_tide.core.comparing.aligning import delayed
from low_tide.core.comparing.sweep import BEFORE_S, RATES, Swept, cut_after, decay, measured
from low_tide.core.comparing.sweep import test_signal as signal_at
from tests.examples import many

SENT_RMS_DBFS = -21.0


def sent(rate: int) -> Samples:
    return np.concatenate((signal_at(rate), np.zeros(rate // 2)))


def with_noise(samples: Samples, snr: float, seed: int = 1) -> Samples:
    return samples + np.random.default_rng(seed).normal(size=len(samples)) * 10 ** ((SENT_RMS_DBFS - snr) / 20)


def test_the_file_is_what_it_says() -> None:
    for rate in RATES:
        file = signal_at(rate)
        assert len(file) == 10 * rate
        assert np.abs(file).max() == pytest.approx(10 ** (-18 / 20), rel=1e-3)
        assert not file[: rate - 1].any()
        assert not file[-2 * rate :].any()
        spectrum = np.abs(np.fft.rfft(file[round(1.2 * rate) : round(2.8 * rate)]))
        assert np.argmax(spectrum) / 1.6 == pytest.approx(1000, abs=1)


@settings(max_examples=many(6), deadline=None)
@given(
    delay=st.floats(0, 20_000), gain=st.floats(-30, 15), inverted=st.booleans(), ppm=st.floats(-60, 60),
    seed=st.integers(0, 99),
)  # fmt: skip
def test_delay_gain_polarity_and_clock(delay: float, gain: float, inverted: bool, ppm: float, seed: int) -> None:
    rate = 48_000
    through = delayed(sent(rate), delay, len(sent(rate)) + 20_000) * 10 ** (gain / 20) * (-1 if inverted else 1)
    slow = np.asarray(soxr.resample(through, 1.0, 1.0 + ppm * 1e-6, quality="VHQ"))
    noise = np.random.default_rng(seed).normal(size=len(slow)) * 10 ** ((SENT_RMS_DBFS + gain - 40) / 20)
    found = measured(slow + noise, rate).result
    assert found.why == ""
    # A clock that runs slow has stretched the delay as well.
    assert found.delay_samples == pytest.approx(delay, abs=0.1)
    assert found.gain_db == pytest.approx(gain, abs=0.02)
    assert found.inverted == inverted
    assert found.drift_ppm == pytest.approx(ppm, abs=0.1)
    assert found.noise_dbfs == pytest.approx(SENT_RMS_DBFS + gain - 40, abs=0.5)


@pytest.mark.parametrize("rate", RATES)
def test_response_of_a_known_filter_at_40_db(rate: int) -> None:
    found = measured(with_noise(coloured(sent(rate), cab_filter, rate), 40), rate).result
    assert found.response is not None
    frequency, db, told = (np.array(v) for v in (found.response.frequency, found.response.db, found.response.told))
    fine = np.array([frequency * 2 ** (k / 120) for k in range(-10, 11)])
    # In sixths of an octave, as it is told.
    wanted = 10 * np.log10(np.mean(np.abs([cab_filter(f) for f in fine]) ** 2, axis=0))
    inside = (frequency >= 60) & (frequency <= 12_000) & (wanted > wanted.max() - 20)
    assert inside.sum() > 70
    assert told[inside].all()
    assert np.abs(db - wanted)[inside].max() < 0.2
    # Where the filter lets nothing through, it is not told.
    assert not told[wanted < wanted.max() - 60].any()


def test_distortion_by_order() -> None:
    rate, peak = 48_000, 10 ** (-18 / 20)
    x = sent(rate)
    found = measured(with_noise(x + 0.5 * x**2 + 2.0 * x**3, 80), rate).result
    assert found.response is not None
    frequency = np.array(found.response.frequency)
    linear = 1 + 2.0 * 0.75 * peak**2
    second, third = 0.5 * peak / 2 / linear, 2.0 * peak**2 / 4 / linear
    for hz in (100, 1000, 3000):
        at = int(np.argmin(np.abs(frequency - hz)))
        levels = [row[at] for row in found.response.harmonics]
        assert levels[0] == pytest.approx(20 * np.log10(second), abs=0.5)
        assert levels[1] == pytest.approx(20 * np.log10(third), abs=0.5)
        assert all(level is None or level < -75 for level in levels[2:])
    assert found.distortion == pytest.approx(100 * np.hypot(second, third), rel=0.05)
    top = int(np.argmin(np.abs(frequency - 12_000)))
    assert [row[top] for row in found.response.harmonics] == [None] * 4


def test_the_impulse_response_convolves_to_the_path() -> None:
    rate = 48_000
    path = np.zeros(4000)
    path[0], path[480], path[1500] = 1.0, 0.5, -0.25
    x = sent(rate)
    swept = measured(with_noise(np.convolve(x, path)[: len(x)], 80), rate)
    at = round(BEFORE_S * rate)
    assert np.argmax(np.abs(swept.impulse)) == at
    rng = np.random.default_rng(2)
    spectrum, f = np.fft.rfft(rng.normal(size=rate)), np.fft.rfftfreq(rate, 1 / rate)
    noise = np.fft.irfft(spectrum * ((f > 100) & (f < 15_000)), rate)
    made = np.convolve(noise, swept.impulse)[at : at + rate]
    wanted = np.convolve(noise, path)[:rate]
    inside = slice(5000, -5000)
    assert np.square(made - wanted)[inside].sum() < 1e-3 * np.square(wanted)[inside].sum()
    shown = decay(swept.impulse, rate)
    level = dict(zip(shown.times, shown.db, strict=True))
    assert max(v for t, v in level.items() if 9.5 < t < 10.5) == pytest.approx(-6, abs=1)
    short = cut_after(swept.impulse, rate, 0.005)
    assert len(short) == round(0.010 * rate)
    assert np.abs(short[at - 5 : at + 5]).max() == pytest.approx(np.abs(swept.impulse).max())


def test_what_says_nothing_says_why() -> None:
    rate = 48_000
    x = sent(rate)

    def why(samples: Samples) -> str:
        found: Swept = measured(samples, rate)
        assert found.result.response is None
        return found.result.why

    assert "cut off" in why(x[: 5 * rate])
    assert "nothing in it" in why(x * 0)
    assert "not to be found" in why(np.random.default_rng(1).normal(size=len(x)) * 0.1)
    assert "sine before the sweep" in why(np.concatenate((x[3 * rate :], np.zeros(3 * rate))))
    assert measured(np.clip(x * 20, -1, 1), rate).result.clipped
