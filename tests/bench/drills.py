"""How long it takes to make a drill, of each kind, from a locker looked at for the first time and again."""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable
from random import Random

from low_tide.app.drill_making import made
from low_tide.core.drills.bases import Stock, stock
from low_tide.core.drills.cards import CARDS, KINDS
from low_tide.core.drills.ears import ear, heard
from low_tide.core.preferences import Preferences
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS

EACH = 40
ANEW_EVERY = 10


def drills(line: Callable[..., None]) -> None:
    """Median and the slowest of ten, for each kind; what cannot be made counts as long as it took to find out."""
    for cold in (True, False):
        of = _stock(warm=not cold)
        for kind in KINDS:
            lots, spent = Random(5), []
            able = [card.id for card in CARDS.values() if kind in card.kinds]
            for n in range(EACH):
                if cold and n % ANEW_EVERY == 0:
                    of = _stock(warm=False)
                start = time.perf_counter()
                made(kind, lots.choice(able), of, 1 + n % 3, lots)
                spent.append(1000 * (time.perf_counter() - start))
            spent.sort()
            what = f"a drill made, {KINDS[kind].name.lower()}, {'first' if cold else 'again'}"
            line(what, statistics.median(spent), "ms", f"aim ≤ 150; of ten the slowest {spent[-EACH // 10]:.0f} ms")
    pair = ear("ear-resistor", GEAR, 1, Random(1))
    assert pair is not None
    start = time.perf_counter()
    heard(pair)
    line("its two sounds", 1000 * (time.perf_counter() - start), "ms")


def _stock(warm: bool) -> Stock:
    found = stock(GEAR, HOOKUPS, Preferences())
    for number in range(len(found.recipes)) if warm else ():
        found.sound(number)
    return found
