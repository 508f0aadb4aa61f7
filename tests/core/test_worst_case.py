"""The worst case over joint states: against every state by hand, and what no change may do to it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from low_tide.core.gear.amp import PowerMode
from low_tide.core.gear.cabinet import Driver
from low_tide.core.inventory import Amp, Attenuator, Cabinet, ReAmp, Unit
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import judge
from low_tide.core.power import worst_case
from low_tide.core.power.shares import Share, seen_by, shares, switched_shares
from low_tide.core.rig.changes import Guard, SetControl, changed
from low_tide.core.rig.hookup import HookupError, Link
from low_tide.core.rig.reachable_states import Standing, beginnings, movable
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from tests.core.build import AMP, CAB, LEADS, LOAD, PAD, REAMP, SWITCH, rig
from tests.core.worst_by_hand import State, mismatched, overloaded, states
from tests.examples import many

OHMS = st.sampled_from([4.0, 8.0, 16.0])
WATTS = st.sampled_from([None, 3.0, 20.0, 45.0, 60.0, 120.0])
KINDS = st.sampled_from(["continuous", "unknown"])
WAYS = st.sampled_from(
    [
        "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1",
        "lead1: amp/out1 > pad/in; lead2: pad/out > load/in; lead3: load/through > cab/in1",
        "lead1: amp/out1 > pad/out; lead2: pad/in > cab/in1",
        "lead1: amp/out1 > cab/in1; lead2: cab/in2 > pad/out",
        "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1; lead3: amp/out2 > cab/in2",
        "lead1: amp/out1 > box/in; lead2: box/through > pad/in; lead3: pad/out > cab/in1",
        "lead1: amp/out1 > pad/in; lead2: pad/out > box/in; lead3: box/through > cab/in1",
        "lead1: amp/out1 > reamp/in; lead2: reamp/out > cab/in1",
        "lead1: amp/out1 > reamp/in; lead2: reamp/out > pad/in; lead3: pad/out > cab/in1",
        "lead1: amp/out1 > switch/in1; lead2: other/out1 > switch/in2; lead3: switch/out1 > cab/in1;"
        " lead4: switch/out2 > load/in",
        "lead1: amp/out1 > switch/in1; lead2: switch/out1 > pad/in; lead3: pad/out > cab/in1;"
        " lead4: switch/out2 > load/in",
        "lead1: amp/out1 > load/in; lead2: amp/out2 > box/in",
    ]
)

PULLED = PowerMode("pulled", 15, 2.0, technician=True)


@st.composite
def amps(draw: st.DrawFn, name: str) -> Amp:
    modes = draw(
        st.sampled_from(
            [
                (PowerMode("full", 50),),
                (PowerMode("full", 50), PowerMode("half", 25)),
                (
                    PowerMode("full", 30),
                    PowerMode("one", 1, attenuation=12.0),
                    PowerMode("pulled", 15, 2.0, technician=True),
                ),
            ]
        )
    )
    technology = draw(st.sampled_from(["valve", "valve", "transistor"]))
    return replace(AMP, id=name, name=name, modes=modes, technology=technology, minimum_load=4.0)


@st.composite
def rigs(draw: st.DrawFn) -> Rig:
    """Small networks with several controls: sound, doubtful and wrong ones."""
    way = draw(WAYS)
    pad = replace(
        PAD,
        impedance=draw(OHMS),
        rating=draw(WATTS),
        rating_kind=draw(KINDS),
        steps=draw(st.sampled_from([(3.0, 9.0, 20.0), (0.0, 6.0), ()])),
        lowest=3.0,
        highest=9.0,
        bypass=draw(st.booleans()),
        mute=draw(st.sampled_from(["none", "open", "loaded"])),
    )
    cab = replace(
        CAB,
        drivers=(Driver(draw(OHMS), draw(WATTS), 98.0), Driver(draw(OHMS), draw(WATTS), 98.0)),
        wiring=draw(st.sampled_from(["series", "parallel"])),
        rating=draw(WATTS),
        jack_wiring=draw(st.sampled_from(["parallel", "series", "separate", "mono_stereo"])),
        mono_joins=draw(st.sampled_from(["parallel", "series"])),
    )
    load = replace(
        LOAD,
        impedances=draw(st.sampled_from([(8.0,), (4.0, 16.0)])),
        rating=draw(WATTS),
        rating_kind=draw(KINDS),
        through="parallel",
    )
    reamp = replace(REAMP, rating=draw(WATTS), load_needs_mains=draw(st.sampled_from(["yes", "no"])))
    switch = replace(SWITCH, outputs=2, together=draw(st.booleans()), idle_ohms=draw(OHMS), idle_rating=draw(WATTS))
    units: list[Unit] = [draw(amps("amp")), draw(amps("other")), pad, cab, load, reamp, switch]
    given_: dict[str, dict] = {"amp": {"tap": draw(st.sampled_from(["4", "8", "16"])), "flat_out": draw(st.booleans())}}
    if "pad" in way:
        given_["pad"] = (
            {"step": f"{pad.steps[-1]:g}"} if pad.steps else {"step": draw(st.sampled_from([3.0, 5.5, 9.0]))}
        )
    case = rig(way, *units, **given_)
    for unit, _ in case.units():
        for control, _ in movable(case, unit):
            if draw(st.integers(0, 4)) == 0:
                case = changed(case, [Guard(unit, control.id)])
    return case


def parts_of(case: Rig, share: Share) -> set[str] | None:
    """Parts whose watts count against a rating; None for all of the unit."""
    gear = case.gear[share.unit]
    if share.part in ("left half", "right half"):
        assert isinstance(gear, Cabinet)
        middle = len(gear.drivers) // 2
        half = range(middle) if share.part == "left half" else range(middle, len(gear.drivers))
        return {f"driver {i + 1}" for i in half}
    return {share.part} if share.part else None


@settings(max_examples=many(100), suppress_health_check=[HealthCheck.too_slow])
@given(rigs())
def test_watts_are_the_worst_of_every_state_tried_by_hand(case: Rig) -> None:
    tried = list(states(case))
    for switched, found in ((0, shares(case)), (1, switched_shares(case))):
        here = [s for s in tried if s.switched == switched]
        for key in {(s.unit, s.part): s for s in found}:
            alike = [s for s in found if (s.unit, s.part) == key]
            names = parts_of(case, alike[0])
            taken = [[w for (u, p), w in s.watts.items() if u == key[0] and (not names or p in names)] for s in here]
            if key[1] in ("left half", "right half") and getattr(case.gear["cab"], "jack_wiring", "") == "mono_stereo":
                continue  # a half counts in stereo alone; by hand it is not told apart
            assert max(s.label for s in alike) == pytest.approx(max(sum(a for a, _ in w) for w in taken), rel=2e-4)
            assert max(s.played for s in alike) == pytest.approx(max(sum(b for _, b in w) for w in taken), rel=2e-4)


@settings(max_examples=many(100))
@given(rigs())
def test_what_each_output_sees_in_every_state_is_what_it_is_by_hand(case: Rig) -> None:
    by_hand = next(iter(states(case)))
    for seen in seen_by(case):
        ohms, wanted = by_hand.sees[seen.output.amp]
        assert seen.output.wanted == wanted
        assert seen.impedance == (ohms if ohms in (0, np.inf) else pytest.approx(ohms, rel=1e-6))
    every: dict[str, set[str]] = {}
    for state in states(case):
        for unit, (ohms, _) in state.sees.items():
            every.setdefault(unit, set()).add(f"{ohms:.5g}")
    for whole in worst_case.reached(case):
        for (unit, _), slot in whole.as_set.slots.items():
            reached = {f"{x:.5g}" for x, there in zip(slot.ohms, slot.there, strict=True) if there}
            knob = any(c.kind == "range" and c.id == "step" for u, _ in case.units() for c, _ in movable(case, u))
            assert reached <= every[unit] or knob


POWER_AND_MATCH = {"load-rating", "load-mode-tap", "open-output", "mismatch", "below-minimum", "shorted-output"}


@settings(max_examples=many(100), suppress_health_check=[HealthCheck.too_slow])
@given(rigs())
def test_no_false_clear_and_no_stop_without_a_reason_by_hand(case: Rig) -> None:
    tried, judged = list(states(case)), judge(case)
    stop = mismatched(case, tried[0], "exact") or any(overloaded(case, s) for s in tried if s.switched == 0)
    away = any(overloaded(case, s) for s in tried if s.switched == 1) or any(
        mismatched(case, s, "any") for s in tried if s.moved == 1
    )
    told = {f.id for f in judged.findings if f.severity == "stop"}
    if stop:
        assert told & POWER_AND_MATCH
    elif away:
        assert RANK[judged.verdict.severity] >= RANK["caution"]
    halved = any("half of the whole" in mark for f in judged.findings for mark in f.typical)
    if not stop and not halved:
        edges = ((watts, s.rating) for s in shares(case) for watts in (s.label, s.played) if s.rating)
        near = mismatched_nearly(case, tried[0]) or any(abs(watts / rating - 1) < 0.01 for watts, rating in edges)
        assert near or not told & POWER_AND_MATCH


def mismatched_nearly(case: Rig, state: State) -> bool:
    """Within what the two sides may differ in at an edge."""

    def edges(unit: str, wanted: float) -> list[float]:
        gear = case.gear[unit]
        if isinstance(gear, ReAmp):
            return [gear.inner_minimum or 0.0]
        least = gear.minimum_load or 0.0 if isinstance(gear, Amp) and gear.technology == "transistor" else 0.0
        return [least, *(wanted * edge for edge in (0.1, 0.784, 1.5, 4.0))]

    return any(abs(ohms - e) < 0.02 * e for u, (ohms, wanted) in state.sees.items() for e in edges(u, wanted))


def severity(case: Rig) -> int:
    return RANK[judge(case).verdict.severity]


@settings(max_examples=many(80))
@given(rigs(), st.data())
def test_drawing_a_lead_the_other_way_round_changes_nothing(case: Rig, data: st.DataObject) -> None:
    at = data.draw(st.integers(0, len(case.hookup.links) - 1))
    link = case.hookup.links[at]
    assume(link.b is not None)
    assert link.b is not None
    links = (*case.hookup.links[:at], Link(link.lead, link.b, link.a), *case.hookup.links[at + 1 :])
    turned = checked(replace(case.hookup, links=links), case.gear)
    before, after = judge(case), judge(turned)
    told = [
        sorted((f.id, f.severity, f.text, f.reason) for f in j.findings if f.id != "lead-choice")
        for j in (before, after)
    ]
    assert told[0] == told[1]


@settings(max_examples=many(80))
@given(rigs(), st.data())
def test_a_guard_never_makes_anything_worse(case: Rig, data: st.DataObject) -> None:
    loose = [(u, c.id) for u, _ in case.units() for c, _ in movable(case, u)]
    assume(loose)
    unit, control = data.draw(st.sampled_from(loose))
    held = changed(case, [Guard(unit, control)])
    assert severity(held) <= severity(case)
    before = {(s.unit, s.part): s for s in shares(case)}
    for share in shares(held):
        assert share.label <= before[share.unit, share.part].label * (1 + 1e-9)
        assert share.played <= before[share.unit, share.part].played * (1 + 1e-9)


@settings(max_examples=many(80))
@given(rigs(), st.sampled_from([1.0, 4.0, 12.0, 30.0]))
def test_another_position_never_lowers_a_worst_case(case: Rig, step: float) -> None:
    pad = case.gear["pad"]
    assert isinstance(pad, Attenuator)
    assume("pad" in {u for u, _ in case.units()} and pad.steps and step not in pad.steps)
    more = replace(case, gear={**case.gear, "pad": replace(pad, steps=(*pad.steps, step))})
    after = {(s.unit, s.part): s for s in shares(more)}
    for share in shares(case):
        assert after[share.unit, share.part].label >= share.label * (1 - 1e-9)


@settings(max_examples=many(80))
@given(rigs().filter(lambda case: case.has("cab")), OHMS, st.sampled_from([3.0, 20.0, 45.0, 60.0]))
def test_splitting_a_rating_into_parts_never_makes_the_verdict_milder(case: Rig, ohms: float, watts: float) -> None:
    cab = case.gear["cab"]
    assert isinstance(cab, Cabinet)
    driver = Driver(ohms, watts, 98.0)
    as_one = replace(cab, drivers=(replace(driver, rating=None),) * 2, rating=2 * watts)
    in_parts = replace(cab, drivers=(driver,) * 2, rating=None)
    as_one, in_parts = (replace(case, gear={**case.gear, "cab": each}) for each in (as_one, in_parts))
    assert severity(in_parts) >= severity(as_one)


SOME_PADS = st.sampled_from(
    [
        replace(PAD, steps=(3.0, 6.0, 12.0, 20.0)),
        replace(PAD, steps=(3.0, 6.0, 12.0), impedance=16.0, bypass=False),
        replace(PAD, steps=(), lowest=2.0, highest=8.0),
        replace(PAD, steps=(), lowest=5.0, highest=7.5, impedance=4.0, mute="loaded", bypass=False),
    ]
)


def _moved(share: Share) -> tuple[object, ...]:
    """What is rated, and the switch that is moved for its worst."""
    return share.unit, share.part, *((m.unit, m.control) for m in share.moves if m.control != "step")


@settings(max_examples=many(30))
@given(st.lists(SOME_PADS, min_size=3, max_size=4), st.sampled_from(["in", "out"]))
def test_too_many_states_are_searched_and_the_worst_is_found(some: list[Attenuator], fed: str) -> None:
    pads = [replace(pad, id=f"pad{i}", name=f"Pad {i}") for i, pad in enumerate(some, 1)]
    onward = ["out" if fed == "in" else "in", *["out"] * len(pads)]
    chain = "".join(f" lead{i}: pad{i}/{onward[i - 1]} > pad{i + 1}/in;" for i in range(1, len(pads)))
    last = replace(LEADS[0], id="last", name="Last")
    case = rig(f"thin: amp/out1 > pad1/{fed};{chain} last: pad{len(pads)}/out > cab/in1", *pads, last)
    (whole,) = worst_case.reached(case)
    assume(not whole.searched)
    every, beside = ({_moved(s): s.label for s in found} for found in (shares(case), switched_shares(case)))
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(worst_case, "MOST_STATES", 20)
        again = checked(case.hookup, case.gear)
        assert worst_case.reached(again)[0].searched
        assert {_moved(s): s.label for s in shares(again)} == pytest.approx(every, rel=1e-6)
        assert {_moved(s): s.label for s in switched_shares(again)} == pytest.approx(beside, rel=1e-6)


@given(st.lists(st.integers(1, 5), min_size=1, max_size=5))
def test_a_search_begins_at_every_state_once_and_as_set(counts: list[int]) -> None:
    tables = tuple(tuple(Standing(f"unit{u}", {"at": i}) for i in range(n)) for u, n in enumerate(counts))
    found = beginnings(tables)
    assert not found[0].any()
    assert len(np.unique(found, axis=0)) == len(found)


@pytest.mark.parametrize("modes", [(PowerMode("full", 50),), (PowerMode("full", 50), PowerMode("half", 25))])
def test_a_peak_between_the_marks_of_a_knob_is_found(modes: tuple[PowerMode, ...]) -> None:
    # A source of voltage gives less the more ohms it sees: from 2 Ω straight on to a pad's own 8 Ω. The pad's heat,
    # V²/Z less what gets through, is greatest between, here at 2.994 dB and so between two marks.
    solid = replace(AMP, technology="transistor", minimum_load=2.0, modes=modes)
    pad = replace(PAD, steps=(), lowest=0.5, highest=12.0, bypass=False)
    two_ohms = replace(LOAD, impedances=(2.0,))
    case = rig("lead1: amp/out1 > pad/in; lead2: pad/out > load/in", solid, pad, two_ohms)
    k = 10 ** (np.linspace(0.5, 12.0, 200_001) / 20)
    series, shunt = 8 * (k - 1) / k, 8 / (k - 1)
    behind = shunt * 2 / (shunt + 2)
    heat = 50 * 8 * (1 / (series + behind) - (behind / (series + behind)) ** 2 / 2)
    found = next(s for s in shares(case) if s.unit == "pad")
    assert found.label == pytest.approx(heat.max(), rel=2e-4)
    assert found.label > 1.001 * max(np.interp(np.arange(0.5, 12, 1.0), 20 * np.log10(k), heat))
    assert float(found.moves[0].value) == pytest.approx(20 * np.log10(k[heat.argmax()]), abs=0.1)


def test_a_hook_up_that_cannot_be_is_refused_by_name() -> None:
    with pytest.raises(HookupError, match="no control “nothing” to tape"):
        changed(rig("lead1: amp/out1 > load/in"), [Guard("load", "nothing")])


def test_what_is_moved_comes_off_its_tape() -> None:
    held = changed(rig("lead1: amp/out1 > box/in; lead2: box/through > cab/in1"), [Guard("box", "mode")])
    assert held.is_guarded("box", "mode")
    assert changed(held, [SetControl("box", "mode", "bridging")]).is_guarded("box", "mode")
    assert not changed(held, [SetControl("box", "mode", "load")]).is_guarded("box", "mode")
