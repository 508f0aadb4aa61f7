"""Audio interfaces."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.gear.base import (
    CONNECTOR_NAMES,
    Connector,
    Control,
    Identity,
    Level,
    Name,
    Notes,
    Site,
    Socket,
    TypicalNames,
    once,
)
from low_tide.core.network import Parts
from low_tide.core.spec import Spec

UNKNOWN_ABSOLUTE_OVER_FULL_SCALE_DB = 6.0
"""Where the maker gives no absolute maximum, this much over full scale is taken, and flagged."""


@dataclass(frozen=True)
class Input:
    """One input. `max_level` is the RMS level of the sine whose peak is 0 dBFS at the least gain."""

    name: Annotated[str, Spec("Input", ge=1, le=30)] = "input 1"
    level: Annotated[Level, Spec("Made for")] = "line"
    connector: Annotated[Connector, Spec("Connector", names=CONNECTOR_NAMES)] = "combi"
    max_level: Annotated[float, Spec("Full scale at least gain", "dBu", -40, 40, typical=18)] = 18.0
    least_gain: Annotated[float, Spec("Gain from", "dB", -20, 40)] = 0.0
    most_gain: Annotated[float, Spec("Gain to", "dB", -20, 90)] = 40.0
    pad: Annotated[float | None, Spec("Pad", "dB", 5, 40)] = None
    phantom: Annotated[bool, Spec("48 V phantom can be switched on")] = False
    absolute_max: Annotated[float | None, Spec("Absolute maximum", "dBu", -40, 60)] = None
    impedance: Annotated[float, Spec("Input impedance", "Ω", 500, 10_000_000, typical=10_000)] = 10_000.0

    def __post_init__(self) -> None:
        if self.most_gain < self.least_gain:
            raise ValueError("Gain: “to” must not be less than “from”.")


@dataclass(frozen=True)
class Interface:
    """An audio interface: its inputs, each with gain, pad and phantom power."""

    id: Identity
    name: Name
    kind: Literal["interface"] = "interface"
    notes: Notes = ""
    typical: TypicalNames = ()
    inputs: Annotated[tuple[Input, ...], Spec("Inputs", ge=1, le=32)] = (Input(),)
    archived: Annotated[bool, Spec("Archived")] = False

    @once
    def sockets(self) -> tuple[Socket, ...]:
        return tuple(
            Socket(f"in{i + 1}", each.name, "in", each.level, each.connector) for i, each in enumerate(self.inputs)
        )

    def input(self, socket: str) -> Input:
        """The input behind a socket id of this interface."""
        return self.inputs[int(socket.removeprefix("in")) - 1]

    @once
    def controls(self) -> tuple[Control, ...]:
        found = []
        for i, each in enumerate(self.inputs):
            mark = f"in{i + 1}"
            if each.most_gain > each.least_gain:
                found.append(
                    Control(
                        f"{mark}.gain",
                        "Gain",
                        "range",
                        each.least_gain,
                        low=each.least_gain,
                        high=each.most_gain,
                        unit="dB",
                    )
                )
            if each.pad:
                found.append(Control(f"{mark}.pad", f"Pad −{each.pad:g} dB", "switch", False))
            if each.phantom:
                found.append(Control(f"{mark}.phantom", "48 V phantom", "switch", False))
            found.append(Control(f"{mark}.ir", "IR in software", "switch", False))
        return tuple(found)

    def parts(self, site: Site) -> Parts:
        return Parts()

    def assumptions(self) -> tuple[str, ...]:
        return ()

    def summary(self) -> str:
        count = len(self.inputs)
        return f"interface, {count} input{'s' if count > 1 else ''}"
