"""Blends of impulse responses: what they are made of, what they are like, brought into line, kept with a reason."""

from __future__ import annotations

import contextlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields, replace
from typing import Annotated, Any, Literal, TypeAlias

import numpy as np
from numpy.typing import NDArray

from low_tide.app import impulses, log
from low_tide.app.errors import Conflict, Invalid, NotFound
from low_tide.app.own_files import named
from low_tide.app.turns import give_way
from low_tide.core.audio.spectrum import band_centres
from low_tide.core.cab.blend import (
    MOST_PARTS,
    BlendPart,
    Notch,
    blended,
    lead_ms,
    lost_to_phase,
    mono,
    notches,
    part_responses,
    sides,
    sounding,
)
from low_tide.core.cab.impulse import (
    RATE,
    Real,
    Samples,
    ToneBands,
    band_response,
    onset,
    programme_db,
    smoothed_db,
    tone_bands,
)
from low_tide.core.cab.lining_up import LineUp, better_turned, lined_up
from low_tide.core.cab.report import band_report
from low_tide.core.cab.speaker_filter import (
    PLAIN_FILTER,
    FilterResponses,
    SpeakerFilter,
    bounds_of,
    filter_responses,
    filter_words,
    fitted_filter,
    impulse_of,
    spec_of,
)
from low_tide.core.cab.suggesting import suggested
from low_tide.core.spec import Spec
from low_tide.formats.documents import dump, parse
from low_tide.formats.file_names import told_apart
from low_tide.formats.sentences import FormatError
from low_tide.store import blends
from low_tide.store import impulses as kept
from low_tide.store.blends import BlendRecord
from low_tide.store.database import database
from low_tide.store.home import Home, now

CHART_HZ = np.geomspace(40.0, 16_000.0, 260)
STRIP_MS = 25.0
LOWEST_DB = -120.0
MOST_WHY = 400
Against = Literal["library", "impulse", "blend"]
School = Literal["impulses", "filter"]
Stereo: TypeAlias = NDArray[np.float64]


@dataclass(frozen=True)
class BlendReference:
    """What a blend is held against: the library's median, or an impulse response or another blend by its number."""

    against: Against = "library"
    id: Annotated[int | None, Spec("Reference", ge=1)] = None


@dataclass(frozen=True)
class BlendDoc:
    """What a blend is: of impulse responses, or an adjustable filter; what it is not now stays for when it is again.

    `line_up`: how its parts were brought into line; empty where they were moved by hand.
    """

    parts: Annotated[tuple[BlendPart, ...], Spec("Impulse responses", le=MOST_PARTS)] = ()
    line_up: LineUp | Literal[""] = "recorded"
    reference: BlendReference = BlendReference()
    school: Annotated[School, Spec("Speaker by")] = "impulses"
    filter: Annotated[SpeakerFilter, Spec("Adjustable filter")] = PLAIN_FILTER


@dataclass(frozen=True)
class BlendStrip:
    """A part of a blend as it is shown. `called`: by what differs between them.

    `strip`: its first 25 ms at 48 kHz, peaks at 1; `begins`: its onset there, ms. `response`: dB over the blend's
    frequencies, as it goes into the mono fold. `gone`: its impulse response is no longer here. `turn`: turned over it
    would make the low end more than 1 dB stronger.
    """

    part: BlendPart
    name: str
    called: str
    about: str
    made: bool
    gone: bool
    heard: bool
    begins: float
    strip: tuple[float, ...]
    response: tuple[float, ...]
    turn: bool


@dataclass(frozen=True)
class FilterControl:
    """A number of the filter: its field, what it is called, its unit, and between what it may lie."""

    field: str
    label: str
    unit: str
    low: float
    high: float


@dataclass(frozen=True)
class FilterState:
    """An adjustable filter as it is shown: in a line of words; its stages alone and the bare signal as it is mixed in,
    dB over the blend's frequencies, None where there is none of it."""

    words: str
    controls: tuple[FilterControl, ...]
    stages: tuple[float, ...] | None
    bare: tuple[float, ...] | None


@dataclass(frozen=True)
class BlendState:
    """A blend as it is shown. `response`: its mono fold, dB over `frequency` (Hz), None where nothing is heard.

    `lost`: what each band lost to phase, dB; `lost_recorded` the same as it was recorded. `stereo`: something stands
    aside of the middle, and `fold` says what folding does to it (dB). `later`: all is later by this, ms, since a part
    is drawn before its own beginning. `report`: what it is like against `against`, in words.
    """

    id: int
    name: str
    saves: int
    doc: BlendDoc
    parts: tuple[BlendStrip, ...]
    frequency: tuple[float, ...]
    response: tuple[float, ...] | None
    bands: ToneBands | None
    lost: ToneBands | None
    lost_recorded: ToneBands | None
    notches: tuple[Notch, ...]
    stereo: bool
    fold: float
    later: float
    report: tuple[str, ...]
    against: str
    filter: FilterState | None


@dataclass(frozen=True)
class BlendEntry:
    """A blend in the list; an adjustable filter has no parts."""

    id: int
    name: str
    school: School
    parts: int
    at: str


def row_of(blend_id: int) -> BlendRecord:
    """A blend as it is kept."""
    row = blends.find(blend_id)
    if row is None:
        raise NotFound("There is no such blend; it may have been deleted.")
    return row


def doc_of(row: BlendRecord) -> BlendDoc:
    """What a blend is."""
    return parse(BlendDoc, row.doc)


def listed(search: str = "") -> list[BlendEntry]:
    """All blends that have these words in their names, newest first."""
    words = search.lower().split()
    found = [r for r in blends.every() if all(word in r.name.lower() for word in words)]
    return [_entry(r, doc_of(r)) for r in found]


def _entry(row: BlendRecord, doc: BlendDoc) -> BlendEntry:
    return BlendEntry(row.id, row.name, doc.school, len(doc.parts) if doc.school == "impulses" else 0, row.at)


@dataclass(frozen=True, eq=False)
class Sounding:
    """The parts of a blend whose impulse responses are here, with their places and sounds."""

    places: tuple[int, ...]
    parts: tuple[BlendPart, ...]
    sounds: tuple[Samples, ...]

    def stereo(self) -> Stereo:
        """The blend, shape (n, 2), 48 kHz. Invalid where nothing is heard."""
        if not any(sounding(self.parts)):
            raise Invalid("Nothing is heard of this blend: let one of its parts sound.")
        return blended(self.sounds, self.parts)


def sounding_of(home: Home, doc: BlendDoc) -> Sounding:
    """What of a blend is here."""
    rows = kept.some([p.impulse for p in doc.parts])
    places, sounds = [], []
    for place, part in enumerate(doc.parts):
        row = rows.get(part.impulse)
        try:
            sounds.append(impulses.sound_of(home, row)) if row else None
        except Conflict:
            continue
        if row:
            places.append(place)
    return Sounding(tuple(places), tuple(doc.parts[p] for p in places), tuple(sounds))


def all_of(home: Home, doc: BlendDoc) -> Sounding:
    """The same for what goes out: Conflict where something of it is gone."""
    found = sounding_of(home, doc)
    gone = len(doc.parts) - len(found.places)
    if gone:
        raise Conflict(f"{gone} of its impulse responses {'are' if gone > 1 else 'is'} no longer in the library.")
    return found


def sound_of(home: Home, doc: BlendDoc, whole: bool = False) -> Stereo:
    """The impulse response of a blend, shape (n, 2), 48 kHz. Invalid where nothing is heard of it; for the `whole`,
    Conflict where something of it is gone."""
    if doc.school == "filter":
        return np.outer(impulse_of(doc.filter), sides(0))
    return (all_of if whole else sounding_of)(home, doc).stereo()


@contextlib.contextmanager
def told_of(name: str) -> Iterator[None]:
    """What is wrong with a blend is told with its name, where several are spoken of."""
    try:
        yield
    except (Invalid, Conflict) as error:
        raise type(error)(*(f"“{name}”: {problem}" for problem in error.problems)) from None


def is_stereo(doc: BlendDoc) -> bool:
    """Whether something of it stands aside of the middle."""
    return doc.school == "impulses" and any(p.pan for p in doc.parts)


def _db(response: np.ndarray[Any, Any]) -> tuple[float, ...]:
    level = smoothed_db(np.square(np.abs(response)), CHART_HZ)
    return tuple(np.round(np.maximum(level, LOWEST_DB), 2).tolist())


def state(home: Home, blend_id: int) -> BlendState:
    """A blend with everything that follows from its parts."""
    row = row_of(blend_id)
    return _state(home, row, doc_of(row))


def _state(home: Home, row: BlendRecord, doc: BlendDoc) -> BlendState:
    here = sounding_of(home, doc)
    responses, hz = part_responses(here.sounds, here.parts)
    heard = np.array(sounding(here.parts), bool)
    of_impulses = doc.school == "impulses"
    sound = (here.stereo() if heard.any() else None) if of_impulses else sound_of(home, doc)
    tone = None if sound is None else tone_bands(_response(sound))
    together = responses[heard].sum(axis=0) if heard.any() else None
    by_filter = None if of_impulses else filter_responses(doc.filter, CHART_HZ)
    whole = _db(together) if together is not None else None
    against, target = _target(home, doc, row.id)
    said = band_report(tone, tone_bands(target), against) if tone is not None else ()
    # What follows from the parts together is told of impulse responses only: a filter has no phase to lose.
    several = of_impulses and heard.sum() > 1
    recorded = [replace(p, delay=0.0) for p in here.parts]
    as_recorded = part_responses(here.sounds, recorded)[0][heard] if several else None
    pairs = notches(here.sounds, here.parts) if several else ()
    turn = {here.places[i] for i in better_turned(here.sounds, here.parts)} if several else set()
    return BlendState(
        id=row.id,
        name=row.name,
        saves=row.saves,
        doc=doc,
        parts=tuple(_strips(doc, here, responses, turn)),
        frequency=tuple(np.round(CHART_HZ, 2).tolist()),
        response=whole if by_filter is None else _plain_db(by_filter.whole),
        bands=tone,
        lost=lost_to_phase(responses[heard], hz) if several else None,
        lost_recorded=lost_to_phase(as_recorded, hz) if as_recorded is not None else None,
        notches=tuple(replace(n, first=here.places[n.first], second=here.places[n.second]) for n in pairs),
        stereo=is_stereo(doc),
        fold=_fold(sound) if sound is not None and is_stereo(doc) else 0.0,
        later=lead_ms(here.parts) if of_impulses else 0.0,
        report=said,
        against=against,
        filter=_filter_state(doc.filter, by_filter) if by_filter else None,
    )


def _plain_db(response: np.ndarray[Any, Any]) -> tuple[float, ...]:
    level = 20 * np.log10(np.maximum(np.abs(response), 1e-12))
    return tuple(np.round(np.maximum(level, LOWEST_DB), 2).tolist())


def _filter_state(found: SpeakerFilter, responses: FilterResponses) -> FilterState:
    specs = [(f.name, spec_of(f.name), *bounds_of(f.name)) for f in fields(SpeakerFilter) if f.name != "slope"]
    controls = tuple(FilterControl(name, spec.label, spec.unit, low, high) for name, spec, low, high in specs)
    bare = responses.bare
    stages = None if bare is None else _plain_db(responses.stages)
    return FilterState(filter_words(found), controls, stages, None if bare is None else _plain_db(bare))


def _response(stereo: Stereo) -> Real:
    response = band_response(mono(stereo))
    return np.asarray(response - programme_db(response))


def _fold(stereo: Stereo) -> float:
    """What folding both sides into one does to the level of a guitar's programme, dB."""
    apart = sum(10 ** (programme_db(band_response(side)) / 10) for side in stereo.T)
    return programme_db(band_response(mono(stereo))) - float(10 * np.log10(max(apart, 1e-20)))


def _strips(doc: BlendDoc, here: Sounding, responses: np.ndarray[Any, Any], turn: set[int]) -> list[BlendStrip]:
    # Of those that are here: where the one with solo is gone, the others are heard.
    rows, heard = kept.some([p.impulse for p in doc.parts]), sounding(here.parts)
    at = {place: number for number, place in enumerate(here.places)}
    names = [
        impulses.called(rows[p.impulse]) if p.impulse in rows else f"impulse response {p.impulse}" for p in doc.parts
    ]
    found = []
    for place, (part, name, called) in enumerate(zip(doc.parts, names, told_apart(names) or names, strict=True)):
        row, number = rows.get(part.impulse), at.get(place)
        if row is None or number is None:
            found.append(
                BlendStrip(part, name, called, "gone from the library", False, True, False, 0.0, (), (), False)
            )
            continue
        note, sound = impulses.doc_of(row), here.sounds[number]
        # What its name says already is not said twice.
        about = [each for each in (note.microphone, note.axis) if each and each.lower() not in name.lower()]
        strip = sound[: round(STRIP_MS / 1000 * RATE)]
        found.append(
            BlendStrip(
                part=part,
                name=name,
                called=called,
                about=", ".join(about),
                made=note.origin == "made",
                gone=False,
                heard=heard[number],
                begins=onset(sound) / RATE * 1000,
                strip=tuple(np.round(strip / np.abs(sound).max(), 4).tolist()),
                response=_db(responses[number]),
                turn=place in turn,
            )
        )
    return found


def _target(home: Home, doc: BlendDoc, blend_id: int) -> tuple[str, Real]:
    """What a blend is held against, in words, and its response (dB over `band_centres(RATE)`, its programme at 0)."""
    wanted = doc.reference
    if wanted.against == "impulse" and wanted.id and (row := kept.find(wanted.id)):
        return f"“{impulses.called(row)}”", np.array(impulses.analysis_of(row).response)
    if wanted.against == "blend" and wanted.id and wanted.id != blend_id and (other := blends.find(wanted.id)):
        with contextlib.suppress(Invalid):
            return f"“{other.name}”", _response(sound_of(home, doc_of(other)))
    median = impulses.median_response()
    return "the rest of your library", np.zeros(len(band_centres(RATE))) if median is None else median


def checked(doc: Any, before: BlendDoc | None = None) -> BlendDoc:
    """Plain data as a blend; Invalid where it names an impulse response that is not here and was not in it before."""
    try:
        wanted = parse(BlendDoc, doc)
    except FormatError as error:
        raise Invalid(*error.problems, fields=error.fields) from None
    here = kept.some([p.impulse for p in wanted.parts])
    there = {p.impulse for p in before.parts} if before else set()
    missing = [n for n, p in enumerate(wanted.parts, 1) if p.impulse not in here and p.impulse not in there]
    if missing:
        raise Invalid(*(f"Part {n}: its impulse response is not in the library." for n in missing))
    return wanted


def begin(home: Home, name: str, doc: Any) -> BlendState:
    """A new blend."""
    with database.atomic():
        made = blends.insert(named(name), dump(checked(doc)), now())
    return state(home, made)


def copy(home: Home, blend_id: int, name: str) -> BlendState:
    """The same once more under another name, to be changed and held against the first."""
    with database.atomic():
        made = blends.insert(named(name), row_of(blend_id).doc, now())
    return state(home, made)


def edit(home: Home, blend_id: int, name: str, doc: Any, saves: int | None = None) -> BlendState:
    """Change a blend. Conflict where another window changed it meanwhile."""
    with database.atomic():
        row = row_of(blend_id)
        if saves is not None and saves != row.saves:
            raise Conflict("This blend was changed in another window. It was read again; nothing was overwritten.")
        blends.update(blend_id, named(name), dump(checked(doc, doc_of(row))))
    return state(home, blend_id)


def delete(blend_id: int) -> None:
    """Delete a blend; its impulse responses stay."""
    with database.atomic():
        row_of(blend_id)
        blends.delete(blend_id)


def line_up(home: Home, doc: Any, how: LineUp) -> BlendDoc:
    """A blend with its parts brought into line; nothing is kept."""
    wanted = checked(doc)
    here = all_of(home, wanted)
    if not here.parts:
        return replace(wanted, line_up=how)
    return replace(wanted, parts=lined_up(how, here.sounds, here.parts), line_up=how)


@dataclass(frozen=True)
class FittedFilter:
    """A filter as near as it gets to what its blend is held against, how far (dB RMS) it is off then, and what it is
    held against, in words."""

    filter: SpeakerFilter
    distance: float
    against: str


def fit(home: Home, blend_id: int, doc: Any) -> FittedFilter:
    """The filter of a blend brought near to what it is held against; nothing is kept."""
    row = row_of(blend_id)
    wanted = checked(doc, doc_of(row))
    against, target = _target(home, wanted, blend_id)
    found, distance = fitted_filter(wanted.filter, target)
    return FittedFilter(found, round(distance, 2), against)


@dataclass(frozen=True)
class SuggestedBlend:
    """A blend, how far (dB RMS) it lies from what this one is held against, and how it differs, in words."""

    parts: tuple[BlendPart, ...]
    names: tuple[str, ...]
    distance: float
    words: str


@dataclass(frozen=True)
class Suggestions:
    """Blends of the short list, the nearest to what is wanted first. `against`: what that is; `of`: how many were
    there to choose from."""

    blends: tuple[SuggestedBlend, ...]
    against: str
    of: int


def suggest(home: Home, blend_id: int) -> Iterator[float | Suggestions]:
    """Blends of the short list that come nearest to what a blend is held against; yields the part that is done."""
    with database.connection_context():
        row = row_of(blend_id)
        trusted = [each for each in kept.every() if each.doc.get("listed")]
        if not trusted:
            raise Invalid("The short list is empty: put impulse responses you trust on it; blends are made of those.")
        against, target = _target(home, doc_of(row), row.id)
        sounds = [impulses.sound_of(home, each) for each in trusted]
    ids = [each.id for each in trusted]
    full = [impulses.called(each) for each in trusted]
    names = dict(zip(ids, told_apart(full) or full, strict=True))
    by_id = dict(zip(ids, sounds, strict=True))
    for step in suggested(ids, sounds, target):
        give_way()
        if not isinstance(step, tuple):
            yield step
            continue
        found = []
        for each in step:
            tone = tone_bands(_response(blended([by_id[p.impulse] for p in each.parts], each.parts)))
            said = band_report(tone, tone_bands(target), against)[0]
            called = tuple(names[p.impulse] for p in each.parts)
            found.append(SuggestedBlend(each.parts, called, round(each.distance, 2), said))
        yield Suggestions(tuple(found), against, len(trusted))


def commit(blend_id: int, part: str, why: str, trusted: bool, tried: int, session: int | None) -> log.LogLine:
    """The blend that was taken for a part of the music, and why, as a line in the log; `trusted` puts its impulse
    responses on the short list. `tried`: how many were heard before it was taken."""
    row = row_of(blend_id)
    reason = why.strip()
    if not 1 <= len(reason) <= MOST_WHY:
        raise Invalid(f"Why: 1 to {MOST_WHY} characters are wanted, so that it can be understood later.")
    doc = doc_of(row)
    filtered = doc.school == "filter"
    made_of = f"a filter: {filter_words(doc.filter)}" if filtered else " + ".join(_each(doc.parts)) or "nothing"
    of = f" for {part.strip()[:120]}" if part.strip() else ""
    many = f" ({tried} were tried.)" if tried > 1 else ""
    with database.atomic():
        if trusted and not filtered:
            impulses.list_all([p.impulse for p in doc.parts])
        line = log.write_line(f"Speaker{of}: “{row.name}”. {reason}{many} It is {made_of}."[:1000], session, blend_id)
    return line


def _each(parts: Sequence[BlendPart]) -> list[str]:
    rows, heard = kept.some([p.impulse for p in parts]), sounding(parts)
    return [
        f"{impulses.called(rows[p.impulse]) if p.impulse in rows else 'one that is gone'}"
        f" {'−' if p.gain < 0 else '+' if p.gain else ''}{abs(p.gain):.1f} dB{', turned over' if p.inverted else ''}"
        for p, sounds in zip(parts, heard, strict=True)
        if sounds
    ]
