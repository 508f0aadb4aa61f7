"""One slip from a stop, and the checks that look at shares, leads and limits."""

from __future__ import annotations

from dataclasses import replace

import pytest

from low_tide.core.gear.base import Control, DriverData, Option
from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.interface import Input
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import Attenuator, Cabinet, Lead
from low_tide.core.judging.judge import judge
from low_tide.core.judging.slips import neighbours, slips
from low_tide.core.rig.changes import Guard, changed
from low_tide.core.rig.validation import checked
from low_tide.core.session.run_sheet import run_sheet
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.build import AMP, CAB, DESK, LOAD, PAD, rig
from tests.core.test_checks import PLAIN, TAPPED, mended, worst

OPTIONS = tuple(Option(v, v) for v in ("4", "8", "16"))


@pytest.mark.parametrize(("value", "beside"), [("4", ("8",)), ("8", ("4", "16")), ("16", ("8",))])
def test_a_selector_slips_one_position(value: str, beside: tuple[str, ...]) -> None:
    assert neighbours(Control("c", "C", "choice", "8", OPTIONS), value) == beside


def test_a_knob_slips_to_its_ends_and_a_switch_flips() -> None:
    knob = Control("k", "K", "range", 0.0, low=-10, high=0)
    assert [neighbours(knob, v) for v in (-5.0, 0.0, -10.0)] == [(-10, 0), (-10,), (0,)]
    assert neighbours(Control("s", "S", "switch", False), True) == (False,)


def test_slips_name_the_stop_and_a_guard() -> None:
    found = {s.slip: s for s in slips(rig(PLAIN))}
    tap = found["Amp: tap to 4 Ω"]
    assert (tap.check, tap.stop) == ("mismatch", "Amp sees 8 Ω on its 4 Ω tap.")
    assert tap.guard == "Tape over the tap of Amp where it stands"
    pulled = next(s for s in found.values() if "comes out" in s.slip)
    assert pulled.slip == "Lead 1 comes out of Amp, speaker 1 or Lead 1 comes out of Load, amp in"
    assert (pulled.check, pulled.leads) == ("open-output", ("lead1",))


def test_a_plug_in_the_next_socket() -> None:
    own = replace(AMP, tap_choice="sockets")
    case = rig("lead1: amp/tap8.1 > load/in", own)
    found = [s for s in slips(case) if "instead of" in s.slip and s.units == ("amp",)]
    assert {s.check for s in found} == {"mismatch"}
    assert all(s.guard == "Label 8 Ω (1) of Amp" for s in found)


def test_what_one_movement_leads_to_is_told_by_its_check_and_two_movements_are_slips() -> None:
    case = rig("lead1: amp/out1 > box/in; lead2: box/through > cab/in1")
    assert not any(s.units == ("box",) and "input" in s.slip for s in slips(case))
    small = replace(CAB, drivers=(Driver(16, 8), Driver(16, 8)), rating=None)
    silent = replace(PAD, mute="loaded", steps=(20.0,))
    deep = rig("lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1", small, silent, pad={"step": "20", "mute": True})
    found = [s for s in slips(deep) if s.slip == "Pad: bypass to on, and Pad: silent to off"]
    assert [s.check for s in found] == ["load-rating"]


def test_what_is_taped_does_not_slip() -> None:
    case = rig(PLAIN)
    assert any("tap to" in s.slip for s in slips(case))
    assert not any("tap to" in s.slip for s in slips(changed(case, [Guard("amp", "tap")])))


def test_what_is_a_stop_already_is_no_slip() -> None:
    assert "open-output" not in {s.check for s in slips(rig("lead1: amp/out1", amp={}))}


@pytest.mark.parametrize("name", HOOKUPS)
def test_slips_change_nothing_and_reach_the_run_sheet(name: str) -> None:
    case = checked(HOOKUPS[name], GEAR)
    before = judge(case).findings
    found = slips(case)
    assert judge(case).findings == before
    words = [s.text for s in run_sheet(case) if s.phase == "before"]
    assert all(slip.guard in words for slip in found)


@pytest.mark.parametrize(
    ("ohms", "severity"), [(8.0, "silent"), (9.0, "note"), (16.0, "note"), (16.1, "caution"), (4.0, "note")]
)
def test_uneven_split(ohms: float, severity: str) -> None:
    case = rig("lead1: amp/out1 > load/in; lead2: amp/out2 > cab/in1", replace(LOAD, impedances=(ohms,)))
    assert worst(case, "uneven-split") == severity


def test_a_bridging_tap_is_no_second_load() -> None:
    assert worst(rig("lead1: amp/out1 > box/in; lead2: box/through > cab/in1"), "uneven-split") == "silent"


@pytest.mark.parametrize(
    ("cutout", "rating", "severity"),
    [("opens", 75.0, "caution"), ("opens", 84.0, "caution"), ("opens", 85.0, "silent"), ("none", 75.0, "silent")],
)
def test_load_may_open(cutout: str, rating: float, severity: str) -> None:
    assert worst(rig(PLAIN, replace(LOAD, cutout=cutout, rating=rating)), "load-may-open") == severity


@pytest.mark.parametrize(("length", "severity"), [(9.0, "silent"), (9.8, "caution")])
def test_lead_loss_at_its_edge(length: float, severity: str) -> None:
    # 18 AWG: 2·l·0.021 + 0.02 Ω against 8 Ω; 5 % is 9.05 m.
    lead = Lead("lead1", "Lead 1", length=length, gauge=18)
    case = rig(PLAIN, lead)
    assert worst(case, "lead-loss") == severity
    if severity == "caution":
        assert mended(case, "lead-loss").hookup.links[0].lead != "lead1"


def test_a_lead_behind_a_deep_pad_loses_by_its_own_load() -> None:
    pad = Attenuator("pad", "Pad", rating=100, steps=(20.0,))
    thin = Lead("lead2", "Lead 2", length=12, gauge=18)
    case = rig("lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1", pad, thin)
    assert worst(case, "lead-loss") == "caution"


def test_dips_low() -> None:
    low = Cabinet("cab", "Cab", drivers=(Driver(8, 60, data=DriverData(r_e=5.0)),))
    assert worst(rig("lead1: amp/out1 > cab/in1", low), "dips-low") == "note"
    assert worst(rig("lead1: amp/out1 > cab/in1"), "dips-low") == "silent"
    reactive = replace(LOAD, behaviour="reactive", curve=DriverData(r_e=4.0))
    assert worst(rig(PLAIN, reactive), "dips-low") == "note"


def test_limiter_works() -> None:
    limited = replace(LOAD, line_out=LineOut(ratio_db=-10, limiter_v=1.0, phantom="tolerates"))
    loud = rig(TAPPED, limited, load={"line.pot": 0.0}, desk={"in1.ir": True})
    assert worst(loud, "limiter-works") == "caution"
    mended(loud, "limiter-works")
    assert worst(rig(TAPPED, limited, load={"line.pot": -30.0}), "limiter-works") == "silent"


@pytest.mark.parametrize(("gain", "severity"), [(30.0, "silent"), (31.0, "caution")])
def test_noise_lift(gain: float, severity: str) -> None:
    assert worst(rig(TAPPED, desk={"in1.gain": gain}), "noise-lift") == severity
    padded = replace(DESK, inputs=(Input("in", pad=10, most_gain=50),))
    assert worst(rig(TAPPED, padded, desk={"in1.gain": 40.0, "in1.pad": True}), "noise-lift") == "silent"
