"""A date in a sentence, held against the standard library's."""

from __future__ import annotations

from datetime import date, timedelta

import pytest

from low_tide.core.planning.dates import in_words


def test_every_day_of_forty_years_is_what_the_calendar_says() -> None:
    day = date(1990, 1, 1)
    while day.year < 2031:
        assert in_words(day.isoformat()) == f"{day:%a} {day.day} {day:%b}"
        day += timedelta(days=1)
    assert in_words("2000-02-29") == "Tue 29 Feb"
    assert in_words("2100-03-01") == "Mon 1 Mar"


@pytest.mark.parametrize("said", ["", "tomorrow", "2026-13-01", "2026-00-01", "2026-11", "-1-1-1", "²026-11-30"])
def test_what_is_no_date_stays_as_it_is(said: str) -> None:
    assert in_words(said) == said
