"""A week of drills: five short sittings, more of them right from day to day."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from datetime import datetime, timedelta
from random import Random

from low_tide.app import drills
from low_tide.app.drill_answers import (
    Answer,
    ByChanges,
    ByLetter,
    ByNumber,
    ByOrder,
    ByPointing,
    ByVerdict,
    is_right,
)
from low_tide.app.drill_documents import Question
from low_tide.app.drill_making import Material
from low_tide.core.drills.questions import AboutHookup
from low_tide.core.rig.changes import Disconnect, SetControl
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS

DAYS_AGO = (6, 5, 3, 2, 1)
OF_EACH = 4
WRONG = {0, 2, 3, 5, 8, 10, 15}
"""Which of the twenty were not right."""
HINTS = {1, 9, 13}
SEED = 1894


def right(question: Question) -> Answer:
    """A right answer to a question."""
    match question:
        case Question(sum=sum) if sum is not None:
            return ByNumber(sum.value)
        case Question(ordering=ordering) if ordering is not None:
            return ByOrder(tuple(step.id for step in ordering.in_order()))
        case Question(ear=ear) if ear is not None:
            return ByLetter(ear.which)
    about = _about(question)
    if question.kind == "spot":
        return ByPointing(about.at[0])
    if question.kind == "may":
        tried = [ByVerdict("clear"), *(ByVerdict(v, r.check) for v in ("caution", "stop") for r in about.reasons)]  # type: ignore[arg-type]
        return next(each for each in tried if is_right(question, each))
    return ByChanges(about.undo)


def wrong(question: Question) -> Answer:
    """An answer that is none."""
    match question:
        case Question(sum=sum) if sum is not None:
            return ByNumber(sum.value + 3 * sum.within)
        case Question(ordering=ordering) if ordering is not None:
            return ByOrder(tuple(step.id for step in reversed(ordering.in_order())))
        case Question(ear=ear) if ear is not None:
            return ByLetter("b" if ear.which == "a" else "a")
    about = _about(question)
    if question.kind == "spot":
        return ByPointing(next(unit for unit, _ in about.rig.units() if unit not in about.at))
    if question.kind == "may":
        said = ByVerdict("clear")
        return ByVerdict("stop", about.reasons[0].check) if is_right(question, said) else said
    if question.kind == "level":
        unit, control = about.knobs[0]
        return ByChanges((SetControl(unit, control, about.rig.settings(unit)[control]),))
    return ByChanges((Disconnect(about.rig.hookup.links[0].lead),))


def _about(question: Question) -> AboutHookup:
    assert question.hookup is not None
    return question.hookup


def a_week() -> Iterator[None]:
    """Twenty drills answered, sitting by sitting, each ended after a few."""
    lots, n = Random(SEED), 0
    material = Material(GEAR, HOOKUPS)
    for days in DAYS_AGO:
        at = (datetime.now().astimezone() - timedelta(days=days)).replace(hour=9, minute=10, second=0)
        sitting = drills.begin("lightship", (), material, lots.randrange(1 << 30), drills.said(at))
        for of in range(OF_EACH):
            if of:
                sitting = drills.go_on(sitting.id, material, lots.randrange(1 << 30), drills.said(at))
            assert sitting.at is not None
            if n in HINTS:
                drills.hint(sitting.at)
            answer: Callable[[Question], Answer] = wrong if n in WRONG else right
            at += timedelta(seconds=lots.randint(14, 70 - 2 * n))
            question = drills.question_of(drills.row_of(sitting.at))
            drills.answer(sitting.at, answer(question), drills.said(at))
            at += timedelta(seconds=20)
            n += 1
        drills.end(sitting.id, drills.said(at))
        yield
