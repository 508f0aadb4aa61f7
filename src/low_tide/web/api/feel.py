"""Load feel over HTTP: curves, pads, corrections, takes to hear."""

from __future__ import annotations

from typing import Annotated, Literal

from flask import Response, request, send_file
from pydantic import Field

from low_tide.app import audition, feel
from low_tide.app.audition import Rendered, RenderProgress, Source
from low_tide.app.feel import Corrected, FeelState
from low_tide.core.gear.base import identity
from low_tide.core.power.load_feel import RESISTOR, PadSet
from low_tide.core.spec import Spec
from low_tide.store.home import AUDIO_TYPES
from low_tide.web.api.base import (
    HookupPath,
    Line,
    Model,
    Strict,
    Whole,
    api,
    download,
    file,
    home,
    json_lines,
    reply_root,
    takes,
)

LoadId = Annotated[str, Spec("Load", ge=1, le=160)]


class RenderPath(Model):
    name: Annotated[str, Field(max_length=80)]


class AmpQuery(Model):
    """The amp whose output is looked at (the hook-up's first if empty), and its damping factor (its own if none)."""

    amp: Annotated[str, Field(max_length=64)] = ""
    damping: Annotated[float | None, Spec("Damping factor", "", 0.02, 2000)] = None


class FeelQuery(AmpQuery):
    reference: LoadId = RESISTOR


class PadQuery(AmpQuery):
    pad: Annotated[str, identity("Attenuator")]
    cabinet: LoadId


class CorrectionQuery(AmpQuery):
    source: LoadId
    like: LoadId
    rate: Literal["44100", "48000", "96000"] = "48000"


class SourceQuery(Model):
    name: Annotated[str, Field(max_length=300)] = "track"


class RenderBody(Strict):
    """What to render: ids of loads, a direct track that was brought (the built-in take if empty), drive in dB."""

    choices: Annotated[tuple[LoadId, ...], Spec("Choices", ge=1, le=12)]
    source: Annotated[str, Field(max_length=80)] = ""
    drive_db: Annotated[float, Spec("Drive", "dB", -20, 40)] = 6.0
    amp: Annotated[str, Field(max_length=64)] = ""
    damping: Annotated[float | None, Spec("Damping factor", "", 0.02, 2000)] = None


class RenderLine(Line):
    """One line of a rendering: how far it is, or what it made."""

    progress: RenderProgress | None = None
    rendered: Rendered | None = None


class FeelOut(Whole[FeelState]):
    pass


class PadOut(Whole[PadSet]):
    pass


class CorrectedOut(Whole[Corrected]):
    pass


class SourceOut(Whole[Source]):
    pass


@api.get("/hookups/<hookup_id>/feel", responses={200: FeelOut})
def feel_get(path: HookupPath, query: FeelQuery) -> Response:
    return reply_root(FeelOut, feel.state(path.hookup_id, query.reference, query.amp, query.damping))


@api.get("/hookups/<hookup_id>/feel/pad", responses={200: PadOut})
def feel_pad(path: HookupPath, query: PadQuery) -> Response:
    return reply_root(PadOut, feel.pads(path.hookup_id, query.pad, query.cabinet, query.amp, query.damping))


@api.get("/hookups/<hookup_id>/feel/correction", responses={200: CorrectedOut})
def feel_correction(path: HookupPath, query: CorrectionQuery) -> Response:
    found = feel.correction(path.hookup_id, query.source, query.like, int(query.rate), query.amp, query.damping)
    return reply_root(CorrectedOut, found)


@api.get("/hookups/<hookup_id>/feel/correction.csv", responses=file("text/csv"))
def feel_correction_csv(path: HookupPath, query: CorrectionQuery) -> Response:
    found = feel.correction(path.hookup_id, query.source, query.like, int(query.rate), query.amp, query.damping)
    return download("\ufeff" + feel.correction_csv(found), "correction.csv", "text/csv; charset=utf-8")


@api.get("/hookups/<hookup_id>/feel/correction.wav", responses=file("audio/wav"))
def feel_correction_wav(path: HookupPath, query: CorrectionQuery) -> Response:
    data = feel.correction_wav(path.hookup_id, query.source, query.like, int(query.rate), query.amp, query.damping)
    return download(data, f"correction-{query.rate}.wav", "audio/wav")


@api.post("/feel/source", responses={201: SourceOut}, openapi_extensions=takes(*AUDIO_TYPES.values()))
def feel_source(query: SourceQuery) -> Response:
    """The body is a direct track: WAV, FLAC or AIFF."""
    return reply_root(SourceOut, audition.bring_source(home(), query.name, request.stream), 201)


@api.post("/hookups/<hookup_id>/feel/render", responses={200: RenderLine})
def feel_render(path: HookupPath, body: RenderBody) -> Response:
    """A take through each choice, as lines of JSON while it goes on; closing the connection stops it."""
    made = audition.render(home(), path.hookup_id, body.choices, body.source, body.drive_db, body.amp, body.damping)
    return json_lines(RenderLine, (("rendered" if isinstance(each, Rendered) else "progress", each) for each in made))


@api.get("/renders/<name>", responses=file("audio/wav"))
def render_get(path: RenderPath) -> Response:
    return send_file(audition.file_of(home(), path.name), mimetype="audio/wav", conditional=True)
