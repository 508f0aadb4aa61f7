"""A line output that takes its signal from speaker level: on loads, attenuators, tap boxes and some amps."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.gear.base import CONNECTOR_NAMES, Connector, Control, Setting, Socket
from low_tide.core.spec import Spec

POT_RANGE_DB = 40.0
"""Span a level pot is given below full; its bottom is silence, but no plan needs less than this."""


@dataclass(frozen=True)
class LineOut:
    """How a line output behaves. `ratio_db` is from the speaker-level point to the output, pot at full."""

    ratio_db: Annotated[float, Spec("Speaker to line", "dB", -80, 0, typical=-26)] = -26.0
    pot: Annotated[bool, Spec("Level pot")] = True
    limiter_v: Annotated[float | None, Spec("Limiter, peak", "V", 0.1, 50)] = None
    filter: Annotated[
        Literal["none", "fixed", "switchable"],
        Spec("Cab filter", names={"none": "none", "fixed": "always in", "switchable": "can be switched"}),
    ] = "none"
    connector: Annotated[Connector, Spec("Connector", names=CONNECTOR_NAMES)] = "trs"
    balanced: Annotated[bool, Spec("Balanced")] = True
    source_impedance: Annotated[float, Spec("Source impedance", "Ω", 1, 100_000, typical=600)] = 600.0
    earth_lift: Annotated[bool, Spec("Audio-earth lift switch")] = False
    phantom: Annotated[
        Literal["needs", "tolerates", "harmed", "unknown"],
        Spec(
            "48 V phantom",
            names={
                "needs": "needs it",
                "tolerates": "stands it",
                "harmed": "is harmed by it",
                "unknown": "not known",
            },
        ),
    ] = "unknown"
    origin: Annotated[
        Literal["speaker", "preamp"],
        Spec("Taken from", names={"speaker": "the speaker jack", "preamp": "before the power stage"}),
    ] = "speaker"

    def socket(self) -> Socket:
        return Socket("line", "line out", "out", "line", self.connector)

    def controls(self) -> tuple[Control, ...]:
        found = []
        if self.pot:
            found.append(Control("line.pot", "Line level", "range", -12.0, low=-POT_RANGE_DB, high=0.0, unit="dB"))
        if self.filter == "switchable":
            found.append(Control("line.filter", "Cab filter", "switch", False))
        if self.earth_lift:
            found.append(Control("line.lift", "Audio-earth lift", "switch", False))
        return tuple(found)

    def gain_db(self, settings: dict[str, Setting]) -> float:
        """Speaker-level point to output, in dB, as the pot is set."""
        return self.ratio_db + (float(settings["line.pot"]) if self.pot else 0.0)

    def filter_on(self, settings: dict[str, Setting]) -> bool:
        return self.filter == "fixed" or (self.filter == "switchable" and bool(settings["line.filter"]))
