"""Drills over HTTP: sittings, questions with their answers, the score."""

from __future__ import annotations

from functools import cache
from typing import Annotated, Literal

from flask import Response
from pydantic import Field

from low_tide.app import drill_picture, drill_score, drills
from low_tide.app.drill_answers import AnswerDoc, Result
from low_tide.app.drill_making import Material
from low_tide.app.drill_picture import Asked, DrillPicture
from low_tide.app.drill_score import DrillsState
from low_tide.app.drills import Sitting
from low_tide.core.drills.acts import Act
from low_tide.core.drills.cards import KINDS
from low_tide.core.rig.hookup import End
from low_tide.formats.documents import ChangeDoc
from low_tide.web.api.base import Model, Strict, Whole, api, download, file, reply, reply_root

MOST_PUT_ON = 12


class SittingPath(Model):
    sitting_id: int


class QuestionPath(Model):
    drill_id: int


class DrillSoundPath(QuestionPath):
    letter: Literal["a", "b"]


class NewSittingBody(Strict):
    """From what drills are made, and of which kinds; of all where none is named."""

    source: Annotated[str, Field(max_length=20)] = "own"
    kinds: Annotated[tuple[Annotated[str, Field(max_length=20)], ...], Field(max_length=len(KINDS))] = ()


class PutOnBody(Strict):
    changes: Annotated[tuple[ChangeDoc, ...], Field(max_length=MOST_PUT_ON)] = ()


class AtSocketBody(Strict):
    end: End


class DrillAnswerBody(Strict):
    answer: AnswerDoc


class DrillsOut(Whole[DrillsState]):
    pass


class SittingOut(Whole[Sitting]):
    pass


class AskedOut(Whole[Asked]):
    pass


class ResultOut(Whole[Result]):
    pass


class DrillPictureOut(Whole[DrillPicture]):
    pass


class HintOut(Model):
    hint: str


class ActList(Model):
    acts: tuple[Act, ...]


@cache
def lightship() -> Material:
    """The gear and hook-ups of the demo, read when they are first asked for."""
    from low_tide.demo.gear import GEAR
    from low_tide.demo.hookups import HOOKUPS

    return Material(GEAR, HOOKUPS)


@api.get("/drills", responses={200: DrillsOut})
def drills_get() -> Response:
    """The score by kind and card, what is due, and the sitting that is open."""
    return reply_root(DrillsOut, drill_score.state(lightship()))


@api.delete("/drills", responses={204: None})
def drills_reset() -> Response:
    """Forget every sitting, answer and card."""
    drill_score.reset()
    return Response(status=204)


@api.get("/drills/answers.csv", responses=file("text/csv"))
def drills_csv() -> Response:
    return download(drill_score.table(), "drills.csv", "text/csv; charset=utf-8")


@api.post("/drills/sittings", responses={201: SittingOut})
def sitting_begin(body: NewSittingBody) -> Response:
    return reply_root(SittingOut, drills.begin(body.source, body.kinds, lightship()), 201)


@api.get("/drills/sittings/<int:sitting_id>", responses={200: SittingOut})
def sitting_get(path: SittingPath) -> Response:
    return reply_root(SittingOut, drills.shown(path.sitting_id))


@api.post("/drills/sittings/<int:sitting_id>/next", responses={200: SittingOut})
def sitting_next(path: SittingPath) -> Response:
    """The next question; the open one, where one is; the end after the last."""
    return reply_root(SittingOut, drills.go_on(path.sitting_id, lightship()))


@api.post("/drills/sittings/<int:sitting_id>/end", responses={200: SittingOut})
def sitting_end(path: SittingPath) -> Response:
    return reply_root(SittingOut, drills.end(path.sitting_id))


@api.get("/drills/questions/<int:drill_id>", responses={200: AskedOut})
def question_get(path: QuestionPath) -> Response:
    return reply_root(AskedOut, drill_picture.asked(path.drill_id))


@api.post("/drills/questions/<int:drill_id>/hint", responses={200: HintOut})
def question_hint(path: QuestionPath) -> Response:
    return reply(HintOut, {"hint": drills.hint(path.drill_id)})


@api.post("/drills/questions/<int:drill_id>/acts", responses={200: ActList})
def question_acts(path: QuestionPath, body: AtSocketBody) -> Response:
    """What may be done at a socket. A POST, since the socket is named in full; nothing is kept."""
    return reply(ActList, {"acts": drill_picture.what_may_be_done(path.drill_id, body.end)})


@api.post("/drills/questions/<int:drill_id>/picture", responses={200: DrillPictureOut})
def question_picture(path: QuestionPath, body: PutOnBody) -> Response:
    """The hook-up that is asked about with changes put on. Nothing is kept."""
    return reply_root(DrillPictureOut, drill_picture.tried(path.drill_id, body.changes))


@api.post("/drills/questions/<int:drill_id>/answer", responses={200: ResultOut})
def question_answer(path: QuestionPath, body: DrillAnswerBody) -> Response:
    return reply_root(ResultOut, drills.answer(path.drill_id, body.answer))


@api.post("/drills/questions/<int:drill_id>/once-more", responses={201: SittingOut})
def question_once_more(path: QuestionPath) -> Response:
    """The same again a little changed, as the next question of its sitting."""
    return reply_root(SittingOut, drills.once_more(path.drill_id, lightship()), 201)


@api.get("/drills/questions/<int:drill_id>/sounds/<letter>", responses=file("audio/wav"))
def question_sound(path: DrillSoundPath) -> Response:
    return Response(drill_picture.sound(path.drill_id, path.letter), mimetype="audio/wav")
