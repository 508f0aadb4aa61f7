"""What a load does to the amp's output: checkpoints, what a pad leaves, corrections, renders."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import signal

from low_tide.core.audio import correction as eq
from low_tide.core.audio import rendering as render
from low_tide.core.frequency import frequency_grid, programme_weights
from low_tide.core.gear.base import DriverData
from low_tide.core.gear.load import CurveMode
from low_tide.core.inventory import Attenuator, Load
from low_tide.core.power import load_feel as feel
from low_tide.demo.gear import GEAR
from tests.core.build import CAB, LOAD, REAMP, rig
from tests.examples import many

REACTIVE = Load("coil", "Coil", behaviour="reactive")
TAPS = (4.0, 8.0, 16.0)
F = frequency_grid()
BAND = (F >= 60) & (F <= 10_000)


def of(ohms: float, id: str = "other") -> feel.Contender:
    return replace(feel.resistor(ohms), id=id, nominal=8.0)


@pytest.mark.parametrize(("damping", "lift"), [(0.15, 8.82), (1.5, 3.02), (50, 0.13)])
def test_thirty_ohms_against_eight(damping: float, lift: float) -> None:
    found = feel.feel_set((feel.resistor(8), of(30)), TAPS, damping).feels[1]
    assert found.difference[100] == pytest.approx(lift, abs=0.005)
    assert (found.bass, found.presence, found.level) == (pytest.approx(lift, abs=0.005),) * 3
    assert found.tap == 8


def test_a_reference_differs_from_itself_in_nothing() -> None:
    found = feel.feel_set(feel.contenders(GEAR), TAPS, 0.6, "turnstone-212")
    (own,) = (f for f in found.feels if f.id == "turnstone-212")
    assert np.abs(own.difference).max() < 1e-9
    assert own.words == "The reference."
    with pytest.raises(KeyError):
        feel.feel_set(feel.contenders(GEAR), TAPS, 0.6, "nothing")


def test_every_load_in_every_mode_is_there() -> None:
    found = {c.id: c for c in feel.contenders(GEAR)}
    modes = [c for c in found.values() if c.unit == "revetment-16"]
    assert len(modes) == 8
    assert {c.nominal for c in modes} == {8.0, 16.0}
    assert found["gabion-40|8"].impedance(F) == pytest.approx(np.full(len(F), 8 + 0j))
    assert {c.kind for c in found.values()} == {"resistor", "load", "cabinet"}
    assert not found["groyne-r8|8|"].typical
    archived = {"coil": replace(REACTIVE, archived=True)}
    assert len(feel.contenders(archived)) == 1


def test_a_mode_changes_what_it_names_and_no_more() -> None:
    box = replace(REACTIVE, modes=(CurveMode("plain"), CurveMode("bright", DriverData(l_2=2.0))))
    plain, bright = (c.impedance(F) for c in feel.contenders({"coil": box})[1:])
    bare = feel.contenders({"coil": REACTIVE})[1].impedance(F)
    assert plain == pytest.approx(bare)
    top, bass = int(np.argmin(np.abs(F - 3000))), int(np.argmin(np.abs(F - 85)))
    assert abs(bright[top]) > 1.3 * abs(plain[top])
    assert abs(bright[bass]) == pytest.approx(abs(plain[bass]), rel=0.02)
    seen = rig("lead1: amp/out1 > coil/in", box, coil={"curve": "bright"})
    assert seen.settings("coil")["curve"] == "bright"
    with pytest.raises(ValueError, match="same name"):
        replace(box, modes=(CurveMode("x"), CurveMode("x")))


def test_a_cabinet_counts_with_all_its_drivers() -> None:
    found = feel.contenders({"cab": CAB})[1]
    low = int(np.argmin(np.abs(F - 400)))
    assert found.nominal == 8
    assert abs(found.impedance(F)[low]) == pytest.approx(6.7, abs=0.05)


def test_summaries_in_words() -> None:
    words = feel.summary_words(4.04, 97, 6.0, 1.5, "it")
    assert words == (
        "Against it: 4 dB more at the bass peak (97 Hz), 6 dB more from 2 to 5 kHz, 1.5 dB louder over all."
    )
    assert "2 dB less from 2 to 5 kHz" in feel.summary_words(0, 97, -2, 0, "it")
    assert feel.summary_words(0.1, 80, -0.2, 0.1, "it") == "No difference one would hear from it."


def test_a_resistive_pad_takes_the_curve_away_step_by_step() -> None:
    pad = Attenuator("pad", "Pad")
    cabinet = feel.contenders({"coil": REACTIVE})[1]
    found = feel.pad_set(pad, cabinet, 0.15)
    steps = {s.down_db: s for s in found.steps}
    for key in ("bass", "presence", "moves"):
        values = [getattr(s, key) for s in found.steps]
        assert values == sorted(values, reverse=True), key
    assert steps[20.0].moves <= 0.10
    assert steps[0.0].bass > 10
    assert steps[30.0].bass < 0.5
    weights = programme_weights()
    assert weights @ 10 ** (np.array(steps[10.0].response) / 10) == pytest.approx(1)


def test_a_reactive_pad_of_the_same_curve_leaves_it_alone() -> None:
    pad = Attenuator("pad", "Pad", behaviour="reactive")
    found = feel.pad_set(pad, feel.contenders({"coil": REACTIVE})[1], 0.6)
    first = np.array(found.steps[0].response)
    for step in found.steps[1:]:
        assert np.array(step.response) == pytest.approx(first, abs=1e-6)


# Correction


@pytest.mark.parametrize(
    ("band", "at", "gain"),
    [
        (eq.Band("peak", 1000, 6, 1), 1000, 6),
        (eq.Band("low shelf", 200, -9, 0.71), 20, -9),
        (eq.Band("low shelf", 200, -9, 0.71), 20_000, 0),
        (eq.Band("high shelf", 2000, 4, 0.71), 20_000, 4),
        (eq.Band("high shelf", 2000, 4, 0.71), 20, 0),
        (eq.Band("low shelf", 200, 6, 0.71), 200, 3),
    ],
)
def test_bands_do_what_their_names_say(band: eq.Band, at: float, gain: float) -> None:
    assert eq.band_gain(band, np.array([float(at)]))[0] == pytest.approx(gain, abs=0.05)


@pytest.mark.parametrize("rate", eq.RATES)
@pytest.mark.parametrize("kind", ["peak", "low shelf", "high shelf"])
def test_a_band_is_told_as_the_filter_that_runs(kind: Literal["peak", "low shelf", "high shelf"], rate: int) -> None:
    """Against the impulse response of a biquad made of the same cookbook by other means: the bilinear transform."""
    band = eq.Band(kind, 6000, 9, 0.71)
    a, w0 = 10 ** (band.gain / 40), np.tan(np.pi * band.frequency / rate)
    analogue = {
        "peak": ([1, a / band.q, 1], [1, 1 / (a * band.q), 1]),
        "low shelf": ([a, a**1.5 / band.q, a * a], [a, np.sqrt(a) / band.q, 1]),
        "high shelf": ([a * a, a**1.5 / band.q, a], [1, np.sqrt(a) / band.q, a]),
    }[kind]
    b, under = signal.bilinear(*([c / w0 ** (2 - i) for i, c in enumerate(each)] for each in analogue), fs=0.5)
    grid = np.array([50.0, 1000.0, 6000.0, 12_000.0, 19_000.0])
    _, response = signal.freqz(b, under, grid, fs=rate)
    assert eq.band_gain(band, grid, rate) == pytest.approx(20 * np.log10(np.abs(response)), abs=1e-6)


def test_near_half_the_rate_a_digital_band_is_not_the_analogue_one() -> None:
    band, at = eq.Band("peak", 10_000, 12, 1), np.array([18_000.0])
    assert eq.band_gain(band, at, 44_100)[0] < eq.band_gain(band, at, 96_000)[0] - 2
    target = eq.bands_gain((band,), F, 44_100)
    assert eq.fit_bands(target, 44_100).residual < eq.fit_bands(target, 96_000).residual
    assert eq.fit_bands(target, 44_100).rate == 44_100


def test_a_target_made_of_bands_is_found_again() -> None:
    made = (eq.Band("peak", 95, 6, 1.5), eq.Band("high shelf", 2500, 5, 0.71))
    found = eq.fit_bands(eq.bands_gain(made, F))
    assert found.residual < 0.15
    assert found.worst < 0.4
    assert len(found.bands) <= eq.MOST_BANDS


@pytest.mark.parametrize("damping", [0.15, 0.6, 1.5])
@pytest.mark.parametrize("pair", [("groyne-r8|8|", "turnstone-212"), ("resistor", "revetment-16|8|bright")])
def test_one_load_is_made_to_sound_like_another(damping: float, pair: tuple[str, str]) -> None:
    found = {f.id: np.array(f.difference) for f in feel.feel_set(feel.contenders(GEAR), TAPS, damping).feels}
    made = eq.fit_bands(found[pair[1]] - found[pair[0]])
    assert made.residual < 0.5
    assert made.worst < 1.5
    assert 1 <= len(made.bands) <= 6
    assert all(40 <= b.frequency <= 12_000 and abs(b.gain) <= 24 and b.q > 0 for b in made.bands)


def test_nothing_to_correct_needs_no_band() -> None:
    nothing = eq.fit_bands(np.zeros(len(F)))
    assert nothing.bands == ()
    assert eq.correction_words(nothing, "A", "B") == "A and B sound alike on this amp: nothing to correct."
    one = eq.fit_bands(eq.band_gain(eq.Band("high shelf", 2000, 6, 0.71), F))
    assert eq.correction_words(one, "A", "B").startswith("1 band makes A sound like B to within 0")
    assert eq.correction_words(one, "A", "B").endswith("from 60 Hz to 10 kHz, as digital filters at 48 kHz.")


@pytest.mark.parametrize("rate", eq.RATES)
@pytest.mark.parametrize("damping", [0.15, 1.5])
def test_the_filter_reproduces_its_target(rate: int, damping: float) -> None:
    found = {f.id: np.array(f.difference) for f in feel.feel_set(feel.contenders(GEAR), TAPS, damping).feels}
    target = found["whimbrel-412"] - found["resistor"]
    impulse = eq.minimum_phase_fir(target, rate)
    size = 1 << 19
    got = 20 * np.log10(np.abs(np.fft.rfft(impulse, size)))
    at = np.interp(F[BAND], np.fft.rfftfreq(size, 1 / rate), got)
    assert np.abs(at - eq.without_mean(target)[BAND]).max() < 0.2
    # Minimum phase: most of the energy comes first.
    assert np.sum(impulse[: rate // 100] ** 2) / np.sum(impulse**2) > 0.9


def test_the_filter_of_nothing_is_nothing() -> None:
    impulse = eq.minimum_phase_fir(np.full(len(F), 7.0), 48_000)
    assert impulse[0] == pytest.approx(1.0, abs=1e-6)
    assert np.abs(impulse[1:]).max() < 1e-6


# Rendering


def test_the_built_in_take_is_the_same_every_time() -> None:
    first, again = (render.riff(2.0) for _ in range(2))
    assert (first == again).all()
    assert len(first) == 96_000
    assert np.abs(first).max() == 1.0


def test_a_flat_response_changes_nothing_but_the_level() -> None:
    dry = render.riff(1.0)
    half = render.coloured(dry, lambda f: np.full(len(f), 0.5 + 0j))
    # Under 5 Hz nothing is kept, which is what is left over.
    assert half == pytest.approx(0.5 * dry, abs=0.02)


@pytest.mark.parametrize("frequency", [100.0, 1000.0, 5000.0])
def test_a_tone_gets_the_gain_of_the_response(frequency: float) -> None:
    t = np.arange(render.RATE) / render.RATE
    tone = np.sin(2 * np.pi * frequency * t)
    load = feel.contenders({"coil": REACTIVE})[1]
    out = render.coloured(tone, lambda f: feel.jack_response(load, 8, 0.6, f))
    wanted = abs(feel.jack_response(load, 8, 0.6, np.array([frequency]))[0])
    middle = slice(render.RATE // 4, 3 * render.RATE // 4)
    assert np.sqrt(2 * np.mean(out[middle] ** 2)) == pytest.approx(wanted, rel=0.01)


@settings(max_examples=many(10))
@given(st.floats(-20, 40))
def test_the_power_stage_never_exceeds_its_limit(drive: float) -> None:
    tone = np.sin(2 * np.pi * 220 * np.arange(9600) / render.RATE)
    driven = render.power_stage(tone, drive)[480:-480]
    # The soft limit lies under 1; coming back to the lower rate overshoots a little where an edge is steep.
    assert 0.01 < np.abs(driven).max() < 1.15


def test_more_drive_squeezes_more() -> None:
    dry = render.riff(1.0)

    def crest(drive: float) -> float:
        out = render.power_stage(dry, drive)
        return float(np.abs(out).max() / np.sqrt(np.mean(out**2)))

    assert crest(24) < crest(6) < crest(-12)


def test_the_cab_filter_is_a_band() -> None:
    gain = 20 * np.log10(np.abs(render.cab_filter(np.array([20.0, 120.0, 1000.0, 15_000.0]))))
    assert gain[0] < gain[2] - 15
    assert gain[3] < gain[2] - 30
    assert abs(gain[1] - gain[2]) < 6


def test_a_reamps_load_is_a_contender_too() -> None:
    found = feel.contenders({"reamp": REAMP, "load": LOAD})
    assert [c.unit for c in found[1:]] == ["reamp", "load"]
