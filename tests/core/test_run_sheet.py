"""The run sheet: from one hook-up to another, what readings say, what runs by the clock, what is packed."""

from __future__ import annotations

from dataclasses import replace
from math import exp, inf, log, nan

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.load import CurveMode, Load
from low_tide.core.inventory import Cabinet, Lead
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import speaker_side
from low_tide.core.rig.hookup import Occasion
from low_tide.core.rig.known import Known
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.session.by_the_clock import quiet_ahead, until_touched, when_off, while_it_plays
from low_tide.core.session.change_over import change_over
from low_tide.core.session.expected import Expected, answer, drift, held
from low_tide.core.session.kit import kit_list, tags
from low_tide.core.session.meter import meter_expected, meter_ohms
from low_tide.core.session.run_sheet import Standing, run_sheet
from low_tide.core.thermal.heating import Thermal, warming
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.build import AMP, CAB, LOAD, rig
from tests.core.test_loudness import BERTH, SILENT, STRAIGHT, aboard
from tests.examples import spread

RIGS = {name: checked(hookup, GEAR) for name, hookup in HOOKUPS.items()}
PLAYABLE = [name for name, each in RIGS.items() if any(each.amps())]


@pytest.mark.parametrize(("on", "by"), [(True, 1), (False, 5)])
def test_from_every_hookup_to_another_in_safe_order(on: bool, by: int) -> None:
    for i in spread(range(len(PLAYABLE)), 12):
        one, other = PLAYABLE[i], PLAYABLE[(i + by) % len(PLAYABLE)]
        before, after = RIGS[one], RIGS[other]
        moves, steps = change_over(before, after, on), run_sheet(after, None, Standing(before, on))
        ids, words = [s.id for s in steps], [s.text for s in steps]
        assert len(set(ids)) == len(ids), (one, other)
        assert moves.needs_off == (speaker_side(before) != speaker_side(after))
        # Every lead that is to be in is spoken of, and every one that is not any more.
        spoken = " ".join(f"{s.text} {s.expect}" for s in steps if s.phase == "before")
        for each in moves.leads:
            assert each.name in spoken, (one, other, each)
        there = {(k.lead, frozenset(k.ends())) for k in after.hookup.links}
        kept = {(k.lead, frozenset(k.ends())) for k in before.hookup.links} & there
        assert len(moves.that("kept")) == len(kept)
        assert len(moves.leads) - len(moves.that("put_away")) == len(after.hookup.links)
        # Nothing at speaker level is touched before every amp is off and dark, nor played before its load is measured.
        touched = [i for i, s in enumerate(steps) if s.phase == "before" and s.text.startswith(("Take out", "Move"))]
        off = [i for i, s in enumerate(steps) if s.phase == "leave" and "mains off" in s.text]
        speaker = any(each.speaker and each.move != "kept" for each in moves.leads)
        if on and speaker:
            assert len(off) == len(list(before.amps())), (one, other)
            assert max(off) < min([*touched, len(steps)])
            assert all(
                steps[i].wait is not None
                for i, (_, amp) in zip(off, before.amps(), strict=True)
                if amp.technology == "valve"
            )
        if not moves.needs_off:
            assert not off
        if moves.needs_off or not on:
            ons = [i for i, text in enumerate(words) if "mains on" in text]
            assert ons
            assert min(ons) > max(i for i, s in enumerate(steps) if s.phase in ("leave", "before"))
            line = [i for i, s in enumerate(steps) if s.phase == "switch_on" and s.text.endswith("monitors down")]
            assert all(i < min(ons) for i in line)
        if moves.needs_off:
            measured = sum(s.reads is not None and s.reads.quantity == "ohms" for s in steps)
            whole = sum(s.reads is not None and s.reads.quantity == "ohms" for s in run_sheet(after))
            assert measured == whole


def test_nothing_moves_from_a_hookup_to_itself() -> None:
    for name in PLAYABLE:
        found = change_over(RIGS[name], RIGS[name])
        assert (found.plugs, found.settings, found.needs_off, found.minutes) == (0, (), False, 0.0)


SWITCHED = Load(
    "load", "Load", behaviour="reactive", rating=100, modes=(CurveMode("flat"), CurveMode("deep")), cutout="none"
)


@pytest.mark.parametrize("live", [True, False])
def test_a_curve_switch_goes_live_only_where_its_maker_allows_it(live: bool) -> None:
    wiring, load = "lead1: amp/out1 > load/in", replace(SWITCHED, curve_live=live)
    before, after = rig(wiring, load, load={"curve": "flat"}), rig(wiring, load, load={"curve": "deep"})
    found = change_over(before, after)
    assert found.needs_off is not live
    assert [each.words for each in found.settings] == ["curve deep"]
    # One setting; off, dark, warm and measured where it must be.
    assert found.minutes == pytest.approx(0.2 if live else 0.2 + 1 + 1 + 1)
    own = rig(wiring, load, replace(AMP, dark=150.0, warm_up=0.0), load={"curve": "flat"})
    assert change_over(own, replace(after, gear=own.gear)).minutes == pytest.approx(0.2 if live else 0.2 + 2.5 + 1)


def ohms(case: Rig) -> Expected:
    link = case.hookup.links[0]
    found = meter_ohms(case, link, link.a)
    assert found
    return meter_expected(case, found)


def test_what_is_wrong_behind_the_plug_reads_as_a_stop() -> None:
    four = Cabinet("cab", "Cab", drivers=(Driver(16, 60),) * 4, jacks=2, jack_wiring="parallel")
    for cabinet in (CAB, four, Cabinet("cab", "Cab", drivers=(Driver(8, 60),), jacks=2, jack_wiring="parallel")):
        right = ohms(rig("lead1: amp/out1 > cab/in1", cabinet))
        assert answer(right, right.value) == "inside"
        doubled = ohms(rig("lead1: amp/out1 > cab/in1; lead2: cab/in2 > load/in", cabinet, LOAD))
        assert answer(right, doubled.value) != "inside"
        wrong = [right.value / 2, 2 * right.value, 0.0, 0.5, inf, 4000.0]
        assert {answer(right, each) for each in wrong} == {"stop"}, cabinet.drivers
    box = ohms(rig("lead1: amp/out1 > load/in"))
    # A resistor is known: what is outside is a stop at once; a typical coil is looked at first.
    assert (answer(box, 8.1), answer(box, 9.4), answer(box, 6.7)) == ("inside", "stop", "stop")
    coil = ohms(rig("lead1: amp/out1 > cab/in1"))
    assert (answer(coil, 6.6), answer(coil, 8.0), answer(coil, 5.0), answer(coil, 9.5)) == (
        "inside",
        "look",
        "look",
        "stop",
    )
    assert "in parallel" in held(coil, 3.3).words
    assert "one of two is missing" in held(coil, 13.0).words
    assert "As good as nothing" in held(coil, inf).words
    assert "a short" in held(coil, 0.2).words
    with pytest.raises(ValueError, match="a number is wanted"):
        answer(coil, nan)


def test_ohms_are_kept_for_the_unit_alone_behind_the_plug_as_it_is_set() -> None:
    alone = ohms(rig("lead1: amp/out1 > load/in", replace(LOAD, impedances=(4, 8)), load={"impedance": "8"}))
    assert (alone.of, alone.state) == ("load", "Load 8 Ω; in")
    two = ohms(rig("lead1: amp/out1 > cab/in1; lead2: cab/in2 > load/in"))
    assert two.of == ""
    assert drift(7.2, 6.6) == ""
    assert "up by 20 %" in drift(7.92, 6.6)
    assert "down by 20 %" in drift(5.28, 6.6)


LADDER = {"inside": 0, "look": 1, "stop": 2}


@given(
    st.lists(st.floats(1, 120), min_size=4, max_size=4),
    st.sampled_from(["dbfs", "dba", "celsius"]),
    st.floats(1, 120),
    st.floats(0, 60),
)
def test_farther_off_is_never_told_more_gently(bounds: list[float], quantity: str, at: float, more: float) -> None:
    stop_low, low, high, stop_high = sorted(bounds)
    expected = Expected(quantity, (low + high) / 2, low, high, stop_low, stop_high)  # type: ignore[arg-type]
    away = more if at >= expected.value else -more
    near, far = held(expected, at), held(expected, at + away)
    assert LADDER[near.answer] <= LADDER[far.answer]
    assert near.words.endswith(".")
    assert (near.answer == "inside") == (low <= at <= high)


@given(st.lists(st.floats(1, 120), min_size=4, max_size=4), st.floats(1, 130), st.floats(1, 130))
def test_a_bound_only_makes_it_stricter(bounds: list[float], bound: float, at: float) -> None:
    stop_low, low, high, stop_high = sorted(bounds)
    free = Expected("dba", (low + high) / 2, low, high, stop_low, stop_high)
    bounded = free.at_most(bound)
    if at > bound:
        assert answer(bounded, at) == "stop"
    elif at >= free.value:
        assert LADDER[answer(bounded, at)] >= LADDER[answer(free, at)]


def test_bounds_that_cross_are_refused() -> None:
    with pytest.raises(ValueError, match="lies within"):
        Expected("dba", 60, 50, 70, None, 65)


def test_peaks_and_levels_carry_what_is_known_of_them() -> None:
    case = RIGS["silent-night"]
    peak = next(s.reads for s in run_sheet(case) if s.reads and s.reads.quantity == "dbfs")
    assert peak
    assert (peak.value - (peak.low or 0), (peak.high or 0) - peak.value) == (pytest.approx(6), pytest.approx(6))
    assert answer(peak, 0.0) == "stop"
    night = aboard(STRAIGHT, occasion=Occasion("22:00"))
    berth = next(s.reads for s in run_sheet(night) if s.reads and s.reads.of == BERTH.id)
    assert berth
    # Over the limit that holds in that hour is a stop, whatever was predicted.
    assert (answer(berth, 35.1), berth.stop_high) == ("stop", 35)
    noon = aboard(STRAIGHT)
    free = next(s.reads for s in run_sheet(noon) if s.reads and s.reads.of == BERTH.id)
    assert free
    assert answer(free, 35.1) != "stop"
    assert all(answer(s.reads, 115.1) == "stop" for s in run_sheet(noon) if s.reads and s.reads.quantity == "dba")


def test_a_case_cools_by_its_own_time_constant() -> None:
    box = warming(Thermal(1.0, 10, 70), 100, 75, 0.8, 22)
    assert box
    hot = 22 + 60 * (1 - exp(-30 / 10))
    assert until_touched(box, 30) == pytest.approx(10 * log((hot - 22) / (48 - 22)))
    cooled = 22 + (hot - 22) * exp(-until_touched(box, 30) / 10)
    assert cooled == pytest.approx(48)
    assert until_touched(box, 0) == 0
    assert until_touched(replace(box, ambient=48.0, settled=90.0), 30) == inf
    typical = replace(box, doubt=0.25)
    assert until_touched(typical, 30) > until_touched(box, 30)


def test_playing_time_ends_at_the_limit_and_with_the_allowance() -> None:
    hot = aboard(SILENT, replace(LOAD, warms=Thermal(1.0, 10, 40)))
    box = next(r for r in while_it_plays(hot, Preferences()) if r.about == "load")
    assert box.minutes == pytest.approx(-10 * log(1 - 18 / 37.5))
    later = next(r for r in while_it_plays(hot, Preferences(), 5) if r.about == "load")
    assert later.minutes == pytest.approx(box.minutes - 5)
    assert [r.about for r in when_off(hot, 60)] == ["load"]
    loud = aboard(STRAIGHT)
    (fresh,) = (r for r in while_it_plays(loud, Preferences()) if not r.about)
    (half,) = (r for r in while_it_plays(replace(loud, known=Known(dose=0.5)), Preferences()) if not r.about)
    assert half.minutes == pytest.approx(fresh.minutes / 2)


@pytest.mark.parametrize(("minute", "left"), [(20 * 60 + 37, 23), (21 * 60, 0), (3 * 60, 0), (7 * 60, 14 * 60)])
def test_quiet_hours_ahead(minute: int, left: float) -> None:
    (found,) = (r for r in quiet_ahead(aboard(STRAIGHT), minute) if r.about == BERTH.id)
    assert found.minutes == pytest.approx(left)
    assert not any(r.about == BERTH.id for r in quiet_ahead(aboard(SILENT), minute))


def test_the_kit_of_several_is_everything_of_each_once() -> None:
    some = [RIGS[name] for name in ("quiet-hold", "guide-track", "harbour-hall")]
    lines = kit_list(some, away=True)
    assert len({each.id for each in lines}) == len(lines)
    for each in some:
        mine = {line.text for line in lines if each.hookup.name in line.used_in}
        assert {gear.name for _, gear in each.units()} <= mine
        leads = {lead.name for k in each.hookup.links if isinstance(lead := each.conductor(k), Lead)}
        assert leads <= mine
        assert any(line.text.startswith("One more speaker lead") for line in lines)
    assert {line.id for line in kit_list(some)} < {line.id for line in lines}
    assert [line.group for line in lines] == sorted(
        (line.group for line in lines), key=["units", "leads", "spares", "mounts", "tools", "print"].index
    )


def test_every_speaker_socket_in_reach_has_its_tag() -> None:
    for case in RIGS.values():
        found = {tag.on: tag.says for tag in tags(case)}
        for unit, gear in case.units():
            if gear.kind in ("cabinet",):
                continue
            for socket in gear.sockets():
                if socket.level == "speaker" and socket.flow == "out":
                    worn = socket.id in case.plugged(unit)
                    assert (found[f"{gear.name}, {socket.label}"] == "STAYS EMPTY") is not worn
