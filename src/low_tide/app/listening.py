"""Listening without knowing: trials that are fixed beforehand, drawn here, and told when they are over."""

from __future__ import annotations

import secrets
from dataclasses import dataclass, replace
from typing import Annotated, Literal, TypeAlias

from low_tide.app import blend_sound, blends, heard_on
from low_tide.app.blends import BlendDoc
from low_tide.app.comparison import state
from low_tide.app.comparison_file import part
from low_tide.app.errors import Invalid, NotFound
from low_tide.core.comparing.chance import as_far_off, at_least
from low_tide.core.spec import Spec
from low_tide.core.units import figure
from low_tide.formats.documents import dump, parse
from low_tide.store import listening
from low_tide.store.database import database
from low_tide.store.home import Home, now

TRIALS = (4, 40)
RunKind: TypeAlias = Literal["tell apart", "prefer"]
Which: TypeAlias = Literal["a", "b", "x", "first", "second"]
_lot = secrets.SystemRandom()


@dataclass(frozen=True)
class HeardBlends:
    """What two blends were when a run of them began, and on what they are heard; None: the bare tap."""

    source: str
    a: BlendDoc | None
    b: BlendDoc | None


@dataclass(frozen=True)
class Draw:
    """A run as it is kept, of two recordings or of two blends.

    `drawn`: of each trial, which of both X is, or which comes first; `answers` so far.

    Where both are 0 or both are 1 it was told apart, or the first of the two was preferred.
    """

    kind: RunKind
    a: str
    b: str
    a_name: str
    b_name: str
    drawn: tuple[int, ...]
    answers: tuple[int, ...] = ()
    stopped: bool = False
    blends: HeardBlends | None = None

    @property
    def over(self) -> bool:
        """Nothing more is asked."""
        return self.stopped or len(self.answers) == len(self.drawn)


@dataclass(frozen=True)
class ListeningRun:
    """A run as it is shown: how many trials are done; what came of it once it is over. `a`, `b`: what is compared."""

    id: int
    kind: RunKind
    a: str
    b: str
    trials: int
    done: int
    over: bool
    said: str
    at: str


def _shown(run_id: int, draw: Draw, at: str) -> ListeningRun:
    done = len(draw.answers)
    said = _said(draw) if draw.over else ""
    return ListeningRun(run_id, draw.kind, draw.a_name, draw.b_name, len(draw.drawn), done, draw.over, said, at)


def times_in_a_hundred(p: float) -> str:
    """How often that happens by guessing, in words."""
    if p >= 0.095:
        return f"{round(p * 10)} times in 10"
    if p >= 0.0095:
        return f"{figure(p * 100, 1)} times in 100" if p >= 0.015 else "once in 100"
    return "less than once in 100"


def _said(draw: Draw) -> str:
    done, trials = len(draw.answers), len(draw.drawn)
    hits = sum(a == d for a, d in zip(draw.answers, draw.drawn, strict=False))
    early = f" Stopped after {done} of {trials}: how likely that is by chance cannot be told." if draw.stopped else ""
    if draw.kind == "tell apart":
        told = f"{draw.a_name} or {draw.b_name}: {hits} of {done} right."
        if early:
            return told + early
        return f"{told} By guessing so many or more happen {times_in_a_hundred(at_least(hits, trials))}."
    liked = draw.a_name if 2 * hits >= done else draw.b_name
    times = max(hits, done - hits)
    told = f"{liked} preferred {times} of {done} times."
    if 2 * hits == done:
        told = f"{draw.a_name} and {draw.b_name} preferred {hits} times each."
    if early:
        return told + early
    return f"{told} An answer as one-sided happens by chance {times_in_a_hundred(as_far_off(hits, trials))}."


@dataclass(frozen=True)
class NewRun:
    """A run that is to begin: of two recordings by their places, with so many trials."""

    kind: RunKind
    a: Annotated[int, Spec("First recording", ge=0, le=7)]
    b: Annotated[int, Spec("Second recording", ge=0, le=7)]
    trials: Annotated[int, Spec("Trials", ge=TRIALS[0], le=TRIALS[1])] = 16


def begin(home: Home, comparison_id: int, wanted: NewRun) -> ListeningRun:
    """Begin a run; what is drawn stays here."""
    found = state(home, comparison_id)
    pair = [found.tracks[i] for i in (wanted.a, wanted.b) if i < len(found.tracks)]
    if len(pair) < 2 or wanted.a == wanted.b:
        raise Invalid("Recordings: two different ones of this comparison are wanted.")
    for track in pair:
        if not track.heard:
            raise Invalid(f"{track.called} cannot be heard beside the reference; compare first.")
    first, second = pair
    draw = Draw(wanted.kind, first.audio, second.audio, first.called, second.called, _lots(wanted.trials))
    return _begun(comparison_id, draw)


def _lots(trials: int) -> tuple[int, ...]:
    return tuple(_lot.randrange(2) for _ in range(trials))


def _begun(comparison_id: int | None, draw: Draw) -> ListeningRun:
    with database.atomic():
        at = now()
        return _shown(listening.begin(comparison_id, dump(draw), at), draw, at)


@dataclass(frozen=True)
class NewBlendRun:
    """A run that is to begin: of a blend and another, or the bare tap where that is None, heard on a source."""

    kind: RunKind
    other: Annotated[int | None, Spec("Other blend", ge=1)]
    source: Annotated[str, Spec("Heard on", le=40)]
    trials: Annotated[int, Spec("Trials", ge=TRIALS[0], le=TRIALS[1])] = 16


def begin_blends(home: Home, blend_id: int, wanted: NewBlendRun) -> ListeningRun:
    """Begin a run of two blends as they stand now: what is changed on them meanwhile is not heard in it."""
    if wanted.other == blend_id:
        raise Invalid("Other blend: it is this one; two different ones are wanted.")
    heard_on.of_source(home, wanted.source)
    one, two = _side(home, blend_id), _side(home, wanted.other)
    marks = ("", "") if one.name != two.name else (" (1)", " (2)")
    names = (one.name + marks[0], two.name + marks[1])
    both = HeardBlends(wanted.source, one.doc, two.doc)
    return _begun(None, Draw(wanted.kind, one.mark, two.mark, *names, drawn=_lots(wanted.trials), blends=both))


@dataclass(frozen=True)
class _Side:
    mark: str
    name: str
    doc: BlendDoc | None


def _mark(blend_id: int) -> str:
    return f"blend-{blend_id}"


def _side(home: Home, blend_id: int | None) -> _Side:
    """One of both; refused where it could not be heard."""
    if blend_id is None:
        return _Side("bare", "the bare tap", None)
    row = blends.row_of(blend_id)
    doc = blends.doc_of(row)
    with blends.told_of(row.name):
        blends.sound_of(home, doc, whole=True)
    return _Side(_mark(blend_id), f"“{row.name}”", doc)


def _run(run_id: int) -> tuple[listening.RunRecord, Draw]:
    row = listening.find(run_id)
    if row is None:
        raise NotFound("There is no such run of listening; what it was of may have been deleted.")
    return row, parse(Draw, row.doc)


def answer(run_id: int, trial: int, said: int) -> ListeningRun:
    """Answer a trial: 0 for a (or the first heard), 1 for b (or the second)."""
    with database.atomic():
        row, draw = _run(run_id)
        if draw.over or trial != len(draw.answers):
            raise Invalid("Trial: it was answered already.")
        draw = replace(draw, answers=(*draw.answers, said))
        listening.save(run_id, dump(draw))
        return _shown(run_id, draw, row.at)


def stop(run_id: int) -> ListeningRun:
    """End a run before its time; that it was stopped is kept."""
    with database.atomic():
        row, draw = _run(run_id)
        if not draw.over:
            draw = replace(draw, stopped=True)
            listening.save(run_id, dump(draw))
        return _shown(run_id, draw, row.at)


def runs(comparison_id: int) -> list[ListeningRun]:
    """All runs of a comparison, in their order."""
    return [_shown(r.id, parse(Draw, r.doc), r.at) for r in listening.of(comparison_id)]


def blend_runs(blend_id: int) -> list[ListeningRun]:
    """All runs a blend was in, in their order."""
    found = [(r, parse(Draw, r.doc)) for r in listening.of(None)]
    return [_shown(r.id, draw, r.at) for r, draw in found if _mark(blend_id) in (draw.a, draw.b)]


def heard(home: Home, run_id: int, which: Which, start: float, stop: float) -> bytes:
    """A part (s) of what is heard at a letter of the trial that is on, as WAV; nothing in it says which that is."""
    row, draw = _run(run_id)
    hidden = draw.drawn[min(len(draw.answers), len(draw.drawn) - 1)]
    place = {"a": 0, "b": 1, "x": hidden, "first": hidden, "second": 1 - hidden}[which]
    if draw.blends:
        doc = (draw.blends.a, draw.blends.b)[place]
        # Where something of it was deleted meanwhile, the rest would be another sound under the same letter.
        sound = None if doc is None else blends.sound_of(home, doc, whole=True)
        return blend_sound.part(home, sound, draw.blends.source, start, stop)
    if row.comparison_id is None:
        raise NotFound("There is no such run of listening; what it was of may have been deleted.")
    return part(home, row.comparison_id, (draw.a, draw.b)[place], start, stop)
