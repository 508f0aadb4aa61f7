"""Drills about hook-ups, over the lightship and lockers made by lot: whatever the seed, the truth is the judge's."""

from __future__ import annotations

from random import Random

import pytest

from low_tide.app.drill_documents import Question, read, written
from low_tide.core.drills.cards import CARDS, KINDS, KindId
from low_tide.core.drills.mistakes import MISTAKES
from low_tide.core.drills.questions import (
    OF_LEVEL,
    AboutHookup,
    Changed,
    Judged,
    Pointed,
    about_hookup,
    answer_hookup,
    is_one_act,
    stated,
    to_point_at,
)
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import judge
from low_tide.core.rig.changes import AddUnit, Disconnect, RemoveUnit, SetControl, changed
from low_tide.core.rig.hookup import HookupError
from tests.drills.lockers import stocks
from tests.examples import TIMES, many

OF_HOOKUPS: tuple[KindId, ...] = ("spot", "may", "mend", "level")
SEEDS = 300 if TIMES > 1 else 32
"""Over all four lockers, for each kind; in the long run three hundred."""


def cards(kind: KindId) -> list[str]:
    return [card.id for card in CARDS.values() if kind in card.kinds]


def checks_of(card: str) -> tuple[str, ...]:
    return MISTAKES[card].checks if card in MISTAKES else OF_LEVEL


def made(kind: KindId, seed: int) -> tuple[str, AboutHookup] | None:
    """A question of a kind by its seed: the seed says from which locker, about which card and how hard."""
    of, lots = stocks()[seed % 4], Random(seed)
    able = cards(kind)
    for card in lots.sample(able, len(able)):
        found = about_hookup(kind, card, of, 1 + seed % 3, lots)
        if found is not None:
            return card, found
    return None


@pytest.mark.parametrize("kind", OF_HOOKUPS)
def test_the_stated_fault_is_what_the_judge_finds(kind: KindId) -> None:
    count = 0
    for seed in range(SEEDS):
        question = made(kind, seed)
        if question is None:
            continue
        count += 1
        card, about = question
        schools = stocks()[seed % 4].preferences
        judged = judge(about.rig, schools)
        verdict, finding = stated(about, checks_of(card), schools)
        bad = [f for f in judged.findings if RANK[f.severity] >= RANK["caution"]]
        if not about.at:
            assert (kind, verdict, bad) == ("may", "clear", []), (kind, seed)
        else:
            assert finding is not None, (kind, seed)
            assert finding.id in checks_of(card), (kind, seed)
            assert finding in judged.findings
            assert RANK[finding.severity] == max(RANK[f.severity] for f in judged.findings), (kind, seed)
        for decoy in about.decoys:
            named = {each for f in bad for each in (*f.units, *f.leads)}
            assert not named & set(decoy.at), (kind, seed, decoy.why)
            assert not set(about.at) & set(decoy.at), (kind, seed)
    assert count == SEEDS


def test_one_points_at_few_of_many_things_and_at_what_is_found() -> None:
    for seed in range(SEEDS):
        question = made("spot", seed)
        if question is None:
            continue
        card, about = question
        schools = stocks()[seed % 4].preferences
        there = to_point_at(about.rig)
        assert set(about.at) <= set(there), seed
        assert len(about.at) <= max(2, 0.4 * len(there)), seed
        for each in there:
            outcome = answer_hookup(about, checks_of(card), Pointed(each), schools)
            assert outcome.right == (each in about.at), (seed, each)
            assert outcome.right or outcome.says


def test_one_verdict_and_one_of_the_reasons_are_right() -> None:
    for seed in range(SEEDS):
        question = made("may", seed)
        if question is None:
            continue
        card, about = question
        schools = stocks()[seed % 4].preferences
        told = {f.id: f.severity for f in judge(about.rig, schools).findings if f.severity != "fine"}
        right = [
            (verdict, reason.check)
            for verdict in ("caution", "stop")
            for reason in about.reasons
            if answer_hookup(about, checks_of(card), Judged(verdict, reason.check), schools).right
        ]
        clear = answer_hookup(about, checks_of(card), Judged("clear"), schools).right
        assert clear + len(right) == 1, (seed, right)
        for reason in about.reasons:
            assert reason.text == REGISTRY[reason.check].when
            assert reason.check not in told or (right and reason.check == right[0][1]), seed


def test_what_is_undone_is_mended_by_one_act_and_what_is_left_is_not() -> None:
    for kind in ("mend", "level"):
        for seed in range(SEEDS):
            question = made(kind, seed)  # type: ignore[arg-type]
            if question is None:
                continue
            card, about = question
            schools = stocks()[seed % 4].preferences
            assert is_one_act(about.undo), (kind, seed)
            outcome = answer_hookup(about, checks_of(card), Changed(about.undo), schools)
            assert outcome.right, (kind, seed, outcome.left)
            after = judge(changed(about.rig, about.undo), schools)
            assert RANK[after.verdict.severity] < RANK["caution"], (kind, seed)
            unit, control = about.knobs[0] if about.knobs else (next(iter(about.rig.amps()))[0], "flat_out")
            now = about.rig.settings(unit).get(control)
            if now is not None:
                same = answer_hookup(about, checks_of(card), Changed((SetControl(unit, control, now),)), schools)
                assert not same.right, (kind, seed)


@pytest.mark.parametrize("card", ["over-full-scale", "screened-twin", "speaker-lead-on-a-line", "phantom-on"])
def test_putting_away_what_is_wrong_does_not_mend_it(card: str) -> None:
    """What was joined stays joined, or the shortest way to be sound is to play nothing."""
    tried = 0
    for seed in range(many(20)):
        of = stocks()[seed % 4]
        about = about_hookup("mend", card, of, 1 + seed % 3, Random(seed))
        for each in about.rig.hookup.links if about else ():
            assert about is not None
            if each.lead in about.rig.gear and about.rig.gear[each.lead].kind == "lead" and each.b is not None:
                outcome = answer_hookup(about, checks_of(card), Changed((Disconnect(each.lead),)), of.preferences)
                assert not outcome.right, (seed, each.lead)
                tried += 1
    assert tried > 20


def test_an_act_is_one() -> None:
    assert not is_one_act(())
    assert is_one_act((SetControl("amp", "tap", "8"),))
    assert not is_one_act((SetControl("amp", "tap", "8"), SetControl("amp", "mode", "full")))
    assert not is_one_act((SetControl("amp", "tap", "8"), RemoveUnit("cabinet")))
    assert not is_one_act((AddUnit("load"), RemoveUnit("cabinet")))


def test_only_what_sets_the_level_may_be_moved_for_it() -> None:
    about = next(found[1] for seed in range(20) if (found := made("level", seed)))
    with pytest.raises(HookupError, match="Only what sets the level"):
        answer_hookup(about, OF_LEVEL, Changed((RemoveUnit("desk"),)), stocks()[0].preferences)


def test_a_question_is_the_same_once_it_was_kept() -> None:
    for kind in OF_HOOKUPS:
        for seed in range(8):
            question = made(kind, seed)
            if question is None:
                continue
            card, about = question
            before = Question(kind, card, 1, stocks()[seed % 4].preferences, hookup=about)
            after = read(kind, card, 1, written(before)).hookup
            assert after is not None
            assert (after.rig.hookup, dict(after.rig.gear)) == (about.rig.hookup, dict(about.rig.gear))
            assert (after.at, after.reasons, after.knobs, after.undo) == (
                about.at,
                about.reasons,
                about.knobs,
                about.undo,
            )
            assert [(d.at, d.why) for d in after.decoys] == [(d.at, d.why) for d in about.decoys]


def test_the_same_seed_asks_the_same() -> None:
    for kind in OF_HOOKUPS:
        one, other = made(kind, 4), made(kind, 4)
        assert one is not None
        assert other is not None
        assert (one[0], one[1].rig.hookup, one[1].at) == (other[0], other[1].rig.hookup, other[1].at)


def test_most_mistakes_can_be_made_in_the_lightship() -> None:
    able = [m for m in MISTAKES if any(about_hookup(k, m, stocks()[0], 1, Random(1)) for k in CARDS[m].kinds)]
    assert len(able) >= 24, sorted(set(MISTAKES) - set(able))


def test_registries_name_what_there_is() -> None:
    for card in CARDS.values():
        assert card.kinds, card.id
        assert set(card.kinds) <= set(KINDS)
        assert card.rule.endswith(".")
    for mistake in MISTAKES.values():
        assert set(mistake.checks) <= set(REGISTRY), mistake.id


def test_more_units_come_with_the_level() -> None:
    def units(level: int) -> float:
        found = [about_hookup("may", "tap-moved", stocks()[0], level, Random(n)) for n in range(12)]
        sizes = [len(each.rig.hookup.units) for each in found if each]
        return sum(sizes) / len(sizes)

    assert units(1) < units(3)
