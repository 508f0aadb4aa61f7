"""The Bench over HTTP: hook-ups, their changes, and everything asked about them."""

from __future__ import annotations

from typing import Annotated, Literal

from flask import Response, request
from pydantic import Field

from low_tide.app import bench
from low_tide.app.bench import HookupEntry, Mended
from low_tide.core.finder import GOALS, Answer, GoalInfo, Progress, Wish
from low_tide.core.finder.other_amp import OtherAmp
from low_tide.core.finder.socket_options import Choice
from low_tide.core.judging.slips import Slip
from low_tide.core.power.over_frequency import Spectra
from low_tide.core.rig.hookup import End, Hookup
from low_tide.formats.documents import ChangeDoc, read_hookup_file
from low_tide.web.api.base import (
    BenchOut,
    Count,
    HookupPath,
    Line,
    Model,
    SavesBody,
    SavesQuery,
    SearchQuery,
    Strict,
    Whole,
    api,
    download,
    file,
    json_lines,
    reply,
    reply_root,
    takes,
)

MAX_CHANGES = 60


class ResponseQuery(Model):
    """Which output's curve, by the amp's id (the first one if empty), and as what."""

    amp: Annotated[str, Field(max_length=64)] = ""
    to: Literal["zma", "csv", "frd"] = "zma"


class NewHookup(Strict):
    """A new hook-up: empty, or one that was proposed."""

    name: Annotated[str, Field(min_length=1, max_length=120)] = "New hook-up"
    hookup: Hookup | None = None


class FindBody(Strict):
    """A wish, and the hook-up on the bench that proposals are held against."""

    wish: Wish
    now: Annotated[str, Field(max_length=64)] = ""


class GoalList(Model):
    goals: tuple[GoalInfo, ...]


class FindLine(Line):
    """One line of the answer to a wish: how far the search is, or, last, what it found."""

    progress: Progress | None = None
    answer: Answer | None = None


class ChangesBody(Strict):
    saves: Count
    changes: Annotated[tuple[ChangeDoc, ...], Field(min_length=1, max_length=MAX_CHANGES)]


class CopyBody(Strict):
    revision: Count
    changes: Annotated[tuple[ChangeDoc, ...], Field(min_length=1, max_length=MAX_CHANGES)]


class PreviewBody(Strict):
    changes: Annotated[tuple[ChangeDoc, ...], Field(min_length=1, max_length=MAX_CHANGES)]
    held: Annotated[tuple[ChangeDoc, ...], Field(max_length=MAX_CHANGES)] = ()


class OtherAmpQuery(Model):
    amp: Annotated[str, Field(max_length=64)]


class OtherAmpList(Model):
    amps: tuple[OtherAmp, ...]


class ChoicesBody(Strict):
    """`between`: what may be put into the lead at the socket, instead of what may go there."""

    end: End
    between: bool = False
    held: Annotated[tuple[ChangeDoc, ...], Field(max_length=MAX_CHANGES)] = ()


class HeldBody(Strict):
    """Changes that are held and not made; none shows the hook-up as it stands."""

    changes: Annotated[tuple[ChangeDoc, ...], Field(max_length=MAX_CHANGES)] = ()


class Consequence(Model):
    severity: str
    text: str


class HookupList(Model):
    entries: list[HookupEntry]


class SlipList(Model):
    slips: tuple[Slip, ...]


class ChoiceList(Model):
    end: End
    choices: tuple[Choice, ...]


class MendedOut(Whole[Mended]):
    pass


class SpectraOut(Whole[Spectra]):
    pass


@api.get("/hookups", responses={200: HookupList})
def hookup_list(query: SearchQuery) -> Response:
    return reply(HookupList, {"entries": bench.listed(query.search)})


@api.post("/hookups", responses={201: BenchOut})
def hookup_new(body: NewHookup) -> Response:
    return reply_root(BenchOut, bench.create(body.name, body.hookup), 201)


@api.get("/goals", responses={200: GoalList})
def goal_list() -> Response:
    """What can be wished for when looking for a hook-up."""
    return reply(GoalList, {"goals": GOALS})


@api.post("/hookups/find", responses={200: FindLine})
def hookup_find(body: FindBody) -> Response:
    """Proposals for a wish, as lines of JSON while the search goes on; closing the connection stops it."""
    found = bench.find(body.wish, body.now)
    return json_lines(FindLine, (("answer" if isinstance(each, Answer) else "progress", each) for each in found))


@api.post("/hookups/import", responses={201: BenchOut}, openapi_extensions=takes("application/json"))
def hookup_import() -> Response:
    rig, raw = read_hookup_file(request.get_data())
    return reply_root(BenchOut, bench.bring_in(rig, raw), 201)


@api.get("/hookups/<hookup_id>", responses={200: BenchOut})
def hookup_get(path: HookupPath) -> Response:
    return reply_root(BenchOut, bench.state(path.hookup_id))


@api.delete("/hookups/<hookup_id>", responses={204: None})
def hookup_archive(path: HookupPath, query: SavesQuery) -> Response:
    bench.archive(path.hookup_id, query.saves)
    return Response(status=204)


@api.post("/hookups/<hookup_id>/unarchive", responses={200: BenchOut})
def hookup_unarchive(path: HookupPath) -> Response:
    return reply_root(BenchOut, bench.unarchive(path.hookup_id))


@api.post("/hookups/<hookup_id>/changes", responses={200: BenchOut})
def hookup_change(path: HookupPath, body: ChangesBody) -> Response:
    return reply_root(BenchOut, bench.change(path.hookup_id, body.changes, body.saves))


@api.post("/hookups/<hookup_id>/copy", responses={201: BenchOut})
def hookup_copy(path: HookupPath, body: CopyBody) -> Response:
    return reply_root(BenchOut, bench.copy_with(path.hookup_id, body.changes, body.revision), 201)


@api.post("/hookups/<hookup_id>/preview", responses={200: Consequence})
def hookup_preview(path: HookupPath, body: PreviewBody) -> Response:
    severity, text = bench.consequence(path.hookup_id, body.changes, body.held)
    return reply(Consequence, {"severity": severity, "text": text})


@api.post("/hookups/<hookup_id>/what-if", responses={200: BenchOut})
def hookup_what_if(path: HookupPath, body: HeldBody) -> Response:
    """The hook-up as it would be with these changes; nothing is kept."""
    return reply_root(BenchOut, bench.what_if(path.hookup_id, body.changes))


@api.post("/hookups/<hookup_id>/fixes", responses={200: MendedOut})
def hookup_fixes(path: HookupPath, body: HeldBody) -> Response:
    """The findings again, each with the fix that was tried and mends it; nothing is kept."""
    return reply_root(MendedOut, bench.fixes(path.hookup_id, body.changes))


@api.post("/hookups/<hookup_id>/curves", responses={200: SpectraOut})
def hookup_curves(path: HookupPath, body: HeldBody) -> Response:
    return reply_root(SpectraOut, bench.curves(path.hookup_id, body.changes))


@api.post("/hookups/<hookup_id>/undo", responses={200: BenchOut})
def hookup_undo(path: HookupPath, body: SavesBody) -> Response:
    return reply_root(BenchOut, bench.step(path.hookup_id, -1, body.saves))


@api.post("/hookups/<hookup_id>/redo", responses={200: BenchOut})
def hookup_redo(path: HookupPath, body: SavesBody) -> Response:
    return reply_root(BenchOut, bench.step(path.hookup_id, 1, body.saves))


@api.post("/hookups/<hookup_id>/choices", responses={200: ChoiceList})
def hookup_choices(path: HookupPath, body: ChoicesBody) -> Response:
    """What may go into a socket. A POST, since it may carry held changes; nothing is kept."""
    found = bench.socket_choices(path.hookup_id, body.end, body.held, body.between)
    return reply(ChoiceList, {"end": body.end, "choices": found})


@api.get("/hookups/<hookup_id>/other-amps", responses={200: OtherAmpList})
def hookup_other_amps(path: HookupPath, query: OtherAmpQuery) -> Response:
    """The hook-up with each other amp in the place of one of its own. Nothing is kept."""
    return reply(OtherAmpList, {"amps": bench.other_amps(path.hookup_id, query.amp)})


@api.get("/hookups/<hookup_id>/slips", responses={200: SlipList})
def hookup_slips(path: HookupPath) -> Response:
    return reply(SlipList, {"slips": bench.one_slip(path.hookup_id)})


@api.get("/hookups/<hookup_id>/file", responses=file("application/json"))
def hookup_file(path: HookupPath) -> Response:
    return download(bench.file_of(path.hookup_id), f"{path.hookup_id}.json", "application/json")


@api.get("/hookups/<hookup_id>/spice", responses=file("text/plain"))
def hookup_spice(path: HookupPath) -> Response:
    return download(bench.netlist_of(path.hookup_id), f"{path.hookup_id}.cir", "text/plain; charset=utf-8")


@api.get("/hookups/<hookup_id>/impedance", responses=file("text/plain"))
def hookup_impedance(path: HookupPath, query: ResponseQuery) -> Response:
    text = bench.curve_of(path.hookup_id, query.amp, query.to)
    return download(text, f"{path.hookup_id}.{query.to}", "text/plain; charset=utf-8")


@api.post("/hookups/<hookup_id>/unpin", responses={200: BenchOut})
def hookup_unpin(path: HookupPath, query: SavesQuery) -> Response:
    return reply_root(BenchOut, bench.unpin(path.hookup_id, query.saves))
