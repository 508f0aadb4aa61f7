"""Your data, and two windows at one record, as a person meets them."""

from __future__ import annotations

from pathlib import Path

from playwright.sync_api import Page, expect

from low_tide.demo.fill import TAKES_IN_ALL
from tests.conftest import Server


def test_backed_up_restored_and_back_again(bench: Page, server: Server, tmp_path: Path) -> None:
    bench.get_by_role("button", name="Your data").click()
    expect(bench.get_by_text("None yet.")).to_be_visible()
    with bench.expect_download() as saved:
        bench.get_by_role("button", name="Back up now").click()
    saved.value.save_as(tmp_path / "night.zip")
    expect(bench.get_by_text("made by hand")).to_be_visible()
    bench.keyboard.press("Escape")

    bench.goto(server.url + "log/1")
    bench.get_by_role("button", name="Delete", exact=True).click()
    bench.get_by_role("button", name="Delete it").click()
    expect(bench.get_by_role("link", name="Fog theme, low strings")).to_have_count(0)

    bench.get_by_role("button", name="Your data").click()
    chooser = bench.get_by_label("Backup to restore")
    (tmp_path / "not.zip").write_bytes(b"not a backup")
    chooser.set_input_files(tmp_path / "not.zip")
    expect(bench.get_by_text("is not a backup this program can read")).to_be_visible()
    chooser.set_input_files(tmp_path / "night.zip")
    asked = bench.get_by_role("dialog", name="Put “night.zip” in place of everything?")
    expect(asked.get_by_role("row", name=f"takes {TAKES_IN_ALL - 1} {TAKES_IN_ALL}")).to_be_visible()
    asked.get_by_role("button", name="Keep it as it is").click()
    bench.get_by_role("button", name="Restore …", exact=True).click()
    bench.get_by_role("button", name="Put it in place").click()
    expect(bench.get_by_text("What was here before is kept as before-restore-")).to_be_visible()
    expect(bench.get_by_role("button", name="Go to the Bench")).to_be_focused()
    bench.keyboard.press("Enter")
    bench.get_by_role("list", name="Findings").wait_for()
    bench.goto(server.url + "log")
    expect(bench.get_by_role("link", name="1. Fog theme, low strings")).to_be_visible()
    bench.get_by_role("button", name="Your data").click()
    expect(bench.get_by_text("as it was before a restore")).to_be_visible()
    bench.get_by_role("button", name="Delete the copy of").first.click()
    bench.get_by_role("button", name="Delete it").click()
    expect(bench.get_by_text("as it was before a restore")).to_have_count(0)


def test_a_window_that_was_overtaken_keeps_its_words(screen: Page, server: Server) -> None:
    screen.goto(server.url + "log/1?take=edit")
    form = screen.get_by_role("form", name="Edit take 1")
    form.get_by_label("Notes").fill("Mine")
    other = screen.context.new_page()
    other.goto(server.url + "log/1?take=edit")
    other.get_by_role("form", name="Edit take 1").get_by_label("Notes").fill("Theirs")
    other.get_by_role("button", name="Save").click()
    expect(other.get_by_text("Theirs")).to_be_visible()
    form.get_by_role("button", name="Save").click()
    told = screen.get_by_role("alert", name="Changed in another window")
    expect(told.get_by_text("Theirs", exact=True)).to_be_visible()
    told.get_by_role("button", name="Go on with mine").click()
    expect(form.get_by_label("Notes")).to_have_value("Mine")
    form.get_by_role("button", name="Save").click()
    expect(screen.get_by_role("article", name="Take 1").get_by_text("Mine")).to_be_visible()


def test_a_page_from_before_a_restore_says_so(bench: Page, server: Server) -> None:
    old = bench.context.new_page()
    old.goto(server.url + "log/1?take=edit")
    form = old.get_by_role("form", name="Edit take 1")
    form.get_by_label("Notes").fill("From before")
    bench.get_by_role("button", name="Your data").click()
    with bench.expect_download():
        bench.get_by_role("button", name="Back up now").click()
    bench.get_by_role("button", name="Restore …", exact=True).click()
    bench.get_by_role("button", name="Put it in place").click()
    expect(bench.get_by_text("The backup is in place")).to_be_visible()
    form.get_by_role("button", name="Save").click()
    expect(old.get_by_text("Load the page again").first).to_be_visible()


def test_a_dialog_gives_the_focus_back(bench: Page, server: Server) -> None:
    for name in ("Preferences", "Your data"):
        button = bench.get_by_role("button", name=name)
        button.focus()
        bench.keyboard.press("Enter")
        expect(bench.get_by_role("dialog", name=name)).to_be_visible()
        bench.keyboard.press("Escape")
        expect(button).to_be_focused()
    bench.goto(server.url + "log/1")
    button = bench.get_by_role("button", name="Delete", exact=True)
    button.focus()
    bench.keyboard.press("Enter")
    expect(bench.get_by_role("button", name="Keep it as it is")).to_be_focused()
    bench.keyboard.press("Escape")
    expect(button).to_be_focused()
