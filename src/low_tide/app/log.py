"""The log: sessions, takes, their audio, recall and export."""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Any

from low_tide.app import bench, running
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.app.kept_audio import settled
from low_tide.app.preferences import preferences
from low_tide.core.audio.metering import Measures
from low_tide.core.presentation.analysis import LineResult, analyse
from low_tide.core.rig.validation import checked
from low_tide.core.spec import Spec
from low_tide.formats.documents import Json, dump, load_hookup, load_unit, parse, plain_rig
from low_tide.formats.sentences import FormatError
from low_tide.formats.tables import log_csv
from low_tide.store import takes as kept
from low_tide.store.database import database
from low_tide.store.home import Home, now
from low_tide.store.takes import LineRecord, SessionRecord, TakeRecord

NO_TAKE = "There is no such take in the log."
PAGE = 50
MOST_LINES = 200


@dataclass(frozen=True)
class ControlSetting:
    """A knob on the amp as it was: its name and where it stood, in words ('6', 'two o'clock')."""

    name: Annotated[str, Spec("Control", ge=1, le=60)]
    value: Annotated[str, Spec("Set to", le=60)] = ""


@dataclass(frozen=True)
class TakeNote:
    """What a person says about a take. `recorded_at`: the input, 'unit.socket'; empty where nobody said."""

    name: Annotated[str, Spec("Take", ge=1, le=120)]
    part: Annotated[str, Spec("Part", le=120)] = ""
    notes: Annotated[str, Spec("Notes", le=8000)] = ""
    controls: Annotated[tuple[ControlSetting, ...], Spec("Controls", le=60)] = ()
    measured_peak: Annotated[float | None, Spec("Measured peak", "dBFS", -120, 0)] = None
    recorded_at: Annotated[str, Spec("Recorded at", le=130)] = ""
    song_start: Annotated[float | None, Spec("Starts in the song at", "s", 0, 36_000)] = None


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
    severity: str
    expected_peak: float | None
    accepted: tuple[Accepted, ...]
    audio: str | None
    audio_name: str | None
    measures: Measures | None
    simulated: bool
    at: str


@dataclass(frozen=True)
class Session:
    """A session in the log."""

    id: int
    name: str
    notes: str
    started: str
    takes: int


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
    """Sessions, newest first, with how many takes each has."""
    return [_told(record, count) for record, count in kept.sessions()]


def _told(record: SessionRecord, count: int) -> Session:
    return Session(record.id, record.name, record.notes, record.started, count)


def new_session(name: str, notes: str = "", at: str = "") -> Session:
    """Begin a session; `at` as for a take."""
    name = name.strip()
    if not 1 <= len(name) <= 120:
        raise Invalid("Session: a name of 1 to 120 characters is wanted.")
    with database.atomic():
        return _told(kept.begin(name, at or now(), notes[:8000]), 0)


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


def _take(row: TakeRecord) -> Take:
    note = TakeNote(
        name=row.name,
        part=row.part,
        notes=row.notes,
        controls=tuple(ControlSetting(**c) for c in row.controls),
        measured_peak=row.measured_peak,
        recorded_at=row.recorded_at,
        song_start=row.song_start,
    )
    return Take(
        id=row.id,
        session=row.session_id,
        number=row.number,
        saves=row.saves,
        note=note,
        hookup=row.hookup_name,
        hookup_id=row.hookup_id,
        severity=row.verdict,
        expected_peak=row.expected_peak,
        accepted=tuple(Accepted(**a) for a in row.accepted),
        audio=row.audio,
        audio_name=row.audio_name,
        measures=parse(Measures, row.measures) if row.measures else None,
        simulated=row.simulated,
        at=row.at,
    )


def take(take_id: int) -> Take:
    return _take(_row(take_id))


def snapshot(take_id: int) -> Json:
    """The hook-up, gear and results as they were when the take was logged."""
    _row(take_id)
    return kept.seen_at(take_id)


def takes(
    session: int | None = None, search: str = "", page: int = 1, with_audio: bool = False, hookup: str = ""
) -> TakePage:
    """Takes, newest first; of a hook-up where one is named. `search`: every word of it begins a word of the name, the
    part, the notes or the hook-up."""
    total, at, found = kept.page(session, search, with_audio, hookup, PAGE, page)
    return TakePage(tuple(_take(r) for r in found), total, at, max(1, -(-total // PAGE)))


def _expected(lines: tuple[LineResult, ...], recorded_at: str) -> float | None:
    """Peak (dBFS) expected at the input that was recorded; where nobody said which, at the loudest."""
    named = [p for p in lines if f"{p.unit}.{p.socket}" == recorded_at]
    return max((p.dbfs for p in named or lines if p.dbfs is not None), default=None)


def session_for(session_id: int | None) -> int:
    """A session of that number; where none is named the newest, or a first one that is begun."""
    if session_id is not None:
        return _session(session_id).id
    return (kept.session() or kept.begin("First session", now())).id


def log_take(session_id: int, hookup_id: str, doc: Any, at: str = "") -> Take:
    """Log a take of the hook-up as it stands: hook-up, gear and results are copied and stay as they are.

    `at`: when it was made (ISO 8601, UTC); now where it is left out.
    """
    note = read_note(doc)
    with database.atomic():
        session = _session(session_id)
        row = bench.row_of(hookup_id)
        rig = bench.rig_of(row)
        result = analyse(rig, preferences())
        hookup_doc, gear = bench.documents(row)
        accepted = running.accepted_words(row)
        words = [{"caution": f.text, "word": accepted[f.key]} for f in result.findings if f.key in accepted]
        record = TakeRecord(
            session_id=session.id,
            number=kept.next_number(session.id),
            **dump(note),
            hookup_name=row.name,
            hookup_id=row.id,
            verdict=result.verdict.severity,
            expected_peak=_expected(result.lines, note.recorded_at),
            accepted=words,
            at=at or now(),
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


COLUMNS = (
    "session",
    "number",
    "name",
    "part",
    "at",
    "hookup",
    "verdict",
    "expected peak, dBFS",
    "measured peak, dBFS",
    "true peak, dBTP",
    "loudness, LUFS",
    "RMS, dBFS",
    "crest, dB",
    "clipped runs",
    "controls",
    "accepted",
    "recorded at",
    "starts in the song at, s",
    "simulated",
    "notes",
)


def _two(value: float | None) -> float | None:
    return None if value is None else round(value, 2)


def _line(each: Take, names: dict[int, str]) -> dict[str, Any]:
    m = each.measures
    return {
        "session": names[each.session],
        "number": each.number,
        "name": each.note.name,
        "part": each.note.part,
        "at": each.at,
        "hookup": each.hookup,
        "verdict": each.severity,
        "expected peak, dBFS": _two(each.expected_peak),
        "measured peak, dBFS": _two(m.peak_dbfs if m else each.note.measured_peak),
        "true peak, dBTP": _two(m.true_peak_dbtp if m else None),
        "loudness, LUFS": _two(m.loudness_lufs if m else None),
        "RMS, dBFS": _two(m.rms_dbfs if m else None),
        "crest, dB": _two(m.crest_db if m else None),
        "clipped runs": m.clipped_runs if m else None,
        "controls": "; ".join(f"{c.name} {c.value}" for c in each.note.controls),
        "accepted": "; ".join(f"{a.caution} ({a.word})" for a in each.accepted),
        "recorded at": each.note.recorded_at,
        "starts in the song at, s": _two(each.note.song_start),
        "simulated": "yes" if each.simulated else "",
        "notes": each.note.notes,
    }


def export_csv(session: int | None = None) -> Iterator[str]:
    """The log as CSV, oldest take first, line by line."""
    names = {s.id: s.name for s in sessions()}
    yield from log_csv((_line(_take(r), names) for r in kept.each(session)), COLUMNS)


def export_json(session: int | None = None) -> Iterator[str]:
    """The log as JSON, whole: sessions, takes, snapshots; piece by piece, since it is large."""
    yield '{"format": "low-tide/log", "version": 1, "sessions": ['
    for n, each in enumerate(s for s in sessions() if session in (None, s.id)):
        told = {**dump(each), "lines": [{"text": line.text, "at": line.at} for line in lines(each.id)]}
        yield (",\n" if n else "\n") + json.dumps(told, ensure_ascii=False)[:-1] + ', "takes": ['
        # A snapshot is JSON already as it lies, and goes out as that.
        for m, (row, written) in enumerate(kept.each_with_what_was_seen(each.id)):
            yield (",\n" if m else "\n") + json.dumps(dump(_take(row)), ensure_ascii=False)[:-1]
            yield f', "snapshot": {written}}}'
        yield "]}"
    yield "\n]}\n"


@dataclass(frozen=True)
class LogLine:
    """A line of the log that belongs to no take."""

    id: int
    session: int
    text: str
    at: str


def lines(session: int | None = None) -> tuple[LogLine, ...]:
    """Lines that belong to no take, newest first."""
    return tuple(_log_line(record) for record in kept.lines(session, MOST_LINES))


def _log_line(record: LineRecord) -> LogLine:
    return LogLine(record.id, record.session_id, record.text, record.at)


def write_line(text: str, session_id: int | None = None) -> LogLine:
    """Write a line into a session, the newest if none is named; a first session is begun where there is none."""
    text = text.strip()
    if not 1 <= len(text) <= 1000:
        raise Invalid(f"Note: 1 to 1000 characters are wanted, this has {len(text)}.")
    with database.atomic():
        return _log_line(kept.write_line(session_for(session_id), text, now()))


def delete_line(line_id: int) -> None:
    """Delete a line for good."""
    with database.atomic():
        if not kept.delete_line(line_id):
            raise NotFound("There is no such line in the log.")
