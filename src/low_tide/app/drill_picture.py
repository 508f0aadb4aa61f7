"""A question as it is shown: its picture, what may be answered, and, once it is answered, what is told."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, cast

import numpy as np

from low_tide.app.bench import LinkView, UnitView, link_views, unit_views
from low_tide.app.drill_answers import Answer, AnswerDoc, Result, hint_of, result_of
from low_tide.app.drill_documents import Question
from low_tide.app.drills import question_of, row_of, shown
from low_tide.app.errors import Invalid, NotFound
from low_tide.app.locker import all_gear
from low_tide.core.audio.rendering import RATE
from low_tide.core.drills.acts import Act, acts
from low_tide.core.drills.bases import as_drilled
from low_tide.core.drills.cards import KINDS
from low_tide.core.drills.ears import ASKS, Ear, heard
from low_tide.core.drills.questions import AboutHookup, Reason, to_point_at
from low_tide.core.drills.rating import usual_time
from low_tide.core.drills.sums import Given
from low_tide.core.inventory import Amp, Interface
from low_tide.core.rig.changes import Change, changed, describe
from low_tide.core.rig.hookup import End, HookupError, Occasion
from low_tide.core.rig.rig import Rig
from low_tide.core.signal_path.levels import levels
from low_tide.core.thermal.heating import DUTY
from low_tide.core.units import figure, level_figure
from low_tide.formats.documents import parse
from low_tide.formats.recording import write_wav
from low_tide.store import drills
from low_tide.store.drills import DrillRecord

ASK = {
    "spot": "Point at what is not as it should be.",
    "may": "May it be switched on?",
    "mend": "Make it sound with one change.",
    "level": "Set the peaks between −18 and −6 dBFS.",
    "order": "Put the steps in order.",
}


@dataclass(frozen=True)
class DrillPicture:
    """A hook-up drawn as on the Bench, without a word of what is found. `did`: changes put on, in words."""

    units: tuple[UnitView, ...]
    links: tuple[LinkView, ...]
    did: tuple[str, ...] = ()


@dataclass(frozen=True)
class PointAt:
    """Something one can point at: a unit or a lead, with what it is in short."""

    id: str
    name: str
    what: str


@dataclass(frozen=True)
class DealtStep:
    """A step to be put in order."""

    id: str
    text: str


@dataclass(frozen=True)
class LevelKnob:
    """A control that may be set for an answer."""

    unit: str
    control: str


@dataclass(frozen=True)
class Asked:
    """A question as it is shown. `n`: its place in the sitting, 0 for one that is asked once more. `hint`: empty until
    asked for. `since`: what happened in the locker to what it is about. `result`: None until it is answered."""

    id: int
    sitting: int
    n: int
    kind: str
    kind_name: str
    ask: str
    about: str
    occasion: str
    level: int
    hint: str
    picture: DrillPicture | None
    targets: tuple[PointAt, ...]
    reasons: tuple[Reason, ...]
    knobs: tuple[LevelKnob, ...]
    given: tuple[Given, ...]
    unit: str
    steps: tuple[DealtStep, ...]
    has_sounds: bool
    since: tuple[str, ...]
    answer: AnswerDoc | None
    result: Result | None


def asked(drill_id: int) -> Asked:
    """A question, and its answer where it has one."""
    record = row_of(drill_id)
    question = question_of(record)
    about = question.hookup
    answer = cast(Answer, parse(cast(Any, AnswerDoc), record.answer)) if record.answer is not None else None
    beside = [d for d in drills.drills_of(record.sitting) if not d.once_more and d.id <= record.id]
    return Asked(
        id=record.id,
        sitting=record.sitting,
        n=0 if record.once_more else len(beside),
        kind=record.kind,
        kind_name=KINDS[question.kind].name,
        ask=_ask(question),
        about=question.ordering.ask if question.ordering else "",
        occasion=occasion_words(about.rig.hookup.occasion) if about else "",
        level=record.level,
        hint=hint_of(question) if record.hint else "",
        picture=_picture(about.rig) if about else None,
        targets=_targets(about.rig) if about and question.kind == "spot" else (),
        reasons=about.reasons if about else (),
        knobs=tuple(LevelKnob(unit, control) for unit, control in about.knobs) if about else (),
        given=question.sum.given if question.sum else _lines(about.rig) if about and about.knobs else (),
        unit=question.sum.unit if question.sum else "",
        steps=tuple(DealtStep(s.id, s.text) for s in question.ordering.steps) if question.ordering else (),
        has_sounds=question.ear is not None,
        since=_since(about, shown(record.sitting).source),
        answer=cast(Any, answer),
        result=result_of(record, question, answer, _usual(record)) if answer is not None else None,
    )


def _ask(question: Question) -> str:
    if question.sum is not None:
        return question.sum.ask
    return ASKS[question.card][0] if question.ear is not None else ASK[question.kind]


def _usual(record: DrillRecord) -> float | None:
    """The median time for its kind as it was when it was answered."""
    return usual_time(
        d.seconds
        for d in drills.answered()
        if d.kind == record.kind and d.is_right and d.seconds is not None and d.id < record.id
    )


def occasion_words(occasion: Occasion) -> str:
    """'At 21:30, for 2 h, played as a riff': what a picture does not show."""
    at = f"At {occasion.hour}, for" if occasion.hour else "For"
    return f"{at} {figure(occasion.hours)} h; played: {DUTY[occasion.playing][0]}"


def _picture(rig: Rig, did: tuple[str, ...] = ()) -> DrillPicture:
    return DrillPicture(unit_views(rig, set()), link_views(rig), did)


def _lines(rig: Rig) -> tuple[Given, ...]:
    """What one would know of each line without a meter at its end: what it brings, and what full scale takes."""
    found = []
    for point in levels(rig).line_points:
        where, unit = rig.label(point.input), rig.gear[point.input.unit]
        found.append(Given(f"Peaks on the line to {where}, as it is set", f"about {level_figure(point.peak_dbu)} dBu"))
        if isinstance(unit, Interface):
            each = unit.input(point.input.socket)
            least = f"at {figure(each.least_gain)} dB gain"
            found.append(Given(f"Full scale of {where}", f"{level_figure(each.max_level)} dBu {least}"))
    return tuple(found)


def _targets(rig: Rig) -> tuple[PointAt, ...]:
    ends = {k.lead: ", ".join(rig.name(e.unit) for e in k.ends()) for k in rig.hookup.links}
    found = []
    for each in to_point_at(rig):
        gear = rig.gear[each]
        what = f"{gear.summary()}: {ends[each]}" if each in ends and not rig.has(each) else gear.summary()
        found.append(PointAt(each, gear.name, what))
    return tuple(found)


def _since(about: AboutHookup | None, source: str) -> tuple[str, ...]:
    """What was changed or put away of the gear that a question is about since it was asked, and what is taken for
    granted of it."""
    if about is None or source != "own":
        return ()
    there, found = all_gear(), []
    for id in about.rig.hookup.gear_ids():
        unit, now = about.rig.gear[id], there.get(id)
        if now is not None and isinstance(now, Amp) and now.mains_earth == "unknown":
            found.append(f"{unit.name} is taken as earthed here; its record does not say whether it is.")
        if now is None or now.archived:
            found.append(f"{unit.name} has left the locker since; the question stands as it was asked.")
        elif as_drilled(now) != unit:
            found.append(f"{unit.name} was changed in the locker since; the question stands as it was asked.")
    return tuple(found)


def _rig_of(drill_id: int) -> Rig:
    """The hook-up that a question is about; Invalid where it is about none."""
    about = question_of(row_of(drill_id)).hookup
    if about is None:
        raise Invalid("This question is about no hook-up.")
    return about.rig


def what_may_be_done(drill_id: int, end: End) -> tuple[Act, ...]:
    """What may be done at a socket of the hook-up that is asked about. Invalid where there is no such socket."""
    rig = _rig_of(drill_id)
    if not rig.knows(end):
        raise Invalid(f"End: there is no socket {end.socket} at {end.unit} in this hook-up.", fields=[("end",)])
    return acts(rig, end)


def tried(drill_id: int, changes: Sequence[Change]) -> DrillPicture:
    """The hook-up that is asked about with changes put on; nothing is kept and nothing is said of it."""
    rig = _rig_of(drill_id)
    try:
        return _picture(changed(rig, changes), tuple(describe(each, rig) for each in changes))
    except HookupError as error:
        raise Invalid(*error.problems) from None


def sound(drill_id: int, letter: str) -> bytes:
    """One of the two sounds of a question, as WAV. NotFound where it has none."""
    question = question_of(row_of(drill_id))
    if question.ear is None:
        raise NotFound("This question has no sounds.")
    return _wav(question.ear, letter)


@lru_cache(maxsize=8)
def _wav(pair: Ear, letter: str) -> bytes:
    made = heard(pair)
    return write_wav(np.asarray(made.a if letter == "a" else made.b), RATE)
