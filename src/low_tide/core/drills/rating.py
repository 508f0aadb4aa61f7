"""How an answer counts: for when the card comes again, and in the score."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from math import sqrt
from statistics import median
from typing import Literal, TypeAlias

Rating: TypeAlias = Literal["again", "hard", "good"]

SLOW = 2.0
"""So many times one's median time is slow."""
LEAST_TIMES = 5
"""From so many right answers of a kind on, its median says something."""
LONGEST_S = 600.0
"""Beyond this nobody thought all of the time: it says nothing of how quick one is."""
Z_95 = 1.959964


def usual_time(seconds: Iterable[float]) -> float | None:
    """The median (s) of times that count; None where there are too few of them."""
    times = [t for t in seconds if 0 < t <= LONGEST_S]
    return median(times) if len(times) >= LEAST_TIMES else None


def rating(right: bool, hint: bool, seconds: float, usual: float | None) -> Rating:
    """Wrong is *again*; right with a hint, or slow against one's own usual time (s), *hard*; right *good*."""
    if not right:
        return "again"
    slow = usual is not None and SLOW * usual < seconds <= LONGEST_S
    return "hard" if hint or slow else "good"


@dataclass(frozen=True)
class PartRight:
    """Right ones of so many, as a part, and where the true part lies by chance alone, 95 times of 100."""

    right: int
    of: int
    part: float
    low: float
    high: float


def share(right: int, of: int) -> PartRight | None:
    """A part of answers with its interval (Wilson 1927); None where there are none. 8 of 10: 0.49 to 0.94."""
    if of == 0:
        return None
    p, z2 = right / of, Z_95**2
    middle = (p + z2 / (2 * of)) / (1 + z2 / of)
    half = Z_95 / (1 + z2 / of) * sqrt(p * (1 - p) / of + z2 / (4 * of**2))
    return PartRight(right, of, p, max(0.0, middle - half), min(1.0, middle + half))


def level_of(in_a_row: int) -> int:
    """How hard the next of a card is, 1 to 3, by how many were right in a row."""
    return 1 if in_a_row < 2 else 2 if in_a_row < 4 else 3
