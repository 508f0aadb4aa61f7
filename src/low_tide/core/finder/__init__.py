"""Searching over hook-ups: from a wish and what is owned to ranked proposals that pass the same checks."""

from low_tide.core.finder.search import Answer, Progress, search
from low_tide.core.finder.wish import GOALS, GoalInfo, Proposal, RuledOut, Specification, WayAdvice, Wish

__all__ = [
    "GOALS",
    "Answer",
    "GoalInfo",
    "Progress",
    "Proposal",
    "RuledOut",
    "Specification",
    "WayAdvice",
    "Wish",
    "search",
]
