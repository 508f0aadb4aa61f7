"""Formulas against hand-computed and published values."""

from __future__ import annotations

import math

import numpy as np
import pytest

from low_tide.core.circuit.amplifier import peak_voltage, source_voltage, two_reading_output_impedance
from low_tide.core.circuit.attenuator import l_pad
from low_tide.core.circuit.cable import loop_resistance, ohms_per_metre
from low_tide.core.circuit.impedance import closed_box, driver_impedance, lowest_in_rating_band, typical_driver
from low_tide.core.frequency import difference_db, frequency_grid, programme_level_db, programme_weights
from low_tide.core.units import dbu, figure, level_figure, parallel, volts


@pytest.mark.parametrize(("ohms", "expected"), [(16, 40.0), (8, 28.284), (4, 20.0)])
def test_a_hundred_watts(ohms: float, expected: float) -> None:
    assert volts(100, ohms) == pytest.approx(expected, abs=1e-3)


def test_level_in_dbu() -> None:
    assert dbu(28.284) == pytest.approx(31.25, abs=0.005)


@pytest.mark.parametrize(
    ("db", "series", "shunt"), [(3, 2.34, 19.4), (6, 3.99, 8.04), (10, 5.47, 3.70), (20, 7.20, 0.889)]
)
def test_l_pad_table(db: float, series: float, shunt: float) -> None:
    a, b = l_pad(db, 8)
    assert (a, b) == pytest.approx((series, shunt), rel=3e-3)
    assert a + parallel(b, 8) == pytest.approx(8)


def test_l_pad_at_zero_and_below() -> None:
    assert l_pad(0, 8) == (0, math.inf)
    with pytest.raises(ValueError, match="negative"):
        l_pad(-1, 8)


def test_typical_driver_checkpoints() -> None:
    grid = frequency_grid()
    z = np.abs(driver_impedance(typical_driver(8), grid))
    at = {f: abs(driver_impedance(typical_driver(8), np.array([f]))[0]) for f in (85.0, 1e3, 5e3, 1e4)}
    assert at[85.0] == pytest.approx(50, abs=0.5)
    assert at[1e3] == pytest.approx(8.3, abs=0.05)
    assert at[5e3] == pytest.approx(27.6, abs=0.1)
    assert at[1e4] == pytest.approx(46.9, abs=0.1)
    assert lowest_in_rating_band(z.astype(complex), grid) == pytest.approx(6.70, abs=0.01)
    band = (grid > 150) & (grid < 2000)
    assert 350 < grid[band][z[band].argmin()] < 450


def test_closed_box_keeps_what_it_should() -> None:
    free = typical_driver(8)
    boxed = closed_box(free, 3.0)
    assert boxed.f_s == pytest.approx(2 * free.f_s)
    assert boxed.q_es == pytest.approx(2 * free.q_es)
    assert boxed.q_ms == pytest.approx(1 / (1 / (2 * free.q_ms) + 1 / 7))
    capacitance = [d.q_es / (2 * math.pi * d.f_s * d.r_e) for d in (free, boxed)]
    assert capacitance[0] == pytest.approx(capacitance[1])


def test_lead_table_and_section() -> None:
    assert loop_resistance(3, 14) == pytest.approx(2 * 3 * 8.29e-3 + 0.02)
    assert ohms_per_metre(2.08) == pytest.approx(8.29e-3, rel=2e-3)
    assert loop_resistance(3, 24) > 10 * loop_resistance(3, 14) - 0.2


@pytest.mark.parametrize(("damping", "expected"), [(0.15, 8.82), (1.5, 3.02), (50, 0.13)])
def test_load_changes_the_amp(damping: float, expected: float) -> None:
    found = difference_db(np.array([30 + 0j]), np.array([8 + 0j]), 8 / damping)
    assert found[0] == pytest.approx(expected, abs=0.01)


def test_source_puts_the_label_into_its_tap() -> None:
    e = source_voltage(50, 8, 0.6)
    assert (e * 8 / (8 + 8 / 0.6)) ** 2 / 8 == pytest.approx(50)
    assert source_voltage(50, 16, 0.6) / e == pytest.approx(math.sqrt(2))


def test_two_readings_find_the_output_impedance() -> None:
    e, z = 20.0, 13.0
    v = [e * r / (r + z) for r in (4.0, 8.0)]
    found = two_reading_output_impedance(4, v[0], 8, v[1])
    assert found.output_impedance == pytest.approx(z)
    assert found.low < z < found.high


@pytest.mark.parametrize(("v1", "v2"), [(5.0, 5.0), (5.0, 4.0), (5.0, 10.0), (5.0, 12.0)])
def test_two_readings_refuse_nonsense(v1: float, v2: float) -> None:
    with pytest.raises(ValueError, match="readings"):
        two_reading_output_impedance(4, v1, 8, v2)


def test_peak_is_never_under_the_square_wave() -> None:
    assert peak_voltage(50, 75, 8, 1.25) == pytest.approx(math.sqrt(800) * 1.25)
    assert peak_voltage(50, 125, 8, 1.0) == pytest.approx(math.sqrt(1000))


def test_programme_weights_are_a_mean() -> None:
    weights, grid = programme_weights(), frequency_grid()
    assert weights.sum() == pytest.approx(1)
    assert (len(grid), grid[0], grid[-1]) == (481, pytest.approx(20), pytest.approx(20_000))
    half = weights[np.argmin(abs(grid - 80))] / weights.max()
    assert half == pytest.approx(0.5, abs=0.01)
    mean = math.sqrt(weights @ abs(driver_impedance(typical_driver(8), grid)) ** 2)
    assert 12 < mean < 20  # why a curve must not decide a match
    assert programme_level_db(2 * grid.astype(complex), grid.astype(complex)) == pytest.approx(6.0206)


@pytest.mark.parametrize(
    ("value", "text"),
    [(3.9984, "4"), (0.0, "0"), (33.75, "33.8"), (1234, "1230"), (0.6782, "0.678"), (math.inf, "∞"), (-3.05, "−3.05")],
)
def test_figures(value: float, text: str) -> None:
    assert figure(value) == text


@pytest.mark.parametrize("value", [1.797693134860518e308, 1.7969e308, -1.7976931348623157e308, 1e16, 5e-324])
def test_figures_at_the_ends_of_what_a_number_can_be(value: float) -> None:
    assert float(figure(value).replace("−", "-")) == pytest.approx(value, rel=0.01, abs=1e-300)


def test_level_figures() -> None:
    assert [level_figure(v) for v in (3.81, -14.24, 0.01, -0.02)] == ["+3.8", "−14.2", "0.0", "0.0"]
