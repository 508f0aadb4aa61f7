"""What differs between two takes: everything that does, and nothing that does not."""

from __future__ import annotations

from dataclasses import replace

import pytest

from low_tide.core.audio.metering import Measures
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.session.change_over import change_over
from low_tide.core.session.difference import Logged, difference
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.build import LOAD, rig

MEASURES = Measures(10.0, 48_000, 1, -3.0, -2.8, -18.0, -20.0, 15.0, 0)
NAMES = sorted(HOOKUPS)


def logged(case: Rig, **more: object) -> Logged:
    return replace(Logged(case, {"Take": "One"}, {"Gain": "6"}, -12.0, None, MEASURES), **more)  # type: ignore[arg-type]


@pytest.mark.parametrize("name", NAMES)
def test_a_take_does_not_differ_from_itself(name: str) -> None:
    case = checked(HOOKUPS[name], GEAR)
    assert difference(logged(case), logged(case)) == ()


@pytest.mark.parametrize("i", range(0, len(NAMES), 3))
def test_it_says_the_same_both_ways_and_leaves_no_lead_out(i: int) -> None:
    one, other = (checked(HOOKUPS[NAMES[(i + by) % len(NAMES)]], GEAR) for by in (0, 1))
    there, back = difference(logged(one), logged(other)), difference(logged(other), logged(one))
    assert {(d.group, d.what, d.one, d.other) for d in there} == {(d.group, d.what, d.other, d.one) for d in back}
    moved = [each for each in change_over(one, other).leads if each.move != "kept"]
    assert sum(d.group == "leads" for d in there) == len(moved)
    assert all(d.one != d.other for d in there)


def test_each_thing_is_told_where_it_belongs() -> None:
    before = rig("lead1: amp/out1 > load/in", amp={"tap": "8"})
    after = rig("lead1: amp/out2 > load/in", replace(LOAD, rating=60), amp={"tap": "16"})
    louder = replace(MEASURES, peak_dbfs=-1.0, rms_dbfs=-17.96, clipped_runs=2)
    found = difference(
        logged(before),
        logged(after, said={"Take": "Two"}, controls={"Gain": "7"}, expected_peak=None, measures=louder),
    )
    assert [(d.group, d.what, d.one, d.other) for d in found] == [
        ("said", "Take", "One", "Two"),
        ("units", "Load, its record", "resistive load, 8 Ω (rating)", "resistive load, 8 Ω (rating)"),
        ("leads", "Lead 1", "Amp, speaker 1 → Load, amp in", "Amp, speaker 2 → Load, amp in"),
        ("settings", "Amp: Tap", "tap 8 Ω", "tap 16 Ω"),
        ("controls", "Gain", "6", "7"),
        ("levels", "Peak, expected", "−12.0 dBFS", "—"),
        ("measures", "Peak", "−3.0 dBFS", "−1.0 dBFS"),
        ("measures", "Clipped runs", "0", "2"),
    ]
    assert [d.what for d in difference(logged(before), logged(before, measures=None))] == ["Recording"]
