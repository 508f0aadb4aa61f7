"""The same hook-up with another amp, and two boxes on one amp at one time."""

from __future__ import annotations

from dataclasses import replace

import pytest

from low_tide.core.finder.other_amp import with_other_amps
from low_tide.core.finder.pairs import pairs
from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.cabinet import Driver, OwnLead
from low_tide.core.inventory import Amp, Cabinet
from low_tide.core.judging.judge import judge
from low_tide.core.rig.changes import changed
from low_tide.core.rig.hookup import End
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.build import AMP, CAB, DESK, LOAD, rig

OTHER = replace(AMP, id="other", name="Other", taps=(Tap(16, 2),), modes=(PowerMode("full", 100),), loop=None)
SMALL = Cabinet("inner", "Inner", drivers=(Driver(8, 20, 95.0),), own_lead=OwnLead())
COMBO = replace(OTHER, id="combo", name="Combo", form="combo", inner_speaker="inner", taps=(Tap(8, 2),))
TO_DESK = "lead1: amp/out1 > load/in; line: load/line > desk/in1"


@pytest.mark.parametrize("name", sorted(HOOKUPS))
def test_what_is_told_of_another_amp_is_what_comes_of_it(name: str) -> None:
    here = checked(HOOKUPS[name], GEAR)
    for unit, _ in here.amps():
        for other in with_other_amps(here, unit):
            after = changed(here, other.changes)
            judged = judge(after)
            assert (judged.verdict.severity, judged.verdict.words) == (other.severity, other.words)
            assert not after.has(unit)
            assert after.has(other.amp)
            # What hung on the speaker jacks hangs there still, all of it on the one tap.
            amp = after.gear[other.amp]
            assert isinstance(amp, Amp)
            jacks = next(own for tap, _, own in amp.tap_sockets() if tap.impedance == other.tap)
            used = {s for s in after.plugged(other.amp) if after.socket(End(other.amp, s)).level == "speaker"}
            assert used <= set(jacks)
            ways = {k.lead: (k.reach, k.tight) for k in here.hookup.links}
            assert all(ways.get(k.lead, (None, False)) == (k.reach, k.tight) for k in after.hookup.links)


def test_it_says_what_differs() -> None:
    here = rig(TO_DESK, OTHER, LOAD, DESK)
    told = {o.amp: o for o in with_other_amps(here, "amp")}
    differs = told["other"].differs
    assert differs[0] == "It sees 8 Ω on its 16 Ω tap."
    assert told["other"].severity == "stop"
    assert any("dBFS" in line for line in differs)


def test_a_combo_comes_without_its_own_speaker_and_says_so() -> None:
    here = rig("lead1: amp/out1 > cab/in1", COMBO, SMALL)
    combo = next(o for o in with_other_amps(here, "amp") if o.amp == "combo")
    assert "Inner is unplugged." in combo.differs
    assert not changed(here, combo.changes).has("inner")


def test_an_amp_with_too_few_jacks_is_not_offered() -> None:
    both = rig("lead1: amp/out1 > cab/in1; lead2: amp/out2 > load/in", replace(OTHER, taps=(Tap(8, 1),)))
    assert "other" not in [o.amp for o in with_other_amps(both, "amp")]
    with pytest.raises(KeyError):
        with_other_amps(both, "cab")


def test_a_lead_that_finds_no_socket_is_told() -> None:
    looped = replace(OTHER, id="plain", name="Plain", loop=None, taps=(Tap(8, 2),))
    here = rig("lead1: looped/out1 > cab/in1; line1: looped/send > desk/in1", looped)
    plain = next(o for o in with_other_amps(here, "looped") if o.amp == "plain")
    assert "Line 1 finds no socket on it and stays out." in plain.differs


def test_both_at_one_time_are_judged_together() -> None:
    alone = {(p.amp, p.box): p for p in pairs({u.id: u for u in (AMP, CAB, LOAD)})}
    both = {(p.amp, p.box): p for p in pairs({u.id: u for u in (AMP, CAB, LOAD)}, beside="load")}
    assert alone["amp", "cab"].tap == 8
    assert set(both) == {("amp", "cab")}
    assert both["amp", "cab"].tap == 4  # 8 Ω beside 8 Ω
    one_jack = replace(AMP, taps=(Tap(8, 1),))
    switching = replace(LOAD, through="switching")
    lone = replace(CAB, jacks=1, jack_wiring="parallel")
    # A through socket that takes the load out is no way to use both.
    assert pairs({u.id: u for u in (one_jack, lone, switching)}, beside="load") == ()
    in_parallel = replace(LOAD, through="parallel")
    (found,) = pairs({u.id: u for u in (one_jack, lone, in_parallel)}, beside="load")
    assert found.severity == "stop"
    assert "4 Ω on its 8 Ω tap" in found.why
