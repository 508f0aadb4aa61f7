"""Where each unit stands in the picture: a column along the signal, a row within it."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.core.gear import KINDS, Amp, Interface
from low_tide.core.hookup import Rig


@dataclass(frozen=True)
class Spot:
    """Column from the left, row from the top, both from 0."""

    unit: str
    column: int
    row: int


def layout(rig: Rig) -> tuple[Spot, ...]:
    """Amps first, then each unit one column after the furthest thing that feeds it.

    A loop in the leads cannot push a unit out for ever: the walk visits each unit once on any path.
    """
    feeds: dict[str, list[str]] = {unit: [] for unit, _ in rig.units()}
    for link in rig.hookup.links:
        if link.b is None or link.a.unit == link.b.unit:
            continue
        forward = rig.socket(link.a).flow == "out" or rig.socket(link.b).flow == "in"
        first, second = (link.a, link.b) if forward else (link.b, link.a)
        feeds[first.unit].append(second.unit)
    column = dict.fromkeys(feeds, 0)

    def push(unit: str, at: int, path: frozenset[str]) -> None:
        if unit in path or at > len(feeds):
            return
        if at > column[unit] or at == 0:
            column[unit] = max(column[unit], at)
            for fed in feeds[unit]:
                push(fed, at + 1, path | {unit})

    fed = {u for targets in feeds.values() for u in targets}
    for unit, _ in rig.units():
        if unit not in fed:
            push(unit, 0, frozenset())
    linked = fed | {u for u, targets in feeds.items() if targets}
    for unit, gear in rig.units():
        if unit not in linked and not isinstance(gear, Amp):
            column[unit] = 2 if isinstance(gear, Interface) else 1
    order = {unit: i for i, (unit, _) in enumerate(rig.units())}
    kinds = list(KINDS)
    rows: dict[int, int] = {}
    spots = []
    for unit in sorted(feeds, key=lambda u: (column[u], _height(u, feeds, order), kinds.index(rig.gear[u].kind))):
        at = column[unit]
        spots.append(Spot(unit, at, rows.get(at, 0)))
        rows[at] = rows.get(at, 0) + 1
    return tuple(spots)


def _height(unit: str, feeds: dict[str, list[str]], order: dict[str, int]) -> float:
    """Where a unit wants to stand: beside what feeds it, in the order of the leads."""
    places = [order[u] + targets.index(unit) / 10 for u, targets in feeds.items() if unit in targets]
    return min(places, default=float(order[unit]))
