"""Every cause that is known, from the guitar to the ears."""

from low_tide.core.fault_finding.causes import amp, guitar, hearing, input, line, software, speaker_side
from low_tide.core.fault_finding.causes.registry import CAUSES, EFFORT, STRETCHES, TOUCHES_LEADS, Cause, Own, Way

__all__ = [
    "CAUSES",
    "EFFORT",
    "STRETCHES",
    "TOUCHES_LEADS",
    "Cause",
    "Own",
    "Way",
    "amp",
    "guitar",
    "hearing",
    "input",
    "line",
    "software",
    "speaker_side",
]
