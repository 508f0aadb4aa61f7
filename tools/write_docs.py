"""Writes the pages of docs/ that come from the code: the checks, what the lightship is told, the JSON Schemas."""

from __future__ import annotations

import json
from itertools import groupby
from math import isfinite
from pathlib import Path

from pydantic import TypeAdapter

from low_tide.core.gear.base import Control, Site, Socket, Transfer
from low_tide.core.gear.ids import slug
from low_tide.core.inventory import KINDS
from low_tide.core.judging.checks import REGISTRY
from low_tide.core.judging.judge import judge, with_fixes
from low_tide.core.judging.takes import TAKE_RULES
from low_tide.core.rig.completeness import gaps
from low_tide.core.rig.validation import checked
from low_tide.core.units import figure
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.documents import HookupFile, UnitDoc

DOCS = Path(__file__).parents[1] / "docs"


RESTS_ON = {
    "No or wrong load": ("Two networks", "Reachable states"),
    "Match": ("Two networks", "The amp"),
    "Power": ("Power and margin", "Reachable states"),
    "Leads": ("Speakers, loads, pads", "Other ways into the network"),
    "One movement away": ("Reachable states",),
    "Level": ("Up to the converter", "Along the signal"),
    "Digital links": ("Along the signal",),
    "Earth and hum": ("Along the signal", "Hum"),
    "Speaker sound and monitoring": ("Along the signal", "What a load does to the sound"),
    "Effects": ("Along the signal",),
    "Loudness, people": ("In the room", "Ears"),
    "Heat and hands": ("Heat",),
    "Scenes": ("Along the signal",),
}
"""Family of checks → the parts of docs/physics.md it rests on."""


def _rests_on(family: str) -> str:
    parts = (f"[{title}](physics.md#{slug(title)})" for title in RESTS_ON[family])
    return f"They rest on {' and '.join(parts)}."


def checks() -> str:
    lines = [
        "# The checks",
        "",
        "Written from the code by `make docs`; do not edit. The verdict is the worst finding of all checks.",
    ]
    for family, group in groupby(REGISTRY.values(), key=lambda c: c.family):
        lines += ["", f"## {family}", "", _rests_on(family), "", "| check | when |", "| --- | --- |"]
        lines += [f"| `{c.id}` | {c.when} |" for c in group]
    lines += ["", "## What a take says", "", "Rules over an inspected recording, held against its own hook-up."]
    lines += [
        "They rest on [Audio](physics.md#audio) and [Hum](physics.md#hum).",
        "",
        "| rule | when |",
        "| --- | --- |",
    ]
    lines += [f"| `{r.id}` | {r.when} |" for r in TAKE_RULES.values()]
    return "\n".join(lines) + "\n"


def verdicts() -> str:
    """What every hook-up of the lightship is told: a change that alters a verdict, a figure or a word shows here."""
    lines = [
        "# What the lightship is told",
        "",
        "Written from the code by `make docs`; do not edit. The demo's hook-ups as the checks see them, worst first.",
    ]
    for name, hookup in HOOKUPS.items():
        judged = with_fixes(judge(checked(hookup, GEAR)))
        lines += ["", f"## {hookup.name}", "", f"`{name}`: **{judged.verdict.words}**", ""]
        for finding in judged.findings:
            fix = f" → *{finding.fix.label}*" if finding.fix else ""
            marks = f" ({'; '.join(finding.typical)})" if finding.typical else ""
            lines.append(f"- {finding.severity}, `{finding.id}`: **{finding.text}** {finding.reason}{marks}{fix}")
    return "\n".join(lines) + "\n"


def _socket(socket: Socket) -> str:
    most = f", at most {figure(socket.max_dbu)} dBu" if socket.max_dbu is not None else ""
    ohms = f", {figure(socket.ohms)} Ω" if socket.ohms else ""
    return f"{socket.label} ({socket.flow}, {socket.level}, {socket.connector}{ohms}{most})"


def _control(control: Control) -> str:
    where = {
        "switch": "off, on",
        "choice": ", ".join(option.label for option in control.options),
        "range": f"{figure(control.low)} to {figure(control.high)}",
    }[control.kind]
    notes = [n for n, said in ((control.hand, control.hand), ("not live", not control.safe_live)) if said]
    marks = f"; {', '.join(notes)}" if notes else ""
    return f"{control.label} ({where} {control.unit}".rstrip() + f"{marks})"


def _way(transfer: Transfer) -> str:
    gain = "not known" if transfer.gain_db is None else f"{figure(transfer.gain_db)} dB"
    bound = f", at most {figure(transfer.limit_v)} V" if isfinite(transfer.limit_v) else ""
    return f"{transfer.a} → {transfer.b} {gain}{bound}"


def gear() -> str:
    """Everything the lightship owns as the program takes it: its sockets, what moves, what it stands."""
    lines = ["# What the lightship owns", "", "Written from the code by `make docs`; do not edit."]
    for kind, units in groupby(sorted(GEAR.values(), key=lambda u: list(KINDS).index(u.kind)), key=lambda u: u.kind):
        lines += ["", f"## {KINDS[kind][2]}"]
        for unit in units:
            site = Site(unit.id, {c.id: c.default for c in unit.controls()}, frozenset(), None)
            ratings = ("unknown" if r.watts is None else f"{figure(r.watts)} W {r.kind}" for r in unit.ratings(site))
            rows = {
                "Sockets": [_socket(s) for s in unit.sockets()],
                "Controls": [_control(c) for c in unit.controls()],
                "Ratings": [f"{r.part or 'whole'} {w}" for r, w in zip(unit.ratings(site), ratings, strict=True)],
                "Signal": [_way(t) for t in unit.transfers(site)],
                "Missing": list(gaps(unit)),
            }
            lines += ["", f"**{unit.name}**: {unit.summary()}", ""]
            lines += [f"- {what}: {'; '.join(found)}" for what, found in rows.items() if found]
    return "\n".join(lines) + "\n"


def schema(kind: object) -> str:
    return json.dumps(TypeAdapter(kind).json_schema(), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


PAGES = {
    "checks.md": checks,
    "verdicts.md": verdicts,
    "gear.md": gear,
    "schema/hookup-file.json": lambda: schema(HookupFile),
    "schema/gear.json": lambda: schema(UnitDoc),
}


def main() -> None:
    for name, write in PAGES.items():
        target = DOCS / name
        target.parent.mkdir(parents=True, exist_ok=True)
        target.write_text(write(), encoding="utf-8")


if __name__ == "__main__":
    main()
