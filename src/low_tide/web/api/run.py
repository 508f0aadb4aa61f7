"""The Run sheet over HTTP: steps and readings, timers, kit lists."""

from __future__ import annotations

from typing import Annotated, Literal

from flask import Response
from pydantic import Field

from low_tide.app import held_work, kit, running, timers
from low_tide.app.held_work import HeldWork, PutIn
from low_tide.app.kit import KitState
from low_tide.app.running import RunState
from low_tide.app.timers import Timer
from low_tide.core.session.expected import KINDS
from low_tide.web.api.base import Count, HookupPath, Model, Strict, Whole, api, download, file, reply, reply_root

StepId = Annotated[str, Field(max_length=40)]
HeldKey = Annotated[str, Field(min_length=16, max_length=64, pattern="^[0-9a-zA-Z-]+$")]
MOST_AGE_S = 30 * 24 * 3600
HookupId = Annotated[str, Field(max_length=64)]
MARKDOWN = "text/markdown; charset=utf-8"


class TickBody(Strict):
    """`key`: its own, so that what is sent again is done once."""

    step: StepId
    done: bool
    key: HeldKey | None = None


class BeginBody(Strict):
    """`standing`: the hook-up whose leads it goes on from; empty: it begins with nothing plugged."""

    standing: HookupId


class ReadBody(Strict):
    """`value` null: the meter shows no end of ohms. `from_device`: what the simulated device shows is taken. `key`: its
    own, so that what is sent again is done once."""

    step: StepId
    value: Annotated[float | None, Field(ge=-1e9, le=1e9, allow_inf_nan=False)] = None
    from_device: bool = False
    key: HeldKey | None = None


class StepBody(Strict):
    step: StepId


class AcceptBody(Strict):
    key: Annotated[str, Field(max_length=1000)]
    word: Annotated[str, Field(max_length=400)]


class SwitchBody(Strict):
    on: bool


class OfflineTick(Strict):
    """A tick that was held; `revision` and `round` of the sheet it was done on, `age_s` how long ago."""

    kind: Literal["tick"]
    key: HeldKey
    step: StepId
    revision: Count
    round: Count
    age_s: Annotated[float, Field(ge=0, le=MOST_AGE_S)]
    done: bool


class OfflineReading(Strict):
    """A reading that was held; `value` null: over the meter's range."""

    kind: Literal["reading"]
    key: HeldKey
    step: StepId
    revision: Count
    round: Count
    age_s: Annotated[float, Field(ge=0, le=MOST_AGE_S)]
    value: Annotated[float | None, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]


class OfflineBody(Strict):
    held: Annotated[
        list[Annotated[OfflineTick | OfflineReading, Field(discriminator="kind")]], Field(min_length=1, max_length=200)
    ]


class PutInOut(Whole[PutIn]):
    pass


class RunOut(Whole[RunState]):
    pass


class ReadingKind(Model):
    quantity: str
    label: str
    unit: str
    simulated: bool


class ReadingKinds(Model):
    """What can be read off at steps; `simulated`: a stand-in for the device is there."""

    kinds: tuple[ReadingKind, ...]


class TimersOut(Model):
    timers: tuple[Timer, ...]


class TimerPath(Model):
    timer_id: Count


class ChoosingBody(Strict):
    """The blend that is being chosen by."""

    blend: Count


class KitQuery(Model):
    """Ids of hook-ups, parted by commas."""

    hookups: Annotated[str, Field(max_length=64 * 26)]


class KitBody(Strict):
    hookups: Annotated[list[HookupId], Field(max_length=64)]


class PackBody(KitBody):
    item: StepId
    packed: bool


class SettleBody(KitBody):
    """`away`: it goes to another place. `own`: lines of one's own."""

    away: bool
    own: Annotated[list[Annotated[str, Field(max_length=1000)]], Field(max_length=200)]


class KitOut(Whole[KitState]):
    pass


def _ids(query: KitQuery) -> list[str]:
    return [each for each in query.hookups.split(",") if each]


@api.get("/hookups/<hookup_id>/run", responses={200: RunOut})
def run_get(path: HookupPath) -> Response:
    return reply_root(RunOut, running.state(path.hookup_id))


@api.get("/hookups/<hookup_id>/run.md", responses=file("text/markdown"))
def run_markdown(path: HookupPath) -> Response:
    return download(running.as_markdown(path.hookup_id), f"run-sheet-{path.hookup_id}.md", MARKDOWN)


@api.post("/hookups/<hookup_id>/run/begin", responses={200: RunOut})
def run_begin(path: HookupPath, body: BeginBody) -> Response:
    return reply_root(RunOut, running.begin_from(path.hookup_id, body.standing))


@api.post("/hookups/<hookup_id>/run/tick", responses={200: RunOut})
def run_tick(path: HookupPath, body: TickBody) -> Response:
    return reply_root(RunOut, running.tick(path.hookup_id, body.step, body.done, body.key))


@api.post("/hookups/<hookup_id>/run/read", responses={200: RunOut})
def run_read(path: HookupPath, body: ReadBody) -> Response:
    return reply_root(RunOut, running.read(path.hookup_id, body.step, body.value, body.from_device, body.key))


@api.post("/hookups/<hookup_id>/run/held", responses={200: PutInOut})
def run_held(path: HookupPath, body: OfflineBody) -> Response:
    """Put in what a device held without a network; what is not true any more is given back."""
    held = [HeldWork(**each.model_dump()) for each in body.held]
    return reply_root(PutInOut, held_work.put_in(path.hookup_id, held))


@api.post("/hookups/<hookup_id>/run/take-back", responses={200: RunOut})
def run_take_back(path: HookupPath, body: StepBody) -> Response:
    return reply_root(RunOut, running.take_back(path.hookup_id, body.step))


@api.post("/hookups/<hookup_id>/run/accept", responses={200: RunOut})
def run_accept(path: HookupPath, body: AcceptBody) -> Response:
    return reply_root(RunOut, running.accept(path.hookup_id, body.key, body.word))


@api.post("/hookups/<hookup_id>/run/switch", responses={200: RunOut})
def run_switch(path: HookupPath, body: SwitchBody) -> Response:
    return reply_root(RunOut, running.switch(path.hookup_id, body.on))


@api.post("/hookups/<hookup_id>/run/still-on", responses={200: RunOut})
def run_still_on(path: HookupPath) -> Response:
    return reply_root(RunOut, running.still_on(path.hookup_id))


@api.get("/run/readings", responses={200: ReadingKinds})
def run_reading_kinds() -> Response:
    devices = ("dba", "celsius")
    kinds = [ReadingKind(quantity=q, label=k.label, unit=k.unit, simulated=q in devices) for q, k in KINDS.items()]
    return reply(ReadingKinds, {"kinds": tuple(kinds)})


@api.get("/timers", responses={200: TimersOut})
def timers_get() -> Response:
    return reply(TimersOut, {"timers": tuple(timers.running())})


@api.post("/timers/choosing", responses={200: TimersOut})
def timers_choose(body: ChoosingBody) -> Response:
    return reply(TimersOut, {"timers": tuple(timers.choose(body.blend))})


@api.delete("/timers/<int:timer_id>", responses={200: TimersOut})
def timers_stop(path: TimerPath) -> Response:
    return reply(TimersOut, {"timers": tuple(timers.stop(path.timer_id))})


@api.get("/kit", responses={200: KitOut})
def kit_get(query: KitQuery) -> Response:
    return reply_root(KitOut, kit.state(_ids(query)))


@api.get("/kit.md", responses=file("text/markdown"))
def kit_markdown(query: KitQuery) -> Response:
    return download(kit.as_markdown(_ids(query)), "kit-list.md", MARKDOWN)


@api.post("/kit/pack", responses={200: KitOut})
def kit_pack(body: PackBody) -> Response:
    return reply_root(KitOut, kit.pack(body.hookups, body.item, body.packed))


@api.post("/kit/settle", responses={200: KitOut})
def kit_settle(body: SettleBody) -> Response:
    return reply_root(KitOut, kit.settle(body.hookups, body.away, body.own))
