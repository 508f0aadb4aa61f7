"""Whole results: invariants over generated hook-ups, attenuation, run sheet, layout, choices."""

from __future__ import annotations

from dataclasses import replace
from math import isfinite

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.circuit.impedance import MeasuredCurve
from low_tide.core.circuit.network import GROUND, input_impedance
from low_tide.core.finder.socket_options import choices
from low_tide.core.frequency import frequency_grid
from low_tide.core.gear.base import DriverData
from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.interface import PhonesOut
from low_tide.core.gear.lead import Lead
from low_tide.core.inventory import Amp, Cabinet, Headphones, Load
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import judge, with_fixes
from low_tide.core.power.shares import powers
from low_tide.core.power.speaker_network import nominal_network, outputs, real_network, sources
from low_tide.core.preferences import LISTENING_NAMES, MARGIN_NAMES, MATCH_NAMES, Preferences
from low_tide.core.presentation.analysis import analyse
from low_tide.core.presentation.layout import layout
from low_tide.core.rig.changes import Connect, Describe, Disconnect, SetControl, apply_all, touches_speaker_side
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.session.meter import meter_ohms, meter_words
from low_tide.core.session.run_sheet import run_sheet
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.build import AMP, CAB, DESK, LOAD, rig
from tests.examples import many

OHMS = st.sampled_from([2.0, 4.0, 8.0, 16.0, 32.0])


@st.composite
def rigs(draw: st.DrawFn) -> Rig:
    """An amp with up to three things on it, sound or not."""
    amp = replace(AMP, safe_without_load=draw(st.sampled_from(["no", "unknown"])))
    load = replace(
        LOAD,
        impedances=(draw(OHMS),),
        rating=draw(st.sampled_from([None, 20.0, 60.0, 200.0])),
        through=draw(st.sampled_from(["parallel", "switching"])),
    )
    cab = Cabinet("cab", "Cab", drivers=(Driver(draw(OHMS), draw(st.sampled_from([10.0, 30.0, 200.0]))),) * 2)
    links = draw(
        st.sampled_from(
            [
                "lead1: amp/out1",
                "lead1: amp/out1 > load/in",
                "lead1: amp/out1 > load/in; lead2: amp/out2 > cab/in1",
                "lead1: amp/out1 > load/in; lead2: load/through > cab/in1",
                "thin: amp/out1 > load/in; lead2: load/through",
                "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1; lead3: amp/out2 > load/in",
            ]
        )
    )
    tap = draw(st.sampled_from(["4", "8", "16"]))
    pad = {"pad": {"bypass": draw(st.booleans())}} if "pad" in links else {}
    return rig(links, amp, load, cab, amp={"tap": tap}, **pad)


@settings(max_examples=many(150))
@given(rigs())
def test_never_clear_when_open_or_over_a_rating(case: Rig) -> None:
    judged = judge(case)
    is_open = any(s.impedance > 4 * s.output.wanted for s in judged.case.seen)
    over = any(s.rating is not None and s.label > s.rating for s in judged.case.shares)
    if is_open or over:
        assert judged.verdict.severity == "stop"
    if any(s.rating is None for s in judged.case.shares):
        assert RANK[judged.verdict.severity] >= RANK["caution"]


@settings(max_examples=many(100))
@given(rigs())
def test_all_the_jack_power_is_taken_by_someone(case: Rig) -> None:
    taken = sum(flat for _, flat in powers(case).values())
    loaded = [s for s in judge(case).case.seen if isfinite(s.impedance)]
    assert taken == pytest.approx(75.0 if loaded else 0.0)


@settings(max_examples=many(60))
@given(rigs())
def test_a_fix_mends_its_finding_and_brings_nothing_as_bad(case: Rig) -> None:
    judged = with_fixes(judge(case))
    for finding in judged.findings:
        if finding.fix is None or RANK[finding.severity] < RANK["caution"]:
            continue
        after = judge(apply_all(case.hookup, finding.fix.changes, case.gear))
        found = (finding.id, finding.units, finding.which)
        same = [f for f in after.findings if (f.id, f.units, f.which) == found]
        assert all(RANK[f.severity] < RANK[finding.severity] for f in same)
        count = [sum(f.severity == "stop" for f in j.findings) for j in (judged, after)]
        assert count[1] <= count[0]


def test_real_network_balances_at_every_frequency() -> None:
    for hookup in HOOKUPS.values():
        case = checked(hookup, GEAR)
        net = real_network(case, frequency_grid())
        found = outputs(case)
        solution = net.solve(sources(found, net.points))
        taken = sum((solution.power(e) for e in net.elements), np.zeros(net.points))
        given_power = np.zeros(net.points)
        for s in sources(found, net.points):
            v = solution.voltage(s.node)
            given_power += np.real(v * np.conj((s.voltage - v) / s.impedance))
        assert np.allclose(taken, given_power, rtol=1e-6, atol=1e-9)


def clean_db(case: Rig) -> float:
    found = analyse(case).speakers[0].clean_db
    assert found is not None
    return found


@pytest.mark.parametrize(("damping", "expected"), [(50, -3.0), (1.5, -3.9), (0.15, -6.0)])
def test_a_resistor_beside_the_speaker(damping: float, expected: float) -> None:
    """An 8 Ω resistor beside an 8 Ω speaker on the 4 Ω tap, small signal, programme-weighted."""
    amp = replace(AMP, damping_factor=damping)
    case = rig("lead1: amp/out1 > load/in; lead2: amp/out2 > cab/in1", amp, amp={"tap": "4"})
    assert clean_db(case) == pytest.approx(expected, abs=0.15)


def test_a_pad_takes_more_off_a_high_impedance_amp() -> None:
    links = "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1"
    case = rig(links, replace(AMP, damping_factor=0.15), pad={"step": "20"})
    result = analyse(case).speakers[0]
    assert result.clipped_db == pytest.approx(-20.0, abs=0.01)
    assert result.clean_db == pytest.approx(-24, abs=0.5)


def test_a_deep_pad_hides_the_cabinet() -> None:
    curve = analyse(rig("lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1", pad={"step": "20"})).curves[0]
    magnitude = np.abs(np.array(curve.real) + 1j * np.array(curve.imaginary))
    assert 20 * np.log10(magnitude.max() / magnitude.min()) < 0.11


def test_bridging_takes_less_than_a_tenth_of_a_db() -> None:
    seen = judge(rig("lead1: amp/out1 > box/in; lead2: box/through > cab/in1")).case.seen[0]
    assert 20 * np.log10(8 / seen.impedance) < 0.1


def test_the_meter_reads_the_coil() -> None:
    case = rig("lead1: amp/out1 > cab/in1")
    link = case.hookup.links[0]
    found = meter_ohms(case, link, link.a)
    assert found
    assert (found.ohms, found.known) == (pytest.approx(0.82 * 8 + 0.0366, abs=0.01), "typical")
    assert (found.low, found.high) == pytest.approx((found.ohms * 0.85, found.ohms * 1.15))
    assert meter_words(found).endswith("look first; under 3.96 Ω or over 9.24 Ω: stop")
    free = rig("lead1: amp/out1", amp={})
    assert meter_ohms(free, free.hookup.links[0], free.hookup.links[0].a) is None


def test_the_meter_sees_through_a_switching_socket() -> None:
    switching = replace(LOAD, through="switching")
    case = rig("lead1: amp/out1 > load/in; lead2: load/through > cab/in1", switching)
    link = case.hookup.links[0]
    found = meter_ohms(case, link, link.a)
    assert found
    assert found.ohms == pytest.approx(6.56, abs=0.15)


def flat_curve(*points: tuple[float, float]) -> MeasuredCurve:
    return MeasuredCurve(tuple(f for f, _ in points), tuple(r for _, r in points), (0.0,) * len(points))


@pytest.mark.parametrize(
    ("curve", "known"),
    [
        (flat_curve((10, 2.1), (20, 2.1), (80, 30.0), (400, 7.0), (5000, 20.0)), "known"),
        (flat_curve((20, 2.1), (30, 9.0), (80, 30.0), (400, 7.0)), "unknown"),
        (flat_curve((50, 7.0), (80, 30.0), (400, 7.0)), "unknown"),
    ],
)
def test_a_measured_curve_gives_direct_current_only_where_it_begins_low_and_level(
    curve: MeasuredCurve, known: str
) -> None:
    cab = Cabinet("cab", "Cab", drivers=(Driver(8, 60, data=DriverData(measured=curve)),))
    case = rig("lead1: amp/out1 > cab/in1", cab)
    found = meter_ohms(case, case.hookup.links[0], case.hookup.links[0].a)
    assert found
    assert found.known == known
    if known == "unknown":
        assert (found.ohms, found.low) == (pytest.approx(8), pytest.approx(4.8, abs=0.05))
        assert "between 4.8" in meter_words(found)
    else:
        # Half an ohm is more than 15 % of so little.
        assert (found.low, found.high) == pytest.approx((found.ohms - 0.5, found.ohms + 0.5))
        assert meter_words(found).endswith("stop")


def test_run_sheet_follows_the_hookup() -> None:
    case = checked(HOOKUPS["silent-night"], GEAR)
    steps = run_sheet(case)
    phases = list(dict.fromkeys(s.phase for s in steps))
    assert phases == ["before", "switch_on", "bring_up", "capture", "switch_off"]
    assert len({s.id for s in steps}) == len(steps)
    words = " ".join(f"{s.text} {s.expect}" for s in steps)
    assert "tap 8 Ω" in words
    assert "Speaker lead A: Godwit 45, speaker 1 → Groyne R8, amp in" in words
    assert "−14.8 dBFS" in words
    moved = apply_all(case.hookup, [SetControl("godwit-45", "tap", "16")], case.gear)
    assert {s.id for s in run_sheet(moved)} != {s.id for s in steps}
    assert run_sheet(rig("lead1: load/in")) == ()


def test_layout_runs_along_the_signal() -> None:
    spots = {s.unit: s.column for s in layout(checked(HOOKUPS["tap-on-lead"], GEAR))}
    assert spots == {"redshank-100": 0, "winkle-1": 1, "whimbrel-412": 2, "shingle-2": 2}
    ring = rig("lead1: pad/out > box/in; lead2: box/through > pad/in")
    assert len(layout(ring)) == 2


def test_choices_tell_what_would_follow() -> None:
    case = rig("lead1: amp/out1 > load/in", replace(LOAD, rating=200))
    found = choices(case, End("amp", "out2"))
    cab = next(c for c in found if c.label.startswith("Cab") and "with the tap" not in c.label)
    assert (cab.severity, cab.consequence) == ("stop", "Amp then sees 4 Ω on its 8 Ω tap")
    after = apply_all(case.hookup, cab.changes, case.gear)
    assert judge(after).verdict.severity == cab.severity
    assert found[-1].group == "Nothing at the far end"


def test_an_occupied_socket_offers_other_leads() -> None:
    case = rig("lead1: amp/out1 > load/in")
    groups = {c.group for c in choices(case, End("load", "in"))}
    assert groups == {"The lead that is here", "Another lead in its place"}
    swaps = {c.label: c.severity for c in choices(case, End("load", "in")) if c.group == "Another lead in its place"}
    assert (swaps["Thin lead"], swaps["Lead 2"]) == ("stop", "note")


def test_changes_on_the_speaker_side_are_known() -> None:
    case = rig("lead1: amp/out1 > load/in; line: load/line > desk/in1")
    touches = [
        touches_speaker_side(c, case)
        for c in (
            SetControl("amp", "tap", "4"),
            SetControl("load", "line.pot", -3.0),
            Disconnect("lead1"),
            Disconnect("line"),
            Connect("lead2", End("load", "in")),
            Describe(name="x"),
        )
    ]
    assert touches == [True, False, True, False, True, False]


def test_typical_values_stay_marked() -> None:
    result = analyse(rig("lead1: amp/out1 > cab/in1", replace(CAB, typical=("rating",))))
    said = [value.text for value in result.typical]
    assert "Cab: speaker curve typical, not measured" in said
    assert "Cab: rating typical, not measured" in said
    assert any("damping factor typical" in said for said in result.amps[0].typical)


def test_transistor_power_follows_the_load() -> None:
    solid = Amp("amp", "Amp", technology="transistor", minimum_load=4, crank=1.0)
    load = Load("load", "Load", impedances=(4.0,), rating=200)
    share = judge(rig("lead1: amp/out1 > load/in", solid, load)).case.shares[0]
    assert share.label == pytest.approx(100)


def test_leads_reach_the_real_network_only() -> None:
    long = Lead("lead1", "Long", length=30, gauge=18)
    case = rig("lead1: amp/out1 > load/in", long)
    networks = (nominal_network(case), real_network(case, frequency_grid()))
    seen = [1 / abs(input_impedance(net, "amp.out")[0]) for net in networks]
    assert seen[0] == pytest.approx(1 / 8)
    assert seen[1] == pytest.approx(1 / (8 + 2 * 30 * 21.0e-3 + 0.02))
    assert GROUND not in nominal_network(case)._nodes


def test_an_unknown_tap_is_never_drawn_as_a_match() -> None:
    found = analyse(rig("lead1: amp/out1 > load/in", amp={"tap": "?"}))
    (stage,) = [s for s in found.stages if s.id.startswith("match:")]
    assert (stage.value, stage.severity, stage.level_db) == ("8 Ω on a tap not known", "stop", 0.5)
    assert (found.facts[0].value, found.facts[0].remark) == ("8", "on a tap not known, by rating")


SCHOOLS = (("match", MATCH_NAMES), ("margin", MARGIN_NAMES), ("listening", LISTENING_NAMES))
IN_PHONES = rig(
    "lead1: amp/out1 > load/in; pair: pair/plug > desk/phones1",
    replace(DESK, phones=(PhonesOut(max_volts=0.05, impedance=0),)),
    Headphones("pair", "Pair", impedance=32, sensitivity=100),
)


@pytest.mark.parametrize(("question", "names"), SCHOOLS)
def test_what_other_schools_are_said_to_say_is_what_they_say(question: str, names: dict[str, str]) -> None:
    asked = 0
    for case in (*(checked(h, GEAR) for n, h in HOOKUPS.items() if n != "whole-ship"), IN_PHONES):
        said = {key: judge(case, Preferences(**{question: key})).findings for key in names}  # type: ignore[arg-type]
        for findings in said.values():
            for finding in (f for f in findings if f.school and f.school.chosen in names.values()):
                for view in finding.school.others if finding.school else ():
                    key = next(k for k, name in names.items() if name == view.name)
                    mark = (finding.id, finding.units, finding.which)
                    theirs = [f.severity for f in said[key] if (f.id, f.units, f.which) == mark] or ["fine"]
                    assert view.severity in theirs, (case.hookup.name, finding.school, finding.text, view)
                    asked += 1
    assert asked >= 4
