"""The Log over HTTP: sessions, takes, recordings, lines."""

from __future__ import annotations

import json
from typing import Annotated, Literal

from flask import Response, request, send_file
from pydantic import Field

from low_tide.app import log, log_export, playing, recordings, take_difference, watch
from low_tide.app.log import Decision, LogLine, Narrowing, Take, TakeFilter, TakeNote, TakePage
from low_tide.app.recordings import FileGuesses, TakeReport
from low_tide.app.take_difference import TakeDifference
from low_tide.app.watch import Watch
from low_tide.core.audio.spectrum import Spectrogram
from low_tide.core.audio.waveform import MOST_COLUMNS, Trace
from low_tide.core.spec import Spec
from low_tide.store.home import AUDIO_TYPES
from low_tide.web.api.base import (
    BenchOut,
    Count,
    Line,
    Model,
    SavesQuery,
    SessionPath,
    Strict,
    TakePath,
    Whole,
    api,
    download,
    file,
    home,
    json_lines,
    reply,
    reply_root,
    streamed,
    takes,
)


class TwoTakesPath(TakePath):
    other_id: Count


class TakeDifferenceOut(Whole[TakeDifference]):
    pass


class TakesQuery(Model):
    """What takes are asked for; what is left out asks for nothing."""

    session: Count | None = None
    search: Annotated[str, Field(max_length=200)] = ""
    audio: bool = False
    hookup: Annotated[str, Field(max_length=64)] = ""
    part: Annotated[str, Field(max_length=120)] = ""
    verdict: Literal["", "stop", "caution", "clear"] = ""
    rating: Literal["", "keep", "maybe", "no", "none"] = ""
    guide: Literal["", "guide", "open"] = ""
    clipped: bool = False
    page: Annotated[int, Field(ge=1, le=1_000_000)] = 1


class LogQuery(Model):
    session: Count | None = None


class AudioQuery(Model):
    """What the file is called, and the audio it is to take the place of: empty for none, left out for any."""

    name: Annotated[str, Field(max_length=300)] = "take"
    replaced: Annotated[str | None, Field(max_length=80)] = None


class NoteBody(Whole[TakeNote]):
    pass


class NewTake(Strict):
    hookup: Annotated[str, Field(max_length=64)]
    note: TakeNote


class DatePath(Model):
    date: Annotated[str, Field(max_length=40)]


class WatchOut(Whole[Watch]):
    pass


class NarrowingOut(Whole[Narrowing]):
    pass


class DecisionList(Model):
    decisions: tuple[Decision, ...]


class TakeOut(Whole[Take]):
    pass


class TakePageOut(Whole[TakePage]):
    pass


class LinePath(Model):
    line_id: Count


class NewLine(Strict):
    text: Annotated[str, Spec("Note", le=1000)]
    session: Count | None = None


class BringBody(Strict):
    """A file that was brought in by pieces, what it is called, and what is said of the take it becomes.

    Without a session the newest has it.
    """

    upload: Annotated[str, Field(max_length=40)]
    file_name: Annotated[str, Field(max_length=300)] = "take"
    hookup: Annotated[str, Field(max_length=64)]
    session: Count | None = None
    note: TakeNote


class FileNamesBody(Strict):
    """What files are called that are to become takes."""

    files: Annotated[list[Annotated[str, Field(max_length=300)]], Field(max_length=200)]


class FileGuessesOut(Whole[FileGuesses]):
    pass


class GiveBody(Strict):
    """A file that was brought in, and the audio it is to take the place of: empty for none, left out for any."""

    upload: Annotated[str, Field(max_length=40)]
    file_name: Annotated[str, Field(max_length=300)] = "take"
    replaced: Annotated[str | None, Field(max_length=80)] = None


class CountsBody(Strict):
    counts: bool


class TakeLine(Line):
    """One line of the answer while a recording is inspected: the part that is done, or, last, the take."""

    part: float | None = None
    take: Take | None = None


class ReportLine(Line):
    """The same, with what the recording says at the end."""

    part: float | None = None
    report: TakeReport | None = None


class TakeReportOut(Whole[TakeReport]):
    pass


class TraceOut(Whole[Trace]):
    pass


class SpectrogramOut(Whole[Spectrogram]):
    pass


class SoundQuery(Model):
    """A part of the sound, from and to (s)."""

    start: Annotated[float, Field(ge=0, le=1e6)]
    stop: Annotated[float, Field(ge=0, le=1e6)]


class PartQuery(Model):
    """A part of the sound, from and to (s), and in how many columns it is drawn at the most."""

    start: Annotated[float, Field(ge=0, le=1e6)] = 0.0
    stop: Annotated[float, Field(ge=0, le=1e6)] = 1e6
    columns: Annotated[int, Field(ge=1, le=MOST_COLUMNS)] = MOST_COLUMNS


class LineList(Model):
    lines: tuple[LogLine, ...]


class LogLineOut(Whole[LogLine]):
    pass


@api.post("/sessions/<int:session_id>/takes", responses={201: TakeOut})
def take_new(path: SessionPath, body: NewTake) -> Response:
    return reply_root(TakeOut, log.log_take(path.session_id, body.hookup, request.get_json()["note"]), 201)


def _filter(query: TakesQuery) -> TakeFilter:
    return TakeFilter(**query.model_dump(exclude={"page"}))


@api.get("/takes", responses={200: TakePageOut})
def take_list(query: TakesQuery) -> Response:
    return reply_root(TakePageOut, log.takes(_filter(query), query.page))


@api.get("/takes/<int:take_id>", responses={200: TakeOut})
def take_get(path: TakePath) -> Response:
    return reply_root(TakeOut, log.take(path.take_id))


@api.put("/takes/<int:take_id>", responses={200: TakeOut})
def take_edit(path: TakePath, query: SavesQuery, body: NoteBody) -> Response:
    return reply_root(TakeOut, recordings.edit_take(path.take_id, request.get_json(), query.saves))


@api.delete("/takes/<int:take_id>", responses={204: None})
def take_delete(path: TakePath, query: SavesQuery) -> Response:
    log.delete_take(home(), path.take_id, query.saves)
    return Response(status=204)


@api.get("/takes/<int:take_id>/snapshot", responses=file("application/json"))
def take_snapshot(path: TakePath) -> Response:
    return download(json.dumps(log.snapshot(path.take_id)), f"take-{path.take_id}.json", "application/json")


@api.post("/takes/<int:take_id>/audio", responses={200: TakeOut}, openapi_extensions=takes(*AUDIO_TYPES.values()))
def take_attach(path: TakePath, query: AudioQuery) -> Response:
    return reply_root(TakeOut, recordings.attach(home(), path.take_id, query.name, request.stream, query.replaced))


@api.post("/recordings/guesses", responses={200: FileGuessesOut})
def recording_guesses(body: FileNamesBody) -> Response:
    """What the names of files say of the takes they become."""
    return reply_root(FileGuessesOut, recordings.guessed(body.files))


@api.post("/recordings", responses={200: TakeLine})
def recording_new(body: BringBody) -> Response:
    """A take from a file that was brought in, as lines of JSON while it is inspected; closing the connection stops it,
    and nothing is left."""
    note = request.get_json()["note"]
    steps = recordings.bring(home(), body.upload, body.file_name, body.hookup, note, body.session)
    return json_lines(TakeLine, (("take" if isinstance(step, Take) else "part", step) for step in steps))


@api.post("/takes/<int:take_id>/recording", responses={200: TakeLine})
def recording_give(path: TakePath, body: GiveBody) -> Response:
    """The same for a take that is in the log already."""
    steps = recordings.give(home(), path.take_id, body.upload, body.file_name, body.replaced)
    return json_lines(TakeLine, (("take" if isinstance(step, Take) else "part", step) for step in steps))


@api.get("/takes/<int:take_id>/difference/<int:other_id>", responses={200: TakeDifferenceOut})
def take_difference_get(path: TwoTakesPath) -> Response:
    return reply_root(TakeDifferenceOut, take_difference.between(path.take_id, path.other_id))


@api.get("/takes/<int:take_id>/report", responses={200: TakeReportOut})
def take_report(path: TakePath) -> Response:
    """What a take's recording holds, what it says, and what may be put on for it."""
    return reply_root(TakeReportOut, recordings.report(path.take_id))


@api.put("/takes/<int:take_id>/counts", responses={200: TakeReportOut})
def take_counts(path: TakePath, body: CountsBody) -> Response:
    """Whether a take counts for how hard its amp is played."""
    playing.count(path.take_id, body.counts)
    return reply_root(TakeReportOut, recordings.report(path.take_id))


@api.post("/takes/<int:take_id>/inspection", responses={200: ReportLine})
def take_inspect(path: TakePath) -> Response:
    """Inspect a recording again, as lines of JSON while it goes on."""
    steps = recordings.inspecting(home(), path.take_id)
    return json_lines(ReportLine, (("report" if isinstance(step, TakeReport) else "part", step) for step in steps))


@api.get("/takes/<int:take_id>/waveform", responses={200: TraceOut})
def take_waveform(path: TakePath, query: PartQuery) -> Response:
    return reply_root(TraceOut, recordings.waveform(home(), path.take_id, query.start, query.stop, query.columns))


@api.get("/takes/<int:take_id>/spectrogram", responses={200: SpectrogramOut})
def take_spectrogram(path: TakePath, query: PartQuery) -> Response:
    """Levels over time and frequency of a part of a recording."""
    return reply_root(SpectrogramOut, recordings.spectra(home(), path.take_id, query.start, query.stop))


@api.get("/takes/<int:take_id>/sound", responses=file("audio/wav"))
def take_sound(path: TakePath, query: SoundQuery) -> Response:
    """A part of a recording as WAV, whatever kind of file it lies in, to be played."""
    return Response(recordings.sound(home(), path.take_id, query.start, query.stop), mimetype="audio/wav")


@api.get("/takes/<int:take_id>/audio", responses=file(*AUDIO_TYPES.values()))
def take_audio(path: TakePath) -> Response:
    found, name = recordings.audio_path(home(), path.take_id)
    response = send_file(found, mimetype=AUDIO_TYPES[found.suffix], download_name=name, conditional=True)
    response.headers["Content-Security-Policy"] = "default-src 'none'; sandbox"
    return response


@api.post("/takes/<int:take_id>/recall", responses={201: BenchOut})
def take_recall(path: TakePath) -> Response:
    return reply_root(BenchOut, log.recall(path.take_id), 201)


@api.get("/log/days/<string:date>", responses={200: WatchOut})
def log_day(path: DatePath) -> Response:
    """A day of the log as a watch."""
    return reply_root(WatchOut, watch.of_day(path.date))


@api.get("/log/narrowing", responses={200: NarrowingOut})
def log_narrowing() -> Response:
    """What the log can be narrowed by, and guides that are yet to be replaced."""
    return reply_root(NarrowingOut, log.narrowing())


@api.get("/log/decisions", responses={200: DecisionList})
def log_decisions() -> Response:
    """Cautions that were accepted with a word."""
    return reply(DecisionList, {"decisions": log.decisions()})


@api.get("/log.csv", responses=file("text/csv"))
def log_csv(query: LogQuery) -> Response:
    return streamed(log_export.export_csv(query.session), "low-tide-log.csv", "text/csv", "\ufeff")


@api.get("/log.json", responses=file("application/json"))
def log_json(query: LogQuery) -> Response:
    return streamed(log_export.export_json(query.session), "low-tide-log.json", "application/json")


@api.get("/lines", responses={200: LineList})
def line_list(query: LogQuery) -> Response:
    """Lines of the log that belong to no take."""
    return reply(LineList, {"lines": log.lines(query.session)})


@api.post("/lines", responses={201: LogLineOut})
def line_new(body: NewLine) -> Response:
    return reply_root(LogLineOut, log.write_line(body.text, body.session), 201)


@api.delete("/lines/<int:line_id>", responses={204: None})
def line_delete(path: LinePath) -> Response:
    log.delete_line(path.line_id)
    return Response(status=204)
