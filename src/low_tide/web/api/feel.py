"""Load feel over HTTP: curves, pads, corrections, takes to hear."""

from __future__ import annotations

from typing import Annotated, Literal

from flask import Response, request, send_file
from pydantic import Field

from low_tide.app import audition, blind, feel
from low_tide.app.audition import Rendered, RenderProgress, Source
from low_tide.app.blind import BlindTest
from low_tide.app.feel import Corrected, FeelState
from low_tide.app.log import LogLine
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
    pedal: Annotated[str, identity("Equaliser", "|")] = ""


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


class BlindPath(Model):
    test_id: Annotated[str, Field(max_length=40)]


class BlindBody(Strict):
    """Takes to choose from, by name."""

    names: Annotated[tuple[Annotated[str, Spec("Take", ge=1, le=300)], ...], Spec("Takes", ge=2, le=12)]


class GuessBody(Strict):
    take: Annotated[int, Field(ge=0, le=11)]


class FeelPickBody(Strict):
    """What is picked for the amp that is looked at, and how the answer is to look at it."""

    choice: Annotated[str, Field(max_length=140)] = ""
    amp: Annotated[str, identity("Amp", "|")] = ""
    damping: Annotated[float | None, Spec("Damping factor", "", 0.02, 2000)] = None
    reference: LoadId = RESISTOR


class PickBody(Strict):
    """The letter that was picked, counted from 0, and the damping factor it was heard with."""

    letter: Annotated[int, Field(ge=0, le=11)]
    damping: Annotated[float, Spec("Damping factor", "", 0.02, 2000)]


class BlindNoteOut(Whole[LogLine]):
    pass


class BlindOut(Whole[BlindTest]):
    pass


@api.post("/feel/blind", responses={201: BlindOut})
def blind_begin(body: BlindBody) -> Response:
    return reply_root(BlindOut, blind.begin(body.names), 201)


@api.post("/feel/blind/<test_id>/shuffle", responses={200: BlindOut})
def blind_shuffle(path: BlindPath) -> Response:
    return reply_root(BlindOut, blind.shuffle(path.test_id))


@api.post("/feel/blind/<test_id>/ask", responses={200: BlindOut})
def blind_ask(path: BlindPath) -> Response:
    return reply_root(BlindOut, blind.ask(path.test_id))


@api.post("/feel/blind/<test_id>/guess", responses={200: BlindOut})
def blind_guess(path: BlindPath, body: GuessBody) -> Response:
    return reply_root(BlindOut, blind.guess(path.test_id, body.take))


@api.post("/feel/blind/<test_id>/note", responses={201: BlindNoteOut})
def blind_note(path: BlindPath, body: PickBody) -> Response:
    """What was picked, as a line in the log."""
    return reply_root(BlindNoteOut, blind.note(path.test_id, body.letter, body.damping), 201)


@api.get("/hookups/<hookup_id>/feel", responses={200: FeelOut})
def feel_get(path: HookupPath, query: FeelQuery) -> Response:
    return reply_root(FeelOut, feel.state(path.hookup_id, query.reference, query.amp, query.damping))


@api.put("/hookups/<hookup_id>/feel/pick", responses={200: FeelOut})
def feel_pick(path: HookupPath, body: FeelPickBody) -> Response:
    """A load picked for the amp, its mode and the guitar that are played; an empty one takes it back."""
    feel.pick(path.hookup_id, body.choice, body.amp)
    return reply_root(FeelOut, feel.state(path.hookup_id, body.reference, body.amp, body.damping))


@api.get("/hookups/<hookup_id>/feel/pad", responses={200: PadOut})
def feel_pad(path: HookupPath, query: PadQuery) -> Response:
    return reply_root(PadOut, feel.pads(path.hookup_id, query.pad, query.cabinet, query.amp, query.damping))


@api.get("/hookups/<hookup_id>/feel/correction", responses={200: CorrectedOut})
def feel_correction(path: HookupPath, query: CorrectionQuery) -> Response:
    found = feel.correction(
        path.hookup_id, query.source, query.like, int(query.rate), query.amp, query.damping, query.pedal
    )
    return reply_root(CorrectedOut, found)


@api.get("/hookups/<hookup_id>/feel/correction.csv", responses=file("text/csv"))
def feel_correction_csv(path: HookupPath, query: CorrectionQuery) -> Response:
    found = feel.correction(
        path.hookup_id, query.source, query.like, int(query.rate), query.amp, query.damping, query.pedal
    )
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
