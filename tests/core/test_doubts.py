"""What nobody knows is judged at its worst: a step of unknown dB, and a cabinet told from ohms at its plug."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from low_tide.core.circuit.dc_reading import FROM, TO, Plug, likely
from low_tide.core.finder.level_plan import level_plan
from low_tide.core.gear.attenuator import Mark
from low_tide.core.gear.cabinet import Driver
from low_tide.core.inventory import Attenuator, Cabinet, Unit
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import judge, with_fixes
from low_tide.core.judging.slips import slips
from low_tide.core.loudness.calibration import onto
from low_tide.core.preferences import Preferences
from low_tide.core.presentation.analysis import at_a_glance
from low_tide.core.presentation.asked import is_open, typical_values
from low_tide.core.rig.changes import SetControl, changed
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.needs import needs
from low_tide.core.rig.rig import Rig
from tests.core.build import AMP, PAD, rig
from tests.core.test_checks import found, worst
from tests.core.test_loudness import LOUD, PADDED, STOOL, aboard, level
from tests.core.test_worst_case import rigs
from tests.examples import many

HALF = replace(PAD, steps=(), marks=(Mark("full", 0.0, 0.0), Mark("half"), Mark("low", 12.0, 0.5)))


def with_half(there: Rig, down_db: float | None) -> Rig:
    """The rig with an attenuator whose second step takes so many dB; None where nobody knows."""
    pad = there.gear["pad"]
    assert isinstance(pad, Attenuator)
    marks = (Mark("full", 0.0, 0.0), Mark("half", down_db, 0.0), Mark("low", 12.0, 0.5))
    gear: dict[str, Unit] = {**there.gear, "pad": replace(pad, marks=marks, marks_are="steps")}
    return Rig(there.hookup, gear, there.known)


@settings(max_examples=many(80), suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much])
@given(rigs(), st.floats(0, 60), st.sampled_from(["full", "half", "low"]))
def test_not_knowing_a_step_is_never_milder_than_any_value_it_may_turn_out_to_have(
    there: Rig, down_db: float, at: str
) -> None:
    assume(there.has("pad"))
    try:
        in_doubt, known = (changed(with_half(there, db), (SetControl("pad", "step", at),)) for db in (None, down_db))
    except HookupError:
        assume(False)
    doubted = judge(in_doubt)
    ranks: dict[tuple[str, tuple[str, ...]], int] = {}
    for f in doubted.findings:
        ranks[f.id, f.units] = max(RANK[f.severity], ranks.get((f.id, f.units), 0))
    milder = {
        (f.id, f.units): (f.severity, f.text)
        for f in judge(known).findings
        if f.id in STRICT and RANK[f.severity] >= 2 and ranks.get((f.id, f.units), 0) < RANK[f.severity]
    }
    assert milder == {}
    live = (
        there.plugged("pad")
        and at == "half"
        and not in_doubt.settings("pad").get("bypass")
        and not in_doubt.settings("pad").get("mute")
    )
    assert doubted.verdict.severity in ("caution", "stop") or not live


STRICT = ("mismatch", "load-rating", "below-minimum", "open-output", "shorted-output")
"""What is judged by the network alone; others may differ in which unit they name."""


def test_a_step_that_only_says_half() -> None:
    here = rig(PADDED, HALF, pad={"step": "half"})
    assert worst(here, "step-unknown") == "caution"
    assert "“half” of" in found(here, "step-unknown")[0].text
    assert worst(rig(PADDED, HALF, pad={"step": "low"}), "step-unknown") == "note"
    assert found(rig(PADDED, PAD, pad={"step": "3"}), "step-unknown") == []
    assert (HALF.decibels("half"), HALF.range_db(), HALF.nearest(9)) == (0, (0, 60), "low")
    assert "half (dB not known)" in [o.label for o in HALF.controls()[0].options]
    assert is_open(HALF, "marks")
    assert [n.field for n in needs(HALF) if not n.known and n.field in ("marks", "steps")] == ["marks"]
    assert any("“half” not known" in t.text for t in typical_values(here))


def test_the_box_counts_all_of_it_and_what_is_behind_it_too() -> None:
    small = replace(HALF, rating=40.0, rating_kind="continuous")
    cab = Cabinet("cab", "Cab", drivers=(Driver(8, 40, 98.0),), rating=40)
    amp_label = judge(rig(PADDED, small, cab, pad={"step": "half"})).case.shares
    by_unit = {s.unit: s.label for s in amp_label if not s.part}
    assert by_unit["cab"] == pytest.approx(50, rel=1e-3)
    assert by_unit["pad"] == pytest.approx(50, rel=1e-2)
    here = at_a_glance(rig(PADDED, small, cab, pad={"step": "half"}))
    assert next(s.now for s in here.shares if s.unit == "pad") == 0  # what is told as now is not the doubt
    assert next(f.remark for f in here.facts if f.id == "speaker") == "at most; the step is not known"
    assert worst(rig(PADDED, small, cab, pad={"step": "half"}), "load-rating") == "stop"


@given(st.sampled_from([4.0, 8.0, 16.0]), st.sampled_from([4.0, 8.0, 16.0]), st.floats(0, 60))
def test_what_a_pad_takes_on_a_source_of_voltage_is_found_between_the_ends_too(
    pad: float, cab: float, down_db: float
) -> None:
    transistor = replace(AMP, technology="transistor", minimum_load=2.0)
    cabinet = Cabinet("cab", "Cab", drivers=(Driver(cab, 400, 98.0),))

    def taken(db: float | None) -> float:
        marks = (Mark("half", db, 0.0), Mark("full", 0.0, 0.0))
        box = replace(PAD, impedance=pad, steps=(), marks=marks, marks_are="steps", rating=100.0)
        here = rig(PADDED, transistor, box, cabinet, pad={"step": "half"})
        return next((s.label for s in judge(here).case.shares if s.unit == "pad"), 0.0)

    assert taken(None) >= taken(down_db) * 0.99  # what lies between the steps that are tried


def test_a_match_is_judged_at_both_ends_and_says_so() -> None:
    low = replace(HALF, impedance=4.0)
    here = rig(PADDED, low, pad={"step": "half"})  # 8 Ω cabinet on the 8 Ω tap: as if it took nothing, it matches
    (told,) = [f for f in judge(here).findings if f.id == "mismatch"]
    assert told.severity == "stop"
    assert told.reason.startswith("That is if “half” of Pad takes nearly all, which nobody knows.")
    assert worst(rig(PADDED, HALF, pad={"step": "half"}), "mismatch") == "fine"
    assert [f.id for f in with_fixes(judge(here)).findings].count("mismatch") == 1
    assert slips(here) is not None


def test_how_loud_it_is_at_most_is_said_where_a_step_is_not_known() -> None:
    doubtful = aboard(PADDED, HALF, LOUD, pad={"step": "half"})
    assert level(doubtful, STOOL) == pytest.approx(level(aboard(PADDED, HALF, LOUD, pad={"step": "full"}), STOOL))
    assert all(s.at_most for s in judge(doubtful).case.sound_levels)
    plan = level_plan(doubtful, Preferences(), "stool")
    assert plan.left_out == ("half of Pad",)
    assert "at half" not in [step.position for ladder in plan.ladders for step in ladder.steps]


def test_calibrating_adds_no_step_a_box_lacks_and_loses_none() -> None:
    read = (Mark("full", 0.0, 0.1), Mark("half", 3.4, 0.2))
    known = onto(HALF, read)
    assert known.positions() == ("full", "half", "low")
    assert [known.decibels(p) for p in known.positions()] == [0, 3.4, 12]
    with pytest.raises(ValueError, match="Pad has no step “quarter”; it has full, half, low"):
        onto(HALF, (*read, Mark("quarter", 6.0)))
    # Steps marked in dB that were measured stay steps: no knob comes of their numbers.
    measured = onto(replace(PAD, steps=(3.0, 6.0, 9.0)), (Mark("3", 0.0), Mark("6", 3.6)))
    assert measured.positions() == ("3", "6", "9")
    assert not measured.is_marked_knob()
    assert measured.decibels("9") == 9
    knob = onto(replace(PAD, steps=()), (Mark("0", 0.0), Mark("7", 9.0)))
    assert knob.is_marked_knob()
    numbered = replace(PAD, steps=(), marks=(Mark("1"), Mark("2")), marks_are="steps")
    assert onto(numbered, (Mark("1", 0.0), Mark("2", 4.0))).positions() == ("1", "2")


@given(st.integers(1, 8), st.sampled_from([4.0, 8.0, 16.0]), st.floats(FROM + 0.01, TO - 0.01), st.data())
def test_ohms_at_the_plug_name_what_is_there_among_the_likely(
    drivers: int, rated: float, part: float, data: st.DataObject
) -> None:
    ways = ["parallel", *(["series"] if drivers > 1 else []), *(["series_parallel"] if drivers in (4, 6, 8) else [])]
    wiring = data.draw(st.sampled_from(ways))
    cab = Cabinet("c", "c", drivers=(Driver(rated),) * drivers, wiring=wiring)
    found_there = likely(Plug(part * cab.nominal(), drivers))
    assert (rated, wiring) in [(each.driver, each.wiring) for each in found_there]
    assert all(
        Cabinet("c", "c", drivers=(Driver(each.driver),) * drivers, wiring=each.wiring).nominal()
        == pytest.approx(each.rated)
        for each in found_there
    )


@pytest.mark.parametrize(
    ("ohms", "drivers", "first"),
    [
        (6.6, 1, (8, "parallel")),
        (3.3, 2, (8, "parallel")),
        (13.1, 2, (8, "series")),
        (6.6, 4, (8, "series_parallel")),
        (13.1, 1, (16, "parallel")),
    ],
)
def test_what_is_likeliest(ohms: float, drivers: int, first: tuple[float, str]) -> None:
    best = likely(Plug(ohms, drivers))[0]
    assert (best.driver, best.wiring) == first


def test_no_common_driver_reads_a_broken_one() -> None:
    assert likely(Plug(100.0, 1)) == ()
    assert likely(Plug(0.4, 1)) == ()


def test_what_was_inferred_is_not_known() -> None:
    cab = Cabinet("cab", "Cab", drivers=(Driver(8, 60, 98.0),), inferred=("Rated impedance",))
    assert [n.known for n in needs(cab) if n.field == "drivers"] == [False]
    assert is_open(cab, "drivers")
    here = rig("lead1: amp/out1 > cab/in1", cab)
    assert "Cab: Rated impedance inferred from ohms at the plug" in [t.text for t in typical_values(here)]
