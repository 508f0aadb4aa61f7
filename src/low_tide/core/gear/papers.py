"""What an insurer, a shop or a technician asks of a unit. Nothing is judged by it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from low_tide.core.spec import Spec


@dataclass(frozen=True)
class Papers:
    """A unit's papers, as far as they are known. The price is in the currency of the preferences."""

    price: Annotated[float | None, Spec("Price of a new one", "", 0, 10_000_000, help="In your own currency.")] = None
    weight: Annotated[float | None, Spec("Weight as carried", "kg", 0.01, 1000)] = None
    serial: Annotated[str, Spec("Serial number", le=80)] = ""
    serviced: Annotated[str, Spec("Last service, by whom", le=200)] = ""
    flat_out_hours: Annotated[float | None, Spec("Flat out since that service", "h", 0, 100_000)] = None


NO_PAPERS = Papers()
