"""What was found out by measuring, and for which cabinet and room it holds."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace


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


OTHER_CABINET_DB = 3.0
"""The least ± of what readings of one cabinet say of another in the same room."""


@dataclass(frozen=True)
class Known:
    """What was found out by measuring: corrections by place, and the part of the listening allowance already used."""

    corrections: Mapping[str, tuple[Correction, ...]] = field(default_factory=dict)
    dose: float = 0.0

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
