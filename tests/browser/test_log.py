"""The Log: two takes held against each other."""

from __future__ import annotations

import base64
import re
import time
import zipfile

import numpy as np
from playwright.sync_api import Page, expect

from low_tide.demo.fill import TAKES_IN_ALL
from tests.browser.axe import wrong
from tests.conftest import Server
from tests.web.test_feel import wav
from tests.web.test_log import PICTURE


def test_what_differs_between_two_takes(bench: Page, server: Server) -> None:
    page = bench
    page.goto(server.url + "log/1")
    page.get_by_label("What differs from another take").select_option(label="3, Bell answer")
    told = page.get_by_role("article")
    expect(told.get_by_role("row", name=re.compile("^Caisson 120"))).to_contain_text("in it")
    expect(told).to_contain_text("Godwit 45, speaker 1 → Caisson 120, amp in")
    expect(told).not_to_contain_text("Gain")
    assert wrong(page) == []
    order = told.get_by_role("columnheader").all_inner_texts()
    told.get_by_role("button", name="Turn round").click()
    expect(told.get_by_role("columnheader").first).to_have_text(order[1])
    told.get_by_role("link", name="back to the take").click()
    expect(page.get_by_role("article", name="Take 3")).to_be_visible()


def test_a_session_goes_out_as_one_file_and_is_opened_from_it(bench: Page, server: Server) -> None:
    page = bench
    page.goto(server.url + "log")
    more = page.get_by_role("button", name="More of the session")
    more.click()
    with page.expect_download() as download:
        page.get_by_role("menuitem", name="Save it as one file").click()
    assert download.value.suggested_filename == "Fog-Signal--first-night.zip"
    more.click()
    page.get_by_role("menuitem", name="Open a session file").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("Session file").set_input_files(
        {"name": "none.zip", "mimeType": "application/zip", "buffer": b"PK but no more"}
    )
    expect(sheet.get_by_role("alert")).to_contain_text("is not a session file")
    sheet.get_by_label("Session file").set_input_files(download.value.path())
    expect(sheet).to_contain_text("is in the log already")
    assert wrong(page) == []
    sheet.get_by_role("button", name="Put it into the log").click()
    sessions = page.get_by_label("Session", exact=True)
    expect(sessions.locator("option")).to_have_count(3)
    expect(page.get_by_role("table").get_by_role("row")).to_have_count(1 + TAKES_IN_ALL)
    more.click()
    page.get_by_role("menuitem", name="Name and notes").click()
    page.get_by_label("Name").fill("The same again")
    page.get_by_role("button", name="Save", exact=True).click()
    expect(sessions.locator("option").nth(1)).to_contain_text("The same again")
    more.click()
    page.get_by_role("menuitem", name="Delete it").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete it").click()
    expect(sessions.locator("option")).to_have_count(2)


def test_the_day_goes_to_its_takes_and_to_other_days(bench: Page, server: Server) -> None:
    page = bench
    page.goto(server.url + "log")
    day = page.get_by_role("region", name="The day")
    expect(day.get_by_role("button", name=re.compile("^Take "))).to_have_count(TAKES_IN_ALL)
    day.get_by_role("button", name=re.compile("^Take 3, Bell answer, 20:20, 8 s")).click()
    expect(page.get_by_role("article", name="Take 3")).to_be_visible()
    expect(day).to_contain_text("35 dBA, Bunks")
    expect(day.get_by_role("img")).to_have_accessible_name(re.compile(r"^Ears: \d+ % of the allowance used"))
    day.get_by_label("go to").fill("2020-02-29")
    expect(day).to_contain_text("Saturday, 29 February 2020")
    expect(day.get_by_role("button", name=re.compile("^Take "))).to_have_count(0)
    day.get_by_role("button", name="The next day with takes").click()
    expect(day.get_by_role("button", name=re.compile("^Take "))).to_have_count(TAKES_IN_ALL)


def test_a_guide_is_replaced_and_leaves_its_list(bench: Page, server: Server) -> None:
    page = bench
    page.goto(server.url + "log?view=guides")
    page.get_by_role("button", name="Log what replaces it").click()
    page.get_by_label("Take", exact=True).fill("Drums, at last")
    expect(page.get_by_label("Takes the place of").locator("option:checked")).to_contain_text("Guide for the drummer")
    page.get_by_role("radio", name="keep").click()
    page.get_by_role("button", name="Log the take").click()
    expect(page.get_by_role("article", name="Take 11")).to_contain_text("its guide")
    expect(page.get_by_text("No guide waits to be replaced.")).to_be_visible()
    page.get_by_role("tab", name="Cautions accepted").click()
    expect(page.get_by_text("“a guide only, at the level it was tried at”").first).to_be_visible()
    assert wrong(page) == []


def test_photos_are_attached_looked_at_and_deleted(bench: Page, server: Server) -> None:
    page = bench
    page.goto(server.url + "log/1")
    files = page.get_by_label("Files to attach")
    files.set_input_files({"name": "knobs.jpg", "mimeType": "image/jpeg", "buffer": PICTURE.getvalue()})
    mine = page.get_by_role("region", name="Attached")
    mine.get_by_role("img", name="knobs.jpg").click()
    expect(page.get_by_role("dialog").get_by_role("img", name="knobs.jpg")).to_be_visible()
    page.keyboard.press("Escape")
    files.set_input_files({"name": "none.jpg", "mimeType": "image/jpeg", "buffer": b"none"})
    expect(mine.get_by_role("alert")).to_contain_text("this is no picture that can be read")
    mine.get_by_role("button", name="Delete knobs.jpg").click()
    page.get_by_role("dialog").get_by_role("button", name="Delete it").click()
    expect(mine.get_by_role("img")).to_have_count(0)


def test_a_complaint_becomes_a_limit_and_a_notice_is_written(bench: Page, server: Server) -> None:
    page = bench
    page.goto(server.url + "bench/quiet-hold")
    page.goto(server.url + "log")
    page.get_by_role("button", name="A neighbour said").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label("At", exact=True).select_option(label="Next boat")
    sheet.get_by_label("Level there").fill("900")
    sheet.get_by_role("button", name="Write it down").click()
    expect(sheet).to_contain_text("900 dBA is over the most allowed, 140 dBA.")
    sheet.get_by_label("Level there").fill("30")
    sheet.get_by_label("When").fill("2026-03-01T22:40")
    assert wrong(page) == []
    sheet.get_by_role("button", name="Write it down").click()
    expect(page.get_by_text("Next boat, complaint at 30 dBA")).to_be_visible()
    page.get_by_role("button", name="Make it the limit of Next boat").click()
    expect(page.get_by_role("button", name="Make it the limit of Next boat")).to_have_count(0)
    expect(page.get_by_role("region", name="The day")).to_contain_text("25 dBA, Next boat")
    page.get_by_role("button", name="A neighbour said").click()
    page.get_by_role("link", name="A notice for them").click()
    page.get_by_label("Number to ring").fill("channel 16")
    page.get_by_label("For").select_option(label="Next boat")
    notice = page.get_by_role("region", name="The notice")
    expect(notice).to_contain_text("ring channel 16")
    expect(notice).to_contain_text("At yours (Next boat) we expect at most about")
    assert wrong(page) == []


def test_a_folder_for_whoever_mixes(bench: Page, server: Server) -> None:
    page = bench
    page.goto(server.url + "log")
    page.get_by_role("button", name="More of the session").click()
    page.get_by_role("menuitem", name="A folder for whoever mixes").click()
    sheet = page.get_by_role("dialog")
    sheet.get_by_label(re.compile("^06 Bell answer, in the cupboard")).uncheck()
    sheet.get_by_label("Also through the blend").select_option(label="Drone, near and dark")
    expect(sheet.get_by_role("status")).to_contain_text("of them through the blend")
    assert wrong(page) == []
    with page.expect_download() as download:
        sheet.get_by_role("button", name="Save the folder").click()
    with zipfile.ZipFile(download.value.path()) as folder:
        names = folder.namelist()
    assert "01 Fog theme, low strings - main - bare.wav" in names
    assert "01 Fog theme, low strings - main - blended.wav" in names
    assert not any(name.startswith("06") for name in names)
    assert {"read me.md", "blend.json"} < set(names)


DROP = """(target, names) => {
  const data = new DataTransfer();
  const bytes = Uint8Array.from(atob(names.sound), (c) => c.charCodeAt(0));
  for (const name of names.files) data.items.add(new File([bytes], name, { type: "audio/wav" }));
  for (const type of ["dragover", "drop"])
    target.dispatchEvent(new DragEvent(type, { bubbles: true, cancelable: true, dataTransfer: data }));
}"""


def test_files_dropped_on_the_log_become_takes_in_their_order(bench: Page, server: Server) -> None:
    page = bench
    page.goto(server.url + "log")
    table = page.get_by_role("table")
    table.wait_for()
    sound = base64.b64encode(wav(0.25 * np.sin(np.arange(48_000) / 20))).decode()
    names = ["fog 10 low.wav", "fog 2 mid.wav", "fog 1 high.wav"]
    table.evaluate(DROP, {"files": names, "sound": sound})
    sheet = page.get_by_role("dialog")
    expect(sheet.get_by_role("listitem")).to_have_count(3)
    assert wrong(page) == []
    sheet.get_by_role("button", name="Bring them in").click()
    expect(page.get_by_role("region", name="Files on their way in").get_by_role("status")).to_have_count(3)
    for at, (number, name) in enumerate(((13, "low"), (12, "mid"), (11, "high")), 1):
        expect(table.get_by_role("row").nth(at)).to_contain_text(re.compile(rf"^{number}\. .*{name}\b"))


def test_enter_waits_for_the_answer_to_the_words_that_are_typed(bench: Page) -> None:
    page = bench
    page.route(re.compile(r"/api/find\?search=bell(%20|\+)answer"), lambda route: (time.sleep(1), route.continue_()))
    page.keyboard.press("/")
    page.keyboard.type("by the")
    expect(page.get_by_role("option").first).to_be_visible()
    page.get_by_role("combobox").fill("bell answer")
    page.keyboard.press("Enter")
    page.wait_for_url(re.compile(r"/log/\d+$"))
    expect(page.get_by_role("article", name=re.compile("^Take"))).to_contain_text("Bell answer")
