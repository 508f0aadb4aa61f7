"""The project as a whole: generated pages are current."""

from __future__ import annotations

import runpy
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
PAGES = runpy.run_path(str(ROOT / "tools" / "write_docs.py"))["PAGES"]


@pytest.mark.parametrize("name", PAGES)
def test_generated_pages_are_current(name: str) -> None:
    assert (ROOT / "docs" / name).read_text(encoding="utf-8") == PAGES[name](), "run make docs"
