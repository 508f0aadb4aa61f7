"""The API: one module a section, each with the models of its requests and answers and its routes."""

from low_tide.web.api import (
    attachments,
    bench,
    cab,
    capture,
    compare,
    data,
    everywhere,
    faults,
    feel,
    first,
    locker,
    log,
    loudness,
    mixes,
    run,
    shoot_out,
    sweeps,
)
from low_tide.web.api.base import api

__all__ = [
    "api",
    "attachments",
    "bench",
    "cab",
    "capture",
    "compare",
    "data",
    "everywhere",
    "faults",
    "feel",
    "first",
    "locker",
    "log",
    "loudness",
    "mixes",
    "run",
    "shoot_out",
    "sweeps",
]
