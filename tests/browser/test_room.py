"""The Bench has room: hook-ups are whole without scrolling, cards open where one works, numbers keep to findings."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, Route, expect

from low_tide.core.presentation.layout import layout
from low_tide.core.rig.rig import Rig
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from tests.browser.rest import Rest
from tests.conftest import Server
from tests.examples import spread

SIZES = {"desk": (1280, 800), "tablet": (1024, 768), "large": (1920, 1080)}
COLUMNS = {name: len({spot.column for spot in layout(Rig(hookup, GEAR))}) for name, hookup in HOOKUPS.items()}
WHOLE = [name for name, hookup in HOOKUPS.items() if len(hookup.units) <= 8 and COLUMNS[name] <= 5]
OUTSIDE = """() => {
    const scroller = document.querySelector('[data-unit]').closest('[class*=overflow-auto]');
    const room = scroller.getBoundingClientRect();
    const cards = [...document.querySelectorAll('[data-unit]')].filter((card) => {
        const r = card.getBoundingClientRect();
        return r.left < room.left || r.right > room.right || r.top < room.top || r.bottom > room.bottom;
    });
    const page = document.documentElement;
    return {
        cards: cards.map((card) => card.dataset.unit),
        scrolls: scroller.scrollWidth > scroller.clientWidth || scroller.scrollHeight > scroller.clientHeight,
        page: page.scrollHeight > page.clientHeight || page.scrollWidth > page.clientWidth,
    };
}"""
WHOLE_AND_STILL = {"cards": [], "scrolls": False, "page": False}


def measured(page: Page) -> None:
    """Cards are measured once they are drawn, and fitted anew within the next frames."""
    page.evaluate("() => new Promise((done) => setTimeout(() => requestAnimationFrame(done), 120))")


def settled(page: Page, url: str) -> None:
    page.goto(url)
    page.get_by_role("list", name="Findings").wait_for()
    measured(page)


def sized(page: Page, size: str) -> None:
    width, height = SIZES[size]
    page.set_viewport_size({"width": width, "height": height})
    measured(page)


@pytest.mark.parametrize("part", range(3))
def test_eight_units_in_five_columns_are_whole(page: Page, server: Server, part: int) -> None:
    assert len(WHOLE) > 12
    for name in spread(WHOLE[part::3], 3):
        settled(page, f"{server.url}bench/{name}")
        for size in SIZES:
            sized(page, size)
            assert page.evaluate(OUTSIDE) == WHOLE_AND_STILL, (name, size)
        page.keyboard.press("w")
        page.get_by_role("region", name="What if").wait_for()
        for size in SIZES:
            sized(page, size)
            assert page.evaluate(OUTSIDE) == WHOLE_AND_STILL, (name, size, "what if")


def test_beyond_that_it_fits_itself_to_the_width(page: Page, server: Server) -> None:
    for size in ("desk", "tablet"):
        sized(page, size)
        settled(page, f"{server.url}bench/whole-ship")
        found = page.evaluate(OUTSIDE)
        assert (found["cards"], found["page"]) == ([], False), size
    page.get_by_role("button", name="Barnacle").click()
    card = page.get_by_role("article", name="Barnacle")
    expect(card).to_have_attribute("data-size", "open")
    expect(card.locator("[data-socket]").first).to_be_focused()


def test_a_press_on_a_card_that_opens_still_counts(page: Page, server: Server) -> None:
    page.set_viewport_size({"width": 1280, "height": 800})
    settled(page, f"{server.url}bench/stereo-tails")
    card = page.get_by_role("article", name="Godwit 45")
    expect(card).to_have_attribute("data-size", "brief")
    page.locator('[data-socket="godwit-45/out1"]').click()
    expect(page.get_by_text("what may go here, and what would follow")).to_be_visible()
    expect(card).to_have_attribute("data-size", "open")
    page.keyboard.press("Escape")
    # By keys the focus opens it, and stays where it was.
    page.locator('[data-socket="skerry-4/in3"]').focus()
    page.keyboard.press("Tab")
    expect(page.get_by_role("article", name="Skerry 4")).to_have_attribute("data-size", "open")


def test_findings_fold_to_their_headlines_where_the_picture_needs_the_width(page: Page, server: Server) -> None:
    page.set_viewport_size({"width": 1024, "height": 768})
    settled(page, f"{server.url}bench/stereo-tails")
    first = page.locator("[data-finding]").first
    expect(first.get_by_text("The line brings", exact=False)).to_have_count(0)
    page.keyboard.press("j")
    expect(first).to_be_focused()
    expect(first.get_by_text("The line brings", exact=False)).to_be_visible()
    settled(page, f"{server.url}bench/split-fog")
    expect(page.get_by_role("button", name="Set the tap to 4 Ω", exact=False)).to_be_visible()


def test_the_number_of_a_fix_stays_with_its_finding(page: Page, server: Server) -> None:
    settled(page, f"{server.url}bench/re-amplified")
    fixes = page.locator("[data-finding] button:has(kbd)")
    fixes.nth(2).wait_for()
    before = dict(enumerate(fixes.all_inner_texts()))
    assert len(before) > 2
    second, third = (before[n].split("\n")[0] for n in (1, 2))
    page.keyboard.press("1")
    expect(fixes.filter(has_text="Set the line level")).to_have_count(0)
    page.wait_for_timeout(1)
    for label, number in ((second, "2"), (third, "3")):
        expect(fixes.filter(has_text=label).locator("kbd")).to_have_text(number)


def test_what_was_tried_out_takes_no_number_away(page: Page, server: Server) -> None:
    standing: list[Route] = []

    def late(route: Route) -> None:
        """What mends the hook-up as it stands is answered last."""
        if route.request.post_data_json["changes"]:
            route.continue_()
        else:
            standing.append(route)

    page.route("**/api/hookups/split-fog/fixes", late)
    settled(page, f"{server.url}bench/split-fog")
    page.keyboard.press("w")
    page.get_by_role("radio", name="4", exact=True).click()
    first = page.locator("[data-finding] button", has=page.locator("kbd", has_text="1"))
    expect(first).to_have_count(1)
    expect(first).not_to_contain_text("Set the tap to 4 Ω")
    page.get_by_role("region", name="What if").get_by_role("button", name="Drop", exact=True).click()
    for route in standing:
        route.continue_()
    expect(first).to_contain_text("Set the tap to 4 Ω")


def test_stages_outside_the_tide_line_are_told(page: Page, server: Server) -> None:
    settled(page, f"{server.url}bench/whole-ship")
    told = page.get_by_text("more outside the picture", exact=False)
    expect(told).to_be_visible()
    chart = page.get_by_role("group", name="Tide line")
    few = chart.locator("g[data-stage]").count()
    page.get_by_role("button", name="show all", exact=False).click()
    expect(told).to_have_count(0)
    assert chart.locator("g[data-stage]").count() > few


ZOOMED = {"width": 640, "height": 400}
"""1280×800 at 200 % zoom."""
SCREENS = ("bench/split-fog", "locker/groyne-r8", "loudness/quiet-hold", "feel/silent-night", "run/quiet-hold", "log")


@pytest.mark.parametrize("path", SCREENS)
def test_at_twice_the_size_every_screen_scrolls_as_one(page: Page, server: Server, path: str) -> None:
    page.set_viewport_size(ZOOMED)
    rest = Rest(page)
    page.goto(server.url + path)
    page.locator("main h1").wait_for(state="attached")
    rest.wait()
    found = page.evaluate(
        """() => ({
            wide: document.documentElement.scrollWidth > document.documentElement.clientWidth,
            scrollers: [...document.querySelectorAll('main *')].filter((e) =>
                e.scrollHeight > e.clientHeight + 2 && e.clientHeight > 0
                && ['auto', 'scroll'].includes(getComputedStyle(e).overflowY)).length,
        })"""
    )
    assert found == {"wide": False, "scrollers": 1}
    verdict = page.get_by_label("Verdict")
    if verdict.count():
        box = verdict.bounding_box()
        assert box is not None
        assert box["height"] <= 40
