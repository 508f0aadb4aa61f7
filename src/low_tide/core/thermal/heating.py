"""How hot a box that turns power into heat gets: one thermal mass, one way out."""

from __future__ import annotations

from dataclasses import dataclass, replace
from math import exp, hypot, inf, isinf, log
from typing import Annotated

from low_tide.core.spec import Spec

DUTY: dict[str, tuple[str, float]] = {
    "rests": ("parts with rests", 0.25),
    "riff": ("riffs", 0.5),
    "held": ("held chords", 0.8),
}
"""Part of the time at flat-out power, by how it is played."""

TYPICAL_RISE_K = 60.0
TYPICAL_MINUTES = 20.0
TYPICAL_LIMIT_C = 70.0
"""Where nothing is known: rated power gives 60 K after long enough, τ 20 min, and a case may come to 70 °C."""

STACKED_FACTOR = 1.3
"""How much hotter a box gets that is stacked or covered: an estimate."""

TYPICAL_SPREAD = 0.25
LABEL_SPREAD = 0.25
STACKED_SPREAD = 0.2
"""How far the rise may be off, as a part of it: by a typical thermal resistance, by a rating "for amps up to" that was
taken as continuous heat, by the guess of what stacking does."""

TOUCH_C = 55.0
TOUCH_GENTLE_C = 48.0
"""Bare metal hotter than this burns whoever lays a hand on it, and small hands and paws sooner (ISO 13732-1, metal, for
about ten seconds and for ten minutes)."""


@dataclass(frozen=True)
class Thermal:
    """How a box warms up. What is left empty is an estimate, and marked so."""

    resistance: Annotated[float | None, Spec("Thermal resistance", "K/W", 0.02, 50)] = None
    minutes: Annotated[float | None, Spec("Time constant", "min", 0.5, 240)] = None
    limit: Annotated[float | None, Spec("Case must stay under", "°C", 30, 150)] = None


@dataclass(frozen=True)
class Warming:
    """A box over a session: first order towards `settled` (°C) under `watts` of mean heat. `estimate`: not measured.

    `reaches_limit`: minutes until `limit` (°C) from cold, inf for never; `rest`: minutes without power, after
    that, until it has cooled half-way back to the room. `doubt`: how far its rise may be off, as a part of it.
    """

    ambient: float
    watts: float
    settled: float
    minutes: float
    limit: float
    reaches_limit: float
    rest: float
    estimate: tuple[str, ...]
    doubt: float = 0.0

    def reaches(self, temperature: float) -> float:
        """Minutes from cold until the case has a temperature (°C); 0 where the room has it, inf for never."""
        room, rise = temperature - self.ambient, self.settled - self.ambient
        if room <= 0:
            return 0.0
        return -self.minutes * log(1 - room / rise) if rise > room else inf

    def at_most(self, minutes: float) -> float:
        """Case temperature (°C) after so many minutes at the edge of what is typical in it."""
        return self.ambient + (self.at(minutes) - self.ambient) * (1 + self.doubt)

    def at(self, minutes: float) -> float:
        """Case temperature (°C) after so many minutes of playing from cold."""
        return self.ambient + (self.settled - self.ambient) * (1 - exp(-minutes / self.minutes))


def warming(
    thermal: Thermal,
    rating: float | None,
    flat_watts: float,
    duty: float,
    ambient: float,
    label_rating: bool = False,
    stacked: bool = False,
) -> Warming | None:
    """How a box warms under `flat_watts` (W of heat in it, flat out) for a part `duty` of the time.

    T = T_ambient + P·duty·R_th·(1 − e^(−t/τ)). `label_rating`: its rating speaks of the amp, not of its own heat.
    None where neither a thermal resistance nor a rating is known.
    """
    if thermal.resistance is None and not rating:
        return None
    estimate, doubts = [], []
    if thermal.resistance is None:
        estimate.append(f"{TYPICAL_RISE_K:g} K at its rating")
        doubts.append(TYPICAL_SPREAD)
        if label_rating:
            estimate.append("its rating “for amps up to” taken as continuous heat")
            doubts.append(LABEL_SPREAD)
    if thermal.minutes is None:
        estimate.append(f"time constant {TYPICAL_MINUTES:g} min")
    if thermal.limit is None:
        estimate.append(f"limit {TYPICAL_LIMIT_C:g} °C")
    if stacked:
        estimate.append(f"{STACKED_FACTOR:g} × as hot for being stacked or covered")
        doubts.append(STACKED_SPREAD)
    resistance = (thermal.resistance or TYPICAL_RISE_K / (rating or inf)) * (STACKED_FACTOR if stacked else 1.0)
    tau, limit = thermal.minutes or TYPICAL_MINUTES, thermal.limit or TYPICAL_LIMIT_C
    watts = flat_watts * duty
    found = Warming(
        ambient,
        watts,
        ambient + watts * resistance,
        tau,
        limit,
        inf,
        tau * log(2),
        tuple(estimate),
        hypot(*doubts),
    )
    return replace(found, reaches_limit=found.reaches(limit))


READING_K = 1.0
"""How far a thermometer on a case may be off."""


@dataclass(frozen=True)
class Fit:
    """A box's thermal resistance (K/W) and time constant (min) from two readings, and the span of each when both
    readings are ±1 K; the upper ends None where they no longer bound it."""

    resistance: float
    minutes: float
    resistance_low: float = 0.0
    resistance_high: float | None = None
    minutes_low: float = 0.0
    minutes_high: float | None = None


def fit(ambient: float, watts: float, first: tuple[float, float], second: tuple[float, float]) -> Fit:
    """Thermal resistance and time constant from two readings (minutes from cold, °C) at a steady mean heat (W).

    Both lie on ambient + A·(1 − e^(−t/τ)); their ratio gives τ, then A. ValueError where they do not.
    """
    (t1, c1), (t2, c2) = sorted((first, second))
    if watts <= 0 or t1 <= 0 or t2 <= t1:
        raise ValueError("Readings: two different times after it began to warm are wanted, and power in it.")
    if c1 - ambient < 1 or c2 <= c1:
        raise ValueError("Readings: each must be warmer than the one before, the first by 1 K over the room.")
    if (c2 - ambient) / (c1 - ambient) >= t2 / t1:
        raise ValueError("Readings: it warmed faster the longer it ran, which no box at a steady power does.")
    rise, tau = _solved(t1, c1 - ambient, t2, c2 - ambient)
    off = [
        _solved(t1, c1 - ambient + a, t2, c2 - ambient + b)
        for a in (-READING_K, READING_K)
        for b in (-READING_K, READING_K)
        if c1 - ambient + a > 0
    ]
    rises, taus = [rise, *(r for r, _ in off)], [tau, *(t for _, t in off)]
    most_rise, most_tau = (None if isinf(max(each)) else max(each) for each in (rises, taus))
    high = None if most_rise is None else most_rise / watts
    return Fit(rise / watts, tau, min(rises) / watts, high, min(taus), most_tau)


def _solved(t1: float, k1: float, t2: float, k2: float) -> tuple[float, float]:
    """Settled rise (K) and time constant (min) through two rises; (inf, inf) where it still warms as fast as ever."""
    ratio = k2 / k1
    if ratio >= t2 / t1:
        return inf, inf
    if ratio <= 1:
        return max(k1, k2), 0.0

    def excess(tau: float) -> float:
        return (1 - exp(-t2 / tau)) / (1 - exp(-t1 / tau)) - ratio

    low, high = t1 / 50, t2 * 1000
    for _ in range(200):
        middle = (low * high) ** 0.5
        low, high = (middle, high) if excess(middle) < 0 else (low, middle)
    tau = (low * high) ** 0.5
    return k1 / (1 - exp(-t1 / tau)), tau
