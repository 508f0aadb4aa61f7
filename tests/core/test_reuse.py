"""What is used again after a change is what would be worked out anew, and what is declared is what is read."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.circuit.network import NetworkError
from low_tide.core.gear.base import Control, Setting
from low_tide.core.judging.checks import REGISTRY, Case
from low_tide.core.judging.judge import judge, mends, with_fixes
from low_tide.core.preferences import MARGINS, Preferences
from low_tide.core.rig.changes import (
    Change,
    Connect,
    Disconnect,
    DropScene,
    Guard,
    PutOn,
    SetControl,
    SetOccasion,
    SetScene,
    Stand,
    changed,
)
from low_tide.core.rig.hookup import End, HookupError, Occasion, Scene, SetAt
from low_tide.core.rig.kept import ASPECTS, RESULTS
from low_tide.core.rig.rig import Rig, differs
from low_tide.core.rig.scenes import pedals_in_series
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.core.test_properties import rigs
from tests.core.watching import WatchedRig, reader, watching
from tests.examples import many, spread

NAMES = sorted(HOOKUPS)


def another(control: Control, now: Setting) -> Setting:
    """Another position of a control than where it stands."""
    if control.kind == "switch":
        return not now
    if control.kind == "choice":
        return next((o.value for o in control.options if o.value != now), now)
    return control.low if now != control.low else control.high


def changes_of(rig: Rig) -> Iterator[Change]:
    """One change of every kind there is, and every control moved once."""
    for unit, gear in rig.units():
        for control in gear.controls():
            yield SetControl(unit, control.id, another(control, rig.settings(unit)[control.id]))
            if control.can_be_taped():
                yield Guard(unit, control.id, not rig.is_guarded(unit, control.id))
        yield Stand(unit, room="bunks")
        yield Stand(unit, mount="")
    for link in rig.hookup.links:
        yield Disconnect(link.lead)
    knobs = tuple(
        SetAt(unit, c.id, another(c, rig.settings(unit)[c.id]))
        for unit, gear in rig.units()
        for c in gear.controls()
        if c.safe_live and not rig.is_guarded(unit, c.id)
    )
    yield SetScene(Scene("Otherwise", knobs[:120], tuple(u for run in pedals_in_series(rig) for u in reversed(run))))
    for scene in rig.hookup.scenes:
        yield PutOn(scene.name)
        yield SetScene(replace(scene, settings=scene.settings[1:]), scene.name)
        yield DropScene(scene.name)
    yield SetOccasion(Occasion("23:30", 6.0, "held", place="bunks-bed", level=40.0))


def same_as_anew(rig: Rig, preferences: Preferences) -> None:
    anew = Rig(rig.hookup, rig.gear, rig.known)
    assert judge(rig, preferences).findings == judge(anew, preferences).findings


@pytest.mark.parametrize("name", NAMES)
def test_whatever_is_changed_the_judgement_is_that_of_a_rig_made_anew(name: str) -> None:
    rig = checked(HOOKUPS[name], GEAR)
    judge(rig)
    for change in spread(list(changes_of(rig)), 60):
        try:
            after = changed(rig, (change,))
        except HookupError:
            continue
        same_as_anew(after, Preferences())


@given(st.sampled_from(NAMES), st.data())
@settings(max_examples=many(40))
def test_so_is_it_after_many_changes_one_after_the_other(name: str, data: st.DataObject) -> None:
    rig = checked(HOOKUPS[name], GEAR)
    for _ in range(4):
        school = data.draw(st.sampled_from(sorted(MARGINS)))
        preferences = replace(Preferences(), margin=school)
        judge(rig, preferences)
        free = [g.id for g in rig.gear.values() if g.kind == "lead" and g.id not in rig.hookup.gear_ids()]
        ends = [End(u, s.id) for u, g in rig.units() for s in g.sockets() if not rig.link_at(End(u, s.id))]
        plugged = [Connect(data.draw(st.sampled_from(free)), *data.draw(st.permutations(ends))[:2])] if ends[1:] else []
        change = data.draw(st.sampled_from([*changes_of(rig), *plugged]))
        try:
            rig = changed(rig, (change,))
        except HookupError:
            continue
        same_as_anew(rig, preferences)


def read_in_truth(some: list[Rig]) -> dict[str, set[str]]:
    with watching() as read:
        for rig in some:
            watched = WatchedRig(rig)
            for check in REGISTRY.values():
                with reader(f"check {check.id}"):
                    try:
                        tuple(check.run(Case(watched, Preferences())))
                    except NetworkError:
                        continue
    return {name: set(aspects) for name, aspects in read.items()}


def undeclared(read: dict[str, set[str]]) -> dict[str, set[str]]:
    declared = {f"result {r.__name__}": r.reads for r in RESULTS}
    declared |= {f"check {c.id}": c.findings.reads for c in REGISTRY.values()}
    return {name: aspects - declared[name] for name, aspects in read.items() if aspects - declared[name]}


def test_a_check_and_a_result_read_what_they_say_they_read() -> None:
    read = read_in_truth([checked(h, GEAR) for h in HOOKUPS.values()])
    assert undeclared(read) == {}
    assert read["check over-limit"] == ASPECTS - {"scenes"}
    assert "scenes" in read["check scene-amiss"]
    assert read["result levels"] == {"leads", "speaker", "signal"}
    assert {f"check {c}" for c in REGISTRY} <= set(read)


@given(rigs())
@settings(max_examples=many(40))
def test_so_they_do_whatever_is_plugged_together(rig: Rig) -> None:
    assert undeclared(read_in_truth([rig])) == {}


def test_what_reads_nothing_that_changed_is_not_worked_out_again() -> None:
    rig = checked(HOOKUPS["quiet-hold"], GEAR)
    judge(rig)
    pot = next(u for u, g in rig.units() if any(c.id == "line.pot" for c in g.controls()))
    after = changed(rig, (SetControl(pot, "line.pot", -20.0),))
    assert differs(rig, after) == {"signal"}
    for result in RESULTS:
        assert (after.kept.cell(result) is rig.kept.cell(result)) == ("signal" not in result.reads)


def test_a_rig_that_is_only_alike_keeps_nothing() -> None:
    rig = checked(HOOKUPS["quiet-hold"], GEAR)
    before = judge(rig)
    assert replace(rig, hookup=replace(rig.hookup, units=(), links=())).kept.cell(RESULTS[0]).made is False
    other = Rig(rig.hookup, {i: replace(g, name=f"{g.name} B") for i, g in GEAR.items()}, rig.known, rig)
    assert differs(rig, other) == ASPECTS
    assert judge(other).findings != before.findings


def test_what_a_hand_moves_on_the_speaker_side_must_be_said_to_affect_it() -> None:
    with pytest.raises(ValueError, match="affects it"):
        Control("step", "Step", "switch", False, hand="turned")
    with pytest.raises(ValueError, match="affects it"):
        Control("tap", "Tap", "switch", False, safe_live=False)


def test_a_fix_offered_for_a_part_mends_the_whole() -> None:
    """A part that has no amp of its own is judged like any other: what it lacks anyway is no objection to a fix."""
    whole = checked(HOOKUPS["whole-ship"], GEAR)
    phantom = [
        SetControl(unit, c.id, True) for unit, g in whole.units() for c in g.controls() if c.id.endswith(".phantom")
    ]
    cut_off = [Disconnect(k.lead) for k in whole.speaker_links]
    judged = with_fixes(judge(changed(whole, [*phantom, *cut_off])))
    assert all(f.fixes for f in judged.findings if f.id == "phantom-on")
    assert all(mends(fix, f, judged) for f in judged.findings for fix in f.fixes)


def test_only_a_check_that_says_so_finds_a_stop() -> None:
    some = [checked(h, GEAR) for h in HOOKUPS.values()]
    changed_ones = [changed(some[0], (c,)) for c in changes_of(some[0]) if not isinstance(c, Stand)]
    stops = {f.id for rig in [*some, *changed_ones] for f in judge(rig).findings if f.severity == "stop"}
    assert stops
    assert all(REGISTRY[check].may_stop for check in stops)


@given(rigs())
@settings(max_examples=many(100))
def test_so_it_is_whatever_is_plugged_together(rig: Rig) -> None:
    assert all(REGISTRY[f.id].may_stop for f in judge(rig).findings if f.severity == "stop")
