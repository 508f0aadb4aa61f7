"""Answers to drills: what they are worth, and what is told after them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime
from typing import Annotated, Literal, TypeAlias

from pydantic import Field

from low_tide.app.drill_documents import Question
from low_tide.app.errors import Invalid
from low_tide.core.drills.cards import CARDS
from low_tide.core.drills.ears import ASKS, heard
from low_tide.core.drills.mistakes import MISTAKES
from low_tide.core.drills.ordering import ORDERS
from low_tide.core.drills.questions import (
    OF_LEVEL,
    AboutHookup,
    Changed,
    Judged,
    Outcome,
    Pointed,
    answer_hookup,
    stated,
    to_point_at,
)
from low_tide.core.drills.sums import NUMBERS
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.judging.findings import VERDICTS, Finding
from low_tide.core.rig.hookup import HookupError
from low_tide.core.spec import Spec
from low_tide.core.units import figure
from low_tide.formats.documents import ChangeDoc
from low_tide.store import drills
from low_tide.store.drills import DrillRecord

MOST_CHANGES = 12


@dataclass(frozen=True)
class ByPointing:
    """At a unit or lead, by its id."""

    at: Annotated[str, Spec("At", le=64)]
    by: Literal["pointing"] = "pointing"


@dataclass(frozen=True)
class ByVerdict:
    """A verdict and, where it is not clear, the check that is its reason."""

    verdict: Annotated[Literal["clear", "caution", "stop"], Spec("Verdict")]
    reason: Annotated[str, Spec("Reason", le=64)] = ""
    by: Literal["verdict"] = "verdict"


@dataclass(frozen=True)
class ByChanges:
    """Changes to the hook-up that is asked about."""

    changes: Annotated[tuple[ChangeDoc, ...], Spec("Changes", ge=1, le=MOST_CHANGES)]
    by: Literal["changes"] = "changes"


@dataclass(frozen=True)
class ByNumber:
    """A number in the unit that is asked for."""

    value: Annotated[float, Spec("Your answer", "", -1e9, 1e9)]
    by: Literal["number"] = "number"


@dataclass(frozen=True)
class ByOrder:
    """Steps by their ids, the first first."""

    steps: Annotated[tuple[str, ...], Spec("Steps", le=12)]
    by: Literal["order"] = "order"


@dataclass(frozen=True)
class ByLetter:
    """One of two sounds."""

    letter: Annotated[Literal["a", "b"], Spec("Sound")]
    by: Literal["letter"] = "letter"


Answer: TypeAlias = ByPointing | ByVerdict | ByChanges | ByNumber | ByOrder | ByLetter
AnswerDoc: TypeAlias = Annotated[Answer, Field(discriminator="by")]


@dataclass(frozen=True)
class FindingTold:
    """A finding, as it is told after an answer. `typical`: estimates that it rests on."""

    check: str
    severity: str
    text: str
    reason: str
    typical: tuple[str, ...]


@dataclass(frozen=True)
class Result:
    """What is told after an answer. `card`, `rule`, `page`: what was asked for, the rule, where the physics says it.

    `finding`: what the judge finds, None where there is nothing; `at`: what one could point at; `harmless`: why what
    looked wrong was not; `worked`: how a number or an order comes about; `right_answer` in words; `left`: what changes
    leave. `counts`: how it counts for the card, empty where it does not; `due`: when that comes again.
    `seconds` is None where the clock was set back; `usual`: one's median time for this kind.
    """

    is_right: bool
    says: str
    card: str
    rule: str
    page: str
    verdict: str
    finding: FindingTold | None
    at: tuple[str, ...]
    harmless: tuple[str, ...]
    worked: tuple[str, ...]
    right_answer: str
    left: FindingTold | None
    counts: str
    due: str
    seconds: float | None
    usual: float | None
    notes: tuple[str, ...]


SAID = {"clear": VERDICTS["fine"], "caution": VERDICTS["caution"], "stop": VERDICTS["stop"]}
COUNTS = {"again": "It comes again soon.", "hard": "It counts as hard.", "good": "It counts as known."}


def _checks(card: str) -> tuple[str, ...]:
    return MISTAKES[card].checks if card in MISTAKES else OF_LEVEL


def hint_of(question: Question) -> str:
    """What helps without giving it away."""
    card = question.card
    if question.kind == "number":
        return NUMBERS[card].hint
    if question.kind == "order":
        return ORDERS[card].hint
    if question.kind == "ear":
        return ASKS[card][1]
    if question.hookup is not None and question.kind in ("mend", "level"):
        _, finding = stated(question.hookup, _checks(card), question.preferences)
        return finding.text if finding else "Nothing is wrong with it."
    family = next(REGISTRY[check].family for check in _checks(card) if check in REGISTRY)
    return f"Look at it under: {family.lower()}."


def is_right(question: Question, given: Answer) -> bool:
    """Whether an answer is right. Invalid where it is no answer to this question."""
    return _outcome(question, given).right


def _outcome(question: Question, given: Answer) -> Outcome:
    match given:
        case ByNumber() if question.sum is not None:
            return Outcome(question.sum.is_right(given.value), "", None, "")
        case ByOrder() if question.ordering is not None:
            if sorted(given.steps) != sorted(step.id for step in question.ordering.steps):
                raise Invalid("Steps: each of them is wanted once.")
            return Outcome(question.ordering.is_right(given.steps), "", None, "")
        case ByLetter() if question.ear is not None:
            return Outcome(given.letter == question.ear.which, "", None, "")
        case ByPointing() if question.kind == "spot" and question.hookup:
            if given.at not in to_point_at(question.hookup.rig):
                raise Invalid("At: there is no such unit or lead in this hook-up.")
            return answer_hookup(question.hookup, _checks(question.card), Pointed(given.at), question.preferences)
        case ByVerdict() if question.kind == "may" and question.hookup:
            if given.verdict != "clear" and given.reason not in {r.check for r in question.hookup.reasons}:
                raise Invalid("Reason: choose one of those that are offered.")
            judged = Judged(given.verdict, given.reason)
            return answer_hookup(question.hookup, _checks(question.card), judged, question.preferences)
        case ByChanges() if question.kind in ("mend", "level") and question.hookup:
            changes = Changed(tuple(given.changes))
            try:
                return answer_hookup(question.hookup, _checks(question.card), changes, question.preferences)
            except HookupError as error:
                raise Invalid(*error.problems) from None
    raise Invalid("This is no answer to this question.")


def result_of(
    record: DrillRecord, question: Question, given: Answer, usual: float | None, set_back: bool = False
) -> Result:
    """What is told after an answer."""
    outcome, card = _outcome(question, given), CARDS[question.card]
    about = question.hookup
    found = outcome.finding
    known = drills.cards().get(record.card) if record.rating else None
    notes = (
        ("The clock stands before the answer before this one: this counts as given at the same time.",)
        if set_back
        else ()
    )
    if record.seconds is None:
        notes = (*notes, "The clock was set back while it was open: how long it took is not known.")
    return Result(
        is_right=outcome.right,
        says=outcome.says,
        card=card.name,
        rule=card.rule,
        page=card.page,
        verdict=SAID.get(outcome.verdict, ""),
        finding=_told(found),
        at=about.at if about else (),
        harmless=tuple(decoy.why for decoy in about.decoys) if about else (),
        worked=_worked(question),
        right_answer=_right_answer(question, about),
        left=_told(outcome.left),
        counts=COUNTS[record.rating] if record.rating else "",
        due=_days(record.answered or "", known.due) if known else "",
        seconds=record.seconds,
        usual=usual,
        notes=notes,
    )


def _told(finding: Finding | None) -> FindingTold | None:
    if finding is None:
        return None
    return FindingTold(finding.id, finding.severity, finding.text, finding.reason, finding.typical)


def _worked(question: Question) -> tuple[str, ...]:
    if question.sum is not None:
        return question.sum.steps
    if question.ordering is not None:
        return tuple(step.text for step in question.ordering.in_order())
    if question.ear is not None:
        return (heard(question.ear).words,)
    return ()


def _right_answer(question: Question, about: AboutHookup | None) -> str:
    if question.sum is not None:
        within = figure(question.sum.within, 2)
        return f"{figure(question.sum.value)} {question.sum.unit}, ± {within} {question.sum.unit} counts"
    if question.ear is not None:
        return f"{question.ear.which.upper()}"
    if about is not None and question.kind == "spot":
        return ", ".join(about.rig.name(each) for each in about.at if each in about.rig.gear)
    return ""


def _days(since: str, due: str) -> str:
    """'tomorrow', 'in 5 days': from one instant to another."""
    days = round((datetime.fromisoformat(due) - datetime.fromisoformat(since)).total_seconds() / 86_400)
    return "tomorrow" if days <= 1 else f"in {days} days"
