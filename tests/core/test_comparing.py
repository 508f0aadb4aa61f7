"""What differs between two recordings, against differences that were put in."""

from __future__ import annotations

import numpy as np
import pytest
import soxr
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.audio.rendering import Samples, cab_filter, coloured
from low_tide.core.circuit.impedance import typical_driver
from low_tide.core.comparing.aligning import RATE, delayed
from low_tide.core.comparing.comparison import Held, held_against
from low_tide.core.comparing.fitted_filter import LEAD, TAPS, _correlated, filtered, fit_filter
from low_tide.core.comparing.loud_spectra import levels_of, steady_noise
from low_tide.core.comparing.recording import recorded
from low_tide.core.comparing.words import sentences
from low_tide.core.frequency import Complex, Real
from low_tide.core.power.driven_load import driven, of_driver, of_resistor
from tests.core.pieces import noisy, piece, taken
from tests.examples import many


def held(first: Samples, second: Samples, rates: tuple[int, int] = (RATE, RATE)) -> Held:
    *steps, found = held_against(recorded(first, rates[0]), recorded(second, rates[1]))
    assert all(isinstance(step, str) for step in steps)
    assert isinstance(found, Held)
    return found


def said(found: Held, rates: tuple[int, int] = (RATE, RATE)) -> str:
    return " ".join(each.text for each in sentences(found, "Take 2", rates))


@pytest.fixture(scope="module")
def played() -> Samples:
    return np.asarray(np.tanh(4 * piece(14, 1)))


def bump(hz: float, db: float) -> object:
    """A resonance of one octave, minimum phase enough: a parametric band."""

    def response(frequency: Real) -> Complex:
        s, a, q = 1j * frequency / hz, 10 ** (db / 40), 1.4
        return np.asarray((s**2 + s * a / q + 1) / (s**2 + s / (a * q) + 1))

    return response


@settings(max_examples=many(6), deadline=None)
@given(gain=st.floats(-20, 10), bass=st.floats(-8, 8), highs=st.floats(-6, 6), delay=st.floats(-500, 5000))
def test_level_and_tone_that_were_put_in(played: Samples, gain: float, bass: float, highs: float, delay: float) -> None:
    room = np.zeros(RATE // 2)
    dry = np.concatenate((room, played, room))
    made = coloured(coloured(dry, bump(110, bass)), bump(3200, highs)) * 10 ** (gain / 20)  # type: ignore[arg-type]
    found = held(taken(dry, 1, -90), taken(delayed(made, delay, len(dry)), 2, -90))
    assert found.relation == "same"
    assert found.level is not None
    assert found.spectrum is not None
    # As it came: what was put in, as the whole of both has it in each band.
    raw, centres = np.array(found.spectrum.db) + found.level.lu, np.array(found.spectrum.frequency)
    frequency = np.fft.rfftfreq(len(dry), 1 / RATE)
    before, after = (np.square(np.abs(np.fft.rfft(each))) for each in (dry, made))
    for hz in (110, 220, 450, 900, 1800, 3200):
        at = int(np.argmin(np.abs(centres - hz)))
        band = (frequency >= centres[at] / 2 ** (1 / 12)) & (frequency < centres[at] * 2 ** (1 / 12))
        assert raw[at] == pytest.approx(10 * np.log10(after[band].sum() / before[band].sum()), abs=0.5)
    assert found.filter is not None
    assert found.filter.share > 0.999


def test_levels_are_matched_to_a_tenth(played: Samples) -> None:
    from low_tide.core.audio.loudness import loudness

    first, second = taken(played, 1), taken(0.3 * coloured(played, cab_filter), 2)
    found = held(first, second)
    matched = second * 10 ** (found.match_db / 20)
    assert loudness(matched, RATE) == pytest.approx(loudness(first, RATE), abs=0.1)


def test_under_three_seconds_all_of_it_counts(played: Samples) -> None:
    short = played[: 2 * RATE]
    found = held(short, short * 0.5)
    assert found.level is not None
    assert found.level.lu == pytest.approx(-6.02, abs=0.01)


def test_a_filter_gives_back_all_of_a_linear_pair(played: Samples) -> None:
    found = held(taken(played, 1, -90), taken(coloured(played, cab_filter), 2, -90)).filter
    assert found is not None
    assert found.share >= 0.999
    assert found.noise is not None
    assert all(o.share is None or o.share > 0.99 for o in found.octaves[1:7])
    assert found.coherent > 0.99


def test_it_does_not_give_back_how_a_power_stage_reacted() -> None:
    """The same stage into a resistor and into a driver: they bend differently, whatever is equalised."""
    dry = piece(12, 3)
    first = driven(dry * 120, 10.0, 30.0, of_resistor(8.0), RATE)
    second = driven(dry * 120, 10.0, 30.0, of_driver(typical_driver(8.0)), RATE)
    found = held(taken(first / 60, 1), taken(second / 60, 2))
    assert found.filter is not None
    assert 0.5 < found.filter.share < 0.995
    assert (found.filter.over_noise or 0) > 10
    assert "how the amp reacted" in said(found)
    soft = [driven(dry * 3, 10.0, 30.0, load, RATE) for load in (of_resistor(8.0), of_driver(typical_driver(8.0)))]
    linear = held(taken(soft[0] / 6, 1, -110), taken(soft[1] / 6, 2, -110))
    assert linear.filter is not None
    assert linear.filter.share > 0.999


def test_the_filter_that_was_put_in_is_found(played: Samples) -> None:
    taps = np.zeros(TAPS)
    taps[LEAD], taps[LEAD + 40], taps[LEAD - 7], taps[LEAD + 900] = 1.0, -0.5, 0.25, 0.1
    x = noisy(played, 60)
    found = fit_filter(x, filtered(x, taps))
    assert found is not None
    assert found.taps == pytest.approx(taps, abs=0.01)
    assert filtered(x, taps)[2000:4000] == pytest.approx(np.convolve(x, taps)[LEAD + 2000 : LEAD + 4000])


@pytest.mark.parametrize("seed", range(4))
@pytest.mark.parametrize("noise", [-60.0, -110.0])
def test_no_filter_does_better_where_it_is_fitted_and_none_is_worse_than_a_gain(seed: int, noise: float) -> None:
    """Short pieces with silence around them, bent on the way: nothing of the reference is left in what is left."""
    dry = piece(6, seed)
    x, y = taken(dry, 1, noise), taken(np.tanh(3 * dry) / 3, 2, noise)
    found = fit_filter(x, y)
    assert found is not None
    fitted_on = ~found.tried
    before, after = (_correlated(each, fitted_on, x) for each in (y, found.left))
    assert np.abs(after).max() < 1e-3 * np.abs(before).max()
    share = held(x, y).filter
    assert share is not None
    assert share.left <= share.null < -10
    assert all(o.null_filtered <= o.null for o in share.octaves if o.null is not None and o.null_filtered is not None)


def test_what_it_was_fitted_on_is_not_what_it_is_tried_on(played: Samples) -> None:
    """Noise that has nothing of the reference in it: a filter fitted to it would seem to give some of it."""
    noise = np.random.default_rng(5).normal(size=len(played))
    found = fit_filter(played, noise)
    assert found is not None
    assert np.square(found.left[found.tried]).sum() >= 0.99 * np.square(noise[found.tried]).sum()


def test_null_depth_checkpoints(played: Samples) -> None:
    """0.1 dB off leaves −38.7 dB, 1 kHz a sample off −17.7 dB: told where the best gain does not take it away."""
    assert 20 * np.log10(10 ** (0.1 / 20) - 1) == pytest.approx(-38.7, abs=0.1)
    louder_half = played.copy()
    half = len(played) // 2
    louder_half[half:] *= 10 ** (0.2 / 20)
    found = held(played, louder_half).filter
    assert found is not None
    assert found.null == pytest.approx(-38.7, abs=1.0)
    sine_off = 2 * np.sin(np.pi * 1000 / RATE)
    assert 20 * np.log10(sine_off) == pytest.approx(-17.7, abs=0.1)


@pytest.mark.parametrize("gain", [1.0, 0.5, -2.0])
def test_the_very_same_recording(played: Samples, gain: float) -> None:
    found = held(taken(played, 1), gain * taken(played, 1))
    assert found.relation == "identical"
    assert "very same recording" in said(found)
    assert ("in level apart" in said(found)) == (gain != 1.0)


def test_another_piece_is_not_compared(played: Samples) -> None:
    found = held(taken(played, 1), taken(piece(14, 50), 2))
    assert found.relation == "other"
    assert found.level is found.spectrum is found.filter is None
    assert "is not compared" in said(found)


def test_played_again_is_compared_loosely() -> None:
    first, again = (np.tanh(4 * piece(14, 8, performance, 0.02)) for performance in (1, 2))
    found = held(taken(first, 1), taken(0.5 * coloured(again, bump(3200, 6)), 2))  # type: ignore[arg-type]
    assert found.relation == "again"
    assert found.filter is None
    assert found.level is not None
    assert found.spectrum is not None
    assert found.level.spread > 0
    assert found.level.lu == pytest.approx(-6.02 + 2, abs=2)
    centres, db = np.array(found.spectrum.frequency), np.array(found.spectrum.db)
    tilt = db[(centres > 2900) & (centres < 3500)].mean() - db[(centres > 300) & (centres < 800)].mean()
    assert tilt == pytest.approx(6, abs=3)
    assert "played again" in said(found)


@pytest.mark.parametrize("rates", [(8_000, 96_000), (96_000, 8_000), (44_100, 48_000), (192_000, 48_000)])
def test_rates_that_differ(played: Samples, rates: tuple[int, int]) -> None:
    first, second = (np.asarray(soxr.resample(taken(played, 1, -90), RATE, rate)) for rate in rates)
    found = held(first, second, rates)
    assert found.relation in ("same", "identical")
    assert found.level is not None
    assert abs(found.level.lu) < 0.1
    assert found.spectrum is not None
    top = max(f for f, told in zip(found.spectrum.frequency, found.spectrum.told, strict=True) if told)
    assert top <= 0.45 * min(rates)
    assert max(abs(d) for d, told in zip(found.spectrum.db, found.spectrum.told, strict=True) if told) < 0.1
    if 8_000 in rates:
        assert "up to 3.6 kHz" in said(found, rates) or found.relation == "identical"


def test_what_cannot_be_compared_says_why(played: Samples) -> None:
    whole = taken(played, 1)
    for other, words in (
        (np.zeros(len(whole)), "holds nothing to hear"),
        (whole[: RATE // 2], "at least 1 s"),
        (whole * 4e-3, "too quiet"),
        (np.random.default_rng(1).normal(size=len(whole)) * 1e-4, "holds nothing to hear"),
    ):
        found = held(whole, other)
        assert found.relation == "unusable"
        assert words in found.why
        assert held(other, whole).relation == "unusable"


def test_one_empty_channel_takes_nothing_off(played: Samples) -> None:
    whole = taken(played, 1)
    found = held(whole, np.stack((np.zeros(len(whole)), whole), axis=1))
    assert found.level is not None
    assert abs(found.level.lu) < 0.01


def test_dynamics_are_held_side_by_side(played: Samples) -> None:
    squeezed = np.tanh(4 * played) * 0.5
    found = held(taken(played, 1), taken(squeezed, 2))
    assert found.dynamics is not None
    assert found.beside is not None
    assert found.dynamics.notes == found.beside.notes > 5
    assert (found.dynamics.crest_db or 0) < (found.beside.crest_db or 0) - 0.5
    assert "inverted" not in said(found)
    assert "inverted" in said(held(taken(played, 1), -taken(squeezed, 2)))


def test_what_dies_away_is_no_noise() -> None:
    t = np.arange(6 * RATE) / RATE
    dying = np.sin(2 * np.pi * 300 * t) * np.exp(-t * 1.5)
    assert not steady_noise(levels_of(dying)).any()
    frames = steady_noise(levels_of(taken(dying, 1)))
    assert frames[:39].mean() > 0.9
    assert frames[41:80].sum() == 0
