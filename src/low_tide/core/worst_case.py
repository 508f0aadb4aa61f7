"""The worst case of everything that has a rating, over every reachable state of a speaker network together."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TypeAlias

import numpy as np

from low_tide.core.gear import Attenuator, Lead
from low_tide.core.gear.base import Setting
from low_tide.core.hookup import Link, Rig, per_rig
from low_tide.core.joint import LABEL, PLAYED, Joint, RatedKey, SlotKey, Speakers, Truth, solve
from low_tide.core.response import Real
from low_tide.core.states import (
    MOST_STATES,
    Standing,
    Table,
    beginnings,
    count,
    every,
    movable,
    movements,
    speaker_networks,
    standings,
    switchings,
    turns,
)

MOST_ROUNDS = 6
FINE_POSITIONS = 17
"""Between two marks of a knob, ends counted: a twentieth of a dB where marks lie 1 dB apart or less."""
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

    def rated(self) -> tuple[RatedKey, ...]:
        """Everything that has a rating in any state, each once."""
        return tuple(dict.fromkeys(key for joint in self.joints for key in joint.ratings))

    def moved(self, joint: Joint) -> tuple[Truth, Truth]:
        """Which states steps, knobs and speaker switches reach alone, and which take one switch of another kind."""
        switched = switchings(joint.tables, joint.index)
        return np.asarray(switched == 0), np.asarray(switched == 1)

    def single(self) -> Iterator[tuple[int, str, str, Setting]]:
        """States one movement away: row in `as_set`, unit, control, and the value it was moved to."""
        joint = self.as_set
        for row in np.flatnonzero(movements(joint.tables, joint.index) == 1):
            stands = next(s for s in joint.standing(int(row)) if s.moved)
            yield int(row), stands.unit, stands.moved[0], stands.settings[stands.moved[0]]

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


def thin_leads(speakers: Speakers) -> tuple[Link, ...]:
    """Leads of a network that are made for a signal: what goes through them is asked."""
    conductors = ((link, speakers.rig.conductor(link)) for link in speakers.links)
    return tuple(k for k, lead in conductors if isinstance(lead, Lead) and lead.construction != "speaker")


def _reached(speakers: Speakers) -> Reached:
    rig = speakers.rig
    tables = tuple(standings(rig, u) for u in speakers.units)
    leads = thin_leads(speakers)
    searched = count(tables) > MOST_STATES
    joints = _searched(speakers, tables, leads) if searched else [solve(speakers, tables, every(tables), leads)]
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
    """States with one knob between two of its marks, around where something rated is at its worst."""
    whole = Reached(speakers, tuple(joints))
    bases: dict[tuple[tuple[Setting, ...], ...], State] = {}
    for target in _targets(whole.as_set):
        for switched in (0, 1):
            state = _worst_state(whole, target, switched)
            if state is not None:
                bases[tuple(tuple(s.settings.values()) for s in state)] = state
    gear, unit = speakers.rig.gear[speakers.units[u]], speakers.units[u]
    knob = next(c for c, _ in movable(speakers.rig, unit) if c.kind == "range")
    marks = sorted({float(p) for p in gear.reach(knob)})
    tables: list[list[Standing]] = [[] for _ in speakers.units]
    index: list[list[int]] = []
    for state in bases.values():
        at = float(state[u].settings[knob.id])
        low = max((m for m in marks if m < at), default=at)
        high = min((m for m in marks if m > at), default=at)
        fine = [replace(state[u], settings={**state[u].settings, knob.id: float(x)}) for x in _spread(low, at, high)]
        row = []
        for v, standing in enumerate(state):
            row.append(len(tables[v]))
            tables[v] += fine if v == u else [standing]
        index += [[*row[:u], row[u] + k, *row[u + 1 :]] for k in range(len(fine))]
    moved = (knob.id,)
    own = tuple(replace(s, moved=tuple(dict.fromkeys((*s.moved, *moved)))) for s in tables[u])
    made = tuple(own if v == u else tuple(t) for v, t in enumerate(tables))
    return [solve(speakers, made, np.array(index, np.intp), leads)] if index else []


def _spread(low: float, at: float, high: float) -> list[float]:
    between = np.concatenate([np.linspace(low, at, FINE_POSITIONS), np.linspace(at, high, FINE_POSITIONS)])
    return [float(x) for x in np.unique(between) if x not in (low, at, high)]


def _worst_state(whole: Reached, target: Target, switched: int) -> State | None:
    found = worst(whole, lambda joint: _value(joint, target), switched)
    return None if found is None else found.state


@dataclass(frozen=True)
class Worst:
    """The greatest value over some states, and the state it is reached in; `joint` and `row` say where that is kept."""

    value: float
    joint: Joint
    row: int

    @property
    def state(self) -> State:
        return self.joint.standing(self.row)

    def moves(self) -> tuple[tuple[str, str, Setting], ...]:
        """What was moved to get there: unit, control, value."""
        return tuple((s.unit, control, s.settings[control]) for s in self.state for control in s.moved)


def worst(whole: Reached, value: Callable[[Joint], Real], switched: int) -> Worst | None:
    """The greatest value over the states that turning reaches (`switched` 0), or with one other switch moved (1).

    Of equals the state that is nearest to how it is set. None where there is no such state.
    """
    found: Worst | None = None
    for joint in whole.joints:
        among = whole.moved(joint)[switched]
        if not among.any():
            continue
        values = np.where(among, value(joint), -np.inf)
        # Of states that are equal but for rounding the one that takes the fewest movements is told.
        alike = np.flatnonzero(values >= values.max() * (1 - ROUNDING))
        row = int(alike[np.argmin(movements(joint.tables, joint.index[alike]))])
        if found is None or values[row] > found.value * (1 + ROUNDING):
            found = Worst(float(values[row]), joint, row)
    return found
