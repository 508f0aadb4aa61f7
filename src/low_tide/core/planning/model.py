"""The problem as a model for a constraint solver: set-ups as the nodes of one circuit, jobs assigned to them.

A node is a set-up on a day, up to twice; the circuit goes through the nodes in the order they are made, from what
stands at the beginning, and what stands in the evening stands in the morning. Everything holds that holds for a plan
but how boxes warm up, of which only what any two jobs say of each other is in it. Every rule that somebody might do
without has a literal of its own, so that it can be asked for or not.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from itertools import pairwise
from math import ceil, isinf
from typing import Any

from ortools.sat.python import cp_model

from low_tide.core.planning.decode import Decoder, Order, Placed
from low_tide.core.planning.heat import after, peaks, wait_for
from low_tide.core.planning.problem import MOST_VISITS, NO_SETUP, Problem, Slots, beginnings

Literal = Any
Rests = dict[tuple[int, int], int]
"""Slots that the second of two jobs waits for after the first."""
HEAT = "heat"
ORDER = "order"


def runs(slots: Slots, offset: int) -> list[list[int]]:
    """Slots as intervals, both ends in them, each later by `offset`."""
    found, at = [], 0
    while slots >> at:
        at += ((slots >> at) & -(slots >> at)).bit_length() - 1
        length = 0
        while slots >> (at + length) & 1:
            length += 1
        found.append([at + offset, at + length - 1 + offset])
        at += length
    return found


def domain(problem: Problem, offsets: list[int], masks: Iterable[Slots]) -> cp_model.Domain:
    """Slots of all days, counted through."""
    spans = [run for offset, mask in zip(offsets, masks, strict=False) for run in runs(mask, offset)]
    return cp_model.Domain.from_intervals(spans)


@dataclass
class Node:
    """A set-up on a day: whether it is made, from when to when it is played, how long the change to it takes."""

    setup: int
    day: int
    used: Literal
    start: Any
    end: Any
    change: Any
    jobs: dict[int, Literal] = field(default_factory=dict)


class PlanModel:
    """A model of a problem. `rules`: key of every rule that can be done without → its literal; a rule holds where
    its literal is true. `assuming`: they are left open; otherwise all of them hold."""

    def __init__(self, problem: Problem, assuming: bool = False, rests: Rests | None = None) -> None:
        self.problem, self.model = problem, cp_model.CpModel()
        self.assuming = assuming
        self.rules: dict[str, Literal] = {}
        self.offsets = [0]
        for day in problem.days:
            self.offsets.append(self.offsets[-1] + day.slots)
        self.horizon = self.offsets[-1]
        self.taken: list[Literal] = []
        self.starts: list[Any] = []
        self.on_day: list[list[Literal]] = []
        self.nodes: list[Node] = []
        self.plugs: list[tuple[Literal, int]] = []
        self.arcs: dict[tuple[int, int], Literal] = {}
        self._before: dict[tuple[int, int], Literal] = {}
        self._jobs()
        self._nodes()
        self._circuit()
        self._doses()
        self._orders()
        self._rests(rests or {})

    def rule(self, key: str) -> Literal:
        """The literal of a rule; true where nothing is left open."""
        if key not in self.rules:
            self.rules[key] = self.model.new_bool_var(key) if self.assuming else self.model.new_constant(1)
        return self.rules[key]

    def _jobs(self) -> None:
        problem, model = self.problem, self.model
        everywhere = [(1 << day.slots) - 1 for day in problem.days]
        for index, job in enumerate(problem.jobs):
            taken = model.new_bool_var(f"in {job.id}")
            if job.never:
                model.add(taken == 0)
            if job.pin is not None:
                start = model.new_constant(self.offsets[job.pin.day] + job.pin.slot)
            elif self.assuming:
                start = model.new_int_var(0, self.horizon, f"start {job.id}")
            else:
                whole = domain(problem, self.offsets, problem.starts[index])
                start = (
                    model.new_int_var_from_domain(whole, f"start {job.id}") if whole.size() else model.new_constant(0)
                )
                if not whole.size():
                    model.add(taken == 0)
            days = [model.new_bool_var(f"{job.id} on {day}") for day in range(len(problem.days))]
            model.add(sum(days) == taken)
            for day, here in enumerate(days):
                if not self.assuming and not problem.starts[index][day]:
                    model.add(here == 0)
                model.add(start >= self.offsets[day]).only_enforce_if(here)
                model.add(start + job.slots <= self.offsets[day + 1]).only_enforce_if(here)
            for rule in job.rules:
                masks = (
                    beginnings(allowed & whole, job.slots)
                    for allowed, whole in zip(rule.allows, everywhere, strict=True)
                )
                kept = domain(problem, self.offsets, masks)
                if self.assuming:
                    model.add_linear_expression_in_domain(start, kept).only_enforce_if(self.rule(rule.key), taken)
                elif job.pin is not None:
                    model.add_linear_expression_in_domain(start, kept).only_enforce_if(taken)
            self.taken.append(taken)
            self.starts.append(start)
            self.on_day.append(days)

    def _nodes(self) -> None:
        problem, model = self.problem, self.model
        used_setups = sorted({job.setup for job in problem.jobs if job.setup != NO_SETUP})
        spans: list[Any] = []
        for index, job in enumerate(problem.jobs):
            spans.append(
                model.new_optional_fixed_size_interval_var(self.starts[index], job.slots, self.taken[index], "")
            )
        for setup in used_setups:
            mine = [i for i, job in enumerate(problem.jobs) if job.setup == setup]
            for day, here in enumerate(problem.days):
                able = [i for i in mine if self.assuming or problem.starts[i][day]]
                twin: Node | None = None
                for visit in range(min(MOST_VISITS, len(able))):
                    node = self._node(setup, day, visit, able)
                    if twin is not None:
                        model.add_implication(node.used, twin.used)
                        model.add(node.start >= twin.end).only_enforce_if(node.used)
                    twin = node
                    begins = model.new_int_var(0, self.horizon, "")
                    spans.append(model.new_optional_interval_var(begins, node.change, node.start, node.used, ""))
                    self._in_window(begins, node, here)
                    self.nodes.append(node)
        for index, job in enumerate(problem.jobs):
            if job.setup != NO_SETUP:
                for day in range(len(problem.days)):
                    of_day = [n.jobs[index] for n in self.nodes if n.day == day and index in n.jobs]
                    model.add(sum(of_day) == self.on_day[index][day])
        model.add_no_overlap(spans)

    def _in_window(self, begins: Any, node: Node, here: Any) -> None:
        """A change-over lies in the window of what it is made for."""
        model, offset = self.model, self.offsets[node.day]
        chosen = []
        for window in here.windows:
            in_it = model.new_bool_var("")
            model.add(begins >= offset + window.start).only_enforce_if(in_it, self.rule("window"))
            model.add(node.start < offset + window.stop).only_enforce_if(in_it, self.rule("window"))
            chosen.append(in_it)
        model.add(sum(chosen) == node.used)

    def _node(self, setup: int, day: int, visit: int, able: list[int]) -> Node:
        model, problem = self.model, self.problem
        low, high = self.offsets[day], self.offsets[day + 1]
        name = f"{setup} on {day}, {visit}"
        start, end = model.new_int_var(low, high, f"from {name}"), model.new_int_var(low, high, f"to {name}")
        change = model.new_int_var(
            0,
            max((w.slots for row in problem.ways for w in row), default=0)
            + max((w.cold for row in problem.ways for w in row), default=0),
            f"change {name}",
        )
        node = Node(setup, day, model.new_bool_var(f"used {name}"), start, end, change)
        firsts = []
        for index in able:
            mine, first = model.new_bool_var(""), model.new_bool_var("")
            node.jobs[index] = mine
            firsts.append(first)
            model.add_implication(mine, node.used)
            model.add_implication(first, mine)
            model.add(self.starts[index] >= start).only_enforce_if(mine)
            model.add(self.starts[index] == start).only_enforce_if(first)
            model.add(self.starts[index] + problem.jobs[index].slots <= end).only_enforce_if(mine)
        model.add(sum(firsts) == node.used)
        return node

    def _circuit(self) -> None:
        problem, model = self.problem, self.model
        arcs = self.arcs
        arcs[0, 0] = model.new_bool_var("nothing set up")
        coming: list[list[tuple[Literal, int]]] = [[] for _ in self.nodes]
        for b, node in enumerate(self.nodes):
            first, last = model.new_bool_var(""), model.new_bool_var("")
            arcs[0, b + 1], arcs[b + 1, 0] = first, last
            way = problem.way(problem.standing, node.setup)
            coming[b].append((first, way.cold))
            self.plugs.append((first, way.plugs))
            for a, other in enumerate(self.nodes):
                # The same set-up twice on a day with nothing between is one visit.
                if a == b or other.day > node.day or (other.day == node.day and other.setup == node.setup):
                    continue
                arc = model.new_bool_var("")
                arcs[a + 1, b + 1] = arc
                way = problem.way(other.setup, node.setup)
                coming[b].append((arc, way.slots if other.day == node.day else way.cold))
                self.plugs.append((arc, way.plugs))
                if other.day == node.day:
                    model.add(node.start >= other.end + way.slots).only_enforce_if(arc)
        unused = [(b + 1, b + 1, node.used.negated()) for b, node in enumerate(self.nodes)]
        model.add_circuit([*((a, b, arc) for (a, b), arc in arcs.items()), *unused])
        for b, node in enumerate(self.nodes):
            model.add(node.change == sum(arc * slots for arc, slots in coming[b]))

    def _doses(self) -> None:
        problem, model = self.problem, self.model
        for listener, budget in enumerate(problem.budget):
            for day, within in enumerate(problem.together):
                doses = [
                    self.on_day[i][d] * job.dose[listener]
                    for i, job in enumerate(problem.jobs)
                    for d in within
                    if job.dose[listener]
                ]
                if doses:
                    # With none of it used, a budget that is overdrawn already is nobody's fault here.
                    some = model.new_bool_var("")
                    for i, job in enumerate(problem.jobs):
                        for d in within:
                            if job.dose[listener]:
                                model.add_implication(self.on_day[i][d], some)
                    model.add(sum(doses) <= budget[day]).only_enforce_if(some, self.rule(f"ears:{listener}"))

    def _orders(self) -> None:
        for index, job in enumerate(self.problem.jobs):
            for first in job.after:
                rule = self.rule(ORDER)
                self.model.add_implication(self.taken[index], self.taken[first]).only_enforce_if(rule)
                self.model.add(
                    self.starts[index] >= self.starts[first] + self.problem.jobs[first].slots
                ).only_enforce_if(self.taken[index], rule)

    def before(self, a: int, b: int) -> Literal:
        """True only where job a is over when job b begins."""
        if (a, b) not in self._before:
            found = self.model.new_bool_var("")
            self.model.add(self.starts[a] + self.problem.jobs[a].slots <= self.starts[b]).only_enforce_if(found)
            self._before[a, b] = found
        return self._before[a, b]

    def _rests(self, more: Rests) -> None:
        """Between two jobs of one day that warm the same box: the rest that the first alone asks for before the second;
        `more` where that was not enough."""
        problem = self.problem
        for a in range(len(problem.jobs)):
            for b in range(len(problem.jobs)):
                slots = max(rest_between(problem, a, b), more.get((a, b), 0))
                if a == b or not slots:
                    continue
                first, later = self.before(b, a), self.before(a, b)
                for here, there in zip(self.on_day[a], self.on_day[b], strict=True):
                    self.model.add_bool_or([first, later]).only_enforce_if(here, there, self.rule(HEAT))
                    self.model.add(self.starts[b] >= self.starts[a] + problem.jobs[a].slots + slots).only_enforce_if(
                        later, here, there, self.rule(HEAT)
                    )

    def doubles(self) -> list[Literal]:
        """A literal for every double, true only where it comes right after its main part or another double of it."""
        problem, found = self.problem, []
        family = Decoder(problem).family
        for index, job in enumerate(problem.jobs):
            if job.main is None:
                continue
            near = [
                i
                for i, other in enumerate(problem.jobs)
                if i != index and family[i] == job.main and other.setup == job.setup
            ]
            ways = [self._right_after(first, index) for first in near]
            if ways:
                found.append(self.model.new_bool_var(f"double {job.id}"))
                self.model.add_bool_or(ways).only_enforce_if(found[-1])
                self.model.add(sum(ways) <= 1)
        return found

    def _right_after(self, first: int, second: int) -> Literal:
        model, jobs = self.model, self.problem.jobs
        found = model.new_bool_var("")
        model.add_implication(found, self.taken[first])
        model.add_implication(found, self.taken[second])
        model.add_implication(found, self.before(first, second))
        for here, there in zip(self.on_day[first], self.on_day[second], strict=True):
            model.add(here == there).only_enforce_if(found)
        for other in range(len(jobs)):
            if other not in (first, second):
                model.add_bool_or(
                    [self.before(other, first), self.before(second, other), self.taken[other].negated()]
                ).only_enforce_if(found)
        return found

    def latest(self, loud: bool) -> list[Any]:
        """For every day the slots from its beginning until its last job is over, or its last loud one."""
        found = []
        for day, here in enumerate(self.problem.days):
            until = self.model.new_int_var(0, here.slots, "")
            for index, job in enumerate(self.problem.jobs):
                if job.loud or not loud:
                    self.model.add(
                        until >= self.starts[index] + job.slots - self.offsets[day] - here.begins
                    ).only_enforce_if(self.on_day[index][day])
            found.append(until)
        return found

    def beginnings(self) -> list[Any]:
        """When every job that is in begins, 0 for one that is not."""
        found = []
        for index, taken in enumerate(self.taken):
            at = self.model.new_int_var(0, self.horizon, "")
            self.model.add(at == self.starts[index]).only_enforce_if(taken)
            found.append(at)
        return found

    def hint(self, order: Order) -> None:
        """Begin from an order that is known to go, with everything that follows from it."""
        days = Decoder(self.problem).days(order)
        there = {each.job: each for day in days or () for each in day.placed}
        hint = self.model.add_hint
        self.model.clear_hints()  # type: ignore[no-untyped-call]
        for index, taken in enumerate(self.taken):
            hint(taken, index in there)
            for day, here in enumerate(self.on_day[index]):
                hint(here, index in there and there[index].day == day)
            if index in there and self.problem.jobs[index].pin is None:
                hint(self.starts[index], self.offsets[there[index].day] + there[index].start)
        way = self._way(there)
        in_turn = dict(way)
        for number, node in enumerate(self.nodes):
            jobs = in_turn.get(number, [])
            hint(node.used, bool(jobs))
            for index, mine in node.jobs.items():
                hint(mine, index in jobs)
            if jobs:
                first, last = there[jobs[0]], there[jobs[-1]]
                hint(node.start, self.offsets[node.day] + first.start)
                hint(node.end, self.offsets[node.day] + last.start + self.problem.jobs[jobs[-1]].slots)
                hint(node.change, first.change)
        stops = [0, *(node + 1 for node, _ in way), 0]
        steps = set(pairwise(stops))
        for arc, taken in self.arcs.items():
            hint(taken, arc in steps)

    def _way(self, there: dict[int, Placed]) -> list[tuple[int, list[int]]]:
        """The nodes of an order in turn, with their jobs."""
        found: list[tuple[int, list[int]]] = []
        for index, at in sorted(there.items(), key=lambda item: (item[1].day, item[1].start)):
            setup = self.problem.jobs[index].setup
            if setup == NO_SETUP:
                continue
            last = self.nodes[found[-1][0]] if found else None
            if last is not None and (last.setup, last.day) == (setup, at.day):
                found[-1][1].append(index)
                continue
            been = {node for node, _ in found}
            fresh = next(
                n for n, node in enumerate(self.nodes) if (node.setup, node.day) == (setup, at.day) and n not in been
            )
            found.append((fresh, [index]))
        return found

    def order_of(self, solver: Any) -> Order:
        """The order of a solution."""
        days: list[list[tuple[int, int]]] = [[] for _ in self.problem.days]
        for index, taken in enumerate(self.taken):
            if solver.value(taken):
                day = next(d for d, here in enumerate(self.on_day[index]) if solver.value(here))
                days[day].append((solver.value(self.starts[index]), index))
        return tuple(tuple(index for _, index in sorted(day)) for day in days)


def rest_between(problem: Problem, a: int, b: int) -> int:
    """Slots between the end of one job and the beginning of another that the boxes they share need, if the first
    began cold: a lower bound of what any plan with the first right before the second needs."""
    first, second = problem.jobs[a], problem.jobs[b]
    if NO_SETUP in (first.setup, second.setup):
        return 0
    longest = 0.0
    for box, settles in problem.setups[first.setup].heats:
        for other, then in problem.setups[second.setup].heats:
            if other == box:
                tau, limit = problem.boxes[box].tau, problem.boxes[box].limit
                hot = peaks(problem, first, a, box, settles)
                if hot:
                    rise = after(hot[-1][1], 0.0, first.slots - hot[-1][0], tau)
                    longest = max(longest, wait_for(rise, tau, limit, peaks(problem, second, b, box, then)))
    return problem.days[0].slots if isinf(longest) else ceil(longest - 1e-9)
