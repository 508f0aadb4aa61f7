"""In the mix, over HTTP: what a guitar is heard against, how it comes through, and the sound of it."""

from __future__ import annotations

from typing import Annotated, Any

from flask import Response, request
from pydantic import Field

from low_tide.app import mix_sound, mixes
from low_tide.app.mix_sound import Ranking, What
from low_tide.app.mixes import MOST_TRACKS, MixDoc, MixEntry, MixState
from low_tide.core.cab.in_the_mix import HeardInMix
from low_tide.core.spec import Spec
from low_tide.web.api.base import Count, Line, Model, Strict, Whole, api, file, home, json_lines, reply, reply_root
from low_tide.web.api.cab import BlendPath
from low_tide.web.api.compare import FileBody


class MixPath(Model):
    mix_id: Count


class MixBlendPath(MixPath, BlendPath):
    pass


class MixSoundQuery(Model):
    """What is heard: guitar and backing, or one of them alone. `saves`: of the mix and the blend, as they were seen."""

    what: What = "both"
    saves: Annotated[str, Field(max_length=40)] = ""


class NewMixBody(Strict):
    """A new mix: its name, what sounds in it, and the take the guitar is heard on."""

    name: Annotated[str, Field(max_length=400)]
    tracks: Annotated[tuple[str, ...], Field(max_length=MOST_TRACKS)] = ()
    guitar: Annotated[str, Field(max_length=40)] = "driven"


class MixBody(Strict):
    """A mix: its name, what it is made of, and the saves it was seen with."""

    name: Annotated[str, Field(max_length=400)]
    doc: Annotated[MixDoc, Spec("Mix")]
    saves: Count | None = None


class MixList(Model):
    mixes: list[MixEntry]


class MixOut(Whole[MixState]):
    pass


class MixLine(Line):
    """One line of the answer while a file is read: the part that is done, or, last, the mix."""

    part: float | None = None
    mix: MixState | None = None


class HeardInMixOut(Whole[HeardInMix]):
    pass


class RankingLine(Line):
    """One line of the answer while speakers are tried: the part that is done, or, last, all of them ranked."""

    part: float | None = None
    ranking: Ranking | None = None


def _doc() -> Any:
    return request.get_json()["doc"]


@api.get("/mixes", responses={200: MixList})
def mix_list() -> Response:
    return reply(MixList, {"mixes": mixes.listed()})


@api.post("/mixes", responses={201: MixOut})
def mix_new(body: NewMixBody) -> Response:
    return reply_root(MixOut, mixes.begin(home(), body.name, body.tracks, body.guitar), 201)


@api.get("/mixes/<int:mix_id>", responses={200: MixOut})
def mix_get(path: MixPath) -> Response:
    return reply_root(MixOut, mixes.state(home(), path.mix_id))


@api.put("/mixes/<int:mix_id>", responses={200: MixOut})
def mix_edit(path: MixPath, body: MixBody) -> Response:
    """Its tracks with their levels and places, the guitar in it, and the section of the song."""
    return reply_root(MixOut, mixes.edit(home(), path.mix_id, body.name, _doc(), body.saves))


@api.delete("/mixes/<int:mix_id>", responses={204: None})
def mix_delete(path: MixPath) -> tuple[str, int]:
    """Takes stay; files that were brought into it alone go with it."""
    mixes.delete(home(), path.mix_id)
    return "", 204


@api.post("/mixes/<int:mix_id>/files", responses={200: MixLine})
def mix_file_new(path: MixPath, body: FileBody) -> Response:
    """A file becomes a track of it, as lines of JSON while it is inspected."""
    steps = mixes.bring(home(), path.mix_id, body.upload, body.file_name)
    return json_lines(MixLine, (("mix" if isinstance(step, MixState) else "part", step) for step in steps))


@api.post("/mixes/<int:mix_id>/rank", responses={200: RankingLine})
def mix_rank(path: MixPath) -> Response:
    """All of the short list and the newest blends by how they are heard in it, as lines of JSON."""
    steps = mix_sound.rank(home(), path.mix_id)
    return json_lines(RankingLine, (("ranking" if isinstance(step, Ranking) else "part", step) for step in steps))


@api.get("/mixes/<int:mix_id>/blends/<int:blend_id>", responses={200: HeardInMixOut})
def mix_heard(path: MixBlendPath) -> Response:
    """In which bands the guitar is heard through a blend."""
    return reply_root(HeardInMixOut, mix_sound.heard(home(), path.mix_id, path.blend_id))


@api.get("/mixes/<int:mix_id>/blends/<int:blend_id>/sound", responses=file("audio/wav"))
def mix_heard_sound(path: MixBlendPath, query: MixSoundQuery) -> Response:
    """Its section as it is heard with the guitar through a blend."""
    return Response(mix_sound.sound(home(), path.mix_id, path.blend_id, query.what), mimetype="audio/wav")
