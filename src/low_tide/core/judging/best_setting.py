"""The best setting of a line, offered only where the hook-up is no worse for it."""

from __future__ import annotations

from dataclasses import replace

from low_tide.core.judging.judge import Judgement, judge, worsened
from low_tide.core.judging.over_scenes import aimed
from low_tide.core.preferences import Preferences
from low_tide.core.rig.hookup import Scene
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.scenes import in_scene
from low_tide.core.signal_path.gain_staging import LineLadder, ladders


def judged_ladders(
    rig: Rig, preferences: Preferences | None = None, playing_range: float | None = None
) -> tuple[LineLadder, ...]:
    """The lines to all inputs as they stand, each with the best setting for the loudest of its scenes.

    One that would bring a caution or a stop, in any scene, is told and not offered.
    """
    found = _for_the_loudest(rig, ladders(rig, playing_range), playing_range)
    judged = judge(rig, preferences) if any(each.best for each in found) else None
    return tuple(_judged(each, judged) if judged else each for each in found)


def _for_the_loudest(rig: Rig, found: tuple[LineLadder, ...], playing_range: float | None) -> tuple[LineLadder, ...]:
    """The same lines; where a scene is louder at an input, what is best is best for that."""
    loudest: dict[str, tuple[LineLadder, Scene | None]] = {each.input: (each, None) for each in found}
    for scene in rig.hookup.scenes:
        for each in ladders(in_scene(rig, scene), playing_range):
            known = loudest.get(each.input)
            if known and each.peak is not None and (known[0].peak is None or each.peak > known[0].peak):
                loudest[each.input] = (each, scene)
    return tuple(_best_of(each, *loudest[each.input]) for each in found)


def _best_of(found: LineLadder, there: LineLadder, scene: Scene | None) -> LineLadder:
    if scene is None:
        return found
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
