"""What a comparison is as it is kept, and what was found between two of its files."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Annotated, Literal, TypeAlias

from low_tide.app.errors import NotFound
from low_tide.core.audio.dynamics import SoundPart
from low_tide.core.comparing.comparison import Held, Relation
from low_tide.core.judging.takes import Beside
from low_tide.core.spec import Spec
from low_tide.formats.documents import dump, parse
from low_tide.formats.file_names import told_apart
from low_tide.store import comparisons, hookups, renders, takes
from low_tide.store.comparisons import ComparisonRecord
from low_tide.store.home import Home

MOST_TRACKS, MOST_SECTIONS = 8, 8
LONGEST_SECTION_S = 30.0
TOP_DBFS = -1.0
"""So high the loudest of all may stand when they are heard."""

UNHEARD: tuple[Relation, ...] = ("other", "unusable")
"""What is so is not heard beside the reference."""

TrackState: TypeAlias = Literal["held", "to do", "gone"]


@dataclass(frozen=True)
class Compared:
    """One recording of a comparison: a take by its number, or a file by its audio, with the name it came with."""

    take: Annotated[int | None, Spec("Take")] = None
    audio: Annotated[str, Spec("File", le=80)] = ""
    name: Annotated[str, Spec("Name", le=200)] = ""


@dataclass(frozen=True)
class ShootOutItem:
    """One recording of a list: of which hook-up; `again`: with the amp set anew for it. `take`: what came of it."""

    hookup: str
    again: bool = False
    take: int | None = None


@dataclass(frozen=True)
class ShootOut:
    """A list of recordings of one dry track, in its order, and on which hook-up the amp's controls were set.

    `direct`: the file that is played, empty for the built-in take; `seconds` of it, so far driven (dB).
    """

    items: tuple[ShootOutItem, ...]
    set_on: str = ""
    direct: str = ""
    direct_name: str = ""
    seconds: float = 10.5
    drive: float = 10.0
    left_out: tuple[str, ...] = ()


@dataclass(frozen=True)
class ComparisonParts:
    """What a person says a comparison is: its recordings, the reference first, and sections (s of the reference)."""

    tracks: Annotated[tuple[Compared, ...], Spec("Recordings", le=MOST_TRACKS)] = ()
    sections: Annotated[tuple[SoundPart, ...], Spec("Sections", le=MOST_SECTIONS)] = ()


@dataclass(frozen=True)
class ComparisonDoc(ComparisonParts):
    """The same as it is kept. `shoot_out`: the list its recordings come from, where there is one."""

    shoot_out: ShootOut | None = None


@dataclass(frozen=True)
class HeldFiles:
    """What is kept of two files held against each other, and the peak (dBFS) of the take as it is heard.

    `suggested`: sections of it that are worth hearing in turn.
    """

    held: Held
    peak_dbfs: float
    seconds: float
    rate: int
    suggested: tuple[SoundPart, ...]


def row_of(comparison_id: int) -> ComparisonRecord:
    """A comparison as it is kept."""
    row = comparisons.find(comparison_id)
    if row is None:
        raise NotFound("There is no such comparison; it may have been deleted.")
    return row


def doc_of(row: ComparisonRecord) -> ComparisonDoc:
    """What a comparison is."""
    return parse(ComparisonDoc, row.doc)


def save(row: ComparisonRecord, doc: ComparisonDoc) -> None:
    """Save a comparison in the transaction that read it."""
    comparisons.update(row.id, row.name, dump(doc), [t.audio for t in doc.tracks if t.take is None])


@dataclass(frozen=True)
class Known:
    """What is known of a track besides its sound."""

    audio: str
    called: str
    about: str
    simulated: bool


def known_of(doc: ComparisonDoc) -> list[Known]:
    """Each track by what differs between them: the hook-up where those differ, else the take's name and number."""
    found = takes.some([t.take for t in doc.tracks if t.take is not None])
    names = hookups.names()
    rows = [found.get(t.take) if t.take is not None else None for t in doc.tracks]
    there = [row for row in rows if row]
    called = told_apart([names.get(r.hookup_id, r.hookup_name) for r in there])
    called = called or told_apart([r.name for r in there]) or [f"{r.name}, take {r.number}" for r in there]
    known, each = [], iter(called)
    for track, row in zip(doc.tracks, rows, strict=True):
        if row is not None:
            known.append(Known(row.audio or "", next(each), f"take {row.number}, {row.name}", row.simulated))
        elif track.take is not None:
            known.append(Known("", track.name or f"take {track.take}", "this take was deleted", False))
        else:
            known.append(Known(track.audio, track.name, "a file", takes.is_simulated(track.audio)))
    return known


def between(reference: str, audio: str) -> HeldFiles | None:
    kept = comparisons.held(reference, audio)
    return parse(HeldFiles, kept) if kept else None


def beside(audio: str) -> tuple[Beside, ...]:
    """Takes of the same performance that a recording was held against, and whether one is the other way round."""
    found = []
    for other, doc in comparisons.held_with(audio):
        held, row = parse(HeldFiles, doc).held, takes.of_audio(other)
        if held.relation == "same" and held.alignment is not None:
            name = f"{row.number}. {row.name}" if row else "a file in Compare"
            found.append(Beside(name, held.alignment.inverted))
    return tuple(dict.fromkeys(found))


def render_name(reference: str, audio: str) -> str:
    key = f"{comparisons.VERSION}/{reference}/{audio}"
    return f"inline-{hashlib.sha256(key.encode()).hexdigest()[:24]}.wav"


def is_done(home: Home, reference: str, audio: str) -> bool:
    found = between(reference, audio)
    if found is None:
        return False
    heard = renders.find(home, render_name(reference, audio)) is not None
    return heard or found.held.relation in UNHEARD
