"""Guitars."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.gear.base import Control, Identity, Name, Notes, OwnPapers, Passive, Site, Socket, TypicalNames, once
from low_tide.core.spec import Spec
from low_tide.core.units import peak_of_dbu


@dataclass(frozen=True)
class Guitar(Passive):
    """A guitar: where the signal begins."""

    id: Identity
    name: Name
    kind: Literal["guitar"] = "guitar"
    notes: Notes = ""
    typical: TypicalNames = ()
    peak_level: Annotated[float, Spec("Peaks reach", "dBu", -30, 20, typical=0)] = 0.0
    source_impedance: Annotated[float, Spec("Source impedance", "Ω", 10, 200_000, typical=10_000)] = 10_000.0
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    @once
    def sockets(self) -> tuple[Socket, ...]:
        return (Socket("out", "out", "out", "instrument", "jack", ohms=self.source_impedance),)

    @once
    def controls(self) -> tuple[Control, ...]:
        return (Control("volume", "Volume", "range", 0.0, low=-40.0, high=0.0, unit="dB", folded=True),)

    def emits(self, site: Site) -> Mapping[str, float]:
        return {"out": peak_of_dbu(self.peak_level + float(site.settings["volume"]))}

    def summary(self) -> str:
        return "guitar"
