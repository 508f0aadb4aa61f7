"""Times of day."""

from __future__ import annotations

import re

CLOCK = re.compile(r"([01]?\d|2[0-3]):([0-5]\d)")


DAY_MINUTES = 24 * 60


def minute_of(hour: str, field: str = "Hour") -> int:
    """Minutes after midnight of a time of day as '21:00'. ValueError names the field."""
    found = CLOCK.fullmatch(hour.strip())
    if not found:
        raise ValueError(f"{field}: “{hour}” is no time of day; 00:00 to 23:59 is wanted.")
    return int(found[1]) * 60 + int(found[2])
