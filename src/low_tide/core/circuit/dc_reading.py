"""What a multimeter at the plug of a cabinet tells of its drivers: likely ratings and wirings, never a certainty."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from low_tide.core.circuit.impedance import typical_driver

Wiring = Literal["parallel", "series", "series_parallel"]

COMMON_RATINGS = (4.0, 8.0, 16.0)
"""What guitar speakers are rated at, nearly all of them, Ω."""

USUAL = typical_driver(8.0).r_e / 8.0
"""Voice-coil resistance over rated impedance, as it usually is."""
FROM, TO = 0.65, 1.0
"""Voice coils lie in these parts of their rated impedance; what reads outside is another rating, or a fault."""


@dataclass(frozen=True)
class Plug:
    """Ohms read at the plug, direct current, amp and everything else unplugged, and how many drivers are behind it."""

    ohms: float
    drivers: int = 1


@dataclass(frozen=True)
class Likely:
    """Drivers of one rating (Ω) in a wiring that explain a reading: rated together (Ω), and what they usually read."""

    driver: float
    wiring: Wiring
    rated: float
    usual: float


def _wirings(drivers: int) -> Iterator[tuple[Wiring, float]]:
    """Wirings of so many like drivers, and the factor each makes of one driver's ohms."""
    yield "parallel", 1 / drivers
    if drivers > 1:
        yield "series", float(drivers)
    if drivers >= 4 and drivers % 2 == 0:
        yield "series_parallel", 2 / (drivers / 2)


def likely(read: Plug) -> tuple[Likely, ...]:
    """Ratings and wirings that explain a reading, the likeliest first; empty where no common ones do.

    R_e of a driver is usually 0.82 of its rated impedance, and lies from 0.65 to 1 of it; drivers of one cabinet are
    taken as alike. The wiring with which R_e/Z comes nearest to the usual is the likeliest.
    """
    found = [
        Likely(driver, wiring, driver * factor, driver * factor * USUAL)
        for wiring, factor in _wirings(read.drivers)
        for driver in COMMON_RATINGS
        if FROM <= read.ohms / (driver * factor) <= TO
    ]
    return tuple(sorted(found, key=lambda each: abs(read.ohms / each.rated - USUAL)))
