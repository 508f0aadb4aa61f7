"""Checks around the line: digital clocks, screens cut at one end, equalisers, what a take says against its hook-up."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.audio.correction import bands_gain, fit_graphic, graphic, programme_gain, without_mean
from low_tide.core.frequency import frequency_grid, programme_weights
from low_tide.core.gear.digital import DigitalPort
from low_tide.core.gear.pedal import OCTAVES
from low_tide.core.inventory import Lead, Pedal
from low_tide.core.judging.checks.earth import earthing_at
from low_tide.core.judging.checks.registry import Case
from low_tide.core.judging.hum_steps import hum_steps, lifts
from low_tide.core.judging.judge import judge, with_fixes
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import AddUnit, Connect, Disconnect, SetControl, changed
from low_tide.core.rig.hookup import End
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.signal_path.levels import levels
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS


def found(rig: Rig, check: str) -> list[Any]:
    return [f for f in judge(rig).findings if f.id == check]


def with_gear(name: str, *changes: Any, **gear: Any) -> Rig:
    rig = checked(HOOKUPS[name], {**GEAR, **gear})
    return changed(rig, changes) if changes else rig


# ---------------------------------------------------------------- clocks


def two_units(*settings: SetControl, loop: bool = False) -> Rig:
    """A processor and an interface joined by a digital lead, and by a second one back again."""
    ports = (DigitalPort("digital in", "in"), DigitalPort("digital out", "out"))
    gear = {
        "strandline": replace(GEAR["strandline"], digital=ports),  # type: ignore[arg-type]
        "skerry-4": replace(GEAR["skerry-4"], digital=ports),  # type: ignore[arg-type]
        "coax": Lead("coax", "Coaxial lead", construction="screened", plug_a="rca", plug_b="rca"),
        "coax-2": Lead("coax-2", "Coaxial lead 2", construction="screened", plug_a="rca", plug_b="rca"),
    }
    back = (Connect("coax-2", End("skerry-4", "dig2"), End("strandline", "dig1")),) if loop else ()
    there = Connect("coax", End("strandline", "dig2"), End("skerry-4", "dig1"))
    return with_gear("processor-around", there, *back, *settings, **gear)


@pytest.mark.parametrize(
    ("settings", "says"),
    [
        ((), ["Two clocks"]),
        ((("skerry-4", "clock", "dig1"),), ["One clock, Strandline's, at 48 kHz"]),
        ((("skerry-4", "clock", "dig1"), ("skerry-4", "rate", "96")), ["Two rates"]),
        ((("skerry-4", "rate", "44.1"),), ["Two clocks", "Two rates"]),
        ((("strandline", "clock", "dig1"),), ["Nobody leads"]),
    ],
)
def test_one_clock_leads_at_one_rate(settings: tuple[tuple[str, str, str], ...], says: list[str]) -> None:
    rig = two_units(*(SetControl(*each) for each in settings))
    told = found(rig, "clock-source")
    assert [any(f.text.startswith(each) for f in told) for each in says] == [True] * len(says)
    assert len(told) == len(says)
    for each in with_fixes(judge(rig)).findings:
        if each.id == "clock-source" and each.severity == "caution":
            assert each.fix is not None, each.text


def test_clocks_that_follow_each_other_are_led_by_nobody() -> None:
    rig = two_units(SetControl("skerry-4", "clock", "dig1"), SetControl("strandline", "clock", "dig1"), loop=True)
    assert {f.text[:12] for f in found(rig, "clock-source")} == {"Nobody leads"}
    led = changed(rig, (SetControl("strandline", "clock", "own"),))
    assert {f.severity for f in found(led, "clock-source")} == {"fine"}


def test_a_digital_socket_and_a_line_do_not_speak_the_same() -> None:
    rig = two_units()
    wrong = changed(
        rig,
        (
            Disconnect("coax"),
            Disconnect("line-1"),
            Connect("line-1", End("groyne-r8", "line"), End("skerry-4", "dig1")),
        ),
    )
    assert [f.severity for f in found(wrong, "not-digital")] == ["caution"]
    assert found(rig, "not-digital") == []
    assert [p.input.socket for p in levels(rig).line_points] == ["in3", "in4"]


# ---------------------------------------------------------------- screens


CUT = Lead("cut", "Cut lead", construction="balanced", screen="one", length=5.0, gauge=24, plug_a="trs", plug_b="trs")


def test_a_screen_cut_at_one_end_breaks_the_loop() -> None:
    rig = with_gear("silent-night", cut=CUT)
    assert found(rig, "earth-loop")
    assert earthing_at(Case(rig, Preferences()), End("skerry-4", "in3")) == "loop"
    swapped = changed(rig, (Disconnect("line-1"), Connect("cut", End("groyne-r8", "line"), End("skerry-4", "in3"))))
    assert found(swapped, "earth-loop") == []
    assert found(swapped, "screen-cut") == []
    assert earthing_at(Case(swapped, Preferences()), End("skerry-4", "in3")) == "broken"
    assert any(
        f"Use {CUT.name} instead" in step.text for step in hum_steps(Case(rig, Preferences()), End("skerry-4", "in3"))
    )


def test_it_is_no_way_back_for_what_is_not_balanced_and_brings_no_phantom() -> None:
    jack = replace(CUT, plug_a="jack", plug_b="jack", construction="screened")
    rig = with_gear("pedals-in-front", cut=jack)
    link = next(k for k in rig.hookup.links if k.b and rig.socket(k.a).level == "instrument")
    cut = changed(rig, (Disconnect(link.lead), Connect("cut", link.a, link.b)))
    assert [f.severity for f in found(cut, "screen-cut")] == ["caution"]
    xlr = replace(CUT, plug_a="xlr", plug_b="xlr")
    needs = with_gear("tap-on-lead", cut=xlr)
    assert found(needs, "phantom-needed") == []
    swapped = changed(needs, (Disconnect("xlr-1"), Connect("cut", End("winkle-1", "line"), End("shingle-2", "in1"))))
    expected = GEAR["winkle-1"].line_out.phantom == "needs"  # type: ignore[union-attr]
    assert bool(found(swapped, "phantom-needed")) == expected


@pytest.mark.parametrize("name", sorted(HOOKUPS))
def test_what_to_try_against_hum_never_touches_mains_earth_and_changes_what_is_there(name: str) -> None:
    rig = checked(HOOKUPS[name], GEAR)
    case = Case(rig, Preferences())
    for point in levels(rig).line_points:
        steps = hum_steps(case, point.input)
        assert steps
        for step in steps:
            assert "mains earth" not in step.text.lower()
            if step.fix:
                assert not any(isinstance(c, AddUnit) for c in step.fix.changes)
                changed(rig, step.fix.changes)
        for lift in lifts(case, point.input):
            assert rig.settings(lift.unit)[lift.control] == lift.on


# ---------------------------------------------------------------- equalisers


@given(st.lists(st.floats(-12, 12), min_size=8, max_size=8))
def test_fixed_bands_fit_what_such_bands_made(gains: list[float]) -> None:
    f = frequency_grid()
    # Neighbours that pull apart by their whole reach are no tone anybody wants back; the others come back.
    smooth = tuple(round(float(g)) / 2 for g in np.convolve(gains, (0.25, 0.5, 0.25), "same"))
    target = bands_gain(graphic(OCTAVES, smooth), f, 192_000)
    made = fit_graphic(target, OCTAVES, 12)
    assert made.residual < 0.6
    assert all(abs(band.gain) <= 12 and band.gain * 2 == round(band.gain * 2) for band in made.bands)
    assert made.target == pytest.approx(without_mean(target).tolist())


def test_bands_that_are_flat_are_none_and_level_is_that_of_the_programme() -> None:
    assert fit_graphic(np.full(481, 7.0), OCTAVES, 12).bands == ()
    assert programme_gain(()) == 0
    bands = graphic((1000.0,), (6.0,))
    power = programme_weights() @ 10 ** (bands_gain(bands, frequency_grid(), 192_000) / 10)
    assert programme_gain(bands) == pytest.approx(10 * np.log10(power))
    with pytest.raises(ValueError, match="without bands"):
        fit_graphic(np.zeros(481), (), 12)


def equalised(**settings: float | bool) -> Rig:
    """The line of the silent hook-up through the equaliser."""
    line = End("groyne-r8", "line"), End("skerry-4", "in3")
    changes = (
        AddUnit("cuttlebone"),
        Disconnect("line-1"),
        Connect("line-1", line[0], End("cuttlebone", "in")),
        Connect("line-2", End("cuttlebone", "out"), line[1]),
        *(SetControl("cuttlebone", control, value) for control, value in settings.items()),
    )
    return with_gear("silent-night", *changes)


def test_an_equaliser_sets_the_level_and_bypassed_it_does_not() -> None:
    plain = levels(equalised()).line_points[0].dbfs
    assert plain is not None
    assert levels(equalised(volume=-6.0)).line_points[0].dbfs == pytest.approx(plain - 6)
    assert levels(equalised(volume=-6.0, on=False)).line_points[0].dbfs == pytest.approx(plain)
    lifted = levels(equalised(**{"band.1000": 6.0})).line_points[0].dbfs
    assert lifted == pytest.approx(plain + programme_gain(graphic((1000.0,), (6.0,))))


def test_two_bands_at_one_frequency_are_refused() -> None:
    with pytest.raises(ValueError, match="two of them are at the same frequency"):
        Pedal("eq", "Equaliser", does="equaliser", bands=(100.0, 100.0))
