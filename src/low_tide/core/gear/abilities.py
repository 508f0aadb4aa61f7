"""What gear of several kinds can do or be: asked of any unit, so that a new kind has it by its fields alone."""

from __future__ import annotations

from typing import Protocol, runtime_checkable

from low_tide.core.gear.line_out import LineOut


@runtime_checkable
class HasLineOut(Protocol):
    """Has a line output of its own, or may have one."""

    @property
    def line_out(self) -> LineOut | None:
        """The line output; None where this one has none."""


@runtime_checkable
class BehavesAsLoad(Protocol):
    """Loads an amp, by a resistance or by something that behaves as a speaker does."""

    @property
    def behaviour(self) -> str:
        """'resistive' or 'reactive'."""


@runtime_checkable
class AnswersPhantom(Protocol):
    """Says what 48 V phantom on its output does: needs, tolerates, hurts, or not known."""

    @property
    def phantom(self) -> str:
        """'needs', 'tolerates', 'hurts' or 'unknown'."""


@runtime_checkable
class IsRated(Protocol):
    """Stands so many watts, and of what kind they are."""

    @property
    def rating(self) -> float | None:
        """Watts; None where they are not known."""

    @property
    def rating_kind(self) -> str:
        """What the watts mean: continuous, of an amp's label, not known."""


def line_out_of(unit: object) -> LineOut | None:
    """The line output of a unit, if it has one."""
    return unit.line_out if isinstance(unit, HasLineOut) else None


def is_reactive_load(unit: object) -> bool:
    """Whether a unit loads an amp as a speaker does."""
    return isinstance(unit, BehavesAsLoad) and unit.behaviour == "reactive"


def needs_phantom(unit: object) -> bool:
    """Whether a unit gives nothing without 48 V phantom on its output."""
    return isinstance(unit, AnswersPhantom) and unit.phantom == "needs"
