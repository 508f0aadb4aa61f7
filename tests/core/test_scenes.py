"""Scenes: what they may say, the rig in them, and a verdict over all of them."""

from __future__ import annotations

from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.judging.best_setting import judged_ladders
from low_tide.core.judging.checks import Case, run_all
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import judge, with_fixes, worsened
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import (
    Connect,
    Disconnect,
    DropScene,
    Guard,
    PutOn,
    RemoveUnit,
    SetControl,
    SetScene,
    apply_all,
    changed,
    describe,
    touches_speaker_side,
)
from low_tide.core.rig.hookup import End, Hookup, HookupError, Scene, SetAt
from low_tide.core.rig.networks import separate_networks
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.scenes import amiss, in_scene, pedals_in_series, stands_now
from low_tide.core.rig.validation import checked, problems
from low_tide.core.signal_path.levels import levels
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS

FRONT = replace(HOOKUPS["pedals-in-front"], scenes=())
QUIET = Scene(
    "Verse", (SetAt("bosun", "volume", -12.0), SetAt("bladderwrack", "on", False), SetAt("samphire", "on", False))
)
LOUD = Scene("Solo", (SetAt("bladderwrack", "on", True), SetAt("samphire", "on", True)), ("samphire", "bladderwrack"))


def rig_of(*scenes: Scene, hookup: Hookup = FRONT) -> Rig:
    return checked(replace(hookup, scenes=scenes), GEAR)


def test_a_scene_sets_what_it_says_and_nothing_else() -> None:
    rig = rig_of(QUIET)
    there = in_scene(rig, QUIET)
    assert there.settings("bosun")["volume"] == -12.0
    assert there.settings("bladderwrack")["on"] is False
    said = {(each.unit, each.control) for each in QUIET.settings}
    for unit, gear in rig.units():
        for control in gear.controls():
            if (unit, control.id) not in said:
                assert there.settings(unit)[control.id] == rig.settings(unit)[control.id]
    assert there.hookup.links == rig.hookup.links


def test_put_on_and_told_to_stand() -> None:
    rig = rig_of(QUIET, LOUD)
    assert [stands_now(rig, s) for s in (QUIET, LOUD)] == [False, False]
    for put, name in ((QUIET, "Verse"), (LOUD, "Solo")):
        after = changed(rig, [PutOn(name)])
        assert [stands_now(after, s) for s in (QUIET, LOUD)] == [s == put for s in (QUIET, LOUD)]
        assert after.hookup.scenes == rig.hookup.scenes
    assert not touches_speaker_side(PutOn("Verse"), rig)
    assert describe(PutOn("Verse"), rig) == "put on scene “Verse”"


def test_pedals_in_another_order_keep_their_leads() -> None:
    rig = rig_of(LOUD)
    assert pedals_in_series(rig) == (("bladderwrack", "samphire"),)
    there = in_scene(rig, LOUD)
    ends = {link.lead: tuple(end.name for end in link.ends()) for link in there.hookup.links}
    assert ends["guitar-1"] == ("bosun.out", "samphire.in")
    assert ends["patch-1"] == ("samphire.out", "bladderwrack.in")
    assert ends["guitar-2"] == ("bladderwrack.out", "godwit-45.input")
    assert problems(there.hookup, GEAR) == []
    assert pedals_in_series(there) == (("samphire", "bladderwrack"),)


@given(order=st.permutations(["bladderwrack", "thrift", "cockle"]))
def test_any_order_of_a_row_can_be_plugged_and_is_itself_again(order: list[str]) -> None:
    ship = replace(HOOKUPS["whole-ship"], scenes=())
    rig = rig_of(Scene("So", order=tuple(order)), hookup=ship)
    there = checked(changed(rig, [PutOn("So")]).hookup, GEAR)
    assert tuple(order) in pedals_in_series(there)
    back = changed(there, [SetScene(Scene("Back", order=("bladderwrack", "thrift", "cockle"))), PutOn("Back")])
    assert back.hookup.links == ship.links


GONE = replace(QUIET, settings=(*QUIET.settings, SetAt("thrift", "on", True)))


@pytest.mark.parametrize(
    ("scene", "said"),
    [
        (GONE, "Thrift is not in the hook-up"),
        (Scene("Verse", (SetAt("sold", "on", True),)), "“sold” is not in the hook-up"),
        (Scene("Verse", (SetAt("samphire", "mix", 3),)), "Samphire has no control “mix”"),
        (Scene("Verse", (SetAt("godwit-45", "tap", "16"),)), "tap of Godwit 45 is not moved while the amp is on"),
        (Scene("Verse", (SetAt("bosun", "volume", 3),)), "Bosun's guitar, Volume: 3 is outside −40 to 0 dB"),
        (Scene("Verse", (SetAt("bosun", "volume", "up"),)), "Bosun's guitar, Volume: up is outside −40 to 0 dB"),
        (Scene("Verse", (SetAt("groyne-r8", "line.pot", -9.0),)), "line level of Groyne R8 is taped where it stands"),
        (Scene("Verse", (SetAt("samphire", "on", True),) * 2), "it sets on of Samphire twice"),
        (Scene("Verse", order=("samphire",)), "its order leaves out Bladderwrack, which is in series with Samphire"),
        (Scene("Verse", order=("samphire", "samphire", "bladderwrack")), "its order names Samphire twice"),
        (Scene("Verse", order=("bosun",)), "no other pedal is plugged before or after Bosun's guitar"),
        (Scene("Verse", order=("thrift",)), "Thrift is not in the hook-up"),
    ],
)
def test_what_cannot_be_is_told_and_counts_as_check_first(scene: Scene, said: str) -> None:
    rig = changed(rig_of(), [Guard("groyne-r8", "line.pot"), SetScene(scene)])
    judged = with_fixes(judge(rig))
    found = next(f for f in judged.findings if f.id == "scene-amiss")
    assert (found.severity, found.text) == ("caution", f"Scene “Verse” cannot be set as it says: {said}.")
    assert judged.verdict.severity != "note"
    assert RANK[judged.scenes[0].verdict.severity] >= RANK["caution"]
    with pytest.raises(HookupError, match="cannot be set as it says"):
        changed(rig, [PutOn("Verse")])
    # The fix takes out what cannot be, and nothing else.
    assert found.fix
    mended = changed(rig, found.fix.changes)
    assert amiss(mended, mended.hookup.scenes[0]) == ()
    assert set(mended.hookup.scenes[0].settings) == {
        each for each in scene.settings if each.unit not in {a.unit for a in amiss(rig, scene)}
    }


def test_of_several_networks_a_scene_is_mended_as_a_whole() -> None:
    turned = (SetAt("bosun", "volume", -6.0), SetAt("baritone", "volume", -6.0))
    taped = Scene("Both", (*turned, SetAt("cockle", "volume", -9.0)))
    rig = changed(rig_of(taped, hookup=replace(HOOKUPS["whole-ship"], scenes=())), [Guard("cockle", "volume")])
    parts = separate_networks(rig)
    assert len(parts) > 1
    assert all(not amiss(part, scene) for part in parts for scene in part.hookup.scenes if not part.has("cockle"))
    found = next(f for f in with_fixes(judge(rig)).findings if f.id == "scene-amiss")
    assert found.fix
    mended = changed(rig, found.fix.changes).hookup.scenes[0]
    assert mended.settings == turned


def test_a_pedal_taken_out_leaves_its_scenes_to_be_told_of() -> None:
    rig = rig_of(QUIET, LOUD)
    assert not any(f.id == "scene-amiss" for f in judge(rig).findings)
    out = changed(rig, [RemoveUnit("samphire")])
    told = [f.text for f in judge(out).findings if f.id == "scene-amiss"]
    assert told == [
        "Scene “Verse” cannot be set as it says: Samphire is not in the hook-up.",
        "Scene “Solo” cannot be set as it says: Samphire is not in the hook-up; "
        "no other pedal is plugged before or after Bladderwrack.",
    ]


def test_scenes_are_kept_apart_by_name() -> None:
    with pytest.raises(HookupError, match="Two scenes are called “Verse”"):
        rig_of(QUIET, replace(LOUD, name="Verse"))
    with pytest.raises(HookupError, match="Scenes: 9 are more than the 8 that a hook-up may have"):
        rig_of(*(replace(QUIET, name=f"Verse {n}") for n in range(9)))
    rig = rig_of(QUIET, LOUD)
    renamed = changed(rig, [SetScene(replace(LOUD, name="Lead"), was="Solo")])
    assert [s.name for s in renamed.hookup.scenes] == ["Verse", "Lead"]
    dropped = changed(rig, [DropScene("Verse")])
    assert [s.name for s in dropped.hookup.scenes] == ["Solo"]
    for change in (PutOn("Bridge"), DropScene("Bridge"), SetScene(QUIET, was="Bridge")):
        with pytest.raises(HookupError, match="There is no scene “Bridge” here; there is “Verse”, “Solo”"):
            changed(rig, [change])
    with pytest.raises(HookupError, match="it has none"):
        changed(rig_of(), [PutOn("Verse")])


TOO_HOT = Scene("Solo", (SetAt("groyne-r8", "line.pot", 0.0), SetAt("skerry-4", "in3.gain", 12.0)))
MOVED = [
    SetControl("groyne-r8", "line.pot", -12.0),
    SetControl("skerry-4", "in3.gain", 0.0),
]


def test_a_scene_that_clips_is_no_clear_hookup_and_its_fix_goes_into_the_scene() -> None:
    base = changed(rig_of(), MOVED)
    calm = judge(base)
    rig = changed(base, [SetScene(TOO_HOT)])
    judged = with_fixes(judge(rig))
    added = [f for f in judged.findings if f.scenes == ("Solo",)]
    alone = [f for f in run_all(Case(in_scene(rig, TOO_HOT), Preferences())) if RANK[f.severity] >= 2]
    assert added
    assert all(f.text.startswith("Scene “Solo”: ") for f in added)
    assert {f.text.removeprefix("Scene “Solo”: ") for f in added} <= {f.text for f in alone}
    assert RANK[judged.verdict.severity] == max(RANK[calm.verdict.severity], *(RANK[f.severity] for f in alone))
    fix = next(f.fix for f in added if f.fix)
    assert fix.label.endswith(", in “Solo”")
    after = changed(rig, fix.changes)
    assert after.hookup.units == rig.hookup.units
    assert after.hookup.scenes != rig.hookup.scenes


def test_what_is_the_same_in_every_scene_is_told_once() -> None:
    rig = rig_of(QUIET, Scene("Same", (SetAt("bladderwrack", "on", True),)))
    base = {f.key for f in judge(rig_of()).findings}
    judged = judge(rig)
    assert base <= {f.key for f in judged.findings}
    assert not any("Same" in f.scenes for f in judged.findings)


def test_a_fix_reaches_the_scenes_that_have_its_finding_as_well() -> None:
    """As it stands and in a scene the line clips alike; the scene holds the gain, so turning it once is not enough."""
    hot = [SetControl("groyne-r8", "line.pot", 0.0), SetControl("skerry-4", "in3.gain", 12.0)]
    rig = changed(rig_of(), [*hot, SetScene(Scene("Alike", (SetAt("skerry-4", "in3.gain", 12.0),)))])
    judged = with_fixes(judge(rig))
    fixed = [f for f in judged.findings if f.fix and any(isinstance(c, SetScene) for c in f.fix.changes)]
    assert fixed
    for finding in fixed:
        assert finding.scenes == ()
        assert finding.fix
        assert finding.fix.label.endswith(", in “Alike” too")
        after = judge(changed(rig, finding.fix.changes))
        assert not any(finding.text in f.text for f in after.findings)


SETTINGS = st.tuples(
    st.sampled_from([-40.0, -12.0, 0.0]).map(lambda v: SetAt("bosun", "volume", v)),
    st.booleans().map(lambda v: SetAt("bladderwrack", "on", v)),
    st.sampled_from([-30.0, -4.0, 0.0]).map(lambda v: SetAt("groyne-r8", "line.pot", v)),
    st.sampled_from([0.0, 6.0, 12.0]).map(lambda v: SetAt("skerry-4", "in3.gain", v)),
)


@given(one=SETTINGS, other=SETTINGS)
def test_the_verdict_is_that_of_the_worst_scene(one: tuple[SetAt, ...], other: tuple[SetAt, ...]) -> None:
    scenes = (Scene("One", one), Scene("Other", other, ("samphire", "bladderwrack")))
    rig = rig_of(*scenes)
    judged = judge(rig)
    # From the start, with nothing kept from one rig to the next.
    alone = [
        judge(apply_all(replace(rig.hookup, scenes=()), [SetScene(s), PutOn(s.name), DropScene(s.name)], GEAR))
        for s in scenes
    ]
    of_scenes = [each.verdict for each in judged.scenes]
    assert [(v.severity, v.stops, v.cautions) for v in of_scenes] == [
        (j.verdict.severity, j.verdict.stops, j.verdict.cautions) for j in alone
    ]
    worst = max(RANK[j.verdict.severity] for j in (*alone, judge(rig_of())))
    assert RANK[judged.verdict.severity] == worst
    # Whatever a scene has at caution or worse is told, with its words, in the hook-up's findings.
    told = [f.text for f in judged.findings]
    for each in alone:
        for f in each.findings:
            assert RANK[f.severity] < 2 or any(t.endswith(f.text) for t in told)


def test_a_lead_that_hangs_between_pedals_makes_no_row() -> None:
    rig = changed(rig_of(), [Disconnect("patch-1"), Connect("patch-1", End("bladderwrack", "out"))])
    assert pedals_in_series(rig) == ()


def test_the_best_setting_is_best_for_the_loudest_scene_and_goes_into_what_holds_it() -> None:
    base = changed(rig_of(), MOVED)
    loud = Scene("Loud", (SetAt("groyne-r8", "line.pot", -8.0),))
    (alone,) = judged_ladders(base)
    assert alone.best
    assert "scene" not in alone.best.label
    rig = changed(base, [SetScene(Scene("Same", (SetAt("samphire", "on", True),))), SetScene(loud)])
    (found,) = judged_ladders(rig)
    assert found.peak == alone.peak
    assert found.best
    assert found.best.label.endswith("for scene “Loud”")
    assert worsened(found.best.changes, judge(rig)) == ()
    after = changed(rig, found.best.changes)
    (point,) = levels(in_scene(after, after.hookup.scenes[1])).line_points
    assert point.dbfs == pytest.approx(found.best.peak, abs=0.2)
    # Where the loudest stands best already there is nothing to set, though the others are quieter.
    (found,) = judged_ladders(after)
    assert (found.best, found.no_best) == (None, "")
