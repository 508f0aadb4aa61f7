"""The log: sessions, takes, recall, and lines that belong to no take."""

from __future__ import annotations

from dataclasses import dataclass, fields, replace
from typing import Annotated, Any, Literal, TypeAlias, cast

from low_tide.app import bench, running
from low_tide.app.clock import date_of
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.app.kept_audio import settled
from low_tide.app.preferences import preferences
from low_tide.core.audio.metering import Measures
from low_tide.core.judging.findings import VERDICTS, Severity
from low_tide.core.presentation.analysis import LineResult, analyse
from low_tide.core.rig.hookup import ControlSetting
from low_tide.core.rig.rig import Rig
from low_tide.core.rig.validation import checked
from low_tide.core.spec import Spec
from low_tide.formats.documents import Json, dump, keep_unknown, load_hookup, load_unit, parse, plain_rig
from low_tide.formats.sentences import FormatError
from low_tide.store import hookups
from low_tide.store import takes as kept
from low_tide.store.database import database
from low_tide.store.home import Home, now
from low_tide.store.takes import LineRecord, SessionRecord, TakeFilter, TakeRecord

NO_TAKE = "There is no such take in the log."
PAGE = 50
MOST_LINES = 200
EVERY = TakeFilter()


RATINGS = {"keep": "keep", "maybe": "maybe", "no": "no", "": "not rated"}
Rating: TypeAlias = Annotated[Literal["", "keep", "maybe", "no"], Spec("Rating", names=RATINGS)]


@dataclass(frozen=True)
class TakeNote:
    """What a person says about a take. `recorded_at`: the input, 'unit.socket'; empty where nobody said.

    `scene`: that of its hook-up it was played in, fixed when it is logged. `guide`: it is to be replaced; `replaces`:
    the guide whose place it takes. `afterwards`: what was done to it since.
    """

    name: Annotated[str, Spec("Take", ge=1, le=120)]
    part: Annotated[str, Spec("Part", le=120)] = ""
    notes: Annotated[str, Spec("Notes", le=8000)] = ""
    controls: Annotated[tuple[ControlSetting, ...], Spec("Controls", le=60)] = ()
    measured_peak: Annotated[float | None, Spec("Measured peak", "dBFS", -120, 0)] = None
    recorded_at: Annotated[str, Spec("Recorded at", le=130)] = ""
    song_start: Annotated[float | None, Spec("Starts in the song at", "s", 0, 36_000)] = None
    scene: Annotated[str, Spec("Scene", le=60)] = ""
    rating: Rating = ""
    guide: Annotated[bool, Spec("A guide, to be replaced")] = False
    replaces: Annotated[int | None, Spec("Takes the place of", ge=1)] = None
    guitar: Annotated[str, Spec("Guitar", le=120)] = ""
    pickup: Annotated[str, Spec("Pickup", le=60)] = ""
    guitar_volume: Annotated[str, Spec("Volume on the guitar", le=60)] = ""
    tuning: Annotated[str, Spec("Tuning", le=60)] = ""
    afterwards: Annotated[str, Spec("Done afterwards", le=4000)] = ""


@dataclass(frozen=True)
class Accepted:
    """A caution that stood when the take was made, and the word it was accepted with."""

    caution: str
    word: str


@dataclass(frozen=True)
class Take:
    """A take in the log. `saves` must come back with an edit, `audio` with a file that is to take its place."""

    id: int
    session: int
    number: int
    saves: int
    note: TakeNote
    hookup: str
    hookup_id: str
    severity: Severity
    expected_peak: float | None
    accepted: tuple[Accepted, ...]
    audio: str | None
    audio_name: str | None
    measures: Measures | None
    simulated: bool
    at: str


@dataclass(frozen=True)
class Session:
    """A session in the log. `days`: those it has takes on, the newest first, as '2026-03-01' where this runs."""

    id: int
    name: str
    notes: str
    started: str
    takes: int
    days: tuple[str, ...] = ()


@dataclass(frozen=True)
class TakePage:
    """One page of takes, newest first."""

    takes: tuple[Take, ...]
    total: int
    page: int
    pages: int


def read_note(doc: Any) -> TakeNote:
    try:
        return parse(TakeNote, doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None


def sessions() -> list[Session]:
    """Sessions, newest first, with how many takes each has and on which days."""
    days: dict[int, set[str]] = {}
    for session, at in kept.hours():
        days.setdefault(session, set()).add(date_of(at))
    return [
        _told_session(record, count, tuple(sorted(days.get(record.id, ()), reverse=True)))
        for record, count in kept.sessions()
    ]


def session(session_id: int) -> Session:
    """A session, without its days."""
    record = _session(session_id)
    return _told_session(record, kept.count(session_id))


def _told_session(record: SessionRecord, count: int, days: tuple[str, ...] = ()) -> Session:
    return Session(record.id, record.name, record.notes, record.started, count, days)


def new_session(name: str, notes: str = "", at: str = "") -> Session:
    """Begin a session; `at` as for a take."""
    name = name.strip()
    if not 1 <= len(name) <= 120:
        raise Invalid("Session: a name of 1 to 120 characters is wanted.")
    with database.atomic():
        return _told_session(kept.begin(name, at or now(), notes[:8000]), 0)


@dataclass(frozen=True)
class SessionWords:
    """What a session is called, and what is said of it."""

    name: str
    notes: str


def edit_session(session_id: int, name: str, notes: str, was: SessionWords | None = None) -> Session:
    """Call a session otherwise, or say something else of it.

    `was`: how it read when it was looked at; one that reads otherwise by now is refused, None asks for no such care.
    """
    name = name.strip()
    if not 1 <= len(name) <= 120:
        raise Invalid("Session: a name of 1 to 120 characters is wanted.")
    with database.atomic():
        now_there = _session(session_id)
        if was is not None and was != SessionWords(now_there.name, now_there.notes):
            raise Conflict(
                f"The session was changed in another window: it is called “{now_there.name}”, and its notes are"
                f" {f'“{now_there.notes}”' if now_there.notes else 'empty'}. Yours are still in the form."
            )
        kept.edit_session(session_id, name, notes[:8000])
        return session(session_id)


def delete_session(home: Home, session_id: int, takes: int) -> None:
    """Delete a session with all of its takes and lines, and their audio where nothing else has it.

    `takes`: how many it had when that was asked for; one that has got others since is refused.
    """
    with settled(home) as mark, database.atomic():
        there = session(session_id)
        if there.takes != takes:
            raise Conflict(f"“{there.name}” has {there.takes} takes by now, not {takes}. Nothing was deleted.")
        for row in list(kept.each(session_id)):
            mark(row.audio)
            kept.delete(row.id)
        kept.delete_session(session_id)


def _session(session_id: int) -> SessionRecord:
    row = kept.session(session_id)
    if row is None:
        raise NotFound("There is no such session in the log.")
    return row


def _row(take_id: int) -> TakeRecord:
    row = kept.find(take_id)
    if row is None:
        raise NotFound(NO_TAKE)
    return row


SAID = tuple(field.name for field in fields(TakeNote))


def _controls(row: TakeRecord) -> tuple[ControlSetting, ...]:
    return tuple(ControlSetting(**c) for c in row.controls)


def told(row: TakeRecord) -> Take:
    """A take as it is told of what is kept."""
    note = TakeNote(**{name: getattr(row, name) for name in SAID} | {"controls": _controls(row)})
    return Take(
        id=row.id,
        session=row.session_id,
        number=row.number,
        saves=row.saves,
        note=note,
        hookup=row.hookup_name,
        hookup_id=row.hookup_id,
        severity=cast(Severity, row.verdict),
        expected_peak=row.expected_peak,
        accepted=tuple(Accepted(**a) for a in row.accepted),
        audio=row.audio,
        audio_name=row.audio_name,
        measures=parse(Measures, row.measures) if row.measures else None,
        simulated=row.simulated,
        at=row.at,
    )


def take(take_id: int) -> Take:
    return told(_row(take_id))


def snapshot(take_id: int) -> Json:
    """The hook-up, gear and results as they were when the take was logged."""
    _row(take_id)
    return kept.seen_at(take_id)


def takes(of: TakeFilter = EVERY, page: int = 1) -> TakePage:
    """Takes that are like a filter, newest first."""
    total, at, found = kept.page(of, PAGE, page)
    return TakePage(tuple(told(r) for r in found), total, at, max(1, -(-total // PAGE)))


@dataclass(frozen=True)
class Named:
    """Something to narrow by, and what it is called: a hook-up by its name at the newest take of it."""

    id: str
    name: str


@dataclass(frozen=True)
class Narrowing:
    """What the log can be narrowed by: parts and hook-ups of its takes, verdicts, ratings; and guides that no take has
    replaced yet."""

    parts: tuple[str, ...]
    hookups: tuple[Named, ...]
    verdicts: tuple[Named, ...]
    ratings: tuple[Named, ...]
    open_guides: tuple[Take, ...]


ASKED_VERDICTS = (Named("clear", VERDICTS["fine"]), *(Named(id, VERDICTS[id]) for id in ("caution", "stop")))
ASKED_RATINGS = tuple(Named(id or "none", name) for id, name in RATINGS.items())


def parts() -> list[str]:
    """Every part that a take is of, by name."""
    return kept.parts()


def narrowing() -> Narrowing:
    """What takes there are to be asked for."""
    named = tuple(Named(hookup_id, name) for hookup_id, name in kept.hookups_named())
    guides = tuple(told(r) for r in kept.open_guides())
    return Narrowing(tuple(parts()), named, ASKED_VERDICTS, ASKED_RATINGS, guides)


@dataclass(frozen=True)
class Decision:
    """A caution that was accepted with a word: at a take, or, `take` None, on a hook-up as it stands."""

    caution: str
    word: str
    hookup: str
    hookup_id: str
    take: int | None
    number: int | None
    at: str


def decisions() -> tuple[Decision, ...]:
    """Cautions that were accepted: on the hook-ups that stand, then at takes, the newest first."""
    standing = []
    for row in hookups.listed():
        words = running.accepted_words(row)
        # Of one whose gear no longer goes together nothing can be told, the others stand.
        stands = words and bench.rig_at(row, row.current) is not None
        for finding in running.accepted(row) if stands else ():
            at = row.updated
            standing.append(Decision(finding.text, words[finding.key], row.name, row.id, None, None, at))
    at_takes = [
        Decision(a["caution"], a["word"], row.hookup_name, row.hookup_id, row.id, row.number, row.at)
        for row in kept.decided()
        for a in row.accepted
    ]
    return (*standing, *at_takes)


def _expected(lines: tuple[LineResult, ...], recorded_at: str) -> float | None:
    """Peak (dBFS) expected at the input that was recorded; where nobody said which, at the loudest."""
    named = [p for p in lines if f"{p.unit}.{p.socket}" == recorded_at]
    return max((p.dbfs for p in named or lines if p.dbfs is not None), default=None)


def session_for(session_id: int | None) -> int:
    """A session of that number; where none is named the newest, or a first one that is begun."""
    if session_id is not None:
        return _session(session_id).id
    return (kept.session() or kept.begin("First session", now())).id


def _replaces(note: TakeNote, take_id: int | None = None) -> None:
    """Invalid where a take cannot stand in for what it says it replaces."""
    if note.replaces is None:
        return
    guide = kept.find(note.replaces)
    if guide is None or not guide.guide:
        raise Invalid("Takes the place of: there is no such guide in the log.", fields=[("replaces",)])
    if guide.id == take_id:
        raise Invalid("Takes the place of: a take does not replace itself.", fields=[("replaces",)])


def _with_knobs(note: TakeNote, rig: Rig) -> TakeNote:
    """The same with the knobs of its scene, where nobody said where they stood."""
    said = [c for c in note.controls if c.value]
    names = {c.name.lower() for c in said}
    scene = next((s for s in rig.hookup.scenes if s.name == note.scene), None)
    knobs = tuple(k for k in scene.knobs if k.name.lower() not in names) if scene else ()
    told = {k.name.lower() for k in knobs}
    return replace(note, controls=(*(c for c in note.controls if c.name.lower() not in told), *knobs))


def log_take(session_id: int, hookup_id: str, doc: Any, at: str = "") -> Take:
    """Log a take of the hook-up as it stands: hook-up, gear and results are copied and stay as they are.

    `at`: when it was made (ISO 8601, UTC); now where it is left out.
    """
    note = read_note(doc)
    with database.atomic():
        _replaces(note)
        session = _session(session_id)
        row = bench.row_of(hookup_id)
        rig = bench.rig_in(row, note.scene)
        result = analyse(rig, preferences())
        hookup_doc, gear = bench.documents(row)
        hookup_doc = keep_unknown(hookup_doc, dump(rig.hookup))
        accepted = running.accepted_words(row)
        words = [{"caution": f.text, "word": accepted[f.key]} for f in result.findings if f.key in accepted]
        record = TakeRecord(
            session_id=session.id,
            number=kept.next_number(session.id),
            **dump(_with_knobs(note, rig)),
            hookup_name=row.name,
            hookup_id=row.id,
            verdict=result.verdict.severity,
            expected_peak=_expected(result.lines, note.recorded_at),
            accepted=words,
            at=at or now(),
            gear="; ".join(unit.name for _, unit in rig.units()),
        )
        return take(kept.insert(record, {"hookup": hookup_doc, "gear": gear, "analysis": dump(result)}))


def _seen(row: TakeRecord, saves: int | None) -> None:
    """Conflict where somebody has said something else of a take since `saves`; None asks for no such care."""
    if saves is not None and row.saves != saves:
        raise Conflict(f"Take {row.number} was changed in another window. Your words are still in the form.")


def edit_take(take_id: int, doc: Any, saves: int | None = None) -> Take:
    """Change what is said about a take. Its hook-up, gear and results cannot be changed.

    `saves` is the take's when it was looked at; an older one is refused.
    """
    note = read_note(doc)
    with database.atomic():
        row = _row(take_id)
        _seen(row, saves)
        if note.scene != row.scene:
            said = f"was logged in scene “{row.scene}”" if row.scene else "was logged in no scene"
            raise Invalid(f"Scene: the take {said}, and its hook-up stays as it was.", fields=[("scene",)])
        if note.replaces != row.replaces:  # what stood may stand, though its guide is called one no more
            _replaces(note, take_id)
        kept.update(take_id, **dump(note), saves=row.saves + 1)
        return take(take_id)


def delete_take(home: Home, take_id: int, saves: int | None = None) -> None:
    """Delete a take, and its audio where no other take has the same file. One changed since `saves` is refused."""
    with settled(home) as mark, database.atomic():
        row = _row(take_id)
        _seen(row, saves)
        mark(row.audio)
        kept.delete(take_id)


def recall(take_id: int) -> bench.BenchState:
    """A hook-up as it was when the take was logged. Gear that has changed since is pinned as it was."""
    row = _row(take_id)
    saved = plain_rig(snapshot(take_id))
    rig = checked(load_hookup(saved["hookup"]), {u.id: u for u in map(load_unit, saved["gear"])})
    return bench.bring_in(rig, saved, f"{row.hookup_name}, recalled from take {row.number}"[:120])


LineKind: TypeAlias = Literal["", "complaint", "none"]


@dataclass(frozen=True)
class LogLine:
    """A line of the log that belongs to no take; of a `kind` where it says what neighbours said, at a place."""

    id: int
    session: int
    text: str
    at: str
    kind: LineKind = ""
    place: str = ""
    level: float | None = None


def lines(session: int | None = None) -> tuple[LogLine, ...]:
    """Lines that belong to no take, newest first."""
    return tuple(told_line(record) for record in kept.lines(session, MOST_LINES))


def told_line(record: LineRecord) -> LogLine:
    """A line as it is told of what is kept."""
    kind = cast(LineKind, record.kind)
    return LogLine(record.id, record.session_id, record.text, record.at, kind, record.place, record.level)


def write_line(text: str, session_id: int | None = None, blend: int | None = None) -> LogLine:
    """Write a line into a session, the newest if none is named; a first session is begun where there is none.

    `blend`: the one that was taken by it.
    """
    text = text.strip()
    if not 1 <= len(text) <= 1000:
        raise Invalid(f"Note: 1 to 1000 characters are wanted, this has {len(text)}.")
    with database.atomic():
        return told_line(kept.write_line(LineRecord(session_for(session_id), text, now(), blend=blend)))


def delete_line(line_id: int) -> None:
    """Delete a line for good."""
    with database.atomic():
        if not kept.delete_line(line_id):
            raise NotFound("There is no such line in the log.")
