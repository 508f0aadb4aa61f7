"""Sittings of drills: begun, asked, answered, ended. Nothing here touches the Bench, the Log or the Locker."""

from __future__ import annotations

import secrets
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from random import Random

from low_tide.app import drill_making
from low_tide.app.drill_answers import Answer, Result, hint_of, is_right, result_of
from low_tide.app.drill_documents import Question, read, written
from low_tide.app.drill_making import Material
from low_tide.app.drill_schedule import Review, reviewed
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.core.drills.cards import CARDS, KINDS
from low_tide.core.drills.rating import rating, usual_time
from low_tide.core.rig.hookup import HookupError
from low_tide.formats.documents import dump
from low_tide.formats.sentences import FormatError
from low_tide.store import drills
from low_tide.store.database import database
from low_tide.store.drills import DrillRecord, SittingRecord

AT_A_SITTING = 10
SOURCES = {"own": "your own locker", "lightship": "the lightship"}


@dataclass(frozen=True)
class Done:
    """A question of a sitting that was answered."""

    id: int
    kind: str
    name: str
    is_right: bool
    once_more: bool


@dataclass(frozen=True)
class Sitting:
    """A sitting as it stands. `at`: the question that is open, or the last one; None before the first. `asked`: how
    many of `of` were, those asked for once more aside."""

    id: int
    source: str
    kinds: tuple[str, ...]
    began: str
    ended: str | None
    asked: int
    of: int
    done: tuple[Done, ...]
    at: int | None
    is_open: bool


def said(at: datetime) -> str:
    """An instant, ISO 8601 in UTC to the millisecond."""
    return at.astimezone(UTC).isoformat(timespec="milliseconds")


def moment() -> str:
    """Now, as `said`."""
    return said(datetime.now(UTC))


def _sitting(sitting_id: int) -> SittingRecord:
    found = drills.sitting(sitting_id)
    if found is None:
        raise NotFound("There is no such sitting. Drills may have been reset since.")
    return found


def row_of(drill_id: int) -> DrillRecord:
    """A question; NotFound where there is none."""
    found = drills.drill(drill_id)
    if found is None:
        raise NotFound("There is no such question. Its sitting was ended, or drills were reset since.")
    return found


def question_of(record: DrillRecord) -> Question:
    """What a question asks; NotFound where it is no longer kept or can no longer be read."""
    if record.doc is None:
        raise NotFound("This question belongs to an earlier sitting and is no longer kept; its answer is.")
    try:
        return read(record.kind, record.card, record.level, record.doc)
    except (FormatError, HookupError):
        raise NotFound("This question is of another version of the program and cannot be shown. Go on.") from None


def shown(sitting_id: int) -> Sitting:
    """A sitting as it stands; NotFound where there is none."""
    return _shown(_sitting(sitting_id))


def _shown(record: SittingRecord) -> Sitting:
    asked = drills.drills_of(record.id)
    done = tuple(
        Done(d.id, KINDS[d.kind].name, CARDS[d.card].name, bool(d.is_right), d.once_more)  # type: ignore[index]
        for d in asked
        if d.answered is not None and d.card in CARDS
    )
    last = asked[-1] if asked else None
    count = sum(not d.once_more for d in asked)
    is_open = last is not None and last.answered is None
    return Sitting(
        record.id,
        record.source,
        record.kinds,
        record.began,
        record.ended,
        count,
        AT_A_SITTING,
        done,
        last.id if last else None,
        is_open,
    )


def begin(source: str, kinds: tuple[str, ...], lightship: Material, seed: int | None = None, at: str = "") -> Sitting:
    """A new sitting with its first question; one that is open ends. Invalid names what is missing for it.

    `seed`: of what is drawn, by chance where left out; `at`: when, now where left out.
    """
    if source not in SOURCES:
        raise Invalid(f"Source: {source} is neither own nor lightship.", fields=[("source",)])
    unknown = [kind for kind in kinds if kind not in KINDS]
    if unknown:
        raise Invalid(f"Kinds: there is no kind “{unknown[0]}”.", fields=[("kinds",)])
    chosen = tuple(kind for kind in KINDS if kind in kinds) or tuple(KINDS)
    first = _next(source, chosen, [], lightship, seed, at)
    with database.atomic():
        began = at or moment()
        drills.end(began)
        number = drills.begin(SittingRecord(source, chosen, began))
        _ask(number, first, once_more=False, at=began)
        return shown(number)


def _next(
    source: str, kinds: tuple[str, ...], asked: list[DrillRecord], lightship: Material, seed: int | None, at: str
) -> Question:
    of = drill_making.stock_of(source, lightship)
    lots = Random(secrets.randbits(32) if seed is None else seed)
    for card, kind, level in drill_making.in_turn(kinds, asked, drills.cards(), at or moment(), lots):
        if drill_making.lacks(kind, of.gear):
            continue
        question = drill_making.made(kind, card.id, of, level, lots)
        if question is not None:
            return question
    missing = next(filter(None, (drill_making.lacks(k, of.gear) for k in KINDS if k in kinds)), "")
    none = "None of the hook-ups that can be built from this locker is sound enough to put a mistake into."
    raise Invalid(missing or none)


def _ask(sitting_id: int, question: Question, once_more: bool, at: str) -> None:
    doc = written(question)
    drills.insert(DrillRecord(sitting_id, question.kind, question.card, question.level, once_more, doc, at))


def go_on(sitting_id: int, lightship: Material, seed: int | None = None, at: str = "") -> Sitting:
    """The next question of a sitting; the one that is open, where one is; its end after the last. `seed`, `at`: as for
    `begin`."""
    record = _sitting(sitting_id)
    now = _shown(record)
    if now.is_open or record.ended:
        return now
    if now.asked >= AT_A_SITTING:
        return end(sitting_id)
    asked = drills.drills_of(sitting_id)
    question = _next(record.source, record.kinds, asked, lightship, seed, at)
    return _ask_after(sitting_id, len(asked), question, once_more=False, at=at or moment())


def _ask_after(sitting_id: int, seen: int, question: Question, once_more: bool, at: str) -> Sitting:
    """Ask what was made while nobody held the sitting: only where it still is open with as many questions as were seen,
    since another window may have asked, ended or reset meanwhile."""
    with database.atomic():
        if _sitting(sitting_id).ended is None and len(drills.drills_of(sitting_id)) == seen:
            _ask(sitting_id, question, once_more, at)
        return shown(sitting_id)


def once_more(drill_id: int, lightship: Material, seed: int | None = None) -> Sitting:
    """The same again a little changed; it does not count for the card."""
    before = row_of(drill_id)
    record = _sitting(before.sitting)
    if record.ended:
        raise Conflict("This sitting has ended; begin another one.")
    asked = drills.drills_of(record.id)
    if _shown(record).is_open:
        raise Conflict("A question is open in this sitting. Answer it first.")
    lots = Random(secrets.randbits(32) if seed is None else seed)
    of = drill_making.stock_of(record.source, lightship)
    question = drill_making.made(before.kind, before.card, of, before.level, lots)  # type: ignore[arg-type]
    if question is None:
        raise Invalid("Nothing in the locker can be asked like this any more.")
    return _ask_after(record.id, len(asked), question, once_more=True, at=moment())


def end(sitting_id: int, at: str = "") -> Sitting:
    """End a sitting. A question nobody answered is forgotten and counts for nothing."""
    with database.atomic():
        if _sitting(sitting_id).ended is None:
            drills.end(at or moment())
        return shown(sitting_id)


def hint(drill_id: int) -> str:
    """The hint of a question. An answer after it counts as hard."""
    record = row_of(drill_id)
    said = hint_of(question_of(record))
    with database.atomic():
        if record.answered is None:
            drills.give_hint(drill_id)
    return said


def answer(drill_id: int, given: Answer, at: str = "") -> Result:
    """Answer a question once. Conflict where it was answered in another window, or its sitting has ended.

    `at`: when, now where left out. A clock that was set back counts as the time of the answer before.
    """
    with database.atomic():
        record = row_of(drill_id)
        if record.answered is not None:
            raise Conflict("This question was answered in another window; that answer counts. Go on from there.")
        if _sitting(record.sitting).ended is not None:
            raise Conflict("This sitting was ended in another window. The answers given until then count.")
        question = question_of(record)
        right = is_right(question, given)
        earlier = drills.answered()
        now = at or moment()
        last = max((d.answered or "" for d in earlier), default="")
        counted = max(now, last)
        seconds = (datetime.fromisoformat(now) - datetime.fromisoformat(record.asked)).total_seconds()
        is_first = not record.once_more and not any(
            d.card == record.card and d.sitting == record.sitting and d.rating for d in earlier
        )
        same = [d.seconds for d in earlier if d.kind == record.kind and d.is_right and d.seconds is not None]
        took = seconds if seconds >= 0 else 0.0
        rated = rating(right, record.hint, took, usual_time(same)) if is_first else None
        after = replace(
            record,
            answered=counted,
            answer=dump(given),
            is_right=right,
            seconds=seconds if seconds >= 0 else None,
            rating=rated,
        )
        drills.give_answer(after)
        if rated is not None:
            drills.put_card(reviewed(drills.cards().get(record.card), Review(record.card, rated, counted)))
    # What is told may take sounds: nobody waits for them with the write lock held.
    return result_of(after, question, given, usual_time(same), set_back=counted != now)
