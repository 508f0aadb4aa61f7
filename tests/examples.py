"""How many examples a test takes: as it says in `make test`, ten times as many in `make test-long`."""

from __future__ import annotations

import os
from collections.abc import Sequence
from typing import TypeVar

TIMES = int(os.environ.get("LOW_TIDE_EXAMPLES", "1"))


def many(examples: int) -> int:
    """So many examples, times what the run asks for."""
    return examples * TIMES


Each = TypeVar("Each")


def spread(these: Sequence[Each], most: int) -> Sequence[Each]:
    """So many of them at the most, as evenly as they lie."""
    count = min(len(these), many(most))
    return [these[i * len(these) // count] for i in range(count)]
