"""What neighbours said becomes a limit that would have kept every complaint away."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.venue.neighbours import LEAST_DBA, Said, proposed
from low_tide.core.venue.place import Limit, Place
from low_tide.core.venue.time_of_day import minute_of

NIGHT = Limit("21:00", "07:00", 40.0, "the crew")
PLACE = Place("boat", "Next boat", limits=(NIGHT,))
NONE = Place("boat", "Next boat")


def at(hour: str, level: float, complained: bool = True) -> Said:
    return Said(minute_of(hour), level, complained)


def test_a_limit_that_held_is_lowered_to_what_was_let_pass() -> None:
    found = proposed(PLACE, [at("22:40", 38), at("23:10", 34.6, False), at("23:20", 30, False)])
    assert found is not None
    assert found.limits == (Limit("21:00", "07:00", 34.0, "the crew"),)
    assert found.why == ("A complaint at 22:40 at 38 dBA, none at 35 dBA: at most 34 dBA from 21:00 to 07:00.",)


def test_where_no_quieter_level_is_known_it_is_a_step_lower() -> None:
    found = proposed(PLACE, [at("22:40", 38)])
    assert found is not None
    assert found.limits[0].level == 33
    assert "no quieter one is known" in found.why[0]


def test_what_the_limit_forbids_already_asks_for_nothing_more() -> None:
    assert proposed(PLACE, [at("22:40", 50)]) is None
    assert proposed(PLACE, [at("22:40", 60, False)]) is None
    assert proposed(PLACE, []) is None


def test_where_none_held_one_is_made_from_that_hour_through_the_night() -> None:
    found = proposed(NONE, [at("20:40", 58), at("22:10", 61), at("19:00", 52, False)])
    assert found is not None
    assert [(x.start, x.end, x.level, x.whose) for x in found.limits] == [("20:00", "07:00", 52.0, "the neighbours")]
    found = proposed(PLACE, [at("20:40", 58)])
    assert found is not None
    assert [(x.start, x.end, x.level) for x in found.limits] == [("21:00", "07:00", 40.0), ("20:00", "21:00", 53.0)]


def test_what_disturbs_in_the_evening_disturbs_at_night() -> None:
    found = proposed(PLACE, [at("20:40", 38)])
    assert found is not None
    assert [(x.start, x.end, x.level) for x in found.limits] == [("21:00", "07:00", 33.0), ("20:00", "21:00", 33.0)]


SAID = st.lists(
    st.builds(Said, st.integers(0, 1439), st.floats(LEAST_DBA + 1, 110).map(lambda x: round(x, 1)), st.booleans()),
    max_size=6,
)
LIMITS = st.sampled_from([(), (NIGHT,), (NIGHT, Limit("12:00", "14:30", 55.0)), (Limit("08:00", "08:00", 60.0),)])


@given(limits=LIMITS, said=SAID)
def test_it_keeps_every_complaint_away_and_raises_nothing(limits: tuple[Limit, ...], said: list[Said]) -> None:
    place = Place("boat", "Next boat", limits=limits)
    found = proposed(place, said)
    after = Place("boat", "Next boat", limits=found.limits) if found else place  # which refuses two for one hour
    for minute in range(0, 1440, 7):
        before = [x.level for x in limits if minute in x.minutes()]
        now = [x.level for x in after.limits if minute in x.minutes()]
        assert not before or now[0] <= before[0]
    for each in said:
        if each.complained:
            held = [x.level for x in after.limits if each.minute in x.minutes()]
            assert held
            assert held[0] < each.level or held[0] == LEAST_DBA
    if found:
        assert len(found.limits) >= len(limits)
        assert found.limits != limits
