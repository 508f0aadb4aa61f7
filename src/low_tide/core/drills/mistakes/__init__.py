"""Kinds of mistake, a module for each stretch of a hook-up. Importing this package registers them in this order."""

from low_tide.core.drills.mistakes import speaker_side, leads, along_the_line, in_the_room  # noqa: F401, I001
from low_tide.core.drills.mistakes.registry import MISTAKES, Mistake, Twist

__all__ = ["MISTAKES", "Mistake", "Twist"]
