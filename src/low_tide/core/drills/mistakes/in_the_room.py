"""Mistakes of hour, level and heat: whom it wakes, whom it deafens, what it cooks."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from low_tide.core.drills.mistakes.registry import Twist, mistake
from low_tide.core.drills.mistakes.ways import moved
from low_tide.core.rig.changes import SetOccasion
from low_tide.core.rig.rig import Rig

HOURS = ("10:00", "14:00", "18:00", "20:00", "21:30", "23:00", "02:00")


@mistake(
    "quiet-hours",
    "Into the quiet hours",
    "A place's limit holds by its hour: what is fine at noon wakes somebody at night.",
    "in-the-room",
    ("over-limit", "not-silent"),
    "a place with a limit by the hour, and a cabinet that plays",
    shows=False,
)
def quiet_hours(rig: Rig) -> Iterator[Twist]:
    """The hour of the session moved."""
    now = rig.hookup.occasion
    for hour in HOURS:
        if hour != now.hour:
            yield Twist(
                (SetOccasion(replace(now, hour=hour)),), tuple(u for u, _ in rig.cabinets()), (SetOccasion(now),)
            )


@mistake(
    "too-long",
    "Too long for one's ears",
    "Three decibels more halve the time one may listen, by the strictest school.",
    "ears",
    ("dose", "headphones-loud"),
    "a place at which one listens, or headphones",
    shows=False,
)
def too_long(rig: Rig) -> Iterator[Twist]:
    """The session made longer."""
    now = rig.hookup.occasion
    for hours in (0.5, 1.0, 2.0, 4.0, 8.0, 12.0):
        if hours > now.hours:
            changes = (SetOccasion(replace(now, hours=hours)),)
            yield Twist(changes, tuple(u for u, _ in rig.cabinets()), (SetOccasion(now),), hours / now.hours)


@mistake(
    "no-air",
    "No air around it",
    "What takes the power becomes that hot: air all round, and nothing on top.",
    "heat",
    ("runs-hot",),
    "a load or attenuator that grows hot",
)
def no_air(rig: Rig) -> Iterator[Twist]:
    """A box stacked."""
    return moved(rig, lambda unit, control: control.id == "air")
