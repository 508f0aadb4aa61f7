"""What leaves no room for a part, and what lies wrong, held against trying everything and against another checker."""

from __future__ import annotations

from dataclasses import replace
from random import Random

import pytest

from low_tide.core.planning.construct import constructed
from low_tide.core.planning.decode import Decoder, Placed, placed_by
from low_tide.core.planning.kept import broken as told
from low_tide.core.planning.left_out import asked, only, with_its_firsts
from low_tide.core.planning.problem import ALLOWANCE, Job, PlanDay, Problem, Ruled, Window
from tests.examples import many
from tests.planning.by_hand import broken, goes, with_changes
from tests.planning.problems import as_facts, problem


def _under(made: Problem, keys: set[str]) -> Problem:
    """The problem with nothing left of its rules but these."""

    def job(each: Job) -> Job:
        whole = tuple((1 << day.slots) - 1 for day in made.days)
        rules = tuple(rule if rule.key in keys else Ruled(rule.key, whole) for rule in each.rules)
        return replace(each, rules=rules, after=each.after if "order" in keys else ())

    days = made.days
    if "window" not in keys:
        days = tuple(PlanDay(day.number, day.slots, (Window(0, day.slots),)) for day in made.days)
    budget = tuple(
        made.budget[n] if f"ears:{n}" in keys else tuple(1000 * ALLOWANCE for _ in made.days)
        for n in range(len(made.budget))
    )
    return replace(made, days=days, jobs=tuple(job(each) for each in made.jobs), budget=budget)


def _cold(made: Problem) -> Problem:
    return replace(made, setups=tuple(replace(setup, heats=()) for setup in made.setups))


@pytest.mark.parametrize("seed", range(many(60)))
def test_none_of_what_is_in_the_way_can_be_spared(seed: int) -> None:
    made = _cold(problem(seed, 4, 1 + seed % 2, 2, tight=1.4))
    facts, project = as_facts(made)
    days = constructed(Decoder(made))
    lies = tuple(each for day in days for each in day.placed)
    there = {each.job for each in lies}
    for job in range(len(made.jobs)):
        if job in there:
            continue
        found = asked(facts, project, lies, job)
        pinned = {i for i, each in enumerate(made.jobs) if each.pin is not None}
        jobs = with_its_firsts(made, job) | (pinned if found.alone else set())
        kept = {int(key.split(":")[1]) for key in found.keys if key.startswith("kept:")}
        assert found.sure
        if not found.keys:
            assert goes(made, with_its_firsts(made, job) | there)
            continue

        def room(keys: set[str], wanted: set[int], made: Problem = made) -> bool:
            # What is kept in brings along what it comes after, as long as that is a rule.
            firsts = set().union(*(with_its_firsts(made, each) for each in wanted)) if "order" in keys else set()
            needed = only(made, wanted | firsts)
            return goes(_under(needed, keys), set(range(len(needed.jobs))))

        keys = set(found.keys)
        assert not room(keys, jobs | kept)
        for each in found.keys:
            spared = jobs | kept - {int(each.split(":")[1])} if each.startswith("kept:") else jobs | kept
            assert room(keys - {each}, spared), each


@pytest.mark.parametrize("seed", range(many(120)))
def test_what_lies_wrong_is_told_and_nothing_else(seed: int) -> None:
    made = replace(problem(seed, 8, 2, 3), span=1)
    facts, project = as_facts(made)
    decoder = Decoder(made)
    order = tuple(day.order for day in constructed(decoder))
    lies = list(placed_by(made, order))
    assert told(facts, project, lies) == ()
    lots = Random(seed)
    for _ in range(12):
        by = [lots.choice((-9, -2, -1, 1, 3, 20)) if lots.random() < 0.25 else 0 for _ in lies]
        starts = [max(0, min(287 - made.jobs[e.job].slots, e.start + n)) for e, n in zip(lies, by, strict=True)]
        by_hand = with_changes(made, [(e.job, e.day, start) for e, start in zip(lies, starts, strict=True)])
        moved = [Placed(*each) for each in by_hand]
        wrong = list(broken(made, by_hand))
        assert bool(told(facts, project, moved)) == bool(wrong), (wrong, told(facts, project, moved))
