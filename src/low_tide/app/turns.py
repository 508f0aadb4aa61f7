"""Whose turn it is: work that nobody waits for at the moment gives way to what somebody does.

Python runs one thread at a time, so an answer that takes long would make a short one, asked for meanwhile, take twice
its time.
"""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager

AT_MOST_S = 2.0
"""No work is held up longer than this at one place, however many edits follow each other."""

_turn = threading.Condition()
_before: list[int] = [0]


@contextmanager
def first() -> Iterator[None]:
    """While it lasts, work of other threads that gives way stands still."""
    with _turn:
        _before[0] += 1
    try:
        yield
    finally:
        with _turn:
            _before[0] -= 1
            _turn.notify_all()


def give_way() -> None:
    """Wait while somebody is first."""
    with _turn:
        _turn.wait_for(lambda: _before[0] == 0, AT_MOST_S)
