"""A server that is gone at a step of a restore: DIE_AT=step:n kills it at the n-th time it comes there."""

from __future__ import annotations

import os
import signal
import sys
from typing import Any

from low_tide import cli
from low_tide.store import restoring


def die_at(step: str, times: int) -> None:
    """Put a mortal function in place of one the restore takes its steps with."""
    where, _, name = step.rpartition(".")
    module = os if where == "os" else restoring
    real, calls = getattr(module, name), [0]

    def dies(*args: Any, **kwargs: Any) -> Any:
        calls[0] += 1
        if calls[0] > times:
            os.kill(os.getpid(), signal.SIGKILL)
        return real(*args, **kwargs)

    setattr(module, name, dies)


if __name__ == "__main__":
    step, _, times = os.environ["DIE_AT"].rpartition(":")
    if step != "os.replace":
        die_at(step, int(times))
    else:  # the rest of the program replaces files too, a restore only its pointer
        real = restoring._point_at

        def swap(*args: Any) -> None:
            die_at("os.replace", 0)
            real(*args)

        restoring._point_at = swap
    sys.exit(cli.main(["serve"]))
