"""What gear costs and weighs, as far as its papers say, and what a stop puts at stake. Nothing is judged by it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

from low_tide.core.gear.papers import NO_PAPERS, Papers
from low_tide.core.inventory import Cabinet, Surrounding, Unit
from low_tide.core.units import figure

NO_MORE_DIGITS = 1000.0


@dataclass(frozen=True)
class Worth:
    """What several units cost and weigh (kg) together; `unpriced`, `unweighed`: units whose papers do not say."""

    price: float
    weight: float
    unpriced: int
    unweighed: int


def papers_of(unit: Unit) -> Papers:
    """A unit's papers; empty ones where it has none."""
    found = None if isinstance(unit, Surrounding) else getattr(unit, "papers", None)
    return found if isinstance(found, Papers) else NO_PAPERS


def without_papers(unit: Unit) -> Unit:
    """A unit as everything is judged by it: its papers left out."""
    return unit if papers_of(unit) is NO_PAPERS or isinstance(unit, Surrounding) else replace(unit, papers=None)


def weight_of(unit: Unit) -> float | None:
    """What a unit weighs, kg: by its papers, or what its cabinet is entered with."""
    weight = papers_of(unit).weight
    return unit.weight if weight is None and isinstance(unit, Cabinet) else weight


def worth(units: Iterable[Unit]) -> Worth:
    """What units cost and weigh together."""
    every = tuple(units)
    prices = [p for u in every if (p := papers_of(u).price) is not None]
    weights = [w for u in every if (w := weight_of(u)) is not None]
    return Worth(sum(prices), sum(weights), len(every) - len(prices), len(every) - len(weights))


def in_money(value: float, currency: str) -> str:
    """'2,400 EUR': a price, whole from a thousand up."""
    said = f"{value:,.0f}" if value >= NO_MORE_DIGITS else f"{value:,.2f}".removesuffix(".00")
    return f"{said} {currency}"


def worth_words(found: Worth, currency: str) -> str:
    """'2,400 EUR (3 without a price), 31 kg'; empty where no papers say anything."""
    parts = []
    if found.price > 0:
        parts.append(
            in_money(found.price, currency) + (f" ({found.unpriced} without a price)" if found.unpriced else "")
        )
    if found.weight > 0:
        parts.append(f"{figure(found.weight)} kg" + (f" ({found.unweighed} not weighed)" if found.unweighed else ""))
    return ", ".join(parts)


def at_stake(units: Iterable[Unit], currency: str) -> str:
    """'Godwit 45 (1,900 EUR)': what of some units has a price, and so stands at risk; empty where none has."""
    found = ((u.name, papers_of(u).price) for u in units)
    return ", ".join(f"{name} ({in_money(price, currency)})" for name, price in found if price)
