"""Takes docs/screenshots anew, or those that are named: one picture of each main view, from the lightship, 1280×800."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

from playwright.sync_api import Page, sync_playwright

TARGET = Path(__file__).parents[1] / "docs" / "screenshots"
ARGS = ["--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run"]


def measured(page: Page) -> None:
    """From what stands, up to the ohms at the plug, which are not what they should be."""
    page.get_by_role("button", name="Go on from it").click()
    page.get_by_text("begin with nothing plugged instead").wait_for()
    page.get_by_role("region", name="Steps").get_by_role("button", name=re.compile("^Amp off: pull")).click()
    field = page.get_by_role("textbox", name="Ohms at the plug, Ω")
    field.fill("13.4")
    field.press("Enter")
    page.get_by_text("Stop: 13.4").wait_for()


def searched(page: Page) -> None:
    """It hums, and two tests are answered."""
    page.get_by_role("button", name=re.compile("^Hum")).click()
    page.get_by_role("region", name="What is left").wait_for()
    for _ in range(2):
        page.keyboard.press("n")
        page.wait_for_timeout(600)


def through(page: Page) -> None:
    page.locator('[data-jack="through"]').click()
    page.get_by_role("region", name="Fields of through").wait_for()


def find(page: Page) -> None:
    page.keyboard.press("f")
    page.get_by_label("I want").select_option("down")
    page.get_by_role("combobox", name="Amp").select_option("godwit-45")
    page.get_by_role("button", name="Look for one").click()
    page.get_by_role("list", name="Proposals").wait_for()
    page.get_by_text("why, and what it costs").first.click()


def tab(*names: str) -> Callable[[Page], None]:
    """Opens tabs, one after the other."""

    def act(page: Page) -> None:
        for name in names:
            page.get_by_role("tab", name=name).click()
            page.wait_for_timeout(900)

    return act


def compared(page: Page) -> None:
    """Four loads worked out, the resistor looked at."""
    page.get_by_role("button", name="Play", exact=True).wait_for()
    page.get_by_text("An equaliser can give").wait_for()
    strips = page.get_by_role("slider", name="The part that is played")
    strips.focus()
    for _ in range(2):
        page.keyboard.press("ArrowDown")


def blended(page: Page) -> None:
    """What was out of phase turned over, and brought into line."""
    part = page.get_by_role("listitem").filter(has_text="Turned over")
    part.get_by_role("button", name="turn over").click()
    page.get_by_role("radio", name="by best sum").click()
    page.get_by_text("Gained by it").wait_for()


def ranked(page: Page) -> None:
    """How the short list is heard where the solo is not."""
    page.get_by_role("button", name="Rank the short list").click()
    page.get_by_role("button", name="Put on").first.wait_for()


def of_the_library(page: Page) -> None:
    """One of them looked at, those alike unfolded."""
    page.get_by_role("button", name=re.compile("alike under")).first.click()
    page.locator("button[aria-current]").first.click()
    page.get_by_label("Cabinet").wait_for()


def left_out(page: Page) -> None:
    """A part that does not fit, and what would make room for it."""
    page.get_by_role("button", name="Why?").click()
    page.get_by_text("What would make room").wait_for()


SHOTS: dict[str, tuple[str, str, Callable[[Page], None] | None]] = {
    "locker": ("day", "locker/groyne-r8", through),
    "bench-clear": ("day", "bench/quiet-hold", None),
    "bench-stop": ("day", "bench/split-fog", None),
    "bench-find": ("day", "bench/silent-night", find),
    "loudness": ("day", "loudness/combo-bunks", None),
    "load-feel": ("day", "feel/silent-night", None),
    "capture": ("day", "capture/tap-on-lead", None),
    "capture-night-watch": ("night", "capture/silent-night?take=2", None),
    "compare": ("day", "compare/1", compared),
    "cab-blend": ("day", "cab/3", blended),
    "cab-mix": ("day", "cab/1/mix", ranked),
    "cab-library-night-watch": ("night", "cab/library", of_the_library),
    "run-sheet": ("day", "run/quiet-hold", measured),
    "tablet-night-watch": ("night", "run/quiet-hold", None),
    "run-what-is-wrong-night-watch": ("night", "run/quiet-hold/wrong", searched),
    "log": ("day", "log/1", None),
    "plan": ("day", "plan/fog-signal", left_out),
    "drills": ("day", "drills", None),
    "drills-night-watch": ("night", "drills/5", None),
}


DESK: dict[str, Any] = {"viewport": {"width": 1280, "height": 800}}
TABLET: dict[str, Any] = {"viewport": {"width": 1024, "height": 768}, "has_touch": True, "is_mobile": True}


def main() -> None:
    env = {**os.environ, "LOW_TIDE_PORT": "0", "TZ": "Europe/London"}
    server = subprocess.Popen(
        [sys.executable, "-m", "low_tide.cli", "demo"], stdout=subprocess.PIPE, text=True, env=env
    )
    try:
        assert server.stdout
        found = re.search(r"http://[\d.]+:\d+/", server.stdout.readline())
        assert found, "the demo did not start"
        root = ["--no-sandbox"] if os.geteuid() == 0 else []
        with sync_playwright() as play:
            browser = play.chromium.launch(executable_path=shutil.which("chromium"), args=[*ARGS, *root])
            for name, (theme, path, act) in SHOTS.items():
                if sys.argv[1:] and name not in sys.argv[1:]:
                    continue
                page = browser.new_page(**(TABLET if name.startswith("tablet") else DESK), locale="en-GB")
                page.add_init_script(f"localStorage.setItem('low-tide-theme', '{theme}')")
                page.goto(found.group(0) + path)
                # Not "until nothing is under way": the stream of changes always is.
                page.wait_for_timeout(1500)
                if act:
                    act(page)
                page.wait_for_timeout(600)
                page.screenshot(path=TARGET / f"{name}.png")
                page.close()
    finally:
        server.terminate()


if __name__ == "__main__":
    main()
