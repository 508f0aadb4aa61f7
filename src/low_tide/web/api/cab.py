"""Cab blend over HTTP: the library of impulse responses, blends of them, their sound, and what goes out."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from flask import Response, request
from pydantic import Field

from low_tide.app import blend_sound, blends, heard_on, impulses, listening, sweeps
from low_tide.app.blend_sound import ExportChoice, Recipe
from low_tide.app.blends import BlendDoc, BlendEntry, BlendState, FittedFilter, School, Suggestions
from low_tide.app.errors import Invalid
from low_tide.app.heard_on import BlendSource
from low_tide.app.impulses import ImpulseEntry, ImpulseNote, Library, Origin
from low_tide.app.listening import NewBlendRun
from low_tide.core.cab.blend import MOST_PARTS, BlendPart
from low_tide.core.cab.lining_up import LineUp
from low_tide.core.cab.monitoring import MonitoringDelay, MonitoringPath, monitoring_delay
from low_tide.core.cab.output import Level
from low_tide.core.spec import Spec
from low_tide.formats.documents import dump
from low_tide.store.home import AUDIO_TYPES
from low_tide.web.api.base import (
    Count,
    Line,
    Model,
    Strict,
    Whole,
    api,
    download,
    file,
    home,
    json_lines,
    reply,
    reply_root,
    takes,
)
from low_tide.web.api.compare import ListeningRunList, ListeningRunOut, RateQuery
from low_tide.web.api.log import LogLineOut

MOST_BYTES = 16 * 1024 * 1024


class LibraryQuery(Model):
    """Words to find, and how far apart (dB) those may be that are folded under one; left out, none are folded."""

    search: Annotated[str, Field(max_length=200)] = ""
    within: Annotated[float | None, Field(ge=0, le=12)] = None


class FileNameQuery(Model):
    file_name: Annotated[str, Field(max_length=2000)] = "impulse response"


class SomeImpulses(Strict):
    ids: Annotated[list[Count], Field(min_length=1, max_length=5000)]


class NotedImpulse(Strict):
    """One of several, and what it is of."""

    id: Count
    note: Annotated[ImpulseNote, Spec("Impulse response")]


class SomeNotesBody(Strict):
    notes: Annotated[list[NotedImpulse], Field(min_length=1, max_length=5000)]


class FromSweepBody(Strict):
    """The impulse response of a path that was measured, what it is called, and up to how long after its peak, ms."""

    impulse: Annotated[str, Field(max_length=80)]
    name: Annotated[str, Field(min_length=1, max_length=120)]
    after: Annotated[float, Field(ge=1, le=200)] = 200.0


class LibraryImpulsePath(Model):
    impulse_id: Count


class BlendPath(Model):
    blend_id: Count


class BlendTakePath(BlendPath):
    take_id: Count


class BlendBody(Strict):
    """A blend: its name, what it is made of, and the saves it was seen with."""

    name: Annotated[str, Field(max_length=400)]
    doc: Annotated[BlendDoc, Spec("Blend")]
    saves: Count | None = None


class NewBlendBody(Strict):
    """A new blend: its name, and what it begins with."""

    name: Annotated[str, Field(max_length=400)]
    school: School = "impulses"
    impulses: Annotated[tuple[Count, ...], Field(max_length=MOST_PARTS)] = ()


class BlendCopyBody(Strict):
    name: Annotated[str, Field(max_length=400)]


class FitBody(Strict):
    """A blend whose filter is to be brought near to what the blend is held against."""

    doc: Annotated[BlendDoc, Spec("Blend")]


class LineUpBody(Strict):
    doc: Annotated[BlendDoc, Spec("Blend")]
    how: LineUp


class BlendHeardQuery(Model):
    """What is heard and from where to where, s; bare: without the blend."""

    source: Annotated[str, Field(max_length=40)]
    start: Annotated[float, Field(ge=0, le=3600)]
    stop: Annotated[float, Field(ge=0, le=3600)]
    bare: bool = False
    saves: Count | None = None


class NewBlendRunBody(Strict):
    """A run that is to begin: which other blend, heard on what, and how many trials."""

    run: NewBlendRun


class OutQuery(Model):
    rate: Literal["44100", "48000", "96000"] = "48000"
    stereo: bool = False
    minimum: bool = False
    level: Level = "as it is"

    def choice(self) -> ExportChoice:
        return ExportChoice(int(self.rate), self.stereo, self.minimum, self.level)  # type: ignore[arg-type]


class AnywayQuery(Model):
    anyway: bool = False


class CommitBody(Strict):
    """The part of the music it was taken for, why, whether its impulse responses are trusted from now on, and how many
    blends were tried."""

    part: Annotated[str, Field(max_length=200)] = ""
    why: Annotated[str, Field(max_length=1000)]
    trusted: bool = False
    tried: Annotated[int, Field(ge=0, le=100_000)] = 0
    session: Count | None = None


class LibraryOut(Whole[Library]):
    pass


class ImpulseOut(Whole[ImpulseEntry]):
    pass


class BroughtImpulses(Model):
    impulses: list[ImpulseEntry]


class BlendList(Model):
    blends: list[BlendEntry]


class BlendOut(Whole[BlendState]):
    pass


class BlendDocOut(Whole[BlendDoc]):
    pass


class FittedFilterOut(Whole[FittedFilter]):
    pass


class SuggestionLine(Line):
    """One line of the answer while blends are tried: the part that is done, or, last, those that come nearest."""

    part: float | None = None
    suggestions: Suggestions | None = None


class BlendSourceList(Model):
    sources: list[BlendSource]


class RecipeBody(Whole[Recipe]):
    pass


class MonitoringBody(Whole[MonitoringPath]):
    pass


class MonitoringOut(Whole[MonitoringDelay]):
    pass


def _doc() -> Any:
    return request.get_json()["doc"]


@api.get("/impulses", responses={200: LibraryOut})
def impulse_list(query: LibraryQuery) -> Response:
    return reply_root(LibraryOut, impulses.library(query.search, query.within))


@api.post("/impulses", responses={201: BroughtImpulses}, openapi_extensions=takes(*AUDIO_TYPES.values(), "text/plain"))
def impulse_new(query: FileNameQuery) -> Response:
    """A file into the library: WAV, FLAC or AIFF, or a response as FRD text. The body is the file."""
    data = request.stream.read(MOST_BYTES + 1)
    if len(data) > MOST_BYTES:
        raise Invalid(f"The file is larger than {MOST_BYTES >> 20} MiB, the most an impulse response can have.")
    return reply(BroughtImpulses, {"impulses": impulses.bring(home(), data, query.file_name)}, 201)


@api.post("/impulses/from-sweep", responses={201: BroughtImpulses})
def impulse_from_sweep(body: FromSweepBody) -> Response:
    """The impulse response of a path that was measured by a sweep, into the library."""
    data = sweeps.impulse(home(), body.impulse, body.after)
    origin: Origin = "simulated" if body.impulse.startswith(sweeps.SIMULATED) else "sweep"
    return reply(BroughtImpulses, {"impulses": impulses.bring(home(), data, body.name, origin)}, 201)


@api.post("/impulses/delete", responses={204: None})
def impulse_delete(body: SomeImpulses) -> tuple[str, int]:
    """Blends that use them stay, and say that they are gone."""
    impulses.delete(home(), body.ids)
    return "", 204


@api.post("/impulses/notes", responses={204: None})
def impulse_notes(body: SomeNotesBody) -> tuple[str, int]:
    """Say what several are of: all of it, or nothing where one of them cannot be so."""
    impulses.edit_some([(each["id"], each["note"]) for each in request.get_json()["notes"]])
    return "", 204


@api.put("/impulses/<int:impulse_id>", responses={200: ImpulseOut})
def impulse_edit(path: LibraryImpulsePath, body: Whole[ImpulseNote]) -> Response:
    """Say what one is of; put it on the short list or among the favourites."""
    return reply_root(ImpulseOut, impulses.edit(path.impulse_id, request.get_json()))


@api.get("/impulses/<int:impulse_id>/response.frd", responses=file("text/plain"))
def impulse_response(path: LibraryImpulsePath) -> Response:
    """Its response as FRD text."""
    data = blend_sound.response(home(), path.impulse_id)
    return download(data, f"response-{path.impulse_id}.frd", "text/plain; charset=utf-8")


@api.get("/impulses/<int:impulse_id>/file.wav", responses=file("audio/wav"))
def impulse_wav(path: LibraryImpulsePath, query: RateQuery) -> Response:
    """The impulse response at a rate, as loud as it came."""
    data = blend_sound.impulse_file(home(), path.impulse_id, int(query.rate))
    return download(data, f"impulse-{path.impulse_id}-{query.rate}.wav", "audio/wav")


@api.post("/tools/monitoring-delay", responses={200: MonitoringOut})
def monitoring(body: MonitoringBody) -> Response:
    """How late one hears oneself through software, and what would mend it."""
    return reply_root(MonitoringOut, monitoring_delay(body.root))


@api.get("/blends", responses={200: BlendList})
def blend_list() -> Response:
    return reply(BlendList, {"blends": blends.listed()})


@api.post("/blends", responses={201: BlendOut})
def blend_new(body: NewBlendBody) -> Response:
    parts = tuple(BlendPart(each) for each in body.impulses)
    return reply_root(BlendOut, blends.begin(home(), body.name, dump(BlendDoc(parts, school=body.school))), 201)


@api.post("/blends/line-up", responses={200: BlendDocOut})
def blend_line_up(body: LineUpBody) -> Response:
    """A blend with its parts brought into line; nothing is kept."""
    return reply_root(BlendDocOut, blends.line_up(home(), _doc(), body.how))


@api.get("/blends/sources", responses={200: BlendSourceList})
def blend_sources() -> Response:
    """What a blend can be heard on."""
    return reply(BlendSourceList, {"sources": heard_on.sources()})


@api.post("/blends/recipe", responses={201: BlendOut})
def blend_from_recipe(body: RecipeBody) -> Response:
    """A new blend from the recipe of one."""
    return reply_root(BlendOut, blend_sound.from_recipe(home(), request.get_json()), 201)


@api.get("/blends/<int:blend_id>", responses={200: BlendOut})
def blend_get(path: BlendPath) -> Response:
    return reply_root(BlendOut, blends.state(home(), path.blend_id))


@api.put("/blends/<int:blend_id>", responses={200: BlendOut})
def blend_edit(path: BlendPath, body: BlendBody) -> Response:
    return reply_root(BlendOut, blends.edit(home(), path.blend_id, body.name, _doc(), body.saves))


@api.delete("/blends/<int:blend_id>", responses={204: None})
def blend_delete(path: BlendPath) -> tuple[str, int]:
    """Its impulse responses stay."""
    blends.delete(path.blend_id)
    return "", 204


@api.post("/blends/<int:blend_id>/copy", responses={201: BlendOut})
def blend_copy(path: BlendPath, body: BlendCopyBody) -> Response:
    """The same once more under another name."""
    return reply_root(BlendOut, blends.copy(home(), path.blend_id, body.name), 201)


@api.post("/blends/<int:blend_id>/suggest", responses={200: SuggestionLine})
def blend_suggest(path: BlendPath) -> Response:
    """Blends of the short list that come nearest to what this one is held against, as lines of JSON."""
    steps = blends.suggest(home(), path.blend_id)
    return json_lines(
        SuggestionLine, (("suggestions" if isinstance(step, Suggestions) else "part", step) for step in steps)
    )


@api.post("/blends/<int:blend_id>/fit", responses={200: FittedFilterOut})
def blend_fit(path: BlendPath, body: FitBody) -> Response:
    """Its filter brought as near as it gets to what it is held against; nothing is kept."""
    return reply_root(FittedFilterOut, blends.fit(home(), path.blend_id, _doc()))


@api.get("/blends/<int:blend_id>/sound", responses=file("audio/wav"))
def blend_heard(path: BlendPath, query: BlendHeardQuery) -> Response:
    """A part of a take through a blend as it stands, or bare, matched in loudness."""
    row = blends.row_of(path.blend_id)
    sound = None if query.bare else blends.sound_of(home(), blends.doc_of(row))
    data = blend_sound.part(home(), sound, query.source, query.start, query.stop)
    return Response(data, mimetype="audio/wav")


@api.get("/blends/<int:blend_id>/runs", responses={200: ListeningRunList})
def blend_run_list(path: BlendPath) -> Response:
    """All runs of listening without knowing that this blend was in."""
    return reply(ListeningRunList, {"runs": listening.blend_runs(path.blend_id)})


@api.post("/blends/<int:blend_id>/runs", responses={201: ListeningRunOut})
def blend_run_new(path: BlendPath, body: NewBlendRunBody) -> Response:
    """Begin trials without knowing of this blend and another, or the bare tap; how many is fixed now."""
    return reply_root(ListeningRunOut, listening.begin_blends(home(), path.blend_id, body.run), 201)


@api.get("/blends/<int:blend_id>/impulse.wav", responses=file("audio/wav"))
def blend_wav(path: BlendPath, query: OutQuery) -> Response:
    """The blend as an impulse response of 32-bit floats."""
    data = blend_sound.export(home(), path.blend_id, query.choice())
    return download(data, f"blend-{path.blend_id}-{query.rate}.wav", "audio/wav")


@api.get("/blends/<int:blend_id>/recipe.json", responses=file("application/json"))
def blend_recipe(path: BlendPath, query: OutQuery) -> Response:
    """What the blend is made of, so that it can be made again where its impulse responses are."""
    plain = blend_sound.recipe(home(), path.blend_id, query.choice())
    response = Response(RecipeBody(plain).model_dump_json(indent=1), mimetype="application/json")  # type: ignore[arg-type]
    response.headers["Content-Disposition"] = f'attachment; filename="blend-{path.blend_id}.json"'
    return response


@api.get("/blends/<int:blend_id>/takes/<int:take_id>/file.wav", responses=file("audio/wav"))
def blend_take(path: BlendTakePath, query: AnywayQuery) -> Response:
    """A take of the log through the blend, 24-bit; refused where it has a speaker in it already, unless told anyway."""
    data, name = blend_sound.rendered(home(), path.blend_id, path.take_id, query.anyway)
    return download(data, name, "audio/wav")


@api.post("/blends/<int:blend_id>/commit", responses={201: LogLineOut})
def blend_commit(path: BlendPath, body: CommitBody) -> Response:
    """The blend that was taken for a part, and why, as a line in the log."""
    line = blends.commit(path.blend_id, body.part, body.why, body.trusted, body.tried, body.session)
    return reply_root(LogLineOut, line, 201)
