"""Sound hook-ups to put mistakes into: one's own, and what can be built of one's gear, each judged to be sound."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import TypeAlias

from low_tide.core.finder.assemble import NoWay, assemble
from low_tide.core.finder.candidates import Candidate, amps_and_taps, screen
from low_tide.core.finder.ways import candidates_of
from low_tide.core.finder.wish import Way, Wish
from low_tide.core.inventory import Amp, Guitar, Lead, Room, Surrounding, Unit
from low_tide.core.judging.findings import RANK
from low_tide.core.judging.judge import Judgement, judge, mends
from low_tide.core.preferences import Preferences
from low_tide.core.rig.changes import AddUnit, Change, Connect, changed
from low_tide.core.rig.hookup import End, Hookup, HookupError, Occasion
from low_tide.core.rig.networks import separate_networks
from low_tide.core.rig.rig import GearById, Rig
from low_tide.core.rig.standing import stands
from low_tide.core.rig.validation import checked, fits
from low_tide.core.rig.worth import without_papers

BUILT_WAYS: tuple[Way, ...] = ("load", "attenuator", "reamp", "split", "cabinet")
MOST_BUILT = 400
MOST_UNITS = 9
"""Larger ones are no question for one look."""
MOST_MENDED = 3
BY_DAY = Occasion("14:00", 1.0, "riff")

Recipe: TypeAlias = Hookup | Candidate


@dataclass(frozen=True)
class Stock:
    """What drills are made from: gear by id, hook-ups, and the schools they are judged by."""

    gear: GearById
    recipes: tuple[Recipe, ...]
    preferences: Preferences
    _raw: dict[int, Rig | None] = field(default_factory=dict, repr=False, compare=False)
    _made: dict[int, Judgement | None] = field(default_factory=dict, repr=False, compare=False)
    _hopeless: set[tuple[str, int]] = field(default_factory=set, repr=False, compare=False)

    def raw(self, number: int) -> Rig | None:
        """The hook-up of a recipe before anything is judged; None where it does not go together, or only with a lead
        that nobody owns."""
        if number not in self._raw:
            recipe = self.recipes[number]
            try:
                rig = checked(recipe, self.gear) if isinstance(recipe, Hookup) else _assembled(recipe, self.gear)
            except HookupError:
                rig = None
            self._raw[number] = None if rig is None or rig.gear.keys() - self.gear.keys() else rig
        return self._raw[number]

    def sound(self, number: int) -> Judgement | None:
        """The sound hook-up of a recipe, judged; None where it cannot be made sound. Worked out once."""
        if number not in self._made:
            rig = self.raw(number)
            self._made[number] = _mended(rig, self.preferences) if rig else None
        return self._made[number]

    def is_hopeless(self, mistake: str, number: int) -> bool:
        """Whether it was found that no way to make a mistake in a recipe's hook-up is noticed by the judge."""
        return (mistake, number) in self._hopeless

    def give_up(self, mistake: str, number: int) -> None:
        """Note that of all ways to make a mistake in a recipe's hook-up the judge notices none."""
        self._hopeless.add((mistake, number))

    def units(self, number: int) -> int:
        """How many units a recipe has, about."""
        recipe = self.recipes[number]
        if isinstance(recipe, Hookup):
            return len(recipe.units)
        return 2 + (recipe.box is not None) + (recipe.cabinet is not None)


def as_drilled(unit: Unit) -> Unit:
    """A unit as drills take it: without its papers; an amp of which nobody said whether it has a mains earth has one,
    or every hook-up with it would be a caution already. Whoever asks says so."""
    plain = without_papers(unit)
    if isinstance(plain, Amp) and plain.mains_earth == "unknown":
        return replace(plain, mains_earth="yes")
    return plain


def stock(owned: GearById, hookups: Mapping[str, Hookup], preferences: Preferences) -> Stock:
    """All recipes: own hook-ups without their scenes, each network of one by itself, then what can be built."""
    gear = {id: as_drilled(unit) for id, unit in owned.items()}
    own: list[Recipe] = []
    for hookup in hookups.values():
        try:
            rig = checked(replace(hookup, scenes=()), gear)
        except HookupError:
            continue
        parts = separate_networks(rig)
        for part in parts if len(parts) > 1 else (rig,):
            if 2 <= len(part.hookup.units) <= MOST_UNITS and any(part.amps()):
                own.append(part.hookup)
    return Stock(gear, (*own, *_built(gear, preferences)), preferences)


def _built(gear: GearById, preferences: Preferences) -> tuple[Candidate, ...]:
    units, wish, found = tuple(gear.values()), Wish(goal="down"), []
    for base in amps_and_taps(units, ""):
        for way in BUILT_WAYS:
            for candidate in candidates_of(way, base, units, wish):
                if screen(candidate, preferences).severity == "fine":
                    found.append(candidate)
    every = max(1, len(found) // MOST_BUILT)
    return tuple(found[::every][:MOST_BUILT])


def _assembled(candidate: Candidate, gear: GearById) -> Rig | None:
    """The candidate as a hook-up with its line, or without where there is none, a guitar before it where one is owned.

    Built units stand in the first room there is. None where the leads do not go round.
    """
    room = next((g.id for g in gear.values() if isinstance(g, Room) and not g.archived), "")
    for line in (True, False):
        made = assemble(candidate, gear, Hookup(occasion=BY_DAY), line, "Drill")
        if isinstance(made, NoWay):
            continue
        units = tuple(replace(p, room=room) if stands(made.gear[p.unit]) else p for p in made.hookup.units)
        return _with_guitar(checked(replace(made.hookup, units=units), made.gear))
    return None


def _with_guitar(rig: Rig) -> Rig:
    guitar = next(iter(rig.owned(Guitar)), None)
    amp = next((u for u, g in rig.amps() if not rig.link_at(End(u, "input"))), None)
    if guitar is None or amp is None:
        return rig
    out = next(s for s in guitar.sockets() if s.flow == "out")
    into = rig.socket(End(amp, "input"))
    lead = next((g for g in rig.free(Lead) if g.construction == "screened" and fits(g, out, into)), None)
    if lead is None:
        return rig
    return changed(rig, (AddUnit(guitar.id), Connect(lead.id, End(guitar.id, out.id), End(amp, "input"))))


def is_sound(judged: Judgement) -> bool:
    """Whether nothing is a caution or a stop."""
    return RANK[judged.verdict.severity] < RANK["caution"]


def _mended(rig: Rig, preferences: Preferences) -> Judgement | None:
    """The rig, with fixes carried out where it needs some; None where that does not make it sound."""
    judged = judge(rig, preferences)
    for _ in range(MOST_MENDED):
        if is_sound(judged):
            return judged
        worst = [f for f in judged.findings if RANK[f.severity] >= RANK["caution"]]
        fixes = ((finding, fix) for finding in worst[:3] for fix in finding.fixes[:2])
        fix = next((fix for finding, fix in fixes if mends(fix, finding, judged)), None)
        if fix is None:
            return None
        judged = judge(changed(judged.case.rig, fix.changes), preferences)
    return judged if is_sound(judged) else None


MOST_SPARE = 16


def with_little_gear(rig: Rig, others: Rig, undo: tuple[Change, ...] = ()) -> Rig:
    """The rig with the gear that a question needs: its own, that of the hook-up it was made from, everything that
    stands around, and some of what is free."""
    keep = {*rig.hookup.gear_ids(), *others.hookup.gear_ids()}
    keep |= {c.unit for c in undo if isinstance(c, AddUnit)} | {c.lead for c in undo if isinstance(c, Connect)}
    leads = [g.id for g in rig.free(Lead)][:MOST_SPARE]
    keep |= {*leads, *(g.id for g in rig.gear.values() if isinstance(g, Surrounding) and not g.archived)}
    keep |= {g.inner_speaker for g in rig.gear.values() if isinstance(g, Amp) and g.id in keep}
    return Rig(rig.hookup, {id: unit for id, unit in rig.gear.items() if id in keep})
