"""The day as a watch: hours, quiet spans and how the allowance fills, on days of 23, 24 and 25 hours."""

from __future__ import annotations

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.acoustics.exposure import dose
from low_tide.core.session.watch import Heard, filling, hours, quiet_spans
from low_tide.core.venue.place import Limit, Place

PLAIN = tuple(range(1440))
LONG = (*range(180), *range(120, 1440))
"""The clock goes back at three: the hour from two comes twice."""
SHORT = (*range(120), *range(180, 1440))
"""It goes forward at two."""


def test_hours_are_told_as_the_clock_showed_them() -> None:
    assert [h.label for h in hours(PLAIN)] == [f"{n:02d}" for n in range(25)]
    assert [(h.minute, h.label, h.again) for h in hours(LONG)][2:5] == [
        (120, "02", False),
        (180, "02", True),
        (240, "03", False),
    ]
    assert [(h.minute, h.label) for h in hours(SHORT)][1:4] == [(60, "01"), (120, "03"), (180, "04")]
    assert hours(LONG)[-1].minute == 1500
    assert hours(SHORT)[-1].minute == 1380


@given(
    start=st.integers(0, 1439),
    end=st.integers(0, 1439),
    clock=st.sampled_from([PLAIN, LONG, SHORT]),
)
def test_a_limit_holds_whenever_the_clock_says_so(start: int, end: int, clock: tuple[int, ...]) -> None:
    limit = Limit(f"{start // 60:02d}:{start % 60:02d}", f"{end // 60:02d}:{end % 60:02d}", 40.0, "the crew")
    spans = quiet_spans([Place("bunks", "Bunks", limits=(limit,))], clock)
    held = {minute for span in spans for minute in range(int(span.start), int(span.stop))}
    for minute, shown in enumerate(clock):
        within = start <= shown < end if start < end else not end <= shown < start
        assert (minute in held) == within
    assert all((s.place, s.name, s.level, s.whose) == ("bunks", "Bunks", 40.0, "the crew") for s in spans)
    assert sorted(spans, key=lambda s: s.start) == list(spans)


LISTENED = st.builds(Heard, st.floats(0, 1440), st.floats(0, 300), st.floats(60, 114))


@given(heard=st.lists(LISTENED, max_size=6), school=st.sampled_from(["85_3", "90_5", "80_week"]))
def test_it_never_falls_and_ends_at_the_dose_of_the_day(heard: list[Heard], school: str) -> None:
    line = filling(heard, school, 0.1)
    parts = [corner.part for corner in line]
    assert line[0].minute == 0
    assert all(a is not None and b is not None and a <= b + 1e-12 for a, b in pairwise(parts))
    assert [c.minute for c in line] == sorted({c.minute for c in line})
    whole = dose([(h.level, h.minutes / 60) for h in heard], school)
    assert parts[-1] == pytest.approx(0.1 + whole)


def test_two_hours_at_91_dba_are_half_of_the_strict_day() -> None:
    assert [(c.minute, c.part) for c in filling([Heard(600, 60, 91.0)], "85_3")] == [
        (0.0, 0.0),
        (540.0, 0.0),
        (600.0, pytest.approx(0.5)),
    ]


def test_over_115_dba_there_is_no_allowance_and_the_line_ends() -> None:
    line = filling([Heard(600, 10, 116.0), Heard(700, 10, 80.0)], "85_3")
    assert line[-1].part is None
    assert line[-1].minute == 600
