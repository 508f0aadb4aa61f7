"""Every plan keeps everything it is to keep, and no order is better, by other means than the program's own."""

from __future__ import annotations

from dataclasses import replace

import pytest

from low_tide.core.planning.construct import MANY, constructed
from low_tide.core.planning.decode import Decoder, Placed, worth_of
from low_tide.core.planning.layout import Effort, Layout, laid_out
from low_tide.core.planning.problem import Problem
from tests.examples import many
from tests.planning.by_hand import best, broken, worth
from tests.planning.problems import problem


def _lies(placed: tuple[Placed, ...]) -> list[tuple[int, int, int, int]]:
    return [(each.job, each.day, each.start, each.change) for each in placed]


def _last(made: Problem) -> Layout:
    *_, last = laid_out(made)
    return last


@pytest.mark.parametrize("seed", range(many(300)))
def test_a_first_plan_breaks_nothing(seed: int) -> None:
    made = problem(seed, 4 + seed % 30, 1 + seed % 5, 2 + seed % 6)
    days = constructed(Decoder(made))
    placed = tuple(each for day in days for each in day.placed)
    assert list(broken(made, _lies(placed))) == []
    assert worth(made, _lies(placed)) == worth_of(days).key


def test_a_first_plan_of_very_many_breaks_nothing() -> None:
    made = problem(7, MANY + 30, 9, 8)
    placed = tuple(each for day in constructed(Decoder(made)) for each in day.placed)
    assert list(broken(made, _lies(placed))) == []
    assert len(placed) > 40


@pytest.mark.parametrize("seed", range(1000, 1000 + many(6)))
def test_no_stage_breaks_anything_or_makes_it_worse(seed: int) -> None:
    made = problem(seed, 8 + seed % 7, 3, 4)
    before = None
    for stage in laid_out(made, Effort(goal=0.3)):
        assert list(broken(made, _lies(stage.placed))) == []
        assert worth(made, _lies(stage.placed)) == stage.worth.key
        assert before is None or stage.worth.key <= before
        before = stage.worth.key


@pytest.mark.parametrize("seed", range(2000, 2000 + many(9)))
def test_of_few_parts_it_is_the_best_there_is(seed: int) -> None:
    made = problem(seed, 4 + seed % 5, 2, 3)
    last = _last(made)
    assert last.worth.key == best(made)[0]
    assert last.proven or any(not each.closed for each in last.bounds)


@pytest.mark.parametrize("seed", range(3000, 3000 + many(2)))
def test_the_same_problem_gives_the_same_plan(seed: int) -> None:
    made = problem(seed, 14, 3, 4)
    assert list(laid_out(made, Effort(goal=0.3))) == list(laid_out(made, Effort(goal=0.3)))


def test_what_can_be_laid_nowhere_is_left_out() -> None:
    made = problem(4, 12, 2, 3)
    first = _last(made).placed[0].job
    jobs = tuple(replace(job, never="too hot") if i == first else job for i, job in enumerate(made.jobs))
    assert first not in {each.job for each in _last(replace(made, jobs=jobs)).placed}
