"""A listening place, and the limits that hold there by the hour."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from typing import Annotated, Literal

from low_tide.core.gear.base import Identity, Name, Notes, TypicalNames, identity
from low_tide.core.spec import Spec
from low_tide.core.units import figure
from low_tide.core.venue.surrounding import Surrounding
from low_tide.core.venue.time_of_day import DAY_MINUTES, minute_of


@dataclass(frozen=True)
class Limit:
    """How loud it may get at a place, from one time of day to another, and who says so."""

    start: Annotated[str, Spec("From", le=5)] = "21:00"
    end: Annotated[str, Spec("Until", le=5)] = "07:00"
    level: Annotated[float, Spec("At most", "dBA", 15, 140)] = 35.0
    whose: Annotated[str, Spec("Whose limit", le=60)] = ""

    def _span(self) -> tuple[int, int]:
        """Minute of the day it begins at, and for how many it holds; the same hour twice means the whole day."""
        start, end = minute_of(self.start, "From"), minute_of(self.end, "Until")
        return start, (end - start) % DAY_MINUTES or DAY_MINUTES

    def minutes(self) -> frozenset[int]:
        """Minutes of the day it holds in."""
        start, span = self._span()
        return frozenset((start + i) % DAY_MINUTES for i in range(span))

    def begins_after(self, hour: str) -> float:
        """Hours from a time of day until it holds; 0 where it holds then."""
        start, span = self._span()
        at = minute_of(hour)
        return 0.0 if (at - start) % DAY_MINUTES < span else (start - at) % DAY_MINUTES / 60


@dataclass(frozen=True)
class Place(Surrounding):
    """A place where somebody listens, or wants to sleep."""

    id: Identity
    name: Name
    kind: Literal["place"] = "place"
    notes: Notes = ""
    typical: TypicalNames = ()
    room: Annotated[str, identity("In", "|", refers="room", help="Left out: in the open.")] = ""
    distance: Annotated[
        float,
        Spec("Distance", "m", 0.1, 5000, help="From the cabinet in the same room; in the open, from the wall."),
    ] = 2.0
    ears: Annotated[bool, Spec("Whoever plays or records listens here")] = False
    limits: Annotated[tuple[Limit, ...], Spec("Limits", le=6)] = ()
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        for first, second in combinations(self.limits, 2):
            both = first.minutes() & second.minutes()
            if both:
                begins = minute_of(second.start)
                at = begins if begins in both else minute_of(first.start)
                raise ValueError(
                    f"Limits: {at // 60:02d}:{at % 60:02d} is in two of them, {first.start} to {first.end} and"
                    f" {second.start} to {second.end}. Give each hour one limit."
                )
        for limit in self.limits:
            limit.minutes()

    def limit_within(self, hour: str, hours: float) -> Limit | None:
        """The strictest limit that holds at any time of a session from `hour` on, `hours` long."""
        during = (limit for limit in self.limits if limit.begins_after(hour) < hours)
        return min(during, key=lambda limit: limit.level, default=None)

    def strictest(self) -> Limit | None:
        """The lowest limit of the day; None without any."""
        return min(self.limits, key=lambda limit: limit.level, default=None)

    def summary(self) -> str:
        least = self.strictest()
        what = "listening place" if self.ears else "place"
        return f"{what}, {figure(least.level)} dBA from {least.start}" if least else what
