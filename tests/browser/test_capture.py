"""Capture in a real browser: the ladder's gates, files brought in, advice put on, takes played, hum led through."""

from __future__ import annotations

import io
import re
from pathlib import Path

import numpy as np
import soundfile
from playwright.sync_api import Page, expect

from low_tide.demo.sound import Recipe, encoded, take
from tests.browser.pointer import drag
from tests.conftest import Server

PHRASE = (110.0, 164.8, 220.0, 164.8)

HEARD = """() => {
  window.heard = 0;
  const start = AudioBufferSourceNode.prototype.start;
  AudioBufferSourceNode.prototype.start = function (...args) {
    window.heard += this.buffer.duration;
    window.looped = this.loop;
    return start.apply(this, args);
  };
}"""


def go(page: Page, server: Server, at: str = "silent-night") -> None:
    page.goto(f"{server.url}capture/{at}")
    page.get_by_role("slider", name=re.compile("^Line level|^Gain")).first.wait_for()


def until(page: Page, what: str) -> None:
    """Waits for something in the page; not by the browser's own way, which its policy forbids."""
    for _ in range(200):
        if page.evaluate(f"() => {what}"):
            return
        page.wait_for_timeout(50)
    raise AssertionError(what)


def says(page: Page, text: str | re.Pattern[str]) -> None:
    aside = page.get_by_role("complementary", name="What this take says")
    expect(aside.get_by_text(text).first).to_be_visible()


def test_gates_by_key_by_number_and_by_mouse(screen: Page, server: Server) -> None:
    go(screen, server)
    pot = screen.get_by_role("slider", name="Line level of Groyne R8")
    expect(pot).to_have_attribute("aria-valuenow", "-4")
    pot.focus()
    for _ in range(3):
        screen.keyboard.press("[")
    expect(pot).to_have_attribute("aria-valuenow", "-7")
    expect(screen.get_by_text(re.compile(r"^Peaks −17\.\d dBFS flat out"))).to_be_visible()
    screen.keyboard.press("u")
    expect(pot).to_have_attribute("aria-valuenow", "-6")
    typed = screen.get_by_label("Gain of Skerry 4, typed, dB")
    typed.fill("9")
    typed.press("Enter")
    expect(screen.get_by_role("slider", name="Gain of Skerry 4")).to_have_attribute("aria-valuenow", "9")
    typed.fill("999")
    typed.press("Enter")
    expect(screen.get_by_text("is outside 0 to 12 dB.", exact=False)).to_be_visible()
    expect(screen.get_by_role("slider", name="Gain of Skerry 4")).to_have_attribute("aria-valuenow", "9")
    box = pot.bounding_box()
    assert box
    drag(pot, start=(box["width"] / 2, 60), by=(0, box["height"] - 62))
    expect(pot).to_have_attribute("aria-valuenow", "-40")


def test_best_setting_with_one_key_and_back_with_one(screen: Page, server: Server) -> None:
    go(screen, server, "processor-around")
    expect(screen.get_by_text(re.compile("^Set line level of Groyne R8 to −2.0 dB: peaks"))).to_be_visible()
    screen.keyboard.press("b")
    expect(screen.get_by_text("It stands best already.")).to_be_visible()
    screen.keyboard.press("u")
    expect(screen.get_by_text(re.compile("^Set line level of Groyne R8 to −2.0 dB"))).to_be_visible()
    screen.get_by_role("button", name="Table").first.click()
    expect(screen.get_by_role("columnheader", name="Flat out, dBu")).to_be_visible()


def test_files_are_brought_in_inspected_and_advice_put_on(screen: Page, server: Server, tmp_path: Path) -> None:
    quiet, hums, words = tmp_path / "Harbour 3.wav", tmp_path / "Cue 1 hum.flac", tmp_path / "notes.wav"
    quiet.write_bytes(encoded(take(Recipe(PHRASE, 14.0, -31.0), 3), "WAV"))
    hums.write_bytes(encoded(take(Recipe(PHRASE, 14.0, -12.0, hum=-50.0), 4), "FLAC"))
    words.write_bytes(b"only words, whatever its name says\n" * 50)
    go(screen, server)
    screen.get_by_label("Files to bring in").set_input_files([hums, words, quiet])
    dialog = screen.get_by_role("dialog")
    expect(dialog.get_by_label("Take").nth(1)).to_have_value("Harbour")
    dialog.get_by_label("Starts at").nth(1).fill("12.5")
    dialog.get_by_role("button", name="Bring them in").click()
    refused = screen.get_by_text(re.compile("notes.wav was not taken. This is not a WAV, FLAC or AIFF"))
    expect(refused).to_be_visible()
    says(screen, "Peaks at −30.9 dBFS, 13 dB under the window.")
    expect(screen.get_by_text("starts in the song at 12.5 s", exact=False)).to_be_visible()
    screen.get_by_role("button", name="Put the list away").click()
    aside = screen.get_by_role("complementary", name="What this take says")
    aside.get_by_role("button", name=re.compile("^Set the line level to 0 dB")).wait_for()
    screen.keyboard.press("1")
    expect(screen.get_by_role("slider", name="Line level of Groyne R8")).to_have_attribute("aria-valuenow", "0")
    says(screen, re.compile("It is on the hook-up already"))
    hums_take = screen.get_by_label("Take", exact=True).locator("option", has_text="hum").get_attribute("value")
    screen.get_by_label("Take", exact=True).select_option(hums_take)
    says(screen, re.compile("^Hum at 50 Hz"))


def test_a_take_is_played_from_anywhere_and_a_part_of_it_in_a_loop(screen: Page, server: Server) -> None:
    go(screen, server, "tap-on-lead")
    screen.evaluate(HEARD)
    wave = screen.get_by_role("slider", name=re.compile("^Place in take"))
    aside = screen.get_by_role("complementary", name="What this take says")
    aside.get_by_role("button", name=re.compile("^Go to .* and play: Clipped")).first.click()
    until(screen, "window.heard > 0")
    expect(screen.get_by_role("button", name="Stop", exact=True)).to_be_visible()
    wave.focus()
    screen.keyboard.press(" ")
    expect(screen.get_by_role("button", name="Play", exact=True)).to_be_visible()
    screen.keyboard.press("0")
    screen.keyboard.press("Home")
    expect(wave).to_have_attribute("aria-valuenow", "0")
    screen.keyboard.press("ArrowRight")
    assert float(wave.get_attribute("aria-valuenow") or 0) > 0
    for _ in range(14):
        screen.keyboard.press("+")
    screen.keyboard.press("0")
    drag(wave, start=(200, 40), by=(120, 0))
    expect(screen.get_by_role("button", name=re.compile("let go"))).to_be_visible()
    wave.focus()
    screen.keyboard.press(" ")
    until(screen, "window.looped === true")
    screen.keyboard.press(" ")
    screen.get_by_role("tab", name="Spectrum").click()
    expect(screen.locator(".recharts-line-curve")).to_have_count(2)


def test_a_take_is_recorded_through_the_stand_in(screen: Page, server: Server) -> None:
    go(screen, server)
    screen.get_by_role("button", name="Record, simulated").click()
    dialog = screen.get_by_role("dialog")
    dialog.get_by_label("Length").fill("900")
    dialog.get_by_role("button", name="Record it").click()
    expect(dialog.get_by_text("Length: 900 s is over the most allowed, 180 s.")).to_be_visible()
    dialog.get_by_label("Length").fill("4")
    dialog.get_by_label("Take", exact=True).fill("First try")
    dialog.get_by_role("button", name="Record it").click()
    expect(dialog).to_be_hidden()
    expect(screen.get_by_text("· simulated ·", exact=False)).to_be_visible()
    says(screen, re.compile("^Hum at 50 Hz, −58"))


def test_no_recording_where_it_must_not_be_switched_on(screen: Page, server: Server) -> None:
    screen.goto(f"{server.url}capture/empty-through")
    expect(screen.get_by_role("button", name="Record, simulated")).to_be_disabled()
    expect(screen.get_by_text("No recording of this hook-up yet")).to_be_visible()
    screen.goto(f"{server.url}capture/combo-bunks")
    expect(screen.get_by_text("Nothing is plugged into an input that records.")).to_be_visible()


def test_hum_is_led_through_and_the_quieter_position_stays(screen: Page, server: Server) -> None:
    go(screen, server)
    screen.get_by_role("button", name="Hum routine").click()
    for name in ("A", "B"):
        position = screen.get_by_role("region", name=f"Position {name}")
        position.get_by_role("button", name="Record 5 s, simulated").click()
        expect(position.get_by_text("thirds at")).to_be_visible()
    expect(screen.get_by_text("B is quieter by", exact=False)).to_be_visible()
    screen.get_by_role("button", name="Put B on and log it").click()
    expect(screen.get_by_text("It stands in the log.")).to_be_visible()
    expect(screen.get_by_text("Put the lift of Groyne R8 off, and compare.")).to_be_visible()
    screen.goto(f"{server.url}log")
    expect(screen.get_by_text("Hum at Skerry 4, line 3: the lift of Groyne R8 on stays", exact=False)).to_be_visible()


def test_the_log_plays_a_take_as_capture_does(screen: Page, server: Server) -> None:
    screen.goto(f"{server.url}log/1")
    screen.get_by_role("slider", name="Place in take 1").wait_for()
    screen.evaluate(HEARD)
    screen.get_by_role("button", name="Play", exact=True).click()
    until(screen, "window.heard > 1")
    screen.get_by_role("button", name="Stop", exact=True).click()
    screen.get_by_role("link", name="What it says, in Capture").click()
    says(screen, "No speaker in it, as the hook-up says.")
    part = screen.request.get(f"{server.url}api/takes/1/sound?start=2&stop=2.2").body()
    samples, rate = soundfile.read(io.BytesIO(part))
    assert len(samples) == rate // 5
    assert np.abs(samples).max() > 0.01
