"""Bounds that a verdict turns on, each from both sides."""

from __future__ import annotations

from dataclasses import replace

import pytest

from low_tide.core.acoustics.exposure import allowed_hours, dose, level_for, level_left
from low_tide.core.circuit.impedance import MeasuredCurve
from low_tide.core.gear.amp import Loop, PowerMode
from low_tide.core.gear.base import DriverData
from low_tide.core.gear.cabinet import Driver, OwnLead
from low_tide.core.inventory import Attenuator, Cabinet
from low_tide.core.loudness.sound_level import sound_level_at
from low_tide.core.power.shares import downstream
from low_tide.core.presentation.analysis import analyse
from low_tide.core.rig.hookup import Occasion
from low_tide.core.session.run_sheet import run_sheet
from low_tide.core.signal_path.levels import levels
from tests.core.build import AMP, BOX, CAB, LOAD, LOOPED, SWITCH, rig
from tests.core.test_checks import PLAIN, found, worst
from tests.core.test_loudness import PADDED, STOOL, STRAIGHT, aboard

BEHIND_PAD = "lead1: amp/out1 > pad/in; thin: pad/out > cab/in1"
TWO_AMPS = "lead1: amp/out1 > switch/in1; lead2: looped/out1 > switch/in2; lead3: switch/out1 > cab/in1"


@pytest.mark.parametrize(("idle", "severity"), [("unknown", "caution"), ("open", "stop"), ("loaded", "silent")])
def test_what_a_switch_does_with_the_amp_that_waits(idle: str, severity: str) -> None:
    switch = replace(SWITCH, idle=idle)  # type: ignore[arg-type]
    alone = "lead1: amp/out1 > switch/in1; lead3: switch/out1 > cab/in1"
    assert worst(rig(alone, switch), "switcher-leaves-open") == severity


@pytest.mark.parametrize(("rating", "severity"), [(None, "caution"), (49.9, "stop"), (50.0, "caution"), (75.0, "fine")])
def test_an_idle_load_stands_the_amp_that_waits(rating: float | None, severity: str) -> None:
    case = rig(TWO_AMPS, replace(SWITCH, idle_rating=rating), switch={"input": "1"})
    assert (
        max(
            (f.severity for f in found(case, "load-rating") if "idle load 2" in f.text),
            key=("fine", "caution", "stop").index,
        )
        == severity
    )


@pytest.mark.parametrize(("ratings", "severity"), [((60, None), "caution"), ((60, 60), "fine"), ((60, 20), "stop")])
def test_a_cabinet_is_known_when_all_its_drivers_are(ratings: tuple[float | None, ...], severity: str) -> None:
    cab = Cabinet("cab", "Cab", drivers=tuple(Driver(16, r) for r in ratings))
    assert worst(rig("lead1: amp/out1 > cab/in1", cab), "load-rating") == severity


@pytest.mark.parametrize(
    ("kind", "flat_out", "severity"),
    [
        ("unknown", False, "caution"),
        ("unknown", True, "caution"),
        ("continuous", False, "fine"),
        ("continuous", True, "stop"),
        ("amp_label", True, "fine"),
    ],
)
def test_what_kind_of_watts_a_rating_counts(kind: str, flat_out: bool, severity: str) -> None:
    load = replace(LOAD, rating=60, rating_kind=kind)  # type: ignore[arg-type]
    assert worst(rig(PLAIN, load, amp={"flat_out": flat_out}), "load-rating", margin="label") == severity


def test_what_a_re_amplifier_drives_is_not_fed_by_the_amp_before_it() -> None:
    case = rig("lead1: amp/out1 > reamp/in; lead2: reamp/out > cab/in1")
    assert downstream(case, "reamp") == {"reamp"}


@pytest.mark.parametrize(("step", "severity"), [(18.7, "stop"), (18.8, "note")])
def test_one_watt_through_a_screened_lead(step: float, severity: str) -> None:
    # 75 W flat out are 1 W after 18.75 dB.
    pad = Attenuator("pad", "Pad", rating=100, rating_kind="continuous", steps=(step,))
    assert worst(rig(BEHIND_PAD, pad), "screened-speaker-lead") == severity


@pytest.mark.parametrize(("lead", "severity"), [(OwnLead(1.0), "silent"), (OwnLead(0.9), "caution")])
def test_a_combos_own_lead_reaches_or_not(lead: OwnLead, severity: str) -> None:
    inner = Cabinet("inner", "Inner", drivers=(Driver(8, 100),), own_lead=lead)
    case = rig("lead1: amp/out1 > pad/in; inner: inner/in1 > pad/out", inner)
    assert worst(case, "hard-wired-combo") == severity
    soldered = replace(inner, own_lead=replace(lead, soldered=True))
    assert worst(rig("lead1: amp/out1 > pad/in; inner: inner/in1 > pad/out", soldered), "hard-wired-combo") == "caution"


def test_a_hundredth_of_the_power_is_a_tap_and_no_second_load() -> None:
    links = f"{PLAIN}; lead2: amp/out2 > box/in"
    small = replace(BOX, load_ohms=600.0, load_watts=100.0)
    assert worst(rig(links, small, box={"mode": "load"}), "uneven-split") == "caution"
    assert worst(rig(links, replace(small, load_ohms=None)), "uneven-split") == "silent"


@pytest.mark.parametrize(("least", "severity"), [(6.41, "silent"), (6.39, "note")])
def test_a_curve_dips_under_four_fifths_of_its_rating(least: float, severity: str) -> None:
    curve = MeasuredCurve((20.0, 400.0, 20_000.0), (10.0, least, 10.0), (0.0, 0.0, 0.0))
    cab = Cabinet("cab", "Cab", drivers=(Driver(8, 100, data=DriverData(measured=curve)),))
    assert worst(rig("lead1: amp/out1 > cab/in1", cab), "dips-low") == severity


def test_one_unknown_signal_makes_the_sum_unknown() -> None:
    half = Driver(16, 100, 98.0)
    links = (
        "lead1: amp/out1 > cab/in1; lead2: looped/out1 > cab/in2; mic: mic/capsule > cab/front; xlr: mic/out > desk/in1"
    )
    for other, known in ((98.0, True), (None, False)):
        cab = replace(CAB, drivers=(half, replace(half, sensitivity=other)), jack_wiring="separate")
        case = rig(links, cab)
        (point,) = levels(case).line_points
        assert (point.dbfs is not None) == known
        assert (point.why == "") == known


def test_damage_goes_on_behind_a_gain_that_is_not_known() -> None:
    deaf = replace(LOOPED, loop=Loop(send_dbu=None))
    case = rig(f"{PLAIN}; line1: load/line > looped/input; line2: looped/send > desk/in1", deaf)
    (point,) = levels(case).line_points
    assert point.dbfs is None
    straight = rig(f"{PLAIN}; line1: load/line > desk/in1")
    (before,) = levels(straight).line_points
    assert point.damage_dbu == pytest.approx(before.damage_dbu, abs=1.5)


def test_over_115_dba_counts_at_the_edge_of_what_is_sure() -> None:
    loud = replace(AMP, modes=(PowerMode("full", 200),))
    near = replace(STOOL, distance=0.3)
    case = aboard(STRAIGHT, loud, near, occasion=Occasion(hours=0.1))
    most = sound_level_at(case, near).most
    assert most > 116
    for over, told in ((0.1, True), (-0.1, False)):
        pad = Attenuator("pad", "Pad", rating=500, steps=(round(most - 115 - over, 3),))
        there = aboard(
            "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1", loud, near, pad, occasion=Occasion(hours=0.1)
        )
        assert any("any time at all" in f.text for f in found(there, "dose")) == told


@pytest.mark.parametrize(("mode", "watts", "volts"), [("full", "50 W", "20 V"), ("low", "2 W", "4 V")])
def test_a_built_in_attenuator_is_told_at_the_jack(mode: str, watts: str, volts: str) -> None:
    amp = replace(AMP, modes=(PowerMode("full", 50), PowerMode("low", 2, attenuation=14.0)))
    case = rig(PLAIN, amp, amp={"mode": mode})
    (step,) = [s.expect for s in run_sheet(case) if s.text == "Amp at its label"]
    assert step == f"about {watts}: {volts} into its matched 8 Ω"
    (result,) = analyse(case).amps
    assert f"{result.label_power:.3g} W" == watts


def test_the_week_of_the_third_school() -> None:
    assert allowed_hours(85, "80_week") == pytest.approx(12.6, abs=0.01)
    assert dose([(80, 20.0)], "80_week") == pytest.approx(0.5)
    assert level_for(20, "80_week") == pytest.approx(83)
    quiet = replace(STOOL, distance=300)
    case = aboard(PADDED, quiet, pad={"step": "20"})
    (finding,) = found(case, "dose", listening="80_week")
    assert "the week allows" in finding.text


def test_half_a_dose_leaves_half_the_time() -> None:
    assert level_left(4, "85_3", 0.5) == pytest.approx(85)
    assert level_left(4, "85_3", 0.0) == pytest.approx(88)
    assert level_left(4, "90_5", 0.5) == pytest.approx(90)
    assert level_left(1, "85_3", 1.0) == float("-inf")
