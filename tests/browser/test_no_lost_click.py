"""Clicks that come faster than the server answers: none is lost, and no older answer takes a newer wish back."""

from __future__ import annotations

import json
import time
import urllib.request
from typing import Any

import pytest
from playwright.sync_api import Page, Route, expect

from tests.conftest import Server

SLOW_S = 0.35


def slowed(page: Page) -> None:
    """Every edit takes its time on the way."""

    def later(route: Route) -> None:
        time.sleep(SLOW_S)
        route.continue_()

    page.route("**/api/hookups/*/changes", later)


def saved(server: Server, hookup: str, unit: str, control: str) -> Any:
    """Where a control stands for the server, and how often the hook-up was saved."""
    with urllib.request.urlopen(f"{server.url}api/hookups/{hookup}") as answer:
        state = json.load(answer)
    (view,) = [c for u in state["units"] if u["id"] == unit for c in u["controls"] if c["control"]["id"] == control]
    return view["value"], state["saves"]


@pytest.mark.parametrize("pause", [0, 120, 200])
def test_no_click_on_a_step_is_lost_on_a_slow_server(screen: Page, server: Server, pause: int) -> None:
    screen.goto(server.url + "bench/quiet-hold")
    knob = screen.get_by_role("spinbutton", name="Caisson 120, Line level").first
    down = screen.get_by_role("button", name="Caisson 120, Line level down").first
    before, saves = saved(server, "quiet-hold", "caisson-120", "line.pot")
    slowed(screen)
    for n in range(1, 6):
        down.click()
        expect(knob).to_have_attribute("aria-valuenow", f"{before - n:g}")
        screen.wait_for_timeout(pause)
    knob.press("ArrowUp")
    expect(knob).to_have_attribute("aria-valuenow", f"{before - 4:g}")
    expect(screen.get_by_role("button", name="Undo")).to_be_enabled()
    screen.wait_for_function(
        "([url, saves]) => fetch(url).then((r) => r.json()).then((s) => s.saves === saves)",
        arg=[f"{server.url}api/hookups/quiet-hold", saves + 6],
    )
    assert saved(server, "quiet-hold", "caisson-120", "line.pot") == (before - 4, saves + 6)
    expect(knob).to_have_attribute("aria-valuenow", f"{before - 4:g}")


def test_an_older_answer_does_not_take_a_newer_wish_back(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/quiet-hold")
    knob = screen.get_by_role("spinbutton", name="Caisson 120, Line level").first
    down = screen.get_by_role("button", name="Caisson 120, Line level down").first
    before = float(knob.get_attribute("aria-valuenow") or 0)
    slowed(screen)
    seen = screen.evaluate_handle(
        """(knob) => {
          const seen = [];
          new MutationObserver(() => seen.push(Number(knob.ariaValueNow ?? knob.getAttribute("aria-valuenow"))))
            .observe(knob, { attributes: true, attributeFilter: ["aria-valuenow"] });
          return seen;
        }""",
        knob.element_handle(),
    )
    for _ in range(5):
        down.click()
        screen.wait_for_timeout(150)
    expect(knob).to_have_attribute("aria-valuenow", f"{before - 5:g}")
    screen.wait_for_function(
        "(url) => fetch(url).then((r) => r.json()).then((s) => s.undo !== null)",
        arg=f"{server.url}api/hookups/quiet-hold",
    )
    screen.wait_for_timeout(5 * 1000 * SLOW_S)
    assert seen.json_value() == [before - n for n in range(1, 6)]


def test_what_is_drawn_above_a_form_moves_nothing_in_it(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/godwit-45")
    sockets = screen.locator("form [data-jack]")
    field = screen.get_by_label("Jacks on this tap").first
    field.scroll_into_view_if_needed()
    heights = set()
    for jacks, drawn in (("4", 7), ("1", 5), ("9", 0), ("3", 6)):
        before = field.bounding_box()
        assert before
        field.fill(jacks)
        expect(sockets).to_have_count(drawn)
        heights.add(screen.evaluate("() => document.querySelector('form [data-jack]')?.parentElement.offsetHeight"))
        # A page scrolls by whole pixels.
        assert field.bounding_box() == pytest.approx(before, abs=1)
    assert len(heights) > 2
