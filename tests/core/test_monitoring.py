"""How one hears oneself: late, twice, or bare; by what the hook-up says of it."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.gear.line_out import LineOut
from low_tide.core.rig.rig import Rig
from low_tide.core.units import figure
from tests.core.build import DESK, LOAD, rig
from tests.core.test_checks import found, mended, worst
from tests.core.test_path_checks import CAB_8, MIKED, TAPPED

KNOWN = replace(DESK, converters=1.4)
FILTERED = replace(LOAD, line_out=LineOut(filter="fixed", phantom="tolerates"))


def heard(**desk: Any) -> Rig:
    return rig(TAPPED, KNOWN, desk=desk)


def test_nothing_is_said_where_nobody_said_how_one_hears_oneself() -> None:
    for check in ("late-monitoring", "double-monitoring", "monitors-bare-tap"):
        assert worst(heard(buffer="2048", plug_ins=100.0), check) == "silent"
        assert worst(rig("lead1: amp/out1 > load/in", desk={}), check) == "silent"


@given(
    st.sampled_from([32, 64, 128, 256, 512, 1024, 2048]),
    st.sampled_from(["44.1", "48", "88.2", "96"]),
    st.floats(0, 20),
    st.floats(0, 5),
)
def test_late_is_over_ten_milliseconds(buffer: int, rate: str, plug_ins: float, metres: float) -> None:
    """2·buffer/rate + converters + plug-ins + distance/c, by hand."""
    total = 2 * buffer / float(rate) + 1.4 + plug_ins + metres / 0.343
    case = heard(monitor="software", buffer=str(buffer), rate=rate, plug_ins=plug_ins, monitors=metres)
    (said,) = found(case, "late-monitoring")
    if abs(total - 10) > 1e-6:
        assert said.severity == ("caution" if total > 10 else "fine")
    if said.severity == "caution" and said.fixes:
        now = mended(case, "late-monitoring")
        assert worst(now, "late-monitoring") in ("fine", "silent")


def test_a_late_buffer_is_made_as_large_as_is_still_in_time() -> None:
    late = heard(monitor="software", buffer="512")
    (said,) = found(late, "late-monitoring")
    assert said.text == "One hears oneself 23 ms late at Desk."
    assert "The buffer is the most of it" in said.reason
    assert mended(late, "late-monitoring").settings("desk")["buffer"] == "128"


def test_where_no_buffer_is_small_enough_none_is_offered() -> None:
    late = heard(monitor="software", buffer="32", plug_ins=40.0)
    (said,) = found(late, "late-monitoring")
    assert "Plug-ins are the most of it" in said.reason
    assert said.fixes == ()


def test_a_filter_in_the_box_is_heard_directly_and_so_is_a_microphone() -> None:
    filtered = rig(TAPPED, FILTERED, KNOWN, desk={"monitor": "software", "plug_ins": 40.0})
    assert mended(filtered, "late-monitoring").settings("desk")["monitor"] == "direct"
    direct = rig(TAPPED, FILTERED, KNOWN, desk={"monitor": "direct"})
    assert worst(direct, "monitors-bare-tap") == "silent"
    assert worst(rig(MIKED, CAB_8, desk={"monitor": "direct"}), "monitors-bare-tap") == "silent"


def test_an_ir_in_software_is_not_heard_directly() -> None:
    bare = heard(monitor="direct", **{"in1.ir": True})
    assert worst(bare, "monitors-bare-tap") == "note"
    assert mended(bare, "monitors-bare-tap").settings("desk")["monitor"] == "software"
    without = heard(monitor="direct")
    assert worst(without, "monitors-bare-tap") == "note"
    assert found(without, "monitors-bare-tap")[0].fixes == ()
    assert worst(heard(monitor="software", **{"in1.ir": True}), "monitors-bare-tap") == "silent"


@pytest.mark.parametrize(("buffer", "comb", "better"), [("64", 123.0, "software"), ("256", 41.4, "direct")])
def test_both_at_once_comb(buffer: str, comb: float, better: str) -> None:
    """First notch at 1/(2τ), the way from the monitors left out: both go it. What would be too late is no way out."""
    twice = heard(monitor="both", buffer=buffer, monitors=0.5, **{"in1.ir": True})
    (said,) = found(twice, "double-monitoring")
    assert said.severity == "note"
    tau = (2 * int(buffer) / 48 + 1.4) / 1000
    assert 1 / (2 * tau) == pytest.approx(comb, rel=0.005)
    assert f"{figure(comb, 2)} Hz" in said.reason
    assert worst(twice, "late-monitoring") == "silent"
    assert mended(twice, "double-monitoring").settings("desk")["monitor"] == better


def test_what_is_not_known_of_the_converters_is_told_as_typical() -> None:
    guessed = rig(TAPPED, desk={"monitor": "software"})
    (said,) = found(guessed, "late-monitoring")
    assert said.typical == ("1 ms for the converters is typical",)
    assert found(heard(monitor="software"), "late-monitoring")[0].typical == ()
