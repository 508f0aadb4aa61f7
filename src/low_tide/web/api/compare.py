"""Compare over HTTP: comparisons, what was found, the sound of it, and listening without knowing."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from flask import Response, request
from pydantic import Field

from low_tide.app import compare, compare_work, comparison, comparison_file, listening
from low_tide.app.compare import ComparisonEntry
from low_tide.app.compare_work import Doing
from low_tide.app.compared import ComparisonParts
from low_tide.app.comparison import ComparisonState
from low_tide.app.comparison_file import Matching
from low_tide.app.listening import ListeningRun, NewRun, Which
from low_tide.core.audio.waveform import MOST_COLUMNS, Trace
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
)
from low_tide.web.api.log import LogLineOut

Audio = Annotated[str, Field(max_length=80)]


class ComparisonPath(Model):
    comparison_id: Count


class TrackPath(ComparisonPath):
    audio: Audio


class KeyPath(ComparisonPath):
    token: Annotated[str, Field(max_length=12)]


class RunPath(Model):
    run_id: Count


class HeardPath(RunPath):
    which: Which


class ComparisonBody(Strict):
    """A comparison: its name, its recordings with the reference first, its sections; the saves it was seen with."""

    name: Annotated[str, Field(max_length=400)]
    doc: ComparisonParts
    saves: Count | None = None


class FileBody(Strict):
    """A file that was brought in by pieces, and what it is called."""

    upload: Annotated[str, Field(max_length=40)]
    file_name: Annotated[str, Field(max_length=300)] = "file"


class HeardQuery(Model):
    """From and to, s of the reference."""

    start: Annotated[float, Field(ge=0, le=3600)]
    stop: Annotated[float, Field(ge=0, le=3600)]


class DrawnQuery(HeardQuery):
    columns: Annotated[int, Field(ge=1, le=MOST_COLUMNS)] = MOST_COLUMNS


class BlindQuery(Model):
    blind: bool = False


class RateQuery(Model):
    rate: Literal["44100", "48000", "96000"] = "48000"


class PickedBody(Strict):
    """The recording that was picked, and why."""

    audio: Audio
    why: Annotated[str, Field(max_length=1000)]
    session: Count | None = None


class NewRunBody(Strict):
    """A run that is to begin: two recordings by their places, and how many trials."""

    run: NewRun


class AnswerBody(Strict):
    """The trial, counted from 0, and what was said: 0 for a or the first heard, 1 for b or the second."""

    trial: Annotated[int, Field(ge=0, le=100)]
    said: Annotated[int, Field(ge=0, le=1)]


class ComparisonList(Model):
    comparisons: list[ComparisonEntry]


class ComparisonOut(Whole[ComparisonState]):
    pass


class ComparisonLine(Line):
    """One line of the answer while it is worked out: what is being done, or, last, the comparison."""

    doing: Doing | None = None
    part: float | None = None
    comparison: ComparisonState | None = None


class TrackTraceOut(Whole[Trace]):
    pass


class MatchingOut(Whole[Matching]):
    pass


class ListeningRunOut(Whole[ListeningRun]):
    pass


class ListeningRunList(Model):
    runs: list[ListeningRun]


def _body() -> Any:
    return request.get_json()["doc"]


@api.get("/comparisons", responses={200: ComparisonList})
def comparison_list() -> Response:
    return reply(ComparisonList, {"comparisons": compare.listed()})


@api.post("/comparisons", responses={201: ComparisonOut})
def comparison_new(body: ComparisonBody) -> Response:
    return reply_root(ComparisonOut, compare.begin(home(), body.name, _body()), 201)


@api.get("/comparisons/<int:comparison_id>", responses={200: ComparisonOut})
def comparison_get(path: ComparisonPath) -> Response:
    return reply_root(ComparisonOut, comparison.state(home(), path.comparison_id))


@api.put("/comparisons/<int:comparison_id>", responses={200: ComparisonOut})
def comparison_edit(path: ComparisonPath, body: ComparisonBody) -> Response:
    """Its name, recordings, order and sections."""
    return reply_root(ComparisonOut, compare.edit(home(), path.comparison_id, body.name, _body(), body.saves))


@api.delete("/comparisons/<int:comparison_id>", responses={204: None})
def comparison_delete(path: ComparisonPath) -> tuple[str, int]:
    """Takes stay; files that were brought into it alone go with it."""
    compare.delete(home(), path.comparison_id)
    return "", 204


@api.post("/comparisons/<int:comparison_id>/files", responses={200: ComparisonLine})
def comparison_file_new(path: ComparisonPath, body: FileBody) -> Response:
    """A file joins it without becoming a take, as lines of JSON while it is inspected."""
    steps = compare.bring(home(), path.comparison_id, body.upload, body.file_name)
    return json_lines(
        ComparisonLine, (("comparison" if isinstance(step, ComparisonState) else "part", step) for step in steps)
    )


@api.post("/comparisons/<int:comparison_id>/work", responses={200: ComparisonLine})
def comparison_work(path: ComparisonPath) -> Response:
    """Everything held against the reference that was not yet, as lines of JSON; closing the connection stops it."""
    steps = compare_work.work(home(), path.comparison_id)
    return json_lines(ComparisonLine, (("doing" if isinstance(step, Doing) else "comparison", step) for step in steps))


@api.get("/comparisons/<int:comparison_id>/sound/<audio>", responses=file("audio/wav"))
def comparison_sound(path: TrackPath, query: HeardQuery) -> Response:
    """A part of a recording as it is heard: in line, matched."""
    data = comparison_file.part(home(), path.comparison_id, path.audio, query.start, query.stop)
    return Response(data, mimetype="audio/wav")


@api.get("/comparisons/<int:comparison_id>/waveform/<audio>", responses={200: TrackTraceOut})
def comparison_waveform(path: TrackPath, query: DrawnQuery) -> Response:
    found = compare_work.waveform(home(), path.comparison_id, path.audio, query.start, query.stop, query.columns)
    return reply_root(TrackTraceOut, found)


@api.get("/comparisons/<int:comparison_id>/file.zip", responses=file("application/zip"))
def comparison_zip(path: ComparisonPath, query: BlindQuery) -> Response:
    """Sections of all recordings in turn; blind, in an order by lot."""
    made = comparison_file.comparison_file(home(), path.comparison_id, query.blind)
    return download(made.data, made.name, "application/zip")


@api.get("/comparisons/<int:comparison_id>/key/<token>.txt", responses=file("text/plain"))
def comparison_key(path: KeyPath) -> Response:
    """What was heard when in a blind file."""
    data = comparison_file.key(home(), path.comparison_id, path.token)
    return download(data, f"key-{path.token}.txt", "text/plain; charset=utf-8")


@api.get("/comparisons/<int:comparison_id>/matching/<audio>", responses={200: MatchingOut})
def comparison_matching(path: TrackPath, query: RateQuery) -> Response:
    return reply_root(MatchingOut, comparison_file.matching(home(), path.comparison_id, path.audio, int(query.rate)))


@api.get("/comparisons/<int:comparison_id>/matching/<audio>/bands.csv", responses=file("text/csv"))
def comparison_matching_csv(path: TrackPath, query: RateQuery) -> Response:
    data = comparison_file.matching_csv(home(), path.comparison_id, path.audio, int(query.rate))
    return download("\ufeff" + data, "matching.csv", "text/csv; charset=utf-8")


@api.get("/comparisons/<int:comparison_id>/matching/<audio>/filter.wav", responses=file("audio/wav"))
def comparison_matching_wav(path: TrackPath, query: RateQuery) -> Response:
    data = comparison_file.matching_wav(home(), path.comparison_id, path.audio, int(query.rate))
    return download(data, f"matching-{query.rate}.wav", "audio/wav")


@api.post("/comparisons/<int:comparison_id>/pick", responses={201: LogLineOut})
def comparison_pick(path: ComparisonPath, body: PickedBody) -> Response:
    """What was picked and why, as a line in the log."""
    return reply_root(LogLineOut, compare.pick(path.comparison_id, body.audio, body.why, body.session), 201)


@api.get("/comparisons/<int:comparison_id>/runs", responses={200: ListeningRunList})
def run_list(path: ComparisonPath) -> Response:
    return reply(ListeningRunList, {"runs": listening.runs(path.comparison_id)})


@api.post("/comparisons/<int:comparison_id>/runs", responses={201: ListeningRunOut})
def run_new(path: ComparisonPath, body: NewRunBody) -> Response:
    """Begin trials without knowing; how many is fixed now."""
    return reply_root(ListeningRunOut, listening.begin(home(), path.comparison_id, body.run), 201)


@api.post("/runs/<int:run_id>/answer", responses={200: ListeningRunOut})
def run_answer(path: RunPath, body: AnswerBody) -> Response:
    return reply_root(ListeningRunOut, listening.answer(path.run_id, body.trial, body.said))


@api.post("/runs/<int:run_id>/stop", responses={200: ListeningRunOut})
def run_stop(path: RunPath) -> Response:
    return reply_root(ListeningRunOut, listening.stop(path.run_id))


@api.get("/runs/<int:run_id>/sound/<which>", responses=file("audio/wav"))
def run_sound(path: HeardPath, query: HeardQuery) -> Response:
    """A part of what is heard at a letter of the trial that is on."""
    return Response(listening.heard(home(), path.run_id, path.which, query.start, query.stop), mimetype="audio/wav")
