"""Every screen: refusals in words, two windows, a server gone."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.rest import Rest, deaf
from tests.conftest import Server

SCREENS = {
    "bench stop": "bench/empty-through",
    "bench caution": "bench/tap-on-lead",
    "bench clear": "bench/quiet-hold",
    "bench large": "bench/whole-ship",
    "bench microphones": "bench/cupboard",
    "locker": "locker",
    "locker amp": "locker/redshank-100",
    "locker new": "locker/new?kind=cabinet",
    "run sheet": "run/tap-on-lead",
    "kit list": "run/tap-on-lead/kit",
    "what is wrong": "run/tap-on-lead/wrong",
    "search gone": "run/tap-on-lead/wrong/4711",
    "loudness": "loudness/combo-bunks",
    "loudness silent": "loudness/silent-night",
    "load feel": "feel/quiet-hold",
    "capture": "capture/tap-on-lead",
    "capture without takes": "capture/whole-ship",
    "capture stopped": "capture/empty-through",
    "compare new": "compare/new",
    "compare shoot-out": "compare/shoot-out?hookup=dry-revetment",
    "compare sweep": "compare/sweep",
    "compare gone": "compare/4711",
    "cab": "cab/2",
    "cab new": "cab/new",
    "cab gone": "cab/4711",
    "cab library": "cab/library",
    "locker place": "locker/bunks",
    "locker partition": "locker/aft-bulkhead",
    "log": "log",
    "log take": "log/1",
    "log new take": "log?take=new",
    "plan": "plan/fog-signal",
    "plan parts": "plan/fog-signal/parts?part=cue-2-lead",
    "plan days": "plan/fog-signal/when",
    "plan print": "plan/fog-signal/print",
    "plan new": "plan/new",
    "plan gone": "plan/no-such-project",
    "drills": "drills",
    "drills told": "drills/5",
    "drills over": "drills/1",
    "drills gone": "drills/4711",
    "nowhere": "no/such/page",
    "help": "help/checks",
    "guide": "help/user-guide",
}


def test_a_finding_lights_up_what_it_is_about(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/tap-on-lead")
    card = screen.locator('[data-unit="winkle-1"]')
    expect(card).not_to_have_class(re.compile("ring-4"))
    screen.locator("[data-finding=phantom-on]").hover()
    expect(card).to_have_class(re.compile("ring-4"))
    expect(screen.locator('[data-unit="redshank-100"]')).not_to_have_class(re.compile("ring-4"))


def test_one_slip_from_a_stop_is_told_with_its_guard(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/silent-night")
    screen.get_by_text(re.compile("One slip from a stop: .* ways")).click()
    expect(screen.get_by_text("then: Godwit 45 sees 8 Ω on its 4 Ω tap.")).to_be_visible()
    screen.get_by_role("button", name="Tape over the tap of Godwit 45 where it stands").first.click()
    expect(screen.get_by_text("then: Godwit 45 sees 8 Ω on its 4 Ω tap.")).to_have_count(0)
    taped = screen.get_by_role("button", name="taped: take the tape off, Tap of Godwit 45")
    expect(taped).to_be_visible()
    screen.keyboard.press("u")
    expect(taped).to_have_count(0)


def test_what_is_one_movement_from_a_stop_is_taped_with_one_key(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/tap-behind-pad")
    expect(screen.get_by_text("One movement from a stop: input of Winkle 1.")).to_be_visible()
    expect(screen.get_by_role("button", name=re.compile("^Tape the input of Winkle 1"))).to_be_visible()
    screen.keyboard.press("1")
    expect(screen.get_by_text("One movement from a stop: input of Winkle 1.")).to_have_count(0)
    mode = screen.get_by_role("radio", name="load, 33 Ω")
    expect(mode).to_be_disabled()
    tape = screen.get_by_role("button", name="taped: take the tape off, Input of Winkle 1")
    tape.focus()
    screen.keyboard.press("t")
    expect(mode).to_be_enabled()
    expect(screen.get_by_text("One movement from a stop: input of Winkle 1.")).to_be_visible()


def test_a_fix_shows_what_it_leads_to_before_it_is_made(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/split-fog")
    item = screen.locator("[data-finding=mismatch]")
    item.get_by_role("button").hover()
    expect(item).to_contain_text("Godwit 45 then sees 4 Ω")
    expect(screen.get_by_role("button", name=re.compile("^Undo"))).to_be_disabled()


def test_bad_values_are_named_and_kept_in_the_form(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/gabion-40")
    rating = screen.get_by_role("textbox", name="Rating")
    rating.fill("1000000")
    screen.get_by_role("button", name="Save changes").click()
    expect(screen.get_by_text("Not saved: Rating: 1000000 W is over the most allowed, 5000 W.")).to_be_visible()
    expect(rating).to_have_value("1000000")
    expect(rating).to_be_focused()
    screen.get_by_role("link", name="Bench").click()
    expect(screen.get_by_role("dialog")).to_contain_text("Leave without saving?")
    screen.get_by_role("button", name="Stay here").click()
    rating.fill("45,5")
    screen.get_by_role("button", name="Save changes").click()
    expect(screen.get_by_text("Saved.")).to_be_visible()
    expect(rating).to_have_value("45.5")


def test_a_typical_value_is_marked_until_it_is_known(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/new?kind=cabinet")
    screen.get_by_role("textbox", name="Name").fill("Sandpiper 1×10")
    marks = screen.get_by_text("typical, not measured")
    expect(marks).to_have_count(2)  # the rated impedance and the cone that a new driver starts with
    screen.get_by_role("button", name=re.compile("use the typical 98")).click()
    expect(marks).to_have_count(3)
    screen.get_by_role("textbox", name="Sensitivity").fill("97")
    expect(marks).to_have_count(2)
    for left in (1, 0):
        screen.get_by_role("button", name="it is known").first.click()
        expect(marks).to_have_count(left)


def test_gear_in_use_is_not_deleted(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/gabion-40")
    screen.get_by_role("button", name="Delete").click()
    screen.get_by_role("button", name="Delete it").click()
    expect(screen.get_by_role("alert")).to_contain_text("is used in Cue 3")


def test_two_windows(bench: Page, server: Server) -> None:
    deaf(bench)
    bench.goto(server.url + "bench/split-fog")
    other = bench.context.new_page()
    deaf(other)
    other.goto(server.url + "bench/split-fog")
    other.get_by_role("radio", name="4", exact=True).click()
    expect(other.get_by_label("Verdict")).not_to_contain_text("Do not switch on")
    # No focus event reaches the first window here, so it still shows the old state.
    bench.get_by_role("button", name="Gabion 40, Line level down").click()
    notice = bench.get_by_role("alert")
    expect(notice).to_contain_text("changed in another window")
    notice.get_by_role("button", name="Keep mine as a copy").click()
    expect(bench.get_by_role("button", name=re.compile("Hook-up: Cue 3.*copy"))).to_be_visible()
    expect(bench.get_by_text("−5 dB")).to_be_visible()


def test_two_windows_stay_in_step(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/split-fog")
    other = screen.context.new_page()
    other.goto(server.url + "bench/split-fog")
    other.get_by_role("radio", name="4", exact=True).click()
    expect(screen.get_by_label("Verdict")).to_contain_text("Check first")
    screen.keyboard.press("u")
    expect(other.get_by_label("Verdict")).to_contain_text("Do not switch on")


def test_when_the_server_is_gone(page: Page, server: Server) -> None:
    page.goto(server.url + "bench/quiet-hold")
    page.get_by_role("list", name="Findings").wait_for()
    server.kill()
    page.get_by_role("radio", name="4", exact=True).click()
    expect(page.get_by_role("alert").filter(has_text="Nothing you entered is lost")).to_be_visible()
    expect(page.get_by_role("alert").filter(has_text="Is it still running")).to_have_count(2)


def test_a_wrong_audio_file_does_not_lose_the_take(bench: Page, server: Server, tmp_path: Path) -> None:
    words = tmp_path / "take.wav"
    words.write_text("only words " * 100)
    bench.goto(server.url + "log?take=new")
    bench.get_by_role("textbox", name="Take", exact=True).fill("Kept all the same")
    bench.get_by_label("Audio file").set_input_files(words)
    bench.get_by_role("button", name="Log the take").click()
    expect(bench.get_by_role("alert")).to_contain_text("not a WAV, FLAC or AIFF file")
    bench.get_by_role("button", name="Go to the take").click()
    expect(bench.get_by_role("article")).to_contain_text("Kept all the same")


def test_a_broken_hookup_file_is_refused(bench: Page, tmp_path: Path) -> None:
    cut = tmp_path / "cut.json"
    cut.write_text('{"format": "low-tide/hookup", "ver')
    bench.keyboard.press("o")
    bench.get_by_label("Hook-up file").set_input_files(cut)
    expect(bench.get_by_role("dialog")).to_contain_text("It looks cut off")


def test_the_chart_reads_off_by_keyboard_and_as_a_table(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/split-fog")
    chart = screen.get_by_role("group", name=re.compile("Tide line"))
    chart.focus()
    screen.keyboard.press("ArrowRight")
    screen.keyboard.press("ArrowRight")
    expect(screen.locator('[data-unit="gabion-40"]')).to_have_class(re.compile("ring-4"))
    screen.get_by_role("button", name="Table").click()
    expect(screen.get_by_role("row", name="Gabion 40 power 33.8 / 40 W −0.7 – fine")).to_be_visible()


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (1024, 768), (1920, 1080)])
def test_the_bench_fits_without_page_scroll(page: Page, server: Server, width: int, height: int) -> None:
    page.set_viewport_size({"width": width, "height": height})
    page.goto(server.url + "bench/quiet-hold")
    page.get_by_role("list", name="Findings").wait_for()
    page.wait_for_timeout(200)
    size = page.evaluate("[document.documentElement.scrollWidth, document.documentElement.scrollHeight]")
    assert size[0] <= width
    assert size[1] <= height


@pytest.mark.parametrize("path", ["run/silent-night", "log/1"])
def test_a_phone_has_no_sideways_scroll(page: Page, server: Server, path: str) -> None:
    page.set_viewport_size({"width": 390, "height": 800})
    rest = Rest(page)
    page.goto(server.url + path)
    rest.wait()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
