"""The line from the jack to the converter: levels, noise, and the best setting against trying every one."""

from __future__ import annotations

from dataclasses import replace
from itertools import product
from math import isfinite

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.judging.best_setting import judged_ladders
from low_tide.core.judging.judge import judge, worsened
from low_tide.core.rig.changes import SetControl, changed
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.signal_path.gain_staging import AWAY_DB, PLAYING_RANGE_DB, LineLadder, ladder, ladders
from low_tide.core.signal_path.levels import WINDOW_DBFS, levels
from low_tide.core.signal_path.noise import in_power, preamp_noise, thermal_noise
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS


def rig_of(name: str) -> Rig:
    return checked(HOOKUPS[name], GEAR)


def line_of(rig: Rig, n: int = 0) -> LineLadder:
    return ladder(rig, levels(rig).line_points[n])


# ---------------------------------------------------------------- noise


def test_published_figures_of_noise() -> None:
    assert thermal_noise(10_000) == pytest.approx(-112.7, abs=0.05)
    assert preamp_noise(30, 18, -125, -110) == pytest.approx(-108.2, abs=0.05)
    assert preamp_noise(0, 18, -125, -110) == pytest.approx(-110.0, abs=0.02)
    assert thermal_noise(0) == -np.inf


@given(st.floats(-150, 0), st.floats(-150, 0))
def test_noise_adds_in_power(a: float, b: float) -> None:
    both = float(in_power(a, b))
    assert max(a, b) <= both <= max(a, b) + 3.0104
    assert both == pytest.approx(float(in_power(b, a)))
    assert float(in_power(a, -np.inf)) == pytest.approx(a)


# ---------------------------------------------------------------- levels


@pytest.mark.parametrize("name", sorted(HOOKUPS))
def test_the_ladder_ends_at_the_level_the_verdict_rests_on(name: str) -> None:
    rig = rig_of(name)
    for point, found in zip(levels(rig).line_points, ladders(rig), strict=True):
        if point.dbfs is None:
            assert (found.rungs, found.peak, found.best) == ((), None, None)
            assert found.why
            continue
        assert found.peak == pytest.approx(point.dbfs, abs=1e-6)
        for rung in found.rungs:
            assert rung.loud - rung.soft == pytest.approx(PLAYING_RANGE_DB)
            assert rung.noise < rung.loud


def test_a_line_by_hand() -> None:
    """45 W on 8 Ω make +27.7 dBu; peaks of a reactive load lie 1.94 dB over that; the amp's noise 60 dB under."""
    found = line_of(rig_of("silent-night"))
    label = 20 * np.log10(np.sqrt(45 * 8) / 0.7746)
    jack, tap, pot, lead, _, converter = found.rungs
    assert jack.noise == pytest.approx(label - 60, abs=1e-6)
    assert tap.loud - jack.loud == pytest.approx(-20)
    assert pot.loud - tap.loud == pytest.approx(-4)
    assert pot.gate is not None
    assert pot.gate.value == -4
    amp_noise = lead.noise
    assert converter.noise == pytest.approx(float(in_power(amp_noise, in_power(-125.0, 20.0 - 110.0))), abs=1e-3)
    assert found.over_noise == pytest.approx(converter.loud - converter.noise)


@pytest.mark.parametrize("name", ["silent-night", "guide-track", "whole-ship", "cupboard"])
def test_turning_a_gate_moves_what_comes_after_it_and_nothing_before(name: str) -> None:
    rig = rig_of(name)
    for n, before in enumerate(ladders(rig)):
        for at, rung in enumerate(before.rungs):
            gate = rung.gate
            if gate is None or gate.down or at == 0 or float(gate.value) - 3 < gate.low:
                continue
            after = line_of(changed(rig, (SetControl(gate.unit, gate.control, float(gate.value) - 3),)), n)
            moved = [a.loud - b.loud for a, b in zip(after.rungs, before.rungs, strict=True)]
            assert moved[:at] == pytest.approx([0] * at, abs=1e-9)
            assert all(-3 - 1e-9 <= m <= 1e-9 for m in moved[at:])


# ---------------------------------------------------------------- best setting


def tried_one_by_one(rig: Rig, n: int) -> list[tuple[float, LineLadder, dict[tuple[str, str], float | bool]]]:
    """Every setting of the gates, each as a hook-up of its own, that keeps every ceiling and the window."""
    found = line_of(rig, n)
    gates = [r.gate for r in found.rungs[1:] if r.gate and not r.gate.taped]
    kept = []
    for values in product(*(g.positions for g in gates)):
        settings = {(g.unit, g.control): v for g, v in zip(gates, values, strict=True)}
        line = line_of(changed(rig, tuple(SetControl(u, c, v) for (u, c), v in settings.items())), n)
        assert line.peak is not None
        assert line.over_noise is not None
        free = [r.loud <= r.ceiling.dbu - AWAY_DB + 1e-9 for r in line.rungs if r.ceiling]
        if all(free) and WINDOW_DBFS[0] - 1e-9 <= line.peak <= WINDOW_DBFS[1] + 1e-9:
            kept.append((line.over_noise, line, settings))
    return kept


@pytest.mark.parametrize(
    ("name", "n", "unit", "changes"),
    [
        ("tap-on-lead", 0, "shingle-2", {}),
        ("cupboard", 0, "skerry-4", {}),
        ("tap-behind-pad", 0, "skerry-4", {}),
        ("cupboard", 0, "skerry-4", {"input_noise": -90.0}),
        ("tap-behind-pad", 0, "skerry-4", {"input_noise": -80.0, "converter_noise": -75.0}),
    ],
)
def test_the_best_setting_is_that_of_all(name: str, n: int, unit: str, changes: dict[str, float]) -> None:
    interface = GEAR[unit]
    inputs = tuple(replace(i, **changes) for i in interface.inputs)  # type: ignore[union-attr,arg-type]
    gear = {**GEAR, unit: replace(interface, inputs=inputs)}  # type: ignore[arg-type]
    rig = checked(HOOKUPS[name], gear)
    all_of_them = tried_one_by_one(rig, n)
    found = line_of(rig, n)
    most = max(over for over, _, _ in all_of_them)
    best = found.best
    after = line_of(changed(rig, best.changes), n) if best else found
    assert after.over_noise is not None
    assert after.peak is not None
    assert after.over_noise >= most - 0.0101
    gain = next(r.gate for r in after.rungs[::-1] if r.gate)
    least = min(
        float(line.rungs[-1].gate.value)  # type: ignore[union-attr]
        for over, line, _ in all_of_them
        if over >= most - 0.01
    )
    assert float(gain.value) == least
    if best:
        assert best.peak == pytest.approx(after.peak)
        assert best.peak - best.noise == pytest.approx(after.over_noise)
        assert line_of(changed(rig, best.changes), n).best is None


@given(
    st.floats(-40, 0), st.floats(0, 40), st.sampled_from(["silent-night", "guide-track", "split-fog", "re-amplified"])
)
def test_a_best_setting_keeps_every_bound(pot: float, gain: float, name: str) -> None:
    rig = rig_of(name)
    line = line_of(rig)
    gates = [r.gate for r in line.rungs[1:] if r.gate and not r.gate.down]
    wanted = [min(max(v, g.low), g.high) for g, v in zip(gates, (pot, gain), strict=False)]
    moved = changed(rig, tuple(SetControl(g.unit, g.control, round(v)) for g, v in zip(gates, wanted, strict=False)))
    found = line_of(moved)
    assert found.no_best == ""
    after = line_of(changed(moved, found.best.changes)) if found.best else found
    assert after.peak is not None
    assert WINDOW_DBFS[0] - 1e-6 <= after.peak <= WINDOW_DBFS[1] + 1e-6
    for rung in after.rungs:
        if rung.ceiling and isfinite(rung.ceiling.dbu):
            assert rung.loud <= rung.ceiling.dbu - AWAY_DB + 1e-6
    assert after.over_noise is not None
    assert found.over_noise is not None


def test_a_taped_control_is_not_moved() -> None:
    hookup = HOOKUPS["split-fog"]
    units = tuple(replace(p, guarded=("line.pot",)) if p.unit == "gabion-40" else p for p in hookup.units)
    found = line_of(checked(replace(hookup, units=units), GEAR))
    assert found.best is not None
    assert [c.unit for c in found.best.changes if isinstance(c, SetControl)] == ["skerry-4"]


def test_where_none_exists_it_says_what_forbids_it() -> None:
    gear = dict(GEAR)
    skerry = GEAR["skerry-4"]
    low = tuple(replace(i, max_level=-30.0, most_gain=i.least_gain, pad=None) for i in skerry.inputs)  # type: ignore[union-attr]
    gear["skerry-4"] = replace(skerry, inputs=low)  # type: ignore[arg-type]
    found = line_of(checked(HOOKUPS["tap-on-lead"], {**GEAR, "shingle-2": replace(GEAR["shingle-2"], inputs=low)}))  # type: ignore[arg-type]
    assert found.best is None
    assert "clips at −30.0 dBu with everything before it at its least" in found.no_best
    deaf = tuple(replace(i, max_level=40.0, most_gain=i.least_gain, pad=None) for i in skerry.inputs)  # type: ignore[union-attr]
    found = line_of(checked(HOOKUPS["tap-behind-pad"], {**GEAR, "skerry-4": replace(skerry, inputs=deaf)}))  # type: ignore[arg-type]
    assert "With everything up the peaks reach" in found.no_best


@pytest.mark.parametrize("name", sorted(HOOKUPS))
def test_a_best_setting_that_is_offered_makes_nothing_worse(name: str) -> None:
    rig = rig_of(name)
    judged = judge(rig)
    for found in judged_ladders(rig):
        if found.best:
            assert worsened(found.best.changes, judged) == ()
