"""The staff over the whole lightship: what it tells of a step, a limit or a gap is what one gets."""

from __future__ import annotations

from dataclasses import replace
from functools import cache
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.finder.level_plan import LevelPlan, gaps, level_plan
from low_tide.core.judging.judge import judge
from low_tide.core.loudness.sound_level import COARSE_DB, sound_levels
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import SetControl, changed, describe
from low_tide.core.rig.hookup import Occasion
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS


def at_night(name: str) -> Rig:
    return checked(replace(HOOKUPS[name], occasion=Occasion("22:30")), GEAR)


@cache
def told(name: str) -> tuple[Rig, LevelPlan]:
    rig = at_night(name)
    return rig, level_plan(rig, Preferences())


FIXED = {
    "combo-extension",
    "dry-gabion",
    "dry-groyne",
    "dry-revetment",
    "dry-track",
    "empty-through",
    "pedals-in-front",
    "processor-around",
    "silent-night",
    "stereo-cabinet",
    "stereo-tails",
}
"""Hook-ups in which nothing turns down what is heard, or nothing is heard."""
LOUD = tuple(name for name in HOOKUPS if name not in FIXED)


def test_what_can_be_turned_down_and_why_the_rest_cannot() -> None:
    assert {name for name in HOOKUPS if not told(name)[1].ladders} == FIXED
    for name in FIXED:
        found = told(name)[1]
        assert found.why, name
        assert not found.nearest


@pytest.mark.parametrize("name", LOUD)
def test_advice_leads_to_the_verdict_and_the_level_it_tells(name: str) -> None:
    rig, found = told(name)
    ids = [p.place for p in found.places]
    assert len({a.step.unit for a in found.nearest}) == len(found.nearest) > 0
    for advice in found.nearest:
        there = changed(rig, advice.step.changes)
        assert judge(there).verdict.severity == advice.severity
        level = next(h.dba for h in sound_levels(there) if h.place == found.place)
        assert level == pytest.approx(advice.step.levels[ids.index(found.place)], abs=1e-6)
        assert level - found.wanted == pytest.approx(advice.off_db, abs=1e-6)
        assert advice.near == (abs(advice.off_db) <= COARSE_DB)
    stops = [a.severity == "stop" for a in found.nearest]
    assert stops == sorted(stops)
    assert found.coarse is not any(a.near for a in found.nearest)


@pytest.mark.parametrize("name", LOUD)
def test_nothing_owned_comes_nearer_than_what_is_advised(name: str) -> None:
    _, found = told(name)
    at = [p.place for p in found.places].index(found.place)
    best = {a.step.unit: abs(a.off_db) for a in found.nearest}
    for ladder in found.ladders:
        for step in ladder.steps:
            level = step.levels[at]
            if level is not None and ladder.unit in best:
                assert abs(level - found.wanted) >= best[ladder.unit] - 1e-9
    assert sum(r.is_now for ladder in found.ladders for r in ladder.steps) <= 1


@pytest.mark.parametrize("name", LOUD)
def test_a_rung_keeps_a_limit_just_when_it_is_as_far_down_as_the_limit_asks(name: str) -> None:
    _, found = told(name)
    order = {p.place: (i, p.spread.up) for i, p in enumerate(found.places)}
    for bound in found.bounds:
        at, spread = order[bound.place]
        for step in (r for ladder in found.ladders for r in ladder.steps):
            level = step.levels[at]
            if level is None or (bound.down_db and abs(step.down_db - bound.down_db) < 0.05):
                continue
            # Where the rest of the hook-up is over the limit no step keeps it.
            enough = bound.down_db is not None and step.down_db > bound.down_db
            assert (level + spread <= bound.limit.level) == enough, (name, step.name, bound)


@given(st.lists(st.floats(0, 60), max_size=8))
def test_gaps_are_just_what_no_step_comes_near(steps: list[float]) -> None:
    found = gaps(tuple(steps))
    for gap in found:
        middle = (gap.start + gap.end) / 2
        assert all(abs(step - middle) > COARSE_DB for step in steps)
    for low, high in pairwise(sorted(steps)):
        middle = (low + high) / 2
        inside = any(g.start <= middle <= g.end for g in found)
        assert inside == (high - low > 2 * COARSE_DB + 0.05)


@pytest.mark.parametrize("name", HOOKUPS)
def test_every_setting_is_worded_with_its_control_and_unit(name: str) -> None:
    rig = checked(HOOKUPS[name], GEAR)
    for unit, gear in rig.units():
        for control in gear.controls():
            words = describe(SetControl(unit, control.id, rig.settings(unit)[control.id]), rig)
            assert words.startswith(f"{gear.name}: {control.label.lower()} ")
            if words[-1].isdigit():
                assert not control.unit, words
            assert "-" not in words.removeprefix(gear.name).removeprefix(f": {control.label.lower()}"), words
