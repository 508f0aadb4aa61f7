"""A power stage that feels its load, the line behind it, and the interface that records it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.audio.rendering import coloured, picked_up, riff
from low_tide.core.audio.signals import exponential_sweep, pink_noise, sine
from low_tide.core.circuit.impedance import driver_impedance, typical_driver
from low_tide.core.circuit.network import input_impedance
from low_tide.core.frequency import frequency_grid
from low_tide.core.power.driven_load import driven, fitted, of_driver, of_resistor
from low_tide.core.power.speaker_network import outputs, real_network
from low_tide.core.rig.changes import SetControl, changed
from low_tide.core.rig.validation import checked
from low_tide.core.signal_path.levels import levels
from low_tide.core.signal_path.played import played
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.stand_ins import audio_interface
from low_tide.stand_ins.audio_interface import Line, record

RATE = 48_000
DRIVER = typical_driver(8.0)


def band_limited(seconds: float, seed: int = 1) -> np.ndarray:
    """Noise from 60 Hz to 15 kHz, peaks at 1: what no resampling takes anything off."""
    return pass_band(np.random.default_rng(seed).normal(size=int(seconds * RATE)))


def pass_band(samples: np.ndarray) -> np.ndarray:
    spectrum, f = np.fft.rfft(samples), np.fft.rfftfreq(len(samples), 1 / RATE)
    shaped = np.fft.irfft(spectrum * ((f > 60) & (f < 15_000)), len(samples))
    return np.asarray(shaped / np.abs(shaped).max())


@pytest.mark.parametrize("damping", [0.15, 0.6, 50.0])
def test_well_under_its_limit_it_is_the_linear_divider(damping: float) -> None:
    z_out, source = 8 / damping, 0.5 * band_limited(0.7)
    found = driven(source, z_out, 100.0, of_driver(DRIVER), RATE)
    wanted = coloured(source, lambda f: driver_impedance(DRIVER, f) / (driver_impedance(DRIVER, f) + z_out))
    middle = slice(RATE // 10, -RATE // 10)
    assert np.abs(found - wanted)[middle].max() < 0.01 * np.abs(wanted).max()
    resistor = driven(source, z_out, 100.0, of_resistor(8.0), RATE)
    assert resistor[middle] == pytest.approx((source * 8 / (8 + z_out))[middle], abs=2e-3)


@settings(max_examples=12)
@given(st.floats(0.1, 60), st.sampled_from([0.15, 0.6, 1.5]), st.booleans())
def test_it_never_goes_far_over_its_limit(drive: float, damping: float, reactive: bool) -> None:
    load = of_driver(DRIVER) if reactive else of_resistor(8.0)
    found = driven(drive * 30 * sine(110.0, 0.3, RATE), 8 / damping, 30.0, load, RATE)
    assert np.abs(found).max() <= 30.0 * 1.2
    assert np.isfinite(found).all()


def test_loads_differ_by_more_than_a_filter() -> None:
    """Driven hard, the jack is held whatever hangs on it; driven softly, a load's rise is heard in full."""
    tone = sine(85.0, 0.6, RATE)
    for drive, least, most in ((0.02, 10.0, 17.0), (20.0, -1.0, 2.0)):
        levels_of = [
            np.sqrt(np.mean(driven(drive * 30 * tone, 8 / 0.15, 30.0, load, RATE) ** 2))
            for load in (of_driver(DRIVER), of_resistor(8.0))
        ]
        assert least <= 20 * np.log10(levels_of[0] / levels_of[1]) <= most


@pytest.mark.parametrize(
    "name", ["silent-night", "quiet-hold", "split-fog", "tap-on-lead", "combo-bunks", "whole-ship"]
)
def test_what_an_amp_sees_is_fitted(name: str) -> None:
    rig, frequency = checked(HOOKUPS[name], GEAR), frequency_grid()
    net = real_network(rig, frequency)
    for output in outputs(rig):
        seen, z_out = input_impedance(net, output.node), output.tap / output.damping_factor
        _, fit = fitted(seen, frequency)
        off = 20 * np.log10(np.abs((seen / (seen + z_out)) / (fit / (fit + z_out))))
        assert np.abs(off).max() < 0.6, output.amp


@pytest.mark.parametrize("name", ["silent-night", "quiet-hold", "tap-on-lead", "re-amplified", "stereo-tails"])
def test_driven_it_brings_what_is_predicted(name: str) -> None:
    rig = checked(HOOKUPS[name], GEAR)
    point = levels(rig).line_points[0]
    dry = picked_up(riff(3.0))
    found = played(rig, point, dry, 20.0, RATE)
    assert found.samples is not None
    assert 20 * np.log10(np.abs(found.samples).max() / point.peak_v) == pytest.approx(0.6, abs=1.6)


def test_every_control_on_the_line_does_what_it_does_to_the_prediction() -> None:
    rig = checked(HOOKUPS["silent-night"], GEAR)
    dry = picked_up(riff(1.0))
    before = played(rig, levels(rig).line_points[0], dry, 10.0, RATE).samples
    down = changed(rig, (SetControl("groyne-r8", "line.pot", -14.0),))
    after = played(down, levels(down).line_points[0], dry, 10.0, RATE).samples
    assert before is not None
    assert after == pytest.approx(before * 10 ** (-10 / 20), rel=1e-6)
    filtered = changed(rig, (SetControl("groyne-r8", "line.filter", True),))
    dull = played(filtered, levels(filtered).line_points[0], dry, 10.0, RATE).samples
    assert dull is not None
    f = np.fft.rfftfreq(len(dull), 1 / RATE)
    high = (f > 8000) & (f < 11_000)
    assert np.abs(np.fft.rfft(dull))[high].mean() < 0.2 * np.abs(np.fft.rfft(before))[high].mean()


def test_where_nothing_arrives_it_says_why() -> None:
    rig = checked(HOOKUPS["empty-through"], GEAR)
    found = played(rig, levels(rig).line_points[0], np.zeros(10), 0.0, RATE)
    assert (found.samples, "no load" in found.why) == (None, True)


# ---------------------------------------------------------------- the interface


def of(samples: np.ndarray, **how: object) -> Line:
    usual = {
        "full_scale": 1.0,
        "gain_db": 0.0,
        "noise": -120.0,
        "earthing": "broken",
        "phantom": False,
        "own_clock": True,
    }
    return Line(samples, **{**usual, **how})  # type: ignore[arg-type]


def test_its_errors_are_its_own_and_stay() -> None:
    tone = 0.25 * sine(1000.0, 1.0, RATE)
    errors = set()
    for seed in ("a", "b", "c", "d"):
        found = [record(of(tone), RATE, seed, np.random.default_rng(n)) for n in (1, 2)]
        gains = [20 * np.log10(np.abs(f[2000:-2000]).max() / 0.25) for f in found]
        assert gains[0] == pytest.approx(gains[1], abs=0.01)
        assert gains[0] == pytest.approx(audio_interface.gain_error(seed), abs=0.01)
        assert abs(gains[0]) <= audio_interface.GAIN_ERROR_DB
        errors.add(round(gains[0], 3))
    assert len(errors) == 4


@pytest.mark.parametrize(("earthing", "dbfs"), [("loop", -58.0), ("broken", -98.0), ("nothing", -50.0)])
def test_hum_by_how_the_earths_lie(earthing: str, dbfs: float) -> None:
    found = record(of(np.zeros(8 * RATE), earthing=earthing, noise=-140.0), RATE, "x", np.random.default_rng(1))
    spectrum = np.abs(np.fft.rfft(found * np.hanning(len(found)))) / (np.hanning(len(found)).sum() / 2)
    mains = audio_interface.mains_hz("x")
    for k in (1, 2, 4, 8):
        line = spectrum[round(8 * (k * mains - 0.5)) : round(8 * (k * mains + 0.5))].max() / np.sqrt(2)
        assert 20 * np.log10(line) == pytest.approx(dbfs - 20 * np.log10(k), abs=1.6)


def test_it_clips_at_full_scale_and_dithers_in_steps() -> None:
    loud = record(of(3.0 * sine(300.0, 0.5, RATE)), RATE, "x", np.random.default_rng(1))
    assert loud.max() == pytest.approx(1.0, abs=1e-6)
    assert loud.min() == -1.0
    quiet = record(of(np.zeros(RATE), noise=-200.0, earthing="broken"), RATE, "x", np.random.default_rng(1))
    steps = quiet * 2**23
    assert steps == pytest.approx(np.round(steps), abs=1e-6)


def test_noise_comes_to_what_the_line_makes() -> None:
    found = record(of(np.zeros(2 * RATE), noise=-70.0), RATE, "x", np.random.default_rng(1))
    assert 20 * np.log10(found.std()) == pytest.approx(-73.0, abs=0.2)


def test_another_clock_drifts_and_its_own_does_not() -> None:
    clicks = np.zeros(20 * RATE)
    clicks[RATE :: 2 * RATE] = 0.5

    def places(own_clock: bool) -> np.ndarray:
        found = record(of(clicks, own_clock=own_clock), RATE, "another", np.random.default_rng(1))
        return np.array(
            [int(np.argmax(np.abs(found[i : i + RATE]))) + i for i in range(RATE // 2, 20 * RATE, 2 * RATE)]
        )

    own, other = np.diff(places(True)), np.diff(places(False))
    assert set(own.tolist()) == {2 * RATE}
    assert 0 < abs(float(other.mean()) / (2 * RATE) - 1) <= 31e-6


# ---------------------------------------------------------------- signals


@pytest.mark.parametrize("rate", [44_100, 96_000])
def test_signals_to_measure_with(rate: int) -> None:
    for made in (sine(440.0, 1.0, rate), pink_noise(1.0, rate), exponential_sweep(20.0, 20_000.0, 1.0, rate)):
        assert len(made) == rate
        assert np.abs(made).max() == pytest.approx(1.0)
        assert made[0] == pytest.approx(0.0, abs=1e-9)
    pink = np.abs(np.fft.rfft(pink_noise(4.0, rate))) ** 2
    f = np.fft.rfftfreq(4 * rate, 1 / rate)
    octaves = [pink[(f >= low) & (f < 2 * low)].sum() for low in (100, 200, 400, 800, 1600, 3200)]
    assert 10 * np.log10(max(octaves) / min(octaves)) < 1.0
