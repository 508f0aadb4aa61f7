"""Level arithmetic: volts, watts, decibels. Scalars or arrays of any shape, element by element."""

from __future__ import annotations

import math

BEYOND_ROUNDING = 1e16
"""From here on a number has no digits to round, and near the largest one rounding would overflow."""

DBU_REFERENCE_V = 0.7746
"""0 dBu: the voltage of 1 mW in 600 Ω."""


def db(ratio: float) -> float:
    """Power ratio in dB, 10·log10. Zero gives −inf; a negative ratio raises ValueError."""
    return 10 * math.log10(ratio) if ratio != 0 else -math.inf


def db_voltage(ratio: float) -> float:
    """Voltage ratio in dB, 20·log10. Zero gives −inf; a negative ratio raises ValueError."""
    return 2 * db(ratio)


def from_db_voltage(level: float) -> float:
    """Voltage ratio of a level in dB."""
    return float(10 ** (level / 20))


def from_db_power(level: float) -> float:
    """Power ratio of a level in dB."""
    return float(10 ** (level / 10))


def volts(power: float, resistance: float) -> float:
    """RMS voltage (V) of `power` (W) in `resistance` (Ω): √(P·R)."""
    return math.sqrt(power * resistance)


def dbu(voltage: float) -> float:
    """Level in dBu of an RMS voltage (V)."""
    return db_voltage(voltage / DBU_REFERENCE_V)


def peak_of_dbu(level: float) -> float:
    """Peak voltage (V) of the sine whose RMS level is `level` (dBu)."""
    return DBU_REFERENCE_V * from_db_voltage(level) * math.sqrt(2)


def dbv(voltage: float) -> float:
    """Level in dBV of an RMS voltage (V)."""
    return db_voltage(voltage)


def dbw(power: float) -> float:
    """Level in dBW of a power (W)."""
    return db(power)


def parallel(*impedances: float) -> float:
    """Parallel resistance (Ω) of resistances (Ω); infinite ones count as absent."""
    total = sum(1 / z for z in impedances if z != math.inf)
    return 1 / total if total else math.inf


def figure(value: float, digits: int = 3) -> str:
    """A number with at most `digits` significant digits and no exponent, a true minus sign, ∞ for infinity."""
    if math.isnan(value):
        return "not a number"
    if math.isinf(value):
        return "∞" if value > 0 else "−∞"
    if value == 0:
        return "0"
    if abs(value) >= BEYOND_ROUNDING:
        return f"{value:.0f}".replace("-", "−")
    value *= 1 + 1e-12  # halves go up, as on paper and as in the page
    places = max(0, digits - 1 - math.floor(math.log10(abs(value))))
    text = f"{round(value, digits - 1 - math.floor(math.log10(abs(value)))):.{min(places, 4)}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return text.replace("-", "−") if float(text) != 0 else "0"


def level_figure(value: float) -> str:
    """A dB value with one decimal and its sign: '+3.8', '−14.2', '0.0'."""
    if math.isinf(value):
        return figure(value)
    return f"{value:+.1f}".replace("-", "−") if abs(value) >= 0.05 else "0.0"


def in_ohms(value: float) -> str:
    """'8 Ω', '47 kΩ': an impedance with its unit."""
    return f"{figure(value / 1000)} kΩ" if 1000 <= abs(value) < math.inf else f"{figure(value)} Ω"


def in_watts(value: float) -> str:
    """'75 W', '50 mW', 'under 1 mW': a power with its unit; small ones are written one way everywhere."""
    if 0 < value < 0.001:
        return "under 1 mW"
    return f"{figure(value * 1000)} mW" if 0 < value < 0.1 else f"{figure(value)} W"


def in_db_down(decibels: float) -> str:
    """'−12 dB', and '0 dB' where nothing is taken away."""
    said = figure(decibels)
    return "0 dB" if said == "0" else f"−{said} dB"
