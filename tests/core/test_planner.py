"""Finding a hook-up: every proposal passes the checks, reasons carry numbers, nothing owned gives a specification."""

from __future__ import annotations

from dataclasses import replace
from math import isfinite

import pytest

from low_tide.core.finder import Answer, Progress, Wish, search
from low_tide.core.finder.assemble import NoWay, assemble
from low_tide.core.finder.candidates import amps_and_taps, padded, screen
from low_tide.core.finder.pairs import pairs
from low_tide.core.finder.search import likeness_db, taped
from low_tide.core.finder.ways import candidates_of
from low_tide.core.finder.wish import WAYS_OF
from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.cabinet import Driver
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Load, Unit
from low_tide.core.judging.judge import judge
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import Occasion
from low_tide.core.rig.known import Correction, Known
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.build import AMP, CAB, DESK, LEADS, LINE, LOAD, PAD, XLR, rig

WISHES = [
    Wish("silent"),
    Wish("silent", amp="redshank-100", cabinet="whimbrel-412"),
    Wish("down", 12, amp="godwit-45"),
    Wish("down", 24, line=False),
    Wish("about_3", line=False),
    Wish("reamped", cabinet="sanderling-112"),
    Wish("cupboard", cabinet="turnstone-212"),
    Wish("loop", 10, line=False),
]


def answer(wish: Wish, gear: dict[str, Unit] | None = None, **more: object) -> Answer:
    *_, last = search(wish, GEAR if gear is None else gear, **more)  # type: ignore[arg-type]
    assert isinstance(last, Answer)
    return last


def test_what_readings_taught_counts_for_proposals() -> None:
    night = replace(HOOKUPS["quiet-hold"], occasion=Occasion("22:30"))
    wish = Wish("down", 24, amp="godwit-45", line=False)
    quiet = Known({p.id: (Correction(-60, 1, 3, "", "hold"),) for p in checked(night, GEAR).places})
    doubtful, proven = answer(wish, now=night), answer(wish, now=night, known=quiet)
    assert all(any("limit" in cost for cost in p.costs) for p in doubtful.proposals)
    assert not any("limit" in cost for p in proven.proposals for cost in p.costs)


def owned(*units: Unit) -> dict[str, Unit]:
    return {u.id: u for u in (*units, *LEADS)}


@pytest.mark.parametrize("wish", WISHES, ids=lambda w: f"{w.goal}-{w.amp or 'any'}")
def test_every_proposal_passes_the_same_checks(wish: Wish) -> None:
    found = answer(wish)
    assert found.proposals
    assert found.specification is None
    for proposal in found.proposals:
        judged = judge(checked(proposal.hookup, GEAR))
        assert judged.verdict.severity != "stop"
        assert (judged.verdict.severity, judged.verdict.words) == (proposal.severity, proposal.words)
        assert all(isfinite(s.impedance) for s in judged.case.seen)
        if wish.wants_line():
            assert judged.case.line_points
    assert [p.score for p in found.proposals] == sorted(p.score for p in found.proposals)
    assert {w.way for w in found.ways} == set(WAYS_OF[wish.goal])


AMPS = sorted({u.unit for hookup in HOOKUPS.values() for u in hookup.units if isinstance(GEAR[u.unit], Amp)})


@pytest.mark.parametrize("base_amp", AMPS)
def test_screening_agrees_with_the_whole_judgement(base_amp: str) -> None:
    """What the quick closed forms say of match and margin is what the network says of the hook-up built from them."""
    units, compared = tuple(GEAR.values()), 0
    for wish in (Wish("silent"), Wish("down", 12.0), Wish("reamped"), Wish("about_3")):
        for base in amps_and_taps(units, base_amp):
            for way in WAYS_OF[wish.goal]:
                for candidate in list(candidates_of(way, base, units, wish))[:3]:
                    built = assemble(candidate, GEAR, None, False, "test")
                    if isinstance(built, NoWay):
                        continue
                    case = taped(judge(built)).case
                    seen = next(s for s in case.seen if s.output.amp == candidate.amp.id)
                    stage = padded(candidate.tap.impedance, candidate.mode.attenuation, candidate.seen)[0]
                    assert seen.impedance == pytest.approx(stage, rel=1e-6)
                    least = min(
                        (s.margin_db for s in case.shares if s.margin_db is not None and not s.part), default=0.0
                    )
                    if all(t.rating for t in candidate.takes) and candidate.amp.technology == "valve":
                        assert candidate.margin_db() == pytest.approx(least, abs=0.02)
                    compared += 1
    assert compared > 0


def test_the_load_that_is_too_small_is_ruled_out_with_its_numbers() -> None:
    found = answer(Wish("silent", amp="godwit-45"))
    gabion = next(r for r in found.ruled_out if r.unit == "gabion-40")
    assert gabion.why == "it stands 40 W; flat out it gets 67.5 W from Godwit 45."


def test_nothing_owned_gives_a_specification_and_no_product() -> None:
    found = answer(Wish("silent"), owned(AMP, CAB))
    assert found.proposals == ()
    wanted = found.specification
    assert wanted
    assert (wanted.ohms, wanted.watts, wanted.watts_kind) == (8, 75, "continuous")
    assert "50 W on the label, about 75 W flat out" in wanted.text
    assert found.ways[0].standing == "not here: you own no load box"
    double = answer(Wish("silent"), owned(AMP), preferences=Preferences(margin="double")).specification
    assert double
    assert double.watts == 100
    assert answer(Wish("silent"), owned(CAB)).specification is None


def test_a_specification_names_the_steps() -> None:
    coarse = replace(PAD, steps=(20.0,))
    found = answer(Wish("down", 9, line=False), owned(replace(AMP, master=False), CAB, coarse))
    assert found.specification
    assert "within 3 dB of 9 dB" in found.specification.steps
    assert next(r for r in found.ruled_out if r.unit == "pad").why == "The nearest it comes is 20 dB down."


def test_the_cabinet_asked_for_is_the_one_that_is_used() -> None:
    for proposal in answer(Wish("down", 12, cabinet="whimbrel-412", line=False)).proposals:
        assert "whimbrel-412" in proposal.hookup.gear_ids()


def test_fewer_moves_from_the_bench_rank_higher() -> None:
    twin = replace(LOAD, id="twin", name="Twin")
    gear = owned(AMP, LOAD, twin, *(g for g in rig("").gear.values() if g.id in ("desk", "line")))
    now = rig("lead1: amp/out1 > twin/in; line: twin/line > desk/in1", twin).hookup
    best = answer(Wish("silent"), gear, now=now).proposals[0]
    assert "twin" in best.hookup.gear_ids()
    assert best.changes == 0
    assert {(k.lead, k.a, k.b) for k in best.hookup.links} == {(k.lead, k.a, k.b) for k in now.links}


def test_a_curve_like_the_cabinets_ranks_higher() -> None:
    like = replace(LOAD, id="like", name="Like", behaviour="reactive")
    gear = owned(AMP, LOAD, like, CAB, *(g for g in rig("").gear.values() if g.id in ("desk", "line")))
    best = answer(Wish("silent", cabinet="cab"), gear).proposals[0]
    assert "like" in best.hookup.gear_ids()
    assert best.likeness_db is not None
    assert best.likeness_db < 0.5
    plain = likeness_db(rig("lead1: amp/out1 > load/in"), CAB)
    assert plain is not None
    assert plain > 2


@pytest.mark.parametrize(("z", "step", "load"), [(8.0, 6.0, 8.0), (8.0, 20.0, 8.0), (8.0, 3.0, 16.0), (8.0, 0.0, 8.0)])
def test_an_l_pad_on_paper_is_the_one_in_the_network(z: float, step: float, load: float) -> None:
    pad = Attenuator("pad", "Pad", impedance=z, rating=100, rating_kind="continuous", steps=(step,))
    cab = Cabinet("cab", "Cab", drivers=(Driver(load, 100),))
    case = judge(rig("lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1", pad, cab)).case
    seen, part = padded(z, step, load)
    assert case.seen[0].impedance == pytest.approx(seen, rel=1e-6)
    share = next(s for s in case.shares if s.unit == "cab")
    assert share.now / 75 == pytest.approx(part, rel=1e-6)
    if z == load:
        assert seen == pytest.approx(z)
        assert part == pytest.approx(10 ** (-step / 10))


def test_progress_is_told_and_a_search_can_be_stopped() -> None:
    loads = tuple(replace(LOAD, id=f"load{i}", name=f"Load {i}") for i in range(30))
    amps = tuple(replace(AMP, id=f"amp{i}", name=f"Amp {i}") for i in range(10))
    told = list(search(Wish("silent", line=False), owned(*amps, *loads)))
    assert sum(isinstance(t, Progress) for t in told) >= 3
    asked = iter([False, True, True, True, True])
    cut = list(search(Wish("silent"), owned(*amps, *loads), stop=lambda: next(asked, True)))[-1]
    assert isinstance(cut, Answer)
    assert cut.stopped
    whole = told[-1]
    assert isinstance(whole, Answer)
    assert cut.looked_at < whole.looked_at


def test_a_mode_a_technician_must_confirm_is_not_proposed() -> None:
    pulled = replace(AMP, modes=(PowerMode("full", 50), PowerMode("two valves", 25, load_factor=2, technician=True)))
    bases = list(amps_and_taps((pulled,), ""))
    assert {mode.name for _, _, mode in bases} == {"full"}
    assert len(bases) == len(pulled.taps)


def test_the_makers_list_of_loads_stands_above_the_schools() -> None:
    amp = replace(AMP, taps=(Tap(8, 1, (16.0,)),))
    base = next(amps_and_taps((amp,), ""))
    by_ohms = {
        c.seen: screen(c, Preferences()).severity
        for ohms in (8.0, 16.0)
        for c in candidates_of(
            "load", base, (Load("l", "L", impedances=(ohms,), rating=500, rating_kind="continuous"),), Wish()
        )
    }
    assert by_ohms == {8.0: "stop", 16.0: "fine"}


def test_what_wants_a_lead_nobody_owns_is_proposed_with_that_lead() -> None:
    units: dict[str, Unit] = {unit.id: unit for unit in (AMP, LOAD, DESK)}
    found = answer(Wish("silent"), units)
    assert found.proposals
    for proposal in found.proposals:
        assert {lead.name for lead in proposal.needs} == {
            "Speaker lead, 6.35 mm jack to 6.35 mm jack",
            "Balanced lead, 6.35 mm jack, balanced to XLR",
        }
        whole = {**units, **{lead.id: lead for lead in proposal.needs}}
        assert judge(checked(proposal.hookup, whole)).verdict.severity == proposal.severity
        assert any("Speaker lead" in cost for cost in proposal.costs)
    # What one owns comes first, and nothing is wanted that is there.
    both = answer(Wish("silent"), owned(AMP, LOAD, DESK, *LEADS, XLR, LINE))
    assert not both.proposals[0].needs


def test_pairs_are_what_the_two_alone_are_judged_to_be() -> None:
    found = {(p.amp, p.box): p for p in pairs(GEAR)}
    amps = [u for u in GEAR.values() if isinstance(u, Amp)]
    assert {amp for amp, _ in found} == {u.id for u in amps}
    assert not any(isinstance(GEAR[box], Cabinet) and GEAR[box].own_lead for _, box in found)  # type: ignore[union-attr]
    least = found["godwit-45", "gabion-40"]
    assert (least.severity, least.spare, least.tap) == ("stop", pytest.approx(40 - 67.5), 8)
    assert found["godwit-45", "whimbrel-412"].tap == 16
    for (amp, box), pair in found.items():
        # On no other tap is there less to find: the closed form of the mismatch alone says as much for the best.
        nominal = GEAR[box].nominal() if isinstance(GEAR[box], Cabinet) else None  # type: ignore[union-attr]
        taps = [t.impedance for t in GEAR[amp].taps]  # type: ignore[union-attr]
        if nominal in taps and pair.severity in ("note", "fine"):
            assert pair.tap == nominal
        assert (pair.why == "") == (pair.severity in ("note", "fine"))


def test_pairs_of_too_little_gear_are_none() -> None:
    assert pairs({}) == ()
    assert pairs({AMP.id: AMP}) == ()
    (unsaid,) = pairs({AMP.id: AMP, LOAD.id: replace(LOAD, rating=None)})
    assert (unsaid.severity, unsaid.spare) == ("caution", None)
