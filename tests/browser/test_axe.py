"""Every screen and sheet as axe sees it, by day and by night."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TypeAlias

import pytest
from playwright.sync_api import Page

from tests.browser.axe import AXE, wrong, wrong_colours
from tests.browser.rest import Rest
from tests.browser.test_screens import SCREENS
from tests.conftest import Server

Look: TypeAlias = Callable[[Page], list[str]]


def cab_panels(page: Page, server: Server, found: dict[str, list[str]], look: Look) -> None:
    """Cab blend with its sheets, and an impulse response of the library."""
    page.goto(server.url + "cab/2")
    page.get_by_text("Lost to phase").wait_for()
    for button in ("From the library", "Suggest …", "Delay …", "Files out …", "Take it for a part …"):
        page.get_by_role("button", name=button).click()
        page.get_by_role("dialog").wait_for()
        page.wait_for_timeout(250)
        found[f"cab, {button}"] = look(page)
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="detached")
    page.get_by_role("button", name="blind …").click()
    page.get_by_role("dialog").wait_for()
    found["cab, blind"] = look(page)
    page.keyboard.press("Escape")
    page.get_by_label("Blend", exact=True).select_option(label="Solo, under the deck")
    page.get_by_role("group", name="Stages of the filter").wait_for()
    found["cab, filter"] = look(page)
    page.get_by_role("link", name="In the mix").click()
    page.get_by_role("button", name="Rank the short list").click()
    page.get_by_role("button", name="Put on").first.wait_for()
    found["cab, in the mix"] = look(page)
    page.goto(server.url + "cab/library")
    page.locator("button[aria-current]").first.click()
    page.get_by_label("Cabinet").wait_for()
    page.get_by_role("button", name=re.compile("alike under")).first.click()
    found["cab library, one chosen"] = look(page)


def compare_panels(page: Page, server: Server, found: dict[str, list[str]], look: Look) -> None:
    """Compare with all its tabs and sheets, and a sweep that was measured."""
    page.goto(server.url + "compare/1")
    page.get_by_text("An equaliser can give").wait_for()
    found["compare"] = look(page)
    for name in ("Dynamics", "What a filter can do", "Matching filter"):
        page.get_by_role("tab", name=name).click()
        page.wait_for_timeout(600)
        found[f"compare, {name}"] = look(page)
    page.get_by_role("button", name="Comparison file …").click()
    found["comparison file"] = look(page)
    page.get_by_role("button", name="Shoot-out list").click()
    page.get_by_text("speaker leads moved").wait_for()
    found["shoot-out list"] = look(page)
    for button in ("Add recordings …", "Blind …", "Take one, and say why …", "Rename"):
        page.get_by_role("button", name=button).click()
        page.get_by_role("dialog").wait_for()
        page.wait_for_timeout(250)
        found[button] = look(page)
        page.keyboard.press("Escape")
        page.get_by_role("dialog").wait_for(state="detached")
    page.goto(server.url + "compare/sweep")
    page.get_by_label("Or through the simulated interface").select_option("dry-groyne")
    page.get_by_role("button", name="Measure it").click()
    for name in ("Distortion", "Dying away", "Response"):
        page.get_by_role("tab", name=name).click()
        page.wait_for_timeout(400)
        found[f"sweep, {name}"] = look(page)


@pytest.mark.parametrize("theme", ["day", "night"])
def test_axe_finds_nothing(page: Page, server: Server, theme: str) -> None:
    page.add_init_script(f"localStorage.setItem('low-tide-theme', '{theme}')")
    look = wrong if theme == "day" else wrong_colours
    rest = Rest(page)
    found: dict[str, list[str]] = {}
    for name, path in SCREENS.items():
        page.goto(server.url + path)
        rest.wait()
        found[name] = look(page)
    tabs = {
        "loudness/tap-on-lead": ("Steps", "Places", "Thin when quiet", "Readings", "Ears", "Heat", "Knobs"),
        "feel/silent-night": ("Impedance", "With attenuation", "Correction", "Hear it"),
        "capture/silent-night": ("Spectrum", "Spectrogram"),
    }
    for path, names in tabs.items():
        page.goto(server.url + path)
        for name in names:
            page.get_by_role("tab", name=name).click()
            rest.wait()
            page.wait_for_timeout(200)
            found[f"{path}, {name}"] = look(page)
    for button in ("Hum routine", "Record, simulated"):
        page.get_by_role("button", name=button).click()
        page.wait_for_timeout(300)
        found[button] = look(page)
    page.keyboard.press("Escape")
    page.get_by_label("Files to bring in").set_input_files(AXE)
    page.get_by_role("dialog").wait_for()
    found["bring in"] = look(page)
    compare_panels(page, server, found, look)
    cab_panels(page, server, found, look)
    page.goto(server.url + "bench/split-fog")
    page.locator('[data-socket="gabion-40/through"]').click()
    page.locator("[data-choice]").first.wait_for()
    found["socket panel"] = look(page)
    page.goto(server.url + "bench/split-fog")
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
        found[name] = look(page)
        page.keyboard.press("Escape")
        page.wait_for_timeout(150)
    page.get_by_role("button", name="More for this hook-up").click()
    page.get_by_role("menuitem", name="The same with another amp").click()
    page.get_by_role("list", name="Other amps").get_by_role("button").first.wait_for()
    found["another amp"] = look(page)
    page.goto(server.url + "locker?list=insurer")
    page.get_by_role("region", name="List for an insurer").wait_for()
    found["insurer"] = look(page)
    for unit, tool in (("turnstone-212", "From ohms at the plug"), ("sandbag-30", "From volts or levels")):
        page.goto(server.url + f"locker/{unit}")
        page.get_by_role("button", name=tool).click()
        page.get_by_role("dialog").wait_for()
        found[tool] = look(page)
    page.goto(server.url + "locker")
    page.get_by_role("button", name="Preferences").click()
    page.get_by_role("dialog").wait_for()
    found["preferences"] = look(page)
    assert {name: each for name, each in found.items() if each} == {}
