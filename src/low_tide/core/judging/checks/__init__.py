"""The checks, a module for each family. Importing this package registers them in the order they are told."""

from low_tide.core.judging.checks import (  # noqa: F401, I001
    load,
    lost_load,
    match,
    power,
    leads,
    movements,
    level,
    clock,
    earth,
    speaker_sound,
    monitoring,
    effects,
    loudness,
    people,
    scenes,
)
from low_tide.core.judging.checks.registry import REGISTRY, Case, Check, run_all

__all__ = ["REGISTRY", "Case", "Check", "run_all"]
