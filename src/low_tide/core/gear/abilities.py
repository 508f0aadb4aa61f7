"""What gear of several kinds can do or be: asked of any unit, so that a new kind has it by its fields alone."""

from __future__ import annotations

from typing import Protocol, runtime_checkable

from low_tide.core.gear.line_out import LineOut


@runtime_checkable
class IsRated(Protocol):
    """Stands so many watts, and of what kind they are."""

    @property
    def rating(self) -> float | None:
        """Watts; None where they are not known."""

    @property
    def rating_kind(self) -> str:
        """What the watts mean: continuous, of an amp's label, not known."""


# These a judgement asks of every unit again and again, and a protocol is slow to answer: so by the field's name.


def line_out_of(unit: object) -> LineOut | None:
    """The line output of a unit, if it has one."""
    found: LineOut | None = getattr(unit, "line_out", None)
    return found


def is_reactive_load(unit: object) -> bool:
    """Whether a unit loads an amp as a speaker does."""
    return getattr(unit, "behaviour", "") == "reactive"


def needs_phantom(unit: object) -> bool:
    """Whether a unit gives nothing without 48 V phantom on its output."""
    return getattr(unit, "phantom", "") == "needs"
