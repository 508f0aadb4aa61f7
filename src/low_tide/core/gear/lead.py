"""Leads."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.circuit.cable import loop_resistance
from low_tide.core.gear.base import (
    CONNECTOR_NAMES,
    Connector,
    Identity,
    Name,
    Notes,
    OwnPapers,
    Passive,
    Socket,
    TypicalNames,
)
from low_tide.core.spec import Spec
from low_tide.core.units import figure


@dataclass(frozen=True)
class Lead(Passive):
    """A lead. What counts is its construction, not its looks: `speaker` is two plain conductors."""

    id: Identity
    name: Name
    kind: Literal["lead"] = "lead"
    notes: Notes = ""
    typical: TypicalNames = ()
    construction: Annotated[
        Literal["speaker", "screened", "balanced", "optical"],
        Spec(
            "Construction",
            needed=True,
            names={
                "speaker": "speaker: two plain conductors",
                "screened": "screened: core and screen (instrument)",
                "balanced": "balanced: two cores and screen",
                "optical": "optical: no conductor",
            },
        ),
    ] = "speaker"
    screen: Annotated[
        Literal["both", "one"],
        Spec(
            "Screen is connected",
            names={"both": "at both ends", "one": "at one end: it breaks an earth loop"},
            help="A balanced lead may have its screen cut at one end. 48 V phantom does not go through it.",
        ),
    ] = "both"
    length: Annotated[float, Spec("Length", "m", 0.05, 100)] = 1.5
    gauge: Annotated[
        Literal[12, 14, 16, 18, 20, 22, 24],
        Spec("Conductor", "AWG", typical="14", help="A lower number is a thicker wire."),
    ] = 14
    plug_a: Annotated[Connector, Spec("Plug, one end", names=CONNECTOR_NAMES)] = "jack"
    plug_b: Annotated[Connector, Spec("Plug, other end", names=CONNECTOR_NAMES)] = "jack"
    angled: Annotated[
        Literal["none", "one", "both"],
        Spec("Angled plugs", names={"none": "none: both are straight", "one": "at one end", "both": "at both ends"}),
    ] = "none"
    papers: OwnPapers = None
    archived: Annotated[bool, Spec("Archived")] = False

    @property
    def screen_is_cut(self) -> bool:
        """Whether it has a screen that is no connection from end to end."""
        return self.screen == "one" and self.construction in ("screened", "balanced")

    def resistance(self) -> float:
        """Loop resistance in Ω, plugs included."""
        return loop_resistance(self.length, self.gauge)

    def sockets(self) -> tuple[Socket, ...]:
        return ()

    def summary(self) -> str:
        made = {
            "speaker": "speaker lead",
            "screened": "screened lead",
            "balanced": "balanced lead",
            "optical": "optical lead",
        }
        angled = "" if self.angled == "none" else ", angled"
        cut = ", screen cut at one end" if self.screen_is_cut else ""
        gauge = "" if self.construction == "optical" else f", {self.gauge} AWG"
        return f"{made[self.construction]}{cut}, {figure(self.length)} m{gauge}{angled}"
