"""How long a plan takes, and how far it is by then: twenty generated projects of 60 parts over five days.

`python -m tests.bench.plan` holds all of them against two minutes each; `make bench` does so with the first few.
"""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass

from low_tide.core.planning.construct import constructed
from low_tide.core.planning.decode import Decoder, Worth, worth_of
from low_tide.core.planning.layout import AT_FIRST, KEEP_LOOKING, Effort, laid_out
from low_tide.core.planning.problem import Problem
from tests.planning.problems import problem

PROJECTS, PARTS, DAYS, SETUPS = 20, 60, 5, 9
HELD = 3
"""So many are held against two minutes where there is no more time."""


@dataclass(frozen=True)
class Run:
    """A plan after so many seconds: when there was a first one, and what the last is worth."""

    first: float
    worth: Worth
    proven: bool


def project(seed: int) -> Problem:
    return problem(seed, PARTS, DAYS, SETUPS)


def laid(made: Problem, effort: Effort, seconds: float) -> Run:
    began = time.monotonic()
    plans = laid_out(made, effort, lambda: began + seconds - time.monotonic())
    next(plans)
    first = time.monotonic() - began
    *_, last = plans
    return Run(first, last.worth, last.proven)


def _shorter(runs: list[Run], longer: list[Run]) -> tuple[int, float]:
    """Musts more that are left out than after a longer time, and lead moves more, in %, at the worst; moves only where
    as much is laid."""
    musts = sum(max(0, b.worth.musts - a.worth.musts) for a, b in zip(runs, longer, strict=True))
    more = [
        100 * (a.worth.plugs / b.worth.plugs - 1)
        for a, b in zip(runs, longer, strict=True)
        if (a.worth.musts, a.worth.jobs) == (b.worth.musts, b.worth.jobs) and b.worth.plugs
    ]
    return musts, max(more, default=0.0)


def plan(line: Callable[..., None], held: int = HELD) -> None:
    """Prints the timings."""
    code = (
        "import time; t = time.perf_counter(); from ortools.sat.python import cp_model; print(time.perf_counter() - t)"
    )
    loading = float(subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout)
    line("loading the constraint solver, once, when it is first used", 1000 * loading, "ms")
    made = [project(seed) for seed in range(PROJECTS)]
    spent = []
    for each in made:
        began = time.perf_counter()
        worth_of(constructed(Decoder(each)))
        spent.append(time.perf_counter() - began)
    line("60 parts over 5 days: put together, the slowest of 20", 1000 * max(spent), "ms", "aim ≤ 500")
    short = [laid(each, AT_FIRST, 10.0) for each in made]
    line("  a first plan is there, the slowest of 20", 1000 * max(run.first for run in short), "ms", "aim ≤ 2,000")
    line("  proven after 10 s, of 20", sum(run.proven for run in short), "")
    longer = [laid(each, KEEP_LOOKING, 120.0) for each in made[:held]]
    musts, moves = _shorter(short[:held], longer)
    line(f"  musts left out more after 10 s than after 120 s, of {held}", musts, "", "aim 0")
    line(f"  plugs moved more after 10 s than after 120 s, of {held}", moves, "%", "aim ≤ 15")


if __name__ == "__main__":
    plan(lambda what, value, unit, aim="": print(f"{what:62} {value:9.1f} {unit:8} {aim}", flush=True), PROJECTS)
