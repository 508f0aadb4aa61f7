"""A rig that notes what is read of it: which aspects each check, and each kept result, looks at in truth."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from low_tide.core.gear.base import Face, Setting, Site
from low_tide.core.rig.hookup import End, Hookup, Link, Occasion, Placed, Scene
from low_tide.core.rig.kept import Aspect, Result
from low_tide.core.rig.rig import Rig

READ: dict[str, set[Aspect]] = defaultdict(set)
"""By the name of a reader: the aspects it looked at."""

_readers: list[str] = []


def note(*aspects: Aspect) -> None:
    """Whoever is at work reads these."""
    if _readers:
        READ[_readers[-1]].update(aspects)


@contextmanager
def reader(name: str) -> Iterator[None]:
    """What is read meanwhile is read by this one."""
    _readers.append(name)
    READ[name].update(())
    try:
        yield
    finally:
        _readers.pop()


class _Settings(dict[str, Setting]):
    """Settings of a unit that note which control is looked at."""

    def __init__(self, values: dict[str, Setting], affects: dict[str, Aspect]) -> None:
        super().__init__(values)
        self._affects = affects

    def __getitem__(self, control: str) -> Setting:
        note(self._affects[control])
        return super().__getitem__(control)

    def get(self, control: str, default: Any = None) -> Any:
        return self[control] if control in self else default  # noqa: SIM401


class _Watched:
    """A hook-up that notes when its leads, occasion or units are looked at by themselves."""

    def __init__(self, hookup: Hookup) -> None:
        self._hookup = hookup

    @property
    def links(self) -> tuple[Link, ...]:
        note("leads")
        return self._hookup.links

    @property
    def occasion(self) -> Occasion:
        note("occasion")
        return self._hookup.occasion

    @property
    def units(self) -> tuple[Placed, ...]:
        note("leads")
        return self._hookup.units

    @property
    def scenes(self) -> tuple[Scene, ...]:
        note("scenes")
        return self._hookup.scenes

    def gear_ids(self) -> tuple[str, ...]:
        note("leads", "standing")
        return self._hookup.gear_ids()


class WatchedRig(Rig):
    """A rig that notes what is read of it."""

    def __init__(self, rig: Rig) -> None:
        super().__init__(rig.hookup, rig.gear, rig.known)
        settings = {
            unit: _Settings(rig.settings(unit), {c.id: c.affects for c in gear.controls()})
            for unit, gear in rig.units()
        }
        vars(self).update(_settings=settings, _placed=rig._placed, _seen=_Watched(rig.hookup))

    def __getattribute__(self, name: str) -> Any:
        found = super().__getattribute__
        if name == "known":
            note("known")
        if name == "hookup" and "_seen" in found("__dict__"):
            return found("_seen")
        return found(name)

    def is_guarded(self, unit: str, control: str) -> bool:
        note("speaker")
        return super().is_guarded(unit, control)

    def room_of(self, unit: str) -> Any:
        note("standing")
        return super().room_of(unit)

    def is_outside(self, unit: str) -> bool:
        note("standing")
        return super().is_outside(unit)

    def facing(self, unit: str, place: str) -> str:
        note("standing")
        return super().facing(unit, place)

    def mount_of(self, unit: str) -> Any:
        note("standing")
        return super().mount_of(unit)

    def link_at(self, end: End) -> Link | None:
        note("leads")
        return super().link_at(end)

    def face(self, site: Site) -> Face:
        gear = self.gear[site.unit]
        return Face(gear.parts(site), gear.ratings(site))


@contextmanager
def watching() -> Iterator[dict[str, set[Aspect]]]:
    """While it lasts, every kept result notes what it reads itself, and to its caller what it says it reads."""
    READ.clear()
    call = Result.__call__

    def watched(self: Result[Any], rig: Any) -> Any:
        note(*self.reads)
        with reader(f"result {self.__name__}"):
            return call(self, rig)

    Result.__call__ = watched  # type: ignore[method-assign]
    try:
        yield READ
    finally:
        Result.__call__ = call  # type: ignore[method-assign]
