"""A guitar in a mix: in which bands it is heard, and what is said of it."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from low_tide.core.audio.rendering import RATE, picked_up, power_stage, riff
from low_tide.core.cab.impulse import Samples
from low_tide.core.cab.in_the_mix import CENTRES_HZ, HEARD_DB, NOMINAL_HZ, band_powers, heard_in_mix, loud_parts
from low_tide.stand_ins import backing

SECONDS = 3.0
TIME = np.arange(round(SECONDS * RATE)) / RATE
EVERY = np.ones(200, bool)


def tones(*levels: tuple[float, float]) -> Samples:
    """Sines, each by its frequency (Hz) and level (dBFS)."""
    return np.asarray(sum(10 ** (db / 20) * np.sin(2 * np.pi * hz * TIME) for hz, db in levels))


@pytest.fixture(scope="module")
def played() -> Samples:
    return power_stage(picked_up(riff(SECONDS)), 10.0)


@pytest.fixture(scope="module")
def other() -> Samples:
    return sum(backing.backing(part)[: len(TIME)] for part in backing.PARTS)  # type: ignore[return-value]


def test_bands_are_the_third_octaves_of_the_standard() -> None:
    """IEC 61260-1: exact centres by a power of ten, nominal ones within 3 % of them."""
    assert len(NOMINAL_HZ) == len(CENTRES_HZ) == 24
    assert np.array(NOMINAL_HZ) == pytest.approx(CENTRES_HZ, rel=0.03)


@pytest.mark.parametrize("hz", [100.0, 1_000.0, 5_012.0])
@pytest.mark.parametrize("over", [-12.0, -6.5, -5.5, 0.0, 9.0])
def test_a_tone_against_a_tone(hz: float, over: float) -> None:
    """In their band one stands over the other by the difference of their levels, and counts from −6 dB up."""
    found = heard_in_mix(tones((hz, -20 + over)), tones((hz, -20)), EVERY)
    band = found.bands[int(np.argmin(np.abs(CENTRES_HZ - hz)))]
    assert band.over == pytest.approx(over, abs=0.1)
    assert band.heard == (over >= HEARD_DB)


def test_the_bands_hold_all_the_power_there_is() -> None:
    """Noise between 50 Hz and 10 kHz: third octaves sum to its mean square."""
    rng = np.random.default_rng(1)
    spectrum = np.fft.rfft(rng.standard_normal(len(TIME)))
    hz = np.fft.rfftfreq(len(TIME), 1 / RATE)
    spectrum[(hz < 60) | (hz > 9_000)] = 0
    noise = np.fft.irfft(spectrum, len(TIME))
    assert 10 * np.log10(band_powers(noise, EVERY).sum() / np.square(noise).mean()) == pytest.approx(0, abs=0.2)


def test_where_the_guitar_has_nothing_it_is_not_heard_however_quiet_the_rest() -> None:
    found = heard_in_mix(tones((1_000.0, -6.0)), np.zeros(len(TIME)), EVERY)
    assert [b.hz for b in found.bands if b.heard] == [1000]
    assert found.words[0] == "Heard in 1 of 24 bands, none over 1 kHz: brighter."


@settings(max_examples=25, deadline=None)
@given(st.floats(-30, 10), st.floats(0, 20), st.floats(-20, 20))
def test_more_of_it_is_heard_in_no_fewer_bands(
    played: Samples, other: Samples, level: float, more: float, both: float
) -> None:
    loud = loud_parts(played)
    quiet, louder = (heard_in_mix(played * 10 ** (db / 20), other, loud) for db in (level, level + more))
    assert all(b.heard for a, b in zip(quiet.bands, louder.bands, strict=True) if a.heard)
    assert louder.over >= quiet.over - 1e-9
    together = 10 ** (both / 20)
    same = heard_in_mix(played * 10 ** (level / 20) * together, other * together, loud)
    assert [b.heard for b in same.bands] == [b.heard for b in quiet.bands]


@pytest.mark.parametrize("level", [-40.0, -30.0, -24.0, -18.0, -12.0, -6.0])
def test_what_is_said_of_more_is_what_more_does(played: Samples, other: Samples, level: float) -> None:
    """'6 dB more would be heard in 12': turned up by 6 dB, it is."""
    loud = loud_parts(played)
    found = heard_in_mix(played * 10 ** (level / 20), other, loud)
    if len(found.words) == 1:
        return
    by, bands = (
        float(word) for word in found.words[1].removesuffix(".").replace(" dB more would be heard in", "").split()
    )
    louder = heard_in_mix(played * 10 ** ((level + by) / 20), other, loud)
    assert louder.heard == bands > found.heard


def test_it_is_said_what_is_missing(played: Samples, other: Samples) -> None:
    loud = loud_parts(played)

    def said(sound: Samples, against: Samples) -> str:
        return heard_in_mix(sound, against, loud).words[0]

    assert said(played * 1e-3, other) == "Heard in none of 24 bands: the backing covers it."
    assert said(played * 10, other * 1e-2).endswith("it stands out of everything, and may be turned down.")
    bass = tones(*((hz, -3.0) for hz in (50.0, 63.0, 80.0, 100.0, 125.0, 160.0, 200.0)))
    assert "none under 250 Hz: it leaves those to the rest" in said(played, bass * 30)


def test_too_little_to_tell_is_said() -> None:
    with pytest.raises(ValueError, match="too little is played in this section"):
        loud_parts(np.zeros(RATE))
    with pytest.raises(ValueError, match="too little is played"):
        loud_parts(tones((440.0, -6.0))[:4_000])


def test_the_backing_is_made_the_same_every_time_and_fits_the_built_in_take() -> None:
    for part in backing.PARTS:
        found = backing.backing(part)
        assert len(found) == round(backing.SECONDS * RATE)
        assert 20 * np.log10(np.abs(found).max()) == pytest.approx(backing.PEAKS_DBFS[part], abs=1e-6)
    assert backing.SECONDS % backing.ROUND_S == 0
    sum_of_all = sum(backing.backing(part) for part in backing.PARTS)
    assert np.abs(sum_of_all).max() < 1.5
