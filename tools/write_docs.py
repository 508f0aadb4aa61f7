"""Writes the pages of docs/ that come from the code: the list of checks and the JSON Schemas."""

from __future__ import annotations

import json
from itertools import groupby
from pathlib import Path

from pydantic import TypeAdapter

from low_tide.core.checks import REGISTRY
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


def schema(kind: object) -> str:
    return json.dumps(TypeAdapter(kind).json_schema(), indent=1, ensure_ascii=False, sort_keys=True) + "\n"


PAGES = {
    "checks.md": checks,
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
