"""Every screen and sheet as axe sees it, by day and by night, and whom they ask for what they show."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TypeAlias

import pytest
from playwright.sync_api import Page

from tests.browser.axe import AXE, wrong_in_either
from tests.browser.rest import Rest
from tests.browser.test_screens import SCREENS
from tests.conftest import Server

Look: TypeAlias = Callable[[str], None]
"""Looks at the page as it is now, under a name."""

PARTS = 4
"""The screens are looked through in as many tests, to share them out."""


def cab_panels(page: Page, url: str, look: Look) -> None:
    """Cab blend with its sheets, and an impulse response of the library."""
    page.goto(url + "cab/2")
    page.get_by_text("Lost to phase").wait_for()
    for button in ("From the library", "Suggest …", "Delay …", "Files out …", "Take it for a part …"):
        page.get_by_role("button", name=button).click()
        page.get_by_role("dialog").wait_for()
        look(f"cab, {button}")
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="detached")
    page.get_by_role("button", name="blind …").click()
    page.get_by_role("dialog").wait_for()
    look("cab, blind")
    page.keyboard.press("Escape")
    page.get_by_label("Blend", exact=True).select_option(label="Solo, under the deck")
    page.get_by_role("group", name="Stages of the filter").wait_for()
    look("cab, filter")
    page.get_by_role("link", name="In the mix").click()
    page.get_by_role("button", name="Rank the short list").click()
    page.get_by_role("button", name="Put on").first.wait_for()
    look("cab, in the mix")
    page.goto(url + "cab/library")
    page.locator("button[aria-current]").first.click()
    page.get_by_label("Cabinet").wait_for()
    page.get_by_role("button", name=re.compile("alike under")).first.click()
    look("cab library, one chosen")


def compare_panels(page: Page, url: str, look: Look) -> None:
    """Compare with all its tabs and sheets."""
    page.goto(url + "compare/1")
    page.get_by_text("An equaliser can give").wait_for()
    look("compare")
    for name in ("Dynamics", "What a filter can do", "Matching filter"):
        page.get_by_role("tab", name=name).click()
        page.wait_for_timeout(600)
        look(f"compare, {name}")
    page.get_by_role("button", name="Comparison file …").click()
    look("comparison file")
    page.get_by_role("button", name="Shoot-out list").click()
    page.get_by_text("speaker leads moved").wait_for()
    look("shoot-out list")
    for button in ("Add recordings …", "Blind …", "Take one, and say why …", "Rename"):
        page.get_by_role("button", name=button).click()
        page.get_by_role("dialog").wait_for()
        look(button)
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="detached")


def sweep_panels(page: Page, url: str, look: Look) -> None:
    """A path that was measured."""
    page.goto(url + "compare/sweep")
    page.get_by_label("Or through the simulated interface").select_option("dry-groyne")
    page.get_by_role("button", name="Measure it").click()
    for name in ("Distortion", "Dying away", "Response"):
        page.get_by_role("tab", name=name).click()
        page.wait_for_timeout(400)
        look(f"sweep, {name}")


def tabs(page: Page, url: str, look: Look) -> None:
    """What stands behind the tabs of Loudness, Load feel and Capture, and the sheets of Capture."""
    rest = Rest(page)
    of = {
        "loudness/tap-on-lead": ("Steps", "Places", "Thin when quiet", "Readings", "Ears", "Heat", "Knobs"),
        "feel/silent-night": ("Impedance", "With attenuation", "Correction", "Hear it"),
        "capture/silent-night": ("Spectrum", "Spectrogram"),
    }
    for path, names in of.items():
        page.goto(url + path)
        for name in names:
            page.get_by_role("tab", name=name).click()
            rest.wait()
            look(f"{path}, {name}")
    for button in ("Hum routine", "Record, simulated"):
        page.get_by_role("button", name=button).click()
        page.wait_for_timeout(300)
        look(button)
    page.keyboard.press("Escape")
    page.get_by_label("Files to bring in").set_input_files(AXE)
    page.get_by_role("dialog").wait_for()
    look("bring in")


def bench_panels(page: Page, url: str, look: Look) -> None:
    """What the Bench opens beside the picture and over it."""
    page.goto(url + "bench/split-fog")
    page.locator('[data-socket="gabion-40/through"]').click()
    page.locator("[data-choice]").first.wait_for()
    look("socket panel")
    page.goto(url + "bench/split-fog")
    page.get_by_role("list", name="Findings").wait_for()
    keys = {
        "/": "find",
        "?": "keys",
        "s": "a scene",
        "o": "hook-ups",
        "a": "add",
        "f": "find one",
        "w": "what if",
    }
    for key, name in keys.items():
        page.keyboard.press(key)
        page.wait_for_timeout(250)
        look(name)
        page.keyboard.press("Escape")
        page.wait_for_timeout(150)
    page.get_by_role("button", name="More for this hook-up").click()
    page.get_by_role("menuitem", name="The same with another amp").click()
    page.get_by_role("list", name="Other amps").get_by_role("button").first.wait_for()
    look("another amp")


def locker_panels(page: Page, url: str, look: Look) -> None:
    """What the Locker opens, and the preferences."""
    page.goto(url + "locker?list=insurer")
    page.get_by_role("region", name="List for an insurer").wait_for()
    look("insurer")
    for unit, tool in (("turnstone-212", "From ohms at the plug"), ("sandbag-30", "From volts or levels")):
        page.goto(url + f"locker/{unit}")
        page.get_by_role("button", name=tool).click()
        page.get_by_role("dialog").wait_for()
        look(tool)
    page.goto(url + "locker")
    page.get_by_role("button", name="Preferences").click()
    page.get_by_role("dialog").wait_for()
    look("preferences")


def screens(part: int) -> Callable[[Page, str, Look], None]:
    """One part of the screens, as they come up."""

    def walk(page: Page, url: str, look: Look) -> None:
        rest = Rest(page)
        for name, path in list(SCREENS.items())[part::PARTS]:
            page.goto(url + path)
            rest.wait()
            look(name)

    walk.__name__ = f"screens_{part + 1}"
    return walk


WALKS = [
    *(screens(part) for part in range(PARTS)),
    tabs,
    compare_panels,
    sweep_panels,
    cab_panels,
    bench_panels,
    locker_panels,
]


@pytest.mark.parametrize("walk", WALKS, ids=lambda walk: walk.__name__)
def test_axe_finds_nothing_and_nobody_else_is_asked(
    page: Page, server: Server, walk: Callable[[Page, str, Look], None]
) -> None:
    page.add_init_script("localStorage.setItem('low-tide-theme', 'day')")
    found: dict[str, list[str]] = {}
    asked: list[str] = []
    page.on("request", lambda request: asked.append(request.url))

    def look(name: str) -> None:
        found[name] = wrong_in_either(page)

    walk(page, server.url, look)
    assert found
    assert asked
    assert [url for url in asked if not url.startswith((server.url, "data:", "blob:"))] == []
    assert {name: each for name, each in found.items() if each} == {}
