"""Listening without knowing: which take lies behind which letter, which one is played, and how often it was told.

Draws are made here and kept while they are in use, so that no page has to be trusted with its own examination.
"""

from __future__ import annotations

import secrets
from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass, replace

from low_tide.app import log
from low_tide.app.errors import Invalid, NotFound
from low_tide.core.units import figure

MOST_DRAWS = 60
_lot = secrets.SystemRandom()


@dataclass(frozen=True)
class BlindTest:
    """Takes by name, and in `order` the number of the take behind each letter.

    `hidden`: the take to be told, None between rounds. `right` of `rounds` were told; `said` and `score` are that in
    words.
    """

    id: str
    names: tuple[str, ...]
    order: tuple[int, ...]
    hidden: int | None = None
    right: int = 0
    rounds: int = 0
    said: str = ""
    score: str = ""


_tests: OrderedDict[str, BlindTest] = OrderedDict()


def _kept(test: BlindTest) -> BlindTest:
    _tests[test.id] = test
    while len(_tests) > MOST_DRAWS:
        _tests.popitem(last=False)
    return test


def _found(test_id: str) -> BlindTest:
    test = _tests.get(test_id)
    if test is None:
        raise NotFound("This blind test has gone; begin another.")
    return test


def _order(count: int) -> tuple[int, ...]:
    order = list(range(count))
    _lot.shuffle(order)
    return tuple(order)


def begin(names: Sequence[str]) -> BlindTest:
    """A test with these takes, in an order drawn by lot."""
    if len(names) < 2:
        raise Invalid("Takes: at least two are wanted to choose from.")
    return _kept(BlindTest(secrets.token_hex(8), tuple(names), _order(len(names))))


def shuffle(test_id: str) -> BlindTest:
    """The same takes behind other letters; what was told so far stays."""
    test = _found(test_id)
    return _kept(replace(test, order=_order(len(test.names))))


def ask(test_id: str) -> BlindTest:
    """Draw a take to be told."""
    test = _found(test_id)
    return _kept(replace(test, hidden=_lot.randrange(len(test.names)), said=""))


def guess(test_id: str, take: int) -> BlindTest:
    """Say which take was played, and hear whether that was right."""
    test = _found(test_id)
    if test.hidden is None:
        raise Invalid("Guess: nothing is hidden at the moment; have one played first.")
    if not 0 <= take < len(test.names):
        raise Invalid(f"Guess: 0 to {len(test.names) - 1} is wanted, this is {take}.")
    was, right = test.names[test.hidden], take == test.hidden
    rounds, told = test.rounds + 1, test.right + right
    said = f"Right: it was {was}." if right else f"It was {was}, not {test.names[take]}."
    score = f"{told} of {rounds} right; guessing would get about {figure(rounds / len(test.names), 2)}."
    return _kept(replace(test, hidden=None, right=told, rounds=rounds, said=said, score=score))


def note(test_id: str, letter: int, damping: float) -> log.LogLine:
    """Write into the log which take was picked without knowing, and over which others."""
    test = _found(test_id)
    if not 0 <= letter < len(test.order):
        raise Invalid(f"Pick: 0 to {len(test.order) - 1} is wanted, this is {letter}.")
    picked = test.order[letter]
    others = ", ".join(name for i, name in enumerate(test.names) if i != picked)
    score = f"; told apart {test.right} of {test.rounds} times" if test.rounds else ""
    how = f"damping factor {figure(damping)}, matched in level{score}"
    return log.write_line(f"Load feel, blind: picked {test.names[picked]} over {others} ({how})."[:1000])
