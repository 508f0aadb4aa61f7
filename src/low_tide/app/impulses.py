"""The library of impulse responses: files in, what they are of and like, alike ones folded, the short list."""

from __future__ import annotations

import hashlib
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from pathlib import Path
from typing import Annotated, Any, Literal

import numpy as np

from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.app.kept_audio import settled
from low_tide.core.cab.impulse import (
    RATE,
    ImpulseAnalysis,
    Samples,
    ToneBands,
    analysed,
    at_rate,
    tone_bands,
    wrong_with,
)
from low_tide.core.cab.output import of_response
from low_tide.core.cab.thinning import thinned
from low_tide.core.spec import Spec
from low_tide.formats.curves import read_frd
from low_tide.formats.documents import dump, parse
from low_tide.formats.impulse_names import named
from low_tide.formats.recording import read_impulse, write_wav
from low_tide.formats.sentences import FormatError
from low_tide.store import blends, impulses
from low_tide.store.database import database, remembered
from low_tide.store.home import Home, audio_file, incoming, keep_audio, now
from low_tide.store.impulses import ImpulseRecord

MOST_IMPULSES = 3_000
MOST_LISTED = 8
MOST_NAME = 120
MOST_LEVEL_DB = 200.0
FRD_HZ = (200.0, 5_000.0)
"""A response that does not reach over these says too little of a speaker."""
AUDIO_HEADS = (b"RIFF", b"RF64", b"fLaC", b"FORM")
Origin = Literal["file", "sweep", "simulated", "made", "response"]


@dataclass(frozen=True)
class ImpulseNote:
    """What an impulse response is of, as a person says it. `listed`: it is on the short list."""

    name: Annotated[str, Spec("Name", ge=1, le=MOST_NAME)]
    cabinet: Annotated[str, Spec("Cabinet", le=120)] = ""
    driver: Annotated[str, Spec("Driver", le=120)] = ""
    microphone: Annotated[str, Spec("Microphone", le=120)] = ""
    distance: Annotated[float | None, Spec("Distance", "cm", 0, 1000)] = None
    axis: Annotated[str, Spec("Axis", le=60)] = ""
    room: Annotated[str, Spec("Room", le=120)] = ""
    source: Annotated[str, Spec("Source", le=300)] = ""
    licence: Annotated[str, Spec("Licence", le=300)] = ""
    notes: Annotated[str, Spec("Notes", le=2000)] = ""
    tags: Annotated[tuple[str, ...], Spec("Tags", le=20)] = ()
    favourite: Annotated[bool, Spec("Favourite")] = False
    listed: Annotated[bool, Spec("Short list")] = False


@dataclass(frozen=True)
class ImpulseDoc(ImpulseNote):
    """The same as it is kept. `origin`: where it comes from; what the program made itself stays marked so."""

    origin: Origin = "file"


@dataclass(frozen=True)
class ImpulseEntry:
    """An impulse response in the library. `folds`: how many that are alike lie under it; `under`: the one it lies under
    itself; `in_blends`: how many blends use it."""

    id: int
    note: ImpulseNote
    origin: Origin
    seconds: float
    rate: int
    onset: float
    inverted: bool
    length: float | None
    programme_gain: float
    bands: ToneBands
    centroid: float
    early_late: float
    folds: int
    under: int | None
    in_blends: int


@dataclass(frozen=True)
class Library:
    """What is shown of the library: those found, how many there are in all, how many stand for all, the short list."""

    impulses: tuple[ImpulseEntry, ...]
    of: int
    groups: int
    listed: int
    median: ToneBands | None


def row_of(impulse_id: int) -> ImpulseRecord:
    """An impulse response as it is kept."""
    row = impulses.find(impulse_id)
    if row is None:
        raise NotFound("There is no such impulse response in the library; it may have been deleted.")
    return row


def doc_of(row: ImpulseRecord) -> ImpulseDoc:
    """What it is of."""
    return parse(ImpulseDoc, row.doc)


def analysis_of(row: ImpulseRecord) -> ImpulseAnalysis:
    """What it is like."""
    return parse(ImpulseAnalysis, row.analysis)


def called(row: ImpulseRecord) -> str:
    """Its name."""
    return str(row.doc["name"])


@lru_cache(maxsize=64)
def _prepared(path: Path, channel: int) -> Samples:
    sound, rate, _ = read_impulse(path)
    found = at_rate(sound[:, max(0, channel - 1)].astype(np.float64), rate, RATE)
    found.setflags(write=False)
    return found


def sound_of(home: Home, row: ImpulseRecord) -> Samples:
    """An impulse response at 48 kHz, shape (n,). Conflict where its file has gone."""
    path = audio_file(home, row.audio)
    if path is None:
        raise Conflict(f"{called(row)}: its file is gone.")
    try:
        return _prepared(path, row.channel)
    except FormatError as error:
        raise Invalid(*(f"{called(row)}: {problem}" for problem in error.problems)) from None


def bring(home: Home, data: bytes, file_name: str, origin: Origin = "file") -> list[ImpulseEntry]:
    """Take a file into the library: one impulse response, or one of each channel where those differ.

    Audio, or a response as FRD text, which becomes one of minimum phase. Invalid where it is none, or is here already.
    """
    if _is_text(data):
        data, origin = _of_response(data), "response"
    with incoming(home) as part:
        part.write_bytes(data)
        made = _taken_in(home, part, hashlib.sha256(data).hexdigest(), file_name, origin)
    return [entry(each) for each in made]


def _is_text(data: bytes) -> bool:
    head = data[:512]
    return bool(head.strip()) and b"\0" not in head and not head.startswith(AUDIO_HEADS)


def _of_response(data: bytes) -> bytes:
    try:
        found = read_frd(data)
    except FormatError as error:
        raise Invalid(*error.problems) from None
    if max(map(abs, found.level)) > MOST_LEVEL_DB:
        raise Invalid(f"This response has a level over {MOST_LEVEL_DB:g} dB, or as far under 0.")
    if found.frequency[0] > FRD_HZ[0] or found.frequency[-1] < FRD_HZ[1]:
        low, high = FRD_HZ
        raise Invalid(
            f"This response goes from {found.frequency[0]:g} to {found.frequency[-1]:g} Hz; at least {low:g} to"
            f" {high:g} Hz are wanted to make an impulse response of it."
        )
    return write_wav(of_response(np.array(found.frequency), np.array(found.level)), RATE, "FLOAT")


def _taken_in(home: Home, part: Path, digest: str, file_name: str, origin: Origin) -> list[int]:
    try:
        sound, rate, kind = read_impulse(part)
    except FormatError as error:
        raise Invalid(*error.problems) from None
    sides = [at_rate(side.astype(np.float64), rate, RATE) for side in sound.T]
    wrong = [wrong_with(side) for side in sides]
    if all(wrong):
        raise Invalid(f"This is no impulse response: {wrong[0]}.")
    same = len(sides) > 1 and np.array_equal(sides[0], sides[1])
    # A channel that holds nothing is left out, and of two alike one is enough.
    channels = [number for number in range(1, len(sides) + 1) if not wrong[number - 1] and not (same and number > 1)]
    found = {number: analysed(sides[number - 1], rate, len(sound) / rate) for number in channels}
    said = named(file_name)
    note = ImpulseDoc(
        said.name,
        cabinet=said.cabinet,
        microphone=said.microphone,
        distance=said.distance,
        axis=said.axis,
        room=said.room,
        origin=origin,
    )
    audio = f"{digest}.{kind}"
    with settled(home) as mark, database.atomic():
        there = impulses.of_file(audio)
        if there:
            raise Invalid(f"This very file is in the library already, as “{called(there[0])}”.")
        if impulses.count() + len(found) > MOST_IMPULSES:
            raise Invalid(f"The library holds {MOST_IMPULSES} impulse responses, the most there can be.")
        mark(audio)
        keep_audio(home, part, audio)
        made = []
        for number, analysis in found.items():
            which = ("left", "right")[number - 1] if len(found) > 1 else ""
            name = f"{note.name[: MOST_NAME - 7]}, {which}" if which else note.name
            doc = dump(replace(note, name=name))
            made.append(impulses.insert(audio, number if len(sides) > 1 else 0, doc, dump(analysis), now()))
    return made


def edit(impulse_id: int, note: Any) -> ImpulseEntry:
    """Say what one is of, or put it on the short list or among the favourites."""
    edit_some([(impulse_id, note)])
    return entry(impulse_id)


def edit_some(notes: Sequence[tuple[int, Any]]) -> None:
    """Say what several are of; all of it or, where one of them cannot be so, nothing."""
    wanted = {}
    for impulse_id, note in notes:
        try:
            wanted[impulse_id] = parse(ImpulseNote, note)
        except FormatError as error:
            raise Invalid(*error.problems, fields=error.fields) from None
    with database.atomic():
        rows = [row_of(impulse_id) for impulse_id in wanted]
        before = {row.id: doc_of(row) for row in rows}
        gained = sum(note.listed - before[each].listed for each, note in wanted.items())
        if gained > 0:
            _room_on_the_list(gained)
        for each, note in wanted.items():
            impulses.update(each, {**dump(note), "origin": before[each].origin})


def _room_on_the_list(more: int) -> None:
    there = sum(bool(row.doc.get("listed")) for row in impulses.every())
    if there + more > MOST_LISTED:
        raise Invalid(f"Short list: at most {MOST_LISTED}. Take one off it first; few are what makes it worth having.")


def list_all(ids: Sequence[int]) -> None:
    """Put impulse responses on the short list, in the transaction that says why."""
    rows = [row for row in impulses.some(ids).values() if not row.doc.get("listed")]
    _room_on_the_list(len(rows))
    for row in rows:
        impulses.update(row.id, {**row.doc, "listed": True})


def delete(home: Home, ids: Sequence[int]) -> None:
    """Delete impulse responses; a blend that uses one stays, and says that it is gone. Their files go with the last."""
    with settled(home) as mark, database.atomic():
        for row in impulses.some(ids).values():
            mark(row.audio)
            impulses.delete(row.id)


def entry(impulse_id: int) -> ImpulseEntry:
    """One of them by itself."""
    row = row_of(impulse_id)
    return _entry(row, 0, None, _used())


def _used() -> Mapping[int, int]:
    found: dict[int, int] = {}
    for blend in blends.every():
        for each in {part["impulse"] for part in blend.doc.get("parts", ())}:
            found[each] = found.get(each, 0) + 1
    return found


def _entry(row: ImpulseRecord, folds: int, under: int | None, used: Mapping[int, int]) -> ImpulseEntry:
    doc, found = doc_of(row), analysis_of(row)
    note = ImpulseNote(**{k: v for k, v in vars(doc).items() if k != "origin"})
    return ImpulseEntry(
        id=row.id,
        note=note,
        origin=doc.origin,
        seconds=found.seconds,
        rate=found.rate,
        onset=found.onset,
        inverted=found.inverted,
        length=found.length,
        programme_gain=found.programme_gain,
        bands=found.bands,
        centroid=found.centroid,
        early_late=found.early_late,
        folds=folds,
        under=under,
        in_blends=used.get(row.id, 0),
    )


@remembered("impulse")
def _every() -> list[ImpulseRecord]:
    """All of them, read once until one is changed."""
    return impulses.every()


def library(search: str = "", within_db: float | None = None) -> Library:
    """Impulse responses that have all these words somewhere in what is said of them.

    `within_db`: alike ones are folded under one that stands for them, up to so far apart; None folds none.
    """
    rows = _every()
    words = search.lower().split()
    wanted = [r for r in rows if all(word in _said(r) for word in words)]
    folds: dict[int, int] = {}
    under: dict[int, int] = {}
    if within_db is not None and rows:
        responses = np.array([r.analysis["response"] for r in rows])
        first = frozenset(_key(r) for r in rows if r.doc.get("listed") or r.doc.get("favourite"))
        by_key = {_key(r): r.id for r in rows}
        for group in thinned([_key(r) for r in rows], responses, within_db, first):
            stands = by_key[group.stands]
            folds[stands] = len(group.folded)
            under.update({by_key[each]: stands for each in group.folded})
    used = _used()
    median = median_response()
    return Library(
        impulses=tuple(_entry(r, folds.get(r.id, 0), under.get(r.id), used) for r in wanted),
        of=len(rows),
        groups=len(rows) - len(under),
        listed=sum(bool(r.doc.get("listed")) for r in rows),
        median=None if median is None else tone_bands(median),
    )


def _key(row: ImpulseRecord) -> str:
    """What an impulse response is known by whatever order they came in: its file and channel."""
    return f"{row.audio}/{row.channel}"


def _said(row: ImpulseRecord) -> str:
    fields = ("name", "cabinet", "driver", "microphone", "axis", "room", "source", "licence", "notes", "origin")
    more = ["favourite"] * bool(row.doc.get("favourite")) + ["short list"] * bool(row.doc.get("listed"))
    distance = row.doc.get("distance")
    cm = [f"{distance:g} cm"] if distance is not None else []
    return " ".join([*(str(row.doc.get(f, "")) for f in fields), *row.doc.get("tags", ()), *more, *cm]).lower()


@remembered("impulse")
def median_response() -> np.ndarray[Any, np.dtype[np.float64]] | None:
    """The median of the library over `band_centres(RATE)`, dB with the programme at 0; None where it is empty."""
    rows = _every()
    return np.median(np.array([r.analysis["response"] for r in rows]), axis=0) if rows else None
