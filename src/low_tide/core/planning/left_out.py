"""Why a part is not in the plan: the limits that leave no room for it, none of which can be spared."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from low_tide.core.planning.decode import Decoder, Placed
from low_tide.core.planning.facts import Facts
from low_tide.core.planning.problem import ALLOWANCE, Problem
from low_tide.core.planning.project import Project
from low_tide.core.units import figure

MOST_ASKED = 24
"""Beside more jobs than this it is not proven in time what of them is in the way."""
HEAT = "heat"
EFFORT = 1.0
"""Deterministic time that one question is given."""
KEPT = "kept:"


@dataclass(frozen=True)
class Asked:
    """What leaves no room for a job: rules without any one of which there would be room, by key and in words.

    `alone`: there would be none if it were the only one. `sure`: proven; otherwise some of them may be spared.
    """

    keys: tuple[str, ...]
    words: tuple[str, ...]
    alone: bool
    sure: bool


def only(problem: Problem, jobs: Iterable[int]) -> Problem:
    """The problem of some of its jobs alone, in their order."""
    kept = sorted(set(jobs))
    index = {old: new for new, old in enumerate(kept)}
    made = [
        replace(
            problem.jobs[old],
            after=tuple(index[first] for first in problem.jobs[old].after if first in index),
            main=index.get(-1 if (main := problem.jobs[old].main) is None else main),
        )
        for old in kept
    ]
    return replace(problem, jobs=tuple(made))


def with_its_firsts(problem: Problem, job: int) -> set[int]:
    """A job with everything that comes before it."""
    found, new = {job}, {job}
    while new:
        new = {first for each in new for first in problem.jobs[each].after} - found
        found |= new
    return found


class _Question:
    """Whether some jobs go in together, under some of the rules."""

    def __init__(self, problem: Problem, jobs: set[int], kept: set[int]) -> None:
        # Loaded when it is used: nothing of it is wanted before a plan is asked about.
        from ortools.sat.python import cp_model

        from low_tide.core.planning.model import PlanModel

        self.cp, self.sure = cp_model, True
        some = only(problem, jobs | kept)
        index = {old: new for new, old in enumerate(sorted(jobs | kept))}
        self.made = PlanModel(some, assuming=True)
        for job in jobs:
            self.made.model.add(self.made.taken[index[job]] == 1)
        for job in kept - jobs:
            self.made.model.add_implication(self.made.rule(f"{KEPT}{job}"), self.made.taken[index[job]])
        self.keys = tuple(self.made.rules)
        self._by_literal = {literal.index: key for key, literal in self.made.rules.items()}

    def _solved(self, keys: Sequence[str]) -> tuple[Any, Any]:
        solver = self.cp.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = 1
        solver.parameters.max_deterministic_time = EFFORT
        self.made.model.clear_assumptions()
        self.made.model.add_assumptions([self.made.rules[key] for key in keys])
        return solver.solve(self.made.model), solver

    def goes(self, keys: Sequence[str]) -> bool:
        """Whether they go in under these rules; also where it is not known, which is then no longer sure."""
        status, _ = self._solved(keys)
        if status not in (self.cp.INFEASIBLE, self.cp.OPTIMAL, self.cp.FEASIBLE):
            self.sure = False
        return bool(status != self.cp.INFEASIBLE)

    def in_the_way(self) -> tuple[str, ...] | None:
        """Rules that leave no room together, each needed for that; None where there is room under all of them."""
        status, solver = self._solved(self.keys)
        if status != self.cp.INFEASIBLE:
            self.sure = status in (self.cp.OPTIMAL, self.cp.FEASIBLE)
            if self.sure and Decoder(self.made.problem).days(self.made.order_of(solver)) is None:
                # Everything else lets it in; what is left is how boxes warm up one after the other.
                self.sure = False
                return (HEAT,)
            return None
        core = [self._by_literal[i] for i in solver.sufficient_assumptions_for_infeasibility()]
        needed = [key for key in self.keys if key in core]
        for key in list(needed):
            fewer = [each for each in needed if each != key]
            if not self.goes(fewer):
                needed = fewer
        return tuple(needed)


def asked(facts: Facts, project: Project, lies: Sequence[Placed], job: int) -> Asked:
    """Why a job is not in a plan. By itself first, with what comes before it and what is pinned; if there is room then,
    beside everything that is laid."""
    problem = facts.problem
    jobs = with_its_firsts(problem, job)
    pinned = {i for i, each in enumerate(problem.jobs) if each.pin is not None and not each.never}
    alone = _Question(problem, jobs | pinned, set())
    found = alone.in_the_way()
    if found is not None:
        return Asked(found, tuple(_words(facts, project, job, key) for key in found), True, alone.sure)
    laid = {each.job for each in lies}
    if len(laid | jobs) > MOST_ASKED:
        return Asked((), ("By itself there is room for it, but not beside what is laid.",), False, False)
    beside = _Question(problem, jobs, laid)
    found = beside.in_the_way()
    if found is None:
        return Asked((), ("There is room for it: lay it out again.",), False, beside.sure)
    return Asked(found, tuple(_words(facts, project, job, key) for key in found), False, beside.sure)


def _words(facts: Facts, project: Project, job: int, key: str) -> str:
    if key.startswith(KEPT):
        return f"{project.called(facts.jobs[int(key.removeprefix(KEPT))].part)} stays in."
    if key.startswith("ears:"):
        listener = int(key.removeprefix("ears:"))
        share = figure(100 * facts.problem.jobs[job].dose[listener] / ALLOWANCE, 2)
        return f"The ears of {facts.problem.listeners[listener]}: this takes {share} % of their allowance."
    said = {"window": "Somebody is there only so long.", "order": "It comes after other parts.", "heat": "Boxes rest."}
    if key in said:
        return said[key]
    words = facts.jobs[job].rules.get(key)
    return f"{words or next((f.rules[key] for f in facts.jobs if key in f.rules), key)}."
