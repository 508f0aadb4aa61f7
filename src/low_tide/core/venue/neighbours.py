"""What neighbours said, and the limit it speaks for at their place."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from math import floor

from low_tide.core.units import figure
from low_tide.core.venue.place import Limit, Place
from low_tide.core.venue.time_of_day import DAY_MINUTES, minute_of

BELOW_A_COMPLAINT_DB = 5.0
"""Where nobody knows of a quieter level that was let pass: a step clearly heard, half of one to half as loud."""
NIGHT_ENDS = "07:00"
LEAST_DBA = 15.0
NEIGHBOURS = "the neighbours"


@dataclass(frozen=True)
class Said:
    """Somebody complained, or was asked and had heard nothing to complain of: at a minute of the day, at a level (dBA)
    at their place."""

    minute: int
    level: float
    complained: bool


@dataclass(frozen=True)
class Proposal:
    """Limits that a place should have by what was said there, and why, in a sentence for each that is new or lower."""

    limits: tuple[Limit, ...]
    why: tuple[str, ...]


def _evening(minute: int) -> int:
    """Minutes after noon: what belongs to one night lies together."""
    return (minute - DAY_MINUTES // 2) % DAY_MINUTES


def _clock(minute: int) -> str:
    return f"{minute // 60:02d}:{minute % 60:02d}"


def _wanted(complaints: Sequence[Said], passed: Sequence[Said]) -> tuple[float, str]:
    """The level (dBA) that complaints speak for, and why: the loudest that was let pass below all of them."""
    lowest = min(complaints, key=lambda said: said.level)
    said = f"A complaint at {_clock(lowest.minute)} at {figure(lowest.level, 2)} dBA"
    quieter = [each.level for each in passed if each.level < lowest.level]
    if quieter:
        return max(LEAST_DBA, floor(max(quieter))), f"{said}, none at {figure(max(quieter), 2)} dBA"
    return max(LEAST_DBA, floor(lowest.level - BELOW_A_COMPLAINT_DB)), f"{said}, and no quieter one is known to pass"


def _night(place: Place, complaints: Sequence[Said]) -> Iterator[tuple[str, str]]:
    """From the full hour of the earliest complaint of a night until its end, or until a limit that there is begins."""
    taken = frozenset[int]().union(*(limit.minutes() for limit in place.limits))
    earliest = min(complaints, key=lambda said: _evening(said.minute)).minute
    start = earliest - earliest % 60
    while start in taken:
        start += 1
    end, whole = minute_of(NIGHT_ENDS), DAY_MINUTES
    span = (end - start) % whole or whole
    free = next((n for n in range(span) if (start + n) % whole in taken), span)
    if all((each.minute - start) % whole < free for each in complaints):
        yield _clock(start), _clock((start + free) % whole)
        return
    for hour in sorted({each.minute - each.minute % 60 for each in complaints}):
        first = next((m for m in range(hour, hour + 60) if m not in taken), None)
        if first is not None:
            last = next((m for m in range(first, hour + 60) if m in taken), hour + 60)
            yield _clock(first), _clock(last % whole)


def proposed(place: Place, said: Sequence[Said]) -> Proposal | None:
    """The limits a place should have by what was said there; None where those it has are enough.

    A limit that held at a complaint is lowered; where none held, one is made. None is ever raised, whatever was let
    pass.
    """
    limits, why = list(place.limits), list[str]()
    for at, limit in enumerate(place.limits):
        within = [each for each in said if each.minute in limit.minutes()]
        complaints = [each for each in within if each.complained]
        if not complaints:
            continue
        level, because = _wanted(complaints, [each for each in within if not each.complained])
        if level < limit.level:
            limits[at] = replace(limit, level=level)
            why.append(f"{because}: at most {figure(level)} dBA from {limit.start} to {limit.end}.")
    held = frozenset[int]().union(*(limit.minutes() for limit in place.limits))
    outside = [each for each in said if each.minute not in held]
    complaints = [each for each in outside if each.complained]
    if complaints:
        level, because = _wanted(complaints, [each for each in outside if not each.complained])
        for start, end in _night(place, complaints):
            limits.append(Limit(start, end, level, NEIGHBOURS))
            why.append(f"{because}: at most {figure(level)} dBA from {start} to {end}.")
            after = next((n for n, limit in enumerate(limits) if limit.start == end and limit.level > level), None)
            if after is not None:
                limits[after] = replace(limits[after], level=level)
                why.append(f"What disturbs before {end} disturbs after it: at most {figure(level)} dBA there too.")
    return Proposal(tuple(limits), tuple(why)) if why else None
