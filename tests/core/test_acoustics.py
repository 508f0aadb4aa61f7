"""Sound in rooms and behind walls: published tables, closed forms, and what must always hold."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.acoustics import rooms as ac
from low_tide.core.inventory import Mount, Partition, Place, Room
from low_tide.core.venue.partition import Surface
from low_tide.core.venue.place import Limit
from low_tide.core.venue.time_of_day import minute_of

# IEC 61672-1, table 3, at the exact octave centres.
A_WEIGHTING = (-26.2, -16.1, -8.6, -3.2, 0.0, 1.2, 1.0, -1.1)
C_WEIGHTING = (-0.8, -0.2, 0.0, 0.0, 0.0, -0.2, -0.8, -3.0)

levels = st.lists(st.floats(0, 120), min_size=8, max_size=8).map(np.array)
reductions = st.tuples(*[st.floats(0, 80)] * 8)
areas = st.floats(0.1, 200)


def test_weightings_are_those_of_the_standard() -> None:
    assert ac.octave_weighting("A") == pytest.approx(A_WEIGHTING, abs=0.06)
    assert ac.octave_weighting("C") == pytest.approx(C_WEIGHTING, abs=0.06)
    assert not ac.octave_weighting("Z").any()


def test_one_band_alone_weighs_as_its_weighting() -> None:
    bands = np.full(8, -200.0)
    bands[1] = 80.0
    assert ac.weighted_level(bands, "A") == pytest.approx(63.9, abs=0.06)
    assert ac.weighted_level(bands, "Z") == pytest.approx(80.0)


def test_the_programme_adds_up() -> None:
    whole = 10 * math.log10(np.sum(10 ** (ac.programme_octaves() / 10)))
    assert whole == pytest.approx(0.0, abs=0.2)
    assert ac.programme_octaves().argmin() == 7


@pytest.mark.parametrize(
    ("volume", "damping", "low", "high"), [(20, "furnished", 10, 15), (30, "treated", 36, 42), (1000, "hall", 190, 210)]
)
def test_room_constants_are_the_usual_ones(volume: float, damping: str, low: float, high: float) -> None:
    assert low <= Room("r", "R", volume=volume, damping=damping).room_constant() <= high  # type: ignore[arg-type]


def test_a_measured_room_constant_stands_above_the_estimate() -> None:
    room = Room("r", "R", volume=50, constant=25)
    assert room.room_constant() == 25
    assert not room.assumptions()
    surface = 6 * 50 ** (2 / 3)
    assert room.absorption()[4] == pytest.approx(surface * 25 / (surface + 25))
    assert room.room_constants() == pytest.approx([12.5, 15, 20, 22.5, 25, 27.5, 27.5, 30])


Q = np.array([4.0])


def test_level_in_a_room_far_and_near() -> None:
    power = np.array([100.0])
    far = ac.room_level(power, math.inf, np.array([40.0]), Q)[0]
    assert far == pytest.approx(100 + 10 * math.log10(4 / 40))
    direct = ac.room_level(power, 1.0, np.array([1e9]), Q)[0]
    assert direct == pytest.approx(100 + 10 * math.log10(4 / (4 * math.pi)))
    on_axis = ac.room_level(ac.power_level(np.array([90.0]), Q), 1.0, np.array([1e9]), Q)[0]
    assert on_axis == pytest.approx(90.0, abs=0.02)
    for distance, constant in ((0.0, 40.0), (-1.0, 40.0), (1.0, 0.0)):
        with pytest.raises(ValueError, match="over 0"):
            ac.room_level(power, distance, np.array([constant]), Q)


@given(st.floats(0.1, 50), st.floats(0.1, 50), st.floats(1, 500))
def test_further_is_never_louder(one: float, other: float, constant: float) -> None:
    near, far = sorted((one, other))
    power, room = np.full(8, 100.0), ac.room_constants(constant)
    beaming = np.array(ac.DIRECTIVITY)
    assert (ac.room_level(power, near, room, beaming) >= ac.room_level(power, far, room, beaming)).all()


@given(st.floats(0.5, 500))
def test_into_the_open_is_never_louder_than_at_the_wall(distance: float) -> None:
    inside, wall = np.full(8, 100.0), np.full(8, 30.0)
    outside = ac.to_the_open(inside, wall, 400.0, distance)
    assert (outside <= 100 - 30 - 6 + 1e-9).all()
    assert ac.to_the_open(inside, wall, 20.0, 10.0) == pytest.approx(100 - 30 - 6 + 10 * math.log10(20) - 8 - 20)


def test_what_is_turned_away_sends_less_the_higher_the_more() -> None:
    at_one = np.full(8, 90.0)
    on_axis, beside, away = (ac.in_the_open(at_one, 10, facing) for facing in ac.FACING)
    assert on_axis == pytest.approx(np.full(8, 70.0))
    assert (np.diff(beside) <= 0).all()
    assert (away <= beside).all()
    assert ac.towards(np.array(ac.DIRECTIVITY), "at") == pytest.approx(ac.DIRECTIVITY)


def test_cabinets_on_one_signal_add_by_pressure_low_down() -> None:
    both = ac.signal_sum([np.full(8, 80.0)] * 2)
    # Half a wave fits between 0.6 m at 286 Hz.
    assert both[:3] == pytest.approx(np.full(3, 86.02), abs=0.01)
    assert both[3:] == pytest.approx(np.full(5, 83.01), abs=0.01)
    assert ac.signal_sum([np.full(8, 80.0)]) == pytest.approx(np.full(8, 80.0))


@pytest.mark.parametrize(("distance", "more"), [(0.05, 20.56), (0.02, 22.52), (1.0, -0.04), (3.0, -9.55)])
def test_on_the_axis_of_a_cone(distance: float, more: float) -> None:
    assert 20 * math.log10(ac.near_factor(distance, 0.128)) == pytest.approx(more, abs=0.02)
    with pytest.raises(ValueError, match="over 0"):
        ac.near_factor(0, 0.128)


def test_a_door_decides() -> None:
    wall, door = (40.0,) * 8, (20.0,) * 8
    alone = ac.composite_reduction(((10.0, wall),))[0]
    # 8 m² of 40 dB and 2 m² of 20 dB: (8·1e-4 + 2·1e-2)/10 = 2.08e-3.
    together = ac.composite_reduction(((8.0, wall), (2.0, door)))[0]
    assert alone == pytest.approx(40.0)
    assert together == pytest.approx(-10 * math.log10(2.08e-3))
    partition = Partition("p", "P", surfaces=(Surface("bulkhead", 12.0), Surface("solid_door", 1.6)))
    assert partition.weakest().made_of == "solid_door"
    assert "solid door decides" in partition.summary()


@given(st.lists(st.tuples(areas, reductions), min_size=1, max_size=5).map(tuple))
def test_a_partition_is_between_its_best_and_worst_part(parts: tuple) -> None:
    found = ac.composite_reduction(parts)
    each = np.array([r for _, r in parts])
    assert (found >= each.min(axis=0) - 1e-9).all()
    assert (found <= each.max(axis=0) + 1e-9).all()


def test_a_stud_wall_is_far_worse_in_the_bass_than_its_single_number() -> None:
    bands = np.array(ac.REDUCTION["stud_wall"][1], float)
    assert ac.single_number(bands) - bands[1] == pytest.approx(14, abs=1)


def test_single_number_of_the_reference_itself() -> None:
    # The reference curve, moved down by 12 dB, has R_w 52 − 12 by definition; 10 dB of shortfall are allowed on top.
    exact = np.array([0, 24, 33, 40, 43, 44, 0, 0], float)
    assert ac.single_number(exact) == 42
    assert ac.single_number(exact + 5) == 47


def test_through_a_wall_and_into_the_open() -> None:
    inside = np.array([100.0])
    assert ac.through_partition(inside, np.array([30.0]), 10.0, 10.0)[0] == pytest.approx(70.0)
    assert ac.through_partition(inside, np.array([30.0]), 10.0, 20.0)[0] == pytest.approx(70 - 3.01, abs=0.01)
    at_10 = ac.to_the_open(inside, np.array([30.0]), 10.0, 10.0)[0]
    assert at_10 == pytest.approx(100 - 30 - 6 + 10 - 8 - 20)
    assert ac.to_the_open(inside, np.array([30.0]), 10.0, 20.0)[0] == pytest.approx(at_10 - 6.02, abs=0.01)
    with pytest.raises(ValueError, match="over 0"):
        ac.to_the_open(inside, np.array([30.0]), 10.0, 0.0)


@given(levels, levels)
def test_two_sounds_are_louder_than_either(one: np.ndarray, other: np.ndarray) -> None:
    both = ac.energy_sum([one, other])
    assert (both >= np.maximum(one, other)).all()
    assert (both <= np.maximum(one, other) + 3.011).all()


def test_a_mount_isolates_above_its_resonance() -> None:
    # 10 mm: √(9.81/0.01)/2π = 4.98 Hz.
    assert ac.mount_resonance(0.010) == pytest.approx(4.985, abs=0.01)
    mount = Mount("m", "M", deflection=10, least_weight=10, most_weight=30)
    assert mount.isolates_from() == pytest.approx(7.05, abs=0.02)
    assert [mount.carries(w) for w in (9.9, 10, 30, 30.1)] == [False, True, True, False]
    with pytest.raises(ValueError, match="must not be over"):
        Mount("m", "M", least_weight=40, most_weight=30)


NIGHT = Limit("21:00", "07:00", 35, "crew")


@pytest.mark.parametrize(
    ("hour", "level"), [("20:59", None), ("21:00", 35), ("00:00", 35), ("6:59", 35), ("07:00", None), ("12:30", None)]
)
def test_a_limit_holds_over_midnight(hour: str, level: float | None) -> None:
    found = Place("p", "P", limits=(NIGHT,)).limit_within(hour, 1 / 60)
    assert (found.level if found else None) == level


@pytest.mark.parametrize(
    ("hour", "hours", "level"),
    [
        ("19:00", 2, 60),
        ("19:00", 2.02, 40),
        ("20:59", 0.1, 40),
        ("06:30", 0.5, 40),
        ("07:00", 14, 60),
        ("12:00", 16, 40),
    ],
)
def test_a_session_has_the_strictest_limit_it_runs_into(hour: str, hours: float, level: float) -> None:
    place = Place("p", "P", limits=(Limit("21:00", "07:00", 40), Limit("07:00", "21:00", 60)))
    found = place.limit_within(hour, hours)
    assert found is not None
    assert found.level == level
    assert place.limits[0].begins_after("19:30") == 1.5
    assert place.limits[0].begins_after("23:00") == place.limits[0].begins_after("06:59") == 0


def test_the_same_hour_twice_is_the_whole_day() -> None:
    assert len(Limit("08:00", "08:00", 50).minutes()) == 24 * 60


def test_no_hour_has_two_limits() -> None:
    with pytest.raises(ValueError, match=r"06:00 is in two of them, 21:00 to 07:00 and 06:00 to 09:00"):
        Place("p", "P", limits=(NIGHT, Limit("06:00", "09:00", 50)))
    Place("p", "P", limits=(NIGHT, Limit("07:00", "21:00", 60)))


@pytest.mark.parametrize("hour", ["", "24:00", "12:60", "noon", "12", "-1:00"])
def test_what_is_no_hour_is_refused(hour: str) -> None:
    with pytest.raises(ValueError, match="no time of day"):
        minute_of(hour, "From")
    with pytest.raises(ValueError, match="no time of day"):
        Place("p", "P", limits=(Limit(hour, "07:00", 35),))


def test_a_surface_has_all_octaves_or_none() -> None:
    with pytest.raises(ValueError, match="eight values"):
        Surface(reduction=(10.0, 20.0))
    assert Surface(reduction=(10.0,) * 8).bands() == (10.0,) * 8


def test_a_partition_has_two_sides() -> None:
    with pytest.raises(ValueError, match="same room on both sides"):
        Partition("p", "P", between="hold", other="hold")
