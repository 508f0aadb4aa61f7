"""Comparisons: which recordings, in what order, with which sections; files of their own, and what was picked."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from low_tide.app import log
from low_tide.app.compare_work import place_of
from low_tide.app.compared import (
    LONGEST_SECTION_S,
    MOST_TRACKS,
    Compared,
    ComparisonDoc,
    ComparisonParts,
    doc_of,
    known_of,
    row_of,
    save,
)
from low_tide.app.comparison import ComparisonState, state
from low_tide.app.errors import Conflict, Invalid
from low_tide.app.kept_audio import settled
from low_tide.app.own_files import brought, named
from low_tide.app.recordings import Found
from low_tide.core.comparing.sections import SECTION_S
from low_tide.formats.documents import dump, parse
from low_tide.formats.file_names import take_name
from low_tide.formats.sentences import FormatError
from low_tide.store import comparisons, takes
from low_tide.store.comparisons import ComparisonRecord
from low_tide.store.database import database
from low_tide.store.home import Home, now


@dataclass(frozen=True)
class ComparisonEntry:
    """A comparison in the list."""

    id: int
    name: str
    tracks: int
    at: str


def listed(search: str = "") -> list[ComparisonEntry]:
    """All comparisons that have these words in their names, newest first."""
    words = search.lower().split()
    found = [r for r in comparisons.every() if all(word in r.name.lower() for word in words)]
    return [ComparisonEntry(r.id, r.name, len(doc_of(r).tracks), r.at) for r in found]


def begin(home: Home, name: str, doc: Any) -> ComparisonState:
    """A new comparison of takes."""
    with database.atomic():
        wanted = _checked(doc, frozenset())
        made = comparisons.insert(named(name), dump(ComparisonDoc(wanted.tracks, wanted.sections)), now())
        return state(home, made)


def _checked(doc: Any, files: frozenset[str]) -> ComparisonParts:
    """Plain data as a comparison; Invalid where it names what there is not. `files`: those it has for itself."""
    try:
        wanted = parse(ComparisonParts, doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    found = takes.some([t.take for t in wanted.tracks if t.take is not None])
    problems = []
    for number, track in enumerate(wanted.tracks, 1):
        if track.take is None and track.audio not in files:
            problems.append(f"Recording {number}: its file is not here; bring it in again.")
        elif track.take is not None and (track.take not in found or not found[track.take].audio):
            problems.append(f"Recording {number}: this take has no recording, or is gone.")
    same = Counter((t.take, t.audio) for t in wanted.tracks)
    if any(count > 1 for count in same.values()):
        problems.append("Recordings: one of them is named twice.")
    for number, section in enumerate(wanted.sections, 1):
        length = section.stop - section.start
        if section.start < 0 or not SECTION_S[0] <= length <= LONGEST_SECTION_S:
            least, most = SECTION_S[0], LONGEST_SECTION_S
            problems.append(f"Section {number}: {least:g} to {most:g} s are wanted, this is {length:.2g} s.")
    if problems:
        raise Invalid(*problems)
    return wanted


def edit(home: Home, comparison_id: int, name: str, doc: Any, saves: int | None = None) -> ComparisonState:
    """Change which recordings, their order, or the sections. Conflict where another window changed it meanwhile.

    A file that is taken off the list stays until the comparison is deleted, so that it can be brought back.
    """
    with database.atomic():
        row = row_of(comparison_id)
        _seen(row, saves)
        files = frozenset(comparisons.files(comparison_id))
        # A missing take or file may stay where it stands, so that the rest can be changed.
        parts = _checked(doc, files) if _picks(doc) != _picks(row.doc) else _sections(doc, doc_of(row))
        wanted = ComparisonDoc(parts.tracks, parts.sections, doc_of(row).shoot_out)
        comparisons.update(comparison_id, named(name), dump(wanted))
        return state(home, comparison_id)


def _picks(doc: Any) -> list[tuple[Any, Any]]:
    tracks = doc.get("tracks", ()) if isinstance(doc, dict) else ()
    return [(t.get("take"), t.get("audio", "")) for t in tracks if isinstance(t, dict)]


def _sections(doc: Any, before: ComparisonDoc) -> ComparisonParts:
    wanted = _checked({**doc, "tracks": []}, frozenset())
    return replace(before, sections=wanted.sections)


def _seen(row: ComparisonRecord, saves: int | None) -> None:
    if saves is not None and saves != row.saves:
        raise Conflict("This comparison was changed in another window. It was read again; nothing was overwritten.")


def delete(home: Home, comparison_id: int) -> None:
    """Delete a comparison; files that were brought into it alone go with it, takes stay."""
    with settled(home) as mark, database.atomic():
        row_of(comparison_id)
        for audio in comparisons.files(comparison_id):
            mark(audio)
        comparisons.delete(comparison_id)


def bring(home: Home, comparison_id: int, upload: str, file_name: str) -> Iterator[float | ComparisonState]:
    """A file that was brought in by pieces joins a comparison without becoming a take."""

    def room() -> None:
        _room(doc_of(row_of(comparison_id)))

    def join(found: Found, _: Path) -> None:
        row = row_of(comparison_id)
        doc = doc_of(row)
        _room(doc)
        if any(t.audio == found.name for t in doc.tracks):
            raise Invalid("This very file is in the comparison already.")
        save(row, replace(doc, tracks=(*doc.tracks, Compared(None, found.name, take_name(file_name)))))

    for step in brought(home, upload, room, join):
        if not isinstance(step, Found):
            yield step
            continue
        with database.connection_context():
            yield state(home, comparison_id)


def _room(doc: ComparisonDoc) -> None:
    if len(doc.tracks) >= MOST_TRACKS:
        raise Invalid(f"Recordings: at most {MOST_TRACKS} are compared at one time.")


MOST_PICKED = 400


def pick(comparison_id: int, audio: str, why: str, session: int | None = None) -> log.LogLine:
    """The recording that was picked, and why, as a line in the log."""
    row = row_of(comparison_id)
    known = known_of(doc_of(row))
    place = place_of(known, audio)
    others = ", ".join(k.called for i, k in enumerate(known) if i != place)
    reason = why.strip()
    if not 1 <= len(reason) <= MOST_PICKED:
        raise Invalid(f"Why: 1 to {MOST_PICKED} characters are wanted, so that it can be understood later.")
    return log.write_line(f"{row.name}: picked {known[place].called}. {reason} (Over {others}.)"[:1000], session)
