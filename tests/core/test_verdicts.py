"""Hook-ups that were once judged wrongly, each by the rule that was missing: false clears first, then false stops."""

from __future__ import annotations

from dataclasses import replace

import pytest

from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import Cabinet, Switcher, Unit
from low_tide.core.judging.judge import judge
from low_tide.core.power.shares import seen_by, shares
from low_tide.core.rig.changes import Guard, changed
from low_tide.core.rig.rig import Rig
from tests.core.build import AMP, BOX, CAB, DESK, LOAD, LOOPED, PAD, REAMP, SWITCH, rig
from tests.core.test_checks import PLAIN, TAPPED, found, mended, worst

BEHIND_PAD = "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1"
BEHIND_REAMP = "lead1: amp/out1 > reamp/in; lead2: reamp/out > cab/in1"
IN_PARTS = replace(CAB, drivers=(Driver(16, 10, 98.0), Driver(16, 10, 98.0)), rating=None)
HALVES = replace(IN_PARTS, drivers=(Driver(8, None, 98.0),) * 2, rating=20, jack_wiring="separate")


def verdict(case: Rig) -> str:
    return judge(case).verdict.severity


# A rating of the whole, and ratings of its parts


@pytest.mark.parametrize("cab", [IN_PARTS, HALVES], ids=["drivers", "halves"])
def test_a_reamp_turned_down_before_what_is_rated_in_parts_is_not_clear(cab: Cabinet) -> None:
    case = rig(BEHIND_REAMP, cab, reamp={"volume": -40.0})
    assert worst(case, "load-rating") == "stop"
    assert worst(case, "reamp-over-speaker") == "caution"
    held = changed(case, [Guard("reamp", "volume")])
    assert (worst(held, "load-rating"), worst(held, "reamp-over-speaker")) == ("fine", "note")


def test_a_screened_lead_to_what_is_rated_in_parts_is_not_clear() -> None:
    links = "lead1: amp/out1 > pad/in; thin: pad/out > cab/in1"
    case = rig(links, IN_PARTS, replace(PAD, bypass=False), pad={"step": "20"})
    assert worst(case, "screened-speaker-lead") == "stop"


def test_a_half_of_a_whole_stands_half() -> None:
    case = rig("lead1: amp/out1 > cab/in1", replace(HALVES, rating=80))
    finding = found(case, "load-rating")[0]
    assert (finding.severity, finding.text) == ("stop", "Cab, left half would get 50 W, over its 40 W.")
    assert "half of the whole cabinet’s watts" in finding.typical
    assert worst(rig("lead1: amp/out1 > cab/in1", replace(HALVES, rating=200)), "load-rating") == "fine"


def test_the_one_driver_of_a_rated_cabinet_holds_too() -> None:
    cab = Cabinet("cab", "Cab", drivers=(Driver(8, 30),), rating=100)
    assert worst(rig("lead1: amp/out1 > cab/in1", cab), "load-rating") == "stop"


# Fed at its speaker side


@pytest.mark.parametrize(
    "links",
    [
        "lead1: amp/out1 > pad/out; lead2: pad/in > cab/in1",
        "lead1: amp/out1 > cab/in1; lead2: cab/in2 > pad/out",
        "lead1: amp/out1 > load/in; lead2: load/through > cab/in1; lead3: cab/in2 > pad/out",
        "lead1: amp/out1 > box/in; lead2: box/through > pad/out",
        f"{BEHIND_PAD}; lead3: amp/out2 > cab/in2",
    ],
)
@pytest.mark.parametrize("box", ["pad", "reamp"])
def test_power_at_the_speaker_side_by_whatever_way_is_backwards(links: str, box: str) -> None:
    through = replace(LOAD, through="parallel")
    links = links.replace("pad/", f"{box}/")
    assert worst(rig(links, through), "reversed-attenuator") == "stop"
    if box == "reamp":
        assert worst(rig(links, through, reamp={"mains": False}), "reversed-attenuator") == "stop"


def test_a_pad_that_only_a_speaker_switch_would_feed_backwards_is_one_movement_away() -> None:
    links = "lead1: amp/out1 > switch/in1; lead2: switch/out1 > load/in; lead3: switch/out2 > pad/out"
    case = rig(links, replace(SWITCH, inputs=1, outputs=2))
    assert "speaker side of Pad" in found(case, "one-movement")[0].reason
    assert worst(case, "reversed-attenuator") == "silent"


# All knobs of a switch, what waits on it, and what the others positions bring


def two_by_two(**changes: object) -> Switcher:
    return replace(SWITCH, outputs=2, **changes)  # type: ignore[arg-type]


TWO_AMPS = "lead1: amp/out1 > switch/in1; lead2: looped/out1 > switch/in2; lead3: switch/out1 > cab/in1"


def test_a_position_that_two_knobs_make_together_is_found() -> None:
    case = rig(f"{TWO_AMPS}; lead4: switch/out2", two_by_two())
    finding = found(case, "switcher-leaves-open")[0]
    assert finding.severity == "stop"
    assert "amp 2, speaker 2: Looped" in finding.reason
    guarded = changed(case, [Guard("switch", "output")])
    assert worst(guarded, "switcher-leaves-open") == "silent"


def test_the_idle_load_is_held_against_the_amp_that_waits_elsewhere() -> None:
    small = rig(TWO_AMPS, replace(SWITCH, idle_rating=20), switch={"input": "1"})
    assert worst(small, "load-rating") == "stop"
    weak = replace(AMP, modes=(PowerMode("full", 5),))
    loud = rig(
        TWO_AMPS,
        weak,
        replace(LOOPED, modes=(PowerMode("full", 50),)),
        replace(SWITCH, idle_rating=20),
        switch={"input": "2"},
    )
    assert any(f.severity == "stop" and "idle load 2" in f.text for f in found(loud, "load-rating"))
    ohms = rig(
        TWO_AMPS,
        replace(SWITCH, idle_ohms=2.0),
        replace(LOOPED, taps=(Tap(8, 2),)),
        switch={"input": "2"},
        amp={"tap": "8"},
    )
    assert any("Looped would see 2 Ω" in f.reason for f in found(ohms, "one-movement"))


def test_a_speaker_switch_reaches_a_small_cabinet_and_two_ohms() -> None:
    links = "lead1: amp/out1 > switch/in1; lead2: switch/out1 > load/in; lead3: switch/out2 > cab/in1"
    one = replace(SWITCH, inputs=1, outputs=2)
    assert worst(rig(links, one, IN_PARTS), "load-rating") == "stop"
    low = replace(CAB, drivers=(Driver(4, 100), Driver(4, 100)), rating=None)
    case = rig(links, one, low)
    assert found(case, "one-movement")[0].reason.startswith("Speaker 2: Amp would see 2 Ω on its 8 Ω")
    assert worst(mended(case, "one-movement"), "one-movement") == "silent"


# For amps up to, built-in attenuators, lists


def test_a_label_rating_counts_what_is_chained_behind_a_second_socket() -> None:
    load = replace(LOAD, impedances=(16.0,), rating=40, rating_kind="amp_label", through="parallel")
    chained = rig(
        "lead1: amp/out1 > load/in; lead2: load/through > cab/in1", load, replace(CAB, drivers=(Driver(32, 100),) * 2)
    )
    assert worst(chained, "load-rating") == "stop"
    alone = rig(PLAIN, replace(load, impedances=(8.0,), rating=60))
    assert next(s for s in shares(alone) if s.unit == "load").label == pytest.approx(50)


@pytest.mark.parametrize(("counts", "watts"), [("after", 1.0), ("before", 0.1)])
def test_a_power_mode_counts_its_label_after_its_attenuator_unless_told_otherwise(counts: str, watts: float) -> None:
    mode = PowerMode("one", 1, attenuation=10.0, label_counts=counts)  # type: ignore[arg-type]
    case = rig(PLAIN, replace(AMP, modes=(mode,)))
    assert next(s for s in shares(case) if s.unit == "load").label == pytest.approx(watts)
    assert PowerMode("one", 1, attenuation=10.0).label_counts == "after"


@pytest.mark.parametrize(("ohms", "listed"), [(8.8, True), (8.9, False), (7.2, True), (7.1, False), (10.1, False)])
def test_a_permitted_load_is_within_ten_per_cent(ohms: float, listed: bool) -> None:
    amp = replace(AMP, taps=(Tap(8, 2, (4.0, 8.0)),))
    case = rig(PLAIN, amp, replace(LOAD, impedances=(ohms,)))
    assert worst(case, "mismatch") == ("fine" if listed else "stop")


# One movement from a stop


@pytest.mark.parametrize(
    ("links", "units", "settings", "control"),
    [
        (BEHIND_PAD, (IN_PARTS, replace(PAD, steps=(20.0,))), {}, "bypass"),
        (BEHIND_PAD, (replace(PAD, bypass=False, mute="open"),), {}, "mute"),
        (BEHIND_REAMP, (), {}, "mains"),
        (PLAIN, (replace(LOAD, impedances=(4.0, 16.0)),), {"amp": {"tap": "4"}}, "impedance"),
        ("lead1: amp/out1 > box/in; lead2: box/through > cab/in1", (), {}, "mode"),
        (PLAIN, (replace(AMP, modes=(PowerMode("half", 50), PowerMode("full", 120))),), {}, "mode"),
    ],
)
def test_one_movement_is_a_caution_until_it_is_taped(
    links: str, units: tuple[Unit, ...], settings: dict, control: str
) -> None:
    case = rig(links, *units, **settings)
    (finding,) = found(case, "one-movement")
    assert finding.severity == "caution"
    assert finding.fix
    assert [(c.op, c.control) for c in finding.fix.changes] == [("guard", control)]  # type: ignore[union-attr]
    after = mended(case, "one-movement")
    assert worst(after, "one-movement") == "silent"


def test_pulled_valves_are_no_switch_and_want_a_technician() -> None:
    modes = (PowerMode("full", 50), PowerMode("half", 25, 2.0, technician=True))
    amp = replace(AMP, modes=modes)
    case = rig(PLAIN, amp, replace(LOAD, impedances=(16.0,)), amp={"mode": "half"})
    assert worst(case, "mode-unconfirmed") == "caution"
    assert worst(case, "one-movement") == "silent"
    confirmed = replace(amp, modes=(modes[0], replace(modes[1], confirmed=True)))
    assert (
        worst(rig(PLAIN, confirmed, replace(LOAD, impedances=(16.0,)), amp={"mode": "half"}), "mode-unconfirmed")
        == "silent"
    )
    assert worst(rig(PLAIN, amp), "mode-unconfirmed") == "silent"


# False stops


def test_a_pads_output_into_a_loads_parallel_through_is_the_right_way_round() -> None:
    links = "lead1: amp/out1 > pad/in; lead2: pad/out > load/through; lead3: load/in > cab/in1"
    case = rig(links, replace(LOAD, through="parallel"), replace(PAD, bypass=False))
    assert worst(case, "reversed-attenuator") == "silent"


@pytest.mark.parametrize("way", ["load/through > box/in", "box/in > load/through"])
def test_a_screened_lead_to_a_bridging_tap_is_a_note_however_it_is_drawn(way: str) -> None:
    case = rig(f"{PLAIN}; thin: {way}", replace(LOAD, through="parallel"), replace(BOX, load_ohms=None))
    assert worst(case, "screened-speaker-lead") == "note"


def test_flat_out_of_one_amp_counts_for_that_amp_alone() -> None:
    links = "lead1: amp/out1 > load/in; lead2: looped/out1 > cab/in1"
    tight = replace(LOAD, rating=60)
    case = rig(links, tight, replace(CAB, rating=200), looped={"flat_out": True})
    assert worst(case, "load-rating") == "caution"
    assert worst(rig(links, tight, amp={"flat_out": True}), "load-rating") == "stop"


@pytest.mark.parametrize("technology", ["transistor", "hybrid"])
def test_no_crank_on_what_has_no_valves_at_its_output(technology: str) -> None:
    amp = replace(AMP, technology=technology, crank=2.0, minimum_load=4.0)  # type: ignore[arg-type]
    case = rig(PLAIN, amp, replace(LOAD, rating=60), amp={"flat_out": True})
    assert worst(case, "load-rating", margin="label") == "fine"
    low = rig(PLAIN, amp, replace(LOAD, impedances=(4.0,), rating=90))
    assert next(s for s in shares(low) if s.unit == "load").label == pytest.approx(100)
    assert worst(low, "load-rating") == "stop"


def test_no_harm_from_an_open_output_where_there_is_none() -> None:
    solid = replace(AMP, technology="transistor", minimum_load=4.0)
    off = rig(BEHIND_REAMP, solid, reamp={"mains": False})
    assert worst(off, "unpowered-reamp") == "note"
    assert worst(rig(PLAIN, solid, replace(LOAD, rating=50, cutout="opens")), "load-may-open") == "silent"
    assert worst(rig("thin: amp/out1", solid, amp={}), "screened-speaker-lead") == "note"


def test_a_second_tap_with_nothing_real_on_it_is_no_load_and_no_open_output() -> None:
    own = replace(AMP, tap_choice="sockets")
    links = "lead1: amp/tap8.1 > load/in; thin: amp/tap16.1 > box/in; line: box/line > desk/in1"
    case = rig(links, own, replace(BOX, load_ohms=None), desk={"in1.ir": True})
    for check in ("two-taps-used", "open-output"):
        assert worst(case, check) == "silent"
    assert worst(case, "screened-speaker-lead") == "note"
    assert [s.idle for s in seen_by(case)] == [False, True]
    assert worst(rig("lead1: amp/tap8.1 > load/in; lead2: amp/tap16.1", own), "open-output") == "silent"
    both = rig(
        "lead1: amp/tap8.1 > load/in; lead2: amp/tap16.1 > cab/in1", own, replace(CAB, drivers=(Driver(32, 100),) * 2)
    )
    assert worst(both, "two-taps-used") == "stop"


def test_a_gap_with_another_load_beside_it_is_no_moment_without_load() -> None:
    slow = replace(SWITCH, inputs=1, outputs=2, gap="open")
    alone = "lead1: amp/out1 > switch/in1; lead2: switch/out1 > cab/in1; lead3: switch/out2 > load/in"
    big = replace(LOAD, id="other", name="Other", impedances=(16.0,), rating=200)
    assert worst(rig(alone, slow), "switcher-leaves-open") == "stop"
    assert worst(rig(f"{alone}; lead4: amp/out2 > other/in", slow, big), "switcher-leaves-open") == "silent"


def test_a_reamp_that_nobody_knows_beside_another_load_asks() -> None:
    unknown = replace(REAMP, load_needs_mains="unknown")
    beside = rig("lead1: amp/out1 > reamp/in; lead2: amp/out2 > load/in", unknown, reamp={"mains": False})
    assert worst(beside, "unpowered-reamp") == "caution"
    assert worst(rig("lead1: amp/out1 > reamp/in", unknown, reamp={"mains": False}), "unpowered-reamp") == "stop"


# What nobody stated never decides silently


@pytest.mark.parametrize(
    ("told", "ratio", "severity"),
    [
        (None, -9.0, "stop"),
        (None, -13.0, "caution"),
        (None, -16.0, "caution"),
        (None, -25.0, "silent"),
        (24.0, -13.0, "stop"),
        (24.0, -16.5, "caution"),
        (24.0, -22.0, "silent"),
    ],
)
def test_damage_near_an_assumed_maximum_asks_and_beyond_it_stops(
    told: float | None, ratio: float, severity: str
) -> None:
    # 28.3 V peak, flyback three times that: +37.8 dBu before the tap, 4.5 times +41.3; 24 dBu assumed.
    desk = replace(DESK, inputs=(replace(DESK.inputs[0], absolute_max=told),))
    load = replace(LOAD, line_out=LineOut(ratio_db=ratio, source_impedance=1.0, phantom="tolerates"))
    case = rig(TAPPED, load, desk, load={"line.pot": -30.0})
    assert worst(case, "input-damage") == severity
    if severity != "silent":
        finding = found(case, "input-damage")[0]
        assert ("Look it up" in finding.reason) == (told is None)
        assert finding.fix
        assert worst(mended(case, "input-damage"), "input-damage") == "silent"


def test_a_bypass_before_the_tap_is_a_movement_away_from_damage() -> None:
    links = "lead1: amp/out1 > pad/in; lead2: pad/out > box/in; lead3: box/through > cab/in1; line: box/line > desk/in1"
    hot = replace(BOX, load_ohms=None, line_out=LineOut(ratio_db=-12, phantom="tolerates"))
    desk = replace(DESK, inputs=(replace(DESK.inputs[0], absolute_max=24.0),))
    case = rig(links, hot, desk, replace(PAD, steps=(20.0,)))
    finding = found(case, "input-damage")[0]
    assert (finding.severity, finding.reason.startswith("With one switch moved")) == ("caution", True)
    assert verdict(changed(case, [Guard("pad", "bypass")])) != "stop"
    assert worst(changed(case, [Guard("pad", "bypass")]), "input-damage") == "silent"


def test_damage_counts_the_amp_that_a_speaker_switch_would_bring() -> None:
    """A tap behind a switch: quiet as it is set, and another, louder amp one turn away."""
    links = (
        "lead1: amp/out1 > switch/in1; lead2: looped/out1 > switch/in2; lead3: switch/out1 > box/in;"
        " lead4: box/through > cab/in1; line: box/line > desk/in1"
    )
    quiet = replace(AMP, modes=(PowerMode("full", 1),))
    hot = replace(BOX, load_ohms=None, line_out=LineOut(ratio_db=-9, phantom="tolerates"))
    desk = replace(DESK, inputs=(replace(DESK.inputs[0], absolute_max=24.0),))
    case = rig(links, quiet, hot, desk)
    assert worst(case, "input-damage") == "stop"
    assert worst(changed(case, [Guard("switch", "input")]), "input-damage") == "silent"
