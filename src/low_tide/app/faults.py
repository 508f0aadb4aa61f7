"""What is wrong: a search kept while it goes on, its end in the log, and units that are suspect."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from low_tide.app import log, running
from low_tide.app.bench import rig_of, row_of
from low_tide.app.errors import Conflict, Invalid, NotFound, NotReady
from low_tide.app.locker import all_gear
from low_tide.app.preferences import preferences
from low_tide.core.fault_finding.causes import CAUSES
from low_tide.core.fault_finding.chances import Said
from low_tide.core.fault_finding.probes import BY_ID as PROBES
from low_tide.core.fault_finding.search import Search, search
from low_tide.core.fault_finding.situation import Situation
from low_tide.core.fault_finding.symptoms import BY_ID as SYMPTOMS
from low_tide.core.fault_finding.symptoms import DANGER, MISWIRED
from low_tide.store import faults as kept
from low_tide.store import suspects as suspected
from low_tide.store.database import database
from low_tide.store.faults import FaultRecord
from low_tide.store.home import now

MOST_WORD = 200
MISTAKEN = "pressed by mistake"


@dataclass(frozen=True)
class Answered:
    """A test that was answered: what was asked, and what was said."""

    id: str
    asks: str
    said: str


@dataclass(frozen=True)
class FaultState:
    """A search as it stands. `saves` must come back with an answer. `set_aside`: causes that were mended and were not
    it, by name; `found`: the name of the one that was. `ended`: when, None while it goes on."""

    id: int
    hookup: str
    hookup_name: str
    symptom: str
    symptom_name: str
    saves: int
    at: str
    ended: str | None
    found: str
    answered: tuple[Answered, ...]
    set_aside: tuple[str, ...]
    now: Search


@dataclass(frozen=True)
class FaultEntry:
    """A search as it is listed."""

    id: int
    symptom_name: str
    at: str
    ended: str | None
    found: str


@dataclass(frozen=True)
class Suspect:
    """A unit that may have been hurt, and why; `cleared` with a word, and when."""

    unit: str
    name: str
    why: str
    at: str
    cleared: str | None
    word: str


def _row(fault_id: int) -> FaultRecord:
    row = kept.find(fault_id)
    if row is None:
        raise NotFound("There is no such search.")
    return row


def _going_on(fault_id: int, saves: int) -> FaultRecord:
    row = _row(fault_id)
    if row.ended:
        raise NotReady("This search is over. Begin another.")
    if row.saves != saves:
        raise Conflict("Another window has answered meanwhile. Look at what is left now.")
    return row


def _named(cause: str | None) -> str:
    return CAUSES[cause].name if cause in CAUSES else ""


def _state(row: FaultRecord) -> FaultState:
    hookup = row_of(row.hookup)
    situation = Situation(rig_of(hookup), preferences())
    answers: list[tuple[str, Said]] = [(a["id"], a["said"]) for a in row.doc.get("answers", [])]
    aside = row.doc.get("set_aside", [])
    found = search(situation, row.symptom, answers, aside, kept.counts())
    return FaultState(
        row.id,
        row.hookup,
        hookup.name,
        row.symptom,
        SYMPTOMS[row.symptom].name,
        row.saves,
        row.at,
        row.ended,
        _named(row.cause),
        tuple(Answered(a["id"], a["asks"], a["said"]) for a in row.doc.get("answers", [])),
        tuple(_named(each) for each in aside),
        found,
    )


def state(fault_id: int) -> FaultState:
    """A search as it stands."""
    return _state(_row(fault_id))


def of(hookup_id: str) -> list[FaultEntry]:
    """Searches of a hook-up, the latest first."""
    found = kept.of(row_of(hookup_id).id)
    return [FaultEntry(r.id, SYMPTOMS[r.symptom].name, r.at, r.ended, _named(r.cause)) for r in found]


def begin(hookup_id: str, symptom: str) -> FaultState:
    """Begin a search. At a danger, or where it was hooked up wrong, what is on the speaker side becomes suspect."""
    if symptom not in SYMPTOMS:
        raise Invalid(f"Symptom: “{symptom[:40]}” is not known.")
    with database.atomic():
        row = row_of(hookup_id)
        made = _row(kept.insert(FaultRecord(row.id, symptom, {"answers": [], "set_aside": []}, now())))
        found = _state(made)
        if symptom in (DANGER, MISWIRED):
            why = f"“{SYMPTOMS[symptom].name}” was said of “{row.name}” with it."
            fresh = [unit for unit in found.now.suspects if unit not in suspected.reasons()]
            for unit in fresh:
                suspected.add(unit, why, now())
            kept.update(replace(made, doc={**made.doc, "suspects": fresh}))
            log.write_line(f"“{row.name}”: {SYMPTOMS[symptom].name[0].lower()}{SYMPTOMS[symptom].name[1:]}.")
            return state(made.id)
        return found


def answer(fault_id: int, test: str, said: Said, saves: int) -> FaultState:
    """Keep an answer to a test."""
    with database.atomic():
        row = _going_on(fault_id, saves)
        before = _state(row)
        offered = [each for each in (before.now.test, *before.now.others) if each]
        asked = next((each for each in offered if each.id == test), None)
        if asked is None or test not in PROBES:
            raise NotFound("This test is not one of those that are left. Look at what is.")
        answers = [*row.doc.get("answers", []), {"id": test, "asks": asked.asks, "said": said}]
        kept.update(replace(row, doc={**row.doc, "answers": answers}))
        return state(fault_id)


def step_back(fault_id: int, saves: int) -> FaultState:
    """Take the last answer back."""
    with database.atomic():
        row = _going_on(fault_id, saves)
        answers: Sequence[dict[str, str]] = row.doc.get("answers", [])
        if not answers:
            raise NotReady("Nothing has been answered yet.")
        kept.update(replace(row, doc={**row.doc, "answers": answers[:-1]}))
        return state(fault_id)


def mended(fault_id: int, cause: str, gone: bool, saves: int) -> FaultState:
    """A cause was mended: where it is gone the search ends in the log, else that cause is set aside and it goes on."""
    with database.atomic():
        row = _going_on(fault_id, saves)
        before = _state(row)
        there = next((each for each in before.now.left if each.id == cause), None)
        if there is None:
            raise NotFound("This cause is not one of those that are left. Look at what is.")
        if not gone:
            aside = [*row.doc.get("set_aside", []), cause]
            kept.update(replace(row, doc={**row.doc, "set_aside": aside}))
            return state(fault_id)
        kept.update(replace(row, ended=now(), cause=cause))
        said = f"{before.symptom_name}: {there.name[0].lower()}{there.name[1:]}. {there.remedy}"
        log.write_line(f"“{before.hookup_name}”. {said}"[:1000])
        return state(fault_id)


def give_up(fault_id: int, saves: int) -> FaultState:
    """End a search without a cause; the log says so. Where it was no puzzle, what was in it is off now."""
    with database.atomic():
        row = _going_on(fault_id, saves)
        before = _state(row)
        kept.update(replace(row, ended=now()))
        if row.symptom not in (DANGER, MISWIRED):
            log.write_line(f"“{before.hookup_name}”. {before.symptom_name}: not found.")
        elif row_of(row.hookup).is_on:
            running.switch(row.hookup, False)
        return state(fault_id)


def by_mistake(fault_id: int, saves: int) -> FaultState:
    """A danger that was pressed by mistake: what became suspect by it is so no more, and the log says why."""
    with database.atomic():
        row = _going_on(fault_id, saves)
        if row.symptom not in (DANGER, MISWIRED):
            raise NotReady("This is a search; stop it instead.")
        for unit in row.doc.get("suspects", []):
            suspected.clear(unit, MISTAKEN, now())
        kept.update(replace(row, ended=now()))
        log.write_line(f"“{row_of(row.hookup).name}”: {SYMPTOMS[row.symptom].name}, {MISTAKEN}.")
        return state(fault_id)


def suspects() -> list[Suspect]:
    """Units that are or were suspect, the latest first."""
    names = {unit: gear.name for unit, gear in all_gear().items()}
    return [Suspect(r.unit, names.get(r.unit, r.unit), r.why, r.at, r.cleared, r.word) for r in suspected.every()]


def _word(word: str, what: str) -> str:
    word = word.strip()
    if not 1 <= len(word) <= MOST_WORD:
        raise Invalid(f"{what}: 1 to {MOST_WORD} characters are wanted, this has {len(word)}.")
    return word


def suspect(unit: str, why: str) -> list[Suspect]:
    """Mark a unit as suspect, for a reason."""
    with database.atomic():
        if unit not in all_gear():
            raise NotFound(f"There is no unit “{unit}” in the locker.")
        suspected.add(unit, _word(why, "Why"), now())
        return suspects()


def clear(unit: str, word: str) -> list[Suspect]:
    """Somebody has looked at a unit: it is suspect no more, and the word says why."""
    with database.atomic():
        said = _word(word, "Your word")
        if not suspected.clear(unit, said, now()):
            raise NotFound("This unit is not suspect.")
        name = all_gear()[unit].name if unit in all_gear() else unit
        log.write_line(f"{name} is cleared: {said}")
        return suspects()
