"""The best setting of a line, offered only where the hook-up is no worse for it."""

from __future__ import annotations

from dataclasses import replace
from math import inf

from low_tide.core.judging.judge import Judgement, judge, worsened
from low_tide.core.judging.over_scenes import aimed
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import Scene
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.scenes import in_scene
from low_tide.core.signal_path.gain_staging import LineLadder, as_it_stands, ladder
from low_tide.core.signal_path.levels import LinePoint, levels


def judged_ladders(
    rig: Rig, preferences: Preferences | None = None, playing_range: float | None = None
) -> tuple[LineLadder, ...]:
    """The lines to all inputs as they stand, each with the best setting for the loudest of its scenes.

    One that would bring a caution or a stop, in any scene, is told and not offered.
    """
    scenes = [(scene, in_scene(rig, scene)) for scene in rig.hookup.scenes]
    found = [_for_the_loudest(rig, point, scenes, playing_range) for point in levels(rig).line_points]
    judged = judge(rig, preferences) if any(each.best for each in found) else None
    return tuple(_judged(each, judged) if judged else each for each in found)


def _for_the_loudest(
    rig: Rig, point: LinePoint, scenes: list[tuple[Scene, Rig]], playing_range: float | None
) -> LineLadder:
    """The line to an input; where a scene is louder there, what is best is best for that."""
    loudest, most = None, -inf if point.dbfs is None else point.dbfs
    for scene, there in scenes:
        for same in levels(there).line_points:
            if same.input == point.input and same.dbfs is not None and same.dbfs > most:
                loudest, most = (scene, there, same), same.dbfs
    if loudest is None:
        return ladder(rig, point, playing_range)
    scene, there, same = loudest
    return _best_of(as_it_stands(rig, point, playing_range), ladder(there, same, playing_range), scene)


def _best_of(found: LineLadder, there: LineLadder, scene: Scene) -> LineLadder:
    best = there.best and replace(
        there.best,
        label=f"{there.best.label}, for scene “{scene.name}”",
        changes=aimed(there.best.changes, [scene]),
    )
    return replace(found, best=best, no_best=there.no_best and f"In scene “{scene.name}”: {there.no_best}")


def _judged(found: LineLadder, judged: Judgement) -> LineLadder:
    if found.best is None:
        return found
    worse = worsened(found.best.changes, judged)
    if worse == ():
        return found
    why = worse[0].text if worse else "It cannot be set so."
    return replace(found, best=None, no_best=f"{found.best.label} would be best for this line, but: {why}")
