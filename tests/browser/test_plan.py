"""Plan: from nothing to days with parts laid into them; pinned, compared, freed, ticked off."""

from __future__ import annotations

import re

from playwright.sync_api import Locator, Page, expect

from tests.browser.axe import wrong
from tests.browser.pointer import drag
from tests.conftest import Server

FOG = "plan/fog-signal"


def block(page: Page, key: str) -> Locator:
    return page.locator(f'[data-block="{key}"]')


PRESS = """() => [...document.querySelectorAll("button")].find((b) => b.textContent.startsWith("Stop,"))?.click()"""


def settled(page: Page) -> None:
    """What is being laid out is ended, and what came of it is there."""
    page.get_by_role("status").filter(has_text=re.compile("improving|looking for|proven|the best")).first.wait_for()
    page.wait_for_timeout(1500)
    page.evaluate(PRESS)  # it may have gone by itself
    expect(page.get_by_role("button", name="Stop, keep the best")).to_have_count(0)
    expect(page.get_by_role("button", name=re.compile("^Lay it out"))).to_be_enabled()


def test_from_nothing_to_a_plan_by_keyboard(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + "plan/new")
    page.get_by_role("button", name="Begin the project").click()
    expect(page.get_by_text("A project needs a name.")).to_be_visible()
    page.get_by_label("Project", exact=True).fill("Buoy")
    page.get_by_label("Days, from tomorrow on").fill("none")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Days: 1 to 31, a whole number.")).to_be_visible()
    page.get_by_label("Days, from tomorrow on").fill("2")
    page.keyboard.press("Enter")
    lines = page.get_by_label("A part, a line each")
    lines.fill("Bell main, 10 + 30 min, through silent after 21:00, must")
    page.keyboard.press("Enter")
    expect(page.get_by_role("table", name=re.compile("^Bell"))).to_contain_text("Cue 1, silent after 21:00")
    lines.fill("Bell lead, sideways")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("“sideways” is not understood")
    expect(lines).to_have_value("Bell lead, sideways")
    lines.fill("Bell lead, 30 min, through silent after 21:00, after main\nBell double, 20 min, double of main")
    page.get_by_role("button", name="Add these parts").click()
    expect(page.get_by_role("row")).to_have_count(4)
    page.get_by_role("link", name="Plan", exact=True).last.click()
    page.wait_for_url("**/plan/buoy")
    page.locator("[data-day]").first.wait_for()
    page.keyboard.press("l")
    expect(page.get_by_text("proven: no plan is better", exact=False).first).to_be_visible()
    expect(block(page, "bell-lead")).to_be_visible()
    page.keyboard.press("j")
    expect(block(page, "bell-main")).to_be_focused()
    said = re.compile("^Bell main, .*10:10 to 10:50, 40 min, silent$")
    expect(block(page, "bell-main")).to_have_attribute("aria-label", said)
    about = page.get_by_role("region", name="What holds it here")
    expect(about).to_contain_text("Set up for it:")
    page.keyboard.press("p")
    expect(block(page, "bell-main")).to_have_attribute("aria-label", re.compile("pinned"))
    settled(page)
    page.keyboard.press("u")
    page.keyboard.press("u")
    expect(block(page, "bell-main")).not_to_have_attribute("aria-label", re.compile("pinned"))
    page.keyboard.press("Escape")
    expect(about).to_have_count(0)


def test_a_block_is_dragged_to_another_day_and_the_rest_is_laid_around_it(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + FOG)
    mine = block(page, "cue-1-main")
    mine.wait_for()
    last = page.locator("[data-day]").nth(3)
    box, day = mine.bounding_box(), last.bounding_box()
    assert box
    assert day
    drag(mine, (20, 20), (day["x"] + 480 - box["x"] - 20, day["y"] - box["y"] + 20))
    expect(last.locator('[data-block="cue-1-main"]')).to_have_attribute("aria-label", re.compile("pinned"))
    settled(page)
    expect(last.locator('[data-block="cue-1-double"]')).to_be_visible()
    page.get_by_role("button", name="before and after").click()
    moved = page.get_by_role("region", name="Before and after")
    expect(moved).to_contain_text("Cue 1, main")
    assert wrong(page) == []
    # Typed as exactly as dragged; where it cannot be, it says so and stays where it was said.
    last.locator('[data-block="cue-1-main"]').click()
    page.get_by_label("Time to pin it at").fill("25:00")
    page.get_by_role("button", name="Pin it there").click()
    expect(page.get_by_label("Time to pin it at")).to_have_js_property("validity.valid", False)
    page.get_by_label("Time to pin it at").fill("18:00")
    page.get_by_role("button", name="Pin it there").click()
    expect(last.locator('[data-block="cue-1-main"]')).to_have_attribute("aria-label", re.compile("18:00 to 19:20"))
    settled(page)


def test_what_does_not_fit_says_why_and_is_put_in_with_a_key(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + FOG)
    page.get_by_role("button", name="Why?").click()
    why = page.get_by_role("region", name="Why it does not fit")
    expect(why).to_contain_text("Next boat: at most 40 dBA")
    expect(why.get_by_role("button", name=re.compile("1$"))).to_be_visible()
    assert wrong(page) == []
    page.keyboard.press("1")
    expect(block(page, "cue-5-lead")).to_be_visible()
    expect(page.get_by_role("button", name="Why?")).to_have_count(0)
    page.keyboard.press("Control+z")
    expect(page.get_by_role("button", name="Why?")).to_be_visible()


def test_a_part_is_done_edited_found_and_taken_out(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + FOG)
    block(page, "cue-2-main").click()
    page.get_by_label("it took").fill("95")
    page.get_by_role("button", name="It is done").click()
    expect(page.get_by_text("1 of 16 parts done.")).to_be_visible()
    expect(block(page, "cue-2-main")).to_have_attribute("aria-label", re.compile("done$"))
    page.keyboard.press("/")
    page.keyboard.type("cue 2 lead")
    page.get_by_role("option", name=re.compile("Part to record")).first.click()
    form = page.get_by_role("form", name="Part “lead”")
    form.get_by_label("Playing").fill("soon")
    form.get_by_role("button", name="Save the part").click()
    expect(form.get_by_role("alert").first).to_contain_text("Playing")
    form.get_by_label("Playing").fill("50")
    form.get_by_role("button", name="Save the part").click()
    expect(form).to_have_count(0)
    expect(page.get_by_role("row", name=re.compile("^lead .*Cue 2, quiet"))).to_contain_text("50 min")
    page.get_by_role("button", name="What can be done with Cue 6").click()
    page.get_by_role("menuitem", name="Take it out …").click()
    page.get_by_role("button", name="Take it out", exact=True).click()
    expect(page.get_by_role("table", name=re.compile("^Cue 6"))).to_have_count(0)
    page.keyboard.press("u")
    expect(page.get_by_role("table", name=re.compile("^Cue 6"))).to_be_visible()


def test_days_and_people_are_said_and_what_cannot_be_is_told(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + FOG + "/when")
    first = page.get_by_role("form", name=re.compile("^Day ")).first
    first.get_by_label("Window 1, until").fill("09:00")
    first.get_by_role("button", name="Save the day").click()
    expect(page.get_by_role("alert").first).to_contain_text("before it begins at 10:00")
    first.get_by_label("Window 1, until").fill("15:00")
    first.get_by_role("button", name="Save the day").click()
    expect(first.get_by_role("button", name="Save the day")).to_be_disabled()
    page.get_by_role("button", name="Day", exact=True).click()
    expect(page.get_by_role("form", name=re.compile("^Day "))).to_have_count(5)
    page.get_by_role("button", name="Somebody").click()
    page.get_by_role("form", name="Somebody new").get_by_label("Who").fill("The bosun")
    page.get_by_role("button", name="Add them").click()
    expect(page.get_by_role("form", name="The bosun")).to_be_visible()
    page.get_by_role("form", name="The bosun").get_by_role("button", name="Take them out").click()
    expect(page.get_by_role("form", name="The bosun")).to_have_count(0)
    page.get_by_role("button", name="Take the day out …").last.click()
    page.get_by_role("button", name="Take it out", exact=True).click()
    expect(page.get_by_role("form", name=re.compile("^Day "))).to_have_count(4)


def test_a_project_is_put_away_and_brought_back(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + FOG)
    page.get_by_role("button", name="More", exact=True).click()
    page.get_by_role("menuitem", name="Put it away …").click()
    page.get_by_role("button", name="Put it away", exact=True).click()
    page.get_by_role("button", name="Bring it back").click()
    expect(block(page, "cue-1-main")).to_be_visible()
