"""Writes the OpenAPI document the front end's types are generated from: python -m low_tide.web.openapi FILE."""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path
from typing import Any

from low_tide.store.home import Home
from low_tide.web.api import api
from low_tide.web.server import create_app


def document() -> dict[str, Any]:
    """The OpenAPI document; it needs no data folder."""
    api.describe()
    with tempfile.TemporaryDirectory() as folder:
        found: dict[str, Any] = create_app(Home(Path(folder))).api_doc
    return found


if __name__ == "__main__":
    Path(sys.argv[1]).parent.mkdir(parents=True, exist_ok=True)
    Path(sys.argv[1]).write_text(json.dumps(document(), indent=1), encoding="utf-8")
