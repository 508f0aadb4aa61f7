"""A step of a run sheet: what is done, what should be seen, what may be read off there, and what is waited for."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Literal, TypeAlias

from low_tide.core.session.expected import Expected

Phase: TypeAlias = Literal["leave", "before", "switch_on", "bring_up", "capture", "switch_off"]

PHASES: dict[str, str] = {
    "leave": "Leave what stands",
    "before": "Before switching on",
    "switch_on": "Switch on",
    "bring_up": "Bring it up",
    "capture": "Capture",
    "switch_off": "Switch off",
}
FIRST: frozenset[str] = frozenset({"leave", "before"})
"""Phases that are gone through before an amp may be marked as switched on."""

WaitKind: TypeAlias = Literal["warm_up", "dark"]

Does: TypeAlias = Literal[
    "",
    "turn_down",
    "amp_off",
    "speaker_lead",
    "line_lead",
    "ohms",
    "line_on",
    "box_on",
    "amp_on",
    "standby",
    "softly",
    "working_level",
    "record",
    "box_off",
    "stay_plugged",
]
"""What a step does, where something must come before or after it; empty where its time within a phase is free."""


@dataclass(frozen=True)
class Wait:
    """What doing a step begins to wait for: how long (s), and in words what for."""

    kind: WaitKind
    seconds: float
    words: str


@dataclass(frozen=True)
class Step:
    """One thing to do, and what should be seen. `id` changes with the words, so a tick never outlives them.

    `reads`: what can be read off there and held against what is expected. `wait`: what begins when it is done. `does`:
    what of its kind it is.
    """

    id: str
    phase: Phase
    text: str
    expect: str
    units: tuple[str, ...] = ()
    reads: Expected | None = None
    wait: Wait | None = None
    does: Does = ""


def step(
    phase: Phase,
    text: str,
    expect: str = "",
    units: tuple[str, ...] = (),
    reads: Expected | None = None,
    wait: Wait | None = None,
    does: Does = "",
) -> Step:
    """A step with the id that its words give it."""
    digest = hashlib.sha256(f"{phase}|{text}|{expect}".encode()).hexdigest()[:12]
    return Step(digest, phase, text, expect, units, reads, wait, does)
