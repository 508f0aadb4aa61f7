"""Writes the OpenAPI document the front end's types are generated from: python -m low_tide.web.openapi FILE."""

from __future__ import annotations

import json
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from low_tide.store.home import Home
from low_tide.web.api import api
from low_tide.web.api.base import BODY, Line
from low_tide.web.server import create_app

PROBLEM = "application/problem+json"
LINES = "application/x-ndjson"
METHODS = ("get", "post", "put", "delete")


def document() -> dict[str, Any]:
    """The OpenAPI document; it needs no data folder."""
    api.describe()
    with tempfile.TemporaryDirectory() as folder:
        found: dict[str, Any] = create_app(Home(Path(folder))).api_doc
    # At this machine nobody needs a key; a device on the network has a cookie whose name is another everywhere.
    found["components"] = {k: v for k, v in found["components"].items() if v is not None}
    found["security"] = []
    for operation in _operations(found):
        _describe(operation)
    return found


def _operations(found: dict[str, Any]) -> Iterator[dict[str, Any]]:
    for item in found["paths"].values():
        yield from (item[method] for method in METHODS if method in item)


def _describe(operation: dict[str, Any]) -> None:
    """What the generator does not know: problem details, lines of JSON, bodies that are files."""
    answers = operation["responses"]
    answers.pop("422", None)  # one of the 4XX, and a problem like them
    lines = {f"#/components/schemas/{each.__name__}" for each in Line.__subclasses__()}
    for status, answer in answers.items():
        content = answer.get("content", {})
        plain = content.get("application/json")
        if status in ("4XX", "5XX"):
            answer.update(description="A problem, told in sentences", content={PROBLEM: plain})
        elif plain and plain.get("schema", {}).get("$ref") in lines:
            answer["content"] = {LINES: plain}
    if BODY in operation:
        kinds = operation.pop(BODY)
        operation["requestBody"] = {"required": True, "content": {kind: {} for kind in kinds}}


if __name__ == "__main__":
    Path(sys.argv[1]).parent.mkdir(parents=True, exist_ok=True)
    Path(sys.argv[1]).write_text(json.dumps(document(), indent=1), encoding="utf-8")
