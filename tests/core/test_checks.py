"""Each check: it fires, it stays silent, it sits right at its edge; and its fix mends it."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest

from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.cabinet import Driver, OwnLead
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import Amp, Attenuator, Cabinet, Load
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.judging.checks.match import EDGE_TOLERANCE, is_below_minimum, severity_of
from low_tide.core.judging.findings import Finding
from low_tide.core.judging.judge import judge, with_fixes
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import apply_all
from low_tide.core.rig.hookup import HookupError
from low_tide.core.rig.rig import Rig
from tests.core.build import AMP, BOX, CAB, DESK, LEADS, LOAD, PAD, SWITCH, rig

PLAIN = "lead1: amp/out1 > load/in"
TAPPED = f"{PLAIN}; line: load/line > desk/in1"


def found(case: Rig, check: str, **schools: str) -> list[Finding]:
    judged = with_fixes(judge(case, Preferences(**schools)))  # type: ignore[arg-type]
    return [f for f in judged.findings if f.id == check]


def worst(case: Rig, check: str, **schools: str) -> str:
    return next((f.severity for f in found(case, check, **schools)), "silent")


def mended(case: Rig, check: str) -> Rig:
    finding = found(case, check)[0]
    assert finding.fix, f"{check} offers no fix"
    after = apply_all(case.hookup, finding.fix.changes, case.gear)
    assert worst(after, check) in ("silent", "fine", "note")
    return after


def load(**changes: object) -> Load:
    return replace(LOAD, **changes)  # type: ignore[arg-type]


def amp(**changes: object) -> Amp:
    return replace(AMP, **changes)  # type: ignore[arg-type]


def test_a_plain_hookup_is_clear() -> None:
    judged = judge(rig(PLAIN))
    assert judged.verdict.severity == "note"
    assert judged.verdict.words == "Clear to switch on"
    assert judged.verdict.exit_code == 0


def test_every_check_says_when_it_fires() -> None:
    assert len(REGISTRY) >= 24
    assert all(c.when.endswith(".") and c.family for c in REGISTRY.values())


@pytest.mark.parametrize(
    "links",
    [
        "lead1: amp/out1",
        "lead1: load/in",
        "lead1: amp/out1 > box/in",
        "lead1: amp/out1 > box/in; lead2: box/through",
    ],
)
def test_open_output(links: str) -> None:
    assert worst(rig(links, amp={}), "open-output") == "stop"


def test_open_output_edge_is_four_times_the_tap() -> None:
    at = rig(PLAIN, load(impedances=(16.0,)), amp={"tap": "4"})
    over = rig(PLAIN, load(impedances=(16.1,)), amp={"tap": "4"})
    assert (worst(at, "open-output"), worst(over, "open-output")) == ("silent", "stop")


@pytest.mark.parametrize(
    ("change", "severity"),
    [
        ({"safe_without_load": "yes"}, "note"),
        ({"safe_without_load": "unknown"}, "stop"),
        ({"technology": "transistor"}, "note"),
        # Without an output transformer it is as the maker says, and never a stop.
        ({"technology": "transformerless"}, "caution"),
        ({"technology": "transformerless", "safe_without_load": "yes"}, "note"),
        ({"technology": "hybrid"}, "caution"),
        ({"technology": "hybrid", "safe_without_load": "no"}, "caution"),
        ({"technology": "hybrid", "safe_without_load": "yes"}, "note"),
    ],
)
def test_open_output_asks_the_maker(change: dict, severity: str) -> None:
    assert worst(rig("lead1: amp/out1", amp(**change)), "open-output") == severity


@pytest.mark.parametrize(
    ("links", "change", "says"),
    [
        ("lead1: amp/out1", {"technology": "hybrid", "safe_without_load": "no"}, "its manual says it should have one."),
        ("lead1: amp/out1", {"technology": "hybrid"}, "its manual tells: look it up."),
        ("lead1: amp/out1", {}, "The lead in its speaker jack ends in the air."),
        ("lead1: load/in", {}, "No lead is plugged into its speaker jack."),
        ("lead1: amp/out1 > box/in", {}, "What hangs on it comes to 47 kΩ, far too little load."),
        ("lead1: amp/out1 > switch/in2", {}, "nothing at the end of the chain takes power."),
    ],
)
def test_an_open_output_says_why_it_is_open(links: str, change: dict, says: str) -> None:
    case = rig(links, amp(**change), replace(SWITCH, idle="open"), amp={})
    assert says in found(case, "open-output")[0].reason


def test_bypass_with_nothing_behind_it_is_open() -> None:
    case = rig("lead1: amp/out1 > pad/in", pad={"bypass": True})
    assert worst(case, "open-output") == "stop"
    mended(case, "open-output")
    assert worst(rig("lead1: amp/out1 > pad/in", pad={"step": "20"}), "open-output") == "silent"


def test_switching_socket() -> None:
    switching = load(through="switching")
    empty = rig(f"{PLAIN}; lead2: load/through", switching)
    assert worst(empty, "switched-out-load") == worst(empty, "open-output") == "stop"
    after = mended(empty, "switched-out-load")
    assert judge(after).verdict.severity == "note"
    driven = rig(f"{PLAIN}; lead2: load/through > cab/in1", switching)
    assert worst(driven, "switched-out-load") == "note"
    assert "8 Ω" in found(driven, "mismatch")[0].text
    assert worst(rig(PLAIN, switching), "switched-out-load") == "silent"


def test_shorted() -> None:
    case = rig(PLAIN, load(impedances=(1.5,)), amp={"tap": "16"})
    assert worst(case, "shorted-output") == "stop"
    assert worst(rig(PLAIN, load(impedances=(1.6,)), amp={"tap": "16"}), "shorted-output") == "silent"


def test_speaker_into_input_is_told_by_origin() -> None:
    case = rig(f"{PLAIN}; lead2: load/through > desk/in1", load(through="parallel"))
    assert worst(case, "speaker-into-input") == "stop"
    assert mended(case, "speaker-into-input").plugged("desk") == frozenset()
    behind = rig("lead1: amp/out1 > pad/in; lead2: pad/out > desk/in1", pad={"step": "20"})
    assert worst(behind, "speaker-into-input") == "stop"
    assert worst(rig(TAPPED), "speaker-into-input") == "silent"


def test_outputs_joined() -> None:
    second = replace(AMP, id="two", name="Two")
    links = f"{PLAIN}; lead2: two/out1 > load/through"
    assert worst(rig(links, second, load(through="parallel")), "outputs-joined") == "stop"
    assert worst(rig(PLAIN, second, two={}), "outputs-joined") == "silent"


def test_two_taps() -> None:
    own = amp(tap_choice="sockets")
    links = "lead1: amp/tap8.1 > load/in; lead2: amp/tap16.1 > cab/in1"
    case = rig(links, own)
    assert worst(case, "two-taps-used") == "stop"
    assert worst(rig(links, replace(own, several_taps=True)), "two-taps-used") == "silent"
    after = mended(case, "two-taps-used")
    assert worst(after, "two-taps-used") == "silent"


def test_reversed_attenuator() -> None:
    case = rig("lead1: amp/out1 > pad/out; lead2: pad/in > cab/in1", pad={"step": "3"})
    assert worst(case, "reversed-attenuator") == "stop"
    after = mended(case, "reversed-attenuator")
    assert {(k.lead, k.a.socket, k.b.socket) for k in after.hookup.links if k.b} == {
        ("lead1", "out1", "in"),
        ("lead2", "out", "in1"),
    }


@pytest.mark.parametrize(("earth", "severity"), [("yes", "silent"), ("no", "stop"), ("unknown", "caution")])
def test_mains_earth(earth: str, severity: str) -> None:
    assert worst(rig(PLAIN, amp(mains_earth=earth)), "no-mains-earth") == severity


@pytest.mark.parametrize(
    ("ratio", "exact", "high", "either"),
    [
        (0.4991, "stop", "stop", "caution"),
        (0.49, "stop", "stop", "stop"),
        (0.5, "stop", "stop", "caution"),
        (0.783, "stop", "stop", "caution"),
        (0.784, "fine", "fine", "fine"),
        (1.0, "fine", "fine", "fine"),
        (1.275, "fine", "fine", "fine"),
        (1.276, "caution", "caution", "caution"),
        (1.5, "caution", "caution", "caution"),
        (1.51, "stop", "caution", "caution"),
        (2.0, "stop", "caution", "caution"),
        (2.01, "stop", "stop", "stop"),
    ],
)
def test_mismatch_by_school(ratio: float, exact: str, high: str, either: str) -> None:
    assert [severity_of(ratio, s) for s in ("exact", "one_step_high", "either_way")] == [exact, high, either]


def test_mismatch_tells_the_other_schools_and_moves_the_tap() -> None:
    case = rig(f"{PLAIN}; lead2: amp/out2 > cab/in1")
    finding = found(case, "mismatch")[0]
    assert finding.text == "Amp sees 4 Ω on its 8 Ω tap."
    assert finding.school
    assert [o.severity for o in finding.school.others] == ["stop", "caution"]
    assert mended(case, "mismatch").settings("amp")["tap"] == "4"


def test_mismatch_moves_leads_where_taps_have_their_own_jacks() -> None:
    own = amp(tap_choice="sockets")
    case = rig("lead1: amp/tap8.1 > load/in; lead2: amp/tap8.2 > cab/in1", own)
    after = mended(case, "mismatch")
    assert after.plugged("amp") == {"tap4.1", "tap4.2"}


def test_a_curve_never_decides_a_match() -> None:
    assert worst(rig("lead1: amp/out1 > cab/in1"), "mismatch") == "fine"


@pytest.mark.parametrize(("ohms", "severity"), [(15, "fine"), (7.5, "stop"), (16, "fine")])
def test_odd_rated_values_count_as_they_are(ohms: float, severity: str) -> None:
    assert worst(rig(PLAIN, load(impedances=(float(ohms),)), amp={"tap": "16"}), "mismatch") == severity


def test_the_makers_list_stands_above_the_schools() -> None:
    listed = amp(taps=(Tap(8, 2, permitted=(4.0, 8.0)),))
    assert worst(rig(PLAIN, listed, load(impedances=(4.0,))), "mismatch") == "fine"
    assert worst(rig(PLAIN, listed, load(impedances=(16.0,))), "mismatch", match="one_step_high") == "stop"


def test_pulled_valves_want_twice_the_load() -> None:
    half = amp(modes=(PowerMode("full", 50), PowerMode("half", 25, load_factor=2)))
    case = rig(PLAIN, half, amp={"mode": "half"})
    assert worst(case, "mismatch") == "stop"
    assert worst(rig(PLAIN, half, amp={"mode": "half", "tap": "4"}), "mismatch") == "fine"


def test_without_an_output_transformer_only_the_least_load_counts() -> None:
    for technology in ("transformerless", "hybrid"):
        least = amp(technology=technology, minimum_load=4.0)
        assert worst(rig(PLAIN, least, amp={"tap": "16"}), "mismatch") == "silent"
        assert worst(rig(PLAIN, least, load(impedances=(3.0,))), "below-minimum") == "stop"
        assert worst(rig(PLAIN, replace(least, minimum_load=None)), "below-minimum") == "caution"


def test_what_nobody_declared_is_a_caution() -> None:
    bare = Amp("amp", "Amp", taps=(Tap(8, 2),))
    two = "lead1: amp/out1 > load/in; lead2: amp/out2"
    assert worst(rig(two, bare), "no-mains-earth") == worst(rig(two, bare), "jack-unknown") == "caution"
    undeclared = Load("load", "Load", rating=60)
    assert worst(rig(PLAIN, undeclared), "load-rating", margin="label") == "caution"


@pytest.mark.parametrize(
    ("ohms", "tap", "says"),
    [(12.0, "8", "1.5 times"), (12.03, "8", "1.504 times"), (16.03, "8", "2.004 times"), (7.996, "16", "49.98 %")],
)
def test_what_lies_beyond_an_edge_is_not_said_to_stand_on_it(ohms: float, tap: str, says: str) -> None:
    (finding,) = found(rig(PLAIN, load(impedances=(ohms,)), amp={"tap": tap}), "mismatch")
    assert f"that is {says} " in finding.reason


def test_transistor_minimum() -> None:
    solid = amp(technology="transistor", minimum_load=4.0, taps=(Tap(8, 2),))
    assert worst(rig(PLAIN, solid, load(impedances=(4.0,))), "below-minimum") == "fine"
    assert worst(rig(PLAIN, solid, load(impedances=(3.9,))), "below-minimum") == "stop"
    assert worst(rig(PLAIN, replace(solid, minimum_load=None)), "below-minimum") == "caution"
    edge = 4.0 * (1 - EDGE_TOLERANCE)
    assert [is_below_minimum(solid, ohms) for ohms in (edge, np.nextafter(edge, 0))] == [False, True]


def test_unknown_jacks() -> None:
    doubtful = replace(CAB, jack_wiring="unknown")
    two = "lead1: amp/out1 > cab/in1; lead2: cab/in2 > load/in"
    assert worst(rig("lead1: amp/out1 > cab/in1", doubtful), "jack-unknown") == "silent"
    assert worst(rig(two, doubtful), "jack-unknown") == "caution"
    assert worst(rig(f"{PLAIN}; lead2: load/through", load(through="unknown")), "jack-unknown") == "caution"


@pytest.mark.parametrize(
    ("rating", "kind", "flat_out", "school", "severity"),
    [
        (49.9, "continuous", False, "label", "stop"),
        (50, "continuous", False, "label", "fine"),
        (50, "continuous", False, "one_and_a_half", "caution"),
        (75, "continuous", False, "one_and_a_half", "fine"),
        (74.9, "continuous", True, "label", "stop"),
        (75, "continuous", True, "one_and_a_half", "fine"),
        (75, "continuous", True, "double", "caution"),
        (74.9, "amp_label", True, "label", "fine"),
        (60, "unknown", False, "label", "caution"),
        (None, "continuous", False, "label", "caution"),
    ],
)
def test_load_rating(rating: float | None, kind: str, flat_out: bool, school: str, severity: str) -> None:
    case = rig(PLAIN, load(rating=rating, rating_kind=kind), amp={"flat_out": flat_out})
    assert worst(case, "load-rating", margin=school) == severity


@pytest.mark.parametrize(
    ("rating", "words"),
    [(100, "Load has 1.2 dB to spare."), (75, "Load stands the amp's label."), (60, "Load stands the amp's label.")],
)
def test_what_is_to_spare_is_said_where_there_is_some(rating: float, words: str) -> None:
    (finding,) = found(rig(PLAIN, load(rating=rating, rating_kind="continuous")), "load-rating", margin="label")
    assert (finding.severity, finding.text) == ("fine", words)


@pytest.mark.parametrize(("rating", "told"), [(50, True), (75, True), (200, False)])
def test_the_school_of_a_rating_is_told_where_one_would_say_otherwise(rating: float, told: bool) -> None:
    (finding,) = found(rig(PLAIN, load(rating=rating, rating_kind="continuous")), "load-rating")
    assert (finding.school is not None) == told


def test_a_bypass_that_would_be_too_much_is_one_movement_away_until_it_is_taped() -> None:
    small = Cabinet("cab", "Cab", drivers=(Driver(8, 30),))
    links = "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1"
    deep = replace(PAD, steps=(20.0,))
    case = rig(links, small, deep, pad={"step": "20"})
    assert (worst(case, "load-rating"), worst(case, "one-movement")) == ("fine", "caution")
    assert worst(mended(case, "one-movement"), "one-movement") == "silent"
    assert worst(rig(links, small, deep, pad={"step": "20", "bypass": True}), "load-rating") == "stop"
    steps = rig(links, small, replace(PAD, steps=(0.0, 20.0), bypass=False), pad={"step": "20"})
    assert worst(steps, "load-rating") == "stop"
    assert worst(mended(steps, "load-rating"), "load-rating") == "fine"


def test_a_single_driver_is_judged_too() -> None:
    mixed = Cabinet("cab", "Cab", drivers=(Driver(16, 60), Driver(16, 20)), rating=120)
    finding = next(f for f in found(rig("lead1: amp/out1 > cab/in1", mixed), "load-rating") if f.severity != "fine")
    assert (finding.severity, finding.text.startswith("Cab, driver 2")) == ("stop", True)


def test_a_bigger_load_is_proposed() -> None:
    big = Load("big", "Big load", impedances=(4.0, 8.0), rating=200, line_out=LineOut())
    case = rig(TAPPED, big, load(rating=40))
    after = mended(case, "load-rating")
    assert after.settings("big")["impedance"] == "8"
    assert not after.has("load")


def test_load_mode_tap() -> None:
    case = rig(f"{PLAIN}; lead2: load/through > box/in", load(through="parallel"), box={"mode": "load"})
    assert worst(case, "load-mode-tap") == "stop"
    assert mended(case, "load-mode-tap").settings("box")["mode"] == "bridging"
    strong = replace(BOX, load_watts=60)
    alone = "lead1: amp/out1 > pad/in; lead2: pad/out > box/in"
    fixed = replace(PAD, bypass=False, steps=(20.0,))
    assert worst(rig(alone, strong, fixed, box={"mode": "load"}), "load-mode-tap") == "fine"


def test_thirty_three_ohms_beside_eight_take_their_share() -> None:
    case = rig(f"{PLAIN}; lead2: load/through > box/in", load(through="parallel"), box={"mode": "load"})
    share = next(s for s in judge(case).case.shares if s.part == "load mode")
    assert share.label == pytest.approx(50 * 8 / 41)


def test_screened_lead() -> None:
    case = rig("thin: amp/out1 > load/in")
    assert worst(case, "screened-speaker-lead") == "stop"
    assert mended(case, "screened-speaker-lead").hookup.links[0].lead == "lead1"
    assert worst(rig(PLAIN), "screened-speaker-lead") == "fine"
    assert worst(rig("thin: amp/out1", amp={}), "screened-speaker-lead") == "stop"


def test_screened_lead_after_deep_attenuation_is_a_note() -> None:
    links = "lead1: amp/out1 > pad/in; thin: pad/out > cab/in1"
    deep = Attenuator("pad", "Pad", rating=100, steps=(20.0, 30.0))
    assert worst(rig(links, deep), "screened-speaker-lead") == "note"
    bypass = rig(links, replace(deep, bypass=True))
    assert (worst(bypass, "screened-speaker-lead"), worst(bypass, "one-movement")) == ("note", "caution")
    assert worst(rig(links, replace(deep, steps=(3.0, 20.0)), pad={"step": "20"}), "screened-speaker-lead") == "stop"


def test_speaker_lead_as_signal() -> None:
    plain = replace(LEADS[2], plug_a="trs", plug_b="trs")
    assert worst(rig(f"{PLAIN}; lead3: load/line > desk/in1", plain), "speaker-lead-as-signal") == "caution"
    assert worst(rig(TAPPED), "speaker-lead-as-signal") == "silent"


def test_plug_must_fit() -> None:
    locking = replace(CAB, connector="locking")
    assert worst(rig("lead1: amp/out1 > cab/in1", locking), "jack-does-not-fit") == "stop"


def test_combo_lead_reaches_only_home() -> None:
    combo = amp(form="combo", inner_speaker="own")
    own = Cabinet("own", "Own speaker", drivers=(Driver(8, 60),), own_lead=OwnLead(0.4))
    assert worst(rig("own: amp/out1 > own/in1", combo, own), "hard-wired-combo") == "silent"
    away = "lead1: amp/out1 > pad/in; own: pad/out > own/in1"
    assert worst(rig(away, combo, own), "hard-wired-combo") == "caution"
    assert worst(rig(away, combo, replace(own, own_lead=OwnLead(1.5))), "hard-wired-combo") == "silent"


# 50 W on 8 Ω is 28.28 V peak; −20 dB, 10 kΩ against 600 Ω, 18 dBu full scale.
BARE_DBFS = 20 * math.log10(28.284 / 10 * 10_000 / 10_600 / 2**0.5 / 0.7746) - 18


def test_level_at_the_converter() -> None:
    point = judge(rig(TAPPED, load={"line.pot": 0.0})).case.line_points[0]
    assert point.dbfs == pytest.approx(BARE_DBFS, abs=0.01)
    speaker = rig(f"{PLAIN}; line: load/line > desk/in1", load(behaviour="reactive"), load={"line.pot": 0.0})
    assert judge(speaker).case.line_points[0].dbfs == pytest.approx(BARE_DBFS + 1.938, abs=0.01)


@pytest.mark.parametrize(
    ("to", "clips", "low"),
    [(0.5, "caution", "silent"), (-5.9, "caution", "silent"), (-6.1, "fine", "silent"), (-17.9, "fine", "silent")],
)
def test_window_at_the_converter(to: float, clips: str, low: str) -> None:
    case = rig(TAPPED, load={"line.pot": -10.0}, desk={"in1.gain": to - BARE_DBFS + 10})
    assert (worst(case, "converter-clips"), worst(case, "converter-low")) == (clips, low)


def test_level_fixes_reach_the_window() -> None:
    hot = rig(TAPPED, load={"line.pot": 0.0}, desk={"in1.gain": 30.0, "in1.ir": True})
    low = rig(TAPPED, load={"line.pot": -30.0}, desk={"in1.ir": True})
    assert worst(hot, "converter-clips") == worst(low, "converter-low") == "caution"
    mended(hot, "converter-clips")
    mended(low, "converter-low")


def test_input_damage_and_its_limiter() -> None:
    loud = load(line_out=LineOut(ratio_db=-6, phantom="tolerates"))
    case = rig(TAPPED, loud, load={"line.pot": 0.0})
    assert worst(case, "input-damage") == "stop"
    assert "6 dB over full scale" in found(case, "input-damage")[0].reason
    mended(case, "input-damage")
    deep = "lead1: amp/out1 > pad/in; lead2: pad/out > load/in; line: load/line > desk/in1"
    assert worst(rig(deep, loud, pad={"step": "20"}, load={"line.pot": 0.0}), "input-damage") == "stop"  # bypassed
    held = replace(PAD, bypass=False, steps=(20.0,))
    assert worst(rig(deep, loud, held, load={"line.pot": 0.0}), "input-damage") == "silent"
    limited = load(line_out=LineOut(ratio_db=-6, limiter_v=5, phantom="tolerates"))
    assert worst(rig(TAPPED, limited, load={"line.pot": 0.0}), "input-damage") == "silent"
    told = replace(DESK, inputs=(replace(DESK.inputs[0], absolute_max=60.0),))
    assert worst(rig(TAPPED, loud, told, load={"line.pot": 0.0}), "input-damage") == "silent"


@pytest.mark.parametrize(
    ("phantom", "on", "expected"),
    [
        ("tolerates", True, ("silent", "silent")),
        ("unknown", True, ("caution", "silent")),
        ("harmed", True, ("stop", "silent")),
        ("harmed", False, ("silent", "silent")),
        ("needs", True, ("silent", "silent")),
        ("needs", False, ("silent", "caution")),
    ],
)
def test_phantom(phantom: str, on: bool, expected: tuple[str, str]) -> None:
    case = rig(TAPPED, load(line_out=LineOut(ratio_db=-20, phantom=phantom)), desk={"in1.phantom": on})
    assert (worst(case, "phantom-on"), worst(case, "phantom-needed")) == expected
    for check in ("phantom-on", "phantom-needed"):
        if worst(case, check) != "silent":
            mended(case, check)


@pytest.mark.parametrize(
    ("box", "ir", "none", "double"),
    [
        (False, False, "caution", "silent"),
        (True, False, "fine", "silent"),
        (False, True, "fine", "silent"),
        (True, True, "silent", "caution"),
    ],
)
def test_one_speaker_in_the_sound(box: bool, ir: bool, none: str, double: str) -> None:
    filtered = load(line_out=LineOut(ratio_db=-20, filter="switchable", phantom="tolerates"))
    case = rig(TAPPED, filtered, load={"line.filter": box, "line.pot": 0.0}, desk={"in1.ir": ir})
    assert (worst(case, "no-speaker-sound"), worst(case, "doubled-speaker-sound")) == (none, double)
    for check in ("no-speaker-sound", "doubled-speaker-sound"):
        if worst(case, check) == "caution":
            mended(case, check)


def test_preamp_out_cannot_be_computed_and_says_so() -> None:
    direct = amp(line_out=LineOut(origin="preamp"))
    case = rig(f"{PLAIN}; line: amp/line > desk/in1", direct)
    assert worst(case, "converter-clips") == "caution"
    assert worst(case, "power-stage-not-recorded") == "note"


def test_case_stays_closed_for_valves() -> None:
    assert worst(rig(PLAIN), "case-closed") == "note"
    assert worst(rig(PLAIN, amp(technology="transistor", minimum_load=4.0)), "case-closed") == "silent"


def test_nothing_to_judge() -> None:
    judged = judge(rig("lead1: load/in"))
    assert (judged.verdict.severity, judged.findings[0].id) == ("caution", "nothing-to-judge")


@pytest.mark.parametrize(
    ("links", "says"),
    [
        ("lead1: amp/out9 > load/in", "no socket “out9”"),
        ("lead1: amp/out1 > load/in; lead2: amp/out1 > cab/in1", "Two leads in one socket"),
        ("lead1: amp/out1 > load/in; lead1: amp/out2 > cab/in1", "used twice"),
        ("cab: amp/out1 > load/in", "is not a lead"),
        ("nolead: amp/out1 > load/in", "not in the locker"),
    ],
)
def test_impossible_hookups_are_refused_in_words(links: str, says: str) -> None:
    with pytest.raises(HookupError, match=says):
        rig(links)


@pytest.mark.parametrize(
    ("unit", "settings", "says"),
    [
        ("amp", {"tap": "5"}, "“5” is not one of 4, 8, 16"),
        ("amp", {"warp": 1}, "no control “warp”"),
        ("desk", {"in1.gain": 99.0}, "99.0 is outside 0 to 50 dB"),
        ("desk", {"in1.gain": True}, "outside"),
        ("pad", {"bypass": "maybe"}, "on or off"),
    ],
)
def test_settings_out_of_range(unit: str, settings: dict, says: str) -> None:
    with pytest.raises(HookupError, match=says):
        rig(PLAIN, **{unit: settings})
