"""What is wrong, over HTTP: searches, and units that are suspect."""

from __future__ import annotations

from typing import Annotated, Literal

from flask import Response
from pydantic import Field

from low_tide.app import faults
from low_tide.app.faults import FaultEntry, FaultState, Suspect
from low_tide.core.fault_finding.symptoms import SYMPTOMS, Symptom
from low_tide.web.api.base import Count, HookupPath, Model, Strict, Whole, api, reply, reply_root


class SymptomsOut(Model):
    symptoms: tuple[Symptom, ...]


class FaultsOut(Model):
    faults: tuple[FaultEntry, ...]


class FaultOut(Whole[FaultState]):
    pass


class FaultPath(Model):
    fault_id: Count


class UnitPath(Model):
    gear_id: Annotated[str, Field(max_length=64)]


class BeginFaultBody(Strict):
    symptom: Annotated[str, Field(max_length=40)]


class AnswerFaultBody(Strict):
    """`saves`: the search's when it was looked at."""

    test: Annotated[str, Field(max_length=80)]
    said: Literal["yes", "no", "unknown"]
    saves: Count


class MendedBody(Strict):
    cause: Annotated[str, Field(max_length=80)]
    gone: bool
    saves: Count


class FaultSavesBody(Strict):
    saves: Count


class WordBody(Strict):
    word: Annotated[str, Field(max_length=1000)]


class SuspectsOut(Model):
    suspects: tuple[Suspect, ...]


@api.get("/faults/symptoms", responses={200: SymptomsOut})
def fault_symptoms() -> Response:
    return reply(SymptomsOut, {"symptoms": SYMPTOMS})


@api.get("/hookups/<hookup_id>/faults", responses={200: FaultsOut})
def faults_of(path: HookupPath) -> Response:
    return reply(FaultsOut, {"faults": tuple(faults.of(path.hookup_id))})


@api.post("/hookups/<hookup_id>/faults", responses={201: FaultOut})
def fault_begin(path: HookupPath, body: BeginFaultBody) -> Response:
    return reply_root(FaultOut, faults.begin(path.hookup_id, body.symptom), 201)


@api.get("/faults/<int:fault_id>", responses={200: FaultOut})
def fault_get(path: FaultPath) -> Response:
    return reply_root(FaultOut, faults.state(path.fault_id))


@api.post("/faults/<int:fault_id>/answer", responses={200: FaultOut})
def fault_answer(path: FaultPath, body: AnswerFaultBody) -> Response:
    return reply_root(FaultOut, faults.answer(path.fault_id, body.test, body.said, body.saves))


@api.post("/faults/<int:fault_id>/back", responses={200: FaultOut})
def fault_back(path: FaultPath, body: FaultSavesBody) -> Response:
    return reply_root(FaultOut, faults.step_back(path.fault_id, body.saves))


@api.post("/faults/<int:fault_id>/mended", responses={200: FaultOut})
def fault_mended(path: FaultPath, body: MendedBody) -> Response:
    return reply_root(FaultOut, faults.mended(path.fault_id, body.cause, body.gone, body.saves))


@api.post("/faults/<int:fault_id>/give-up", responses={200: FaultOut})
def fault_give_up(path: FaultPath, body: FaultSavesBody) -> Response:
    return reply_root(FaultOut, faults.give_up(path.fault_id, body.saves))


@api.post("/faults/<int:fault_id>/mistake", responses={200: FaultOut})
def fault_mistake(path: FaultPath, body: FaultSavesBody) -> Response:
    return reply_root(FaultOut, faults.by_mistake(path.fault_id, body.saves))


@api.get("/suspects", responses={200: SuspectsOut})
def suspects_get() -> Response:
    return reply(SuspectsOut, {"suspects": tuple(faults.suspects())})


@api.post("/suspects/<gear_id>", responses={200: SuspectsOut})
def suspect_mark(path: UnitPath, body: WordBody) -> Response:
    return reply(SuspectsOut, {"suspects": tuple(faults.suspect(path.gear_id, body.word))})


@api.post("/suspects/<gear_id>/clear", responses={200: SuspectsOut})
def suspect_clear(path: UnitPath, body: WordBody) -> Response:
    return reply(SuspectsOut, {"suspects": tuple(faults.clear(path.gear_id, body.word))})
