"""Loudness over HTTP: places, readings, ears, heat, and the tools around them."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from flask import Response
from pydantic import Field

from low_tide.app import audition, bench, loudness, readings
from low_tide.app.loudness import LoudnessState, ThinCurve
from low_tide.app.readings import Ears, ReadingState
from low_tide.core.acoustics.rooms import Weighting
from low_tide.core.gear.attenuator import Mark
from low_tide.core.gear.base import identity
from low_tide.core.loudness.calibration import Pair
from low_tide.core.spec import Spec
from low_tide.core.thermal.heating import Fit
from low_tide.stand_ins.meter import Shown
from low_tide.web.api.base import Count, HookupPath, Model, Strict, Whole, api, download, file, reply, reply_root

PlaceId = Annotated[str, identity("Place")]


class ReadingPath(Model):
    reading_id: Count


class WishQuery(Model):
    """What is wished for, where; left out: as the hook-up's occasion says."""

    place: Annotated[str, Field(max_length=64)] = ""
    wanted: Annotated[float | None, Spec("Wanted level", "dBA", 0, 140)] = None
    said: Annotated[str, Spec("Wanted, in words", le=60)] = ""


class ReadingsQuery(Model):
    place: Annotated[str, Field(max_length=64)] = ""


class NewReading(Strict):
    """A reading; `at` is a local time, now where it is left out."""

    reading: dict[str, Any]
    at: Annotated[str, Spec("When", le=40)] = ""


class UseBody(Strict):
    used: bool


class MeterBody(Strict):
    place: PlaceId
    weighting: Weighting = "A"
    response: Literal["slow", "fast"] = "slow"
    distance: Annotated[float | None, Spec("Distance", "m", 0.02, 5000)] = None


class ThermometerBody(Strict):
    unit: Annotated[str, identity("Box")]
    minutes: Annotated[float, Spec("After", "min", 0, 1440)]


class Celsius(Model):
    celsius: float


class ListenBody(Strict):
    """A stretch of listening, at a place or in headphones; `at` is a local time, now where it is left out."""

    what: Annotated[str, identity("Where")]
    level: Annotated[float, Spec("Level", "dBA", 30, 140)]
    minutes: Annotated[float, Spec("Listened", "min", 0.1, 1440)]
    at: Annotated[str, Spec("When", le=40)] = ""


class EarsQuery(Model):
    hookup: Annotated[str, Field(max_length=64)] = ""


class ThinQuery(Model):
    loud: Annotated[float, Spec("Loud", "dB", 30, 130)]
    quiet: Annotated[float, Spec("Quiet", "dB", 10, 130)]


class BoxBody(Strict):
    """An attenuator's record as it stands in its form."""

    box: dict[str, Any]


class KnobBody(Strict):
    """Readings at positions of an attenuator; `reference` is the position that counts as 0 dB.

    `box`: the attenuator's record as it stands in its form.
    """

    box: dict[str, Any]
    pairs: Annotated[tuple[Pair, ...], Spec("Readings", ge=1, le=100)]
    reference: Annotated[str, Spec("Position of 0 dB", ge=1, le=20)]
    unit: Literal["V", "dB"] = "V"


class HeatReading(Strict):
    minutes: Annotated[float, Spec("After", "min", 0.1, 1440)]
    celsius: Annotated[float, Spec("Case", "°C", -20, 300)]


class HeatBody(Strict):
    ambient: Annotated[float, Spec("Room temperature", "°C", -20, 60)]
    watts: Annotated[float, Spec("Mean heat", "W", 0.1, 5000)]
    first: HeatReading
    second: HeatReading


class LoudnessOut(Whole[LoudnessState]):
    pass


class ReadingOut(Whole[ReadingState]):
    pass


class ReadingList(Model):
    readings: tuple[ReadingState, ...]


class ShownOut(Whole[Shown]):
    pass


class EarsOut(Whole[Ears]):
    pass


class ThinOut(Whole[ThinCurve]):
    pass


class Calibrated(Model):
    marks: tuple[Mark, ...]
    marks_are: Literal["knob", "steps"]


class PositionsOut(Whole[loudness.Positions]):
    pass


class HalfList(Model):
    halves: tuple[loudness.Half, ...]


class FitOut(Whole[Fit]):
    pass


@api.get("/hookups/<hookup_id>/loudness", responses={200: LoudnessOut})
def loudness_get(path: HookupPath, query: WishQuery) -> Response:
    return reply_root(LoudnessOut, loudness.state(path.hookup_id, query.place, query.wanted, query.said))


@api.get("/readings", responses={200: ReadingList})
def reading_list(query: ReadingsQuery) -> Response:
    return reply(ReadingList, {"readings": readings.listed(query.place)})


@api.get("/readings.csv", responses=file("text/csv"))
def reading_csv() -> Response:
    return download("\ufeff" + readings.export_csv(), "low-tide-readings.csv", "text/csv")


@api.post("/hookups/<hookup_id>/readings", responses={201: ReadingOut})
def reading_new(path: HookupPath, body: NewReading) -> Response:
    return reply_root(ReadingOut, readings.add(path.hookup_id, body.reading, body.at), 201)


@api.put("/readings/<int:reading_id>", responses={200: ReadingList})
def reading_use(path: ReadingPath, body: UseBody) -> Response:
    readings.use(path.reading_id, body.used)
    return reply(ReadingList, {"readings": readings.listed()})


@api.delete("/readings/<int:reading_id>", responses={204: None})
def reading_delete(path: ReadingPath) -> Response:
    readings.delete(path.reading_id)
    return Response(status=204)


@api.post("/hookups/<hookup_id>/meter", responses={200: ShownOut})
def meter_show(path: HookupPath, body: MeterBody) -> Response:
    """What the simulated sound level meter shows."""
    found = loudness.meter_shows(path.hookup_id, body.place, body.weighting, body.response, body.distance)
    return reply_root(ShownOut, found)


@api.get("/loudness/take.wav", responses=file("audio/wav"))
def loudness_take() -> Response:
    """The built-in take, to hear by what some dB less are."""
    return Response(audition.built_in(), mimetype="audio/wav", headers={"Cache-Control": "max-age=3600"})


@api.post("/hookups/<hookup_id>/thermometer", responses={200: Celsius})
def thermometer_show(path: HookupPath, body: ThermometerBody) -> Response:
    """What the simulated thermometer shows."""
    return reply(Celsius, {"celsius": loudness.thermometer_shows(path.hookup_id, body.unit, body.minutes)})


@api.get("/ears", responses={200: EarsOut})
def ears_get(query: EarsQuery) -> Response:
    rig = bench.rig_of(bench.row_of(query.hookup)) if query.hookup else None
    return reply_root(EarsOut, readings.ears(rig))


@api.post("/ears", responses={201: EarsOut})
def ears_listen(body: ListenBody) -> Response:
    readings.listen(body.what, body.level, body.minutes, body.at)
    return reply_root(EarsOut, readings.ears(), 201)


@api.get("/tools/thin", responses={200: ThinOut})
def tool_thin(query: ThinQuery) -> Response:
    return reply_root(ThinOut, loudness.thin(query.loud, query.quiet))


@api.get("/tools/half", responses={200: HalfList})
def tool_half() -> Response:
    return reply(HalfList, {"halves": loudness.halves()})


@api.post("/tools/positions", responses={200: PositionsOut})
def tool_positions(body: BoxBody) -> Response:
    """Where an attenuator can be read. A POST, since its form is not saved; nothing is kept."""
    return reply_root(PositionsOut, loudness.positions_of(body.box))


@api.post("/tools/knob", responses={200: Calibrated})
def tool_knob(body: KnobBody) -> Response:
    found = loudness.calibrated(body.box, body.pairs, body.reference, body.unit)
    return reply(Calibrated, {"marks": found.marks, "marks_are": found.marks_are})


@api.post("/tools/heat", responses={200: FitOut})
def tool_heat(body: HeatBody) -> Response:
    pair = ((body.first.minutes, body.first.celsius), (body.second.minutes, body.second.celsius))
    return reply_root(FitOut, loudness.fit_heat(body.ambient, body.watts, pair))
