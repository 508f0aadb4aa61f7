"""Reachable states: every way the units of a speaker network may stand by a hand that pulls no plug.

Steps, knobs and speaker switches are turned, all of them together; of the switches of other kinds (bypass, mute,
mode, load selector, mains) one at a time counts as a movement away. What is taped or locked is not moved.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product
from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.core.gear.base import Control, Setting
from low_tide.core.rig.rig import Rig

Index: TypeAlias = NDArray[np.intp]
"""Joint states, one a row: for every unit the number of its standing, shape (S, U)."""

MOST_STATES = 20_000
"""Up to so many joint states of one network every one is tried; beyond, they are searched."""

SEEDS = 192


@dataclass(frozen=True)
class Standing:
    """How one unit may stand: all its settings, and the controls that were moved for it, as set none.

    `switched`: those of the moved ones that are switches of other kinds than steps, knobs and speaker switches.
    """

    unit: str
    settings: Mapping[str, Setting]
    moved: tuple[str, ...] = ()
    switched: tuple[str, ...] = ()


Table: TypeAlias = tuple[Standing, ...]


def movable(rig: Rig, unit: str) -> tuple[tuple[Control, tuple[Setting, ...]], ...]:
    """Controls by which a hand reaches other states of the speaker side, each with the other positions."""
    gear, settings = rig.gear[unit], rig.settings(unit)
    if not rig.plugged(unit):
        return ()
    found = []
    for control in gear.controls():
        if not control.hand or rig.is_guarded(unit, control.id):
            continue
        reach, now = gear.reach(control), settings[control.id]
        # What no hand brought there (valves pulled, a switch nobody has read), no hand takes away.
        if control.kind == "range" or now in reach:
            others = tuple(value for value in reach if value != now)
            found += [(control, others)] if others else []
    return tuple(found)


def standings(rig: Rig, unit: str, most_switched: int = 1) -> Table:
    """Every standing of a unit with at most so many switches of other kinds moved; as it is set comes first.

    A control that moves nothing as the others stand (a step that is bypassed) is left where it is.
    """
    gear, settings, controls = rig.gear[unit], rig.settings(unit), movable(rig, unit)
    choices: list[list[tuple[Control, Setting] | None]] = [
        [None, *((control, value) for value in others)] for control, others in controls
    ]
    found = []
    for combination in product(*choices):
        moves = [move for move in combination if move is not None]
        switched = tuple(control.id for control, _ in moves if control.hand == "switched")
        if len(switched) <= most_switched:
            there = {**settings, **{control.id: value for control, value in moves}}
            moved = tuple(control.id for control, _ in moves)
            if not set(gear.dead(there)) & set(moved):
                found.append(Standing(unit, there, moved, switched))
    return tuple(found)


def movements(tables: Sequence[Table], index: Index) -> Index:
    """How many controls each joint state has moved from how they are set, shape (S,)."""
    return _counted(tables, index, [[len(s.moved) for s in table] for table in tables])


def switchings(tables: Sequence[Table], index: Index) -> Index:
    """How many switches of other kinds each joint state has moved, shape (S,)."""
    return _counted(tables, index, [[len(s.switched) for s in table] for table in tables])


def _counted(tables: Sequence[Table], index: Index, counts: list[list[int]]) -> Index:
    columns = [np.array(count, dtype=np.intp)[index[:, u]] for u, count in enumerate(counts)]
    return np.sum(columns, axis=0, dtype=np.intp) if columns else np.zeros(len(index), dtype=np.intp)


def count(tables: Sequence[Table], switched: int) -> int:
    """How many joint states there are with so many switches of other kinds moved."""
    return sum(int(np.prod([len(c) for c in choices], dtype=float)) for choices in _choices(tables, switched))


def every(tables: Sequence[Table], switched: int) -> Index:
    """All joint states with so many switches of other kinds moved; with none, as it is set is the first row."""
    found = [_product(choices) for choices in _choices(tables, switched)]
    return np.concatenate(found) if found else np.zeros((0, len(tables)), dtype=np.intp)


def _choices(tables: Sequence[Table], switched: int) -> Iterator[list[list[int]]]:
    """Standings of every unit that go together to so many switches moved, in every way they can be shared out."""
    by_count = [_by_switched(table) for table in tables]
    for shared in product(*by_count):
        if sum(shared) == switched:
            yield [own[n] for own, n in zip(by_count, shared, strict=True)]


def _by_switched(table: Table) -> dict[int, list[int]]:
    """Numbers of a unit's standings by how many switches of other kinds are moved there."""
    found: dict[int, list[int]] = {}
    for i, standing in enumerate(table):
        found.setdefault(len(standing.switched), []).append(i)
    return found


def beginnings(tables: Sequence[Table]) -> Index:
    """Where a search of too many joint states starts: as set, every single move, every pair, and some at random, each
    once, as it is set first.

    Pairs beyond `MOST_STATES` are drawn by lot; the lot is the same each time.
    """
    lot = np.random.default_rng(8)
    turned = [[i for i, s in enumerate(table) if not s.switched] for table in tables]
    switched = [[i for i, s in enumerate(table) if s.switched] for table in tables]
    zero = np.zeros((1, len(tables)), dtype=np.intp)
    moves = [(u, i) for u, table in enumerate(tables) for i in range(1, len(table))]
    pairs = [(a, b) for n, a in enumerate(moves) for b in moves[n + 1 :] if a[0] != b[0]]
    if len(pairs) > MOST_STATES // 2:
        pairs = [pairs[i] for i in lot.choice(len(pairs), MOST_STATES // 2, replace=False)]
    single = np.repeat(zero, len(moves), axis=0)
    for row, (u, i) in enumerate(moves):
        single[row, u] = i
    double = np.repeat(zero, len(pairs), axis=0)
    for row, pair in enumerate(pairs):
        for u, i in pair:
            double[row, u] = i
    some = np.stack([lot.choice(np.array(t), SEEDS) for t in turned], axis=1)
    one_switch = [some]
    for u, those in enumerate(switched):
        if those:
            mixed = some.copy()
            mixed[:, u] = lot.choice(np.array(those), SEEDS)
            one_switch.append(mixed)
    found = np.concatenate([zero, single, double, *one_switch])
    return np.unique(found[switchings(tables, found) <= 1], axis=0)


def turns(table: Table, like: Standing) -> list[int]:
    """Numbers of a unit's standings that have the same switches moved: what turning alone reaches from there."""
    same = {control: like.settings[control] for control in like.switched}
    return [
        i
        for i, s in enumerate(table)
        if s.switched == like.switched and all(s.settings[control] == value for control, value in same.items())
    ]


def _product(choices: Sequence[Sequence[int]]) -> Index:
    grids = np.meshgrid(*(np.array(c, dtype=np.intp) for c in choices), indexing="ij")
    return np.stack([g.ravel() for g in grids], axis=1) if grids else np.zeros((1, 0), dtype=np.intp)
