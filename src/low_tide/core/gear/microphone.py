"""Microphones before a cabinet."""

from __future__ import annotations

from dataclasses import dataclass
from math import inf, log10, sqrt
from typing import Annotated, Literal

from low_tide.core.gear.base import (
    AIR,
    Control,
    Identity,
    Name,
    Notes,
    OwnPapers,
    Passive,
    PhantomAnswer,
    Site,
    Socket,
    Transfer,
    TypicalNames,
    once,
)
from low_tide.core.spec import Spec


@dataclass(frozen=True)
class Microphone(Passive):
    """A microphone. What lies between it and the cabinet is air, not a lead."""

    id: Identity
    name: Name
    kind: Literal["microphone"] = "microphone"
    notes: Notes = ""
    typical: TypicalNames = ()
    sensitivity: Annotated[float, Spec("Sensitivity", "mV/Pa", 0.1, 100, typical=2)] = 2.0
    max_level: Annotated[float | None, Spec("Stands", "dB", 90, 180, help="Peak sound pressure level.")] = None
    source_impedance: Annotated[float, Spec("Source impedance", "Ω", 10, 2000, typical=200)] = 200.0
    phantom: PhantomAnswer = "tolerates"
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    @once
    def sockets(self) -> tuple[Socket, ...]:
        return (
            Socket("capsule", "capsule", "in", "air", AIR, own_lead=0.0),
            Socket("out", "out", "out", "microphone", "xlr", ohms=self.source_impedance),
        )

    @once
    def controls(self) -> tuple[Control, ...]:
        return (Control("distance", "At", "range", 10.0, low=2.0, high=300.0, step=1.0, unit="cm"),)

    def transfers(self, site: Site) -> tuple[Transfer, ...]:
        """From sound pressure (Pa) at the capsule to volts: s·p, held at what the capsule stands."""
        volts_per_pascal = self.sensitivity / 1000
        bound = inf
        if self.max_level is not None:
            bound = volts_per_pascal * sqrt(2) * 10 ** ((self.max_level - 94) / 20)
        return (Transfer("capsule", "out", 20 * log10(volts_per_pascal), bound),)

    def summary(self) -> str:
        return f"microphone, {self.sensitivity:g} mV/Pa"
