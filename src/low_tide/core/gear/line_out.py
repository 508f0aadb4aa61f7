"""A line output that takes its signal from speaker level: on loads, attenuators, tap boxes and some amps."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf
from typing import Annotated, Literal

from low_tide.core.gear.base import (
    ANSWER_NAMES,
    CONNECTOR_NAMES,
    Answer,
    Connector,
    Control,
    PhantomAnswer,
    Setting,
    Site,
    Socket,
    Transfer,
)
from low_tide.core.spec import Spec

POT_RANGE_DB = 40.0
"""Span a level pot is given below full; its bottom is silence, but no plan needs less than this."""

SWITCHED_NAMES = {"none": "none", "fixed": "always in", "switchable": "can be switched"}


@dataclass(frozen=True)
class LineOut:
    """How a line output behaves. `ratio_db` is from the speaker-level point to the output, pot at full."""

    ratio_db: Annotated[float, Spec("Speaker to line", "dB", -80, 0, typical=-26)] = -26.0
    pot: Annotated[bool, Spec("Level pot")] = True
    limiter_v: Annotated[float | None, Spec("Limiter, peak", "V", 0.1, 50)] = None
    filter: Annotated[Literal["none", "fixed", "switchable"], Spec("Cab filter", names=SWITCHED_NAMES)] = "none"
    roll_off: Annotated[Literal["none", "fixed", "switchable"], Spec("Tone roll-off", names=SWITCHED_NAMES)] = "none"
    connector: Annotated[Connector, Spec("Connector", names=CONNECTOR_NAMES)] = "trs"
    balanced: Annotated[bool, Spec("Balanced")] = True
    isolated: Annotated[
        Answer, Spec("Isolated by a transformer", names=ANSWER_NAMES, help="Its earth is not the speaker jack's.")
    ] = "unknown"
    source_impedance: Annotated[float, Spec("Source impedance", "Ω", 1, 100_000, typical=600)] = 600.0
    earth_lift: Annotated[bool, Spec("Audio-earth lift switch")] = False
    phantom: PhantomAnswer = "unknown"
    origin: Annotated[
        Literal["speaker", "preamp"],
        Spec("Taken from", names={"speaker": "the speaker jack", "preamp": "before the power stage"}),
    ] = "speaker"

    def socket(self) -> Socket:
        """Its jack."""
        return Socket("line", "line out", "out", "line", self.connector, ohms=self.source_impedance)

    def controls(self) -> tuple[Control, ...]:
        found = []
        if self.pot:
            found.append(Control("line.pot", "Line level", "range", -12.0, low=-POT_RANGE_DB, high=0.0, unit="dB"))
        if self.filter == "switchable":
            found.append(Control("line.filter", "Cab filter", "switch", False, role="speaker"))
        if self.roll_off == "switchable":
            found.append(Control("line.roll_off", "Tone roll-off", "switch", False))
        if self.earth_lift:
            found.append(Control("line.lift", "Audio-earth lift", "switch", False))
        return tuple(found)

    def gain_db(self, settings: dict[str, Setting]) -> float:
        """Speaker-level point to output, in dB, as the pot is set."""
        return self.ratio_db + (float(settings["line.pot"]) if self.pot else 0.0)

    def filter_on(self, settings: dict[str, Setting]) -> bool:
        """Whether its cab filter is in the path."""
        return self.filter == "fixed" or (self.filter == "switchable" and bool(settings["line.filter"]))

    def transfer(self, a: str, site: Site) -> Transfer:
        """From the speaker-level end `a` of the unit to its line socket."""
        settings = dict(site.settings)
        before = self.origin == "preamp"
        rolled = self.roll_off == "fixed" or (self.roll_off == "switchable" and bool(settings["line.roll_off"]))
        return Transfer(
            a,
            "line",
            None if before else self.gain_db(settings),
            inf if self.limiter_v is None else self.limiter_v,
            speaker="the cab filter in the box" if self.filter_on(settings) else "",
            rolled_off=rolled,
            control="line.filter" if self.filter == "switchable" else "",
        )


def of(line: LineOut | None, a: str, site: Site) -> tuple[Transfer, ...]:
    """The transfer of a line output that may not be there."""
    return (line.transfer(a, site),) if line else ()
