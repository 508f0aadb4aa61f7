"""Signal paths: what feeds what, circles, and levels along the way by closed forms."""

from __future__ import annotations

from dataclasses import replace
from math import log10, sqrt

import pytest

from low_tide.core.acoustics.rooms import near_factor
from low_tide.core.gear.base import STAGE
from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import Cabinet
from low_tide.core.judging.judge import judge
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.graph import SignalGraph
from low_tide.core.units import dbu
from tests.core.build import AMP, BOX, CAB, DESK, DRIVE, GUITAR, LOAD, LOOPED, MIC, REAMP, rig

TAPPED = "lead1: amp/out1 > load/in; line: load/line > desk/in1"


def graph(case: Rig) -> SignalGraph:
    return judge(case).case.signal_paths


def level(case: Rig, end: str) -> float | None:
    unit, socket = end.split("/")
    points = {p.input: p.peak_dbu for p in judge(case).case.inputs}
    return points[End(unit, socket)]


def test_a_guitar_reaches_the_track_through_the_power_stage() -> None:
    case = rig(f"cord1: guitar/out > amp/input; {TAPPED}")
    found = graph(case)
    upstream = found.upstream(End("desk", "in1.track"))
    assert {End("guitar", "out"), End("amp", "input"), End("amp", STAGE), End("load", "line")} <= upstream
    (end, ways) = found.takes[0]
    assert end == End("desk", "in1")
    assert [way.units() for way in ways] == [("amp", "load", "desk")]
    assert ways[0].leads() == ("line",)


def test_a_series_loop_goes_through_what_is_in_it_and_a_parallel_one_also_past_it() -> None:
    links = "cord1: looped/send > delay/in; cord2: delay/out > looped/return; lead1: looped/out1 > cab/in1"
    assert LOOPED.loop
    for wiring, direct in (("series", False), ("parallel", True)):
        amp = replace(LOOPED, loop=replace(LOOPED.loop, wiring=wiring))
        found = graph(rig(links, amp))
        routes = found.routes(End("looped", "input"), End("looped", STAGE))
        assert any("delay" in r.units() for r in routes)
        assert any(r.units() == ("looped",) for r in routes) is direct


def test_a_circle_is_found_and_a_processor_around_the_amp_is_none() -> None:
    around = (
        "cord1: guitar/out > proc/in; cord2: proc/send > amp/input; lead1: amp/out1 > load/in;"
        " line: load/line > proc/return; line1: proc/outL > desk/in1"
    )
    assert graph(rig(around)).cycle() == ()
    round_and_round = (
        "cord2: proc/send > amp/input; lead1: amp/out1 > load/in; line: load/line > proc/in;"
        " line1: proc/outL > desk/in1"
    )
    units = {edge.a.unit for edge in graph(rig(round_and_round)).cycle()}
    assert units == {"proc", "amp", "load"}


@pytest.mark.parametrize(("on", "gain"), [(True, 20.0), (False, 0.0)])
def test_a_pedal_adds_its_gain_when_it_is_on(on: bool, gain: float) -> None:
    case = rig("cord1: guitar/out > drive/in; cord2: drive/out > amp/input", drive={"on": on}, amp={})
    divider = 20 * log10(1e6 / (1e6 + GUITAR.source_impedance))
    assert level(case, "drive/in") == pytest.approx(divider, abs=1e-6)
    assert level(case, "amp/input") == pytest.approx(divider + gain + 20 * log10(1e6 / (1e6 + 1000)), abs=1e-6)


def test_a_guitar_turned_down_is_quieter_by_as_much() -> None:
    links = "cord1: guitar/out > amp/input"
    full, down = (level(rig(links, guitar={"volume": v}), "amp/input") for v in (0.0, -12.0))
    assert full is not None
    assert down == pytest.approx(full - 12)


def test_a_microphone_hears_the_cabinet_by_its_sensitivity_and_distance() -> None:
    cab = replace(CAB, drivers=(Driver(8, 60, 100.0),), jacks=1)
    case = rig(
        "lead1: amp/out1 > cab/in1; mic: mic/capsule > cab/front; xlr: mic/out > desk/in1", cab, mic={"distance": 50.0}
    )
    # Peaks of 50 W into 8 Ω, a quarter over the sine's for a speaker: V_rms = 20 V·1.25 = 25 V.
    near, part = 20 * log10(near_factor(0.5, 0.128)), log10(0.5 / 0.3) / log10(1 / 0.3)
    spl = 100 + 20 * log10(25 / sqrt(8)) + near * (1 - part) - 20 * log10(0.5) * part
    volts = 2e-3 * 10 ** ((spl - 94) / 20)
    divider = 20 * log10(10_000 / (10_000 + MIC.source_impedance))
    assert level(case, "desk/in1") == pytest.approx(dbu(volts) + divider, abs=0.05)


def test_near_the_cone_one_driver_counts_and_further_off_all_of_them() -> None:
    links = "lead1: amp/out1 > cab/in1; mic: mic/capsule > cab/front; xlr: mic/out > desk/in1"
    one = replace(CAB, drivers=(Driver(8, 60, 100.0),), jacks=1)
    four = replace(CAB, drivers=(Driver(32, 60, 100.0),) * 4, jacks=1)
    open_mic = replace(MIC, max_level=180)

    def at(cab: Cabinet, centimetres: float) -> float:
        return level(rig(links, cab, open_mic, mic={"distance": centimetres}), "desk/in1")

    assert at(one, 5.0) - at(one, 100.0) == pytest.approx(20.56, abs=0.1)
    # Of four one is near, with a quarter of the power: 6 dB less; from a metre on they add up to 6 dB more.
    assert at(one, 5.0) - at(four, 5.0) == pytest.approx(6.02, abs=0.01)
    assert at(four, 100.0) - at(one, 100.0) == pytest.approx(6.02, abs=0.01)
    assert at(four, 200.0) - at(four, 100.0) == pytest.approx(-6.02, abs=0.01)


@pytest.mark.parametrize(("drivers", "more"), [(1, 0.0), (2, 3.01), (4, 6.02)])
def test_equal_drivers_that_share_the_power_add_10_log_n(drivers: int, more: float) -> None:
    unit = replace(CAB, drivers=(Driver(8.0 * drivers, 60, 97.0),) * drivers)
    # √(P/n) each on axis, n of them: the same volts give the same watts, and 10·log10 n more level.
    gain = unit.pascal_per_volt_db(range(drivers))
    assert gain == pytest.approx(97 + 20 * log10(20e-6) - 10 * log10(8) + more, abs=0.01)


def test_unknown_sensitivity_is_said_and_not_guessed() -> None:
    links = "lead1: amp/out1 > cab/in1; mic: mic/capsule > cab/front; xlr: mic/out > desk/in1"
    point = judge(rig(links)).case.line_points[0]
    assert (point.dbfs, point.why) == (None, "the sensitivity of Cab is not known")


def test_a_line_through_a_pedal_keeps_the_box_as_its_source() -> None:
    case = rig(
        "lead1: amp/out1 > load/in; line: load/line > reverb/in; line1: reverb/outL > desk/in1",
        load={"line.pot": 0.0},
    )
    point = judge(case).case.line_points[0]
    assert (point.source, point.through, point.lead) == (End("load", "line"), ("reverb",), "line1")
    direct = judge(rig(TAPPED, load={"line.pot": 0.0})).case.line_points[0]
    loss = 20 * log10(1e6 / (1e6 + 600)) + 20 * log10(1e4 / (1e4 + 1000)) - 20 * log10(1e4 / (1e4 + 600))
    assert point.peak_dbu == pytest.approx(direct.peak_dbu + loss, abs=1e-6)


def test_a_limiter_bounds_everything_after_it() -> None:
    limited = replace(LOAD, line_out=LineOut(ratio_db=-20, limiter_v=0.5, pot=False))
    case = rig("lead1: amp/out1 > load/in; line: load/line > reverb/in; line1: reverb/outL > desk/in1", limited)
    point = judge(case).case.line_points[0]
    assert point.limited
    assert point.peak_v <= 0.5
    assert point.damage_dbu == pytest.approx(point.peak_dbu)


def test_a_re_amplifier_taps_the_amp_and_not_itself() -> None:
    case = rig(
        "lead1: amp/out1 > reamp/in; lead2: reamp/out > cab/in1; line: reamp/line > desk/in1", reamp={"line.pot": 0.0}
    )
    point = judge(case).case.line_points[0]
    direct = judge(rig(TAPPED, replace(LOAD, behaviour="reactive"), load={"line.pot": 0.0})).case.line_points[0]
    assert point.peak_dbu == pytest.approx(direct.peak_dbu)
    assert REAMP.inner_power == 50


def test_playback_leaves_an_output_at_its_trim() -> None:
    from low_tide.core.gear.interface import Output

    desk = replace(DESK, outputs=(Output("output 1", max_level=18, impedance=1),))
    case = rig("line1: desk/out1 > matcher/in; cord1: matcher/out > amp/input", desk, desk={"out1.trim": -10.0})
    assert level(case, "matcher/in") == pytest.approx(18 - 6 - 10, abs=0.01)
    assert level(case, "amp/input") == pytest.approx(18 - 6 - 10 - 20 + 20 * log10(1e6 / 1.01e6), abs=0.01)


def test_parts_that_are_not_joined_are_islands() -> None:
    from low_tide.core.rig.networks import separate_networks

    case = rig(f"{TAPPED}; lead2: looped/out1 > cab/in1; cord1: guitar/out > looped/input")
    found = [{u for u, _ in part.units()} for part in separate_networks(case)]
    assert found == [{"amp", "load", "desk"}, {"looped", "cab", "guitar"}]
    assert AMP.id in found[0]
    assert BOX.id not in {u for part in found for u in part}
    assert DRIVE.max_in == 8
