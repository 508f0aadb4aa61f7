"""The best plan, as far as it can be found and proven: goals one after the other, each fixed before the next.

One worker and deterministic time, so the same problem gives the same plan; the wall clock only ends it.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from math import isinf
from typing import Any

from ortools.sat.python import cp_model

from low_tide.core.planning.decode import Days, Decoder, Order, order_of, worth_of
from low_tide.core.planning.layout import Bound
from low_tide.core.planning.model import PlanModel, Rests, rest_between
from low_tide.core.planning.problem import NO_SETUP, Problem

ROUNDS = 10
"""How often a plan in which a box gets too hot is solved again with one more rest."""
GOALS = ("musts", "jobs", "doubles", "plugs", "loud", "ends", "starts")
MORE_IS_BETTER = ("musts", "jobs", "doubles")


@dataclass(frozen=True)
class Found:
    """The best days so far, and the goals that were looked at, in their order."""

    days: Days
    bounds: tuple[Bound, ...] = ()

    @property
    def proven(self) -> bool:
        """No plan is better in any goal."""
        return len(self.bounds) == len(GOALS) and all(each.closed for each in self.bounds)


EASY = 24
"""Up to so many jobs every goal is solved for; of more, those after the moves are left as annealing had them."""


def _closed_at_once(problem: Problem, goal: str) -> int | None:
    """What no plan can better, where that is plain: everything in it that can be, every double in its place."""
    able = [any(starts) for starts in problem.starts]
    if goal == "musts":
        return sum(job.must for job, can in zip(problem.jobs, able, strict=True) if can)
    if goal == "jobs":
        return sum(able)
    if goal == "doubles":
        return sum(job.main is not None for job in problem.jobs)
    return 0


class _Goals:
    """A model with the goals that were reached fixed in it."""

    def __init__(self, problem: Problem, rests: Rests) -> None:
        self.problem, self.made = problem, PlanModel(problem, rests=rests)
        self.terms: dict[str, Any] = {}

    def term(self, goal: str) -> Any:
        """The number a goal is about. Built when it is first asked for."""
        if goal not in self.terms:
            made, jobs = self.made, self.problem.jobs
            made_of: dict[str, Callable[[], Any]] = {
                "musts": lambda: sum(t for t, job in zip(made.taken, jobs, strict=True) if job.must),
                "jobs": lambda: sum(made.taken),
                "doubles": lambda: sum(made.doubles()),
                "plugs": lambda: sum(arc * plugs for arc, plugs in made.plugs),
                "loud": lambda: sum(made.latest(loud=True)),
                "ends": lambda: sum(made.latest(loud=False)),
                "starts": lambda: sum(made.beginnings()),
            }
            self.terms[goal] = made_of[goal]()
        return self.terms[goal]

    def fix(self, goal: str, value: int) -> None:
        """From here on no plan is worse in this."""
        term = self.term(goal)
        if isinstance(term, int):
            return
        self.made.model.add(term >= value if goal in MORE_IS_BETTER else term <= value)

    def solve(self, goal: str, order: Order, effort: float, seconds: float) -> tuple[Order | None, int | None]:
        """A better order for a goal where one was found, and what none can better."""
        solver = cp_model.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = 1
        solver.parameters.max_deterministic_time = effort
        solver.parameters.max_time_in_seconds = max(0.01, seconds)
        self.made.hint(order)
        model, term = self.made.model, self.term(goal)
        if goal in MORE_IS_BETTER:
            model.maximize(term)
        else:
            model.minimize(term)
        status = solver.solve(model)
        found = self.made.order_of(solver) if status in (cp_model.OPTIMAL, cp_model.FEASIBLE) else None
        bound = solver.best_objective_bound
        known = found is not None and not isinf(bound)
        return found, round(bound) if known else None


def improved(decoder: Decoder, days: Days, effort: float, left: Callable[[], float] = lambda: 60.0) -> Iterator[Found]:
    """Better days than those that are given, goal after goal, with so much effort (deterministic time) for each; the
    last ones say what is proven. `left`: the seconds that are left by the wall clock, which end it."""
    best = Found(days)
    rests: Rests = {}
    for _ in range(ROUNDS):
        wanted: Rests = {}
        goals, bounds = _Goals(decoder.problem, rests), list[Bound]()
        for goal in GOALS:
            if left() <= 0:
                break
            value, most = getattr(worth_of(best.days), goal), _closed_at_once(decoder.problem, goal)
            if value != most:
                if len(decoder.problem.jobs) > EASY and goal in ("loud", "ends", "starts"):
                    break
                share = effort if all(b.closed for b in bounds) else effort / 4
                found, bound = goals.solve(goal, order_of(best.days), share, left())
                better = decoder.days(found) if found is not None else None
                if found is not None and better is None:
                    wanted = _more_rest(decoder, found, rests)
                    break
                if better is not None and worth_of(better).key < worth_of(best.days).key:
                    best = Found(better)
                value = getattr(worth_of(best.days), goal)
                most = bound if bound is not None and not rests else None
            bounds.append(Bound(goal, value, most))
            best = Found(best.days, tuple(bounds))
            yield best
            goals.fix(goal, value)
        if not wanted:
            return
        rests |= wanted


def _more_rest(decoder: Decoder, order: Order, rests: Rests) -> Rests:
    """A longer rest before the first job that a box is too hot for where it stands."""
    problem, standing = decoder.problem, decoder.problem.standing
    for day, jobs in enumerate(order):
        for count in range(1, len(jobs) + 1):
            if decoder.day(day, standing, jobs[:count]) is None:
                late = jobs[count - 1]
                mine = {box for box, _ in problem.setups[problem.jobs[late].setup].heats}
                for before in reversed(jobs[: count - 1]):
                    setup = problem.jobs[before].setup
                    if setup != NO_SETUP and mine & {box for box, _ in problem.setups[setup].heats}:
                        had = max(rest_between(problem, before, late), rests.get((before, late), 0))
                        return {(before, late): had + max(2, had // 2)}
                return {}
        plan = decoder.day(day, standing, jobs)
        standing = plan.standing if plan else standing
    return {}
