"""What serves every section: about, preferences, kinds, checks, find."""

from __future__ import annotations

from functools import cache
from typing import Annotated, Any, Literal
from urllib.parse import quote

from flask import Response, current_app, request
from pydantic import Field

from low_tide import __version__
from low_tide.app import bench, blends, compare, impulses, locker, log, mixes, plans
from low_tide.app import preferences as schools
from low_tide.app.locker import LockerEntry
from low_tide.app.log import TakeFilter
from low_tide.app.sharing import Device
from low_tide.core.inventory import KINDS, Surrounding
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.preferences import Preferences
from low_tide.formats.documents import adapter
from low_tide.formats.tables import write_csv
from low_tide.web.access import device
from low_tide.web.api.base import Count, Model, SavesQuery, SearchQuery, Strict, Whole, api, reply


class PreferencesBody(Whole[Preferences]):
    pass


MOST_NAMED = 3
"""Hook-ups that are named where many use a unit."""


class About(Model):
    """`device`: the one that asks, none at the desk."""

    name: str
    version: str
    demo: bool
    visiting: bool
    device: Device | None


class KindInfo(Model):
    """A kind of gear: its names, whether it is a unit of hook-ups, and the JSON Schema its form is drawn from."""

    kind: str
    name: str
    plural: str
    placeable: bool
    form: dict[str, Any]


class CheckInfo(Model):
    id: str
    family: str
    when: str


class Found(Model):
    """A hit of the search over everything."""

    type: Literal[
        "gear", "hookup", "take", "comparison", "blend", "mix", "impulse", "part", "session", "plan", "planned"
    ]
    id: str
    name: str
    detail: str


class PreferencesOut(Model):
    """`saves` must come back with a change."""

    preferences: Preferences
    saves: Count
    form: dict[str, Any]


class FoundList(Model):
    found: list[Found]


class KindList(Model):
    kinds: list[KindInfo]


class CheckList(Model):
    checks: list[CheckInfo]


class TableBody(Strict):
    """A table that a chart shows: its head, and rows of as many cells."""

    head: Annotated[tuple[Annotated[str, Field(max_length=200)], ...], Field(min_length=1, max_length=40)]
    rows: Annotated[
        tuple[Annotated[tuple[float | Annotated[str, Field(max_length=1000)] | None, ...], Field(max_length=40)], ...],
        Field(max_length=20_000),
    ]


class CsvText(Model):
    text: str


@api.post("/tools/csv", responses={200: CsvText})
def tool_csv(body: TableBody) -> Response:
    """The table as CSV, by the same rules as every other: no cell is run as a formula."""
    return reply(CsvText, {"text": write_csv(body.head, body.rows)})


@api.get("/about", responses={200: About})
def about() -> Response:
    config = current_app.config
    return reply(
        About,
        {
            "name": "Low Tide",
            "version": __version__,
            "demo": config["DEMO"],
            "visiting": config["OWN"] is not None,
            "device": device(),
        },
    )


@api.get("/preferences", responses={200: PreferencesOut})
def get_preferences() -> Response:
    form = adapter(Preferences).json_schema()
    chosen, saves = schools.counted()
    return reply(PreferencesOut, {"preferences": chosen, "saves": saves, "form": form})


@api.put("/preferences", responses={200: PreferencesOut})
def put_preferences(query: SavesQuery, body: PreferencesBody) -> Response:
    schools.choose(request.get_json(), query.saves)
    return get_preferences()


@cache
def _kinds() -> tuple[KindInfo, ...]:
    """Every kind with its form, which never changes and takes a tenth of a second to write."""
    return tuple(
        KindInfo(
            kind=kind,
            name=name,
            plural=plural,
            placeable=kind != "lead" and not issubclass(cls, Surrounding),
            form=adapter(cls).json_schema(),
        )
        for kind, (cls, name, plural) in KINDS.items()
    )


@api.get("/kinds", responses={200: KindList})
def kinds() -> Response:
    return reply(KindList, {"kinds": list(_kinds())})


@api.get("/checks", responses={200: CheckList})
def checks() -> Response:
    found = [CheckInfo(id=c.id, family=c.family, when=c.when) for c in REGISTRY.values()]
    return reply(CheckList, {"checks": found})


def _where(entry: LockerEntry) -> str:
    """What a unit is, and the hook-ups that use it."""
    used = entry.used_in
    more = f" and {len(used) - MOST_NAMED} more" if len(used) > MOST_NAMED else ""
    return f"{entry.unit.summary()}{'; in ' if used else ''}{', '.join(used[:MOST_NAMED])}{more}"


@api.get("/find", responses={200: FoundList})
def find(query: SearchQuery) -> Response:
    """Everything with these words in it: gear, hook-ups, sessions, parts, takes, comparisons, blends, mixes, projects
    and their parts, impulse responses."""
    found = [Found(type="hookup", id=h.id, name=h.name, detail=h.words) for h in bench.listed(query.search)[:8]]
    found += [
        Found(type="gear", id=e.unit.id, name=e.unit.name, detail=_where(e)) for e in locker.listed(query.search)[:12]
    ]
    words = query.search.lower().split()
    found += [
        Found(type="session", id=str(s.id), name=s.name, detail=f"{s.takes} takes")
        for s in log.sessions()
        if words and all(word in s.name.lower() for word in words)
    ][:6]
    found += [
        Found(type="part", id=quote(part, safe=""), name=part, detail="takes of this part")
        for part in log.parts()
        if words and all(word in part.lower() for word in words)
    ][:6]
    found += [
        Found(type="take", id=str(t.id), name=t.note.name, detail=f"take {t.number}, {t.hookup}")
        for t in log.takes(TakeFilter(search=query.search)).takes[:8]
    ]
    found += [
        Found(type="comparison", id=str(c.id), name=c.name, detail=f"{c.tracks} recordings")
        for c in compare.listed(query.search)[:8]
    ]
    found += [
        Found(
            type="blend",
            id=str(b.id),
            name=b.name,
            detail="an adjustable filter" if b.school == "filter" else f"{b.parts} impulse responses",
        )
        for b in blends.listed(query.search)[:8]
    ]
    found += [
        Found(type="mix", id=str(m.id), name=m.name, detail=f"{m.tracks} tracks")
        for m in mixes.listed(query.search)[:8]
    ]
    found += [
        Found(type="plan", id=p.id, name=p.name, detail=f"{p.done} of {p.parts} parts done")
        for p in plans.listed()
        if all(word in p.name.lower() for word in words)
    ][:6]
    found += [
        Found(type="planned", id=f"{p.plan}/parts?part={p.part}", name=p.name, detail=f"part of {p.project}")
        for p in plans.parts_with(words)
    ][:8]
    if query.search.strip():
        found += [
            Found(type="impulse", id=str(e.id), name=e.note.name, detail=e.note.microphone)
            for e in impulses.library(query.search).impulses[:8]
        ]
    return reply(FoundList, {"found": found})
