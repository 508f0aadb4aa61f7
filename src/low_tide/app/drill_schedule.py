"""When a card comes again: spaced repetition by the answers alone, so that replaying them gives what is stored."""

from __future__ import annotations

import json
from collections.abc import Iterable
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import TYPE_CHECKING
from zlib import crc32

from low_tide.core.drills.rating import Rating
from low_tide.store.drills import CardRecord

if TYPE_CHECKING:
    from fsrs import Scheduler

MOST_DAYS = 90


@dataclass(frozen=True)
class Review:
    """An answer as it counts for a card: which, how, and when (ISO 8601)."""

    card: str
    rating: Rating
    at: str


def _scheduler() -> Scheduler:
    """Without steps within a day and without chance: a card is due after whole days, at most ninety."""
    from fsrs import Scheduler

    return Scheduler(learning_steps=(), relearning_steps=(), maximum_interval=MOST_DAYS, enable_fuzzing=False)


def reviewed(before: CardRecord | None, review: Review) -> CardRecord:
    """A card after an answer that counts. Without one before, it is a new card."""
    from fsrs import Card
    from fsrs import Rating as Grade

    card = Card.from_json(json.dumps(before.doc)) if before else Card(card_id=crc32(review.card.encode()))
    grade = {"again": Grade.Again, "hard": Grade.Hard, "good": Grade.Good}[review.rating]
    at = datetime.fromisoformat(review.at).astimezone(UTC)
    after, _ = _scheduler().review_card(card, grade, at)
    right = review.rating != "again"
    in_a_row = (before.in_a_row if before else 0) + 1 if right else 0
    return CardRecord(review.card, json.loads(after.to_json()), after.due.isoformat(timespec="seconds"), in_a_row)


def replayed(reviews: Iterable[Review]) -> dict[str, CardRecord]:
    """Every card after all answers, in the order they were given."""
    found: dict[str, CardRecord] = {}
    for review in reviews:
        found[review.card] = reviewed(found.get(review.card), review)
    return found
