"""What keeps a unit off the floor."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.acoustics.rooms import (
    isolates_from,
    mount_resonance,
)
from low_tide.core.gear.base import Identity, Name, Notes, OwnPapers, TypicalNames
from low_tide.core.spec import Spec
from low_tide.core.units import figure
from low_tide.core.venue.surrounding import Surrounding


@dataclass(frozen=True)
class Mount(Surrounding):
    """Something soft under a cabinet that keeps it off the floor."""

    id: Identity
    name: Name
    kind: Literal["mount"] = "mount"
    notes: Notes = ""
    typical: TypicalNames = ()
    deflection: Annotated[float, Spec("Gives way under its load by", "mm", 0.05, 100)] = 4.0
    least_weight: Annotated[float, Spec("For at least", "kg", 0, 500)] = 5.0
    most_weight: Annotated[float, Spec("For at most", "kg", 1, 1000)] = 60.0
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    def __post_init__(self) -> None:
        if self.least_weight > self.most_weight:
            raise ValueError("For at least: it must not be over “for at most”.")

    def resonance(self) -> float:
        """Resonance with its cabinet on it, Hz."""
        return mount_resonance(self.deflection / 1000)

    def isolates_from(self) -> float:
        """It isolates above this frequency, Hz."""
        return isolates_from(self.deflection / 1000)

    def carries(self, weight: float) -> bool:
        """Whether a cabinet of this weight (kg) is within its bounds."""
        return self.least_weight <= weight <= self.most_weight

    def summary(self) -> str:
        return f"mount, isolates above {figure(self.isolates_from(), 2)} Hz"
