"""A plan laid out in three stages: constructed, its order improved, and the best that can be found and proven."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Literal, TypeAlias

from low_tide.core.planning.anneal import annealed
from low_tide.core.planning.construct import constructed
from low_tide.core.planning.decode import Days, Decoder, Placed, Worth, worth_of
from low_tide.core.planning.problem import Problem

Stage: TypeAlias = Literal["constructed", "improved", "searched"]
MOST_SEARCHED = 200
"""Of more jobs than this the model is too large to say anything in time."""


@dataclass(frozen=True)
class Effort:
    """How hard it is looked for: rounds of annealing, each from the best so far, and deterministic time a goal."""

    rounds: int = 1
    goal: float = 1.5


AT_FIRST, KEEP_LOOKING = Effort(), Effort(8, 20.0)


@dataclass(frozen=True)
class Bound:
    """How far a goal has come: what the best plan has, and what none can better as far as the goals before it are as
    they are; None where that is not known."""

    goal: str
    value: int
    bound: int | None

    @property
    def closed(self) -> bool:
        """Nothing is better in this."""
        return self.value == self.bound


@dataclass(frozen=True)
class Layout:
    """The best plan so far. `part` of the stage that is done (0 to 1). `proven`: no plan is better in any goal."""

    stage: Stage
    part: float
    placed: tuple[Placed, ...]
    worth: Worth
    bounds: tuple[Bound, ...] = ()
    proven: bool = False


def _told(stage: Stage, part: float, days: Days) -> Layout:
    return Layout(stage, part, tuple(each for day in days for each in day.placed), worth_of(days))


def laid_out(problem: Problem, effort: Effort = AT_FIRST, left: Callable[[], float] = lambda: 60.0) -> Iterator[Layout]:
    """Better and better plans. `left`: the seconds that are left by the wall clock. The same problem gives the same
    plans, unless the clock ends it."""
    decoder = Decoder(problem)
    days = constructed(decoder)
    yield _told("constructed", 1.0, days)
    for turn in range(effort.rounds):
        for part, better in annealed(decoder, days, seed=turn + 1):
            days = better
            yield _told("improved", (turn + part) / effort.rounds, days)
            if left() <= 0:
                return
    if not 0 < len(problem.jobs) <= MOST_SEARCHED:
        return
    # Loaded when it is used: it takes longer than a first plan.
    from low_tide.core.planning.exact import GOALS, improved

    for found in improved(decoder, days, effort.goal, left):
        told = _told("searched", len(found.bounds) / len(GOALS), found.days)
        yield Layout(told.stage, told.part, told.placed, told.worth, found.bounds, found.proven)
