"""Impulse responses and their blends: levels, onsets, what they lose to phase, and which of them are alike."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from low_tide.core.audio.rendering import cab_filter, coloured
from low_tide.core.audio.spectrum import band_centres
from low_tide.core.cab.blend import BlendPart, apart, blended, lost_to_phase, mono, notches, part_responses, sides
from low_tide.core.cab.impulse import (
    LIKE_HZ,
    RATE,
    Samples,
    ToneBands,
    analysed,
    at_rate,
    band_response,
    onset,
    programme_db,
    within,
    wrong_with,
)
from low_tide.core.cab.lining_up import SUM_HZ, better_turned, by_best_sum, by_onset, lined_up
from low_tide.core.cab.monitoring import MonitoringPath, monitoring_delay
from low_tide.core.cab.output import minimum_phase, of_response, outgoing
from low_tide.core.cab.report import band_report
from low_tide.core.cab.speaker_filter import (
    FITTED,
    PLAIN_FILTER,
    SpeakerFilter,
    bounds_of,
    filter_responses,
    filter_words,
    fitted_filter,
    impulse_of,
)
from low_tide.core.cab.suggesting import suggested
from low_tide.core.cab.thinning import distances, thinned
from low_tide.core.comparing.aligning import delayed
from low_tide.stand_ins.impulses import MADE, impulse


def cab(late: float = 0.0, seconds: float = 0.1) -> Samples:
    """A speaker's impulse response, so many samples late."""
    spike = np.zeros(round(seconds * RATE))
    spike[100] = 1.0
    return delayed(coloured(spike, cab_filter), late, len(spike))


@pytest.fixture(scope="module")
def library() -> list[Samples]:
    return [impulse(speaker, placing) for _, speaker, placing in MADE]


# ---------------------------------------------------------------- one of them


@pytest.mark.parametrize("rate", [8_000, 44_100, 96_000, 192_000])
def test_what_is_convolved_is_as_loud_at_any_rate(rate: int) -> None:
    """Through an impulse response and through the same at another rate a tone comes out the same."""
    there = at_rate(cab(), RATE, rate)
    for hz in (120.0, 1_000.0, 3_000.0):
        gains = [abs(np.exp(-2j * np.pi * hz * np.arange(len(h)) / r) @ h) for h, r in ((cab(), RATE), (there, rate))]
        assert 20 * np.log10(gains[1] / gains[0]) == pytest.approx(0, abs=0.05)
    assert np.abs(there).max() > 0


@given(late=st.integers(0, 2000), gain=st.floats(-30, 30), turned=st.booleans())
def test_onset_polarity_and_level(late: int, gain: float, turned: bool) -> None:
    spike = np.zeros(4000)
    spike[late], spike[late + 1] = 1.0, -0.4
    factor = (-1 if turned else 1) * 10 ** (gain / 20)
    found = analysed(spike * factor, RATE, 1.0)
    assert found.onset == pytest.approx(late / RATE * 1000)
    assert found.inverted is turned
    assert found.peak_gain == pytest.approx(-gain, abs=1e-9)
    louder = analysed(spike * factor * 2, RATE, 1.0)
    assert louder.programme_gain == pytest.approx(found.programme_gain - 6.02, abs=0.01)
    assert louder.response == pytest.approx(found.response, abs=1e-3)


def test_length_is_that_of_what_dies_away() -> None:
    """60 dB down in 50 ms: e^(−t/τ) with τ = 50 ms / ln(1000)."""
    t = np.arange(RATE // 2) / RATE
    rng = np.random.default_rng(1)
    found = analysed(rng.normal(size=len(t)) * np.exp(-t * np.log(1000) / 0.05), RATE, 0.5)
    assert found.length == pytest.approx(50, rel=0.03)
    # Energy falls twice as fast as its level: the first 5 ms hold 1 − 10^(−0.6).
    assert found.early_late == pytest.approx(10 * np.log10(1 / 10**-0.6 - 1), abs=0.7)


def test_a_spike_is_flat_and_a_speaker_is_not() -> None:
    spike = np.zeros(1000)
    spike[10] = 1.0
    flat = analysed(spike, RATE, 0.02)
    assert np.ptp(flat.response) < 1e-6
    assert flat.programme_gain == pytest.approx(0, abs=0.01)
    found = analysed(cab(), RATE, 0.1)
    want = 20 * np.log10(np.abs(cab_filter(band_centres(RATE)))) - programme_db(
        20 * np.log10(np.abs(cab_filter(band_centres(RATE))))
    )
    told = (band_centres(RATE) > 60) & (band_centres(RATE) < 8_000)
    assert np.array(found.response)[told] == pytest.approx(want[told], abs=0.3)
    assert 45 < found.reach[0] < 65
    assert 4_500 < found.reach[1] < 6_500


@pytest.mark.parametrize(
    ("samples", "says"),
    [
        (np.zeros(100), "silent"),
        (np.full(48_000, 0.5), "constant offset"),
        (np.full(1, 0.5), "silent"),
        (np.full(9_600, 1e-9), "silent"),
    ],
)
def test_what_is_no_impulse_response(samples: Samples, says: str) -> None:
    assert says in wrong_with(samples)
    with pytest.raises(ValueError, match=says):
        analysed(samples, RATE, 1.0)


def test_what_is_shown_is_smoothed_in_power() -> None:
    """A comb whose teeth are much closer than a twelfth of an octave: half of its peaks' power."""
    from low_tide.core.cab.impulse import smoothed_db

    h = np.zeros(9_601)
    h[0] = h[9_600] = 1.0
    found = smoothed_db(np.square(np.abs(np.fft.rfft(h, 1 << 16))), np.array([400.0, 2_000.0, 9_000.0]))
    assert found == pytest.approx(10 * np.log10(2), abs=0.3)


# ---------------------------------------------------------------- alike


def test_thinning_does_not_depend_on_the_order() -> None:
    rng = np.random.default_rng(5)
    kinds = rng.normal(size=(40, len(band_centres(RATE)))) * 4
    rows = np.repeat(kinds, 8, axis=0)[:300] + rng.normal(size=(300, len(band_centres(RATE)))) * 0.6
    names = [f"{n:03d}" for n in rng.permutation(300)]
    first = thinned(names, rows)
    order = rng.permutation(300)
    assert thinned([names[i] for i in order], rows[order]) == first
    assert 38 <= len(first) <= 60
    assert sorted(itertools.chain.from_iterable((g.stands, *g.folded) for g in first)) == sorted(names)


def test_level_says_nothing_and_what_is_trusted_stands_first() -> None:
    rows = np.vstack([np.linspace(0, 5, len(band_centres(RATE)))] * 3) + np.array([[0.0], [12.0], [-30.0]])
    assert distances(rows).max() < 1e-6
    (group,) = thinned(["a", "b", "c"], rows, 0.0, frozenset({"c"}))
    assert (group.stands, group.folded) == ("c", ("a", "b"))
    assert len(thinned(["a"], rows[:1])) == 1
    assert thinned([], rows[:0]) == ()


def test_distance_is_the_rms_of_the_difference() -> None:
    tilt = np.linspace(-6, 6, len(band_centres(RATE)))
    found = distances(np.vstack([np.zeros_like(tilt), tilt]))
    inside = (band_centres(RATE) >= 70) & (band_centres(RATE) <= 8_000)
    assert found[0, 1] == pytest.approx(tilt[inside].std())


# ---------------------------------------------------------------- blends


def test_two_ways_of_ten_centimetres_cancel_at_1715_hz() -> None:
    h, parts = cab(), [BlendPart(1), BlendPart(1, delay=0.1 / 343 * 1000)]
    (notch,) = notches([h, h], parts)
    assert notch.hz == pytest.approx(1715, rel=0.01)
    responses, hz = part_responses([h, h], parts)
    at = int(np.argmin(np.abs(hz - 1715)))
    assert abs(responses[:, at].sum()) < 0.01 * abs(responses[0, at])
    (turned,) = notches([h, h], [parts[0], replace(parts[1], inverted=True)])
    assert turned.hz == pytest.approx(3430, rel=0.01)
    assert notches([h, h], [parts[0], parts[0]]) == ()


@given(
    delays=st.lists(st.floats(-5, 20), min_size=1, max_size=4),
    gains=st.lists(st.floats(-40, 12), min_size=4, max_size=4),
    flips=st.lists(st.booleans(), min_size=4, max_size=4),
)
def test_a_blend_is_the_sum_of_its_parts(delays: list[float], gains: list[float], flips: list[bool]) -> None:
    """Over frequency, against the closed form of one that is delayed by any part of a sample."""
    h = cab(seconds=0.05)
    parts = [BlendPart(1, g, f, d) for d, g, f in zip(delays, gains, flips, strict=False)]
    found = mono(blended([h] * len(parts), parts))
    lead = max(0.0, -min(delays))
    hz = np.array([100.0, 700.0, 2_500.0, 6_000.0])
    of_h = np.exp(-2j * np.pi * np.outer(hz, np.arange(len(h))) / RATE) @ h
    factors = [
        (-1 if p.inverted else 1) * 10 ** (p.gain / 20) * np.exp(-2j * np.pi * hz * (p.delay + lead) / 1000)
        for p in parts
    ]
    have = np.exp(-2j * np.pi * np.outer(hz, np.arange(len(found))) / RATE) @ found
    scale = np.abs(of_h) * sum(10 ** (p.gain / 20) for p in parts)
    assert np.abs(have - of_h * np.sum(factors, axis=0)) == pytest.approx(0, abs=3e-4 * scale.max())


def test_pan_solo_and_mute() -> None:
    h = cab()
    left = blended([h], [BlendPart(1, pan=-1)])
    assert np.abs(left[:, 1]).max() < 1e-12
    middle = blended([h], [BlendPart(1)])
    assert 20 * np.log10(np.abs(middle[:, 0]).max() / np.abs(h).max()) == pytest.approx(-3.01, abs=0.01)
    assert mono(middle)[: len(h)] == pytest.approx(h)
    for pan in (-0.7, 0.0, 0.4):
        assert sum(np.square(sides(pan))) == pytest.approx(1)
    two = [BlendPart(1, mute=True), BlendPart(1, gain=-6)]
    assert mono(blended([h, h], two))[: len(h)] == pytest.approx(h * 10 ** (-6 / 20))
    alone = [BlendPart(1, mute=True, solo=True), BlendPart(1)]
    assert mono(blended([h, h], alone))[: len(h)] == pytest.approx(h)


def test_what_is_lost_to_phase() -> None:
    """Two alike stand 3 dB over the sum of their powers; out of phase there is nothing."""
    h = cab()

    def lost(second: BlendPart) -> ToneBands:
        return lost_to_phase(*part_responses([h, h], [BlendPart(1), second]))

    assert lost(BlendPart(1)).low == pytest.approx(-3.01, abs=0.01)
    assert lost(BlendPart(1, inverted=True)).low > 100
    assert lost(BlendPart(1, inverted=True, gain=-6)).presence == pytest.approx(
        10 * np.log10((1 + 10**-0.6) / (1 - 10**-0.3) ** 2), abs=0.01
    )


# ---------------------------------------------------------------- in line


@pytest.mark.parametrize("late", [3.0, 22.4, 140.25])
def test_the_delay_of_two_of_one_colour_is_found(late: float) -> None:
    first, second = cab(seconds=0.2), cab(late, seconds=0.2)
    assert apart(first, second)[0] == pytest.approx(late / RATE * 1000, abs=0.005)
    parts = [BlendPart(1), BlendPart(2, gain=-4)]
    assert by_best_sum([first, second], parts)[1].delay == pytest.approx(-late / RATE * 1000, abs=0.05)
    assert by_onset([first, second], parts)[1].delay == pytest.approx(-late / RATE * 1000, abs=0.05)


def test_best_sum_is_the_best_there_is(library: list[Samples]) -> None:
    """Against every pair of delays to 0.01 ms that lies within 1 ms of where all begin together."""
    rng = np.random.default_rng(3)
    for _ in range(4):
        chosen = rng.choice(len(library), 3, replace=False)
        sounds = [library[i] for i in chosen]
        parts = [BlendPart(1, float(rng.uniform(-12, 0)), bool(rng.integers(2))) for _ in sounds]
        begun = [p.delay for p in by_onset(sounds, parts)]
        size = 1 << 14
        hz = np.fft.rfftfreq(size, 1 / RATE)
        at = (hz >= SUM_HZ[0]) & (hz <= SUM_HZ[1])
        spectra = [
            (-1 if p.inverted else 1) * 10 ** (p.gain / 20) * np.fft.rfft(s, size)[at]
            for s, p in zip(sounds, parts, strict=True)
        ]
        steps = np.arange(-100, 101) * 0.01

        def turned(k: int, by: np.ndarray, hz: np.ndarray = hz[at], s: list = spectra, b: list = begun) -> np.ndarray:
            return np.asarray(s[k] * np.exp(-2j * np.pi * np.outer(b[k] + by, hz) / 1000))

        second, third = turned(1, steps), turned(2, steps)
        power = np.array([np.square(np.abs(spectra[0] + each + third)).sum(axis=1) for each in second])
        found = by_best_sum(sounds, parts)
        offs = [p.delay - b for p, b in zip(found, begun, strict=True)]
        have = np.square(np.abs(spectra[0] + turned(1, np.array(offs[1])) + turned(2, np.array(offs[2])))).sum()
        assert 10 * np.log10(power.max() / have) < 0.01
        assert max(map(abs, offs)) <= 1.005


def test_what_is_wired_the_other_way_round_is_told(library: list[Samples]) -> None:
    sounds = [library[0], library[1], library[3]]
    parts = [BlendPart(1), BlendPart(2, gain=12), BlendPart(4)]
    lined = by_onset(sounds, parts)
    assert better_turned(sounds, lined) == (2,)
    assert better_turned(sounds, [*lined[:2], replace(lined[2], inverted=True)]) == ()
    as_recorded = lined_up("recorded", sounds, lined)
    assert [p.delay for p in as_recorded] == [0, 0, 0]
    # A metre away its low end goes against the near one's, until they begin together.
    before, after = (lost_to_phase(*part_responses(sounds[:2], p[:2])).low_mid for p in (as_recorded, lined))
    assert after < before - 1


# ---------------------------------------------------------------- out


def test_a_blend_that_went_out_is_the_same_when_it_comes_back(library: list[Samples]) -> None:
    sounds = [library[0], library[7]]
    stereo = blended(sounds, [BlendPart(1, delay=-0.31), BlendPart(2, gain=9, pan=0.3)])
    found, gain = outgoing(stereo, RATE, False, "as it is")
    back = found.astype(np.float32).astype(np.float64)
    assert gain == 0
    assert 10 * np.log10(np.square(back - stereo).sum() / np.square(stereo).sum()) < -120
    for level, want in (("peak", -1.0), ("programme", None)):
        made, gain = outgoing(stereo, RATE, False, level)  # type: ignore[arg-type]
        assert made == pytest.approx(stereo * 10 ** (gain / 20))
        if want is not None:
            assert 20 * np.log10(np.abs(made).max()) == pytest.approx(want)
        else:
            powers = [10 ** (programme_db(band_response(side)) / 10) for side in made.T]
            assert 10 * np.log10(np.mean(powers)) == pytest.approx(0, abs=0.01)


def test_minimum_phase_keeps_the_tone_and_takes_the_delay(library: list[Samples]) -> None:
    late = library[7]
    found = minimum_phase(late)
    assert onset(found) <= 2 < onset(late)
    assert band_response(found) == pytest.approx(band_response(late), abs=0.1)


def test_an_impulse_response_made_of_a_response_has_it() -> None:
    hz = np.geomspace(50, 10_000, 200)
    level = 20 * np.log10(np.abs(cab_filter(hz)))
    found = of_response(hz, level)
    told = (band_centres(RATE) > 70) & (band_centres(RATE) < 8_000)
    want = 20 * np.log10(np.abs(cab_filter(band_centres(RATE)[told])))
    assert band_response(found)[told] == pytest.approx(want, abs=0.3)


# ---------------------------------------------------------------- in words


def test_what_it_is_like_is_said_in_words() -> None:
    median = ToneBands(0.0, 0.0, 0.0, 0.0)
    (said,) = band_report(ToneBands(0.5, -1.0, 1.9, -5.0), median, "the rest of your library")
    assert said == "The top is 5 dB under the rest of your library: no sizzle."
    assert band_report(median, median, "it")[0].startswith("It is like it")
    order = band_report(ToneBands(2.5, 0, 6.0, -4.0), median, "it")
    assert [s.split()[1] for s in order] == ["presence", "top", "low"]


# ---------------------------------------------------------------- suggested


def test_the_blend_that_was_the_reference_is_suggested(library: list[Samples]) -> None:
    """Two of them as they sum best, the second 6 dB under the first: nothing comes nearer to it."""
    chosen = [library[i] for i in (2, 9, 11, 16)]
    level = [float(np.sqrt(np.square(s).sum())) for s in chosen]
    want = [BlendPart(11), BlendPart(16, gain=-6 + 20 * np.log10(level[2] / level[3]))]
    want = list(by_best_sum([chosen[2], chosen[3]], want))
    response = band_response(mono(blended([chosen[2], chosen[3]], want)))
    *parts, best = suggested([2, 9, 11, 16], chosen, response)
    assert parts == sorted(parts)
    assert isinstance(best, tuple)
    assert [s.distance for s in best] == sorted(s.distance for s in best)
    assert best[0].distance < 0.15
    assert [p.impulse for p in best[0].parts] == [11, 16]
    assert [p.gain for p in best[0].parts] == pytest.approx([0, want[1].gain], abs=0.05)
    assert all(-40 <= p.gain <= 12 and -5 <= p.delay <= 20 for s in best for p in s.parts)
    # What is told of it is what it is.
    for each in best:
        sounds = [chosen[(2, 9, 11, 16).index(p.impulse)] for p in each.parts]
        made = band_response(mono(blended(sounds, each.parts)))
        assert distances(np.vstack([made, response]))[0, 1] == pytest.approx(each.distance, abs=0.12)


def test_no_more_than_eight_are_tried_together(library: list[Samples]) -> None:
    with pytest.raises(ValueError, match="at most 8"):
        next(suggested(range(9), library[:9], np.zeros(len(band_centres(RATE)))))


# ---------------------------------------------------------------- heard while playing


def test_64_samples_at_48_khz_and_its_converters() -> None:
    found = monitoring_delay(MonitoringPath(buffer=64))
    assert found.total == pytest.approx(2 * 64 / 48 + 1)
    assert not found.late
    assert found.metres == pytest.approx(found.total * 0.343)
    assert found.words[0] == "3.67 ms, as if the amp stood 1.3 m away: under 10 ms most players do not feel it."
    assert found.comb is None


@given(
    buffer=st.integers(16, 8192),
    rate=st.sampled_from([44_100, 48_000, 96_000]),
    plug_ins=st.floats(0, 40),
    distance=st.floats(0, 10),
    direct=st.booleans(),
)
def test_the_largest_part_is_the_one_that_is_mended(
    buffer: int, rate: int, plug_ins: float, distance: float, direct: bool
) -> None:
    path = MonitoringPath(buffer, rate, 1.0, plug_ins, 0.5, distance, direct)
    found = monitoring_delay(path)
    assert found.total == pytest.approx(2000 * buffer / rate + 1.5 + plug_ins + distance / 0.343)
    assert found.late == (found.total > 10)
    largest = max(found.parts, key=lambda p: p.ms).name.split()[0].rstrip("s")
    assert largest in found.words[1].lower().replace("plug-ins", "plug-in")
    # A smaller buffer that is named is smaller, and enough where one is.
    if found.late and largest == "buffer" and "samples" in found.words[1]:
        named = int(found.words[1].split(" samples")[0].split()[-1])
        assert named < buffer
        rest = monitoring_delay(replace(path, buffer=named)).total
        assert rest <= 10 or monitoring_delay(replace(path, buffer=32)).total > 10
    assert (found.comb is not None) == direct
    if found.comb is not None:
        assert found.comb == pytest.approx(500 / (found.total - distance / 0.343))


# ---------------------------------------------------------------- the adjustable filter

FLAT = replace(PLAIN_FILTER, bass_gain=0.0, dip_gain=0.0, presence_gain=0.0, high_pass=20.0, low_pass=12_000.0)
FILTERS = st.builds(
    SpeakerFilter,
    **{name: st.floats(*bounds_of(name)) for name in FITTED},
    slope=st.sampled_from([12, 18, 24, 36]),
    bare=st.none() | st.floats(-60, 0),
    bare_low_pass=st.floats(2_000, 12_000),
)


@pytest.mark.parametrize("slope", [12, 18, 24, 36])
@pytest.mark.parametrize("corner", [2_000.0, 5_000.0, 9_000.0])
def test_its_low_pass_falls_as_it_says(corner: float, slope: int) -> None:
    """Butterworth, by the bilinear transform: |H|² = 1/(1 + (tan(πf/r)/tan(πf₀/r))^2n)."""
    hz = np.array([corner / 4, corner, 1.5 * corner, 2 * corner])
    found = filter_responses(replace(FLAT, low_pass=corner, slope=slope), hz).whole  # type: ignore[arg-type]
    ratio = np.tan(np.pi * hz / RATE) / np.tan(np.pi * corner / RATE)
    high = (np.tan(np.pi * 20 / RATE) / np.tan(np.pi * hz / RATE)) ** 4
    assert np.square(np.abs(found)) == pytest.approx(1 / (1 + ratio ** (slope / 3)) / (1 + high), rel=1e-6)


def test_its_peaks_stand_where_and_as_high_as_they_say() -> None:
    for name, hz in (("bass", 120.0), ("dip", 600.0), ("presence", 3_000.0)):
        only = replace(FLAT, **{name: hz, f"{name}_gain": -6.0})
        level = 20 * np.log10(np.abs(filter_responses(only, np.array([hz])).whole[0]))
        plain = 20 * np.log10(np.abs(filter_responses(FLAT, np.array([hz])).whole[0]))
        assert level - plain == pytest.approx(-6.0, abs=1e-6)


@given(FILTERS)
def test_a_filter_sounds_as_it_is_drawn(found: SpeakerFilter) -> None:
    """Its impulse response has the response that is shown of it, and nothing of it is cut off."""
    sound = impulse_of(found)
    assert len(sound) < round(0.5 * RATE)
    hz = np.geomspace(40, 16_000, 40)
    turns = np.exp(-2j * np.pi * np.outer(hz, np.arange(len(sound))) / RATE)
    shown = filter_responses(found, hz)
    assert np.abs(turns @ sound - shown.whole).max() < 1e-4 * np.abs(shown.whole).max()
    assert (shown.bare is None) == (found.bare is None)
    if shown.bare is not None:
        assert shown.whole == pytest.approx(shown.stages + shown.bare)


@pytest.mark.parametrize("seed", range(6))
def test_a_filter_is_fitted_within_its_bounds_and_never_worse_than_where_it_stood(seed: int) -> None:
    rng = np.random.default_rng(seed)
    other = replace(PLAIN_FILTER, **{name: float(rng.uniform(*bounds_of(name))) for name in FITTED})
    target = 20 * np.log10(np.abs(filter_responses(other, band_centres(RATE)).whole) + 1e-9)
    found, distance = fitted_filter(PLAIN_FILTER, target)
    like = within(LIKE_HZ)

    def off(which: SpeakerFilter) -> float:
        level = 20 * np.log10(np.abs(filter_responses(which, band_centres(RATE)).whole)) - target
        return float(level[like].std())

    assert distance == pytest.approx(off(found), abs=1e-6)
    assert distance <= off(PLAIN_FILTER) / 3
    assert all(low <= getattr(found, name) <= high for name in FITTED for low, high in [bounds_of(name)])
    assert (found.slope, found.bare) == (PLAIN_FILTER.slope, PLAIN_FILTER.bare)


def test_a_filter_says_what_it_is() -> None:
    said = filter_words(replace(PLAIN_FILTER, dip_gain=0.0, bare=-12.0))
    assert said == (
        "high-pass 80 Hz, bass +4 dB at 115 Hz, presence +5 dB at 2800 Hz, low-pass 4800 Hz by 24 dB/oct,"
        " the bare signal at −12 dB"
    )
