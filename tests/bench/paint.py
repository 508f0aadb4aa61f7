"""From a click to what it leads to on the screen, and what a page costs over many edits, in a real browser."""

from __future__ import annotations

import json
import os
import shutil
import statistics
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager

from playwright.sync_api import Page, sync_playwright

from low_tide.core.rig.hookup import Hookup
from low_tide.formats.documents import dump

CLICK = """async ([label]) => {
  const root = document.querySelector("[data-saves]");
  const before = Number(root.dataset.saves);
  const button = document.querySelector(`button[aria-label="${label}"]`);
  const from = performance.now();
  const since = () => performance.now() - from;
  const shown = () => new Promise((done) => requestAnimationFrame(() => setTimeout(() => done(since()))));
  const there = (what) => new Promise((done) => {
    const look = new MutationObserver(() => { if (what()) { look.disconnect(); done(); } });
    look.observe(document.body, { subtree: true, childList: true, attributes: true, characterData: true });
    if (what()) { look.disconnect(); done(); }
  });
  const first = there(() => true).then(shown);
  const told = there(() => Number(document.querySelector("[data-saves]").dataset.saves) > before).then(shown);
  const still = there(() => Number(document.querySelector("[data-saves]").dataset.saves) > before
    && !document.querySelector("[data-finding] .late")).then(shown);
  button.click();
  return [await first, await told, await still];
}"""
"""Clicks a button; milliseconds to the first change on the screen, to the verdict, and to the fixes."""


@contextmanager
def chromium() -> Iterator[Page]:
    """A page of a headless browser at the size the interface is made for."""
    root = ["--no-sandbox"] if os.geteuid() == 0 else []
    with sync_playwright() as play:
        browser = play.chromium.launch(executable_path=shutil.which("chromium"), args=root)
        yield browser.new_page(viewport={"width": 1280, "height": 800})
        browser.close()


def put_on_bench(url: str, hookup: Hookup) -> str:
    """Make a hook-up on a server; its id."""
    body = json.dumps({"name": "bench", "hookup": dump(hookup)}).encode()
    request = urllib.request.Request(f"{url}api/hookups", body, {"content-type": "application/json"}, method="POST")
    found: str = json.load(urllib.request.urlopen(request))["id"]
    return found


def click_to_paint(page: Page, url: str, hookup_id: str, buttons: tuple[str, str], times: int) -> tuple[float, ...]:
    """Median milliseconds from a click on a step to: the control moved, the verdict there, the fixes there."""
    page.goto(f"{url}bench/{hookup_id}")
    page.get_by_role("list", name="Findings").wait_for()
    # A card that gave way to others is opened first, as by whoever moves something on it.
    page.locator("[data-unit]", has_text=buttons[0].split(",")[0]).first.click(position={"x": 12, "y": 10})
    page.get_by_role("button", name=buttons[0]).wait_for()
    found = []
    for n in range(times):
        found.append(page.evaluate(CLICK, [buttons[n % 2]]))
        page.wait_for_timeout(60)
    return tuple(statistics.median(column) for column in zip(*found[2:], strict=True))


def first_page_kb(page: Page, url: str, hookup: str) -> float:
    """Script that a page of the Bench has been sent, compressed, by when its findings are there."""
    page.goto(f"{url}bench/{hookup}")
    page.get_by_role("list", name="Findings").wait_for()
    sizes: list[float] = page.evaluate(
        """() => performance.getEntriesByType('resource')
            .filter((each) => each.name.endsWith('.js')).map((each) => each.encodedBodySize)"""
    )
    return sum(sizes) / 1000


def page_memory(page: Page, buttons: tuple[str, str], edits: int) -> list[float]:
    """Megabytes of script objects on the page as it is, after a third of the edits, two thirds, and all."""
    devtools = page.context.new_cdp_session(page)

    def megabytes() -> float:
        devtools.send("HeapProfiler.collectGarbage")
        return float(devtools.send("Runtime.getHeapUsage")["usedSize"]) / 1e6

    found = [megabytes()]
    for part in range(3):
        for n in range(edits // 3):
            page.evaluate(CLICK, [buttons[(n + part) % 2]])
        page.wait_for_timeout(20_000)  # what is left behind is kept for a while
        found.append(megabytes())
    return found
