"""Headphones: they count for hearing like a room does."""

from __future__ import annotations

from dataclasses import dataclass
from math import log10
from typing import Annotated, Literal

from low_tide.core.gear.base import Identity, Name, Notes, OwnPapers, Passive, Socket, TypicalNames, once
from low_tide.core.spec import Spec
from low_tide.core.units import figure, in_ohms


@dataclass(frozen=True)
class Headphones(Passive):
    """A pair of headphones on its own lead."""

    id: Identity
    name: Name
    kind: Literal["headphones"] = "headphones"
    notes: Notes = ""
    typical: TypicalNames = ()
    impedance: Annotated[float, Spec("Impedance", "Ω", 4, 2000, typical=64)] = 64.0
    sensitivity: Annotated[float, Spec("Sensitivity", "dB/mW", 70, 130, typical=98)] = 98.0
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    @once
    def sockets(self) -> tuple[Socket, ...]:
        return (Socket("plug", "plug", "in", "phones", "trs", own_lead=3.0, ohms=self.impedance),)

    def level(self, volts: float, source_impedance: float) -> float:
        """Sound pressure level (dB) at the ear from an output of `volts` (V RMS, open) behind its impedance (Ω).

        L = S + 10·log10(V²/Z/1 mW), V behind the divider Z/(Z+Z_out).
        """
        across = volts * self.impedance / (self.impedance + source_impedance)
        return self.sensitivity + 10 * log10(across**2 / self.impedance / 1e-3)

    def summary(self) -> str:
        return f"headphones, {in_ohms(self.impedance)}, {figure(self.sensitivity)} dB/mW"
