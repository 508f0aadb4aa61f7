"""Questions as they are kept, whole: with the gear they are about, so that nothing in the locker changes them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, cast

from low_tide.core.drills.cards import KindId
from low_tide.core.drills.decoys import Decoy
from low_tide.core.drills.ears import Ear
from low_tide.core.drills.ordering import Ordering
from low_tide.core.drills.questions import AboutHookup, Reason
from low_tide.core.drills.sums import Sum
from low_tide.core.inventory import Unit
from low_tide.core.preferences import Preferences
from low_tide.core.rig.validation import checked
from low_tide.formats.documents import ChangeDoc, Json, dump, load_hookup, load_unit, parse


@dataclass(frozen=True)
class Question:
    """What is asked, by its kind: about a hook-up, a number, an order, or a pair of sounds. `preferences`: the schools
    it was made by, and is answered by."""

    kind: KindId
    card: str
    level: int
    preferences: Preferences
    hookup: AboutHookup | None = None
    sum: Sum | None = None
    ordering: Ordering | None = None
    ear: Ear | None = None


@dataclass(frozen=True)
class _Kept:
    """What is kept of a question about a hook-up, but for the hook-up itself."""

    at: tuple[str, ...]
    decoys: tuple[Decoy, ...]
    reasons: tuple[Reason, ...]
    knobs: tuple[tuple[str, str], ...]
    undo: tuple[ChangeDoc, ...]


def written(question: Question) -> Json:
    """A question as plain data."""
    doc: Json = {"schools": dump(question.preferences)}
    about = question.hookup
    if about is not None:
        decoys = tuple(Decoy((), d.at, d.why) for d in about.decoys)
        kept = _Kept(about.at, decoys, about.reasons, about.knobs, cast(Any, about.undo))
        units = [dump(unit) for unit in about.rig.gear.values()]
        doc |= {"hookup": dump(about.rig.hookup), "gear": units, "about": dump(kept)}
    if question.sum is not None:
        doc["sum"] = dump(question.sum)
    if question.ordering is not None:
        doc["ordering"] = dump(question.ordering)
    if question.ear is not None:
        load = question.ear.load
        own = {k: v for k, v in dump(question.ear).items() if k != "load"}
        doc["ear"] = {**own, "load": dump(load) if load is not None else None}
    return doc


def read(kind: str, card: str, level: int, doc: Json) -> Question:
    """A question from plain data. FormatError or HookupError where it is of another time and can no longer be read."""
    question = Question(cast(KindId, kind), card, level, parse(Preferences, doc["schools"]))
    if "hookup" in doc:
        kept = parse(_Kept, doc["about"])
        gear: dict[str, Unit] = {unit.id: unit for unit in map(load_unit, doc["gear"])}
        rig = checked(load_hookup(doc["hookup"]), gear)
        about = AboutHookup(rig, kept.at, kept.decoys, kept.reasons, kept.knobs, kept.undo)
        return Question(question.kind, card, level, question.preferences, hookup=about)
    if "sum" in doc:
        return Question(question.kind, card, level, question.preferences, sum=parse(Sum, doc["sum"]))
    if "ordering" in doc:
        return Question(question.kind, card, level, question.preferences, ordering=parse(Ordering, doc["ordering"]))
    load = doc["ear"].get("load")
    ear = parse(_EarDoc, {k: v for k, v in doc["ear"].items() if k != "load"})
    made = Ear(ear.card, ear.level, ear.seed, ear.which, load_unit(load) if load else None, ear.contender, ear.tap)
    return Question(question.kind, card, level, question.preferences, ear=made)


@dataclass(frozen=True)
class _EarDoc:
    card: str
    level: int
    seed: int
    which: Any
    contender: str
    tap: float
