"""Where each unit stands in the picture: a column along the signal, a row within it."""

from __future__ import annotations

from dataclasses import dataclass

from low_tide.core.inventory import KINDS, Guitar, Interface
from low_tide.core.rig.rig import Rig


@dataclass(frozen=True)
class Spot:
    """Column from the left, row from the top, both from 0."""

    unit: str
    column: int
    row: int


def _feeds(rig: Rig) -> dict[str, list[str]]:
    """Unit → units its leads go to, in the order of the leads, each once."""
    feeds: dict[str, list[str]] = {unit: [] for unit, _ in rig.units()}
    recording = {e.unit for k in rig.hookup.links for e in k.ends() if k.b and rig.socket(e).flow == "in"}
    for link in rig.hookup.links:
        if link.b is None or link.a.unit == link.b.unit:
            continue
        forward = rig.socket(link.a).flow == "out" or rig.socket(link.b).flow == "in"
        first, second = (link.a, link.b) if forward else (link.b, link.a)
        # An interface stands where its inputs are; a track it plays goes back to the beginning.
        if isinstance(rig.gear[first.unit], Interface) and first.unit in recording:
            continue
        if second.unit not in feeds[first.unit]:
            feeds[first.unit].append(second.unit)
    return feeds


def _without_ways_back(feeds: dict[str, list[str]], order: list[str]) -> dict[str, list[str]]:
    """The same without leads that close a circle: a loop's return, a processor that takes the tap."""
    kept: dict[str, list[str]] = {unit: [] for unit in feeds}
    done: set[str] = set()

    def walk(unit: str, path: frozenset[str]) -> None:
        done.add(unit)
        for fed in feeds[unit]:
            if fed in path:
                continue
            kept[unit].append(fed)
            if fed not in done:
                walk(fed, path | {fed})

    for unit in order:
        if unit not in done:
            walk(unit, frozenset({unit}))
    return kept


def layout(rig: Rig) -> tuple[Spot, ...]:
    """Each unit one column after the furthest thing that feeds it, interfaces at the end of their chains.

    Rows follow the rows of what feeds a unit, so that leads cross little.
    """
    kinds = list(KINDS)
    units = [unit for unit, _ in rig.units()]
    everything = _feeds(rig)
    fed_by_none = [u for u in units if not any(u in targets for targets in everything.values())]
    # Circles are opened at what the signal meets first; an interface that only plays a track comes first too.
    order = sorted(units, key=lambda u: (u not in fed_by_none, kinds.index(rig.gear[u].kind)))
    feeds = _without_ways_back(everything, order)
    column = _columns(rig, feeds, units)
    into: dict[str, list[str]] = {unit: [u for u in units if unit in feeds[u]] for unit in units}
    row: dict[str, int] = {}
    place: dict[str, float] = {}
    taken: dict[int, int] = {}
    index = {unit: i for i, unit in enumerate(units)}

    def height(unit: str) -> tuple[float, int]:
        above = [place[u] + feeds[u].index(unit) / 10 for u in into[unit] if u in place]
        return (sum(above) / len(above) if above else float(index[unit]), index[unit])

    for at in sorted(set(column.values())):
        for unit in sorted((u for u in units if column[u] == at), key=height):
            row[unit] = taken.get(at, 0)
            taken[at] = row[unit] + 1
            place[unit] = row[unit] + 0.001 * index[unit]
    return tuple(Spot(unit, column[unit], row[unit]) for unit in units)


def _columns(rig: Rig, feeds: dict[str, list[str]], units: list[str]) -> dict[str, int]:
    column = dict.fromkeys(units, 0)
    # There are no circles left, so this settles within as many rounds as there are units.
    for _ in units:
        moved = False
        for unit, targets in feeds.items():
            for fed in targets:
                if column[fed] <= column[unit]:
                    column[fed], moved = column[unit] + 1, True
        if not moved:
            break
    linked = {u for u, targets in feeds.items() if targets} | {u for targets in feeds.values() for u in targets}
    last = max(column.values(), default=0)
    for unit, gear in rig.units():
        if unit not in linked and gear.kind not in ("amp", "guitar"):
            column[unit] = 2 if isinstance(gear, Interface) else 1
        elif isinstance(gear, Guitar) and feeds[unit]:
            # Beside what it is plugged into, not far to the left of it.
            column[unit] = max(0, min(column[fed] for fed in feeds[unit]) - 1)
        elif isinstance(gear, Interface) and column[unit] > 0 and not feeds[unit]:
            column[unit] = last
    return column
