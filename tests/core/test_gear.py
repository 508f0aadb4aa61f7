"""Every kind of unit: its sockets, its controls, and the part it plays in the speaker network."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from low_tide.core.circuit.impedance import driver_impedance, typical_driver
from low_tide.core.circuit.network import GROUND, Network, input_impedance
from low_tide.core.frequency import frequency_grid
from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.attenuator import Mark
from low_tide.core.gear.base import FITS, Control, DriverData, Option
from low_tide.core.gear.cabinet import Driver, OwnLead
from low_tide.core.gear.interface import Input
from low_tide.core.gear.lead import Lead
from low_tide.core.gear.line_out import LineOut
from low_tide.core.gear.load import CurveMode
from low_tide.core.inventory import KINDS, Amp, Attenuator, Cabinet, Interface, Load, TapBox, Unit
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.judging.checks.registry import Case
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import SetControl, touches_speaker_side
from low_tide.core.rig.hookup import End
from low_tide.core.rig.validation import fits
from low_tide.core.rig.words import control_words
from low_tide.demo.gear import GEAR
from tests.core.build import AMP, BOX, CAB, DESK, LOAD, PAD, SWITCH, rig


def impedance(unit: Unit, plugged: str = "", **settings: object) -> float:
    """Nominal impedance at the unit's `in` (or `in1`) socket, alone in a rig."""
    links = f"lead1: {unit.id}/{plugged}" if plugged else ""
    case = rig(links, unit, **{unit.id: settings})
    parts = unit.parts(case.site(unit.id))
    socket = "in1" if isinstance(unit, Cabinet) else "in"
    z = input_impedance(Network(parts.elements, parts.joints, 1), f"{unit.id}.{socket}")[0]
    return float(abs(z))


@pytest.mark.parametrize("unit", GEAR.values(), ids=lambda u: u.id)
def test_ids_of_sockets_and_controls_are_unique_and_labelled(unit: Unit) -> None:
    sockets, controls = unit.sockets(), unit.controls()
    assert len({s.id for s in sockets}) == len(sockets)
    assert len({s.label for s in sockets}) == len(sockets)
    assert len({c.id for c in controls}) == len(controls)
    assert all(c.refuses(c.default) is None for c in controls)
    assert all(c.refuses(p) is None for c in controls for p in c.positions())
    assert unit.summary()


@pytest.mark.parametrize("unit", GEAR.values(), ids=lambda u: u.id)
def test_speaker_sockets_are_rated_for_it(unit: Unit) -> None:
    for socket in unit.sockets():
        assert socket.speaker_rated == (socket.level == "speaker")
        assert FITS[socket.connector] or socket.level == "air"


def test_kinds_are_told_apart() -> None:
    assert [kind for kind, (cls, _, _) in KINDS.items() if cls.__dataclass_fields__["kind"].default != kind] == []


def test_a_selector_gives_all_taps_the_same_jacks() -> None:
    assert [s.id for s in AMP.sockets() if s.level == "speaker"] == ["out1", "out2"]
    tap = next(c for c in AMP.controls() if c.id == "tap")
    assert [o.value for o in tap.options] == ["4", "8", "16", "?"]
    assert (tap.default, tap.safe_live) == ("8", False)


def test_taps_with_their_own_jacks() -> None:
    own = replace(AMP, tap_choice="sockets", taps=(Tap(4, 2), Tap(15, 1)))
    assert [(s.id, s.label) for s in own.sockets() if s.level == "speaker"] == [
        ("tap4.1", "4 Ω (1)"),
        ("tap4.2", "4 Ω (2)"),
        ("tap15.1", "15 Ω"),
    ]
    assert "tap" not in {c.id for c in own.controls()}


def test_one_tap_needs_no_selector() -> None:
    assert [c.id for c in replace(AMP, taps=(Tap(8),), master=False).controls()] == ["flat_out"]


def test_power_modes_are_a_control_that_is_not_for_live_use() -> None:
    two = replace(AMP, modes=(PowerMode("full", 50), PowerMode("half", 25)))
    mode = next(c for c in two.controls() if c.id == "mode")
    assert [o.label for o in mode.options] == ["full, 50 W", "half, 25 W"]
    assert not mode.safe_live
    assert two.mode({"mode": "half"}).power == 25
    assert two.mode({}).power == 50


def test_damping_is_typical_until_measured() -> None:
    assert [replace(AMP, feedback=f).damping() for f in ("none", "moderate", "strong", "transistor", "current")] == [
        0.15,
        0.6,
        1.5,
        50,
        0.5,
    ]
    measured = replace(AMP, damping_factor=0.9)
    assert measured.damping() == 0.9
    assert not any("damping" in said for said in measured.assumptions())


@pytest.mark.parametrize("ohms", [2.0, 8.0, 16.0])
def test_a_load_is_its_rated_impedance_in_the_nominal_view(ohms: float) -> None:
    assert impedance(replace(LOAD, impedances=(ohms,))) == pytest.approx(ohms)
    assert impedance(replace(LOAD, impedances=(ohms,), behaviour="reactive")) == pytest.approx(ohms)


def test_a_load_with_a_selector() -> None:
    both = replace(LOAD, impedances=(8.0, 16.0))
    assert impedance(both) == pytest.approx(8)
    assert impedance(both, impedance="16") == pytest.approx(16)


@pytest.mark.parametrize(("through", "with_plug"), [("parallel", 8.0), ("switching", np.inf), ("unknown", 8.0)])
def test_what_a_plug_in_the_through_socket_does(through: str, with_plug: float) -> None:
    load = replace(LOAD, through=through)
    assert impedance(load) == pytest.approx(8)
    assert impedance(load, plugged="through") == pytest.approx(with_plug)


def test_a_reactive_load_follows_its_curve() -> None:
    load = replace(LOAD, behaviour="reactive", curve=DriverData(f_s=110, q_ms=4))
    case = rig("lead1: amp/out1 > load/in", load)
    curve = load.parts(case.site("load", frequency_grid())).elements[0].impedance
    expected = driver_impedance(replace(typical_driver(8), f_s=110, q_ms=4), frequency_grid())
    assert np.allclose(curve, expected)
    assert load.assumptions() == ("Load: curve typical, not measured",)
    told = DriverData(6.5, 90, 4, 0.7, 0.1, 0.6, 50)
    assert replace(load, curve=told).assumptions() == ()


@pytest.mark.parametrize(("step", "ohms"), [("3", 21.7), ("20", 8.09)])
def test_an_attenuator_without_a_cabinet_is_not_open(step: str, ohms: float) -> None:
    assert impedance(PAD, step=step) == pytest.approx(ohms, abs=0.05)


def test_a_bypassed_attenuator_is_a_wire() -> None:
    assert impedance(PAD, bypass=True) == np.inf
    case = rig("lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1", pad={"bypass": True})
    parts = PAD.parts(case.site("pad"))
    assert parts.elements == ()
    assert parts.joints == (("pad.in", "pad.out"),)


def test_a_step_of_nothing_is_a_wire_too() -> None:
    assert impedance(replace(PAD, steps=(0.0, 6.0)), step="0") == np.inf


def test_an_attenuator_by_knob() -> None:
    knob = replace(PAD, steps=(), lowest=2.0, highest=24.0, bypass=False)
    control = knob.controls()[0]
    assert (control.kind, control.low, control.high, control.default) == ("range", 2.0, 24.0, 24.0)
    assert control.positions() == (2.0, 24.0)
    assert control.hand == "turned"
    assert knob.reach(control)[:2] == (2.0, 3.0)
    assert replace(knob, lowest=2.5).reach(control)[-1] == 24.0


def test_a_reactive_pad_into_its_own_curve_attenuates_evenly() -> None:
    pad = Attenuator("pad", "Pad", behaviour="reactive", steps=(10.0,))
    cab = Cabinet("cab", "Cab", drivers=(Driver(8, 60),))
    case = rig("lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1", pad, cab)
    grid = frequency_grid()
    parts = [g.parts(case.site(u, grid)) for u, g in (("pad", pad), ("cab", cab))]
    joints = (*parts[0].joints, *parts[1].joints, ("pad.out", "cab.in1"))
    net = Network([*parts[0].elements, *parts[1].elements], joints, len(grid))
    solution = net.drive("pad.in")
    assert np.allclose(20 * np.log10(np.abs(solution.voltage("pad.out"))), -10)
    assert np.allclose(input_impedance(net, "pad.in"), driver_impedance(typical_driver(8), grid))


def test_a_tap_box_bridges_or_loads() -> None:
    assert impedance(BOX) == pytest.approx(47_000)
    assert impedance(BOX, mode="load") == pytest.approx(33)
    plain = TapBox("box", "Box")
    assert "mode" not in {c.id for c in plain.controls()}
    assert not plain.is_load(rig("", plain, box={}).site("box"))


@pytest.mark.parametrize(
    ("count", "wiring", "ohms"),
    [(1, "parallel", 16), (2, "parallel", 8), (4, "parallel", 4), (2, "series", 32), (4, "series_parallel", 16)],
)
def test_cabinet_wiring(count: int, wiring: str, ohms: float) -> None:
    cab = Cabinet("cab", "Cab", drivers=(Driver(16),) * count, wiring=wiring)  # type: ignore[arg-type]
    assert cab.nominal() == pytest.approx(ohms)
    assert impedance(cab) == pytest.approx(ohms)


def test_unequal_drivers_in_series() -> None:
    cab = Cabinet("cab", "Cab", drivers=(Driver(4), Driver(8)), wiring="series")
    parts = cab.parts(rig("", cab, cab={}).site("cab"))
    assert [(e.a, e.b) for e in parts.elements] == [("cab.in1", "cab.between1"), ("cab.between1", GROUND)]
    assert cab.nominal() == 12


def test_a_closed_cabinet_raises_the_resonance() -> None:
    driver = Driver(8, 60, data=DriverData(f_s=80), v_as=60)
    closed = Cabinet("cab", "Cab", drivers=(driver,), enclosure="closed", volume=20)
    assert closed.model(driver).f_s == pytest.approx(160)
    assert replace(closed, enclosure="open").model(driver).f_s == 80
    assert any("reckoned as open" in said for said in replace(closed, volume=None).assumptions())


def test_a_combo_speaker_has_a_lead_and_no_jack() -> None:
    cab = Cabinet("own", "Own", own_lead=OwnLead(0.4), jacks=2)
    assert [(s.id, s.own_lead) for s in cab.sockets() if s.level == "speaker"] == [("in1", 0.4)]


def test_inputs_of_an_interface() -> None:
    desk = Interface("d", "D", inputs=(Input("mic", pad=10, phantom=True), Input("line", most_gain=0, connector="trs")))
    assert [(s.id, s.label, s.connector) for s in desk.sockets()] == [("in1", "mic", "combi"), ("in2", "line", "trs")]
    own = ["in1.gain", "in1.pad", "in1.phantom", "in1.ir", "in2.ir"]
    assert [c.id for c in desk.controls()] == [*own, "monitor", "buffer", "plug_ins", "monitors", "rate"]
    assert desk.input("in2").name == "line"


def test_line_out_controls_and_gain() -> None:
    line = LineOut(ratio_db=-30, filter="switchable", earth_lift=True)
    assert [c.id for c in line.controls()] == ["line.pot", "line.filter", "line.lift"]
    assert line.gain_db({"line.pot": -6.0}) == -36
    assert LineOut(ratio_db=-30, pot=False).gain_db({}) == -30
    assert [line.filter_on({"line.filter": on}) for on in (True, False)] == [True, False]
    assert LineOut(filter="fixed").filter_on({})


@pytest.mark.parametrize(
    ("plugs", "sockets", "goes"),
    [
        (("jack", "jack"), ("out1", "in"), True),
        (("xlr", "jack"), ("out1", "in"), False),
        (("locking", "locking"), ("out1", "in"), False),
        (("trs", "jack"), ("out1", "in"), True),
    ],
)
def test_plugs_and_sockets(plugs: tuple[str, str], sockets: tuple[str, str], goes: bool) -> None:
    lead = Lead("x", "X", plug_a=plugs[0], plug_b=plugs[1])  # type: ignore[arg-type]
    case = rig("", amp={}, load={})
    ends = [case.socket(End(unit, socket)) for unit, socket in zip(("amp", "load"), sockets, strict=True)]
    assert fits(lead, ends[0], ends[1]) is goes


def test_either_end_of_a_lead_may_go_first() -> None:
    lead = Lead("x", "X", plug_a="xlr", plug_b="trs")
    case = rig("", load={}, desk={})
    line, combi = case.socket(End("load", "line")), case.socket(End("desk", "in1"))
    assert fits(lead, line, combi)
    assert fits(lead, combi, line)
    assert not fits(lead, line, line)


def test_controls_refuse_in_words() -> None:
    choice = Control("c", "Step", "choice", "a", (Option("a", "A"), Option("b", "B")))
    assert choice.refuses("a") is None
    assert choice.refuses("z") == "Step: “z” is not one of A, B."
    knob = Control("k", "Gain", "range", 0.0, low=-10, high=10, unit="dB")
    assert knob.refuses(10) is None
    assert knob.refuses(10.1) == "Gain: 10.1 is outside −10 to 10 dB."
    assert knob.refuses("loud") == "Gain: loud is outside −10 to 10 dB."
    assert Control("s", "Pad", "switch", False).refuses(1) == "Pad: on or off is wanted."


def test_summaries_read_well() -> None:
    assert [u.summary() for u in (AMP, LOAD, PAD, BOX, CAB, DESK)] == [
        "valve head, 50 W",
        "resistive load, 8 Ω",
        "resistive attenuator, 8 Ω, 2 steps",
        "tap box, bridging or load",
        "cabinet, 8 Ω",
        "interface, 1 input",
    ]
    assert Amp("a", "A", technology="transistor", form="combo").summary() == "transistor combo, 50 W"
    assert [replace(SWITCH, inputs=n).summary() for n in (1, 2)] == ["switch, 1 amp to 1", "switch, 2 amps to 1"]
    assert [replace(DESK, inputs=DESK.inputs * n).summary() for n in (1, 2)] == [
        "interface, 1 input",
        "interface, 2 inputs",
    ]
    assert replace(PAD, steps=(6.0,)).summary() == "resistive attenuator, 8 Ω, 1 step"
    assert replace(PAD, steps=()).summary() == "resistive attenuator, 8 Ω, 3 to 30 dB"
    assert replace(PAD, marks=(Mark("5", 6.0, 1.0),)).summary() == "resistive attenuator, 8 Ω, 1 calibrated position"
    assert Load("l", "L", impedances=(4.0, 8.0)).summary() == "resistive load, 4 / 8 Ω"


@pytest.mark.parametrize("allowed", [False, True])
def test_a_curve_switch_moves_live_only_where_its_maker_allows_it(allowed: bool) -> None:
    modes = (CurveMode("open"), CurveMode("closed"))
    load = replace(LOAD, behaviour="reactive", modes=modes, curve_live=allowed)
    there = rig("lead1: amp/out1 > load/in", load)
    change = SetControl("load", "curve", "closed")
    assert touches_speaker_side(change, there) == (not allowed)
    stopped = list(REGISTRY["re-plug-live"].run(Case(there, Preferences(), live_changes=(change,))))
    assert bool(stopped) == (not allowed)


@pytest.mark.parametrize("unit", GEAR.values(), ids=lambda unit: unit.id)
def test_no_two_controls_of_a_unit_are_called_alike(unit: Unit) -> None:
    called = [control_words(control) for control in unit.controls()]
    assert len(set(called)) == len(called)
