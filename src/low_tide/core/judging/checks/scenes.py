"""Scenes that cannot be set as they say."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.judging.checks.registry import Case, check
from low_tide.core.judging.findings import Finding, Fix
from low_tide.core.rig.changes import SetScene
from low_tide.core.rig.scenes import amiss, cannot, cleaned

FAMILY = "Scenes"


@check(
    "scene-amiss",
    FAMILY,
    "A scene moves what is gone, taped, or not to be moved while the amp is on.",
    reads=("leads", "speaker", "signal", "scenes"),
)
def scene_amiss(case: Case) -> Iterator[Finding]:
    rig = case.rig
    for scene in rig.hookup.scenes:
        out = amiss(rig, scene)
        if not out:
            continue
        yield Finding(
            id="scene-amiss",
            severity="caution",
            text=cannot(scene, out),
            reason="The rest of it is judged; what it would be with that, nobody has looked at.",
            units=tuple(dict.fromkeys(each.unit for each in out if rig.has(each.unit))),
            which=scene.name,
            fixes=(Fix(f"Take it out of scene “{scene.name}”", (SetScene(cleaned(rig, scene), scene.name),)),),
        )
