"""Laying a plan out beside everything else: begun, looked at, stopped; what came of it is put in by itself."""

from __future__ import annotations

import logging
import pickle
import subprocess
import sys
import threading
import time
from dataclasses import dataclass, field
from typing import Literal

from low_tide.app import plans
from low_tide.app.errors import Busy, Invalid, NotFound, Refusal
from low_tide.app.plan_facts import facts_of, marks_of, ticked_off
from low_tide.app.plan_picture import PlanState, shown
from low_tide.app.plan_worker import Task
from low_tide.core.planning.changes import LayOut
from low_tide.core.planning.decode import Placed
from low_tide.core.planning.facts import Facts
from low_tide.core.planning.layout import AT_FIRST, KEEP_LOOKING, Layout, Stage, laid_out
from low_tide.core.planning.project import Block, GoalReached, JobMark, Laid, Project
from low_tide.store.database import database

log = logging.getLogger(__name__)

SECONDS, LONG_SECONDS = 12.0, 120.0
"""How long it looks at first, and where one keeps looking."""
MOST_AT_ONCE = 2
STAGE_WORDS: dict[str, str] = {
    "": "putting a first plan together",
    "constructed": "a first plan is there; improving its order",
    "improved": "improving its order",
    "searched": "looking for the best there is",
}


@dataclass(frozen=True)
class Working:
    """How far a plan that is being laid out is. `said`: what is being done, or what came of it; `part`: of the stage
    that is done. `over`: nothing is done any more, and what came of it is in the project, unless `failed` says why
    not."""

    stage: Literal["", "constructed", "improved", "searched"]
    part: float
    said: str
    seconds: float
    over: bool
    failed: str
    parts: int
    left_out: int
    plugs: int | None


@dataclass
class _Work:
    """One that is under way, or over. `drawn`: the best as it was shown last, of which state of the project."""

    plan: str
    facts: Facts
    kept: tuple[Block, ...]
    marks: tuple[JobMark, ...]
    process: subprocess.Popen[bytes]
    began: float
    data: int
    best: Layout | None = None
    drawn: tuple[tuple[Placed, ...], int, PlanState] | None = None
    over: bool = False
    stopped: bool = False
    failed: str = ""
    ended: float = 0.0
    lock: threading.Lock = field(default_factory=threading.Lock)


_works: dict[str, _Work] = {}
_gate = threading.Lock()


def laid_of(facts: Facts, layout: Layout, kept: tuple[Block, ...], marks: tuple[JobMark, ...]) -> Laid:
    """What is kept of a plan: its blocks beside those that are done, and how far its goals have come."""
    goals = tuple(GoalReached(b.goal, b.value, b.bound) for b in layout.bounds)
    return Laid((*kept, *(facts.block(each) for each in layout.placed)), goals, layout.proven, marks)


def begin(plan_id: str, keep_looking: bool = False) -> Working:
    """Begin to lay a plan out; one that is under way for it is stopped and thrown away."""
    row = plans.row_of(plan_id)
    project = ticked_off(plans.project_of(row))
    _refuse(project)
    facts = facts_of(project, from_now=True)
    kept = tuple(block for block in project.laid.blocks if project.is_over(block))
    effort, seconds = (KEEP_LOOKING, LONG_SECONDS) if keep_looking else (AT_FIRST, SECONDS)
    with _gate:
        _forget(plan_id)
        if sum(not work.over for work in _works.values()) >= MOST_AT_ONCE:
            raise Busy("Two plans are being laid out already. Wait for one of them, or stop it.")
        process = subprocess.Popen(
            [sys.executable, "-P", "-m", "low_tide.app.plan_worker"],
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
            stderr=subprocess.DEVNULL,
        )
        work = _works[plan_id] = _Work(
            plan_id, facts, kept, marks_of(project), process, time.monotonic(), database.opened
        )
    threading.Thread(target=_follow, args=(work, Task(facts.problem, effort, seconds)), daemon=True).start()
    return told(work)


def lay_out_now(plan_id: str) -> None:
    """Lay a plan out while one waits: put together and its order improved, not searched any further."""
    row = plans.row_of(plan_id)
    project = ticked_off(plans.project_of(row))
    facts = facts_of(project, from_now=True)
    best = next(layout for layout in laid_out(facts.problem) if layout.stage == "improved" and layout.part >= 1)
    plans.change(plan_id, [LayOut(laid_of(facts, best, (), marks_of(project)))], row.saves)


def _refuse(project: Project) -> None:
    if not any(not part.done for _, part in project.parts()):
        raise Invalid("Parts: there is none to be laid out. Add some first.")
    if not any(day.windows for day in project.days):
        raise Invalid("Days: there is none to lay anything out on. Say when somebody is there.")


def _follow(work: _Work, task: Task) -> None:
    """Read better and better plans until there are no more, and put the best one in."""
    assert work.process.stdin
    assert work.process.stdout
    try:
        pickle.dump(task, work.process.stdin)
        work.process.stdin.flush()
        while True:
            work.best = pickle.load(work.process.stdout)
    except (EOFError, BrokenPipeError, pickle.UnpicklingError):
        pass
    finally:
        work.process.kill()
        work.process.wait()
    _put_in(work)


def _put_in(work: _Work) -> None:
    with work.lock:
        if work.over:
            return
        try:
            if work.data != database.opened:
                work.failed = "Other data were put in place meanwhile; nothing was laid out in them."
            elif work.best is None:
                work.failed = "" if work.stopped else "It ended before it had a plan. Try again."
            else:
                with database.connection_context():
                    plans.change(work.plan, [LayOut(laid_of(work.facts, work.best, work.kept, work.marks))], None)
        except Refusal as refusal:
            work.failed = " ".join(refusal.problems)
        except Exception:
            log.exception("a plan could not be put in")
            work.failed = "It could not be written down. Try again."
        finally:
            work.over, work.ended = True, time.monotonic()


def _forget(plan_id: str) -> None:
    """End what is under way for a plan without keeping anything of it."""
    work = _works.pop(plan_id, None)
    if work is not None and not work.over:
        with work.lock:
            work.over = True
        work.process.kill()


def stop(plan_id: str) -> Working:
    """End the search; the best there is so far is put in."""
    work = _of(plan_id)
    work.stopped = True
    work.process.kill()
    _put_in(work)
    return told(work)


def _of(plan_id: str) -> _Work:
    work = _works.get(plan_id)
    if work is None:
        raise NotFound("Nothing is being laid out for this project.")
    return work


def look(plan_id: str) -> Working | None:
    """How far it is; None where nothing was begun since the program started."""
    work = _works.get(plan_id)
    return None if work is None else told(work)


def so_far(plan_id: str) -> PlanState | None:
    """The best plan so far, as it is shown, while it is being laid out."""
    work = _works.get(plan_id)
    if work is None or work.over or work.best is None:
        return None
    row, best = plans.row_of(plan_id), work.best
    if work.drawn is None or work.drawn[0] != best.placed or work.drawn[1] != row.saves:
        blocks = laid_of(work.facts, best, work.kept, work.marks).blocks
        work.drawn = best.placed, row.saves, shown(row, plans.project_of(row), blocks)
    return work.drawn[2]


def told(work: _Work) -> Working:
    """How far one is, in words."""
    best = work.best
    stage: Stage | Literal[""] = best.stage if best else ""
    seconds = (work.ended or time.monotonic()) - work.began
    count = len(work.facts.jobs)
    said = STAGE_WORDS[stage]
    if work.over and best is not None:
        said = "proven: no plan is better" if best.proven else "the best that was found in this time"
        said = "stopped; the best so far is put in" if work.stopped else said
    laid = len(best.placed) if best else 0
    plugs = best.worth.plugs if best else None
    return Working(stage, best.part if best else 0.0, said, seconds, work.over, work.failed, laid, count - laid, plugs)
