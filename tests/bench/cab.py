"""How long Cab blend takes: a thousand analysed and thinned, suggesting, a blend, a filter, a take, a mix."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from low_tide.app.blend_sound import through
from low_tide.core.audio.rendering import picked_up, power_stage, riff
from low_tide.core.audio.spectrum import band_centres
from low_tide.core.cab.blend import BlendPart, blended, lost_to_phase, mono, notches, part_responses
from low_tide.core.cab.impulse import RATE, Samples, analysed, band_response
from low_tide.core.cab.in_the_mix import heard_in_mix, loud_parts
from low_tide.core.cab.lining_up import better_turned, by_best_sum
from low_tide.core.cab.speaker_filter import PLAIN_FILTER, fitted_filter
from low_tide.core.cab.suggesting import suggested
from low_tide.core.cab.thinning import thinned
from low_tide.stand_ins.backing import PARTS, backing
from low_tide.stand_ins.impulses import MADE, impulse

Timer = Callable[..., float]
Printer = Callable[..., None]
MANY = 1_000


def _answer(sounds: list[Samples], parts: list[BlendPart]) -> None:
    """All that a blend's picture asks for."""
    responses, hz = part_responses(sounds, parts)
    recorded, _ = part_responses(sounds, [replace(p, delay=0.0) for p in parts])
    lost_to_phase(responses, hz)
    lost_to_phase(recorded, hz)
    better_turned(sounds, parts)
    notches(sounds, parts)
    band_response(mono(blended(sounds, parts)))


def cab(median_ms: Timer, line: Printer) -> None:
    """Prints all of it."""
    rng = np.random.default_rng(1)
    sounds = [impulse(speaker, placing) for _, speaker, placing in MADE]
    long = [np.concatenate((s, rng.normal(size=RATE // 2 - len(s)) * 1e-5)) for s in sounds]
    each = median_ms(lambda: [analysed(s, RATE, 0.5) for s in long], 3) / len(long)
    line("1,000 impulse responses analysed", each * MANY / 1000, "s", "aim ≤ 30 s")
    rows = rng.normal(size=(MANY, len(band_centres(RATE)))) * 3
    names = [str(n) for n in range(MANY)]
    line("1,000 thinned", median_ms(lambda: thinned(names, rows), 3) / 1000, "s", "aim ≤ 3 s")
    eight = [sounds[i] for i in (0, 2, 3, 7, 9, 11, 14, 16)]
    target = band_response(sounds[5])
    line(
        "suggestion over eight",
        median_ms(lambda: list(suggested(range(8), eight, target)), 3) / 1000,
        "s",
        "aim ≤ 3 s",
    )
    six = [np.concatenate((s, np.zeros(RATE - len(s)))) for s in sounds[:6]]
    parts = [BlendPart(n, delay=0.137 * n) for n in range(6)]
    line("a blend of six, of a second each, answered", median_ms(lambda: _answer(six, parts), 9), "ms", "aim ≤ 60 ms")
    line("six brought into line by best sum", median_ms(lambda: by_best_sum(six, parts), 5), "ms", "")
    take, half = rng.normal(size=10 * RATE), mono(blended(long[:2], parts[:2]))[:, None]
    line("10 s through half a second", median_ms(lambda: through(take, half), 9), "ms", "aim ≤ 150 ms")
    line("a filter fitted", median_ms(lambda: fitted_filter(PLAIN_FILTER, target), 5), "ms", "")
    guitar = power_stage(picked_up(riff(7.0)), 16.0)
    other = sum(backing(part)[: len(guitar)] for part in PARTS)
    loud = loud_parts(guitar)
    line(
        "7 s in the mix, through a blend",
        median_ms(lambda: heard_in_mix(through(guitar, half)[:, 0], other, loud), 9),
        "ms",
        "",
    )
