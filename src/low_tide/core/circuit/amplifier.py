"""The amp at its speaker jack."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import sqrt
from typing import Annotated

from low_tide.core.spec import Spec
from low_tide.core.units import volts

DAMPING_NAMES = {
    "none": "valve, no negative feedback",
    "moderate": "valve, moderate feedback",
    "strong": "valve, strong feedback",
    "transistor": "transistor",
    "current": "transistor, current feedback",
}
DAMPING_PRESETS = {"none": 0.15, "moderate": 0.6, "strong": 1.5, "transistor": 50.0, "current": 0.5}
"""Damping factor R_tap/Z_out by kind of feedback: usual values, not this amp's."""


def source_voltage(label_power: float, tap: float, damping_factor: float) -> float:
    """Open-circuit voltage E (V RMS) such that `label_power` (W) flows into the tap's own load (Ω).

    E = √(P·R_tap)·(1 + 1/DF), which makes E ∝ √R_tap between taps of one amp.
    """
    return volts(label_power, tap) * (1 + 1 / damping_factor)


@dataclass(frozen=True)
class Readings:
    """Volts on two resistive loads at the same drive: about 400 Hz, below clipping. `tap`: where they were read."""

    r1: Annotated[float, Spec("First load", "Ω", 0.5, 1000)]
    v1: Annotated[float, Spec("Volts on the first load", "V", 0.001, 500)]
    r2: Annotated[float, Spec("Second load", "Ω", 0.5, 1000)]
    v2: Annotated[float, Spec("Volts on the second load", "V", 0.001, 500)]
    tap: Annotated[float | None, Spec("Tap", "Ω", 0.5, 1000)] = None


@dataclass(frozen=True)
class TwoReading:
    """Output impedance (Ω) found from two readings, and its bounds when each volt reading is ±1 %.

    `damping_factor`: tap over output impedance; None where the tap is not known or the impedance is next to none.
    """

    output_impedance: float
    low: float
    high: float
    damping_factor: float | None = None


def two_reading_output_impedance(r1: float, v1: float, r2: float, v2: float) -> TwoReading:
    """Output impedance from the volts `v1`, `v2` (V) on resistive loads `r1` < `r2` (Ω) at the same drive.

    Z_out = R1·R2·(V2−V1)/(V1·R2−V2·R1). Raises ValueError where the volts do not rise with the load, or
    rise faster than any source allows.
    """
    if not 0 < r1 < r2:
        raise ValueError("the second load must have more ohms than the first")

    def solve(a: float, b: float) -> float:
        below = a * r2 - b * r1
        return r1 * r2 * (b - a) / below if below > 0 else float("inf")

    if v2 <= v1:
        raise ValueError("the volts must rise from the first load to the second; check the readings")
    if v1 * r2 - v2 * r1 <= 0:
        raise ValueError("the volts rise faster than the ohms: no source does that; check the readings")
    low = max(0.0, solve(v1 * 1.01, v2 * 0.99))
    return TwoReading(solve(v1, v2), low, solve(v1 * 0.99, v2 * 1.01))


MOST_DAMPING = 2000.0
"""A damping factor over this says nothing but that the output impedance is too low to be read this way."""


def with_damping(found: TwoReading, tap: float | None) -> TwoReading:
    """The same with the damping factor R_tap/Z_out that goes with a tap (Ω)."""
    factor = tap / found.output_impedance if tap and found.output_impedance > 0 else None
    return replace(found, damping_factor=factor if factor is not None and factor <= MOST_DAMPING else None)


def reachable_power(flat_out_power: float, match_ratio: float) -> float:
    """About what an overdriven valve amp gives off its tap (W): P_flat·min(r, 1/r). For loudness only."""
    return flat_out_power * min(match_ratio, 1 / match_ratio) if match_ratio > 0 else 0.0


def peak_voltage(label_power: float, flat_power: float, tap: float, peak_factor: float) -> float:
    """Highest peak (V) expected at the jack: √(2·P_label·R_tap)·k, never under √(P_flat·R_tap).

    The second is the flat top of a square wave of the flat-out power.
    """
    return max(sqrt(2 * label_power * tap) * peak_factor, sqrt(flat_power * tap))
