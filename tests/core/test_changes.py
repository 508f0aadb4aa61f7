"""Changes, choices and fixes: values in, a new hook-up out, and nothing half-applied."""

from __future__ import annotations

import re
from dataclasses import replace

import pytest

from low_tide.core.circuit.network import NetworkError
from low_tide.core.finder.leads import best_lead, is_wrong, missing_lead
from low_tide.core.finder.plugging import meets
from low_tide.core.finder.socket_options import choices, in_between, preview
from low_tide.core.gear.cabinet import OwnLead
from low_tide.core.inventory import Amp, Cabinet, Lead
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.judging.findings import Finding, Fix, verdict
from low_tide.core.judging.judge import judge, mends, with_fixes
from low_tide.core.preferences import Preferences
from low_tide.core.presentation.layout import layout
from low_tide.core.rig.changes import (
    AddUnit,
    Change,
    Connect,
    Describe,
    Disconnect,
    Guard,
    RemoveUnit,
    SetControl,
    Turn,
    apply_all,
    describe,
    touches_speaker_side,
)
from low_tide.core.rig.hookup import End, HookupError
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import fits
from low_tide.core.session.run_sheet import run_sheet
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.build import AMP, CAB, LOAD, PAD, SCREENED, UNITS, rig
from tests.examples import spread

PLAIN = "lead1: amp/out1 > load/in"
COMBO = Amp("combo", "Combo", form="combo", inner_speaker="own", mains_earth="yes")
OWN = Cabinet("own", "Own speaker", own_lead=OwnLead(0.4))


def after(case: Rig, *changes: Change) -> Rig:
    return apply_all(case.hookup, changes, case.gear)


def test_every_change_makes_a_new_value() -> None:
    case = rig(PLAIN)
    before = case.hookup
    moved = after(case, SetControl("amp", "tap", "4"))
    assert moved.settings("amp")["tap"] == "4"
    assert case.hookup is before
    assert case.settings("amp")["tap"] == "8"


def test_adding_and_removing_a_unit() -> None:
    case = rig(PLAIN)
    added = after(case, AddUnit("cab"), Connect("lead2", End("amp", "out2"), End("cab", "in1")))
    assert added.plugged("amp") == {"out1", "out2"}
    removed = after(added, RemoveUnit("cab"))
    assert removed.hookup == case.hookup


def test_a_combo_brings_its_speaker_once() -> None:
    case = rig("", COMBO, OWN, desk={})
    with_speaker = after(case, AddUnit("combo"))
    assert [p.unit for p in with_speaker.hookup.units] == ["desk", "combo", "own"]
    assert with_speaker.hookup.links[0].lead == "own"
    placed = rig("", COMBO, OWN, own={})
    assert [p.unit for p in after(placed, AddUnit("combo")).hookup.units] == ["own", "combo"]


def test_a_fixed_lead_goes_only_where_its_cabinet_is() -> None:
    with pytest.raises(HookupError, match="must start at it"):
        rig("own: amp/out1 > load/in", OWN)
    with pytest.raises(HookupError, match="hangs on its own fixed lead"):
        rig("lead1: amp/out1 > own/in1", OWN)


def test_several_changes_are_one_or_none() -> None:
    case = rig(PLAIN)
    with pytest.raises(HookupError, match="not in use"):
        after(case, SetControl("amp", "tap", "4"), Disconnect("lead4"))
    assert case.settings("amp")["tap"] == "8"


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (AddUnit("nobody"), "not in the locker"),
        (Turn("cab", "nowhere", "away"), "“nowhere” is no listening place of the locker"),
        (Turn("cab", "lead2"), "“lead2” is no listening place of the locker"),
        (AddUnit("amp"), "in the hook-up twice"),
        (AddUnit("lead2"), "is a lead: it goes between two sockets"),
        (RemoveUnit("cab"), "not in the hook-up"),
        (SetControl("cab", "tap", "4"), "not in the hook-up"),
        (SetControl("amp", "tap", "5"), "“5” is not one of"),
        (Connect("lead2", End("amp", "out2"), End("cab", "in1")), "ends at “cab”, which is not in the hook-up"),
        (Connect("lead2", End("amp", "out1")), "Two leads in one socket"),
        (Disconnect("lead2"), "not in use"),
    ],
)
def test_changes_that_name_nothing_are_refused(change: Change, says: str) -> None:
    with pytest.raises(HookupError, match=says):
        after(rig(PLAIN), change)


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (AddUnit("cab"), "add Cab"),
        (RemoveUnit("load"), "take out Load"),
        (Connect("lead2", End("amp", "out2"), End("cab", "in1")), "connect Amp to Cab"),
        (Connect("lead2", End("amp", "out2")), "plug a lead into Amp"),
        (Disconnect("lead1"), "put Lead 1 away"),
        (SetControl("amp", "tap", "4"), "Amp: tap 4 Ω"),
        (SetControl("amp", "tap", "?"), "Amp: tap ?"),
        (SetControl("amp", "flat_out", True), "Amp: run flat out on"),
        (SetControl("load", "line.pot", -6.0), "Load: line level −6 dB"),
        (Guard("amp", "tap"), "Amp: tap taped"),
        (Guard("load", "line.pot", on=False), "Load: line level tape off"),
        (Turn("cab", "lead2", "away"), "Cab: turned away from Lead 2"),
        (Describe(name="x"), "name and notes"),
    ],
)
def test_changes_have_words_for_the_undo_list(change: Change, words: str) -> None:
    assert describe(change, rig(PLAIN)) == words


@pytest.mark.parametrize(
    ("change", "touches"),
    [
        (RemoveUnit("load"), True),
        (RemoveUnit("desk"), False),
        (AddUnit("cab"), False),
        (SetControl("amp", "flat_out", True), False),
        (Connect("lead2", End("amp", "out2")), True),
        (Connect("lead2", End("cab", "in1")), True),
    ],
)
def test_what_must_not_happen_while_on(change: Change, touches: bool) -> None:
    assert touches_speaker_side(change, rig(f"{PLAIN}; line: load/line > desk/in1")) is touches


def test_describing_keeps_what_is_not_said() -> None:
    case = after(rig(PLAIN), Describe(name="New name"), Describe(notes="Words"))
    assert (case.hookup.name, case.hookup.notes) == ("New name", "Words")


# Choices


def test_an_output_meets_an_input() -> None:
    case = rig("", amp={}, load={}, desk={}, cab={})
    out, into = case.socket(End("amp", "out1")), case.socket(End("load", "in"))
    line, desk = case.socket(End("load", "line")), case.socket(End("desk", "in1"))
    assert meets(out, into)
    assert meets(out, desk)  # it fits; the check says what it does
    assert meets(line, desk)
    assert not meets(out, line)
    assert not meets(into, desk)


def test_the_right_lead_is_chosen() -> None:
    case = rig("", amp={}, load={}, desk={})
    out, into = case.socket(End("amp", "out1")), case.socket(End("load", "in"))
    line, desk = case.socket(End("load", "line")), case.socket(End("desk", "in1"))
    assert getattr(best_lead(case, out, into), "id", None) == "lead1"
    assert getattr(best_lead(case, line, desk), "id", None) == "line"
    only_thin = rig("", *(replace(case.gear[f"lead{i}"], archived=True) for i in range(1, 5)), amp={}, load={})  # type: ignore[type-var]
    chosen = best_lead(only_thin, out, into)
    assert isinstance(chosen, Lead)
    assert chosen.construction != "speaker"


def test_choices_come_in_groups_with_the_safest_first() -> None:
    found = choices(rig(PLAIN, desk={}), End("amp", "out2"))
    groups = list(dict.fromkeys(c.group for c in found))
    assert groups[-1] == "Nothing at the far end"
    here = [c for c in found if c.group == "In this hook-up"]
    assert here[-1].label.startswith("Desk")
    assert "Speaker level goes into Desk" in here[-1].consequence
    # Nobody fetches a box from the locker to put speaker level into its input.
    assert not any("input" in c.label for c in found if c.group == "In the locker")


@pytest.mark.parametrize("name", HOOKUPS)
def test_every_choice_can_be_made_and_leads_to_what_it_says(name: str) -> None:
    case = Rig(HOOKUPS[name], GEAR)
    for end in spread([End(u, s.id) for u, g in case.units() for s in g.sockets()], 3):
        for choice in (*spread(choices(case, end), 6), *spread(in_between(case, end), 2)):
            owned = {**case.gear, choice.needs.id: choice.needs} if choice.needs else case.gear
            made = apply_all(case.hookup, choice.changes, owned)
            judged = judge(made)
            assert judged.verdict.severity == choice.severity
            stops = [f for f in judged.findings if f.severity == "stop"]
            # A choice with a stop names what stops: the finding itself, or what an amp sees and on which tap.
            seen = {"mismatch", "open-output"} & {f.id for f in stops}
            named = any(f.text.rstrip(".") in choice.consequence for f in stops)
            assert not stops or named or (seen and re.search("Ω tap|no load", choice.consequence))


def test_where_the_tap_is_what_stops_another_tap_is_offered() -> None:
    case = rig("lead1: amp/out1 > load/in")
    found = [c for c in choices(case, End("amp", "out2")) if c.label.startswith("Cab")]
    by_label = {c.label: c for c in found}
    plain, tapped = by_label["Cab, jack 1"], by_label["Cab, jack 1, with the tap at 4 Ω"]
    assert plain.severity == "stop"
    assert "4 Ω on its 8 Ω tap" in plain.consequence
    assert "4 Ω on its 4 Ω tap" in tapped.consequence
    assert found.index(tapped) < found.index(plain)
    # A stop that was there before is none for another lead to be blamed for.
    wrong = rig("lead1: amp/out1 > load/in", amp={"tap": "4"})
    assert not any("with the tap" in c.label for c in choices(wrong, End("load", "in")))


@pytest.mark.parametrize("name", HOOKUPS)
def test_what_is_put_in_between_stands_between(name: str) -> None:
    case = Rig(HOOKUPS[name], GEAR)
    for link in spread(case.hookup.links, 4):
        for choice in spread([c for c in in_between(case, link.a) if "with the tap" not in c.label], 4):
            owned = {**case.gear, choice.needs.id: choice.needs} if choice.needs else case.gear
            made = apply_all(case.hookup, choice.changes, owned)
            before, after = ({k for k in r.hookup.links if isinstance(r.conductor(k), Lead)} for r in (case, made))
            new, gone = after - before, before - after
            assert gone == {link}
            assert len(new) == 2
            ends = [e for k in new for e in k.ends()]
            # Both ends of the old lead are plugged, and the two others are an input and an output of one unit.
            assert set(link.ends()) <= set(ends)
            one, other = (e for e in ends if e not in link.ends())
            assert one.unit == other.unit
            assert {made.socket(one).flow, made.socket(other).flow} == {"in", "out"}


def test_nothing_goes_in_between_where_no_lead_is() -> None:
    case = rig("lead1: amp/out1 > load/in")
    loose = apply_all(case.hookup, (Connect("lead2", End("amp", "out2")),), case.gear)
    assert in_between(case, End("load", "line")) == ()
    assert in_between(loose, End("amp", "out2")) == ()


def test_a_lead_that_nobody_owns_is_named_and_fits() -> None:
    sockets = [s for g in GEAR.values() for s in g.sockets() if s.level not in ("air", "phones") and not s.own_lead]
    kinds = {(s.level, s.connector, s.flow): s for s in sockets}.values()
    pairs = [(a, b) for a in kinds for b in kinds if meets(a, b)]
    assert len(pairs) > 20
    for a, b in pairs:
        lead = missing_lead(GEAR, a, b)
        assert fits(lead, a, b), (a, b, lead)
        assert not is_wrong(lead, a) or "speaker" in (a.level, b.level)
        assert lead.id not in GEAR
        assert lead.name not in {g.name for g in GEAR.values()}
        assert set(lead.typical) == {"Length", "Conductor"}
    again = missing_lead({**GEAR, lead.id: lead}, a, b)
    assert (again.id, again.name) != (lead.id, lead.name)


def test_without_a_free_lead_what_fits_is_still_offered() -> None:
    leads = [u for u in UNITS if isinstance(u, Lead)]
    bare = rig("", *(replace(lead, archived=True) for lead in leads), amp={}, load={})
    found = next(c for c in choices(bare, End("amp", "out1")) if c.label == "Load, amp in")
    assert found.needs is not None
    assert found.needs.name == "Speaker lead, 6.35 mm jack to 6.35 mm jack"
    assert found.severity != "stop"
    free = next(c for c in choices(rig("", amp={}, load={}), End("amp", "out1")) if c.label == "Load, amp in")
    assert free.needs is None


def test_a_free_end_can_be_plugged_somewhere() -> None:
    case = rig(f"{PLAIN}; lead2: amp/out2", cab={})
    found = [c for c in choices(case, End("cab", "in1")) if c.label.startswith("The free end")]
    assert after(case, *found[0].changes).far_end(End("amp", "out2")) == End("cab", "in1")
    at_socket = [c for c in choices(case, End("amp", "out2")) if c.group == "Its free end goes to"]
    assert any(c.label.startswith("Cab") for c in at_socket)


def test_a_combo_speaker_offers_its_own_lead() -> None:
    case = rig("lead1: combo/out1 > load/in", COMBO, OWN, own={}, pad={})
    found = choices(case, End("own", "in1"))
    pad = next(c for c in found if c.label == "Pad, speaker out")
    assert after(case, *pad.changes).hookup.links[-1].lead == "own"
    from_pad = next(c for c in choices(case, End("pad", "out")) if c.label.startswith("Own speaker"))
    assert "by its own lead" in from_pad.detail


def test_preview_does_not_change_anything() -> None:
    case = rig(PLAIN)
    severity, text = preview(case, (SetControl("amp", "tap", "16"),))
    assert (severity, text) == ("stop", "Amp then sees 8 Ω on its 16 Ω tap")
    with pytest.raises(HookupError):
        preview(case, (SetControl("amp", "tap", "5"),))


# Judging


def finding(severity: str, **more: object) -> Finding:
    return Finding(id="x", severity=severity, text="Text.", reason="Reason.", **more)  # type: ignore[arg-type]


@pytest.mark.parametrize(
    ("severities", "words", "code"),
    [
        ([], "Clear to switch on", 0),
        (["fine", "note"], "Clear to switch on", 0),
        (["note", "caution"], "Check first", 1),
        (["stop", "caution", "fine"], "Do not switch on", 2),
    ],
)
def test_the_verdict_is_the_worst_finding(severities: list[str], words: str, code: int) -> None:
    found = verdict(tuple(finding(s) for s in severities))
    assert (found.words, found.exit_code) == (words, code)
    assert (found.stops, found.cautions) == (severities.count("stop"), severities.count("caution"))


def test_a_key_changes_with_the_words_and_the_units() -> None:
    keys = {finding("note").key, finding("note", units=("a",)).key, replace(finding("note"), text="Other.").key}
    assert len(keys) == 3
    assert finding("stop").key == finding("note").key


def test_fixes_that_do_not_mend_are_dropped() -> None:
    judged = judge(rig(f"{PLAIN}; lead2: amp/out2 > cab/in1"))
    mismatch = next(f for f in judged.findings if f.id == "mismatch")
    assert len(mismatch.fixes) == 2
    kept = next(f for f in with_fixes(judged).findings if f.id == "mismatch")
    assert [f.label for f in kept.fixes] == ["Set the tap to 4 Ω"]
    worse = Fix("Pull it out", (Disconnect("lead1"), Disconnect("lead2")))
    assert not mends(worse, mismatch, judged)
    assert not mends(Fix("Nothing there", (Disconnect("lead4"),)), mismatch, judged)


def test_what_cannot_be_computed_counts_as_check_first_and_hides_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    def fail(_: object) -> None:
        raise NetworkError("the network has no single solution")

    monkeypatch.setitem(REGISTRY, "uneven-split", replace(REGISTRY["uneven-split"], run=fail))
    judged = judge(rig(PLAIN))
    assert (judged.verdict.words, judged.findings[0].id) == ("Check first", "cannot-compute")
    assert "uneven-split" in judged.findings[0].reason
    assert judge(rig("lead1: amp/out1")).verdict.words == "Do not switch on"


def test_no_school_softens_a_stop_that_everybody_agrees_on() -> None:
    cases = [
        rig("lead1: amp/out1", amp={}),
        rig(PLAIN, replace(LOAD, rating=40)),
        rig("lead1: amp/out1 > desk/in1"),
        rig(PLAIN, replace(LOAD, impedances=(2.0,))),
    ]
    for match in ("exact", "one_step_high", "either_way"):
        for margin in ("label", "one_and_a_half", "double"):
            schools = Preferences(match=match, margin=margin)  # type: ignore[arg-type]
            assert [judge(c, schools).verdict.severity for c in cases] == ["stop"] * 4


# Picture and run sheet


def test_layout_puts_everything_somewhere_of_its_own() -> None:
    for hookup in HOOKUPS.values():
        spots = layout(Rig(hookup, GEAR))
        assert {s.unit for s in spots} == {p.unit for p in hookup.units}
        assert len({(s.column, s.row) for s in spots}) == len(spots)


def test_units_without_leads_stand_where_they_will_be_needed() -> None:
    spots = {s.unit: s.column for s in layout(rig("", amp={}, load={}, desk={}))}
    assert spots == {"amp": 0, "load": 1, "desk": 2}


def test_the_longest_way_counts() -> None:
    case = rig("lead1: amp/out1 > box/in; lead2: box/through > cab/in1; line: box/line > desk/in1")
    assert {s.unit: s.column for s in layout(case)} == {"amp": 0, "box": 1, "cab": 2, "desk": 2}


@pytest.mark.parametrize("name", HOOKUPS)
def test_every_run_sheet_is_whole(name: str) -> None:
    case = Rig(HOOKUPS[name], GEAR)
    steps = run_sheet(case)
    assert len({s.id for s in steps}) == len(steps)
    for link in case.hookup.links:
        assert any(case.gear[link.lead].name in s.text for s in steps)
    for unit, _ in case.amps():
        phases = {s.phase for s in steps if unit in s.units}
        assert {"before", "switch_on", "bring_up", "switch_off"} <= phases
    assert not any("inf" in s.expect or "nan" in s.expect for s in steps)


def test_an_interface_without_a_level_still_gets_a_step() -> None:
    steps = run_sheet(rig(f"{PLAIN}; line: box/line > desk/in1"))
    assert any(s.text.startswith("Set the level at Desk, input 1 by its meter") for s in steps)


def test_phantom_for_a_box_that_needs_it_comes_before_the_amp() -> None:
    steps = [s for s in run_sheet(Rig(HOOKUPS["guide-track"], GEAR)) if s.phase == "switch_on"]
    # The interface gives it, and is on before anything plays into it.
    assert [s.text for s in steps][:2] == [
        "Skerry 4 is on, its inputs and the monitors down",
        "Marram 2 has its phantom power",
    ]
    assert all("standby" not in s.text for s in steps)  # a transistor amp has none


def test_archived_gear_is_not_offered() -> None:
    case = rig(PLAIN, replace(CAB, archived=True), replace(SCREENED, archived=True))
    labels = " ".join(c.label for c in choices(case, End("amp", "out2")))
    assert "Cab" not in labels
    assert AMP.id in case.gear
    assert PAD.name in labels
