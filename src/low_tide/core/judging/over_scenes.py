"""A hook-up judged in each of its scenes: it is clear only where all of them are."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace

from low_tide.core.judging.checks import Case, run_all
from low_tide.core.judging.findings import RANK, Finding, Fix, Verdict, verdict
from low_tide.core.rig.changes import Change, SetControl, SetScene
from low_tide.core.rig.hookup import Scene
from low_tide.core.rig.scenes import in_scene


@dataclass(frozen=True)
class InScene:
    """A scene, the case as it is in it, what was found there, and its verdict.

    One that cannot be set as it says is at least a caution: what it would be is not known.
    """

    scene: Scene
    case: Case
    findings: tuple[Finding, ...]
    verdict: Verdict


def in_scenes(case: Case, found: tuple[Finding, ...]) -> tuple[InScene, ...]:
    """Every scene of the hook-up, judged by itself. `found`: what was found as the hook-up stands."""
    return tuple(_in_scene(case, scene, found) for scene in case.rig.hookup.scenes)


def _in_scene(case: Case, scene: Scene, found: tuple[Finding, ...]) -> InScene:
    there = replace(case, rig=in_scene(case.rig, scene))
    own = (f for f in found if f.id == "scene-amiss" and f.which == scene.name)
    findings = run_all(there)
    return InScene(scene, there, findings, verdict((*findings, *own)))


def over_scenes(found: tuple[Finding, ...], scenes: Iterable[InScene]) -> tuple[Finding, ...]:
    """What was found as the hook-up stands, and cautions and stops that only scenes have, told with their names.

    What scenes have as well is told once, and mended in them too.
    """
    told = {(_about(each), each.text): list[Scene]() for each in found}
    among: dict[object, list[InScene]] = {}
    first: dict[object, Finding] = {}
    for there in scenes:
        for each in there.findings:
            key = (_about(each), each.text, each.severity)
            if key[:2] in told:
                told[key[:2]].append(there.scene)
                continue
            if RANK[each.severity] < RANK["caution"]:
                continue
            first.setdefault(key, each)
            among.setdefault(key, []).append(there)
    added = (_told_of(first[key], [there.scene for there in those]) for key, those in among.items())
    shared = (_mended_in(each, told[_about(each), each.text]) for each in found)
    return tuple(sorted((*shared, *added), key=lambda f: -RANK[f.severity]))


def _about(finding: Finding) -> tuple[object, ...]:
    return finding.id, finding.units, finding.leads, finding.which


def _mended_in(finding: Finding, scenes: list[Scene]) -> Finding:
    """A finding that scenes have as well, its fixes made in those too that hold what is moved."""
    fixes = (
        Fix(_label(fix, scenes, " too"), (*fix.changes, *_to_scenes(fix.changes, scenes))) for fix in finding.fixes
    )
    return replace(finding, fixes=tuple(fixes)) if scenes else finding


def _told_of(finding: Finding, scenes: list[Scene]) -> Finding:
    names = [f"“{scene.name}”" for scene in scenes]
    of = f"Scene {names[0]}" if len(names) == 1 else f"Scenes {', '.join(names[:-1])} and {names[-1]}"
    return replace(
        finding,
        text=f"{of}: {finding.text}",
        scenes=tuple(scene.name for scene in scenes),
        fixes=tuple(Fix(_label(fix, scenes), aimed(fix.changes, scenes)) for fix in finding.fixes),
    )


def _holders(change: Change, scenes: list[Scene]) -> list[Scene]:
    """Scenes that say where the control stands which a change moves."""
    if not isinstance(change, SetControl):
        return []
    return [scene for scene in scenes if scene.sets(change.unit, change.control)]


def _label(fix: Fix, scenes: list[Scene], too: str = "") -> str:
    held = list(dict.fromkeys(scene.name for change in fix.changes for scene in _holders(change, scenes)))
    return f"{fix.label}, in {' and '.join(f'“{name}”' for name in held)}{too}" if held else fix.label


def aimed(changes: tuple[Change, ...], scenes: list[Scene]) -> tuple[Change, ...]:
    """Changes that mend a scene, made to the hook-up and, where a scene holds a control itself, to that scene."""
    return (*_to_hookup(changes, scenes), *_to_scenes(changes, scenes))


def _to_hookup(changes: tuple[Change, ...], scenes: list[Scene]) -> Iterator[Change]:
    return (change for change in changes if len(_holders(change, scenes)) < len(scenes))


def _to_scenes(changes: tuple[Change, ...], scenes: list[Scene]) -> Iterator[Change]:
    moved = {(c.unit, c.control): c.value for c in changes if isinstance(c, SetControl)}
    for scene in scenes:
        settings = tuple(
            replace(each, value=moved.get((each.unit, each.control), each.value)) for each in scene.settings
        )
        if settings != scene.settings:
            yield SetScene(replace(scene, settings=settings), scene.name)
