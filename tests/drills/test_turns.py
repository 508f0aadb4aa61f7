"""What is asked next, and when it comes again."""

from __future__ import annotations

from datetime import datetime, timedelta
from random import Random

import pytest

from low_tide.app.drill_making import in_turn, lacks
from low_tide.app.drill_schedule import MOST_DAYS, Review, replayed, reviewed
from low_tide.core.drills.cards import CARDS, KINDS
from low_tide.core.drills.rating import Rating
from low_tide.store.drills import CardRecord, DrillRecord
from tests.drills.lockers import locker

NOW = "2026-03-10T12:00:00.000+00:00"
BEGIN = datetime.fromisoformat("2026-01-01T09:00:00+00:00")


def card(id: str, due: str, in_a_row: int = 0) -> CardRecord:
    return CardRecord(id, {}, due, in_a_row)


def asked(kind: str, id: str) -> DrillRecord:
    return DrillRecord(1, kind, id, 1, False, None, NOW)


def first(
    kinds: list[str], before: list[DrillRecord], cards: dict[str, CardRecord], seed: int = 1
) -> tuple[str, str, int]:
    found, kind, level = next(in_turn(kinds, before, cards, NOW, Random(seed)))
    return found.id, kind, level


def test_what_is_due_comes_first_then_what_is_new_then_what_is_due_soonest() -> None:
    numbers = [id for id, each in CARDS.items() if each.kinds == ("number",)]
    known = {id: card(id, f"2026-04-{n + 1:02}T00:00:00+00:00") for n, id in enumerate(numbers)}
    known[numbers[3]] = card(numbers[3], "2026-03-09T00:00:00+00:00")
    for seed in range(10):
        assert first(["number"], [], known, seed)[0] == numbers[3]
    new = dict(known)
    del new[numbers[5]], new[numbers[3]]
    new[numbers[3]] = card(numbers[3], "2026-05-01T00:00:00+00:00")
    assert first(["number"], [], new)[0] == numbers[5]
    new[numbers[5]] = card(numbers[5], "2026-05-02T00:00:00+00:00")
    assert first(["number"], [], new)[0] == numbers[0]


def test_a_kind_that_was_asked_less_comes_before_one_that_was_asked_more() -> None:
    before = [asked("number", "lead-loss"), asked("number", "ohms-in-series"), asked("ear", "ear-loop-hum")]
    for seed in range(10):
        assert first(["number", "ear", "order"], before, {}, seed)[1] == "order"


def test_nothing_is_asked_twice_in_a_sitting_before_everything_was_once() -> None:
    ears = [id for id, each in CARDS.items() if each.kinds == ("ear",)]
    before: list[DrillRecord] = []
    for _ in ears:
        before.append(asked("ear", first(["ear"], before, {}, len(before))[0]))
    assert sorted(d.card for d in before) == sorted(ears)
    assert first(["ear"], before, {})[0] in ears


def test_what_is_known_is_asked_harder() -> None:
    due = "2026-03-01T00:00:00+00:00"
    assert [first(["level"], [], {"level-window": card("level-window", due, n)})[2] for n in (0, 2, 4)] == [1, 2, 3]


def test_every_kind_has_a_card() -> None:
    for kind in KINDS:
        assert first([kind], [], {})[1] == kind


@pytest.mark.parametrize(("rating", "least", "most"), [("again", 1, 1), ("hard", 1, 3), ("good", 1, 10)])
def test_the_first_answer_decides_when_it_comes_again(rating: Rating, least: int, most: int) -> None:
    made = reviewed(None, Review("lead-loss", rating, BEGIN.isoformat()))
    days = (datetime.fromisoformat(made.due) - BEGIN).days
    assert least <= days <= most
    assert made.in_a_row == (0 if rating == "again" else 1)


def test_what_is_known_comes_later_and_never_after_ninety_days() -> None:
    at, found, days = BEGIN, None, []
    for _ in range(12):
        found = reviewed(found, Review("lead-loss", "good", at.isoformat()))
        due = datetime.fromisoformat(found.due)
        days.append((due - at).days)
        at = due
    assert days == sorted(days)
    assert days[-1] == MOST_DAYS
    after = reviewed(found, Review("lead-loss", "again", at.isoformat()))
    assert (datetime.fromisoformat(after.due) - at).days < 10
    assert after.in_a_row == 0


def test_the_same_answers_give_the_same_schedule() -> None:
    lots = Random(7)
    reviews = [
        Review(
            lots.choice(list(CARDS)), lots.choice(("again", "hard", "good")), (BEGIN + timedelta(hours=n)).isoformat()
        )
        for n in range(300)
    ]
    assert replayed(reviews) == replayed(reviews)
    half = replayed(reviews[:150])
    for review in reviews[150:]:
        half[review.card] = reviewed(half.get(review.card), review)
    assert half == replayed(reviews)


def test_what_a_locker_lacks_is_named() -> None:
    gear = locker(11)
    assert all(lacks(kind, gear) == "" for kind in KINDS)
    without = {id: unit for id, unit in gear.items() if unit.kind != "amp"}
    assert lacks("spot", without) == "It takes an amp, and there is none in the locker."
    without = {id: unit for id, unit in gear.items() if unit.kind != "interface"}
    assert lacks("spot", without) == ""
    assert "an interface" in lacks("level", without)
    assert lacks("number", {}) == lacks("ear", {}) == ""
