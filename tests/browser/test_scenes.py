"""Scenes on the Bench: added, put on, held beside each other; and a take of one."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.axe import wrong
from tests.conftest import Server


def test_a_scene_is_made_put_on_changed_and_undone(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + "bench/pedals-in-front")
    strip = page.get_by_role("region", name="Scenes")
    expect(strip.get_by_role("button")).to_have_count(4)
    page.keyboard.press("s")
    sheet = page.get_by_role("dialog")
    expect(sheet.get_by_role("row", name=re.compile("^Peaks at Skerry 4, line 3")).get_by_role("cell")).to_have_count(4)
    expect(sheet.get_by_role("row", name=re.compile("^Bladderwrack: on"))).to_contain_text("off")
    assert wrong(page) == []
    sheet.get_by_role("button", name="New scene from what stands").click()
    expect(sheet.get_by_label("Scene", exact=True)).to_be_focused()
    sheet.get_by_label("Bosun's guitar: volume, set to").fill("3")
    expect(sheet.get_by_role("alert")).to_have_text("−40 dB to 0 dB")
    sheet.get_by_role("button", name="Add the scene").click()
    expect(sheet.get_by_text("A scene needs a name.")).to_be_visible()
    sheet.get_by_label("Scene", exact=True).fill("Answer")
    expect(sheet.get_by_text("There is a scene of that name already.")).to_be_visible()
    sheet.get_by_label("Scene", exact=True).fill("Last bell")
    sheet.get_by_label("Bosun's guitar: volume, set to").fill("-6,5")
    sheet.get_by_label("Samphire: on", exact=True).uncheck()
    sheet.get_by_role("button", name="Samphire earlier").click()
    sheet.get_by_role("button", name="A knob in words").click()
    sheet.get_by_label("Knob 1, name").fill("Channel")
    sheet.get_by_label("Channel, set to").fill("lead")
    assert wrong(page) == []
    sheet.get_by_role("button", name="Add the scene").click()
    expect(sheet.get_by_role("row", name=re.compile("^Bosun's guitar: volume"))).to_contain_text("−6.5 dB")
    expect(sheet.get_by_role("row", name=re.compile("^Channel"))).to_contain_text("lead")
    expect(sheet.get_by_role("row", name=re.compile("^Samphire: on"))).to_contain_text("as it stands")
    page.keyboard.press("Escape")
    # Put on from the row above the picture: the pedals change places, and one press goes back.
    last = strip.get_by_role("button", name=re.compile("Last bell"))
    last.click()
    expect(last).to_have_attribute("aria-pressed", "true")
    strip.get_by_role("button", name="Table").click()
    order = sheet.get_by_role("row", name=re.compile("^Pedals in the order")).get_by_role("cell")
    expect(order.first).to_have_text("Samphire, Bladderwrack")
    page.keyboard.press("Escape")
    page.keyboard.press("u")
    expect(last).to_have_attribute("aria-pressed", "false")
    page.keyboard.press("s")
    sheet.get_by_role("button", name="More for scene “Last bell”").click()
    page.get_by_role("menuitem", name="Drop it").click()
    expect(sheet.get_by_role("columnheader")).to_have_count(4)


def test_a_pedal_that_goes_is_missed_by_its_scenes_and_a_take_names_one(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + "bench/pedals-in-front")
    strip = page.get_by_role("region", name="Scenes")
    strip.get_by_role("button", name=re.compile("Under the voice")).click()
    expect(strip.get_by_role("button", name=re.compile("Under the voice"))).to_have_attribute("aria-pressed", "true")
    page.goto(server.url + "log")
    page.get_by_role("table").wait_for()
    page.keyboard.press("n")
    form = page.get_by_role("form", name="New take")
    form.get_by_label("Hook-up").select_option("pedals-in-front")
    scene = form.get_by_label("Scene", exact=True)
    expect(scene).to_have_value("Under the voice")
    scene.select_option("Answer")
    form.get_by_label("Take", exact=True).fill("Answer, first")
    form.get_by_role("button", name="Log the take").click()
    told = page.get_by_role("article")
    expect(told).to_contain_text("Answer")
    expect(told.get_by_text("Scene", exact=True)).to_be_visible()
    page.goto(server.url + "bench/pedals-in-front")
    page.get_by_role("article", name="Samphire").click()
    page.get_by_role("button", name="Take Samphire out of the hook-up").click()
    expect(page.get_by_text("Scene “Answer” cannot be set as it says: Samphire is not in the hook-up.")).to_be_visible()
    page.keyboard.press("s")
    expect(page.get_by_role("dialog").get_by_role("status").first).to_contain_text("Samphire is not in the hook-up")
    page.keyboard.press("Escape")
    page.get_by_role("button", name=re.compile("^Take it out of scene “Answer”")).click()
    expect(page.get_by_text("Scene “Answer” cannot be set as it says")).to_have_count(0)
