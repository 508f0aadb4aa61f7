"""How boxes of a plan warm and cool: one thermal mass each, by superposition."""

from __future__ import annotations

from math import ceil, exp, inf, log

from low_tide.core.planning.problem import Box, Doing, Job, JobStretch, Problem

HEADROOM = 0.05
"""What a long stretch leaves of a box's limit, so that one which is not quite cold may be played so again."""
LEAST_REST = 0.5
"""A rest within a job lasts until the box has cooled to this part of its rise."""


def after(rise: float, settles: float, slots: float, tau: float) -> float:
    """A box's rise (K) after so many slots of being played, or, where it settles at 0, of rest."""
    return settles + (rise - settles) * exp(-slots / tau)


def with_rests(
    doing: tuple[tuple[Doing, int], ...], heats: tuple[tuple[Box, float], ...]
) -> tuple[JobStretch, ...] | str:
    """Stretches that keep every box under its limit from cold, with rests put in; a name where a box cannot be played
    for a single slot."""
    coldest = min(heats, key=lambda heat: _fits(0.0, *heat), default=None)
    if coldest is not None and _fits(0.0, *coldest) < 1:
        return coldest[0].name
    found: list[JobStretch] = []
    rises = [0.0] * len(heats)
    for what, slots in doing:
        left = slots
        while left:
            fits = min((_fits(rise, *heat) for rise, heat in zip(rises, heats, strict=True)), default=inf)
            now = int(min(left, fits)) if fits >= 1 else _rest(heats)
            sounds = fits >= 1
            found.append(JobStretch(what if sounds else "rest", now))
            rises = [
                after(rise, settles if sounds else 0.0, now, box.tau)
                for rise, (box, settles) in zip(rises, heats, strict=True)
            ]
            left -= now if sounds else 0
    return tuple(found)


def _rest(heats: tuple[tuple[Box, float], ...]) -> int:
    return max(1, ceil(max(box.tau for box, _ in heats) * log(1 / LEAST_REST)))


def _fits(rise: float, box: Box, settles: float) -> float:
    """Whole slots that a box can be played for from a rise until it is near its limit."""
    limit = box.limit * (1 - HEADROOM)
    if rise >= limit:
        return 0
    if settles <= limit:
        return inf
    return int(box.tau * log((settles - rise) / (settles - limit)) + 1e-9)


def peaks(problem: Problem, job: Job, index: int, box: int, settles: float) -> tuple[tuple[int, float], ...]:
    """How hot (K) a job makes a box from cold, at the end of each stretch it is played in: (slots from its beginning,
    rise)."""
    tau, rise, at, found = problem.boxes[box].tau, 0.0, 0, []
    for start, stop in problem.sounding[index]:
        rise = after(after(rise, 0.0, start - at, tau), settles, stop - start, tau)
        found.append((stop, rise))
        at = stop
    return tuple(found)


def wait_for(rise: float, tau: float, limit: float, peaks: tuple[tuple[int, float], ...]) -> float:
    """Slots a job waits so that a box that is so warm (K) now stays within its limit all through it."""
    longest = 0.0
    for at, peak in peaks:
        room = limit - peak
        left = rise * exp(-at / tau)
        if left > room:
            longest = max(longest, inf if room <= 0 else tau * log(left / room))
    return longest
