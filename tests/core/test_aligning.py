"""Recordings brought into line, against delays, drifts and polarities that are known."""

from __future__ import annotations

import numpy as np
import pytest
import soxr
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.audio.rendering import Samples, cab_filter, coloured
from low_tide.core.comparing.aligning import RATE, Alignment, align, cross_spectra, delayed, one_channel, put_in_line
from low_tide.core.comparing.performance import same_piece
from tests.core.pieces import noisy, piece
from tests.examples import many


def aligned(first: Samples, second: Samples) -> Alignment:
    found = align(first, second)
    assert found is not None
    return found


def slow(samples: Samples, ppm: float) -> Samples:
    return np.asarray(soxr.resample(samples, 1.0, 1.0 + ppm * 1e-6, quality="VHQ"))


@pytest.fixture(scope="module")
def played() -> Samples:
    return piece(12, 1)


@settings(max_examples=many(12), deadline=None)
@given(delay=st.floats(-30_000, 30_000), inverted=st.booleans(), seed=st.integers(0, 99))
def test_delay_and_polarity_of_equal_colour_at_20_db(played: Samples, delay: float, inverted: bool, seed: int) -> None:
    late = noisy(delayed(played, delay, len(played)), 20, seed)
    found = aligned(noisy(played, 20, seed + 1000), -late if inverted else late)
    assert found.delay * RATE == pytest.approx(delay, abs=0.05)
    assert found.inverted == inverted
    assert found.same


@pytest.mark.parametrize("delay", [0.0, 37.3, -1234.77])
def test_delay_when_noise_is_as_loud_as_what_is_played(played: Samples, delay: float) -> None:
    found = aligned(noisy(played, 0, 1), noisy(delayed(played, delay, len(played)), 0, 2))
    assert found.delay * RATE == pytest.approx(delay, abs=0.8)
    assert found.same


@pytest.mark.parametrize("ppm", [0.0, 5.0, 30.0, -100.0])
def test_drift_is_found_and_taken_back(ppm: float) -> None:
    first = piece(25, 2)
    found = aligned(noisy(first, 50, 1), noisy(delayed(slow(first, ppm), 100.5, len(first)), 50, 2))
    assert found.drift == pytest.approx(ppm, abs=0.5)
    assert found.delay * RATE == pytest.approx(100.5, abs=0.2)
    assert abs(found.left or 0.0) * 1e-6 * len(first) < 0.1


def test_what_is_put_in_line_cancels(played: Samples) -> None:
    late = -delayed(slow(played, 20.0), 250.25, len(played))
    there = put_in_line(aligned(played, late), late, len(played))
    inside = slice(RATE, -RATE)
    left = np.square(there[inside] - played[inside]).sum() / np.square(played[inside]).sum()
    assert 10 * np.log10(left) < -45


def test_another_colour_is_no_other_place(played: Samples) -> None:
    through = coloured(np.tanh(3 * played), cab_filter)
    found = aligned(played, delayed(through, 200.5, len(played)))
    own = aligned(played, through)
    assert (found.delay - own.delay) * RATE == pytest.approx(200.5, abs=0.05)
    assert abs(own.delay * RATE) < 10
    assert found.same
    # So the polarity of a take is told against its direct track.
    assert not own.inverted
    assert aligned(played, -through).inverted


def test_a_take_that_is_shorter_or_begins_earlier(played: Samples) -> None:
    part = played[3 * RATE : 8 * RATE]
    assert aligned(played, part).delay * RATE == pytest.approx(-3 * RATE, abs=0.05)
    assert aligned(part, played).delay * RATE == pytest.approx(3 * RATE, abs=0.05)
    assert aligned(played, part).same
    assert aligned(part, played).same


def test_a_held_note_fits_in_many_places() -> None:
    t = np.arange(6 * RATE) / RATE
    held = sum(np.sin(2 * np.pi * 220 * k * t) / k for k in range(1, 20))
    assert not aligned(held, delayed(held, 30, len(held))).sure


@settings(max_examples=many(4), deadline=None)
@given(notes=st.integers(0, 500))
def test_played_again_is_the_same_piece_and_no_performance(notes: int) -> None:
    first, again = (piece(12, notes, performance, 0.02) for performance in (1, 2))
    other = piece(12, notes + 1000, 3, 0.02)
    assert not aligned(first, again).same
    assert same_piece(first, coloured(np.tanh(4 * again), cab_filter))
    assert not same_piece(first, other)
    assert not aligned(first, other).same


def test_nothing_to_bring_into_line(played: Samples) -> None:
    assert align(played, np.zeros(len(played))) is None
    assert align(played, played[: RATE // 2]) is None


def test_channels_that_hold_something_are_one(played: Samples) -> None:
    left_only = np.stack((played, np.zeros(len(played))), axis=1)
    assert one_channel(left_only, RATE) == pytest.approx(played - played.mean())
    assert len(one_channel(left_only[::2], RATE // 2)) == pytest.approx(len(played), abs=2)
    assert abs(one_channel(played + 0.2, RATE).mean()) < 1e-12


def test_moved_by_parts_of_a_sample() -> None:
    t = np.arange(RATE) / RATE
    for frequency in (100.0, 5_000.0, 18_000.0):
        moved = delayed(np.sin(2 * np.pi * frequency * t), 10.37, RATE)
        wanted = np.sin(2 * np.pi * frequency * (t - 10.37 / RATE))
        assert moved[500:-500] == pytest.approx(wanted[500:-500], abs=0.003)


def test_coherence_of_a_signal_and_itself_in_noise() -> None:
    """x and x plus independent noise at 10 dB: 1/(1 + 0.1) = 0.909 (Bendat and Piersol)."""
    rng = np.random.default_rng(3)
    x = rng.normal(size=30 * RATE)
    cross, xx, yy, _ = cross_spectra(x, x + rng.normal(size=len(x)) * 10**-0.5)
    both = np.abs(cross) ** 2 / (xx * yy)
    assert float((both * yy).sum() / yy.sum()) == pytest.approx(0.909, abs=0.01)
