"""Dates as they are read in a sentence."""

from __future__ import annotations

WEEKDAYS = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")
MONTHS = ("Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec")
BEFORE_MONTH = (0, 3, 2, 5, 0, 3, 5, 1, 4, 6, 2, 4)


def in_words(date: str) -> str:
    """“2026-11-30” as “Mon 30 Nov”; what is no date as it stands.

    The weekday by Sakamoto's rule for the Gregorian calendar.
    """
    parts = date.split("-")
    if len(parts) != 3 or not all(part.isdecimal() for part in parts) or not 1 <= int(parts[1]) <= 12:
        return date
    year, month, day = (int(part) for part in parts)
    counted = year - (month < 3)
    weekday = (counted + counted // 4 - counted // 100 + counted // 400 + BEFORE_MONTH[month - 1] + day - 1) % 7
    return f"{WEEKDAYS[weekday]} {day} {MONTHS[month - 1]}"
