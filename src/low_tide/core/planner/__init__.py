"""Searching over hook-ups: from a wish and what is owned to ranked proposals that pass the same checks."""

from low_tide.core.planner.search import Answer, Progress, search
from low_tide.core.planner.wish import GOAL_NAMES, Proposal, RuledOut, Specification, WayAdvice, Wish

__all__ = [
    "GOAL_NAMES",
    "Answer",
    "Progress",
    "Proposal",
    "RuledOut",
    "Specification",
    "WayAdvice",
    "Wish",
    "search",
]
