"""What people ask, in the real interface: another amp, both at one time, papers, cabinets and steps nobody knows."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.conftest import Server
from tests.browser.rest import Rest


def test_another_amp_is_put_in_and_taken_back_with_one_key(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/quiet-hold")
    screen.get_by_role("button", name="More for this hook-up").click()
    screen.get_by_role("menuitem", name="The same with another amp").click()
    first = screen.get_by_role("list", name="Other amps").get_by_role("listitem").filter(has_text="Dotterel 60")
    expect(first).to_contain_text("It sees 8 Ω on its 8 Ω tap.")
    first.get_by_role("button", name="Put it on the Bench").click()
    expect(screen.locator('[data-unit="dotterel-60"]')).to_be_visible()
    expect(screen.locator('[data-unit="godwit-45"]')).to_have_count(0)
    screen.keyboard.press("u")
    expect(screen.locator('[data-unit="godwit-45"]')).to_be_visible()
    screen.get_by_role("button", name="More for this hook-up").click()
    screen.get_by_role("menuitem", name="The same with another amp").click()
    first.get_by_role("button", name="As a hook-up of its own").click()
    expect(screen.get_by_role("button", name=re.compile("Cue 2, quiet in the hold, Dotterel 60"))).to_be_visible()


def test_both_at_one_time_want_another_tap(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker")
    row = screen.get_by_role("row", name=re.compile("^Gabion 40"))
    expect(row.get_by_role("cell").first).to_contain_text("8 Ω tap")
    screen.get_by_label("Together with").select_option("turnstone-212")
    expect(row.get_by_role("cell").first).to_contain_text("4 Ω tap")


def test_papers_are_entered_listed_and_stand_at_risk(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker?list=insurer")
    papers = screen.get_by_role("region", name="List for an insurer")
    papers.get_by_role("link", name="Stint 10", exact=True).click()
    screen.get_by_role("checkbox", name="Price, weight and papers").check()
    screen.get_by_role("textbox", name="Price of a new one").fill("-5")
    screen.get_by_role("button", name="Save changes").click()
    expect(screen.get_by_role("alert").first).to_contain_text("−5 is under the least allowed")
    screen.get_by_role("textbox", name="Price of a new one").fill("310")
    screen.get_by_role("button", name="Save changes").click()
    expect(screen.get_by_text("Saved.", exact=True)).to_be_visible()
    screen.goto(server.url + "locker?list=insurer")
    expect(papers.get_by_role("row", name=re.compile("Stint 10 Amp"))).to_contain_text("310 EUR")
    # Printed it is all of it, without what is beside it on the screen.
    screen.emulate_media(media="print")
    assert screen.evaluate("document.documentElement.scrollHeight") > 2 * screen.evaluate("window.innerHeight")
    expect(screen.get_by_role("region", name="Gear", exact=True)).not_to_be_visible()
    screen.emulate_media(media="screen")
    # A stop says what it puts at risk.
    screen.goto(server.url + "bench/empty-through")
    expect(screen.get_by_text(re.compile("At risk: Redshank 100 .2,100 EUR.")).first).to_be_visible()


def test_a_cabinet_nobody_knows_is_told_from_ohms_at_its_plug(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/sanderling-112")
    screen.get_by_role("button", name="From ohms at the plug").click()
    box = screen.get_by_role("dialog")
    box.get_by_label("Ohms at the plug").fill("90")
    box.get_by_role("button", name="What is it likely?").click()
    expect(box.get_by_role("alert")).to_contain_text("90 Ω is not what a common driver would read")
    box.get_by_label("Ohms at the plug").fill("13")
    box.get_by_role("button", name="What is it likely?").click()
    expect(box.get_by_role("status")).to_contain_text("rated 16 Ω")
    box.get_by_role("button", name="Use it").first.click()
    expect(screen.get_by_role("textbox", name="Rated impedance")).to_have_value("16")
    expect(screen.get_by_text("inferred from a reading")).to_be_visible()
    # What it would do to the hook-ups that use it is told before it is saved.
    expect(screen.get_by_role("region", name="What that leads to")).to_contain_text(re.compile("then|stop|Do not"))
    screen.get_by_role("button", name="it is known").first.click()
    expect(screen.get_by_text("inferred from a reading")).to_have_count(0)


def test_steps_that_only_have_names_are_read_and_none_is_added(screen: Page, server: Server) -> None:
    rest = Rest(screen)
    screen.goto(server.url + "locker/riprap-50")
    screen.locator("summary", has_text="More").click()
    screen.get_by_role("button", name="Add to positions without dB").click()
    expect(screen.get_by_role("textbox", name="Position", exact=True)).to_have_value("half")
    expect(screen.get_by_role("textbox", name="Down by")).to_have_value("")
    # The picture above the form grows by a control: a click may not fall into that moment.
    rest.wait()
    screen.get_by_role("button", name="Another like it").click()
    screen.get_by_role("textbox", name="Position", exact=True).nth(1).fill("full")
    screen.get_by_role("button", name="From volts or levels").click()
    box = screen.get_by_role("dialog")
    expect(box.get_by_label("Position 1", exact=True).locator("option")).to_have_text(["half", "full"])
    box.get_by_label("Reading 1").fill("7")
    box.get_by_label("Position 1", exact=True).select_option("full")
    box.get_by_label("Position 2", exact=True).select_option("half")
    box.get_by_label("Reading 2").fill("3,5")
    box.get_by_role("button", name="Make the table").click()
    expect(box.get_by_role("row", name=re.compile("half 6.02 dB"))).to_be_visible()
    box.get_by_role("button", name="Use this table").click()
    expect(screen.get_by_role("textbox", name="Down by").first).to_have_value("6.02")
