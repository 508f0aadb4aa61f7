"""The worst case of everything that has a rating, over every reachable state of a speaker network together."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from math import prod
from typing import TypeAlias

import numpy as np

from low_tide.core.frequency import Real
from low_tide.core.inventory import Attenuator, Lead
from low_tide.core.power.joint_states import LABEL, PLAYED, Joint, RatedKey, SlotKey, Speakers, Truth, solve
from low_tide.core.rig.changes import SetControl
from low_tide.core.rig.hookup import Link
from low_tide.core.rig.kept import kept
from low_tide.core.rig.networks import speaker_networks
from low_tide.core.rig.reachable_states import (
    MOST_STATES,
    Index,
    Standing,
    Table,
    beginnings,
    count,
    every,
    movable,
    standings,
    turns,
)
from low_tide.core.rig.rig import Rig

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
        """The states whose first is how it is set."""
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


@kept("leads", "speaker")
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
    # Those with more than one switch moved are not among them; counting them all is quicker, and mostly enough.
    searched = prod(map(len, tables)) > MOST_STATES and count(tables, 0) + count(tables, 1) > MOST_STATES
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
    return joint.watts_of(key)[:, kind]


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
        for row, peak in _peaks(joint, u, knob.id):
            state = list(joint.standing(row))
            moved = tuple(dict.fromkeys((*state[u].moved, knob.id)))
            state[u] = replace(state[u], settings={**state[u].settings, knob.id: peak}, moved=moved)
            index.append([len(table) for table in tables])
            for table, standing in zip(tables, state, strict=True):
                table.append(standing)
    return [solve(speakers, [tuple(t) for t in tables], np.array(index, np.intp), leads)] if index else []


def _peaks(joint: Joint, u: int, knob: str) -> Iterator[tuple[int, float]]:
    """Where the watts of something rated peak between two marks of a knob: the state beside it, and the setting."""
    at = np.array([float(s.settings[knob]) for s in joint.tables[u]])[joint.index[:, u]]
    line = _lines(joint, u, knob)
    by_line = np.lexsort((at, line))
    place = np.argsort(by_line)
    ends = np.append(np.flatnonzero(np.diff(line[by_line], prepend=-1)), len(line))
    watts = joint.watts[:, :, (LABEL, PLAYED)].reshape(len(line), -1)
    for switched in np.unique(joint.switched):
        rows = np.flatnonzero(joint.switched == switched)
        best = rows[_nearest(joint.moved[rows], watts[rows])]
        first, end = ends[line[best]], ends[line[best] + 1]
        middle = np.clip(place[best], first + 1, np.maximum(end - 2, first + 1))
        three = by_line[np.clip(middle + np.array([[-1], [0], [1]]), 0, len(line) - 1)]
        peaks = _vertex(at[three], watts[three, np.arange(watts.shape[1])])
        for n in np.flatnonzero((end - first >= 3) & ~np.isnan(peaks)):
            yield int(best[n]), float(peaks[n])


def _lines(joint: Joint, u: int, knob: str) -> Index:
    """A number for how everything but one knob stands, from 0 up, shape (S,)."""
    rest: dict[object, int] = {}
    others = (tuple(v for k, v in s.settings.items() if k != knob) for s in joint.tables[u])
    own = np.array([rest.setdefault(each, len(rest)) for each in others], np.intp)
    columns = [own[joint.index[:, u]], *(joint.index[:, n] for n in range(len(joint.tables)) if n != u)]
    line = np.zeros(len(joint.index), np.intp)
    for column in columns:
        if column.any():
            _, line = np.unique(line * (int(column.max()) + 1) + column, return_inverse=True)
    return line


def _vertex(at: Real, values: Real) -> Real:
    """Where parabolas through three marks peak between them, shapes (3, N) → (N,); not a number where that is at the
    middle one, or outside."""
    (a, b, c), (p, q, r) = at, values
    with np.errstate(divide="ignore", invalid="ignore"):
        bend = (r - q) / (c - b) - (q - p) / (b - a)
        peak = (a + b) / 2 - (q - p) / (b - a) * (c - a) / 2 / bend
        return np.where((bend < 0) & (a < peak) & (peak < c) & (peak != b), peak, np.nan)


@dataclass(frozen=True)
class Worst:
    """The greatest value over some states, and the state it is reached in; `joint` and `row` say where that is kept."""

    value: float
    joint: Joint
    row: int

    @property
    def state(self) -> State:
        """How every unit stands there."""
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
        rows = np.flatnonzero(among(joint))
        if not len(rows):
            continue
        watts = joint.watts[rows]
        most, at_label = watts.max(axis=0), rows[_nearest(joint.moved[rows], watts[:, :, LABEL])].tolist()
        for r, key in enumerate(joint.ratings):
            here, before = Worst(float(most[r, LABEL]), joint, at_label[r]), found.get(key)
            if before is None:
                found[key] = (most[r], here)
            else:
                greater = here.value > before[1].value * (1 + ROUNDING)
                found[key] = (np.maximum(most[r], before[0]), here if greater else before[1])
    return found


def _nearest(moved: Index, values: Real) -> Index:
    """The row of the greatest value in every column; of those equal but for rounding, the one with fewest movements.

    Shapes (S,) and (S, N) → (N,).
    """
    alike = values >= values.max(axis=0) * (1 - ROUNDING)
    return np.asarray(np.where(alike, moved[:, None], np.iinfo(np.intp).max).argmin(axis=0), np.intp)


def worst(whole: Reached, value: Callable[[Joint], Real], among: Among) -> Worst | None:
    """The greatest value over some states; of equals the state that is nearest to how it is set. None without any."""
    found: Worst | None = None
    for joint in whole.joints:
        rows = np.flatnonzero(among(joint))
        if not len(rows):
            continue
        values = value(joint)
        row = int(rows[_nearest(joint.moved[rows], values[rows, None])[0]])
        if found is None or values[row] > found.value * (1 + ROUNDING):
            found = Worst(float(values[row]), joint, row)
    return found
