"""Numbers, orders, sounds and ratings: held against closed forms, and what is given alone."""

from __future__ import annotations

import re
from math import log10
from random import Random

import numpy as np
import pytest

from low_tide.core.audio.loudness import loudness
from low_tide.core.audio.rendering import RATE
from low_tide.core.drills.cards import CARDS
from low_tide.core.drills.ears import ASKS, MATCHED_LU, STEP_DB, ear, heard
from low_tide.core.drills.ordering import ORDERS
from low_tide.core.drills.rating import level_of, rating, share, usual_time
from low_tide.core.drills.sums import NUMBERS, Sum
from low_tide.core.inventory import Cabinet, Load
from low_tide.core.preferences import Preferences
from low_tide.core.session.run_sheet import run_sheet
from tests.drills.lockers import stocks
from tests.examples import TIMES, many

SEEDS = 300
EARS = 300 if TIMES > 1 else 14


def asked(id: str, seed: int, schools: Preferences | None = None) -> Sum:
    of = stocks()[seed % 4]
    return NUMBERS[id].make(of.gear, schools or of.preferences, 1 + seed % 3, Random(seed))


def figures(text: str) -> list[float]:
    """The numbers in what is given, as they are read."""
    found = re.findall(r"[−+-]?\d+(?:\.\d+)?", text.replace("½", ""))
    return [float(each.replace("−", "-")) for each in found]


def first(made: Sum, n: int) -> float:
    """The first figure of a given value, in plain units."""
    value = made.given[n].value
    return figures(value)[0] * (0.001 if " m" in value and ("mW" in value or "mΩ" in value) else 1.0)


def by_hand(id: str, made: Sum) -> float:
    """The answer worked out from what is written on the sheet, by the formula of the textbook."""
    match id:
        case "ohms-in-parallel":
            return 1 / sum(1 / first(made, n) for n in range(len(made.given)))
        case "ohms-in-series":
            count, each = figures(made.given[0].value)
            wired = figures(made.given[1].value)
            chains = wired[0] if len(wired) == 2 else 1.0
            return each * (count / chains) / chains
        case "watts-from-volts":
            return first(made, 0) ** 2 / first(made, 1)
        case "decibels-of-watts":
            return 10 * log10(first(made, 1) / first(made, 0))
        case "line-to-full-scale":
            more = {given.name: figures(given.value)[0] for given in made.given[2:]}
            gain, pad = more.get("Gain, over the least", 0.0), more.get("Pad", 0.0)
            return first(made, 0) - first(made, 1) + gain - pad
        case "lead-loss":
            lead, load = first(made, 0), first(made, 1)
            return 100 * lead / (lead + load)
        case "hours-one-may-listen":
            at, (level, hours, halving) = first(made, 0), figures(made.given[1].value)[:3]
            return hours / 2 ** ((at - level) / halving) * (60 if made.unit == "min" else 1)
        case "attenuation-for-a-level":
            watts, one, metres, wish = (first(made, n) for n in range(4))
            return one + 10 * log10(watts) - 20 * log10(metres) - wish
    raise AssertionError(id)


@pytest.mark.parametrize("id", list(NUMBERS))
def test_numbers_are_what_the_sheet_says(id: str) -> None:
    """What is written is rounded to three figures, so an answer from it may be off by as much, and is still right."""
    for seed in range(SEEDS):
        made = asked(id, seed)
        hand = by_hand(id, made)
        assert hand == pytest.approx(made.value, rel=0.02, abs=0.15), seed
        assert made.is_right(hand), seed
        assert made.steps
        assert made.unit


def test_what_is_said_of_a_box_is_what_the_locker_says() -> None:
    for seed in range(SEEDS):
        gear = stocks()[seed % 4].gear
        ohms = {
            unit.name: unit.nominal() if isinstance(unit, Cabinet) else unit.impedances[0]
            for unit in gear.values()
            if isinstance(unit, Cabinet | Load)
        }
        given = asked("ohms-in-parallel", seed).given
        assert len({each.name for each in given}) == len(given), seed
        for each in given:
            assert figures(each.value)[0] == pytest.approx(ohms[each.name], rel=0.01), (seed, each)


@pytest.mark.parametrize("id", list(NUMBERS))
def test_a_number_is_right_within_its_bound_alone(id: str) -> None:
    for seed in range(40):
        made = asked(id, seed)
        bound = 0.5 if made.unit in ("dB", "dBFS") else 0.1 * abs(made.value)
        assert made.within == pytest.approx(bound)
        for off, right in ((0.999, True), (1.0, True), (1.01, False)):
            assert made.is_right(made.value + off * bound) == right
            assert made.is_right(made.value - off * bound) == right


@pytest.mark.parametrize("school", ["85_3", "90_5", "80_week"])
def test_hours_go_by_the_chosen_school(school: str) -> None:
    for seed in range(30):
        made = asked("hours-one-may-listen", seed, Preferences(listening=school))  # type: ignore[arg-type]
        assert by_hand("hours-one-may-listen", made) == pytest.approx(made.value, rel=0.01)
        assert ("week" in made.ask) == (school == "80_week")


@pytest.mark.parametrize("id", list(ORDERS))
def test_steps_come_as_the_run_sheet_has_them(id: str) -> None:
    count = 0
    for seed in range(SEEDS if TIMES > 1 else 40):
        of = stocks()[seed % 4]
        made = next(ORDERS[id].make(of, Random(seed)), None)
        if made is None:
            continue
        count += 1
        right = tuple(step.id for step in made.in_order())
        dealt = tuple(step.id for step in made.steps)
        assert made.is_right(right)
        assert not made.is_right(dealt), "as they are dealt they are no answer"
        assert not made.is_right(right[:-1])
        assert not made.is_right((*right[:-1], right[0]))
        for n in range(len(right) - 1):
            swapped = (*right[:n], right[n + 1], right[n], *right[n + 2 :])
            ranks = {step.id: step.rank for step in made.steps}
            assert made.is_right(swapped) == (ranks[right[n]] == ranks[right[n + 1]])
    assert count > 20


def test_the_orders_agree_with_every_run_sheet() -> None:
    """Of two steps that are ranked, none stands in a run sheet before one it must come after."""
    from low_tide.core.drills.ordering import OFF, ON

    for of in stocks():
        rigs = [judged.case.rig for n in range(len(of.recipes)) if (judged := of.sound(n))][: many(6)]
        for rig in rigs:
            steps = run_sheet(rig, of.preferences)
            on = [ON[s.does] for s in steps if s.phase != "switch_off" and s.does in ON]
            off = [OFF[s.does] for s in steps if s.phase == "switch_off" and s.does in OFF]
            if len(list(rig.amps())) == 1:
                assert on == sorted(on)
                assert off == sorted(off)


@pytest.mark.parametrize("card", list(ASKS))
def test_pairs_are_matched_and_differ_by_what_can_be_heard(card: str) -> None:
    count = 0
    for seed in range(EARS):
        pair = ear(card, stocks()[seed % 4].gear, 1 + seed % 3, Random(seed))
        if pair is None:
            continue
        count += 1
        made = heard(pair)
        one, other = loudness(made.a, RATE), loudness(made.b, RATE)
        assert one is not None
        assert other is not None
        asked_for = other - one if pair.which == "b" else one - other
        wanted = -STEP_DB if card == "ear-three-decibels" else 0.0
        assert asked_for == pytest.approx(wanted, abs=MATCHED_LU), (card, seed)
        assert made.differs >= made.needs, (card, seed)
        assert f"{made.differs:.0f}" in made.words or f"{made.differs:.1f}" in made.words
        assert max(np.abs(made.a).max(), np.abs(made.b).max()) < 1.0
        assert len(made.a) == len(made.b)
    assert count >= EARS * 0.9


def test_the_one_that_is_asked_for_is_either() -> None:
    for card in ASKS:
        which = [pair.which for seed in range(40) if (pair := ear(card, stocks()[0].gear, 1, Random(seed)))]
        assert 8 < which.count("a") < 32


def test_a_resistor_needs_something_to_be_held_against() -> None:
    assert ear("ear-resistor", {}, 1, Random(1)) is None
    assert ear("ear-loop-hum", {}, 1, Random(1)) is not None


@pytest.mark.parametrize(
    ("right", "of", "low", "high"),
    [(8, 10, 0.490, 0.943), (0, 10, 0.0, 0.278), (10, 10, 0.722, 1.0), (50, 100, 0.404, 0.596), (1, 1, 0.207, 1.0)],
)
def test_the_interval_is_wilsons(right: int, of: int, low: float, high: float) -> None:
    found = share(right, of)
    assert found is not None
    assert (found.low, found.high) == pytest.approx((low, high), abs=0.001)
    assert share(0, 0) is None


def test_how_an_answer_counts() -> None:
    assert rating(False, False, 5, None) == "again"
    assert rating(False, True, 5, 20) == "again"
    assert rating(True, True, 5, None) == "hard"
    assert rating(True, False, 39, 20) == "good"
    assert rating(True, False, 40, 20) == "good"
    assert rating(True, False, 41, 20) == "hard"
    assert rating(True, False, 3600, 20) == "good", "nobody thinks for an hour: somebody went for a coffee"
    assert rating(True, False, 500, None) == "good"


def test_a_usual_time_takes_some_answers() -> None:
    assert usual_time([10, 20, 30, 40]) is None
    assert usual_time([10, 20, 30, 40, 50]) == 30
    assert usual_time([10, 20, 30, 40, 50, 9999, 0]) == 30


def test_it_gets_harder_with_what_is_known() -> None:
    assert [level_of(n) for n in range(6)] == [1, 1, 2, 2, 3, 3]


def test_there_is_a_card_for_all_that_is_asked() -> None:
    assert set(NUMBERS) | set(ORDERS) | set(ASKS) <= set(CARDS)
