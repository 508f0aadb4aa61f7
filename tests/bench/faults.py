"""How often the finder of faults finds them, and how long a step of it takes."""

from __future__ import annotations

import random
from collections.abc import Callable

from low_tide.core.fault_finding.search import search
from tests.core.finding_faults import by_hand, by_table, play, rate, searches, situations

ROUNDS = 3
"""Each fault is drawn so often where chance is in it."""


def faults(median_ms: Callable[..., float], line: Callable[..., None]) -> None:
    """Over every hook-up of the lightship: faults by physics and by hand, and drawn from the finder's tables."""
    there = situations()
    every = searches(there)
    line("a step of a search, seven answers in", median_ms(lambda: _step(there), 9), "ms")
    measures = (
        ("by physics and by hand, 6 tests", 6, lambda _: by_hand, 0.0, "aim ≥ 95 %"),
        ("  the same, 5 % of the answers wrong, 6 tests", 6, lambda _: by_hand, 0.05, "aim ≥ 85 %"),
        ("  the same, 5 % of the answers wrong, 10 tests", 10, lambda _: by_hand, 0.05, "aim ≥ 95 %"),
        ("drawn from the tables, 6 tests", 6, by_table, 0.0, "aim ≥ 95 %"),
        ("  their odds disturbed by ± 30 %, 6 tests", 6, lambda rng: by_table(rng, 0.3), 0.0, "aim ≥ 95 %"),
        ("  drawn, 5 % besides wrong, 6 tests", 6, by_table, 0.05, "aim ≥ 85 %"),
        ("  drawn, 5 % besides wrong, 10 tests", 10, by_table, 0.05, "aim ≥ 95 %"),
    )
    for what, tests, answerer, wrong, aim in measures:
        played = [
            each for seed in range(ROUNDS) for each in play(every, tests, answerer(random.Random(seed)), wrong, seed)
        ]
        line(f"true cause among the first two: {what}", 100 * rate(played), "%", aim)


def _step(there: dict) -> object:
    answers = [(f"own:{each}", "no") for each in ("standby", "no-mains", "amp-down", "track-off", "guitar-down")]
    return search(there["quiet-hold"], "nothing", [*answers, ("lamp", "yes"), ("sounds_there", "yes")])
