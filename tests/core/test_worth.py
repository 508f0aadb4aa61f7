"""Papers: what gear costs and weighs, what a stop puts at stake; nothing is judged by them."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.finder.search import Answer, search
from low_tide.core.finder.wish import Wish
from low_tide.core.finder.wished import read_down
from low_tide.core.gear.attenuator import Mark
from low_tide.core.gear.papers import Papers
from low_tide.core.inventory import Cabinet
from low_tide.core.judging.judge import judge
from low_tide.core.presentation.analysis import at_a_glance
from low_tide.core.rig.worth import Worth, at_stake, in_money, papers_of, weight_of, without_papers, worth, worth_words
from low_tide.demo.gear import GEAR
from tests.core.build import AMP, CAB, LEADS, PAD, rig

PRICED = replace(AMP, papers=Papers(price=1900, weight=18.5))


def answer(wish: Wish, gear: dict) -> Answer:
    return next(step for step in search(wish, gear) if isinstance(step, Answer))


def test_sums_say_what_is_missing() -> None:
    heavy = replace(CAB, weight=20.0)
    found = worth((PRICED, heavy))
    assert found == Worth(1900, 38.5, 1, 0)
    assert worth_words(found, "EUR") == "1,900 EUR (1 without a price), 38.5 kg"
    assert worth_words(worth((AMP,)), "EUR") == ""
    assert weight_of(replace(heavy, papers=Papers(weight=22.0))) == 22
    assert (in_money(12.5, "EUR"), in_money(400, "CHF"), in_money(1234.5, "CHF")) == (
        "12.50 EUR",
        "400 CHF",
        "1,234 CHF",
    )


@given(st.floats(0, 1e6), st.floats(0.01, 500), st.text(max_size=20))
def test_nothing_is_judged_by_papers(price: float, weight: float, serial: str) -> None:
    papered = replace(AMP, papers=Papers(price, weight, serial, "a technician", 120))
    assert judge(rig("lead1: amp/out1 > cab/in1", papered)).findings == judge(rig("lead1: amp/out1 > cab/in1")).findings
    assert without_papers(papered) == without_papers(AMP)


def test_a_stop_says_what_stands_at_risk() -> None:
    bare = at_a_glance(rig("lead1: amp/out1 > cab/in1"))
    assert bare.stakes == ()
    stopped = at_a_glance(rig("lead1: amp/out1", PRICED))
    (stop,) = [f for f in stopped.findings if f.severity == "stop"]
    assert [(s.finding, s.text) for s in stopped.stakes] == [(stop.key, "Amp (1,900 EUR)")]
    assert at_stake((AMP, CAB), "EUR") == ""


def test_proposals_carry_cost_and_weight_and_what_to_buy_its_bounds() -> None:
    priced = {
        **{key: without_papers(unit) for key, unit in GEAR.items()},
        "groyne-r8": replace(GEAR["groyne-r8"], papers=Papers(price=600, weight=4.0)),  # type: ignore[call-arg]
    }
    found = answer(Wish("silent", amp="godwit-45"), priced)
    with_it = [p for p in found.proposals if any(u.unit == "groyne-r8" for u in p.hookup.units)]
    assert with_it
    assert all(p.worth and p.worth.price == 600 and "600 EUR" in p.worth_words for p in with_it)
    amp_alone = {AMP.id: AMP}
    nothing = answer(Wish("silent", most_price=400, most_weight=6), amp_alone)
    assert nothing.specification is not None
    assert nothing.specification.text.endswith("; at most 400 EUR and 6 kg.")


def test_without_a_power_stage_a_processor_goes_straight_to_the_desk() -> None:
    found = answer(Wish("direct"), dict(GEAR))
    assert found.proposals
    assert {p.way for p in found.proposals} == {"direct"}
    for proposal in found.proposals:
        assert not any(GEAR[p.unit].kind == "amp" for p in proposal.hookup.units)
        assert proposal.dbfs is not None
        assert proposal.severity != "stop"
    empty = answer(Wish("direct"), {AMP.id: AMP})
    assert [w.standing for w in empty.ways] == ["not here: you own neither a processor nor a box from guitar to line"]


def test_an_attenuator_of_unknown_steps_is_no_way_down_and_says_why() -> None:
    vague = replace(PAD, steps=(), marks=(Mark("half"), Mark("low")))
    found = answer(Wish("down", down_db=6, line=False), {u.id: u for u in (AMP, CAB, vague, *LEADS)})
    standing = {w.way: w.standing for w in found.ways}
    assert standing["attenuator"] == "not here: nobody knows what the steps of Pad take; two readings tell"


def test_the_amp_barely_turned_up_keeps_its_speaker_and_its_microphone() -> None:
    found = answer(Wish("barely", line=True), dict(GEAR))
    assert found.proposals
    best = found.proposals[0]
    amp = next(p for p in best.hookup.units if GEAR[p.unit].kind == "amp")
    assert amp.settings["master_down"] is True
    assert any(isinstance(GEAR[p.unit], Cabinet) for p in best.hookup.units)
    assert any(GEAR[p.unit].kind == "microphone" for p in best.hookup.units)


@pytest.mark.parametrize(
    ("said", "down"),
    [("12", 12), ("12 dB", 12), ("−6", None), ("half the power", 3.01), ("half as loud", 10), ("", None)],
)
def test_how_far_down_in_words(said: str, down: float | None) -> None:
    if down is None:
        with pytest.raises(ValueError, match=r"^Down by: "):
            read_down(said)
    else:
        assert read_down(said) == pytest.approx(down, abs=0.01)


def test_a_level_is_no_distance() -> None:
    for said in ("72 dBA", "0.5 W", "+3 dB"):
        with pytest.raises(ValueError, match=r"^Down by: 0 to 60 dB"):
            read_down(said)
    with pytest.raises(ValueError, match=r"^Down by: 99 dB is over the most allowed, 60 dB\."):
        read_down("99")
    assert papers_of(AMP) == Papers()
