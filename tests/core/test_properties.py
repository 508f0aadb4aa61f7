"""What holds for any hook-up: nothing passive gives power, a name changes nothing, fixes mend, verdicts do not lie."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.circuit.attenuator import l_pad
from low_tide.core.circuit.network import GROUND, Element, Network, Source, input_impedance
from low_tide.core.frequency import frequency_grid
from low_tide.core.gear.cabinet import Driver
from low_tide.core.inventory import Attenuator, Cabinet, Load, ReAmp
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import MOST_TRIED, judge, mends, with_fixes
from low_tide.core.power.shares import powers_of
from low_tide.core.power.speaker_network import nominal_network, outputs, real_network, sources
from low_tide.core.presentation.analysis import analyse
from low_tide.core.rig.changes import SetControl, apply_all, changed
from low_tide.core.rig.hookup import End, Hookup, Link, Placed
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.build import AMP, CAB, LOAD, LOOPED, PAD, REAMP, SWITCH, rig
from tests.examples import many

OHMS = st.sampled_from([2.0, 4.0, 8.0, 15.0, 16.0, 32.0])
WATTS = st.sampled_from([None, 5.0, 20.0, 60.0, 200.0])
LINKS = st.sampled_from(
    [
        "lead1: amp/out1 > load/in; line: load/line > desk/in1",
        "lead1: amp/out1 > load/in; lead2: amp/out2 > cab/in1",
        "lead1: amp/out1 > load/in; lead2: load/through > cab/in1",
        "lead1: amp/out1 > load/in; lead2: load/through",
        "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1; line: load/line > desk/in1",
        "lead1: amp/out1 > pad/out; lead2: pad/in > cab/in1",
        "lead1: amp/out1 > reamp/in; lead2: reamp/out > cab/in1",
        "lead1: amp/out1 > switch/in1; lead2: looped/out1 > switch/in2; lead3: switch/out1 > cab/in1",
        "lead1: amp/out1 > box/in; lead2: box/through > cab/in1; lead3: amp/out2 > load/in",
        "thin: amp/out1 > load/in; lead2: looped/out1 > load/through",
    ]
)


@st.composite
def rigs(draw: st.DrawFn) -> Rig:
    """Anything somebody might plug together, sound or not."""
    links = draw(LINKS)
    load = replace(
        LOAD,
        impedances=(draw(OHMS),),
        rating=draw(WATTS),
        rating_kind=draw(st.sampled_from(["continuous", "amp_label", "unknown"])),
        behaviour=draw(st.sampled_from(["resistive", "reactive"])),
        through=draw(st.sampled_from(["parallel", "switching"])),
    )
    split = draw(st.sampled_from(["parallel", "series", "separate", "mono_stereo"]))
    cab = replace(
        CAB,
        drivers=(Driver(draw(OHMS), draw(WATTS), 98.0),) * 2,
        rating=None,
        jack_wiring=split,
        jacks=2,
        wiring="series",
    )
    pad = replace(
        PAD,
        behaviour=draw(st.sampled_from(["resistive", "reactive"])),
        mute=draw(st.sampled_from(["none", "open", "loaded"])),
    )
    reamp: ReAmp = replace(REAMP, load_needs_mains=draw(st.sampled_from(["yes", "no"])))
    switch = replace(SWITCH, idle=draw(st.sampled_from(["loaded", "open"])))
    amp = replace(AMP, technology=draw(st.sampled_from(["valve", "valve", "transistor"])), minimum_load=4)
    given_: dict[str, dict] = {"amp": {"tap": draw(st.sampled_from(["4", "8", "16"])), "flat_out": draw(st.booleans())}}
    if "pad" in links:
        given_["pad"] = {"step": draw(st.sampled_from(["3", "20"])), "bypass": draw(st.booleans())}
        if pad.mute != "none":
            given_["pad"]["mute"] = draw(st.booleans())
    if "reamp" in links:
        given_["reamp"] = {"mains": draw(st.booleans()), "volume": draw(st.sampled_from([-40.0, -10.0, 0.0]))}
    return rig(links, amp, load, cab, pad, reamp, switch, LOOPED, **given_)


@settings(max_examples=many(120))
@given(rigs())
def test_power_balances_and_nothing_passive_gives_any(case: Rig) -> None:
    net = real_network(case, frequency_grid())
    used = tuple(o for o in outputs(case) if net.find(o.node) in net.nodes)
    found = sources(used, net.points)
    solution = net.solve(found)
    each = [solution.power(e) for e in net.elements]
    assert all((p >= -1e-9 * (1 + p.max())).all() for p in each)
    given_out = np.zeros(net.points)
    for source in found:
        current = (source.voltage - solution.voltage(source.node)) / source.impedance
        given_out = given_out + np.real(solution.voltage(source.node) * np.conj(current))
    assert sum(each) == pytest.approx(given_out, rel=1e-6, abs=1e-9) if each else True


@settings(max_examples=many(80))
@given(rigs())
def test_the_rows_of_the_power_chart_add_up(case: Rig) -> None:
    for output in outputs(case):
        rows = powers_of(case, output)
        seen = abs(input_impedance(nominal_network(case), output.node)[0])
        if rows:
            label, flat = output.powers_into(float(seen))
            assert sum(a for a, _ in rows.values()) == pytest.approx(label)
            assert sum(b for _, b in rows.values()) == pytest.approx(flat)


@settings(max_examples=many(80))
@given(rigs())
def test_no_verdict_is_clear_while_open_or_over_a_rating(case: Rig) -> None:
    judged = judge(case)
    worst = RANK[judged.verdict.severity]
    for seen in judged.case.seen:
        amp = case.gear[seen.output.amp]
        if getattr(amp, "technology", "") == "valve" and seen.impedance > 4 * seen.output.wanted:
            assert worst == RANK["stop"]
    for share in judged.case.shares:
        if share.rating is None:
            assert worst >= RANK["caution"]
        elif share.label > share.rating * 1.001:
            assert worst == RANK["stop"]


@settings(max_examples=many(60))
@given(
    ohms=st.sampled_from([4.0, 8.0, 16.0]),
    rating=st.floats(75, 1000),
    behaviour=st.sampled_from(["resistive", "reactive"]),
)
def test_what_is_plainly_matched_and_rated_is_never_stopped(ohms: float, rating: float, behaviour: str) -> None:
    load: Load = replace(LOAD, impedances=(ohms,), rating=rating, behaviour=behaviour)
    for flat_out in (False, True):
        judged = judge(rig("lead1: amp/out1 > load/in", load, amp={"tap": f"{ohms:g}", "flat_out": flat_out}))
        # Only its heat may ask for a look: 75 W flat out, and what a case does with them is typical.
        asked = {f.id for f in judged.findings if RANK[f.severity] >= RANK["caution"]}
        assert asked <= ({"runs-hot"} if rating < 100 else set())


@settings(max_examples=many(60))
@given(rigs())
def test_a_fix_takes_its_finding_away_and_brings_nothing_worse(case: Rig) -> None:
    before = with_fixes(judge(case))
    for finding in before.findings:
        for fix in finding.fixes:
            after = judge(apply_all(case.hookup, fix.changes, case.gear))
            rank = RANK[finding.severity]
            about = (finding.id, finding.units, finding.which)
            assert not any((f.id, f.units, f.which) == about and RANK[f.severity] >= rank for f in after.findings)
            for check in {f.id for f in after.findings}:
                count = [sum(f.id == check and RANK[f.severity] >= rank for f in j.findings) for j in (before, after)]
                assert count[1] <= count[0]


@settings(max_examples=many(60))
@given(rigs())
def test_other_names_change_nothing(case: Rig) -> None:
    def other(name: str) -> str:
        return f"x-{name}"

    gear = {other(i): replace(g, id=other(i)) for i, g in case.gear.items()}
    hookup = Hookup(
        "test",
        units=tuple(Placed(other(p.unit), p.settings) for p in case.hookup.units),
        links=tuple(
            Link(other(k.lead), End(other(k.a.unit), k.a.socket), End(other(k.b.unit), k.b.socket) if k.b else None)
            for k in case.hookup.links
        ),
    )
    renamed, plain = judge(checked(hookup, gear)), judge(case)
    assert [(f.id, f.severity, f.text) for f in renamed.findings] == [
        (f.id, f.severity, f.text) for f in plain.findings
    ]
    assert [s.impedance for s in renamed.case.seen] == pytest.approx([s.impedance for s in plain.case.seen])


@settings(max_examples=many(80))
@given(first=OHMS, second=OHMS)
def test_a_load_beside_another_never_raises_what_is_seen(first: float, second: float) -> None:
    one = replace(LOAD, impedances=(first,))
    cab = Cabinet("cab", "Cab", drivers=(Driver(second, 100),))
    alone = judge(rig("lead1: amp/out1 > load/in", one)).case.seen[0].impedance
    both = judge(rig("lead1: amp/out1 > load/in; lead2: amp/out2 > cab/in1", one, cab)).case.seen[0].impedance
    assert both < alone
    assert both == pytest.approx(first * second / (first + second))


@settings(max_examples=many(60))
@given(db=st.integers(1, 80).map(lambda half: half / 2), ohms=st.sampled_from([4.0, 8.0, 16.0]))
def test_attenuation_is_the_insertion_loss_of_the_pad(db: float, ohms: float) -> None:
    """Power with the pad over power without it, from a source behind the pad's own impedance: both say A dB."""
    series, shunt = l_pad(db, ohms)

    def at_speaker(with_pad: bool) -> float:
        one = np.ones(1, np.complex128)
        parts = [Element("s", "", "out", GROUND, ohms * one)]
        joints = [("in", "out")]
        if with_pad:
            parts += [Element("p", "", "in", "out", series * one), Element("p", "", "out", GROUND, shunt * one)]
            joints = []
        net = Network(parts, joints, 1)
        solution = net.solve((Source("a", "in", 10 * one, ohms * one),))
        return float(abs(solution.voltage("out"))[0])

    assert 20 * np.log10(at_speaker(False) / at_speaker(True)) == pytest.approx(db)
    pad = Attenuator("pad", "Pad", impedance=ohms, rating=100, rating_kind="continuous", steps=(db,))
    cab = Cabinet("cab", "Cab", drivers=(Driver(ohms, 100),))
    case = judge(rig("lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1", pad, cab)).case
    assert -10 * np.log10(next(s.now for s in case.shares if s.unit == "cab") / 75) == pytest.approx(db)


@pytest.mark.parametrize("name", HOOKUPS)
def test_reciprocity(name: str) -> None:
    """A network of passive parts carries as well one way as the other."""
    net = nominal_network(checked(HOOKUPS[name], GEAR))
    nodes = net.nodes
    for a in nodes[:4]:
        for b in nodes[:4]:
            za, zb = net.driving_point(a), net.driving_point(b)
            assert za is not None
            assert zb is not None
            assert net.gain(b, a)[0] * za[0] == pytest.approx(net.gain(a, b)[0] * zb[0])


@pytest.mark.parametrize("name", HOOKUPS)
def test_fixes_tried_on_a_part_are_those_that_mend_the_whole(name: str) -> None:
    judged = judge(checked(HOOKUPS[name], GEAR))
    for plain, offered in zip(judged.findings, with_fixes(judged).findings, strict=True):
        working = next((fix for fix in plain.fixes[:MOST_TRIED] if mends(fix, plain, judged)), None)
        assert offered.fix == working


@st.composite
def moved(draw: st.DrawFn) -> Rig:
    """A hook-up of the lightship with one of its controls anywhere it goes, at some hour."""
    hookup = HOOKUPS[draw(st.sampled_from(sorted(HOOKUPS)))]
    occasion = replace(hookup.occasion, hour=draw(st.sampled_from(["", "12:00", "22:30"])))
    case = checked(replace(hookup, occasion=occasion), GEAR)
    unit, control = draw(st.sampled_from([(u, c) for u, gear in case.units() for c in gear.controls()]))
    ends = [control.low, control.high] if control.kind == "range" else [True, False]
    value = draw(st.sampled_from([o.value for o in control.options] or ends))
    return changed(case, [SetControl(unit, control.id, value)])


@settings(max_examples=many(150))
@given(st.one_of(rigs(), moved()))
def test_tide_line_and_facts_say_what_the_verdict_says(case: Rig) -> None:
    found = analyse(case)
    for told in (*found.stages, *found.facts):
        assert RANK[told.severity] <= RANK[found.verdict.severity], told
    for stage in found.stages:
        assert stage.level_db > 0 or stage.severity != "stop", stage
        assert stage.level_db <= 0 or stage.severity != "fine", stage
