"""The worst case of everything that has a rating, over every reachable state of a speaker network together."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product
from typing import TypeAlias

import numpy as np

from low_tide.core.changes import SetControl
from low_tide.core.gear import Attenuator, Lead
from low_tide.core.hookup import Link, Rig, per_rig
from low_tide.core.joint import LABEL, PLAYED, Joint, RatedKey, SlotKey, Speakers, Truth, solve
from low_tide.core.response import Real
from low_tide.core.states import (
    MOST_STATES,
    Index,
    Standing,
    Table,
    beginnings,
    count,
    every,
    movable,
    speaker_networks,
    standings,
    turns,
)

MOST_ROUNDS = 6
ROUNDING = 1e-9

State: TypeAlias = tuple[Standing, ...]
"""How every unit of one speaker network stands."""


@dataclass(frozen=True)
class Reached:
    """What can be reached in one speaker network. Row 0 of the first of `joints` is how it is set.

    `searched`: there were too many states to try every one.
    """

    speakers: Speakers
    joints: tuple[Joint, ...]
    searched: bool = False

    @property
    def as_set(self) -> Joint:
        return self.joints[0]

    def switches(self) -> tuple[tuple[str, str], ...]:
        """Switches of other kinds than steps, knobs and speaker switches that a hand may move: unit, control."""
        every = (s for joint in self.joints for table in joint.tables for s in table)
        return tuple(dict.fromkeys((s.unit, control) for s in every for control in s.switched))

    def slots(self, row: int) -> Iterator[SlotKey]:
        """Outputs that drive something in a state of `as_set`, idle taps left out."""
        for key, slot in self.as_set.slots.items():
            if slot.there[row] and not slot.idle[row]:
                yield key


@per_rig
def reached(rig: Rig) -> tuple[Reached, ...]:
    """Every speaker network that something may drive, in all states that can be reached. Raises NetworkError."""
    found = []
    for units in speaker_networks(rig):
        if not any(rig.gear[u].kind in ("amp", "reamp") for u in units):
            continue
        found.append(_reached(Speakers(rig, units)))
    return tuple(found)


def two_moved(whole: Reached) -> Joint | None:
    """States of a network with two switches of other kinds moved, and anything turned; None where there are none.

    A network with more of them than `MOST_STATES` is told apart no further.
    """
    speakers = whole.speakers
    tables = tuple(standings(speakers.rig, u, 2) for u in speakers.units)
    index = every(tables, 2) if count(tables, 2) <= MOST_STATES else np.zeros((0, len(tables)), np.intp)
    return solve(speakers, tables, index, thin_leads(speakers)) if len(index) else None


def thin_leads(speakers: Speakers) -> tuple[Link, ...]:
    """Leads of a network that are made for a signal: what goes through them is asked."""
    conductors = ((link, speakers.rig.conductor(link)) for link in speakers.links)
    return tuple(k for k, lead in conductors if isinstance(lead, Lead) and lead.construction != "speaker")


def _reached(speakers: Speakers) -> Reached:
    rig = speakers.rig
    tables = tuple(standings(rig, u) for u in speakers.units)
    leads = thin_leads(speakers)
    searched = count(tables, 0) + count(tables, 1) > MOST_STATES
    if searched:
        joints = _searched(speakers, tables, leads)
    else:
        joints = [solve(speakers, tables, np.concatenate([every(tables, 0), every(tables, 1)]), leads)]
    for u, unit in enumerate(speakers.units):
        if _has_knob(rig, unit):
            joints += _between_marks(speakers, u, joints, leads)
    return Reached(speakers, tuple(joints), searched)


def _has_knob(rig: Rig, unit: str) -> bool:
    """Whether a unit has a knob that a hand can bring anywhere between its marks."""
    knobs = (c for c, _ in movable(rig, unit) if c.kind == "range")
    return isinstance(rig.gear[unit], Attenuator) and any(knobs)


Target: TypeAlias = tuple[RatedKey, int]
"""What is looked for at its worst: the watts of something rated, at the label or as played."""


def _targets(joint: Joint) -> list[Target]:
    return [(key, kind) for key in joint.ratings for kind in (LABEL, PLAYED)]


def _value(joint: Joint, target: Target) -> Real:
    key, kind = target
    return joint.watts[key][:, kind] if key in joint.watts else np.zeros(len(joint.index))


def _searched(speakers: Speakers, tables: Sequence[Table], leads: Sequence[Link]) -> list[Joint]:
    """Coordinate ascent, unit by unit, towards the worst of every target, with each single switch moved or none."""
    first = solve(speakers, tables, beginnings(tables), leads)
    found, best = [first], []
    groups = [tuple(s.switched for s in first.standing(row)) for row in range(len(first.index))]
    for target in _targets(first):
        value = _value(first, target)
        for group in dict.fromkeys(groups):
            rows = [row for row, g in enumerate(groups) if g == group]
            best.append((target, first.index[max(rows, key=lambda row: float(value[row]))]))
    for _ in range(MOST_ROUNDS):
        before = [row.tolist() for _, row in best]
        for u, table in enumerate(tables):
            if len(table) == 1:
                continue
            tries, owner = [], []
            for n, (_, row) in enumerate(best):
                for i in turns(table, table[row[u]]):
                    tries.append([*row[:u], i, *row[u + 1 :]])
                    owner.append(n)
            distinct, which = np.unique(np.array(tries, np.intp), axis=0, return_inverse=True)
            joint = solve(speakers, tables, distinct, leads)
            found.append(joint)
            mine = which.reshape(-1)
            for n, (target, _) in enumerate(best):
                own = [int(mine[k]) for k, o in enumerate(owner) if o == n]
                value = _value(joint, target)
                best[n] = (target, distinct[max(own, key=lambda row: float(value[row]))])
        if [row.tolist() for _, row in best] == before:
            break
    return found


def _between_marks(speakers: Speakers, u: int, joints: Sequence[Joint], leads: Sequence[Link]) -> list[Joint]:
    """States with one knob between two of its marks, where the watts of something rated peak there.

    A parabola through the three marks around its worst says where; what it gets there is then solved, not guessed.
    """
    knob = next(c for c, _ in movable(speakers.rig, speakers.units[u]) if c.kind == "range")
    tables: list[list[Standing]] = [[] for _ in speakers.units]
    index: list[list[int]] = []
    for joint in joints:
        others, at, line = np.delete(joint.index, u, axis=1), *_along(joint, u, knob.id)
        for target, switched in product(_targets(joint), np.unique(joint.switched)):
            values = _value(joint, target)
            row = _nearest(joint, np.where(joint.switched == switched, values, -np.inf))
            alike = np.flatnonzero((others == others[row]).all(axis=1) & (line == line[row]))
            peak = _vertex(at[alike], values[alike], at[row])
            if peak is None:
                continue
            state = list(joint.standing(row))
            moved = tuple(dict.fromkeys((*state[u].moved, knob.id)))
            state[u] = replace(state[u], settings={**state[u].settings, knob.id: peak}, moved=moved)
            index.append([len(table) for table in tables])
            for table, standing in zip(tables, state, strict=True):
                table.append(standing)
    return [solve(speakers, [tuple(t) for t in tables], np.array(index, np.intp), leads)] if index else []


def _along(joint: Joint, u: int, knob: str) -> tuple[Real, Index]:
    """Where a knob stands in every state, and a number for how the rest of its unit stands, each of shape (S,)."""
    rest: dict[object, int] = {}
    lines = []
    for standing in joint.tables[u]:
        others = tuple(value for key, value in standing.settings.items() if key != knob)
        lines.append(rest.setdefault(others, len(rest)))
    at = np.array([float(s.settings[knob]) for s in joint.tables[u]])
    return at[joint.index[:, u]], np.array(lines, np.intp)[joint.index[:, u]]


def _vertex(at: Real, values: Real, best: float) -> float | None:
    """Where a parabola through the best mark and those beside it peaks; None where that is at a mark, or outside."""
    if len(at) < 3:
        return None
    order = np.argsort(at)
    at, values = at[order], values[order]
    middle = int(np.clip(np.searchsorted(at, best), 1, len(at) - 2))
    (a, b, c), (p, q, r) = at[middle - 1 : middle + 2].tolist(), values[middle - 1 : middle + 2].tolist()
    bend = (r - q) / (c - b) - (q - p) / (b - a)
    if bend >= 0:
        return None
    peak = (a + b) / 2 - (q - p) / (b - a) * (c - a) / 2 / bend
    return float(peak) if a < peak < c and peak != b else None


@dataclass(frozen=True)
class Worst:
    """The greatest value over some states, and the state it is reached in; `joint` and `row` say where that is kept."""

    value: float
    joint: Joint
    row: int

    @property
    def state(self) -> State:
        return self.joint.standing(self.row)

    def moves(self) -> tuple[SetControl, ...]:
        """What was moved to get there."""
        return tuple(SetControl(s.unit, control, s.settings[control]) for s in self.state for control in s.moved)


Among: TypeAlias = Callable[[Joint], Truth]
"""Which states of a joint count, shape (S,)."""


def turned(joint: Joint) -> Truth:
    """States that steps, knobs and speaker switches reach."""
    return np.asarray(joint.switched == 0)


def one_switched(joint: Joint) -> Truth:
    """States that take one switch of another kind besides."""
    return np.asarray(joint.switched == 1)


def moved_by(unit: str, control: str) -> Among:
    """States that take this switch of another kind besides, and no other."""

    def among(joint: Joint) -> Truth:
        u = [table[0].unit for table in joint.tables].index(unit)
        own = np.array([s.switched == (control,) for s in joint.tables[u]], np.bool_)
        return np.asarray(own[joint.index[:, u]] & (joint.switched == 1))

    return among


def worst_watts(whole: Reached, among: Among) -> dict[RatedKey, tuple[Real, Worst]]:
    """For everything rated its most watts over some states, shape (3,), each figure by itself; and where the label's
    are reached."""
    found: dict[RatedKey, tuple[Real, Worst]] = {}
    for joint in whole.joints:
        these = among(joint)
        if not these.any():
            continue
        watts = np.where(these[:, None, None], joint.all_watts, -np.inf)
        for r, key in enumerate(joint.watts):
            most, before = watts[:, r].max(axis=0), found.get(key)
            if before is None or most[LABEL] > before[1].value * (1 + ROUNDING):
                at = Worst(float(most[LABEL]), joint, _nearest(joint, watts[:, r, LABEL]))
            else:
                at = before[1]
            found[key] = (most if before is None else np.maximum(most, before[0]), at)
    return found


def _nearest(joint: Joint, values: Real) -> int:
    """The state of the greatest value; of those that are equal but for rounding, the one with the fewest movements."""
    alike = np.flatnonzero(values >= values.max() * (1 - ROUNDING))
    return int(alike[np.argmin(joint.moved[alike])])


def worst(whole: Reached, value: Callable[[Joint], Real], among: Among) -> Worst | None:
    """The greatest value over some states; of equals the state that is nearest to how it is set. None without any."""
    found: Worst | None = None
    for joint in whole.joints:
        these = among(joint)
        if not these.any():
            continue
        values = np.where(these, value(joint), -np.inf)
        row = _nearest(joint, values)
        if found is None or values[row] > found.value * (1 + ROUNDING):
            found = Worst(float(values[row]), joint, row)
    return found
