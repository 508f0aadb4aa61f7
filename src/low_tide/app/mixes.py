"""What a guitar is heard against: stems, files and other takes at their levels and places in the song."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Annotated, Any

from low_tide.app import heard_on
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.app.kept_audio import settled
from low_tide.app.own_files import brought, named
from low_tide.app.recordings import Found
from low_tide.core.spec import Spec
from low_tide.formats.documents import dump, parse
from low_tide.formats.file_names import take_name
from low_tide.formats.recording import song_start
from low_tide.formats.sentences import FormatError
from low_tide.stand_ins import backing
from low_tide.store import inspections, mixes
from low_tide.store.database import database
from low_tide.store.home import Home, audio_file, now
from low_tide.store.mixes import MixRecord

MOST_TRACKS = 24
SECTION_S, BEGINS_S = (1.0, 30.0), 7.0
BUILT_IN = {f"backing-{name.replace(' ', '-')}": name for name in backing.PARTS}
FILE = "file-"


@dataclass(frozen=True)
class MixTrack:
    """Something that sounds beside the guitar: `source` is a part of the built-in backing, a take, or a file of the
    mix's own. `at`: where in the song it begins, s; None: where it says itself, else at the song's beginning."""

    source: Annotated[str, Spec("Track", ge=1, le=100)]
    name: Annotated[str, Spec("Name", le=200)] = ""
    gain: Annotated[float, Spec("Gain", "dB", -40, 12)] = 0.0
    at: Annotated[float | None, Spec("Begins at", "s", 0, 36_000)] = None
    mute: Annotated[bool, Spec("Mute")] = False


@dataclass(frozen=True)
class MixDoc:
    """What a guitar is heard against, on which take it is heard and where that begins in the song, s.

    `level`: of the guitar over the backing, LU; `start` and `stop`: the section of the song, s.
    """

    tracks: Annotated[tuple[MixTrack, ...], Spec("Tracks", le=MOST_TRACKS)] = ()
    guitar: Annotated[str, Spec("Guitar", le=40)] = "driven"
    at: Annotated[float | None, Spec("Guitar begins at", "s", 0, 36_000)] = None
    level: Annotated[float, Spec("Guitar over the backing", "LU", -30, 20)] = -6.0
    start: Annotated[float, Spec("Section from", "s", 0, 36_000)] = 0.0
    stop: Annotated[float, Spec("Section to", "s", 0, 36_030)] = BEGINS_S


@dataclass(frozen=True)
class MixTrackState:
    """A track as it is shown. `about`: where it comes from; `at`: where in the song it begins, s; `gone`: what is wrong
    with it, in words, or nothing."""

    track: MixTrack
    name: str
    about: str
    at: float
    seconds: float
    gone: str


@dataclass(frozen=True)
class MixState:
    """A mix as it is shown. `guitar`: what the guitar is heard on, which begins `at` in the song (s); `warning`: it has
    a speaker in it already, or may. `most`: tracks it can have.
    """

    id: int
    name: str
    saves: int
    doc: MixDoc
    tracks: tuple[MixTrackState, ...]
    guitar: str
    at: float
    warning: str
    most: int = MOST_TRACKS


@dataclass(frozen=True)
class MixEntry:
    """A mix in the list."""

    id: int
    name: str
    tracks: int
    at: str


def row_of(mix_id: int) -> MixRecord:
    """A mix as it is kept."""
    row = mixes.find(mix_id)
    if row is None:
        raise NotFound("There is no such mix; it may have been deleted.")
    return row


def doc_of(row: MixRecord) -> MixDoc:
    """What a mix is."""
    return parse(MixDoc, row.doc)


def listed(search: str = "") -> list[MixEntry]:
    """All mixes that have these words in their names, newest first."""
    words = search.lower().split()
    found = [r for r in mixes.every() if all(word in r.name.lower() for word in words)]
    return [MixEntry(r.id, r.name, len(r.doc["tracks"]), r.at) for r in found]


def state(home: Home, mix_id: int) -> MixState:
    """A mix with everything that follows from it."""
    row = row_of(mix_id)
    doc = doc_of(row)
    guitar, warning = _guitar(doc)
    at = begins_at(doc.guitar, doc.at)
    return MixState(row.id, row.name, row.saves, doc, _tracks(home, doc), guitar, at, warning)


def begins_at(source: str, wanted: float | None) -> float:
    """Where in the song a take begins, s: where that is wanted, else where it says itself, else at its beginning."""
    if wanted is not None:
        return wanted
    row = heard_on.take_of(source)
    return row.song_start or 0.0 if row else 0.0


def _guitar(doc: MixDoc) -> tuple[str, str]:
    if doc.guitar in heard_on.BUILT_IN:
        return f"built-in take, {doc.guitar}", ""
    row = heard_on.take_of(doc.guitar)
    if row is None:
        return "a take that is gone", "The take the guitar is heard on is gone: choose another."
    found = heard_on.of_take(row)
    return found.name, found.warning


def audio_of(track: MixTrack) -> str:
    """The audio file of a track; empty where it has none, or its take is gone."""
    if track.source.startswith(FILE):
        return track.source.removeprefix(FILE)
    row = heard_on.take_of(track.source)
    return (row.audio or "") if row else ""


def _tracks(home: Home, doc: MixDoc) -> tuple[MixTrackState, ...]:
    found = []
    for track in doc.tracks:
        at = begins_at(track.source, track.at)
        if track.source in BUILT_IN:
            name = f"built-in {BUILT_IN[track.source]}"
            found.append(MixTrackState(track, name, "made by the program", at, backing.SECONDS, ""))
            continue
        row, audio = heard_on.take_of(track.source), audio_of(track)
        name = f"take {row.number}, {row.name}" if row else track.name or track.source
        gone = "" if audio and audio_file(home, audio) else "gone: it is left out"
        about = "a file" if track.source.startswith(FILE) else "a take"
        if row and heard_on.of_take(row).speakers == "none":
            # Through a speaker it would cover less of the top than it does here.
            about = "a take, no speaker in it"
        found.append(MixTrackState(track, name, about, at, _seconds(audio), gone))
    return tuple(found)


def _seconds(audio: str) -> float:
    found = inspections.find(audio) if audio else None
    return float(found["measures"]["seconds"]) if found else 0.0


def _checked(doc: Any, mix_id: int | None, before: MixDoc | None = None) -> MixDoc:
    """Plain data as a mix; Invalid where it names what there is not, and was not in it before."""
    try:
        wanted = parse(MixDoc, doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    there = {t.source for t in before.tracks} if before else set()
    own = {FILE + audio for audio in mixes.files(mix_id)} if mix_id else set()
    problems = []
    for number, track in enumerate(wanted.tracks, 1):
        known = track.source in BUILT_IN or track.source in own | there or heard_on.take_of(track.source) is not None
        if not known:
            problems.append(f"Track {number}: there is no such take or file in this mix.")
    stays = before is not None and wanted.guitar == before.guitar
    if not stays and wanted.guitar not in heard_on.BUILT_IN and heard_on.take_of(wanted.guitar) is None:
        problems.append("Guitar: there is no such take, or it has no recording.")
    length = wanted.stop - wanted.start
    if not SECTION_S[0] <= length <= SECTION_S[1]:
        low, high = SECTION_S
        problems.append(f"Section: {low:g} to {high:g} s are wanted, this is {length:.3g} s.")
    if problems:
        raise Invalid(*problems)
    return wanted


def begin(home: Home, name: str, tracks: tuple[str, ...], guitar: str) -> MixState:
    """A new mix of takes, or of the built-in backing, each where it begins in the song; the guitar on a take, from
    where that begins."""
    start = begins_at(guitar, None)
    doc = MixDoc(tuple(map(MixTrack, tracks)), guitar, start=start, stop=start + BEGINS_S)
    with database.atomic():
        made = mixes.insert(named(name), dump(_checked(dump(doc), None)), now())
    return state(home, made)


def edit(home: Home, mix_id: int, name: str, doc: Any, saves: int | None = None) -> MixState:
    """Change a mix. Conflict where another window changed it meanwhile. A file taken out of it stays until it is
    deleted, so that it can be brought back."""
    with database.atomic():
        row = row_of(mix_id)
        if saves is not None and saves != row.saves:
            raise Conflict("This mix was changed in another window. It was read again; nothing was overwritten.")
        mixes.update(mix_id, named(name), dump(_checked(doc, mix_id, doc_of(row))))
    return state(home, mix_id)


def delete(home: Home, mix_id: int) -> None:
    """Delete a mix; files that were brought into it alone go with it, takes stay."""
    with settled(home) as mark, database.atomic():
        row_of(mix_id)
        for audio in mixes.files(mix_id):
            mark(audio)
        mixes.delete(mix_id)


def bring(home: Home, mix_id: int, upload: str, file_name: str) -> Iterator[float | MixState]:
    """A file that was brought in by pieces becomes a track of a mix, where it says that it begins."""

    def room() -> None:
        _room(doc_of(row_of(mix_id)))

    def join(found: Found, part: Path) -> None:
        row = row_of(mix_id)
        doc = doc_of(row)
        _room(doc)
        if any(t.source == FILE + found.name for t in doc.tracks):
            raise Invalid("This very file is in the mix already.")
        track = MixTrack(FILE + found.name, take_name(file_name)[:200], at=song_start(part) or 0.0)
        mixes.update(mix_id, row.name, dump(replace(doc, tracks=(*doc.tracks, track))), [found.name])

    for step in brought(home, upload, room, join):
        if not isinstance(step, Found):
            yield step
            continue
        with database.connection_context():
            yield state(home, mix_id)


def _room(doc: MixDoc) -> None:
    if len(doc.tracks) >= MOST_TRACKS:
        raise Invalid(f"Tracks: at most {MOST_TRACKS} are in a mix.")
