"""The OpenAPI document as the build wrote it: to make it anew takes seconds, wherever tests are collected."""

from __future__ import annotations

import json
from pathlib import Path

GENERATED = Path(__file__).parents[1] / "frontend" / "src" / "api" / "generated" / "openapi.json"
WRITTEN = json.loads(GENERATED.read_text(encoding="utf-8"))
