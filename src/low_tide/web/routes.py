"""The API's routes: each reads its request, calls one use case, and wraps the answer."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from flask import Response, current_app, request, send_file
from flask_openapi3 import APIBlueprint
from flask_openapi3.utils import parse_parameters
from pydantic import BaseModel

from low_tide import __version__
from low_tide.app import audition, bench, feel, locker, log, loudness, readings, running
from low_tide.app import preferences as schools
from low_tide.app.errors import Refusal
from low_tide.core.checks import REGISTRY
from low_tide.core.gear import KINDS, Surrounding
from low_tide.core.planner import GOALS, Answer
from low_tide.core.preferences import Preferences
from low_tide.formats.curves import read_curve
from low_tide.formats.documents import adapter, read_hookup_file
from low_tide.store.files import Home
from low_tide.web import schemas as s


class Routes(APIBlueprint):
    """A blueprint that describes its routes only when asked to: schemas take longer to write than to serve."""

    def __init__(self, *args: Any, **options: Any) -> None:
        self._undescribed: list[tuple[tuple[Any, ...], dict[str, Any]]] = []
        super().__init__(*args, **options)

    def _collect_openapi_info(self, rule: str, func: Any, **options: Any) -> Any:
        self._undescribed.append(((rule, func), options))
        return parse_parameters(func, doc_ui=False)

    def describe(self) -> None:
        """Add every route to the OpenAPI document; before the blueprint is registered."""
        for args, options in self._undescribed:
            super()._collect_openapi_info(*args, **options)
        self._undescribed = []


api = Routes("api", __name__, url_prefix="/api", abp_responses={"4XX": s.Problem})


def home() -> Home:
    found: Home = current_app.config["HOME_FOLDER"]
    return found


def reply(model: type[BaseModel], value: Any, status: int = 200) -> Response:
    """The value as the model's JSON. Values come from the program itself and are not validated again."""
    return Response(model.model_construct(**value).model_dump_json(), status, mimetype="application/json")


def reply_root(model: type[BaseModel], value: Any, status: int = 200) -> Response:
    return reply(model, {"root": value}, status)


def download(data: str | bytes, name: str, mimetype: str) -> Response:
    safe = "".join(c if c.isalnum() or c in "-_." else "-" for c in name)
    return Response(data, mimetype=mimetype, headers={"Content-Disposition": f'attachment; filename="{safe}"'})


@api.get("/about", responses={200: s.About})
def about() -> Response:
    return reply(s.About, {"name": "Low Tide", "version": __version__, "demo": current_app.config["DEMO"]})


@api.get("/preferences", responses={200: s.PreferencesOut})
def get_preferences() -> Response:
    form = adapter(Preferences).json_schema()
    return reply(s.PreferencesOut, {"preferences": schools.preferences(), "form": form})


@api.put("/preferences", responses={200: s.PreferencesOut})
def put_preferences(body: s.PreferencesBody) -> Response:
    schools.choose(request.get_json())
    return get_preferences()


@api.get("/kinds", responses={200: s.KindList})
def kinds() -> Response:
    found = [
        s.KindInfo(
            kind=kind,
            name=name,
            plural=plural,
            placeable=kind != "lead" and not issubclass(cls, Surrounding),
            form=adapter(cls).json_schema(),
        )
        for kind, (cls, name, plural) in KINDS.items()
    ]
    return reply(s.KindList, {"kinds": found})


@api.get("/checks", responses={200: s.CheckList})
def checks() -> Response:
    found = [s.CheckInfo(id=c.id, family=c.family, when=c.when) for c in REGISTRY.values()]
    return reply(s.CheckList, {"checks": found})


@api.get("/find", responses={200: s.FoundList})
def find(query: s.SearchQuery) -> Response:
    """Everything with these words in it: gear, hook-ups, takes."""
    found = [s.Found(type="hookup", id=h.id, name=h.name, detail=h.words) for h in bench.listed(query.search)[:8]]
    found += [
        s.Found(type="gear", id=e.unit.id, name=e.unit.name, detail=e.unit.summary())
        for e in locker.listed(query.search)[:12]
    ]
    found += [
        s.Found(type="take", id=str(t.id), name=t.note.name, detail=f"take {t.number}, {t.hookup}")
        for t in log.takes(search=query.search).takes[:8]
    ]
    return reply(s.FoundList, {"found": found})


# Locker


@api.get("/gear", responses={200: s.GearList})
def gear_list(query: s.GearQuery) -> Response:
    return reply(s.GearList, {"entries": locker.listed(query.search, query.kind, query.archived)})


@api.post("/gear", responses={201: s.EntryOut})
def gear_add(body: s.GearBody) -> Response:
    return reply_root(s.EntryOut, locker.add(body.root), 201)


@api.get("/gear/<gear_id>", responses={200: s.EntryOut})
def gear_get(path: s.GearPath) -> Response:
    return reply_root(s.EntryOut, locker.get(path.gear_id))


@api.put("/gear/<gear_id>", responses={200: s.EntryOut})
def gear_edit(path: s.GearPath, body: s.GearEdit) -> Response:
    return reply_root(s.EntryOut, locker.edit(path.gear_id, body.unit, body.revision))


@api.post("/gear/<gear_id>/duplicate", responses={201: s.EntryOut})
def gear_duplicate(path: s.GearPath) -> Response:
    return reply_root(s.EntryOut, locker.duplicate(path.gear_id), 201)


@api.delete("/gear/<gear_id>", responses={204: None})
def gear_delete(path: s.GearPath) -> Response:
    locker.delete(path.gear_id)
    return Response(status=204)


@api.get("/gear/<gear_id>/curve")
def gear_curve(path: s.GearPath, query: s.CurveQuery) -> Response:
    return download(
        locker.curve_file(path.gear_id, query.to), f"{path.gear_id}.{query.to}", "text/plain; charset=utf-8"
    )


@api.get("/locker.json")
def locker_json() -> Response:
    return download(locker.locker_file(), "locker.json", "application/json")


@api.get("/locker.csv")
def locker_table(query: s.KindQuery) -> Response:
    return download("\ufeff" + locker.locker_csv(query.kind), f"{query.kind}.csv", "text/csv; charset=utf-8")


@api.post("/locker/import", responses={200: s.ImportedOut})
def locker_import(query: s.ImportQuery) -> Response:
    """The body is a locker file, JSON or CSV; all of it is taken in, or nothing."""
    return reply_root(s.ImportedOut, locker.bring_in(request.get_data(), query.replace))


@api.post("/curves/read", responses={200: s.ReadCurveOut})
def curve_read() -> Response:
    """The body is a curve as ZMA or CSV; the answer is what a record keeps of it."""
    return reply_root(s.ReadCurveOut, read_curve(request.get_data()))


@api.post("/tools/output-impedance", responses={200: s.TwoReadingOut})
def tool_output_impedance(body: s.TwoReadings) -> Response:
    return reply_root(s.TwoReadingOut, locker.output_impedance(body.root))


# Bench


@api.get("/hookups", responses={200: s.HookupList})
def hookup_list(query: s.SearchQuery) -> Response:
    return reply(s.HookupList, {"entries": bench.listed(query.search)})


@api.post("/hookups", responses={201: s.BenchOut})
def hookup_new(body: s.NewHookup) -> Response:
    return reply_root(s.BenchOut, bench.create(body.name, body.hookup), 201)


@api.get("/goals", responses={200: s.GoalList})
def goal_list() -> Response:
    """What can be wished for when looking for a hook-up."""
    return reply(s.GoalList, {"goals": GOALS})


@api.post("/hookups/find", responses={200: s.FindLine})
def hookup_find(body: s.FindBody) -> Response:
    """Proposals for a wish, as lines of JSON while the search goes on; closing the connection stops it."""
    found = bench.find(body.wish, body.now)

    def lines() -> Iterator[str]:
        for each in found:
            key = "answer" if isinstance(each, Answer) else "progress"
            yield s.FindLine.model_construct(**{key: each}).model_dump_json() + "\n"

    return Response(lines(), mimetype="application/x-ndjson")


@api.post("/hookups/import", responses={201: s.BenchOut})
def hookup_import() -> Response:
    rig, raw = read_hookup_file(request.get_data())
    return reply_root(s.BenchOut, bench.bring_in(rig, raw), 201)


@api.get("/hookups/<hookup_id>", responses={200: s.BenchOut})
def hookup_get(path: s.HookupPath) -> Response:
    return reply_root(s.BenchOut, bench.state(path.hookup_id))


@api.delete("/hookups/<hookup_id>", responses={204: None})
def hookup_archive(path: s.HookupPath) -> Response:
    bench.archive(path.hookup_id)
    return Response(status=204)


@api.post("/hookups/<hookup_id>/unarchive", responses={200: s.BenchOut})
def hookup_unarchive(path: s.HookupPath) -> Response:
    return reply_root(s.BenchOut, bench.unarchive(path.hookup_id))


@api.post("/hookups/<hookup_id>/changes", responses={200: s.BenchOut})
def hookup_change(path: s.HookupPath, body: s.ChangesBody) -> Response:
    return reply_root(s.BenchOut, bench.change(path.hookup_id, body.changes, body.saves))


@api.post("/hookups/<hookup_id>/copy", responses={201: s.BenchOut})
def hookup_copy(path: s.HookupPath, body: s.CopyBody) -> Response:
    return reply_root(s.BenchOut, bench.copy_with(path.hookup_id, body.changes, body.revision), 201)


@api.post("/hookups/<hookup_id>/preview", responses={200: s.Consequence})
def hookup_preview(path: s.HookupPath, body: s.PreviewBody) -> Response:
    severity, text = bench.consequence(path.hookup_id, body.changes, body.held)
    return reply(s.Consequence, {"severity": severity, "text": text})


@api.post("/hookups/<hookup_id>/what-if", responses={200: s.BenchOut})
def hookup_what_if(path: s.HookupPath, body: s.HeldBody) -> Response:
    """The hook-up as it would be with these changes; nothing is kept."""
    return reply_root(s.BenchOut, bench.what_if(path.hookup_id, body.changes))


@api.post("/hookups/<hookup_id>/curves", responses={200: s.SpectraOut})
def hookup_curves(path: s.HookupPath, body: s.HeldBody) -> Response:
    return reply_root(s.SpectraOut, bench.curves(path.hookup_id, body.changes))


@api.post("/hookups/<hookup_id>/undo", responses={200: s.BenchOut})
def hookup_undo(path: s.HookupPath, body: s.SavesBody) -> Response:
    return reply_root(s.BenchOut, bench.step(path.hookup_id, -1, body.saves))


@api.post("/hookups/<hookup_id>/redo", responses={200: s.BenchOut})
def hookup_redo(path: s.HookupPath, body: s.SavesBody) -> Response:
    return reply_root(s.BenchOut, bench.step(path.hookup_id, 1, body.saves))


@api.post("/hookups/<hookup_id>/choices", responses={200: s.ChoiceList})
def hookup_choices(path: s.HookupPath, body: s.ChoicesBody) -> Response:
    """What may go into a socket. A POST, since it may carry held changes; nothing is kept."""
    found = bench.socket_choices(path.hookup_id, body.end, body.held)
    return reply(s.ChoiceList, {"end": body.end, "choices": found})


@api.get("/hookups/<hookup_id>/slips", responses={200: s.SlipList})
def hookup_slips(path: s.HookupPath) -> Response:
    return reply(s.SlipList, {"slips": bench.one_slip(path.hookup_id)})


@api.get("/hookups/<hookup_id>/file")
def hookup_file(path: s.HookupPath) -> Response:
    return download(bench.file_of(path.hookup_id), f"{path.hookup_id}.json", "application/json")


@api.get("/hookups/<hookup_id>/spice")
def hookup_spice(path: s.HookupPath) -> Response:
    return download(bench.netlist_of(path.hookup_id), f"{path.hookup_id}.cir", "text/plain; charset=utf-8")


@api.get("/hookups/<hookup_id>/impedance")
def hookup_impedance(path: s.HookupPath, query: s.ResponseQuery) -> Response:
    text = bench.curve_of(path.hookup_id, query.amp, query.to)
    return download(text, f"{path.hookup_id}.{query.to}", "text/plain; charset=utf-8")


@api.post("/hookups/<hookup_id>/unpin", responses={200: s.BenchOut})
def hookup_unpin(path: s.HookupPath) -> Response:
    return reply_root(s.BenchOut, bench.unpin(path.hookup_id))


# Run sheet


@api.get("/hookups/<hookup_id>/run", responses={200: s.RunOut})
def run_get(path: s.HookupPath) -> Response:
    return reply_root(s.RunOut, running.state(path.hookup_id))


@api.post("/hookups/<hookup_id>/run/tick", responses={200: s.RunOut})
def run_tick(path: s.HookupPath, body: s.TickBody) -> Response:
    return reply_root(s.RunOut, running.tick(path.hookup_id, body.step, body.done))


@api.post("/hookups/<hookup_id>/run/accept", responses={200: s.RunOut})
def run_accept(path: s.HookupPath, body: s.AcceptBody) -> Response:
    return reply_root(s.RunOut, running.accept(path.hookup_id, body.key, body.word))


@api.post("/hookups/<hookup_id>/run/switch", responses={200: s.RunOut})
def run_switch(path: s.HookupPath, body: s.SwitchBody) -> Response:
    return reply_root(s.RunOut, running.switch(path.hookup_id, body.on))


# Log


@api.get("/sessions", responses={200: s.SessionList})
def session_list() -> Response:
    return reply(s.SessionList, {"sessions": log.sessions()})


@api.post("/sessions", responses={201: s.SessionOut})
def session_new(body: s.NewSession) -> Response:
    return reply_root(s.SessionOut, log.new_session(body.name, body.notes), 201)


@api.post("/sessions/<int:session_id>/takes", responses={201: s.TakeOut})
def take_new(path: s.SessionPath, body: s.NewTake) -> Response:
    return reply_root(s.TakeOut, log.log_take(path.session_id, body.hookup, request.get_json()["note"]), 201)


@api.get("/takes", responses={200: s.TakePageOut})
def take_list(query: s.TakesQuery) -> Response:
    return reply_root(s.TakePageOut, log.takes(query.session, query.search, query.page, query.audio))


@api.get("/takes/<int:take_id>", responses={200: s.TakeOut})
def take_get(path: s.TakePath) -> Response:
    return reply_root(s.TakeOut, log.take(path.take_id))


@api.put("/takes/<int:take_id>", responses={200: s.TakeOut})
def take_edit(path: s.TakePath, body: s.NoteBody) -> Response:
    return reply_root(s.TakeOut, log.edit_take(path.take_id, request.get_json()))


@api.delete("/takes/<int:take_id>", responses={204: None})
def take_delete(path: s.TakePath) -> Response:
    log.delete_take(home(), path.take_id)
    return Response(status=204)


@api.get("/takes/<int:take_id>/snapshot")
def take_snapshot(path: s.TakePath) -> Response:
    return download(json.dumps(log.snapshot(path.take_id)), f"take-{path.take_id}.json", "application/json")


@api.post("/takes/<int:take_id>/audio", responses={200: s.TakeOut})
def take_attach(path: s.TakePath, query: s.AudioQuery) -> Response:
    return reply_root(s.TakeOut, log.attach(home(), path.take_id, query.name, request.stream))


@api.get("/takes/<int:take_id>/audio")
def take_audio(path: s.TakePath) -> Response:
    file, name = log.audio_path(home(), path.take_id)
    return send_file(file, download_name=name, conditional=True)


@api.post("/takes/<int:take_id>/recall", responses={201: s.BenchOut})
def take_recall(path: s.TakePath) -> Response:
    return reply_root(s.BenchOut, log.recall(path.take_id), 201)


@api.get("/log.csv")
def log_csv(query: s.LogQuery) -> Response:
    return download("\ufeff" + log.export_csv(query.session), "low-tide-log.csv", "text/csv")


@api.get("/log.json")
def log_json(query: s.LogQuery) -> Response:
    text = json.dumps(log.export_json(query.session), ensure_ascii=False, indent=1)
    return download(text, "low-tide-log.json", "application/json")


@api.get("/lines", responses={200: s.LineList})
def line_list(query: s.LogQuery) -> Response:
    """Lines of the log that belong to no take."""
    return reply(s.LineList, {"lines": log.lines(query.session)})


@api.post("/lines", responses={201: s.LogLineOut})
def line_new(body: s.NewLine) -> Response:
    return reply_root(s.LogLineOut, log.write_line(body.text, body.session), 201)


@api.delete("/lines/<int:line_id>", responses={204: None})
def line_delete(path: s.LinePath) -> Response:
    log.delete_line(path.line_id)
    return Response(status=204)


# Loudness


@api.get("/hookups/<hookup_id>/loudness", responses={200: s.LoudnessOut})
def loudness_get(path: s.HookupPath, query: s.WishQuery) -> Response:
    return reply_root(s.LoudnessOut, loudness.state(path.hookup_id, query.place, query.wanted))


@api.get("/readings", responses={200: s.ReadingList})
def reading_list(query: s.ReadingsQuery) -> Response:
    return reply(s.ReadingList, {"readings": readings.listed(query.place)})


@api.get("/readings.csv")
def reading_csv() -> Response:
    return download("\ufeff" + readings.export_csv(), "low-tide-readings.csv", "text/csv")


@api.post("/hookups/<hookup_id>/readings", responses={201: s.ReadingOut})
def reading_new(path: s.HookupPath, body: s.NewReading) -> Response:
    return reply_root(s.ReadingOut, readings.add(path.hookup_id, body.reading, body.at), 201)


@api.put("/readings/<int:reading_id>", responses={200: s.ReadingList})
def reading_use(path: s.ReadingPath, body: s.UseBody) -> Response:
    readings.use(path.reading_id, body.used)
    return reply(s.ReadingList, {"readings": readings.listed()})


@api.delete("/readings/<int:reading_id>", responses={204: None})
def reading_delete(path: s.ReadingPath) -> Response:
    readings.delete(path.reading_id)
    return Response(status=204)


@api.post("/hookups/<hookup_id>/meter", responses={200: s.ShownOut})
def meter_show(path: s.HookupPath, body: s.MeterBody) -> Response:
    """What the simulated sound level meter shows."""
    found = loudness.meter_shows(path.hookup_id, body.place, body.weighting, body.response, body.distance)
    return reply_root(s.ShownOut, found)


@api.post("/hookups/<hookup_id>/thermometer", responses={200: s.Celsius})
def thermometer_show(path: s.HookupPath, body: s.ThermometerBody) -> Response:
    """What the simulated thermometer shows."""
    return reply(s.Celsius, {"celsius": loudness.thermometer_shows(path.hookup_id, body.unit, body.minutes)})


@api.get("/ears", responses={200: s.EarsOut})
def ears_get(query: s.EarsQuery) -> Response:
    rig = bench.rig_of(bench.row_of(query.hookup)) if query.hookup else None
    return reply_root(s.EarsOut, readings.ears(rig))


@api.post("/ears", responses={201: s.EarsOut})
def ears_listen(body: s.ListenBody) -> Response:
    readings.listen(body.what, body.level, body.minutes, body.at)
    return reply_root(s.EarsOut, readings.ears(), 201)


@api.get("/tools/thin", responses={200: s.ThinOut})
def tool_thin(query: s.ThinQuery) -> Response:
    return reply_root(s.ThinOut, loudness.thin(query.loud, query.quiet))


@api.post("/tools/knob", responses={200: s.MarkList})
def tool_knob(body: s.KnobBody) -> Response:
    return reply(s.MarkList, {"marks": loudness.marks(body.pairs, body.reference, body.unit)})


@api.post("/tools/heat", responses={200: s.FitOut})
def tool_heat(body: s.HeatBody) -> Response:
    pair = ((body.first.minutes, body.first.celsius), (body.second.minutes, body.second.celsius))
    return reply_root(s.FitOut, loudness.fit_heat(body.ambient, body.watts, pair))


# Load feel


@api.get("/hookups/<hookup_id>/feel", responses={200: s.FeelOut})
def feel_get(path: s.HookupPath, query: s.FeelQuery) -> Response:
    return reply_root(s.FeelOut, feel.state(path.hookup_id, query.reference, query.amp, query.damping))


@api.get("/hookups/<hookup_id>/feel/pad", responses={200: s.PadOut})
def feel_pad(path: s.HookupPath, query: s.PadQuery) -> Response:
    return reply_root(s.PadOut, feel.pads(path.hookup_id, query.pad, query.cabinet, query.amp, query.damping))


@api.get("/hookups/<hookup_id>/feel/correction", responses={200: s.CorrectedOut})
def feel_correction(path: s.HookupPath, query: s.CorrectionQuery) -> Response:
    found = feel.correction(path.hookup_id, query.source, query.like, query.amp, query.damping)
    return reply_root(s.CorrectedOut, found)


@api.get("/hookups/<hookup_id>/feel/correction.csv")
def feel_correction_csv(path: s.HookupPath, query: s.CorrectionQuery) -> Response:
    found = feel.correction(path.hookup_id, query.source, query.like, query.amp, query.damping)
    return download("\ufeff" + feel.correction_csv(found), "correction.csv", "text/csv; charset=utf-8")


@api.get("/hookups/<hookup_id>/feel/correction.wav")
def feel_correction_wav(path: s.HookupPath, query: s.FirQuery) -> Response:
    data = feel.correction_wav(path.hookup_id, query.source, query.like, int(query.rate), query.amp, query.damping)
    return download(data, f"correction-{query.rate}.wav", "audio/wav")


@api.post("/feel/source", responses={201: s.SourceOut})
def feel_source(query: s.SourceQuery) -> Response:
    """The body is a direct track: WAV, FLAC or AIFF."""
    return reply_root(s.SourceOut, audition.bring_source(home(), query.name, request.stream), 201)


@api.post("/hookups/<hookup_id>/feel/render", responses={200: s.RenderLine})
def feel_render(path: s.HookupPath, body: s.RenderBody) -> Response:
    """A take through each choice, as lines of JSON while it goes on; closing the connection stops it."""
    made = audition.render(home(), path.hookup_id, body.choices, body.source, body.drive_db, body.amp, body.damping)

    def lines() -> Iterator[str]:
        try:
            for each in made:
                key = "rendered" if isinstance(each, audition.Rendered) else "progress"
                yield s.RenderLine.model_construct(**{key: each}).model_dump_json() + "\n"
        except Refusal as refused:
            yield s.RenderLine.model_construct(problem=str(refused)).model_dump_json() + "\n"

    return Response(lines(), mimetype="application/x-ndjson")


@api.get("/renders/<name>")
def render_get(path: s.RenderPath) -> Response:
    return send_file(audition.file_of(home(), path.name), mimetype="audio/wav", conditional=True)
