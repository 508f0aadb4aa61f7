"""How many generated examples a test takes: as it says in `make test`, ten times as many in `make test-long`."""

from __future__ import annotations

import os

TIMES = int(os.environ.get("LOW_TIDE_EXAMPLES", "1"))


def many(examples: int) -> int:
    """So many examples, times what the run asks for."""
    return examples * TIMES
