"""What was found out by measuring, and for which cabinet and room it holds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from math import sqrt
from statistics import variance


@dataclass(frozen=True)
class Correction:
    """What readings at a place add to its prediction: dB, ± dB, and how many readings it rests on.

    They hold for the `cabinet` that sounded and the `room` it stood in. `turned_down`: something was turned down
    before the power stage, by an amount nobody knows.
    """

    offset: float
    spread: float
    readings: int
    cabinet: str = ""
    room: str = ""
    turned_down: bool = False


LEAST_SPREAD_DB = 1.5


def learned_spread(offsets: list[float]) -> float:
    """± dB (90 %) of what n readings teach about the next: 1.64·√(s_p²·(1 + 1/n) + 1), never under 1.5 dB.

    s_p² = (3·2² + (n−1)·s²)/(n + 2) is their variance s² drawn towards that of three readings that scatter by 2 dB,
    since a few say little of their own scatter; the 1 is what a reading itself is off by.
    """
    n = len(offsets)
    pooled = (3 * 2**2 + (n - 1) * (variance(offsets) if n > 1 else 0.0)) / (n + 2)
    return max(LEAST_SPREAD_DB, 1.64 * sqrt(pooled * (1 + 1 / n) + 1))


@dataclass(frozen=True)
class Played:
    """How hard an amp is played in a power mode, by its takes: measured less predicted peaks (dB, the median), ± dB,
    how many takes, and the range (dB) from what is played softly to its loudest. `simulated`: none of them is real."""

    offset: float
    spread: float
    takes: int
    playing_range: float | None = None
    simulated: bool = False


OTHER_CABINET_DB = 3.0
"""The least ± of what readings of one cabinet say of another in the same room."""


@dataclass(frozen=True)
class Known:
    """What was found out by measuring: corrections by place, the part of the listening allowance already used, how hard
    each amp is played, by its id and power mode, and why a unit is suspect, by its id."""

    corrections: Mapping[str, tuple[Correction, ...]] = field(default_factory=dict)
    dose: float = 0.0
    played: Mapping[tuple[str, str], Played] = field(default_factory=dict)
    suspects: Mapping[str, str] = field(default_factory=dict)

    def of_real_takes(self) -> Known:
        """The same without what simulated takes taught: what they are made from must not follow from them."""
        return replace(self, played={key: each for key, each in self.played.items() if not each.simulated})

    def correction(self, place: str, cabinet: str, room: str, turned_down: bool) -> Correction | None:
        """What was learned at a place that holds for a cabinet in a room; None where nothing does.

        What was read turned down says nothing of a hook-up that is not. The same cabinet comes before another, and
        of one that is turned down what was read so before what was not.
        """
        fit = [c for c in self.corrections.get(place, ()) if c.room == room and (turned_down or not c.turned_down)]
        best = max(fit, key=lambda c: (c.cabinet == cabinet, c.turned_down == turned_down, c.readings), default=None)
        if best is None or best.cabinet == cabinet:
            return best
        return replace(best, spread=max(best.spread, OTHER_CABINET_DB))
