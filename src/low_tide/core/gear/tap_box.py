"""Tap boxes: a line signal from a speaker lead, bridging it or loading it with a few watts."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Annotated, Literal

from low_tide.core.circuit.network import GROUND, Parts
from low_tide.core.gear.base import (
    Control,
    Identity,
    Name,
    Notes,
    Option,
    OwnPapers,
    Passive,
    Rating,
    Site,
    Socket,
    SpeakerSockets,
    Transfer,
    TypicalNames,
    once,
)
from low_tide.core.gear.line_out import LineOut
from low_tide.core.spec import Spec
from low_tide.core.units import in_ohms


@dataclass(frozen=True)
class TapBox(Passive):
    """A recording tap box. In load mode it is a small resistor of its own; bridging it draws next to nothing."""

    id: Identity
    name: Name
    kind: Literal["tap_box"] = "tap_box"
    notes: Notes = ""
    typical: TypicalNames = ()
    bridging_impedance: Annotated[float, Spec("Bridging input", "Ω", 1000, 10_000_000, typical=47_000)] = 47_000.0
    load_ohms: Annotated[float | None, Spec("Load mode", "Ω", 1, 600, help="Empty: the box has no load mode.")] = None
    load_watts: Annotated[float | None, Spec("Load mode takes", "W", 0.05, 500)] = None
    through: Annotated[bool, Spec("Parallel through socket", needed=True)] = True
    connector: SpeakerSockets = "jack"
    line_out: Annotated[LineOut, Spec("Line out")] = field(default_factory=LineOut)
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    @once
    def sockets(self) -> tuple[Socket, ...]:
        found = [Socket("in", "speaker in", "in", "speaker", self.connector, speaker_rated=True)]
        if self.through:
            found.append(Socket("through", "through", "out", "speaker", self.connector, speaker_rated=True))
        return (*found, self.line_out.socket())

    @once
    def controls(self) -> tuple[Control, ...]:
        found = []
        if self.load_ohms:
            options = (
                Option("bridging", "bridging"),
                Option("load", f"load, {in_ohms(self.load_ohms)}"),
            )
            found.append(
                Control(
                    "mode", "Input", "choice", "bridging", options, safe_live=False, hand="switched", affects="speaker"
                )
            )
        return (*found, *self.line_out.controls())

    def is_load(self, site: Site) -> bool:
        """Whether it is switched to be a load itself."""
        return self.load_ohms is not None and site.settings.get("mode") == "load"

    def parts(self, site: Site) -> Parts:
        ohms = self.load_ohms if self.load_ohms and self.is_load(site) else self.bridging_impedance
        joints = ((site.node("in"), site.node("through")),) if self.through else ()
        return Parts((site.resistor("load mode" if self.is_load(site) else "input", "in", GROUND, ohms),), joints)

    def ratings(self, site: Site) -> tuple[Rating, ...]:
        return (Rating("load mode", self.load_watts, "continuous", ("load mode",)),) if self.is_load(site) else ()

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        return (self.line_out.transfer("in", site),)

    def summary(self) -> str:
        return "tap box, bridging or load" if self.load_ohms else "tap box, bridging"
