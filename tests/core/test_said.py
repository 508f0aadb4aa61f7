"""What the screen says in words is worked out here, where it can be tried: sentences, marks, what counts as nothing."""

from __future__ import annotations

from dataclasses import replace
from math import inf

import pytest

from low_tide.core.acoustics.equal_loudness import THIRDS, shelf_gain, thin
from low_tide.core.acoustics.exposure import day_words, duration
from low_tide.core.circuit.amplifier import two_reading_output_impedance, with_damping
from low_tide.core.finder.level_plan import level_plan
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import judge
from low_tide.core.power.load_feel import contenders, feel_set
from low_tide.core.preferences import Preferences
from low_tide.core.presentation.analysis import analyse, at_a_glance
from low_tide.core.presentation.tide_line import Stage, tide_words
from low_tide.core.rig.validation import checked
from low_tide.core.units import in_db_down, in_ohms, in_watts
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS


@pytest.mark.parametrize(
    ("hours", "said"),
    [(0, "no time at all"), (0.01, "36 s"), (1 / 30, "2 min"), (0.5, "30 min"), (1, "1 h"), (25, "25 h"), (200, "all")],
)
def test_a_time_as_it_is_said(hours: float, said: str) -> None:
    assert duration(hours).startswith(said)
    assert day_words(hours) == (duration(hours) if hours < 24 else "all day")


@pytest.mark.parametrize(
    ("levels", "said"),
    [
        ((), ""),
        (((-3.0, None), (-9.0, -12.0)), "Nothing floods and nothing runs aground."),
        (((0.1, None), (-20.0, -12.0)), "Over the line: stage 0."),
        (((-3.0, None), (-20.0, -12.0)), "Nothing floods; too low: stage 1."),
        (((0.0, None),), "Nothing floods and nothing runs aground."),
    ],
)
def test_the_tide_line_in_a_sentence(levels: tuple[tuple[float, float | None], ...], said: str) -> None:
    stages = (
        Stage(f"s{i}", f"stage {i}", "", "", level, floor, "fine", (), "floats")
        for i, (level, floor) in enumerate(levels)
    )
    assert tide_words(tuple(stages)) == said


@pytest.mark.parametrize("name", sorted(HOOKUPS))
def test_a_unit_is_marked_by_the_worst_that_is_said_of_it(name: str) -> None:
    found = analyse(checked(HOOKUPS[name], GEAR))
    assert [m.unit for m in found.marks] == [p.unit for p in HOOKUPS[name].units]
    for mark in found.marks:
        about = [f.severity for f in found.findings if mark.unit in f.units]
        assert mark.severity == max(about, key=lambda s: RANK[s], default="fine")
        assert RANK[mark.match] <= RANK[mark.severity]
        assert mark.power == "floats" or RANK[mark.power] <= RANK[mark.severity]
    verdict = found.verdict
    told = f"{verdict.stops} stop" if verdict.stops else f"{verdict.cautions} caution" if verdict.cautions else "every"
    assert verdict.remark.startswith(told)


@pytest.mark.parametrize("name", sorted(HOOKUPS))
@pytest.mark.parametrize("hour", ["", "12:00", "22:30"])
def test_what_is_over_a_limit_is_never_drawn_as_what_floats(name: str, hour: str) -> None:
    hookup = replace(HOOKUPS[name], occasion=replace(HOOKUPS[name].occasion, hour=hour))
    found = at_a_glance(checked(hookup, GEAR))
    assert found.stages or not found.amps
    for stage in found.stages:
        assert (stage.tone == "floats") <= (stage.level_db <= 0)
        if stage.severity in ("stop", "caution"):
            assert stage.tone == stage.severity
    over = {s.unit for s in found.shares if s.margin_db is not None and s.margin_db < 0}
    assert not {m.unit for m in found.marks if m.power == "floats"} & over


@pytest.mark.parametrize(
    ("said", "wanted"),
    [
        (in_ohms(8), "8 Ω"),
        (in_ohms(47_000), "47 kΩ"),
        (in_ohms(999.4), "999 Ω"),
        (in_ohms(inf), "∞ Ω"),
        (in_watts(75), "75 W"),
        (in_watts(0.199), "0.199 W"),
        (in_watts(0.05), "50 mW"),
        (in_watts(0.0004), "under 1 mW"),
        (in_watts(0), "0 W"),
        (in_db_down(12), "−12 dB"),
        (in_db_down(0), "0 dB"),
        (in_db_down(0.00001), "0 dB"),
    ],
)
def test_a_figure_with_its_unit(said: str, wanted: str) -> None:
    assert said == wanted


def test_a_glance_differs_from_the_whole_by_fixes_and_curves_alone() -> None:
    rig = checked(HOOKUPS["split-fog"], GEAR)
    glance, whole = at_a_glance(rig), analyse(rig)
    assert glance.verdict == whole.verdict
    assert [f.key for f in glance.findings] == [f.key for f in whole.findings]
    assert not any(f.fixes or f.fix for f in glance.findings)
    proposed = {f.key for f in judge(rig).findings if f.fixes}
    assert {f.key for f in glance.findings if f.sought} == proposed
    assert {f.key for f in whole.findings if f.fix} <= proposed
    assert not any(f.sought for f in whole.findings)
    assert (glance.curves, len(whole.curves)) == ((), 1)


@pytest.mark.parametrize(("loud", "quiet"), [(100, 99.8), (90, 80), (100, 60), (105, 40)])
def test_what_is_missing_is_told_as_it_is(loud: float, quiet: float) -> None:
    found = thin(loud, quiet)
    if found.shelf.gain < 0.5:
        assert found.words == "At this level next to nothing is missing."
        return
    missing = found.lost[int(abs(THIRDS - 80).argmin())]
    assert float(found.words.split(" dB")[0]) == pytest.approx(missing, rel=0.06)
    assert ("more than most monitors stand" in found.words) == (found.shelf.gain > 10)
    assert shelf_gain(found.shelf, THIRDS)[0] > 0


def test_a_damping_factor_goes_with_its_tap() -> None:
    found = two_reading_output_impedance(8, 10.0, 16, 13.333333333333334)
    assert found.output_impedance == pytest.approx(8.0)
    assert with_damping(found, 8.0).damping_factor == pytest.approx(1.0)
    assert with_damping(found, 16.0).damping_factor == pytest.approx(2.0)
    assert with_damping(found, None).damping_factor is None
    stiff = two_reading_output_impedance(8, 10.0, 16, 10.00001)
    assert with_damping(stiff, 16.0).damping_factor is None


def test_a_wish_has_one_headline() -> None:
    rig = checked(HOOKUPS["in-the-loop"], GEAR)
    plan = level_plan(rig, Preferences(), "berth", 50.0)
    assert plan.need_db is not None
    assert plan.headline == f"{plan.headline.split(' dB')[0]} dB down: {plan.words}."
    assert float(plan.headline.split(" dB")[0]) == pytest.approx(plan.need_db, rel=0.01)
    assert level_plan(rig, Preferences(), "berth", 139.0).headline.startswith("139 dBA is more than this amp gives")
    silent = level_plan(checked(HOOKUPS["silent-night"], GEAR), Preferences())
    assert silent.headline == f"Not to be told: {silent.why}."
    assert plan.allowed_words == "all day"


def test_figures_of_a_load_say_when_there_is_no_difference() -> None:
    feels = feel_set(contenders(GEAR), (4.0, 8.0, 16.0), 0.6).feels
    assert feels[0].figures == "the reference"
    for feel in feels[1:]:
        least = max(abs(feel.bass), abs(feel.presence), abs(feel.level))
        assert (feel.figures == "no difference") == (least < 0.05)
