"""Comparisons: which recordings, in what order, held against the first of them; and the sound of it."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from math import log10
from pathlib import Path
from typing import Annotated, Any, Literal, TypeAlias

import numpy as np

from low_tide.app import log
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.app.kept_audio import settled
from low_tide.app.recordings import Found, inspected_file, keep_inspected
from low_tide.app.turns import give_way
from low_tide.core.audio.dynamics import SoundPart
from low_tide.core.audio.rendering import Samples
from low_tide.core.audio.waveform import Trace, trace, whole
from low_tide.core.comparing.aligning import RATE, put_in_line
from low_tide.core.comparing.comparison import Held, Relation, alone, held_against
from low_tide.core.comparing.recording import Recorded
from low_tide.core.comparing.sections import SECTION_S, suggested
from low_tide.core.comparing.words import Said, as_load_feel_says, sentences, where_it_lies
from low_tide.core.spec import Spec
from low_tide.formats.documents import dump, parse
from low_tide.formats.file_names import take_name
from low_tide.formats.recording import read_one_channel, read_part, write_wav
from low_tide.formats.sentences import FormatError
from low_tide.store import comparisons, hookups, inspections, renders, takes, uploads
from low_tide.store.comparisons import ComparisonRecord
from low_tide.store.database import database
from low_tide.store.home import Home, audio_file, incoming, keep_audio, now

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
class ComparedTrack:
    """A recording of a comparison as it is shown. `called`: by what differs between them; `about`: what else is known.

    `match_db`: the gain that brings it to the reference's loudness. `held` None until it was held against it, or where
    its recording is gone; `lies`: how it lies beside it, `as_it_came`: its differences before it was matched, in words.
    """

    take: int | None
    audio: str
    called: str
    about: str
    simulated: bool
    seconds: float
    rate: int
    state: TrackState
    held: Held | None
    match_db: float
    lies: str
    as_it_came: str
    said: tuple[Said, ...]
    heard: bool


@dataclass(frozen=True)
class ComparisonState:
    """A comparison. `wanting`: something is still to be worked out. `top_db`: the gain over all when it is heard.

    `seconds`: how long the reference is. `saves` must come back with a change. `has_list`: it comes from a shoot-out;
    `bias`: for which of them the amp was set.
    """

    id: int
    name: str
    saves: int
    tracks: tuple[ComparedTrack, ...]
    sections: tuple[SoundPart, ...]
    suggested: tuple[SoundPart, ...]
    seconds: float
    wanting: bool
    top_db: float
    has_list: bool
    bias: str


@dataclass(frozen=True)
class ComparisonEntry:
    """A comparison in the list."""

    id: int
    name: str
    tracks: int
    at: str


@dataclass(frozen=True)
class Doing:
    """What is being done: of which recording (by name), the part of all that is done (0 to 1)."""

    name: str
    what: str
    part: float


@dataclass(frozen=True)
class _Found:
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


def listed(search: str = "") -> list[ComparisonEntry]:
    """All comparisons that have these words in their names, newest first."""
    words = search.lower().split()
    found = [r for r in comparisons.every() if all(word in r.name.lower() for word in words)]
    return [ComparisonEntry(r.id, r.name, len(doc_of(r).tracks), r.at) for r in found]


def _named(name: str) -> str:
    name = name.strip()
    if not 1 <= len(name) <= 120:
        raise Invalid("Name: 1 to 120 characters are wanted.")
    return name


def begin(name: str, doc: Any) -> ComparisonState:
    """A new comparison of takes."""
    with database.atomic():
        wanted = _checked(doc, frozenset())
        made = comparisons.insert(_named(name), dump(ComparisonDoc(wanted.tracks, wanted.sections)), now())
        return state(made)


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
    """Change which recordings, their order, or the sections. Conflict where another window changed it meanwhile."""
    with settled(home) as mark, database.atomic():
        row = row_of(comparison_id)
        _seen(row, saves)
        before = {t.audio for t in doc_of(row).tracks if t.take is None}
        # A missing take or file may stay where it stands, so that the rest can be changed.
        parts = _checked(doc, frozenset(before)) if _picks(doc) != _picks(row.doc) else _sections(doc, doc_of(row))
        wanted = ComparisonDoc(parts.tracks, parts.sections, doc_of(row).shoot_out)
        after = {t.audio for t in wanted.tracks if t.take is None}
        for audio in before - after:
            mark(audio)
        comparisons.update(comparison_id, _named(name), dump(wanted), after)
    return state(comparison_id)


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
        for track in doc_of(row_of(comparison_id)).tracks:
            if track.take is None:
                mark(track.audio)
        comparisons.delete(comparison_id)


def bring(home: Home, comparison_id: int, upload: str, file_name: str) -> Iterator[float | ComparisonState]:
    """A file that was brought in by pieces joins a comparison without becoming a take."""
    with database.connection_context(), incoming(home) as part:
        _room(doc_of(row_of(comparison_id)))
        path, size = uploads.uploaded(home, upload)
        if path.stat().st_size < size:
            raise Conflict(f"Only {path.stat().st_size} of {size} bytes are here.")
        path.replace(part)
        for step in inspected_file(part):
            if not isinstance(step, Found):
                yield step
                continue
            with settled(home) as mark, database.atomic():
                row = row_of(comparison_id)
                doc = doc_of(row)
                _room(doc)
                if any(t.audio == step.name for t in doc.tracks):
                    raise Invalid("This very file is in the comparison already.")
                mark(step.name)
                keep_audio(home, part, step.name)
                keep_inspected(home, step)
                joined = replace(doc, tracks=(*doc.tracks, Compared(None, step.name, take_name(file_name))))
                save(row, joined)
            yield state(comparison_id)


def save(row: ComparisonRecord, doc: ComparisonDoc) -> None:
    """Save a comparison in the transaction that read it."""
    comparisons.update(row.id, row.name, dump(doc), (t.audio for t in doc.tracks if t.take is None))


def _room(doc: ComparisonDoc) -> None:
    if len(doc.tracks) >= MOST_TRACKS:
        raise Invalid(f"Recordings: at most {MOST_TRACKS} are compared at one time.")


@dataclass(frozen=True)
class _Known:
    """What is known of a track besides its sound."""

    audio: str
    called: str
    about: str
    simulated: bool


def _known(doc: ComparisonDoc) -> list[_Known]:
    """Each track by what differs between them: the hook-up where those differ, else the take's name and number."""
    found = takes.some([t.take for t in doc.tracks if t.take is not None])
    names = hookups.names()
    rows = [found.get(t.take) if t.take is not None else None for t in doc.tracks]
    there = [row for row in rows if row]
    called = _told_apart([names.get(r.hookup_id, r.hookup_name) for r in there])
    called = called or _told_apart([r.name for r in there]) or [f"{r.name}, take {r.number}" for r in there]
    known, each = [], iter(called)
    for track, row in zip(doc.tracks, rows, strict=True):
        if row is not None:
            known.append(_Known(row.audio or "", next(each), f"take {row.number}, {row.name}", row.simulated))
        elif track.take is not None:
            known.append(_Known("", track.name or f"take {track.take}", "this take was deleted", False))
        else:
            known.append(_Known(track.audio, track.name, "a file", takes.is_simulated(track.audio)))
    return known


def _told_apart(names: list[str]) -> list[str]:
    """Names without the words all of them begin with; none where some are the same."""
    if len(set(names)) < max(2, len(names)):
        return []
    words = [name.split() for name in names]
    same = 0
    # What is left is still a word: “Take 2” is not called “2”.
    while all(any(c.isalpha() for c in "".join(w[same + 1 :])) for w in words) and len({w[same] for w in words}) == 1:
        same += 1
    return [" ".join(w[same:]) for w in words]


def _found(reference: str, audio: str) -> _Found | None:
    kept = comparisons.held(reference, audio)
    return parse(_Found, kept) if kept else None


def state(comparison_id: int, home: Home | None = None) -> ComparisonState:
    """A comparison with everything that was found so far. Whether a track can be heard is told with a `home` alone."""
    row = row_of(comparison_id)
    doc, known = doc_of(row), _known(doc_of(row))
    reference = known[0].audio if known else ""
    founds = [_found(reference, k.audio) if k.audio and reference else None for k in known]
    twice = _twice(doc, founds)
    top = max((f.peak_dbfs for f in founds if f), default=TOP_DBFS)
    first = founds[0] if founds else None
    tracks = tuple(
        _track(home, reference, t, k, f, first, None if n == twice[0] else twice[1])
        for n, (t, k, f) in enumerate(zip(doc.tracks, known, founds, strict=True))
    )
    return ComparisonState(
        row.id,
        row.name,
        row.saves,
        tracks,
        doc.sections,
        first.suggested if first else (),
        first.seconds if first else 0.0,
        len(known) > 1 and any(k.audio and not _is_done(home, reference, k.audio) for k in known),
        min(0.0, TOP_DBFS - top),
        doc.shoot_out is not None,
        _bias(doc.shoot_out),
    )


def _twice(doc: ComparisonDoc, founds: list[_Found | None]) -> tuple[int, float | None]:
    """Which track is the reference recorded a second time (−1 for none), and what a filter leaves of it, dB.

    The same hook-up, word for word, and nobody set the amp anew.
    """
    first = doc.tracks[0].take if doc.tracks else None
    if first is None:
        return -1, None
    anew = {item.take for item in doc.shoot_out.items if item.again} if doc.shoot_out else set()
    rows = takes.some([t.take for t in doc.tracks if t.take is not None])
    hookup = rows[first].hookup_id if first in rows else ""
    seen: Any = None
    for place, (track, found) in enumerate(zip(doc.tracks, founds, strict=True)):
        if place == 0 or track.take is None or track.take in anew or not found or not found.held.filter:
            continue
        if track.take not in rows or rows[track.take].hookup_id != hookup:
            continue
        seen = seen or takes.seen_at(first).get("hookup")
        if found.held.relation == "same" and seen and takes.seen_at(track.take).get("hookup") == seen:
            return place, found.held.filter.left
    return -1, None


def _bias(listed: ShootOut | None) -> str:
    """For which of them the amp was set: said wherever they are compared, since it favours that one."""
    if listed is None:
        return ""
    name = hookups.names().get(listed.set_on)
    again = any(item.again for item in listed.items)
    if name is None:
        return "Nobody said on which of them the amp’s controls were set; that one is favoured."
    rest = "; the second pass has them set anew for each" if again else ""
    return f"The amp’s controls were set on “{name}”, which favours it{rest}."


def _track(
    home: Home | None,
    reference: str,
    track: Compared,
    known: _Known,
    found: _Found | None,
    first: _Found | None,
    twice: float | None,
) -> ComparedTrack:
    state: TrackState = "held" if found else "to do" if known.audio else "gone"
    said: tuple[Said, ...] = ()
    if found and first and known.audio != reference:
        said = (*sentences(found.held, known.called, (first.rate, found.rate), twice), *_faults(known))
    elif state == "gone":
        said = (Said(f"{known.called}: its recording is gone. Take it off the list, or bring it in again.", True),)
    return ComparedTrack(
        track.take,
        known.audio,
        known.called,
        known.about,
        known.simulated,
        found.seconds if found else 0.0,
        found.rate if found else 0,
        state,
        found.held if found else None,
        found.held.match_db if found else 0.0,
        where_it_lies(found.held) if found else "",
        as_load_feel_says(found.held) if found and known.audio != reference else "",
        said,
        home is not None and found is not None and renders.find(home, _render_name(reference, known.audio)) is not None,
    )


def _faults(known: _Known) -> Iterator[Said]:
    """What a recording has that makes it differ whatever it was recorded through."""
    found = inspections.find(known.audio)
    if found is None:
        return
    clips = sum(c["runs"] for c in found["clips"] if c["by"] == "converter")
    if clips:
        often = "once" if clips == 1 else f"{clips:,} times"
        yield Said(f"It is clipped {often}: what stood above is gone, and counts here as if the amp had done it.", True)
    if found["channels"] in ("left only", "right only"):
        yield Said("One of its channels is empty; the other one is compared.")


def _render_name(reference: str, audio: str) -> str:
    key = f"{comparisons.VERSION}/{reference}/{audio}"
    return f"inline-{hashlib.sha256(key.encode()).hexdigest()[:24]}.wav"


def _read(home: Home, known: _Known) -> Recorded:
    path = audio_file(home, known.audio) if known.audio else None
    if path is None:
        raise Conflict(f"{known.called}: its recording is gone; it was deleted meanwhile.")
    try:
        samples, rate = read_one_channel(path)
    except FormatError as error:
        raise Invalid(*(f"{known.called}: {problem}" for problem in error.problems)) from None
    except OSError:
        raise Conflict(f"{known.called}: its recording was deleted while it was read.") from None
    return Recorded(samples, rate)


STEPS = 6


def work(home: Home, comparison_id: int) -> Iterator[Doing | ComparisonState]:
    """Hold everything against the reference that was not yet; yields what is being done, and last the comparison."""
    with database.connection_context():
        doc = doc_of(row_of(comparison_id))
        known = _known(doc)
        if len(known) < 2:
            raise Invalid("Recordings: at least two are wanted, the reference first.")
        left = [k for k in known if k.audio and not _is_done(home, known[0].audio, k.audio)]
        reference: Recorded | None = None
        for number, each in enumerate(left):
            yield Doing(each.called, "read", number / len(left))
            give_way()
            reference = reference or _read(home, known[0])
            yield from _hold(home, known[0], reference, each, number / len(left), 1 / len(left))
        yield state(comparison_id, home)


def _is_done(home: Home | None, reference: str, audio: str) -> bool:
    found = _found(reference, audio)
    if found is None:
        return False
    heard = home is None or renders.find(home, _render_name(reference, audio)) is not None
    return heard or found.held.relation in UNHEARD


def _hold(home: Home, first: _Known, reference: Recorded, each: _Known, done: float, share: float) -> Iterator[Doing]:
    take = reference if each.audio == first.audio else _read(home, each)
    held: Held | None = alone(reference) if each.audio == first.audio else None
    step = 1
    for found in held_against(reference, take) if held is None else ():
        if isinstance(found, Held):
            held = found
            continue
        yield Doing(each.called, found, done + share * step / STEPS)
        step += 1
        give_way()
    assert held is not None
    peak = 0.0
    if held.relation not in UNHEARD:
        heard = _as_heard(held, reference, take)
        peak = float(np.abs(heard).max(initial=0.0))
        renders.put(home, _render_name(first.audio, each.audio), write_wav(heard.astype(np.float32), RATE, "FLOAT"))
    made = _Found(held, 20 * log10(max(peak, 1e-6)), take.seconds, take.rate, suggested(take))
    with database.atomic():
        # A take that was deleted meanwhile takes what was found with it.
        if audio_file(home, each.audio) is None or audio_file(home, first.audio) is None:
            raise Conflict(f"{each.called}: its recording was deleted while it was compared.")
        comparisons.keep_held(first.audio, each.audio, dump(made))


def _as_heard(held: Held, reference: Recorded, take: Recorded) -> Samples:
    """A take beside the reference, matched in level; as it is where it cannot be brought into line."""
    sound = take.samples
    if take is not reference and held.alignment is not None and held.relation in ("same", "identical"):
        sound = put_in_line(held.alignment, sound, len(reference.samples))
    return np.asarray(sound * 10 ** (held.match_db / 20))


def _place(known: list[_Known], audio: str) -> int:
    found = next((i for i, k in enumerate(known) if k.audio == audio and audio), None)
    if found is None:
        raise NotFound("There is no such recording in this comparison.")
    return found


def render_of(home: Home, comparison_id: int, audio: str) -> Path:
    """The sound of a track, in line and matched; NotFound where it has to be made again."""
    known = _known(doc_of(row_of(comparison_id)))
    _place(known, audio)
    path = renders.find(home, _render_name(known[0].audio, audio))
    if path is None:
        raise NotFound("This sound has gone from the server; compare again.")
    return path


def waveform(home: Home, comparison_id: int, audio: str, start: float, stop: float, columns: int) -> Trace:
    """What a part (s of the reference) of a track is drawn by, as it is heard."""
    path = render_of(home, comparison_id, audio)
    samples = read_part(path, round(start * RATE), round(stop * RATE)).T[0]
    drawn = whole(samples)
    return trace(np.stack((drawn, drawn), axis=1)[:, None, :], start, start + len(samples) / RATE, columns)


MOST_PICKED = 400


def pick(comparison_id: int, audio: str, why: str, session: int | None = None) -> log.LogLine:
    """The recording that was picked, and why, as a line in the log."""
    row = row_of(comparison_id)
    known = _known(doc_of(row))
    place = _place(known, audio)
    others = ", ".join(k.called for i, k in enumerate(known) if i != place)
    reason = why.strip()
    if not 1 <= len(reason) <= MOST_PICKED:
        raise Invalid(f"Why: 1 to {MOST_PICKED} characters are wanted, so that it can be understood later.")
    return log.write_line(f"{row.name}: picked {known[place].called}. {reason} (Over {others}.)"[:1000], session)
