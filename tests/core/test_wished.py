"""A wished level as people say it, and the rule of thumb where nothing is known."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.acoustics.equal_loudness import loudness_words
from low_tide.core.finder.level_plan import level_plan
from low_tide.core.finder.wished import Wish, read_wish
from low_tide.core.loudness.sound_level import rule_of_thumb, sound_levels
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import SetControl, changed
from low_tide.core.rig.hookup import End
from low_tide.core.rig.words import replugged
from tests.core.build import PAD, rig
from tests.core.test_checks import found
from tests.core.test_loudness import BERTH, BUNKS, HOLD, LOUD, STOOL, STRAIGHT, WALL, aboard


@pytest.mark.parametrize(
    ("said", "kind", "value"),
    [
        ("72", "level", 72),
        ("72,5 dBA", "level", 72.5),
        ("72 dB(A)", "level", 72),
        ("−12 dB", "down", 12),
        ("12 dB down", "down", 12),
        ("+3 dB", "down", -3),
        ("0.5 W", "watts", 0.5),
        ("500 mW", "watts", 0.5),
        ("5 watts", "watts", 5),
        ("half", "down", 3.01),
        ("Half the power", "down", 3.01),
        ("half of the power", "down", 3.01),
        ("½", "down", 3.01),
        ("a quarter of the volts", "down", 12.04),
        ("half as loud", "down", 10),
        ("a third as loud", "down", 15.85),
        ("two thirds", "down", 1.76),
        ("10 %", "down", 10),
        ("1/100", "down", 20),
        ("full", "down", 0),
    ],
)
def test_what_is_understood(said: str, kind: str, value: float) -> None:
    wish = read_wish(said)
    assert (wish.kind, wish.value) == (kind, pytest.approx(value, abs=0.006))


@pytest.mark.parametrize(
    "said",
    ["", "loud", "12 dB", "half the fun", "1/0", "0 W", "-72", "0 %", "150 %", "nan", "1e3", "141", "999 dB down"],
)
def test_what_is_not_is_refused_in_a_sentence(said: str) -> None:
    with pytest.raises(ValueError, match=r"^Wanted: "):
        read_wish(said)


@given(st.text(max_size=40))
def test_whatever_is_typed_is_a_wish_or_a_sentence(said: str) -> None:
    try:
        found_in_it = read_wish(said).kind
    except ValueError as error:
        found_in_it = str(error)
    assert found_in_it.startswith(("level", "down", "watts", "Wanted: "))


@given(st.floats(-60, 20))
def test_the_words_for_loudness_are_those_of_the_nearest_part(change: float) -> None:
    words = loudness_words(change)
    ratio = 2 ** (change / 10)
    if abs(change) < 0.5:
        assert words == "about as loud"
    elif change > 0:
        assert "times as loud" in words
    else:
        parts = {"nine tenths": 0.9, "four fifths": 0.8, "two thirds": 2 / 3, "half": 0.5, "two fifths": 0.4}
        parts |= {"a third": 1 / 3, "a quarter": 1 / 4, "a fifth": 1 / 5, "a sixth": 1 / 6}
        parts |= {"an eighth": 1 / 8, "a tenth": 1 / 10}
        said = words.removeprefix("about ").removesuffix(" as loud")
        told = parts.get(said) or 1 / int(said.removeprefix("1/"))
        assert told == pytest.approx(ratio, rel=0.2)


@given(st.floats(1, 40))
def test_so_far_down_is_so_far_below_full(down: float) -> None:
    here = aboard(STRAIGHT, LOUD)
    plan = level_plan(here, Preferences(), "stool", said=f"{down:.3f} dB down")
    assert plan.full[0] is not None
    assert plan.wanted == pytest.approx(plan.full[0] - down, abs=1e-3)


def test_where_full_cannot_be_told_a_level_is_asked_for() -> None:
    silent = rig("lead1: amp/out1 > load/in", STOOL, HOLD)
    with pytest.raises(ValueError, match="how far down is not to be told: no cabinet is driven"):
        level_plan(silent, Preferences(), "stool", said="half")
    assert level_plan(silent, Preferences(), "stool", said="60").wanted == 60
    assert read_wish("60") == Wish("level", 60)


@pytest.mark.parametrize("said", ["+80 dB", "130 dB down", "0.0000000001 %"])
def test_what_comes_to_no_level_one_can_wish_for_is_refused(said: str) -> None:
    with pytest.raises(ValueError, match=r"^Wanted: that comes to .* dBA there; 0 to 140 dBA can be wished for\."):
        level_plan(aboard(STRAIGHT, LOUD), Preferences(), "stool", said=said)


def test_a_rule_of_thumb_holds_where_nothing_else_is_known() -> None:
    alone = aboard(STRAIGHT, LOUD, replace(BERTH, limits=()))
    (note,) = found(alone, "rule-of-thumb")
    assert (note.severity, note.typical) == ("note", ("the limit is a rule of thumb",))
    assert rule_of_thumb(alone, "stool") == 80
    assert rule_of_thumb(alone, "berth") is None  # in another room
    assert level_plan(alone, Preferences(), "stool").wanted == 80
    assert found(aboard(STRAIGHT, LOUD), "rule-of-thumb") == []  # the berth has its limit
    assert rule_of_thumb(aboard(STRAIGHT, LOUD), "stool") is None
    assert {h.place for h in sound_levels(alone)} >= {"stool", "berth"}
    assert {BUNKS.id, WALL.id} <= set(alone.gear)


def test_what_is_plugged_anew_is_told_a_lead_at_a_time() -> None:
    padded = rig("lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1", PAD)
    assert replugged(padded, changed(padded, (SetControl("pad", "step", "20"),))) == ()
    straight = rig("lead1: amp/out1 > cab/in1", PAD)
    out, taken = straight.label(End("amp", "out1")), straight.label(End("cab", "in1"))
    assert replugged(padded, straight) == (
        f"take out {padded.name('lead2')}",
        f"{padded.name('lead1')} from {out} to {taken}",
    )
