"""Checks of boxes, signal paths, effects, earth and hands: each fires, stays silent, and its fix mends."""

from __future__ import annotations

from dataclasses import replace

import pytest

from low_tide.core.gear.amp import PowerMode, Tap
from low_tide.core.gear.cabinet import Driver
from low_tide.core.gear.line_out import LineOut
from low_tide.core.inventory import Pedal
from low_tide.core.judging.checks import REGISTRY, Case
from low_tide.core.judging.judge import judge
from low_tide.core.preferences import Preferences
from low_tide.core.presentation.analysis import analyse
from low_tide.core.rig.changes import SetControl
from low_tide.core.rig.hookup import HookupError
from low_tide.core.session.run_sheet import run_sheet
from tests.core.build import (
    AMP,
    CAB,
    CORDS,
    DELAY,
    DESK,
    LEADS,
    LOAD,
    LOOP_BOX,
    LOOPED,
    MIC,
    PAD,
    PROCESSOR,
    REAMP,
    SWITCH,
    rig,
)
from tests.core.test_checks import found, mended, worst

PLAIN = "lead1: amp/out1 > load/in"
TAPPED = f"{PLAIN}; line: load/line > desk/in1"
REAMPED = "lead1: amp/out1 > reamp/in; lead2: reamp/out > cab/in1"
BEFORE = "cord1: guitar/out > delay/in; cord2: delay/out > amp/input"
TWO_AMPS = "lead1: amp/out1 > switch/in1; lead2: looped/out1 > switch/in2; lead3: switch/out1 > cab/in1"
MIKED = "lead1: amp/out1 > cab/in1; mic: mic/capsule > cab/front; xlr: mic/out > desk/in1"
CAB_8 = replace(CAB, drivers=(Driver(8, 60, 100.0),), jacks=1, rating=None)


def test_a_first_jack_that_shorts_itself() -> None:
    amp = replace(AMP, empty_shorts=True)
    case = rig("lead1: amp/out2 > load/in", amp)
    assert worst(case, "empty-shorting-jack") == worst(case, "shorted-output") == "stop"
    assert worst(mended(case, "empty-shorting-jack"), "shorted-output") == "silent"
    assert worst(rig(PLAIN, amp), "empty-shorting-jack") == "silent"


def test_a_second_jack_that_cuts_the_first_off() -> None:
    amp = replace(AMP, jack_wiring="switching")
    case = rig("lead1: amp/out1 > cab/in1; lead2: amp/out2 > load/in", amp)
    assert worst(case, "inner-speaker-off") == "note"
    assert "8 Ω on its 8 Ω tap" in found(case, "mismatch")[0].text
    assert {s.unit for s in judge(case).case.shares} == {"load"}
    assert worst(rig(PLAIN, amp), "inner-speaker-off") == "silent"


@pytest.mark.parametrize(
    ("change", "severity"),
    [
        ({}, "silent"),
        ({"idle": "open"}, "stop"),
        ({"idle": "unknown"}, "caution"),
        ({"gap": "open"}, "stop"),
        ({"gap": "unknown"}, "caution"),
    ],
)
def test_a_switch_that_leaves_an_amp_open(change: dict, severity: str) -> None:
    case = rig(TWO_AMPS, replace(SWITCH, **change))
    assert worst(case, "switcher-leaves-open") == severity
    # An amp that waits without a load is open now, whatever the switch could do later.
    assert worst(case, "open-output") == ("stop" if change.get("idle") in ("open", "unknown") else "silent")


def test_a_switch_with_an_empty_output_in_reach() -> None:
    one_amp = replace(SWITCH, inputs=1, outputs=2)
    case = rig("lead1: amp/out1 > switch/in1; lead2: switch/out1 > cab/in1", one_amp)
    assert worst(case, "switcher-leaves-open") == "stop"
    both = rig("lead1: amp/out1 > switch/in1; lead2: switch/out1 > cab/in1; lead3: switch/out2 > load/in", one_amp)
    assert worst(both, "switcher-leaves-open") == "silent"
    together = replace(one_amp, together=True)
    parallel = rig(both_links(), together, switch={"output": "all"})
    assert "4 Ω" in found(parallel, "mismatch")[0].text


def both_links() -> str:
    return "lead1: amp/out1 > switch/in1; lead2: switch/out1 > cab/in1; lead3: switch/out2 > load/in"


@pytest.mark.parametrize(
    ("needs", "severity", "is_open"), [("yes", "stop", True), ("unknown", "stop", True), ("no", "note", False)]
)
def test_a_re_amplifier_without_mains(needs: str, severity: str, is_open: bool) -> None:
    case = rig(REAMPED, replace(REAMP, load_needs_mains=needs), reamp={"mains": False})
    assert worst(case, "unpowered-reamp") == severity
    assert worst(case, "open-output") == ("stop" if is_open else "silent")
    assert worst(mended(case, "unpowered-reamp") if is_open else rig(REAMPED), "open-output") == "silent"


def test_a_re_amplifier_is_told_where_it_must_stop() -> None:
    small = replace(CAB_8, drivers=(Driver(8, 30, 100.0),))
    assert worst(rig(REAMPED, small, reamp={"volume": -10.0}), "reamp-over-speaker") == "caution"
    assert worst(rig(REAMPED, CAB_8, reamp={"volume": -10.0}), "reamp-over-speaker") == "silent"
    # As set it is over: that is a stop by rating, and not only something to mark.
    over = rig(REAMPED, small, reamp={"volume": 0.0})
    assert (worst(over, "load-rating"), worst(over, "reamp-over-speaker")) == ("stop", "silent")


def test_the_amp_sees_only_the_load_of_a_re_amplifier() -> None:
    for volume in (-60.0, 0.0):
        case = rig(REAMPED, replace(CAB_8, drivers=(Driver(4, 100, 100.0),)), reamp={"volume": volume})
        seen = {s.output.amp: s.impedance for s in judge(case).case.seen}
        assert seen == {"amp": pytest.approx(8), "reamp": pytest.approx(4)}
    assert worst(rig(REAMPED, replace(CAB_8, drivers=(Driver(2, 100, 100.0),))), "below-minimum") == "stop"


@pytest.mark.parametrize(
    ("floating", "isolated", "severity"),
    [
        ("yes", "no", "stop"),
        ("yes", "unknown", "caution"),
        ("yes", "yes", "silent"),
        ("unknown", "no", "caution"),
        ("no", "no", "silent"),
    ],
)
def test_a_floating_output_and_an_earthed_sleeve(floating: str, isolated: str, severity: str) -> None:
    load = replace(LOAD, line_out=LineOut(isolated=isolated, phantom="tolerates"))
    assert worst(rig(TAPPED, replace(AMP, floating=floating), load), "bridged-into-earthed") == severity


def test_a_selector_nobody_has_read() -> None:
    case = rig(PLAIN, amp={"tap": "?"})
    assert worst(case, "mismatch") == "stop"
    assert found(case, "mismatch", match="either_way")[0].severity == "stop"
    assert worst(mended(case, "mismatch"), "mismatch") == "fine"


def test_a_silent_switch() -> None:
    links = "lead1: amp/out1 > pad/in; lead2: pad/out > cab/in1"
    for mute, severity in (("open", "stop"), ("loaded", "silent")):
        case = rig(links, replace(PAD, mute=mute), pad={"mute": True})
        assert worst(case, "open-output") == severity
    assert worst(mended(rig(links, replace(PAD, mute="open"), pad={"mute": True}), "open-output"), "mismatch") == "fine"


def test_halves_of_a_cabinet() -> None:
    four = replace(CAB, drivers=(Driver(8, 60, 98.0),) * 4, wiring="series", jack_wiring="mono_stereo", rating=None)
    assert four.nominal() == 8
    stereo = rig("lead1: amp/out1 > cab/in1", four, cab={"halves": "stereo"})
    assert judge(stereo).case.seen[0].impedance == pytest.approx(16)
    mono = rig("lead1: amp/out1 > cab/in1", four)
    assert judge(mono).case.seen[0].impedance == pytest.approx(8)
    assert worst(rig("lead1: amp/out1 > cab/in1", four, cab={"halves": "?"}), "jack-unknown") == "caution"
    in_series = replace(four, mono_joins="series")
    assert judge(rig("lead1: amp/out1 > cab/in1", in_series)).case.seen[0].impedance == pytest.approx(32)


def test_jacks_in_series_take_what_is_behind_them() -> None:
    first = replace(CAB, drivers=(Driver(8, 60),), jack_wiring="series", rating=None)
    assert judge(rig("lead1: amp/out1 > cab/in1", first)).case.seen[0].impedance == pytest.approx(8)
    both = rig("lead1: amp/out1 > cab/in1; lead2: cab/in2 > load/in", first)
    assert judge(both).case.seen[0].impedance == pytest.approx(16)
    assert {s.unit: round(s.flat, 2) for s in judge(both).case.shares} == {"cab": 37.5, "load": 37.5}


def test_a_built_in_attenuator_takes_its_part() -> None:
    amp = replace(AMP, modes=(PowerMode("full", 50), PowerMode("quiet", 5, attenuation=10.0)), taps=(Tap(8, 2),))
    case = judge(rig(PLAIN, amp, amp={"mode": "quiet"})).case
    assert case.seen[0].impedance == pytest.approx(8)
    assert case.shares[0].label == pytest.approx(5.0)


def test_tails_before_a_distorting_stage() -> None:
    links = f"{BEFORE}; {TAPPED}"
    case = rig(links, amp={"flat_out": True})
    assert worst(case, "tails-before-drive") == "caution"
    assert worst(rig(links), "tails-before-drive") == "silent"
    meant = rig(links, amp={"flat_out": True}, delay={"on_purpose": True})
    assert worst(meant, "tails-before-drive") == "note"
    assert worst(rig(links, amp={"flat_out": True}, delay={"on": False}), "tails-before-drive") == "silent"
    labels = [f.label for f in found(case, "tails-before-drive")[0].fixes]
    assert labels[0] == "Move Delay after the load"
    after = mended(case, "tails-before-drive")
    assert {frozenset((k.a.unit, k.b.unit)) for k in after.hookup.links if k.b} == {
        frozenset(pair) for pair in (("guitar", "amp"), ("amp", "load"), ("load", "delay"), ("delay", "desk"))
    }


def test_the_amps_own_reverb_and_a_processors_place_count() -> None:
    own = rig("lead1: looped/out1 > load/in", looped={"tails": True, "flat_out": True})
    assert worst(own, "tails-before-drive") == "caution"
    mended(own, "tails-before-drive")
    around = f"cord2: proc/send > amp/input; {PLAIN}; line: load/line > proc/return; line1: proc/outL > desk/in1"
    before = rig(around, PROCESSOR, amp={"flat_out": True}, proc={"tails": "before"})
    assert worst(before, "tails-before-drive") == "caution"
    assert worst(rig(around, amp={"flat_out": True}, proc={"tails": "after"}), "tails-before-drive") == "silent"


def test_a_loop_box_wants_a_loop() -> None:
    assert worst(rig(PLAIN, LOOP_BOX, loopbox={}), "loop-needed") == "stop"
    assert worst(rig("lead1: looped/out1 > load/in", looped={}, loopbox={}), "loop-needed") == "silent"


def test_turned_down_before_the_power_stage() -> None:
    links = "cord1: looped/send > loopbox/in; cord2: loopbox/out > looped/return; lead1: looped/out1 > load/in"
    assert worst(rig(links, loopbox={"volume": -10.0}), "loop-turns-down-drive") == "note"
    assert worst(rig(links), "loop-turns-down-drive") == "silent"
    assert worst(rig(PLAIN, amp={"master_down": True}), "loop-turns-down-drive") == "note"
    volume = Pedal("vol", "Vol", does="volume")
    before = rig(f"cord1: guitar/out > vol/in; cord2: vol/out > amp/input; {PLAIN}", volume, vol={"volume": -6.0})
    assert worst(before, "loop-turns-down-drive") == "note"


def test_feedback() -> None:
    case = rig(f"{PLAIN}; line: load/line > proc/in; cord1: proc/send > amp/input")
    assert worst(case, "feedback-path") == "stop"
    assert worst(mended(case, "feedback-path"), "feedback-path") == "silent"


def test_half_a_stereo() -> None:
    one = f"{PLAIN}; line: load/line > reverb/in; line1: reverb/outL > desk/in1"
    assert worst(rig(one), "stereo-half-used") == "note"
    desk = replace(DESK, inputs=DESK.inputs * 2)
    assert worst(rig(f"{one}; line2: reverb/outR > desk/in2", desk), "stereo-half-used") == "silent"
    assert worst(rig(one, reverb={"on": False}), "stereo-half-used") == "silent"


@pytest.mark.parametrize(("most", "severity"), [(20.0, "silent"), (19.9, "caution"), (None, "silent")])
def test_a_pedal_that_gets_too_much(most: float | None, severity: str) -> None:
    second = replace(DELAY, max_in=most, input_impedance=20_000_000)
    case = rig("cord1: guitar/out > drive/in; cord2: drive/out > delay/in", second, amp={})
    assert worst(case, "pedal-clips") == severity


def test_a_return_that_gets_too_much() -> None:
    links = "lead1: looped/out1 > load/in; line: load/line > looped/return"
    hot = rig(links, LOOPED, load={"line.pot": 0.0})
    assert worst(hot, "return-clips") == "caution"
    after = mended(hot, "return-clips")
    assert after.settings("load")["line.pot"] < 0


def test_line_level_into_a_pedal_for_guitars() -> None:
    links = f"{PLAIN}; line: load/line > delay/in; line1: delay/out > desk/in1"
    assert worst(rig(links, replace(DELAY, max_in=None)), "loop-level-mismatch") == "caution"
    assert worst(rig(links), "loop-level-mismatch") == "silent"


def test_a_microphone_that_gets_too_much() -> None:
    loud = rig(MIKED, CAB_8, replace(MIC, max_level=120), mic={"distance": 10.0})
    assert worst(loud, "mic-overload") == "caution"
    assert mended(loud, "mic-overload").settings("mic")["distance"] > 10
    assert worst(rig(MIKED, CAB_8), "mic-overload") == "silent"
    assert worst(rig(MIKED, CAB_8, replace(MIC, max_level=None)), "mic-overload") == "note"


def test_a_cabinet_and_a_microphone_are_a_speaker_and_an_ir_is_then_a_second() -> None:
    assert worst(rig(MIKED, CAB_8), "no-speaker-sound") == "fine"
    twice = rig(MIKED, CAB_8, desk={"in1.ir": True})
    assert worst(twice, "doubled-speaker-sound") == "caution"
    assert mended(twice, "doubled-speaker-sound").settings("desk")["in1.ir"] is False


def test_a_roll_off_alone_is_only_a_note() -> None:
    rolled = replace(LOAD, line_out=LineOut(roll_off="fixed", phantom="tolerates"))
    assert worst(rig(TAPPED, rolled), "no-speaker-sound") == "note"
    assert worst(rig(TAPPED), "no-speaker-sound") == "caution"


EARTHED = replace(DESK, earthed="yes")
LIFTED = replace(LOAD, line_out=LineOut(earth_lift=True, isolated="no", phantom="tolerates"))


def test_two_audio_earths_and_none() -> None:
    both = rig(TAPPED, EARTHED, LIFTED)
    assert worst(both, "earth-loop") == "note"
    assert worst(mended(both, "earth-loop"), "earth-loop") == "silent"
    apart = replace(LIFTED, line_out=replace(LIFTED.line_out, isolated="yes"))
    assert worst(rig(TAPPED, EARTHED, apart), "earth-loop") == "silent"
    none = rig(TAPPED, replace(DESK, earthed="no"), LIFTED, load={"line.lift": True})
    assert worst(none, "nothing-earthed") == "caution"
    assert worst(mended(none, "nothing-earthed"), "nothing-earthed") == "silent"
    assert worst(rig(TAPPED, EARTHED, LIFTED, load={"line.lift": True}), "nothing-earthed") == "silent"
    unknown = found(rig(TAPPED, LIFTED, load={"line.lift": True}), "nothing-earthed")[0]
    assert "Find out" in unknown.reason


def test_the_words_never_touch_mains_earth() -> None:
    said = found(rig(TAPPED, EARTHED, LIFTED), "earth-loop")[0].reason
    assert "Mains earth stays connected, always." in said


def test_a_box_without_air() -> None:
    case = rig(PLAIN, load={"air": "stacked"})
    assert worst(case, "no-air") == "note"
    mended(case, "no-air")
    assert worst(rig(PLAIN), "no-air") == "silent"


def test_hours_flat_out() -> None:
    assert worst(rig(PLAIN, amp={"flat_out": True}), "long-full-power") == "note"
    assert worst(rig(PLAIN), "long-full-power") == "silent"


def test_re_plugging_live_is_a_stop() -> None:
    case = rig(PLAIN, load={"line.pot": -3.0})
    run = REGISTRY["re-plug-live"].run

    def said(*changes: SetControl) -> list[str]:
        return [f.severity for f in run(Case(case, Preferences(), live_changes=changes))]

    assert said(SetControl("amp", "tap", "4")) == ["stop"]
    assert said(SetControl("load", "line.pot", -6.0)) == []
    assert said() == []


def test_air_is_no_socket_for_a_lead() -> None:
    with pytest.raises(HookupError, match="only a microphone goes there"):
        rig("cord1: cab/front > desk/in1")
    with pytest.raises(HookupError, match="stands before a cabinet"):
        rig("mic: mic/out > desk/in1")
    two = rig(f"{MIKED}; two: two/capsule > cab/front", replace(MIC, id="two", name="Two"))
    assert len(two.hookup.links) == 4
    assert len(CORDS) == 6


def test_a_lead_that_does_not_reach_or_has_no_room() -> None:
    from low_tide.core.rig.changes import Measure, changed

    case = rig(PLAIN)
    assert worst(changed(case, (Measure("lead1", 1.0),)), "lead-choice") == "silent"
    short = changed(case, (Measure("lead1", 1.1),))
    assert worst(short, "lead-choice") == "note"
    after = mended(short, "lead-choice")
    assert [(k.lead, k.reach) for k in after.hookup.links] == [("lead2", 1.1)]
    angled = replace(LEADS[3], angled="both")
    tight = changed(rig(PLAIN, angled), (Measure("lead1", None, True),))
    assert worst(tight, "lead-choice") == "note"
    assert mended(tight, "lead-choice").hookup.links[0].lead == angled.id
    with pytest.raises(HookupError, match="not in use here"):
        changed(case, (Measure("lead2", 1.0),))


def test_plugs_that_do_not_fit_name_what_would_join_them() -> None:
    locking = replace(LOAD, connector="locking")
    assert "locking speaker plug" in found(rig(PLAIN, locking), "jack-does-not-fit")[0].reason
    wrong = found(rig("xlr: amp/out1 > desk/in1"), "jack-does-not-fit")[0].reason
    assert "No adapter should exist" in wrong


def test_a_re_amplifier_is_on_before_the_amp_and_off_after_it() -> None:
    steps = [s.text for s in run_sheet(rig(REAMPED))]
    on, amp_on = (
        next(i for i, t in enumerate(steps) if t.startswith(words)) for words in ("Re-amp: mains on", "Amp: mains on")
    )
    off, amp_off = (
        next(i for i, t in enumerate(steps) if t.startswith(words))
        for words in ("Re-amp: mains off", "Amp: volume down")
    )
    assert on < amp_on < amp_off < off


@pytest.mark.parametrize(("volume", "said"), [(-20.0, "21.8 dB down"), (0.0, "1.76 dB down")])
def test_a_re_amplified_speaker_is_told_against_the_amp(volume: float, said: str) -> None:
    result = analyse(rig(REAMPED, CAB_8, reamp={"volume": volume}))
    assert result.speakers[0].watts == pytest.approx(50 * 10 ** (volume / 10))
    assert next(f.remark for f in result.facts if f.id == "speaker") == said
    louder = analyse(rig(REAMPED, CAB_8, replace(REAMP, inner_power=150), reamp={"volume": 0.0}))
    assert next(f.remark for f in louder.facts if f.id == "speaker") == "3.01 dB more than the amp gives"


def test_each_lead_into_a_stereo_cabinet_carries_its_own_amps_watts() -> None:
    four = replace(CAB, drivers=(Driver(8, 60, 98.0),) * 4, wiring="series", jack_wiring="mono_stereo", rating=240)
    second = replace(AMP, id="two", name="Two", modes=(PowerMode("full", 20),))
    links = "lead1: amp/out1 > cab/in1; lead2: two/out1 > cab/in2"
    result = analyse(rig(links, four, second, amp={"tap": "16"}, two={"tap": "16"}, cab={"halves": "stereo"}))
    assert {f.lead: f.text for f in result.flows} == {"lead1": "75 W", "lead2": "30 W"}
    speaker = result.speakers[0]
    assert (speaker.watts, speaker.clipped_db, speaker.clean_db) == (pytest.approx(105), pytest.approx(0), None)
    # The tighter half is told, not the mean over the cabinet.
    assert [s.name for s in result.stages if s.id.startswith("power")] == ["Cab, driver 1 power"]
    assert "37.5 / 60 W" in [s.value for s in result.stages]
