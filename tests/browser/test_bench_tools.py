"""The Bench's larger tools: charts, what-if, overview, finding a hook-up, and the locker as a file."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from low_tide.core.frequency import frequency_grid
from low_tide.demo.gear import GEAR
from tests.conftest import Server


def go(page: Page, url: str) -> None:
    """To a hook-up, once its keys work."""
    page.goto(url)
    page.get_by_role("list", name="Findings").wait_for()


def test_impedance_and_power_have_their_numbers(screen: Page, server: Server) -> None:
    go(screen, server.url + "bench/split-fog")
    screen.get_by_role("tab", name="Tide line").focus()
    screen.keyboard.press("ArrowRight")
    expect(screen.get_by_role("tab", name="Impedance")).to_be_focused()
    expect(screen.get_by_text("The match is judged by ratings, not by this curve.", exact=False)).to_be_visible()
    screen.get_by_role("radio", name="Shares").click()
    screen.get_by_role("button", name="Table").click()
    expect(screen.get_by_role("table")).to_have_attribute("aria-rowcount", str(len(frequency_grid()) + 1))
    expect(screen.get_by_role("columnheader", name="Turnstone 2×12, %")).to_be_visible()
    with screen.expect_download() as download:
        screen.get_by_role("button", name="Chart", exact=True).click()
        screen.get_by_role("link", name="ZMA").click()
    assert download.value.suggested_filename == "split-fog.zma"
    screen.get_by_role("tab", name="Power").click()
    expect(screen.get_by_text("67.5 of 67.5 W accounted for.", exact=False)).to_be_visible()
    row = screen.get_by_role("tabpanel", name="Power").get_by_role("listitem").filter(has_text="Gabion 40")
    expect(row).to_contain_text("33.8 W")


def test_the_curve_reads_off_by_keyboard(screen: Page, server: Server) -> None:
    go(screen, server.url + "bench/silent-night")
    screen.get_by_role("tab", name="Impedance").click()
    chart = screen.get_by_role("application")
    chart.focus()
    screen.keyboard.press("ArrowRight")
    expect(screen.get_by_text(re.compile(r"Godwit 45 sees : [\d.]+ Ω")).first).to_be_visible()


def test_what_if_is_held_compared_kept_or_dropped(screen: Page, server: Server) -> None:
    go(screen, server.url + "bench/split-fog")
    screen.keyboard.press("w")
    strip, verdict = screen.get_by_role("region", name="What if"), screen.get_by_label("Verdict")
    expect(strip).to_contain_text("nothing is kept until you say so")
    screen.get_by_role("radio", name="4", exact=True).click()
    expect(strip).to_contain_text("1 held: Godwit 45: tap 4 Ω")
    expect(verdict).to_contain_text("Check first")
    expect(verdict).to_contain_text("as it stands: do not switch on")
    strip.get_by_role("button", name="Drop", exact=True).click()
    expect(verdict).to_contain_text("Do not switch on")
    screen.keyboard.press("w")
    # A fix is held like any other change, and the choices of a jack stand on what is held.
    screen.keyboard.press("1")
    expect(verdict).to_contain_text("Check first")
    screen.locator('[data-socket="gabion-40/in"]').click()
    expect(screen.locator("[data-choice]", has_text="Put Speaker lead A away").last).to_contain_text("8 Ω")
    screen.keyboard.press("Escape")
    strip.get_by_role("button", name="Keep").click()
    expect(strip).to_have_count(0)
    expect(screen.get_by_role("button", name="Undo Godwit 45: tap 4 Ω")).to_be_enabled()


def test_a_what_if_that_cannot_be_says_so(screen: Page, server: Server) -> None:
    go(screen, server.url + "bench/split-fog")
    screen.keyboard.press("w")
    screen.get_by_role("button", name="Take Gabion 40 out of the hook-up").click()
    expect(screen.get_by_role("region", name="What if")).to_contain_text("take out Gabion 40")
    expect(screen.get_by_label("Verdict")).to_contain_text("Check first")
    screen.keyboard.press("u")
    expect(screen.get_by_label("Verdict")).to_contain_text("Do not switch on")


def test_overview_shows_all_and_a_press_goes_there(screen: Page, server: Server) -> None:
    go(screen, server.url + "bench/whole-ship")
    screen.keyboard.press("v")
    cards = screen.locator("[data-unit]")
    expect(cards).to_have_count(25)
    box = screen.locator("[data-unit]").evaluate_all(
        "els => els.map(e => e.getBoundingClientRect()).map(r => [r.left, r.top, r.right, r.bottom])"
    )
    assert all(left >= 0 and top >= 0 and right <= 1280 and bottom <= 800 for left, top, right, bottom in box)
    screen.get_by_role("button", name=re.compile("^Barnacle")).click()
    card = screen.get_by_role("article", name="Barnacle")
    expect(card).to_be_in_viewport()
    expect(card.locator("[data-socket]").first).to_be_focused()


def test_a_hookup_is_found_and_opened(screen: Page, server: Server) -> None:
    go(screen, server.url + "bench/split-fog")
    screen.keyboard.press("f")
    screen.get_by_role("combobox", name="Amp").select_option("godwit-45")
    screen.get_by_role("button", name="Look for one").click()
    proposals = screen.get_by_role("list", name="Proposals")
    expect(proposals.get_by_text("1. Godwit 45, 8 Ω tap · Revetment 16 at 8 Ω")).to_be_visible()
    expect(screen.get_by_text("it stands 40 W; flat out it gets 67.5 W from Godwit 45.")).to_be_visible()
    proposals.get_by_role("button", name="Open it as a new hook-up").first.click()
    expect(screen.get_by_role("button", name=re.compile("Hook-up: Godwit 45"))).to_be_visible()
    expect(screen.get_by_label("Verdict")).to_contain_text("Clear to switch on")


def test_a_wish_out_of_bounds_is_told(screen: Page, server: Server) -> None:
    go(screen, server.url + "bench/split-fog")
    screen.keyboard.press("f")
    screen.get_by_label("I want").select_option("down")
    for typed, said in (("99", "Down by: 99 dB is over the most allowed, 60 dB."), ("soft", "Down by")):
        screen.get_by_label("Down by").fill(typed)
        screen.get_by_role("button", name="Look for one").click()
        expect(screen.get_by_role("alert")).to_contain_text(said)


def test_a_microphone_goes_before_a_cabinet(screen: Page, server: Server) -> None:
    go(screen, server.url + "bench/in-the-loop")
    screen.locator('[data-socket="turnstone-212/front"]').click()
    screen.locator("[data-choice]", has_text="Limpet 1").click()
    expect(screen.get_by_role("article", name="Limpet 1")).to_be_visible()
    expect(screen.get_by_role("button", name="Undo add Limpet 1 and more")).to_be_enabled()


def test_the_locker_goes_out_and_comes_in(screen: Page, server: Server, tmp_path: Path) -> None:
    screen.goto(server.url + "locker")
    screen.get_by_role("button", name="Import and export").click()
    with screen.expect_download() as download:
        screen.get_by_role("menuitem", name="Save all as JSON").click()
    document = json.loads(Path(download.value.path()).read_text(encoding="utf-8"))
    assert len(document["gear"]) == len(GEAR)
    new = {**next(g for g in document["gear"] if g["id"] == "speaker-a"), "id": "speaker-z", "name": "Speaker lead Z"}
    path = tmp_path / "locker.json"
    path.write_text(json.dumps({**document, "gear": [new]}), encoding="utf-8")
    screen.get_by_role("button", name="Import and export").click()
    screen.get_by_role("menuitem", name="Read a locker file …").click()
    screen.get_by_label("Locker file", exact=True).set_input_files(path)
    screen.get_by_role("button", name="Take it in").click()
    expect(screen.get_by_role("status")).to_contain_text("1 added: Speaker lead Z")
    other = tmp_path / "other.json"
    other.write_text("{}", encoding="utf-8")
    screen.get_by_label("Locker file", exact=True).set_input_files(other)
    screen.get_by_role("button", name="Take it in").click()
    expect(screen.get_by_role("alert")).to_contain_text("not a locker file")


@pytest.mark.parametrize(
    ("text", "said"), [("20 8 0\n200 9 10\n", "2 points, 20 Hz to 200 Hz"), ("20 8 0\n10 8 0", "Line 2")]
)
def test_a_curve_is_read_in_or_refused(screen: Page, server: Server, tmp_path: Path, text: str, said: str) -> None:
    screen.goto(server.url + "locker/groyne-r8")
    screen.locator("summary", has_text="More").click()
    screen.get_by_text("Curve, reactive only").click()
    path = tmp_path / "curve.zma"
    path.write_text(text, encoding="utf-8")
    screen.get_by_label("Curve file").set_input_files(path)
    expect(screen.get_by_text(said, exact=False)).to_be_visible()


def test_a_damping_factor_from_two_readings(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/godwit-45")
    expect(screen.get_by_role("region", name="What is missing")).to_contain_text("Damping factor typical (0.6)")
    screen.locator("summary", has_text="More").click()
    screen.get_by_role("button", name="from two readings …").click()
    dialog = screen.get_by_role("dialog")
    for label, value in (("First load", "4"), ("Second load, more ohms", "16")):
        dialog.get_by_label(label).fill(value)
    dialog.get_by_label("Volts on it").first.fill("10")
    dialog.get_by_label("Volts on it").last.fill("25")
    dialog.get_by_role("button", name="Work it out").click()
    expect(dialog.get_by_role("status")).to_contain_text("Output impedance 16 Ω")
    dialog.get_by_role("button", name="Use 0.25").click()
    expect(screen.get_by_label("Damping factor, measured")).to_have_value("0.25")
    screen.get_by_role("button", name="Save changes").click()
    expect(screen.get_by_role("region", name="What is missing")).to_have_count(0)


def test_a_position_says_beforehand_what_it_leads_to(screen: Page, server: Server) -> None:
    go(screen, server.url + "bench/silent-night")
    screen.get_by_role("radio", name="16", exact=True).hover()
    expect(screen.get_by_text("Godwit 45 then sees 8 Ω on its 16 Ω tap", exact=False)).to_be_visible()
    screen.get_by_role("button", name="Groyne R8, Line level down").hover()
    expect(screen.get_by_text("peaks about −15.6 dBFS")).to_be_visible()
    screen.get_by_role("switch", name="Groyne R8, Cab filter").focus()
    expect(screen.get_by_text("Two speakers in the sound", exact=False)).to_be_visible()
    # Looking makes nothing: the hook-up is as it was.
    expect(screen.get_by_label("Verdict")).to_contain_text("Clear to switch on")
