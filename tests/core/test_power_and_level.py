"""Who takes how much, and what arrives at the line: closed forms for whole hook-ups."""

from __future__ import annotations

import math
from dataclasses import replace

import pytest

from low_tide.core.frequency import frequency_grid
from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.interface import Input
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Unit
from low_tide.core.judging.judge import judge
from low_tide.core.power.shares import Share, downstream, powers, seen_by, shares, switched_shares
from low_tide.core.power.speaker_network import outputs, real_network
from low_tide.core.presentation.analysis import analyse
from low_tide.core.rig.changes import Guard, SetControl, changed
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.levels import LinePoint, levels
from low_tide.core.units import dbu, dbv, dbw
from tests.core.build import AMP, BOX, CAB, DESK, LOAD, LOOPED, PAD, rig

FLAT = 75.0
BEHIND_PAD = "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1"


def share(case: Rig, unit: str, part: str = "") -> Share:
    return next(s for s in shares(case) if (s.unit, s.part) == (unit, part))


def point(case: Rig) -> LinePoint:
    return levels(case).line_points[0]


def test_levels_of_a_volt_and_a_watt() -> None:
    assert dbv(1.0) == 0
    assert dbw(100) == pytest.approx(20)
    assert dbu(0) == -math.inf


def test_two_equal_loads_share_alike() -> None:
    case = rig("lead1: amp/out1 > load/in; lead2: amp/out2 > cab/in1")
    assert share(case, "load").flat == pytest.approx(FLAT / 2)
    assert share(case, "cab").label == pytest.approx(25)
    assert share(case, "cab", "driver 1").flat == pytest.approx(FLAT / 4)


@pytest.mark.parametrize(("ohms", "part"), [(4.0, 2 / 3), (8.0, 1 / 2), (16.0, 1 / 3)])
def test_unequal_loads_share_by_conductance(ohms: float, part: float) -> None:
    case = rig("lead1: amp/out1 > load/in; lead2: amp/out2 > cab/in1", replace(LOAD, impedances=(ohms,)))
    assert share(case, "load").flat == pytest.approx(FLAT * part)


@pytest.mark.parametrize("step", ["3", "20"])
def test_heat_in_an_attenuator_is_what_does_not_come_out(step: str) -> None:
    taken = powers(rig(BEHIND_PAD, pad={"step": step}))
    out = sum(flat for (unit, _), (_, flat) in taken.items() if unit == "cab")
    heat = sum(flat for (unit, _), (_, flat) in taken.items() if unit == "pad")
    assert out == pytest.approx(FLAT * 10 ** (-float(step) / 10))
    assert heat + out == pytest.approx(FLAT)


def test_the_worst_position_is_named() -> None:
    case = rig(BEHIND_PAD, pad={"step": "20"})
    behind = share(case, "cab")
    assert (behind.flat, behind.at) == (pytest.approx(FLAT * 10**-0.3), "with Pad at −3 dB")
    assert behind.now == pytest.approx(0.75)
    bypassed = next(s for s in switched_shares(case) if (s.unit, s.part) == ("cab", ""))
    assert (bypassed.flat, bypassed.moves) == (pytest.approx(FLAT), (SetControl("pad", "bypass", True),))
    at_three = rig(BEHIND_PAD, pad={"step": "3"})
    assert share(at_three, "pad").at == "with Pad at −20 dB"
    assert share(at_three, "pad").flat == pytest.approx(FLAT * 0.99)


def test_a_label_rating_counts_all_that_goes_in() -> None:
    gentle = replace(PAD, steps=(3.0,), bypass=False, rating=60, rating_kind="amp_label")
    case = rig(BEHIND_PAD, gentle)
    assert share(case, "pad").label == pytest.approx(50)
    heat_only = rig(BEHIND_PAD, replace(gentle, rating_kind="continuous"))
    assert share(heat_only, "pad").label == pytest.approx(50 * (1 - 10**-0.3))


def test_margin_in_db() -> None:
    assert share(rig("lead1: amp/out1 > load/in"), "load").margin_db == pytest.approx(10 * math.log10(100 / 75))
    unknown = rig("lead1: amp/out1 > load/in", replace(LOAD, rating=None))
    assert share(unknown, "load").margin_db is None


def test_a_load_that_is_switched_out_takes_nothing() -> None:
    case = rig("lead1: amp/out1 > load/in; lead2: load/through > cab/in1", replace(LOAD, through="switching", rating=1))
    assert {s.unit for s in shares(case)} == {"cab"}


def test_a_bridging_box_is_not_held_against_a_rating() -> None:
    assert {s.unit for s in shares(rig("lead1: amp/out1 > box/in; lead2: box/through > cab/in1"))} == {"cab"}


def test_power_modes_scale_everything() -> None:
    low = replace(AMP, modes=(PowerMode("full", 50), PowerMode("low", 5)))
    assert share(rig("lead1: amp/out1 > load/in", low, amp={"mode": "low"}), "load").flat == pytest.approx(7.5)
    assert share(rig("lead1: amp/out1 > load/in", replace(AMP, crank=2.0)), "load").flat == pytest.approx(100)


@pytest.mark.parametrize(("ohms", "watts"), [(16.0, 25), (8.0, 50), (4.0, 100)])
def test_a_transistor_amp_gives_what_the_load_asks_for(ohms: float, watts: float) -> None:
    solid = Amp("amp", "Amp", technology="transistor", taps=(Tap(8),), minimum_load=4, crank=1.0)
    case = rig("lead1: amp/out1 > load/in", solid, replace(LOAD, impedances=(ohms,)))
    assert share(case, "load").label == pytest.approx(watts)


def test_two_amps_each_feed_their_own() -> None:
    second = replace(AMP, id="two", name="Two", modes=(PowerMode("full", 20),))
    case = rig("lead1: amp/out1 > load/in; lead2: two/out1 > cab/in1", second)
    assert share(case, "load").label == pytest.approx(50)
    assert share(case, "cab").label == pytest.approx(20)
    assert [round(s.impedance) for s in seen_by(case)] == [8, 8]


def test_a_tap_in_use_is_one_with_a_plug() -> None:
    own = replace(AMP, tap_choice="sockets")
    assert [o.tap for o in outputs(rig("lead1: amp/tap16.1 > load/in", own))] == [16]
    assert [o.tap for o in outputs(rig("", own, amp={}))] == [4]


def test_downstream_follows_the_signal() -> None:
    case = rig("lead1: amp/out1 > pad/in; lead2: pad/out > box/in; lead3: box/through > cab/in1")
    assert downstream(case, "pad") == {"pad", "box", "cab"}
    assert downstream(case, "cab") == {"cab"}


# Levels


def taps(*units: Unit, **settings: dict) -> Rig:
    return rig("lead1: amp/out1 > load/in; line: load/line > desk/in1", *units, **settings)


@pytest.mark.parametrize("pot", [0.0, -6.0, -20.0])
def test_the_pot_moves_the_level_one_for_one(pot: float) -> None:
    full, set_back = point(taps(load={"line.pot": 0.0})), point(taps(load={"line.pot": pot}))
    assert set_back.peak_dbu == pytest.approx(full.peak_dbu + pot)


def test_gain_and_pad_move_only_the_converter() -> None:
    plain = point(taps())
    moved = point(taps(desk={"in1.gain": 12.0, "in1.pad": True}))
    assert moved.peak_dbu == pytest.approx(plain.peak_dbu)
    assert moved.dbfs == pytest.approx((plain.dbfs or 0) + 12 - 10)


def test_gain_counts_from_the_least() -> None:
    offset = replace(DESK, inputs=(Input("in", max_level=18, least_gain=10, most_gain=60),))
    assert point(taps(offset)).dbfs == pytest.approx(point(taps()).dbfs)


def test_a_limiter_is_a_bound() -> None:
    limited = replace(LOAD, line_out=LineOut(ratio_db=-10, limiter_v=1.0))
    found = point(taps(limited, load={"line.pot": 0.0}))
    assert found.peak_v == pytest.approx(1.0 * 10_000 / 10_600)
    assert found.limited
    assert found.damage_dbu == pytest.approx(found.peak_dbu)
    assert not point(taps(limited, load={"line.pot": -30.0})).limited


def test_the_input_divides_with_the_source() -> None:
    stiff = replace(LOAD, line_out=replace(LOAD.line_out, source_impedance=1.0))  # type: ignore[type-var]
    soft = replace(LOAD, line_out=replace(LOAD.line_out, source_impedance=10_000.0))  # type: ignore[type-var]
    assert point(taps(stiff)).peak_dbu - point(taps(soft)).peak_dbu == pytest.approx(6.02, abs=0.01)


def test_a_tap_behind_an_attenuator_gets_less() -> None:
    links = "lead1: amp/out1 > pad/in; lead2: pad/out > box/in; lead3: box/through > cab/in1; line: box/line > desk/in1"
    deep, shallow = (point(rig(links, pad={"step": s})) for s in ("20", "3"))
    assert shallow.peak_dbu - deep.peak_dbu == pytest.approx(17, abs=0.02)


def test_of_two_signals_that_meet_the_louder_is_the_level() -> None:
    halves = replace(CAB, drivers=(Driver(8, 60, 98.0), Driver(8, 60, 98.0)), jack_wiring="separate", jacks=2)
    quiet = replace(LOOPED, modes=(PowerMode("full", 5),))
    mike = "mic: mic/capsule > cab/front; xlr: mic/out > desk/in1"
    ways = ("lead1: amp/out1 > cab/in1", "lead2: looped/out1 > cab/in2")
    loud, soft, both = (
        point(rig(f"{links}; {mike}", halves, quiet)).peak_dbu for links in (*ways, f"{ways[0]}; {ways[1]}")
    )
    assert loud > soft + 5
    assert both == pytest.approx(loud)


def test_damage_is_reckoned_at_three_times_the_peak() -> None:
    full = {"line.pot": 0.0}
    resistive = point(taps(load=full))
    assert resistive.damage_dbu - resistive.peak_dbu == pytest.approx(20 * math.log10(3))
    assert resistive.most_dbu - resistive.peak_dbu == pytest.approx(20 * math.log10(4.5))
    reactive = point(taps(replace(LOAD, behaviour="reactive"), load=full))
    assert reactive.damage_dbu - reactive.peak_dbu == pytest.approx(20 * math.log10(3 / 1.25))


def test_damage_counts_every_pot_at_its_loudest_unless_it_is_taped() -> None:
    down, up = point(taps(load={"line.pot": -30.0})), point(taps(load={"line.pot": 0.0}))
    assert down.damage_dbu == pytest.approx(up.damage_dbu)
    held = changed(taps(load={"line.pot": -30.0}), [Guard("load", "line.pot")])
    assert point(held).damage_dbu == pytest.approx(up.damage_dbu - 30)


@pytest.mark.parametrize(("told", "maximum", "assumed"), [(None, 24.0, True), (30.0, 30.0, False)])
def test_an_absolute_maximum_that_is_not_known(told: float | None, maximum: float, assumed: bool) -> None:
    desk = replace(DESK, inputs=(replace(DESK.inputs[0], absolute_max=told),))
    found = point(taps(desk))
    assert (found.absolute_max, found.absolute_assumed) == (maximum, assumed)


def test_the_amps_own_line_out() -> None:
    own = replace(AMP, line_out=LineOut(ratio_db=-20, pot=False))
    case = rig("lead1: amp/out1 > load/in; line: amp/line > desk/in1", own)
    assert point(case).peak_dbu == pytest.approx(point(taps(load={"line.pot": 0.0})).peak_dbu)


def test_a_line_that_nothing_feeds() -> None:
    found = point(rig("line: box/line > desk/in1", amp={}))
    assert (found.dbfs, found.why) == (None, "no amp feeds this output")


def test_either_end_of_the_line_may_come_first() -> None:
    turned = rig("lead1: load/in > amp/out1; line: desk/in1 > load/line")
    assert point(turned).peak_dbu == pytest.approx(point(taps()).peak_dbu)
    assert judge(turned).verdict == judge(taps()).verdict


# What is shown


def test_facts_follow_the_findings() -> None:
    split = rig("lead1: amp/out1 > load/in; lead2: amp/out2 > cab/in1; line: load/line > desk/in1")
    facts = {f.id: f for f in analyse(split).facts}
    assert (facts["sees"].value, facts["sees"].severity) == ("4", "stop")
    assert facts["speaker"].value == "37.5"
    assert facts["speaker"].remark.startswith("3 dB down clipped")
    assert facts["converter"].unit == "dBFS"
    bare = {f.id: f for f in analyse(rig("", amp={})).facts}
    assert (bare["sees"].value, bare["speaker"].value) == ("no load", "none")
    assert analyse(rig("lead1: load/in")).facts == ()


def test_the_tide_line_is_db_to_the_limit() -> None:
    case = rig("lead1: amp/out1 > load/in; line: load/line > desk/in1", replace(LOAD, rating=37.5))
    stages = {s.id.split(":")[0]: s for s in analyse(case).stages}
    assert stages["power"].level_db == pytest.approx(3.01, abs=0.01)
    assert stages["power"].severity == "stop"
    assert stages["line"].floor_db == -18
    assert stages["line"].level_db == pytest.approx(point(case).dbfs)
    assert stages["match"].level_db == -24


@pytest.mark.parametrize(("tap", "over"), [("8", False), ("4", True), ("16", True)])
def test_a_stopped_match_stands_over_the_line(tap: str, over: bool) -> None:
    stage = analyse(rig("lead1: amp/out1 > load/in", amp={"tap": tap})).stages[0]
    assert (stage.level_db > 0) is over


def test_leads_say_what_they_carry() -> None:
    links = f"{BEHIND_PAD}; lead3: amp/out2; line: load/line > desk/in1; lead4: amp/out2"
    case = rig(links.replace("; lead4: amp/out2", ""), pad={"step": "20"})
    flows = {f.lead: f.text for f in analyse(case).flows}
    assert flows["lead1"] == "75 W"
    assert flows["lead2"] == "0.75 W"
    assert flows["lead3"] == "free end"
    assert flows["line"] == ""


def test_a_cabinet_straight_on_its_tap_loses_nothing() -> None:
    found = analyse(rig("lead1: amp/out1 > cab/in1")).speakers[0]
    assert found.clipped_db == pytest.approx(0, abs=1e-9)
    assert found.clean_db == pytest.approx(0, abs=0.05)


def test_longer_and_thinner_leads_lose_more() -> None:
    def loss(length: float, gauge: int) -> float:
        lead = replace(rig("", amp={}).gear["lead1"], length=length, gauge=gauge)
        found = analyse(rig("lead1: amp/out1 > cab/in1", lead, replace(AMP, damping_factor=50.0))).speakers[0]
        return found.clean_db or 0.0

    losses = [loss(*each) for each in ((1, 12), (10, 12), (10, 18), (30, 18))]
    assert losses == sorted(losses, reverse=True)
    assert losses[-1] < -0.4


def test_a_screened_lead_hardly_changes_the_tone_but_is_in_the_network() -> None:
    elements = real_network(rig("thin: amp/out1 > load/in"), frequency_grid()).elements
    assert {e.part for e in elements if e.unit == "thin"} == {"lead", "capacitance"}
    assert all(e.part == "lead" for e in real_network(rig("lead1: amp/out1 > load/in"), frequency_grid()).elements[1:])


def test_curves_have_every_point_and_open_ones_are_left_out() -> None:
    curves = analyse(rig("lead1: amp/out1 > cab/in1")).curves
    assert len(curves[0].real) == len(curves[0].frequency) == 481
    assert analyse(rig("lead1: amp/out1", amp={})).curves == ()


def test_the_mean_of_a_real_curve_is_not_its_rating() -> None:
    result = analyse(rig("lead1: amp/out1 > cab/in1")).amps[0]
    assert result.sees == pytest.approx(8)
    assert result.mean_real is not None
    assert result.mean_real > 12


def test_drivers_in_series_split_the_volts() -> None:
    cab = Cabinet("cab", "Cab", drivers=(Driver(4, 60), Driver(8, 60)), wiring="series")
    case = rig("lead1: amp/out1 > cab/in1", cab)
    assert share(case, "cab", "driver 2").label == pytest.approx(2 * share(case, "cab", "driver 1").label)


def test_a_reactive_pad_is_nominal_for_ratings() -> None:
    pad = Attenuator("pad", "Pad", rating=100, behaviour="reactive", steps=(10.0,))
    case = rig(BEHIND_PAD, pad, CAB)
    assert share(case, "cab").flat == pytest.approx(7.5)
    assert BOX.id not in {s.unit for s in shares(case)}
