"""The best setting of a line, offered only where the hook-up is no worse for it."""

from __future__ import annotations

from dataclasses import replace

from low_tide.core.judging.judge import Judgement, judge, worsened
from low_tide.core.preferences import Preferences
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.gain_staging import LineLadder, ladders


def judged_ladders(
    rig: Rig, preferences: Preferences | None = None, playing_range: float | None = None
) -> tuple[LineLadder, ...]:
    """The lines to all inputs; a best setting that would bring a caution or a stop is told and not offered."""
    found = ladders(rig, playing_range)
    judged = judge(rig, preferences) if any(each.best for each in found) else None
    return tuple(_judged(each, judged) if judged else each for each in found)


def _judged(found: LineLadder, judged: Judgement) -> LineLadder:
    if found.best is None:
        return found
    worse = worsened(found.best.changes, judged)
    if worse == ():
        return found
    why = worse[0].text if worse else "It cannot be set so."
    return replace(found, best=None, no_best=f"{found.best.label} would be best for this line, but: {why}")
