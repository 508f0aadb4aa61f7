"""Parts of a hook-up that have nothing to do with each other."""

from __future__ import annotations

from dataclasses import replace

from low_tide.core.circuit.network import merged
from low_tide.core.inventory import (
    Interface,
)
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.scenes import within


def separate_networks(rig: Rig) -> tuple[Rig, ...]:
    """Parts of a hook-up that no lead and no air joins: what one does, the others cannot notice.

    An interface may stand in several: its inputs have nothing to do with each other.
    """
    meeting = {unit for unit, gear in rig.units() if isinstance(gear, Interface)}
    pairs = [(k.a.unit, k.b.unit) for k in rig.hookup.links if k.b and not {k.a.unit, k.b.unit} & meeting]
    groups = merged(pairs)
    of = {unit: groups.get(unit, unit) for unit, _ in rig.units() if unit not in meeting}
    found = []
    for group in dict.fromkeys(of.values()):
        inside = {unit for unit, its in of.items() if its == group}
        links = tuple(k for k in rig.hookup.links if {e.unit for e in k.ends()} & inside)
        ends = {e.unit for k in links for e in k.ends()}
        units = tuple(p for p in rig.hookup.units if p.unit in inside | (ends & meeting))
        scenes = tuple(within(scene, {p.unit for p in units}) for scene in rig.hookup.scenes)
        found.append(replace(rig, hookup=replace(rig.hookup, units=units, links=links, scenes=scenes)))
    return tuple(found)


def speaker_networks(rig: Rig) -> tuple[tuple[str, ...], ...]:
    """Units that speaker leads join, group by group, in the order of the hook-up; leads of a group lie within it."""
    groups = merged((link.a.unit, link.b.unit) for link in rig.speaker_links if link.b)
    found: dict[str, list[str]] = {}
    for unit, _ in rig.units():
        found.setdefault(groups.get(unit, unit), []).append(unit)
    return tuple(tuple(units) for units in found.values())
