"""Hook-ups without a valve power stage: a guitar through a processor or a DI box, straight to the desk."""

from __future__ import annotations

from collections.abc import Iterator

from low_tide.core.finder.assemble import Builder, NoWay, capture
from low_tide.core.inventory import Guitar, LineBox, Processor, Unit
from low_tide.core.rig.hookup import End, Hookup, HookupError
from low_tide.core.rig.rig import GearById, Rig
from low_tide.core.rig.validation import checked


def serves(unit: Unit) -> bool:
    """Whether a unit takes a guitar and gives what a desk takes, without an amp."""
    if unit.archived:
        return False
    return isinstance(unit, Processor) or (isinstance(unit, LineBox) and unit.level_in == "instrument")


def direct(gear: GearById, now: Hookup | None) -> Iterator[Rig | NoWay]:
    """A hook-up for every unit that serves, from the guitar on the bench or the first one owned."""
    on_bench = {p.unit for p in now.units} if now else set()
    guitars = sorted(
        (g for g in gear.values() if isinstance(g, Guitar) and not g.archived), key=lambda g: g.id not in on_bench
    )
    for unit in (u for u in gear.values() if serves(u)):
        build = Builder(gear, now)
        name = unit.name
        if guitars:
            build.put(guitars[0])
            build.connect(End(guitars[0].id, "out"), End(unit.id, "in"))
            name = f"{guitars[0].name} · {name}"
        has_speaker = isinstance(unit, Processor)
        build.put(unit, **({"cab": True} if has_speaker else {}))
        source = End(unit.id, "outL" if has_speaker else "out")
        if not capture(build, source, has_speaker):
            yield NoWay("no free lead and input fit for the line to the desk")
            continue
        try:
            yield checked(build.hookup(f"{name}, no power stage"), build.gear)
        except HookupError as error:
            yield NoWay(error.problems[0])
