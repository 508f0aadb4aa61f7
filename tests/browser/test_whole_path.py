"""From the gear to a logged take and back, in the real interface: by mouse, and again by keyboard alone."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from tests.conftest import Server


def verdict(page: Page, words: str) -> None:
    expect(page.get_by_label("Verdict").get_by_role("status")).to_contain_text(words)


def lead_to(page: Page, socket: str, target: str) -> None:
    """Click a socket in the picture, then what should go into it."""
    page.locator(f'[data-socket="{socket}"]').click()
    page.locator("[data-choice]", has_text=target).first.click()
    page.get_by_role("list", name="Findings").wait_for()


@pytest.fixture
def wav(tmp_path: Path) -> Path:
    path = tmp_path / "fog.wav"
    soundfile.write(path, 0.25 * np.sin(np.arange(96_000) / 20), 48_000)
    return path


def test_by_mouse(bench: Page, server: Server, wav: Path) -> None:
    page = bench
    # Gear
    page.get_by_role("link", name="Locker").click()
    page.get_by_role("button", name="Add", exact=True).click()
    page.get_by_role("menuitem", name="Load box").click()
    page.get_by_role("textbox", name="Name").fill("Seawall 60")
    page.get_by_role("textbox", name="Rating").fill("60")
    page.locator("summary", has_text="More").click()
    page.get_by_text("Line out", exact=True).click()
    page.get_by_role("button", name="Add to the locker").click()
    expect(page.get_by_role("heading", name="Seawall 60")).to_be_visible()
    # Hook-up
    page.get_by_role("link", name="Bench").click()
    page.get_by_role("button", name=re.compile("^Hook-up:")).click()
    page.get_by_role("textbox", name="Search hook-ups").fill("Cue 7")
    page.get_by_role("button", name="New: “Cue 7”").click()
    page.get_by_role("button", name="Add a unit from the locker").click()
    page.get_by_role("button", name="Godwit 45").click()
    verdict(page, "Do not switch on")
    lead_to(page, "godwit-45/out1", "Seawall 60, amp in")
    verdict(page, "Check first")
    expect(page.get_by_text("Seawall 60 has little to spare")).to_be_visible()
    page.get_by_role("button", name="Use Groyne R8 instead, 100 W").click()
    verdict(page, "Clear to switch on")
    lead_to(page, "groyne-r8/line", "Skerry 4, line 3")
    # Fixes, by button and by number key
    expect(page.get_by_text("No speaker in the sound")).to_be_visible()
    page.get_by_role("button", name=re.compile("Load an IR on this track")).click()
    expect(page.get_by_text("One speaker in the sound")).to_be_visible()
    page.get_by_role("button", name=re.compile("^Set the line level to")).click()
    verdict(page, "Clear to switch on")
    # A mistake, its reason, undo
    page.get_by_role("radio", name="16", exact=True).click()
    expect(page.get_by_text("Godwit 45 sees 8 Ω on its 16 Ω tap.")).to_be_visible()
    verdict(page, "Do not switch on")
    page.get_by_role("button", name="Undo").click()
    verdict(page, "Clear to switch on")
    # Run sheet
    page.get_by_role("link", name="Run sheet").click()
    switch = page.get_by_role("button", name="Mark as switched on")
    expect(switch).to_be_disabled()
    left = page.get_by_text("before switching on to tick")
    while left.is_visible():
        told = left.inner_text()
        page.get_by_role("button", name="Done, next").click()
        expect(page.get_by_text(told, exact=True)).to_have_count(0)
    switch.click()
    expect(page.get_by_text(re.compile("^Switched on since"))).to_be_visible()
    page.get_by_role("link", name="Bench").click()
    expect(page.get_by_role("radio", name="16", exact=True)).to_be_disabled()
    lead = page.locator('[data-socket="godwit-45/out1"]')
    lead.click()
    page.locator("[data-choice]", has_text="Put Speaker lead").click()
    expect(page.get_by_role("alert")).to_contain_text("marked as switched on")
    # Log
    page.get_by_role("link", name="Log", exact=True).click()
    page.get_by_role("button", name="New take").click()
    page.get_by_role("textbox", name="Take", exact=True).fill("Fog, loud hours")
    page.get_by_label("Audio file").set_input_files(wav)
    page.get_by_role("button", name="Log the take").click()
    expect(page.get_by_role("article")).to_contain_text("−12.0 dBFS")
    expect(page.get_by_text("fog.wav", exact=False)).to_be_visible()
    expect(page.get_by_role("slider", name=re.compile("^Place in take"))).to_have_attribute("aria-valuemax", "2")
    # Recall
    page.get_by_role("button", name="Recall this hook-up").click()
    expect(page.get_by_role("button", name=re.compile("Hook-up: Cue 7, recalled"))).to_be_visible()
    verdict(page, "Clear to switch on")


def press(page: Page, *keys: str) -> None:
    for key in keys:
        page.keyboard.press(key)


def tab_to(page: Page, name: str, most: int = 120) -> None:
    """Tab until the focus is on something of this name."""
    script = """() => { const e = document.activeElement;
        return (e.getAttribute('aria-label') || e.innerText || '').replace(/\\s+/g, ' ').trim(); }"""
    for _ in range(most):
        press(page, "Tab")
        if str(page.evaluate(script)).startswith(name):
            return
    raise AssertionError(f"Tab never reached {name!r}")


def test_by_keyboard_alone(bench: Page) -> None:
    page = bench
    press(page, "o")
    page.keyboard.type("Keys only")
    tab_to(page, "New: “Keys only”")
    press(page, "Enter")
    expect(page.get_by_role("heading", name="Findings")).to_have_count(0)
    expect(page.get_by_text("An empty hook-up")).to_be_visible()
    press(page, "a")
    page.keyboard.type("godwit")
    expect(page.get_by_role("button", name="Godwit 45")).to_be_visible()
    expect(page.get_by_role("button", name="Redshank 100")).to_have_count(0)
    tab_to(page, "Godwit 45")
    press(page, "Enter")
    verdict(page, "Do not switch on")
    tab_to(page, "speaker 1, empty")
    press(page, "Enter")
    expect(page.locator("[data-choice]").first).to_be_focused()
    for _ in range(40):
        if page.evaluate("document.activeElement.innerText").startswith("Groyne R8, amp in"):
            break
        press(page, "ArrowDown")
    press(page, "Enter")
    verdict(page, "Clear to switch on")
    # ] and [ move the focused control; u takes it back
    tab_to(page, "8")
    before = int(page.locator("[data-saves]").get_attribute("data-saves") or 0)
    press(page, "[", "]")
    page.locator(f'[data-saves="{before + 2}"]').wait_for()
    # Arrows go from tap to tap and set none; Enter does.
    press(page, "ArrowLeft")
    verdict(page, "Clear to switch on")
    press(page, "Enter")
    verdict(page, "Do not switch on")
    press(page, "u")
    verdict(page, "Clear to switch on")
    press(page, "Shift+U")
    verdict(page, "Do not switch on")
    press(page, "1")
    verdict(page, "Clear to switch on")
    press(page, "j")
    assert page.evaluate("document.activeElement.dataset.finding") is not None
    # Run sheet
    press(page, "g", "r")
    page.wait_for_url("**/run/**")
    page.get_by_role("button", name="Done, next").wait_for()
    left = page.get_by_text("before switching on to tick")
    while left.is_visible():
        told = left.inner_text()
        tab_to(page, "Done, next")
        press(page, "Enter")
        expect(page.get_by_text(told, exact=True)).to_have_count(0)
    tab_to(page, "Mark as switched on")
    press(page, "Enter")
    expect(page.get_by_text(re.compile("^Switched on since"))).to_be_visible()
    # Log
    press(page, "g", "t")
    page.wait_for_url("**/log")
    page.get_by_role("button", name="New take").wait_for()
    press(page, "n")
    expect(page.get_by_role("textbox", name="Take", exact=True)).to_be_focused()
    page.keyboard.type("By keys")
    press(page, "Enter")
    expect(page.get_by_role("article")).to_contain_text("By keys")
    tab_to(page, "Recall this hook-up")
    press(page, "Enter")
    expect(page.get_by_role("button", name=re.compile("Hook-up: Keys only, recalled"))).to_be_visible()
    # Find anything, help, and closing them
    press(page, "/")
    page.keyboard.type("by keys")
    expect(page.get_by_role("dialog").get_by_role("option", name="Take By keys")).to_be_visible()
    press(page, "Enter")
    page.wait_for_url("**/log/*")
    press(page, "?")
    expect(page.get_by_role("dialog", name="Keys")).to_be_visible()
    press(page, "Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
