"""What is worked out of a rig is kept with it, and passed on to a rig that does not differ in what it reads.

Every result says what it reads: aspects of a rig, or other results, and then what those read. Every control says what
it affects. What may be used again after a change follows from the two.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import update_wrapper
from typing import Any, Generic, Literal, Protocol, TypeAlias, TypeVar, get_args

Aspect: TypeAlias = Literal["leads", "speaker", "signal", "standing", "occasion", "scenes", "known"]
"""What of a rig may change by itself: units and leads between them; controls that affect the speaker side, and what is
taped; other controls; where units stand; the occasion; scenes; what readings taught. Gear itself: all of them."""

ASPECTS: frozenset[Aspect] = frozenset(get_args(Aspect))

Made = TypeVar("Made")
Made_co = TypeVar("Made_co", covariant=True)


class _Cell:
    """The place of one result; rigs that do not differ in what it reads have the same."""

    __slots__ = ("made", "value")

    def __init__(self) -> None:
        self.made = False
        self.value: Any = None


class Kept:
    """The results of one rig, each in its cell."""

    __slots__ = ("cells",)

    def __init__(self, cells: Mapping[Result[Any], _Cell] | None = None) -> None:
        self.cells = dict(cells or {})

    def cell(self, result: Result[Any]) -> _Cell:
        """The cell of a result, whether or not anything lies in it yet."""
        found = self.cells.get(result)
        return self.cells.setdefault(result, _Cell()) if found is None else found

    def after(self, changed: frozenset[Aspect]) -> Kept:
        """What stays when these aspects change. What was not asked for yet is still worked out once for both."""
        if changed == ASPECTS:
            return Kept()
        return Kept({result: self.cell(result) for result in RESULTS if not result.reads & changed})


class HasKept(Protocol):
    """Whatever results are kept with."""

    @property
    def kept(self) -> Kept:
        """The results."""


RESULTS: list[Result[Any]] = []
"""Every result there is, registered where it is defined."""


class Result(Generic[Made_co]):
    """A function of a rig whose result is kept. `reads`: all aspects it rests on. An error is not kept."""

    __name__: str

    def __init__(self, make: Callable[[Any], Made_co], reads: frozenset[Aspect]) -> None:
        self._make, self.reads = make, reads
        update_wrapper(self, make)
        RESULTS.append(self)

    def __call__(self, rig: HasKept) -> Made_co:
        cell = rig.kept.cells.get(self) or rig.kept.cell(self)
        if not cell.made:
            cell.value = self._make(rig)
            cell.made = True
        found: Made_co = cell.value
        return found


def reading(*reads: Aspect | Result[Any]) -> frozenset[Aspect]:
    """The aspects that these come to."""
    found: set[Aspect] = set()
    for each in reads:
        found |= each.reads if isinstance(each, Result) else {each}
    return frozenset(found)


def kept(*reads: Aspect | Result[Any]) -> Callable[[Callable[[Any], Made]], Result[Made]]:
    """Keep what a function makes of a rig, as long as nothing changes of what it reads."""
    return lambda make: Result(make, reading(*reads))
