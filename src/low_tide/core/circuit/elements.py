"""What an element is made of: resistors, capacitors, and the equivalent circuit of a driver at some scale."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TypeAlias

from low_tide.core.circuit.impedance import DriverModel


@dataclass(frozen=True)
class Resistor:
    """A resistance, Ω."""

    ohms: float


@dataclass(frozen=True)
class Capacitor:
    """A capacitance, F."""

    farads: float


@dataclass(frozen=True)
class Scaled:
    """The equivalent circuit of a driver with every impedance in it times `factor`."""

    model: DriverModel
    factor: float = 1.0


@dataclass(frozen=True)
class Tabled:
    """A measured curve: impedance (Ω) over frequency (Hz), times `factor`."""

    frequency: tuple[float, ...]
    real: tuple[float, ...]
    imaginary: tuple[float, ...]
    factor: float = 1.0


Lumped: TypeAlias = Resistor | Capacitor | Scaled | Tabled
