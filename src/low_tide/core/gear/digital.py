"""Digital sockets, and whose clock a unit runs by."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from low_tide.core.gear.base import Control, Option, Socket
from low_tide.core.spec import Spec

OWN_CLOCK = "own"
RATES = ("44.1", "48", "88.2", "96")

SAMPLE_RATE = Control(
    "rate", "Sample rate", "choice", "48", tuple(Option(rate, rate) for rate in RATES), unit="kHz", folded=True
)


@dataclass(frozen=True)
class DigitalPort:
    """A digital socket, one way."""

    name: Annotated[str, Spec("Digital socket", ge=1, le=30)] = "digital in"
    flow: Annotated[Literal["in", "out"], Spec("Goes", names={"in": "in", "out": "out"})] = "in"
    connector: Annotated[
        Literal["rca", "xlr", "optical"],
        Spec("Connector", names={"rca": "RCA, coaxial", "xlr": "XLR, balanced", "optical": "optical"}),
    ] = "rca"


def port_sockets(ports: tuple[DigitalPort, ...]) -> tuple[Socket, ...]:
    """The sockets of digital ports."""
    return tuple(Socket(f"dig{i + 1}", p.name, p.flow, "digital", p.connector) for i, p in enumerate(ports))


def clock_controls(ports: tuple[DigitalPort, ...]) -> tuple[Control, ...]:
    """The rate a unit with digital ports runs at, and whose clock it runs by."""
    if not ports:
        return ()
    inputs = tuple(Option(f"dig{i + 1}", p.name) for i, p in enumerate(ports) if p.flow == "in")
    if not inputs:
        return (SAMPLE_RATE,)
    own = Option(OWN_CLOCK, "its own")
    return (SAMPLE_RATE, Control("clock", "Clock", "choice", OWN_CLOCK, (own, *inputs), folded=True))
