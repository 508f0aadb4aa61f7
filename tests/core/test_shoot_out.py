"""The order of a shoot-out against every order there is, its moves, and what is loud in it."""

from __future__ import annotations

from itertools import pairwise, permutations

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.comparing.chance import as_far_off, at_least
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import SetControl, changed, speaker_side
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.session.shoot_out import OFF, moves, order, plan, speaker_leads_moved
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS, SHOOT_OUT
from tests.examples import many


def rig(name: str) -> Rig:
    return checked(HOOKUPS[name], GEAR)


def in_one_piece(way: tuple[int, ...], loud: list[bool]) -> bool:
    places = [n for n, i in enumerate(way) if loud[i]]
    return not places or places[-1] - places[0] == len(places) - 1


@settings(max_examples=many(60))
@given(st.integers(1, 6).flatmap(lambda n: st.tuples(
    st.lists(st.lists(st.integers(0, 9), min_size=n, max_size=n), min_size=n, max_size=n),
    st.lists(st.booleans(), min_size=n, max_size=n),
)))  # fmt: skip
def test_no_order_takes_less(given_: tuple[list[list[int]], list[bool]]) -> None:
    efforts, loud = given_

    def effort(way: tuple[int, ...]) -> int:
        return sum(efforts[a][b] for a, b in pairwise(way))

    found = order(efforts, loud)
    allowed = [w for w in permutations(range(len(loud))) if in_one_piece(w, loud)]
    assert sorted(found) == list(range(len(loud)))
    assert in_one_piece(found, loud)
    assert effort(found) == min(map(effort, allowed))
    assert found == min(w for w in allowed if effort(w) == effort(found))


def test_the_lightships_list() -> None:
    names = ["dry-groyne", "dry-cabinet", "dry-gabion", "empty-through", "quiet-hold", "dry-revetment"]
    rigs = [rig(n) for n in names]
    made = plan(rigs, 30.0, Preferences())
    ordered = [names[s.which] for s in made.steps]
    assert "empty-through" not in ordered
    assert [names[n] for n, _ in made.left_out] == ["empty-through"]
    assert made.steps[0].moves == ()
    for before, after in zip(made.steps, made.steps[1:], strict=False):
        assert after.leads == speaker_leads_moved(rigs[before.which], rigs[after.which])
        assert not after.leads or after.moves[0] == OFF
        sides = [speaker_side(rigs[s.which]) for s in (before, after)]
        assert (OFF in after.moves) == (sides[0] != sides[1])
    loud = [bool(s.loud) for s in made.steps]
    assert loud.count(True) == 2
    assert in_one_piece(tuple(range(len(loud))), loud)
    assert made.loud is not None
    assert made.loud.minutes == pytest.approx(2 * 1.5)
    assert "over the limit at" in made.loud.words
    assert made.leads == sum(s.leads for s in made.steps)
    assert made.send.startswith("Send the dry track from Skerry 4, output 1 with peaks at +2.0 dBu")


def test_to_the_same_hook_up_nothing_is_moved() -> None:
    for name in SHOOT_OUT:
        assert moves(rig(name), rig(name)) == ()
    turned = moves(rig("dry-groyne"), rig("dry-gabion"))
    assert any("Gabion 40" in move for move in turned)
    assert not any("playback" in move for move in turned)


def test_the_amp_goes_off_before_anything_that_is_not_safe_while_it_is_on() -> None:
    """Every single turn of every control of the lightship: taps and selectors have no lead, and want it as much."""
    seen = 0
    for name in HOOKUPS:
        before = rig(name)
        for unit, gear in before.units():
            for control in gear.controls():
                for value in [o.value for o in control.options]:
                    if value == before.settings(unit)[control.id]:
                        continue
                    after = changed(before, (SetControl(unit, control.id, value),))
                    done = moves(before, after)
                    assert (OFF in done) == (not control.safe_live), (name, unit, control.id)
                    assert OFF not in done[1:]
                    seen += OFF in done
    assert seen > 20


def test_what_is_silent_has_no_window() -> None:
    made = plan([rig("dry-groyne"), rig("dry-gabion")], 10.0, Preferences())
    assert made.loud is None
    assert plan([rig("empty-through")], 10.0, Preferences()).steps == ()


@pytest.mark.parametrize(
    ("right", "trials", "one_sided", "two_sided"), [(12, 16, 0.038, 0.077), (9, 10, 0.011, 0.021), (8, 16, 0.598, 1.0)]
)
def test_by_guessing(right: int, trials: int, one_sided: float, two_sided: float) -> None:
    assert at_least(right, trials) == pytest.approx(one_sided, abs=5e-4)
    assert as_far_off(right, trials) == pytest.approx(two_sided, abs=5e-4)
    assert as_far_off(trials - right, trials) == as_far_off(right, trials)
    assert at_least(0, trials) == 1.0
