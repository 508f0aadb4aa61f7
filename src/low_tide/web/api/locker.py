"""The Locker over HTTP: gear, curves, import and export, the two-reading tool."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from flask import Response, request
from pydantic import Field

from low_tide.app import edited_gear, locker
from low_tide.app.edited_gear import Effect
from low_tide.app.locker import FromOhms, Imported, InsurerList, LockerEntry
from low_tide.core.circuit.amplifier import Readings, TwoReading
from low_tide.core.finder.pairs import AmpIntoBox
from low_tide.core.presentation.back import Back
from low_tide.core.spec import Spec
from low_tide.formats.curves import ReadCurve, read_curve
from low_tide.web.api.base import Count, Model, Strict, Whole, api, download, file, reply, reply_root, takes


class GearPath(Model):
    gear_id: Annotated[str, Field(max_length=64)]


class GearQuery(Model):
    search: Annotated[str, Field(max_length=200)] = ""
    kind: Annotated[str, Field(max_length=30)] = ""
    archived: bool = False


class RevisionQuery(Model):
    """The revision that was looked at; gear changed since is refused. Left out: any."""

    revision: Count | None = None


class ImportQuery(Model):
    replace: bool = False


class KindQuery(Model):
    kind: Annotated[str, Field(max_length=30)]


class CurveQuery(Model):
    to: Literal["zma", "csv"] = "zma"


class TwoReadings(Whole[Readings]):
    pass


class GearBody(Whole[dict[str, Any]]):
    """A unit's record. The locker validates it by kind and keeps fields that are not known here."""


class GearEdit(Strict):
    revision: Count
    unit: dict[str, Any]


class GearList(Model):
    entries: list[LockerEntry]


class ImportedOut(Whole[Imported]):
    pass


class ReadCurveOut(Whole[ReadCurve]):
    pass


class TwoReadingOut(Whole[TwoReading]):
    pass


class PlugBody(Strict):
    """`box`: the cabinet's record as it stands in its form."""

    box: dict[str, Any]
    ohms: Annotated[float, Spec("Ohms at the plug", "Ω", 0.2, 200)]


class FromOhmsOut(Whole[FromOhms]):
    pass


class InsurerOut(Whole[InsurerList]):
    pass


class EntryOut(Whole[LockerEntry]):
    pass


class BackOut(Whole[Back]):
    pass


class EffectList(Model):
    effects: tuple[Effect, ...]


@api.get("/gear", responses={200: GearList})
def gear_list(query: GearQuery) -> Response:
    return reply(GearList, {"entries": locker.listed(query.search, query.kind, query.archived)})


@api.post("/gear", responses={201: EntryOut})
def gear_add(body: GearBody) -> Response:
    return reply_root(EntryOut, locker.add(body.root), 201)


@api.post("/gear/back", responses={200: BackOut})
def gear_back(body: GearBody) -> Response:
    """The working picture of a unit as its form stands. A POST, since the form is not saved; nothing is kept."""
    return reply_root(BackOut, edited_gear.picture(body.root))


@api.post("/gear/<gear_id>/effects", responses={200: EffectList})
def gear_effects(path: GearPath, body: GearBody) -> Response:
    """What saving the form would do to the hook-ups that use the unit. Nothing is kept."""
    return reply(EffectList, {"effects": edited_gear.effects(path.gear_id, body.root)})


class PairList(Model):
    pairs: tuple[AmpIntoBox, ...]


class PairsQuery(Model):
    """`beside`: a load or cabinet that is on the amp at the same time."""

    beside: Annotated[str, Field(max_length=64)] = ""


@api.get("/pairs", responses={200: PairList})
def pairs_all(query: PairsQuery) -> Response:
    """Which amp goes into which load or cabinet, on which tap."""
    return reply(PairList, {"pairs": edited_gear.amps_into_boxes(query.beside)})


@api.get("/gear/<gear_id>", responses={200: EntryOut})
def gear_get(path: GearPath) -> Response:
    return reply_root(EntryOut, locker.get(path.gear_id))


@api.put("/gear/<gear_id>", responses={200: EntryOut})
def gear_edit(path: GearPath, body: GearEdit) -> Response:
    return reply_root(EntryOut, locker.edit(path.gear_id, body.unit, body.revision))


@api.post("/gear/<gear_id>/duplicate", responses={201: EntryOut})
def gear_duplicate(path: GearPath) -> Response:
    return reply_root(EntryOut, locker.duplicate(path.gear_id), 201)


@api.delete("/gear/<gear_id>", responses={204: None})
def gear_delete(path: GearPath, query: RevisionQuery) -> Response:
    locker.delete(path.gear_id, query.revision)
    return Response(status=204)


@api.get("/gear/<gear_id>/curve", responses=file("text/plain"))
def gear_curve(path: GearPath, query: CurveQuery) -> Response:
    return download(
        locker.curve_file(path.gear_id, query.to), f"{path.gear_id}.{query.to}", "text/plain; charset=utf-8"
    )


@api.get("/locker.json", responses=file("application/json"))
def locker_json() -> Response:
    return download(locker.locker_file(), "locker.json", "application/json")


@api.get("/locker.csv", responses=file("text/csv"))
def locker_table(query: KindQuery) -> Response:
    return download("\ufeff" + locker.locker_csv(query.kind), f"{query.kind}.csv", "text/csv; charset=utf-8")


@api.get("/locker/insurer", responses={200: InsurerOut})
def locker_insurer() -> Response:
    return reply_root(InsurerOut, locker.for_insurer())


@api.get("/locker/insurer.csv", responses=file("text/csv"))
def locker_insurer_csv() -> Response:
    return download("\ufeff" + locker.insurer_csv(), "low-tide-insurer.csv", "text/csv; charset=utf-8")


@api.post("/locker/import", responses={200: ImportedOut}, openapi_extensions=takes("application/json", "text/csv"))
def locker_import(query: ImportQuery) -> Response:
    """The body is a locker file, JSON or CSV; all of it is taken in, or nothing."""
    return reply_root(ImportedOut, locker.bring_in(request.get_data(), query.replace))


@api.post("/curves/read", responses={200: ReadCurveOut}, openapi_extensions=takes("text/plain", "text/csv"))
def curve_read() -> Response:
    """The body is a curve as ZMA or CSV; the answer is what a record keeps of it."""
    return reply_root(ReadCurveOut, read_curve(request.get_data()))


@api.post("/tools/ohms-at-the-plug", responses={200: FromOhmsOut})
def tool_ohms_at_the_plug(body: PlugBody) -> Response:
    return reply_root(FromOhmsOut, locker.from_ohms(body.box, body.ohms))


@api.post("/tools/output-impedance", responses={200: TwoReadingOut})
def tool_output_impedance(body: TwoReadings) -> Response:
    return reply_root(TwoReadingOut, locker.output_impedance(body.root))
