"""How long one may listen: allowances and dose by school."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import inf, log2

from low_tide.core.units import figure

NO_ALLOWANCE_DBA = 115.0
"""Above it there is no allowance at all, in any school. Nor is there over 140 dB peak: an amp played comes to 115 dBA
long before, since its peaks lie less than 25 dB over its level."""


@dataclass(frozen=True)
class Listening:
    """A school: `hours` at `level` (dBA), halved every `exchange` dB, over `days`."""

    level: float
    hours: float
    exchange: float
    days: int
    source: str


LISTENING: dict[str, Listening] = {
    "85_3": Listening(85, 8, 3, 1, "NIOSH 98-126"),
    "90_5": Listening(90, 8, 5, 1, "OSHA 29 CFR 1910.95"),
    "80_week": Listening(80, 40, 3, 7, "WHO/ITU H.870"),
}


def duration(hours: float) -> str:
    """'2 h', '15 min', '89 s': a time as it is said; 'no time at all' for none."""
    if hours >= 24 * 7:
        return "all of the time"
    if hours >= 1:
        return f"{figure(hours, 2)} h"
    if hours >= 1 / 30:
        return f"{figure(hours * 60, 2)} min"
    return f"{figure(hours * 3600, 2)} s" if hours > 0 else "no time at all"


def day_words(hours: float) -> str:
    """The same of a time within one day, all of which may be meant."""
    return "all day" if hours >= 24 else duration(hours)


def allowed_hours(level: float, school: str) -> float:
    """Hours one may listen at `level` (dBA) within the school's day or week: T = hours/2^((L−L0)/q).

    0 above 115 dBA. At low levels it is more than the day or week has.
    """
    if level > NO_ALLOWANCE_DBA:
        return 0.0
    rule = LISTENING[school]
    return float(rule.hours / 2 ** ((level - rule.level) / rule.exchange))


def dose(exposures: Iterable[tuple[float, float]], school: str) -> float:
    """Part of the school's allowance used by exposures (dBA, hours): Σ C_i/T_i, 1 being all of it.

    inf where one of them was over what has any allowance.
    """
    total = 0.0
    for level, hours in exposures:
        if hours <= 0:
            continue
        allowed = allowed_hours(level, school)
        if allowed == 0:
            return inf
        total += hours / allowed
    return total


def level_left(hours: float, school: str, used: float) -> float:
    """Highest level (dBA) for `hours` once a part `used` of the allowance is gone; −inf where none is left."""
    return level_for(hours / (1 - used), school) if used < 1 else -inf


def level_for(hours: float, school: str) -> float:
    """Highest level (dBA) at which `hours` a day, or a week, are within the school's allowance."""
    rule = LISTENING[school]
    return min(NO_ALLOWANCE_DBA, rule.level + rule.exchange * log2(rule.hours / hours))
