"""Curves as text: what is written can be read, and what is wrong is refused with its line."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from low_tide.core.circuit.impedance import MeasuredCurve, driver_impedance, minimum_phase, phase_doubt, typical_driver
from low_tide.core.frequency import frequency_grid
from low_tide.formats.curves import (
    read_curve,
    read_curve_csv,
    read_frd,
    read_zma,
    write_curve_csv,
    write_frd,
    write_zma,
)
from low_tide.formats.sentences import FormatError

F = frequency_grid()
Z = driver_impedance(typical_driver(8), F)


@pytest.mark.parametrize("text", [write_zma(F, Z, "a title"), write_curve_csv(F, Z)])
def test_what_is_written_reads_the_same(text: str) -> None:
    read = read_curve(text.encode())
    assert read.warnings == ()
    assert np.abs(read.curve.impedance(F) - Z).max() < 1e-3


def test_zma_as_programs_write_it() -> None:
    text = "* a comment\nFreq(Hz)  Z(ohm)  Phase(deg)\n20, 8.0, 361.0\n\n100\t9 \t-10 ; at the end\n1000 7 5\n"
    curve = read_zma(text.encode()).curve
    assert curve.frequency == (20, 100, 1000)
    # A phase past a full turn is the same phase.
    assert math.degrees(math.atan2(curve.imaginary[0], curve.real[0])) == pytest.approx(1.0)
    assert math.hypot(curve.real[1], curve.imaginary[1]) == pytest.approx(9)


@pytest.mark.parametrize("separator", [",", ";", "\t"])
def test_csv_by_its_headings_in_any_order(separator: str) -> None:
    rows = ["Phase (deg)|Freq [Hz]|Z [ohm]", "-30|100|8", "45|1000|10"]
    curve = read_curve_csv("\n".join(rows).replace("|", separator).encode()).curve
    assert curve.frequency == (100, 1000)
    assert curve.real[1] == pytest.approx(10 * math.cos(math.pi / 4))


def test_a_missing_phase_is_reconstructed_and_marked() -> None:
    read = read_zma("\n".join(f"{f:.5g} {abs(z):.6g}" for f, z in zip(F, Z, strict=True)).encode())
    assert read.curve.reconstructed
    assert "phase" in read.warnings[0]
    off = np.angle(read.curve.impedance(F) / Z, deg=True)
    assert np.abs(off[(F > 40) & (F < 10_000)]).max() < 2.5


def test_minimum_phase_of_a_coil_and_of_a_resistor() -> None:
    coil = minimum_phase(F, 2 * np.pi * F * 1e-3)
    middle = (F > 100) & (F < 5000)
    assert np.degrees(coil[middle]) == pytest.approx(90, abs=3)
    assert minimum_phase(F, np.full(len(F), 8.0)) == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", "The file holds no curve"),
        ("20 8 0", "at least two lines"),
        ("20 8 0\n10 8 0", "Line 2: the frequency 10 Hz does not rise"),
        ("0 8 0\n10 8 0", "Line 1: the frequency must be over 0 Hz."),
        ("20 8 0\n30 x 0", "Line 2: “x” is not a number."),
        ("20 8 0\n30 nan 0", "Line 2: “nan” is not a finite number."),
        ("20 8 0\n30 -8 0", "Line 2: the impedance must be over 0 Ω."),
        ("20 8 0\n30 8 0\n40 8 120", "Line 3: the real part is -4 Ω; no load gives power back."),
        ("20 8 0\n30", "Line 2: a frequency and a value are wanted"),
        ("20 8 0\n30 8", "Line 2: it has another number of columns"),
        ("\x00\x01", "This is not a text file."),
        ("20 8\n" * 20_001, "more than 20000 lines"),
    ],
)
def test_what_is_wrong_is_refused_with_its_line(text: str, said: str) -> None:
    with pytest.raises(FormatError) as refused:
        read_zma(text.encode())
    assert said in str(refused.value)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("Freq,Nothing\n20,8", "a heading is wanted"),
        ("Freq,Z\n20,8\n30", "Line 3: it has fewer columns"),
        ("Freq,Re,Im\n20,8,0\n30,-8,1", "Line 3: the real part is -8 Ω"),
        ("Freq,Z\n20,8\n30,0", "Line 3: the impedance must be over 0 Ω."),
        ("", "empty"),
    ],
)
def test_csv_that_is_wrong(text: str, said: str) -> None:
    with pytest.raises(FormatError) as refused:
        read_curve_csv(text.encode())
    assert said in str(refused.value)


def test_a_measuring_error_under_0_is_set_to_0_and_told() -> None:
    read = read_zma(b"20 8 90.5\n30 8 0\n")
    assert read.curve.real[0] == 0
    assert "line 1" in read.warnings[0]
    with pytest.raises(FormatError, match="Line 1"):
        read_zma(b"20 8 92\n30 8 0\n")


def test_ends_are_held_and_values_run_in_log_frequency() -> None:
    curve = MeasuredCurve((100.0, 10_000.0), (4.0, 8.0), (0.0, 2.0))
    seen = curve.impedance(np.array([20.0, 1000.0, 20_000.0]))
    assert seen.tolist() == pytest.approx([4, 6 + 1j, 8 + 2j])


@pytest.mark.parametrize(
    "change", [{"real": (1.0,)}, {"frequency": (200.0, 100.0)}, {"real": (1.0, float("nan"))}, {"real": (-5.0, 1.0)}]
)
def test_a_curve_that_cannot_be(change: dict) -> None:
    with pytest.raises(ValueError, match="Measured curve"):
        MeasuredCurve(**{"frequency": (100.0, 200.0), "real": (8.0, 8.0), "imaginary": (0.0, 0.0), **change})


def test_frd_there_and_back() -> None:
    response = Z / (Z + 13)
    read = read_frd(write_frd(F, response, "a response").encode())
    assert np.array(read.level) == pytest.approx(20 * np.log10(np.abs(response)), abs=1e-3)
    assert np.array(read.phase) == pytest.approx(np.degrees(np.angle(response)), abs=1e-3)
    assert read_frd(b"20 -3\n30 -4\n").phase == (0.0, 0.0)


@example(data=b",")
@example(data=b"20 8\n , \n30 8\n")
@given(data=st.binary(max_size=400))
def test_any_bytes_are_read_or_refused_in_words(data: bytes) -> None:
    said = []
    for read in (read_curve, read_curve_csv, read_frd):
        try:
            read(data)
        except FormatError as refused:
            said += refused.problems
    assert all(problem.endswith(".") for problem in said)


@pytest.mark.parametrize("begins", [25.0, 40.0, 60.0, 80.0, 120.0])
def test_a_curve_that_begins_late_says_how_far_its_phase_may_be_off(begins: float) -> None:
    whole = np.geomspace(10, 20_000, 800)
    z = driver_impedance(typical_driver(8), whole)
    cut = whole >= begins
    off = np.degrees(np.abs(minimum_phase(whole[cut], np.abs(z[cut])) - np.angle(z[cut]))).max()
    told = phase_doubt(whole[cut], np.abs(z[cut]))
    assert told >= off - 3
    assert phase_doubt(whole, np.abs(z)) == 0
    text = "\n".join(f"{f:.3f} {abs(v):.5f}" for f, v in zip(whole[cut], z[cut], strict=True))
    warned = " ".join(read_zma(text.encode()).warnings)
    assert ("may be off by up to" in warned) == (told >= 1)
