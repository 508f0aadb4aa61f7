"""Processors: one box with blocks before and after the amp."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.gear.base import (
    Control,
    Identity,
    Name,
    Notes,
    Option,
    OwnPapers,
    Passive,
    Site,
    Socket,
    Transfer,
    TypicalNames,
    once,
)
from low_tide.core.gear.digital import DigitalPort, clock_controls, port_sockets
from low_tide.core.spec import Spec

WHERE = (Option("after", "after"), Option("before", "before amp"), Option("off", "off"))


@dataclass(frozen=True)
class Processor(Passive):
    """A multi-effects processor, drawn once: its send feeds the amp, its return takes the tap."""

    id: Identity
    name: Name
    kind: Literal["processor"] = "processor"
    notes: Notes = ""
    typical: TypicalNames = ()
    max_in: Annotated[float | None, Spec("Input takes cleanly", "dBu", -20, 28, typical=12)] = None
    max_return: Annotated[float | None, Spec("Return takes cleanly", "dBu", -20, 28, typical=12)] = None
    digital: Annotated[tuple[DigitalPort, ...], Spec("Digital sockets", le=8)] = ()
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    @once
    def sockets(self) -> tuple[Socket, ...]:
        return (
            Socket("in", "in", "in", "instrument", "jack", ohms=1e6, max_dbu=self.max_in),
            Socket("return", "return", "in", "line", "trs", ohms=20e3, max_dbu=self.max_return),
            Socket("send", "send", "out", "instrument", "trs", ohms=600),
            Socket("outL", "out left", "out", "line", "trs", ohms=600),
            Socket("outR", "out right", "out", "line", "trs", ohms=600),
            *port_sockets(self.digital),
        )

    @once
    def controls(self) -> tuple[Control, ...]:
        return (
            Control("tails", "Tails", "choice", "after", WHERE),
            Control("cab", "Cab filter or IR", "switch", False, role="speaker"),
            Control("on_purpose", "Before the drive on purpose", "switch", False, folded=True),
            *clock_controls(self.digital),
        )

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        where, cab = site.settings["tails"], f"the cab block of {self.name}" if site.settings["cab"] else ""
        before = self.name if where == "before" else ""
        after = self.name if where == "after" else ""
        found = [Transfer("in", "send", tails=before, control="tails")]
        # With no return in use the box is heard by itself: its input goes to its outputs.
        into = "return" if "return" in site.plugged else "in"
        found += [Transfer(into, out, speaker=cab, tails=after, control="cab") for out in ("outL", "outR")]
        return tuple(found)

    def summary(self) -> str:
        return "processor with send and return"
