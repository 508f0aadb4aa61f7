"""Scenes of a hook-up: which can be set as they say, and the rig as it is in one."""

from __future__ import annotations

from collections import Counter
from collections.abc import Container, Iterator
from dataclasses import dataclass, replace

from low_tide.core.gear.base import Setting
from low_tide.core.inventory import Lead, Pedal
from low_tide.core.rig.hookup import End, Hookup, HookupError, Link, Scene, SetAt
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import problems
from low_tide.core.rig.words import control_words, shown


@dataclass(frozen=True)
class Amiss:
    """One thing in a scene that cannot be as it says: a control of a unit, or, without one, the unit in its order."""

    unit: str
    control: str
    said: str


def scene_of(hookup: Hookup, name: str) -> Scene:
    """The scene of that name. Raises HookupError, which names those there are."""
    found = next((scene for scene in hookup.scenes if scene.name == name), None)
    if found is None:
        there = ", ".join(f"“{scene.name}”" for scene in hookup.scenes)
        raise HookupError([f"There is no scene “{name}” here; {f'there is {there}' if there else 'it has none'}."])
    return found


def with_scene(hookup: Hookup, scene: Scene, was: str = "") -> Hookup:
    """The hook-up with one more scene, or with it in the place of another. Raises HookupError where `was` is none."""
    if not was:
        return replace(hookup, scenes=(*hookup.scenes, scene))
    old = scene_of(hookup, was)
    return replace(hookup, scenes=tuple(scene if each == old else each for each in hookup.scenes))


def _pedal_between(rig: Rig, unit: str) -> bool:
    """Whether a unit is a pedal with one way through it and a lead in either socket."""
    gear = rig.gear[unit]
    if not isinstance(gear, Pedal) or gear.stereo != "mono":
        return False
    links = [rig.link_at(End(unit, socket)) for socket in ("in", "out")]
    return all(link is not None and link.b and isinstance(rig.conductor(link), Lead) for link in links)


def pedals_in_series(rig: Rig) -> tuple[tuple[str, ...], ...]:
    """Runs of two or more pedals that are plugged one after the other, each from the guitar on."""
    between = {unit for unit, _ in rig.units() if _pedal_between(rig, unit)}
    after = {unit: rig.far_end(End(unit, "out")) for unit in between}
    follows = {
        unit: end.unit for unit, end in after.items() if end is not None and end.socket == "in" and end.unit in between
    }
    found = []
    for first in (unit for unit, _ in rig.units() if unit in follows and unit not in follows.values()):
        run = [first]
        while run[-1] in follows and follows[run[-1]] not in run:
            run.append(follows[run[-1]])
        found.append(tuple(run))
    return tuple(found)


def _amiss_settings(rig: Rig, scene: Scene) -> Iterator[Amiss]:
    said_of = Counter((each.unit, each.control) for each in scene.settings)
    for each in scene.settings:
        unit, key, value = each.unit, each.control, each.value
        name = rig.gear[unit].name if unit in rig.gear else f"“{unit}”"
        control = rig.control(unit, key)
        if not rig.has(unit):
            yield Amiss(unit, key, f"{name} is not in the hook-up")
        elif control is None:
            yield Amiss(unit, key, f"{name} has no control “{key}”")
        elif not control.safe_live:
            yield Amiss(unit, key, f"{control_words(control)} of {name} is not moved while the amp is on")
        elif said_of[unit, key] > 1:
            yield Amiss(unit, key, f"it sets {control_words(control)} of {name} twice")
        elif said := control.refuses(value):
            yield Amiss(unit, key, f"{name}, {said.rstrip('.')}")
        elif rig.is_guarded(unit, key) and rig.settings(unit)[key] != value:
            yield Amiss(unit, key, f"{control_words(control)} of {name} is taped where it stands")


def _amiss_order(rig: Rig, scene: Scene) -> Iterator[Amiss]:
    runs = pedals_in_series(rig)
    for unit in scene.order:
        name = rig.gear[unit].name if unit in rig.gear else f"“{unit}”"
        run = next((run for run in runs if unit in run), None)
        if not rig.has(unit):
            yield Amiss(unit, "", f"{name} is not in the hook-up")
        elif run is None:
            yield Amiss(unit, "", f"no other pedal is plugged before or after {name}")
        elif missing := [rig.name(other) for other in run if other not in scene.order]:
            yield Amiss(unit, "", f"its order leaves out {missing[0]}, which is in series with {name}")
        elif scene.order.count(unit) > 1:
            yield Amiss(unit, "", f"its order names {name} twice")


def amiss(rig: Rig, scene: Scene) -> tuple[Amiss, ...]:
    """What of a scene cannot be as it says."""
    found = (*_amiss_settings(rig, scene), *_amiss_order(rig, scene))
    if not found and scene.order:
        plugs = problems(replace(rig.hookup, links=_reordered(rig, scene.order)), rig.gear)
        return tuple(Amiss(unit, "", said.rstrip(".")) for said in plugs[:1] for unit in scene.order)
    return found


def _reordered(rig: Rig, order: tuple[str, ...]) -> tuple[Link, ...]:
    """The leads with pedals in series in another order: every lead stays at its place in the row."""
    now: dict[str, str] = {}
    for run in pedals_in_series(rig):
        now |= dict(zip(run, (unit for unit in order if unit in run), strict=False))

    def moved(end: End | None) -> End | None:
        return replace(end, unit=now[end.unit]) if end and end.unit in now else end

    return tuple(replace(link, a=moved(link.a) or link.a, b=moved(link.b)) for link in rig.hookup.links)


def cleaned(rig: Rig, scene: Scene) -> Scene:
    """The scene without what cannot be as it says; with anything amiss in its order, without an order."""
    out = amiss(rig, scene)
    gone = {(each.unit, each.control) for each in out}
    settings = tuple(each for each in scene.settings if (each.unit, each.control) not in gone)
    return replace(scene, settings=settings, order=() if any(not each.control for each in out) else scene.order)


def within(scene: Scene, units: Container[str]) -> Scene:
    """What a scene says of some units alone."""
    settings = tuple(each for each in scene.settings if each.unit in units)
    return replace(scene, settings=settings, order=tuple(unit for unit in scene.order if unit in units))


def _set(hookup: Hookup, settings: tuple[SetAt, ...]) -> Hookup:
    by_unit: dict[str, dict[str, Setting]] = {}
    for each in settings:
        by_unit.setdefault(each.unit, {})[each.control] = each.value
    units = (replace(p, settings={**p.settings, **by_unit[p.unit]}) if p.unit in by_unit else p for p in hookup.units)
    return replace(hookup, units=tuple(units))


def put_on(rig: Rig, scene: Scene) -> Hookup:
    """The hook-up set as a scene says. Raises HookupError where something of it cannot be."""
    if out := amiss(rig, scene):
        raise HookupError([cannot(scene, out)])
    return _set(replace(rig.hookup, links=_reordered(rig, scene.order)), scene.settings)


def cannot(scene: Scene, out: tuple[Amiss, ...]) -> str:
    """The sentence for a scene that cannot be set as it says."""
    said = "; ".join(dict.fromkeys(each.said for each in out))
    return f"Scene “{scene.name}” cannot be set as it says: {said}."


def in_scene(rig: Rig, scene: Scene) -> Rig:
    """The rig as it is in a scene, as far as it can be, keeping what that does not touch; it has no scenes itself."""
    set_so = put_on(rig, cleaned(rig, scene))
    return Rig(replace(set_so, scenes=()), rig.gear, rig.known, like=rig)


def scene_words(rig: Rig, scene: Scene) -> str:
    """What is set for a scene, in words: 'Thrift on; Bosun's guitar volume −12 dB; …'; what cannot be is left out."""
    kept = cleaned(rig, scene)
    said = []
    for each in kept.settings:
        control, name = rig.control(each.unit, each.control), rig.name(each.unit)
        assert control is not None
        label = "" if (control.id, control.kind) == ("on", "switch") else f" {control_words(control)}"
        said.append(f"{name}{label} {shown(control, each.value)}")
    if kept.order:
        said.append(f"pedals in the order {', '.join(rig.name(unit) for unit in kept.order)}")
    said += [f"{knob.name} {knob.value}".strip() for knob in kept.knobs]
    return "; ".join(said) or "as it stands"


def stands_now(rig: Rig, scene: Scene) -> bool:
    """Whether the hook-up is set as the scene says already."""
    return (
        not amiss(rig, scene)
        and _reordered(rig, scene.order) == rig.hookup.links
        and all(rig.settings(each.unit)[each.control] == each.value for each in scene.settings)
    )
