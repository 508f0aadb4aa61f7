"""The project as a whole: generated pages are current, and what is public says what it is."""

from __future__ import annotations

import importlib
import inspect
import pkgutil
import re
import runpy
from collections.abc import Iterator
from functools import cached_property
from pathlib import Path

import pytest

from low_tide import core
from low_tide.core.gear.base import Gear
from low_tide.core.rig.kept import Result

ROOT = Path(__file__).parents[2]
PAGES = runpy.run_path(str(ROOT / "tools" / "write_docs.py"))["PAGES"]


@pytest.mark.parametrize("name", PAGES)
def test_generated_pages_are_current(name: str) -> None:
    assert (ROOT / "docs" / name).read_text(encoding="utf-8") == PAGES[name](), "run make docs"


def _public() -> Iterator[tuple[str, object]]:
    """Every public function, class and method of the core, by its full name."""
    for found in pkgutil.walk_packages(core.__path__, "low_tide.core."):
        module = importlib.import_module(found.name)
        for name, thing in vars(module).items():
            if name.startswith("_") or getattr(thing, "__module__", "") != found.name:
                continue
            if inspect.isfunction(thing) or isinstance(thing, Result):
                yield f"{found.name}.{name}", thing
            elif inspect.isclass(thing):
                yield f"{found.name}.{name}", thing
                own = ((n, m) for n, m in vars(thing).items() if not n.startswith("_"))
                for own_name, member in own:
                    if inspect.isfunction(member) or isinstance(member, property | cached_property):
                        yield f"{found.name}.{name}.{own_name}", getattr(thing, own_name)


def test_everything_public_in_the_core_says_what_it_is() -> None:
    def says_nothing(name: str, thing: object) -> bool:
        # What every kind of gear does is said once, of gear.
        own = name.rsplit(".", 1)[-1]
        said = inspect.getdoc(thing) or (inspect.getdoc(getattr(Gear, own)) if hasattr(Gear, own) else "") or ""
        # A dataclass without one says how it is made, which is nothing anybody wrote.
        return said == "" or said.startswith(f"{own}(")

    assert [name for name, thing in _public() if says_nothing(name, thing)] == []


def test_every_colour_a_page_names_is_one_of_the_theme() -> None:
    """A surface whose name the theme does not know is left unpainted without a word."""
    front = ROOT / "frontend/src"
    colours = set(re.findall(r"--color-([a-z0-9-]+):", (front / "index.css").read_text()))
    named = {
        name
        for page in front.rglob("*.tsx")
        for name in re.findall(r"\b(?:bg|fill|stroke)-([a-z][a-z0-9-]*)\b", page.read_text())
    }
    assert named - colours <= {"none", "transparent", "black", "white", "current"}
