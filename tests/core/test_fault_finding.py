"""What is wrong: causes that can be there, tests that tell, never one that is done live."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise
from math import log2

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.fault_finding.causes import CAUSES, EFFORT, TOUCHES_LEADS
from low_tide.core.fault_finding.chances import MOST_CAUSES, Share, after, candidates, drop, offered, ranked
from low_tide.core.fault_finding.probes import BY_ID, HALVING, OWN, Probe
from low_tide.core.fault_finding.search import MOST_TESTS, SURE, search
from low_tide.core.fault_finding.situation import Situation
from low_tide.core.fault_finding.symptoms import DANGER, DANGER_STEPS, MISWIRED, PUZZLES, SYMPTOMS
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.judging.judge import judge
from low_tide.core.rig.known import Known
from tests.core.build import rig
from tests.core.finding_faults import by_hand, play, rate, searches, situations

ALL = situations()
SOME = situations(("quiet-hold", "silent-night", "in-the-loop", "cupboard"))
MOVES = ("another lead", "other lead", "swapped", "straight into", "in another input")
NOT_HEARD = {
    "re-plug-live": "a way of working",
    "one-movement": "what could happen, not what did",
    "case-closed": "a caution that always stands",
    "over-limit": "too loud for others",
    "dose": "too loud for too long",
    "rule-of-thumb": "too loud for others",
    "scene-amiss": "a setting nobody can make",
    "suspect-unit": "said by somebody, not heard",
}
"""Checks of which nobody hears that something is wrong, and why."""


def test_there_is_enough_to_find_with() -> None:
    assert len(CAUSES) >= 45
    assert len(HALVING) >= 15
    assert len(SYMPTOMS) == 18
    for cause in CAUSES.values():
        assert set(cause.symptoms) <= set(PUZZLES), cause.id
        assert all(0 < p < 1 for p in [*cause.symptoms.values(), *cause.shows.values()]), cause.id
        assert set(cause.shows) <= set(BY_ID), cause.id
        assert set(cause.checks) <= set(REGISTRY), cause.id
        assert cause.remedy.endswith("."), cause.id
        assert cause.own.asks.endswith("?"), cause.id
    assert all(sum(symptom in c.symptoms for c in CAUSES.values()) >= 4 for symptom in PUZZLES)


def test_every_check_that_can_be_heard_has_its_cause() -> None:
    told = {check for cause in CAUSES.values() for check in cause.checks}
    assert set(REGISTRY) - told == set(NOT_HEARD)


@pytest.mark.parametrize("name", ALL)
def test_nothing_is_re_plugged_live(name: str) -> None:
    """Whatever is answered, a test or remedy that moves a lead comes with the amp off first."""
    situation = ALL[name]
    for symptom in PUZZLES:
        shares = candidates(situation, symptom)
        assert len(shares) <= MOST_CAUSES
        assert shares or not situation.has_line
        for probe in offered(situation, symptom, shares).values():
            asks = probe.asks(situation).lower()
            moves = any(word in asks for word in MOVES)
            assert not moves or probe.way in TOUCHES_LEADS, asks
            assert probe.effort(situation) >= EFFORT[probe.way]
        found = search(situation, symptom)
        for test in [each for each in (found.test, *found.others) if each]:
            if test.way in TOUCHES_LEADS:
                said = " ".join(test.steps).lower()
                order = [said.index(each) for each in ("mains off", "wait", "then:", "before it is on again")]
                assert order == sorted(order)
        for left in found.left:
            moved = CAUSES[left.id]
            assert left.off_first or moved.at not in ("power", "load")
            remedy = left.remedy.lower()
            assert "earth" not in remedy or "mains earth stays" in remedy or "one audio earth" in remedy


def test_danger_and_a_wrong_hookup_are_no_puzzles() -> None:
    for situation in ALL.values():
        danger = search(situation, DANGER)
        assert (danger.danger, danger.steps, danger.test, danger.left) == (True, DANGER_STEPS, None, ())
        assert danger.steps[0].startswith("Off at the mains, now")
        wrong = search(situation, MISWIRED)
        assert wrong.test is None
        assert "mains off" in wrong.steps[0]
        assert any("qualified technician" in step for step in wrong.steps)
        assert wrong.suspects
        rig_ = situation.rig
        at_speaker = {e.unit for k in rig_.hookup.links for e in k.ends() if rig_.socket(e).level == "speaker"}
        assert set(wrong.suspects) == at_speaker
        assert all("Ω" in each or "rated ohms" in each for each in wrong.measure)
    with pytest.raises(ValueError, match="not known"):
        search(next(iter(ALL.values())), "itches")


def test_a_cause_that_cannot_be_there_is_not_offered() -> None:
    bare = Situation(rig("lead1: amp/out1 > load/in"))
    ids = {s.cause.id for symptom in PUZZLES for s in candidates(bare, symptom)}
    assert not ids & {"step-deep", "mic-place", "loop-open", "pedal-unpowered", "speaker-hurt", "line-lead", "clocks"}
    assert {"speaker-lead", "standby"} <= ids
    assert "caution" not in search(bare, "nothing").caution
    assert "without a load" in search(bare, "nothing").caution


def test_a_check_makes_its_cause_likelier() -> None:
    hum = {s.cause.id: s.share for s in candidates(ALL["quiet-hold"], "hum")}
    assert "earth-loop" in ALL["quiet-hold"].found
    assert max(hum, key=lambda each: hum[each]).startswith("earth-loop")
    counted = {s.cause.id: s.share for s in candidates(ALL["quiet-hold"], "hum", counts={"pickup-hum": 30})}
    assert counted["pickup-hum"] > 2 * hum["pickup-hum"]
    aside = {s.cause.id for s in candidates(ALL["quiet-hold"], "hum", set_aside=["pickup-hum"])}
    assert "pickup-hum" not in aside


def test_shares_are_what_bayes_says() -> None:
    one, other = CAUSES["standby"], CAUSES["track-off"]
    half = (Share(one, 0.5), Share(other, 0.5))
    probe = OWN["standby"]
    yes = {s.cause.id: s.share for s in after(half, [(probe.id, "yes")], {probe.id: probe})}
    assert yes["standby"] == pytest.approx(0.97 / (0.97 + 0.015))
    no = {s.cause.id: s.share for s in after(half, [(probe.id, "no")], {probe.id: probe})}
    assert no["standby"] == pytest.approx(0.03 / (0.03 + 0.985))
    assert {s.share for s in after(half, [(probe.id, "unknown")], {probe.id: probe})} == {0.5}

    def entropy(p: float) -> float:
        return -sum(each * log2(each) for each in (p, 1 - p))

    said_yes = 0.5 * (0.97 + 0.015)
    left = said_yes * entropy(yes["standby"]) + (1 - said_yes) * entropy(no["standby"])
    assert drop(half, probe) == pytest.approx(1 - left)


ANSWERS = st.tuples(st.sampled_from(sorted(BY_ID)), st.sampled_from(["yes", "no", "unknown"]))


@given(st.lists(ANSWERS, max_size=20, unique_by=lambda a: a[0]))
def test_any_answers_leave_shares_that_add_up(answers: list) -> None:
    situation = SOME["quiet-hold"]
    shares = after(candidates(situation, "nothing"), answers, BY_ID)
    assert sum(s.share for s in shares) == pytest.approx(1)
    assert all(a.share >= b.share for a, b in pairwise(shares))
    tests = ranked(situation, shares, answers, offered(situation, "nothing", shares))
    assert not {probe.id for probe, _ in tests} & {probe_id for probe_id, _ in answers}
    worth = [gain / probe.effort(situation) for probe, gain in tests]
    assert worth == sorted(worth, reverse=True)


def test_a_coin_tells_nothing() -> None:
    coin = Probe("coin", lambda s: "?", "look", lambda c: 0.5)
    assert drop(candidates(SOME["quiet-hold"], "hum"), coin) == pytest.approx(0, abs=1e-9)


def test_a_search_ends() -> None:
    situation = SOME["silent-night"]
    for said in ("no", "unknown"):
        answers: list = []
        while (found := search(situation, "nothing", answers)).test:
            answers.append((found.test.id, said))
        assert len(answers) <= MOST_TESTS
    sure = search(situation, "nothing", [("own:standby", "yes"), ("lamp", "yes"), ("sounds_there", "no")])
    assert sure.mend
    assert sure.left[0].id == "standby"
    assert sure.left[0].share >= SURE


def test_the_true_cause_is_found() -> None:
    """Faults by physics and by hand; all hook-ups, and answers that are wrong, are for the benchmark."""
    played = list(play(searches(SOME), 6, by_hand))
    missed = [(p.symptom, p.cause) for p in played if not p.found]
    assert rate(played) >= 0.95, missed


def test_a_suspect_unit_is_a_caution_until_it_is_cleared() -> None:
    case = rig("lead1: amp/out1 > load/in")
    told = judge(replace(case, known=Known(suspects={"load": "It was in a wrong hook-up."})))
    (found,) = [f for f in told.findings if f.id == "suspect-unit"]
    assert (found.severity, found.units) == ("caution", ("load",))
    assert not any(f.id == "suspect-unit" for f in judge(replace(case, known=Known(suspects={"pad": "?"}))).findings)
