"""Writes the pages of docs/ that come from the code: the checks, what the lightship is told, the JSON Schemas."""

from __future__ import annotations

import json
from itertools import groupby
from pathlib import Path

from pydantic import TypeAdapter

from low_tide.core.checks import REGISTRY
from low_tide.core.hookup import checked
from low_tide.core.judge import judge, with_fixes
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.documents import HookupFile, UnitDoc

DOCS = Path(__file__).parents[1] / "docs"


def checks() -> str:
    lines = [
        "# The checks",
        "",
        "Written from the code by `make docs`; do not edit. The verdict is the worst finding of all checks.",
    ]
    for family, group in groupby(REGISTRY.values(), key=lambda c: c.family):
        lines += ["", f"## {family}", "", "| check | when |", "| --- | --- |"]
        lines += [f"| `{c.id}` | {c.when} |" for c in group]
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


def schema(kind: object) -> str:
    return json.dumps(TypeAdapter(kind).json_schema(), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


PAGES = {
    "checks.md": checks,
    "verdicts.md": verdicts,
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
