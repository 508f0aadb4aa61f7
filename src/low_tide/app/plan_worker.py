"""A process of its own that lays a plan out: searching takes all of a processor, and edits must not wait for it.

Reads one problem from its input, writes better and better plans to its output, and ends when its input is closed.
"""

from __future__ import annotations

import os
import pickle
import sys
import threading
import time
from dataclasses import dataclass
from typing import BinaryIO

from low_tide.core.planning.layout import Effort, laid_out
from low_tide.core.planning.problem import Problem


@dataclass(frozen=True)
class Task:
    """What is to be laid out: how hard it is looked for, in so many seconds at most."""

    problem: Problem
    effort: Effort
    seconds: float


def _end_with(stream: BinaryIO) -> None:
    stream.read()
    os._exit(0)


def main() -> None:
    """Lay one problem out."""
    task: Task = pickle.load(sys.stdin.buffer)
    threading.Thread(target=_end_with, args=(sys.stdin.buffer,), daemon=True).start()
    until = time.monotonic() + task.seconds
    for layout in laid_out(task.problem, task.effort, lambda: until - time.monotonic()):
        pickle.dump(layout, sys.stdout.buffer)
        sys.stdout.buffer.flush()
    # What is left to be tidied up is the system's.
    os._exit(0)


if __name__ == "__main__":
    main()
