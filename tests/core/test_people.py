"""Ears, loudness and heat: the schools' own tables, the contours, and one thermal mass."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.acoustics import equal_loudness
from low_tide.core.acoustics import exposure as hearing
from low_tide.core.inventory import Headphones
from low_tide.core.thermal import heating as heat
from low_tide.core.thermal.heating import Thermal, warming

# ISO 226:2003, the contour of 40 phon at the third octaves from 20 Hz to 12.5 kHz.
FORTY_PHON = (
    99.85, 93.94, 88.17, 82.63, 77.78, 73.08, 68.48, 64.37, 60.59, 56.70, 53.41, 50.40, 47.58, 44.98, 43.05,
    41.34, 40.06, 40.01, 41.82, 42.51, 39.23, 36.51, 35.61, 36.65, 40.01, 45.83, 51.80, 54.28, 51.49,
)  # fmt: skip


@pytest.mark.parametrize(
    ("school", "level", "hours"),
    [
        ("85_3", 85, 8),
        ("85_3", 88, 4),
        ("85_3", 94, 1),
        ("85_3", 100, 0.25),
        ("85_3", 110, 89 / 3600),
        ("90_5", 90, 8),
        ("90_5", 95, 4),
        ("90_5", 100, 2),
        ("90_5", 110, 0.5),
        ("80_week", 80, 40),
        ("80_week", 85, 12.6),
    ],
)
def test_allowances_are_those_of_the_schools(school: str, level: float, hours: float) -> None:
    assert hearing.allowed_hours(level, school) == pytest.approx(hours, rel=0.005)


@pytest.mark.parametrize("school", hearing.LISTENING)
def test_over_115_dba_nothing_is_allowed(school: str) -> None:
    assert hearing.allowed_hours(115, school) > 0
    assert hearing.allowed_hours(115.1, school) == 0
    assert math.isinf(hearing.dose([(116, 0.001)], school))
    assert hearing.dose([(116, 0)], school) == 0


def test_a_dose_adds_up() -> None:
    # Two hours of 88 are half of it, a quarter of an hour of 94 a quarter.
    assert hearing.dose([(88, 2), (94, 0.25)], "85_3") == pytest.approx(0.75)


@given(st.floats(0.05, 8), st.sampled_from(sorted(hearing.LISTENING)))
def test_the_level_for_a_time_allows_just_that_time(hours: float, school: str) -> None:
    level = hearing.level_for(hours, school)
    if level < hearing.NO_ALLOWANCE_DBA:
        assert hearing.allowed_hours(level, school) == pytest.approx(hours)
    else:
        assert hearing.allowed_hours(level, school) >= hours


def test_headphones_behind_their_output() -> None:
    pair = Headphones("h", "H", impedance=32, sensitivity=100)
    assert pair.level(0.5, 0) == pytest.approx(109, abs=0.1)
    # Behind its own impedance half the voltage is left: 6 dB less.
    assert pair.level(0.5, 32) == pytest.approx(pair.level(0.5, 0) - 6.02, abs=0.01)


def test_contours_are_those_of_the_standard() -> None:
    assert equal_loudness.contour(40) == pytest.approx(FORTY_PHON, abs=0.02)
    at_1k = int(np.argmin(np.abs(equal_loudness.THIRDS - 1000)))
    for phon in (20, 60, 80, 90):
        assert equal_loudness.contour(phon)[at_1k] == pytest.approx(phon, abs=0.05)


def test_contours_are_held_where_they_are_not_valid() -> None:
    treble = equal_loudness.THIRDS >= 5000
    assert equal_loudness.contour(95)[treble] == pytest.approx(equal_loudness.contour(80)[treble] + 15)
    assert equal_loudness.contour(95)[~treble] == pytest.approx(equal_loudness.contour(90)[~treble] + 5)
    assert equal_loudness.thin(95, 60).held
    assert not equal_loudness.thin(75, 60).held


def test_what_is_quiet_lacks_its_bass() -> None:
    found = equal_loudness.thin(85, 60)
    lost = dict(zip(equal_loudness.THIRDS.tolist(), found.lost, strict=True))
    assert lost[50] > lost[100] > lost[200] > lost[500] > -0.5
    assert lost[1000] == pytest.approx(0, abs=0.05)
    band = [f for f in lost if 63 <= f <= 1000]
    shelf = equal_loudness.shelf_gain(found.shelf, np.array(band))
    assert np.abs(shelf - [lost[f] for f in band]).max() < 1.0
    assert max(abs(x) for x in equal_loudness.thin(70, 70).lost) == 0
    with pytest.raises(ValueError, match="must not be over"):
        equal_loudness.thin(60, 61)


def test_a_shelf_is_its_gain_below_and_nothing_above() -> None:
    shelf = equal_loudness.Shelf(9.0, 100.0)
    low, high = equal_loudness.shelf_gain(shelf, np.array([0.1, 1e6]))
    assert (low, high) == (pytest.approx(9.0, abs=0.01), pytest.approx(0.0, abs=0.01))


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (0, "about as loud"),
        (-1, "about nine tenths as loud"),
        (-3.01, "about four fifths as loud"),
        (-10, "about half as loud"),
        (-20, "about a quarter as loud"),
        (-40, "about 1/16 as loud"),
        (3.01, "about 1.2 times as loud"),
        (10, "about 2 times as loud"),
    ],
)
def test_loudness_in_words(change: float, words: str) -> None:
    assert equal_loudness.loudness_words(change) == words
    assert equal_loudness.loudness_ratio(change) == pytest.approx(2 ** (change / 10))


def test_rated_power_gives_the_typical_rise() -> None:
    box = warming(Thermal(), 100, 100, 1.0, 20)
    assert box
    assert box.settled == pytest.approx(80)
    assert box.at(20) == pytest.approx(20 + 60 * (1 - math.exp(-1)))
    assert box.at(0) == 20
    # 50 K of 60 K: −20·ln(1 − 50/60).
    assert box.reaches_limit == pytest.approx(20 * math.log(6))
    assert len(box.estimate) == 3
    assert box.rest == pytest.approx(20 * math.log(2))


def test_a_box_that_stays_cool_never_reaches_its_limit() -> None:
    box = warming(Thermal(0.5, 10, 60), None, 50, 0.5, 22)
    assert box
    assert math.isinf(box.reaches_limit)
    assert not box.estimate
    assert warming(Thermal(), None, 50, 0.5, 22) is None
    hot = warming(Thermal(0.5, 10, 60), None, 50, 0.5, 61)
    assert hot is not None
    assert hot.reaches_limit == 0


@given(st.floats(0.1, 3), st.floats(2, 60), st.floats(5, 80), st.floats(1, 40), st.floats(1.2, 4))
def test_two_readings_give_back_what_made_them(
    resistance: float, tau: float, watts: float, first: float, ratio: float
) -> None:
    times = (first, first * ratio)
    rise = [resistance * watts * (1 - math.exp(-t / tau)) for t in times]
    if rise[0] < 1.5 or rise[1] - rise[0] < 0.05:
        return
    found = heat.fit(20, watts, (times[0], 20 + rise[0]), (times[1], 20 + rise[1]))
    assert found.resistance == pytest.approx(resistance, rel=0.02)
    assert found.minutes == pytest.approx(tau, rel=0.02)
    assert found.resistance_low <= found.resistance * 1.001
    assert found.resistance_high is None or found.resistance_high >= found.resistance * 0.999
    assert found.minutes_low <= found.minutes * 1.001
    assert found.minutes_high is None or found.minutes_high >= found.minutes * 0.999


def test_two_readings_far_apart_bound_what_they_say_and_two_close_ones_do_not() -> None:
    def rise(minutes: float) -> float:
        return 20 + 40 * (1 - math.exp(-minutes / 20))

    far = heat.fit(20, 40, (20, rise(20)), (120, rise(120)))
    # A kelvin of the forty it settles at.
    assert (far.resistance_low, far.resistance_high) == (pytest.approx(0.975, abs=5e-3), pytest.approx(1.025, abs=5e-3))
    # Settled: a kelvin off each way makes the two the same, and then it may have been quick without bound.
    settled = heat.fit(20, 40, (10, 60.0), (100, 62.0))
    assert settled.minutes_low == 0.0
    close = heat.fit(20, 40, (5, rise(5)), (6, rise(6)))
    assert close.minutes_high is None
    assert close.resistance_high is None


@pytest.mark.parametrize(
    ("watts", "first", "second", "said"),
    [
        (0, (10, 30), (20, 40), "power in it"),
        (10, (10, 30), (10, 40), "two different times"),
        (10, (10, 30), (20, 29), "warmer than the one before"),
        (10, (10, 20.5), (20, 40), "by 1 K"),
        (10, (10, 25), (20, 31), "warmed faster"),
    ],
)
def test_readings_that_no_box_gives(watts: float, first: tuple, second: tuple, said: str) -> None:
    with pytest.raises(ValueError, match=said):
        heat.fit(20, watts, first, second)
