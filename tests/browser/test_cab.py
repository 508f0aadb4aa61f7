"""Cab blend in a real browser: strips slid by mouse and keys, brought into line, heard, undone, files in and out."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, Route, expect

from low_tide.core.audio.rendering import cab_filter, coloured
from low_tide.formats.recording import write_wav
from tests.browser.pointer import drag
from tests.browser.test_capture import until
from tests.browser.test_compare import GAINS
from tests.conftest import Server


@pytest.fixture
def wide(screen: Page, server: Server) -> Page:
    screen.goto(f"{server.url}cab")
    screen.get_by_text("Lost to phase").wait_for()
    return screen


def strip(page: Page, letter: str) -> str:
    return page.get_by_role("slider", name=re.compile(f"^{letter},")).get_attribute("aria-valuetext") or ""


def test_out_of_phase_is_told_mended_and_undone(wide: Page) -> None:
    expect(wide.get_by_text("Lost to phase: low")).to_be_visible()
    wide.get_by_role("listitem").filter(has_text="Turned over").get_by_role("button", name="turn over").click()
    expect(wide.get_by_text("Turned over it would make")).to_have_count(0)
    wide.get_by_role("radio", name="by best sum").click()
    second = wide.get_by_role("slider", name=re.compile("^B,"))
    expect(second).to_have_attribute("aria-valuetext", re.compile("^−2.7"))
    expect(wide.get_by_text(re.compile("Gained by it: low"))).to_be_visible()
    # Everything by keys: all of them count, however fast they come.
    second.focus()
    before = strip(wide, "B")
    for _ in range(12):
        wide.keyboard.press("ArrowRight")
    after = float(before.removesuffix(" ms").replace("−", "-")) + 0.12
    expect(second).to_have_attribute("aria-valuetext", f"{after:.2f} ms".replace("-", "−"))
    expect(wide.get_by_role("radio", name="by best sum")).to_have_attribute("aria-checked", "false")
    for _ in range(12):
        wide.keyboard.press("u")
    expect(second).to_have_attribute("aria-valuetext", before)
    wide.keyboard.press("U")
    expect(second).not_to_have_attribute("aria-valuetext", before)
    drag(second, start=(400, 20), by=(60, 0))
    expect(second).to_have_attribute("aria-valuetext", re.compile("^−1"))
    expect(wide.get_by_label("Delay of B, ms")).to_have_value(re.compile("^−1"))


def test_a_suggestion_is_put_on_and_undone(wide: Page) -> None:
    wide.get_by_label("Held against").select_option(label="blend “Drone, near and dark”")
    wide.get_by_role("button", name="Suggest …").click()
    found = wide.get_by_role("list", name="Suggested blends").get_by_role("listitem")
    expect(found).to_have_count(5)
    expect(wide.get_by_text("nearest to “Drone, near and dark” first")).to_be_visible()
    # The blend it is held against is made of two that are trusted.
    expect(found.first).to_contain_text("Whimbrel closed 4x12, ribbon")
    found.first.get_by_role("button", name="Put it on").click()
    expect(wide.get_by_text("It is like “Drone, near and dark”: no band is 2 dB off.")).to_be_visible()
    wide.keyboard.press("u")
    expect(wide.get_by_text("Turned over it would make")).to_be_visible()


def test_how_late_one_hears_oneself_is_worked_out(wide: Page) -> None:
    wide.get_by_role("button", name="Delay …").click()
    expect(wide.get_by_text("most players do not feel it")).to_be_visible()
    wide.get_by_label("Buffer").fill("1024")
    expect(wide.get_by_text("The buffer is the most of it: 128 samples take")).to_be_visible()
    wide.get_by_label("Buffer").fill("lots")
    expect(wide.get_by_text(re.compile("^Buffer: ")).first).to_be_visible()
    wide.get_by_label("Buffer").fill("256")
    wide.get_by_label("The interface lets the input through").check()
    expect(wide.get_by_text("together first cancel at")).to_be_visible()


def test_numbers_are_typed_and_bounds_are_told(wide: Page) -> None:
    field = wide.get_by_label("Gain of B, dB")
    field.fill("33")
    expect(wide.get_by_role("alert")).to_have_text("−40 to 12")
    field.press("Escape")
    expect(field).to_have_value("12.0")
    field.fill("-3,5")
    field.press("Enter")
    expect(field).to_have_value("−3.5")
    wide.reload()
    expect(wide.get_by_label("Gain of B, dB")).to_have_value("−3.5")


def test_it_is_heard_and_changes_over_without_a_gap(wide: Page) -> None:
    wide.evaluate(GAINS)
    wide.keyboard.press(" ")
    until(wide, "window.sounds.length === 1")
    wide.keyboard.press("b")
    until(wide, "window.sounds.length === 2")
    until(wide, "window.heard.length >= 3")
    # The one before goes down while the next comes up; both are loops of one length.
    assert wide.evaluate("window.heard.slice(1)") == [0, 1]
    assert len(set(wide.evaluate("window.sounds.map((s) => s[0])"))) == 1
    wide.get_by_role("button", name="clean", exact=True).click()
    until(wide, "window.sounds.length === 3")
    wide.keyboard.press("b")
    wide.get_by_role("listitem").filter(has_text="1 m").get_by_role("button", name="mute").click()
    until(wide, "window.sounds.length >= 4")
    expect(wide.get_by_text(re.compile(r"min of choosing, \d+ heard"))).to_be_visible()
    wide.keyboard.press(" ")
    expect(wide.get_by_role("button", name="Play", exact=True)).to_be_visible()


def test_files_come_in_are_named_and_blended(screen: Page, server: Server, tmp_path: Path) -> None:
    screen.goto(f"{server.url}cab/library")
    screen.get_by_text("18 in all").wait_for()
    spike = np.zeros(4800)
    spike[10] = 1.0
    good, bad = tmp_path / "Heron open 2x12, ribbon, 30 cm.wav", tmp_path / "silence.wav"
    good.write_bytes(write_wav(coloured(spike, cab_filter), 48_000, "FLOAT"))
    bad.write_bytes(write_wav(np.zeros(4800), 48_000))
    screen.get_by_label("Impulse responses to bring in").set_input_files([good, bad, good])
    expect(screen.get_by_text("1 came in, 2 did not")).to_be_visible()
    expect(screen.get_by_text("silence.wav: This is no impulse response: it is silent.")).to_be_visible()
    expect(screen.get_by_text("This very file is in the library already")).to_be_visible()
    screen.get_by_label("Search the library").fill("heron")
    screen.get_by_role("button", name=re.compile("^Heron open")).click()
    expect(screen.get_by_label("Microphone", exact=True)).to_have_value("ribbon")
    screen.get_by_label("Distance").fill("5000")
    screen.get_by_role("button", name="Save").click()
    expect(screen.get_by_text("Distance: 5000 cm is over the most allowed, 1000 cm.").first).to_be_visible()
    screen.get_by_label("Distance").fill("31")
    screen.get_by_role("button", name="Save").click()
    expect(screen.get_by_role("button", name="Saved")).to_be_visible()
    screen.get_by_label("Notes").fill("bright")
    expect(screen.get_by_role("button", name="Save", exact=True)).to_be_visible()
    screen.get_by_role("button", name="Save", exact=True).click()
    expect(screen.get_by_role("button", name="Saved")).to_be_visible()
    screen.get_by_role("button", name=re.compile("^Short list: Heron")).click()
    expect(screen.get_by_text("short list 7 of 8")).to_be_visible()
    screen.goto(f"{server.url}cab/new")
    screen.get_by_role("button", name="New blend …").click()
    screen.get_by_label("Name").fill("Heron alone")
    screen.keyboard.press("Enter")
    screen.get_by_label("Search impulse responses").fill("heron")
    screen.get_by_role("checkbox", name=re.compile("^Heron")).check()
    screen.get_by_role("button", name="Put 1 in").click()
    expect(screen.get_by_role("heading", name="Blend “Heron alone”")).to_be_visible()
    screen.get_by_role("button", name="Files out …").click()
    with screen.expect_download() as got:
        screen.get_by_role("link", name="Recipe, JSON").click()
    recipe = tmp_path / "recipe.json"
    got.value.save_as(recipe)
    screen.keyboard.press("Escape")
    screen.get_by_label("Recipe of a blend").set_input_files(recipe)
    expect(screen.get_by_role("combobox", name="Blend").locator("option")).to_have_count(5)
    recipe.write_text("no recipe", encoding="utf-8")
    screen.get_by_label("Recipe of a blend").set_input_files(recipe)
    expect(screen.get_by_text("it is not JSON")).to_be_visible()


def test_a_take_with_a_speaker_is_asked_about_and_what_was_taken_is_logged(wide: Page, server: Server) -> None:
    wide.get_by_role("button", name="Files out …").click()
    wide.get_by_label("Take", exact=True).select_option("take-6")
    expect(wide.get_by_text("This take has a speaker in it already")).to_be_visible()
    expect(wide.get_by_role("link", name="Take through the blend")).to_have_count(0)
    wide.get_by_label("I know, render it anyway").check()
    with wide.expect_download() as got:
        wide.get_by_role("link", name="Take through the blend").click()
    assert got.value.suggested_filename.endswith("Fog--wide.wav")
    wide.keyboard.press("Escape")
    wide.get_by_role("button", name="Take it for a part …").click()
    wide.get_by_label("For the part").fill("main")
    wide.get_by_label("Why").fill("full, and it leaves room")
    wide.get_by_role("button", name="Into the log").click()
    expect(wide.get_by_role("dialog")).to_have_count(0)
    wide.goto(f"{server.url}log")
    expect(wide.get_by_text("Speaker for main: “Fog, wide”")).to_be_visible()


def test_a_filter_is_set_by_hand_fitted_and_left_again(wide: Page) -> None:
    wide.get_by_role("button", name="Adjustable filter instead").click()
    expect(wide.get_by_role("heading", name="Filter “Fog, wide”")).to_be_visible()
    expect(wide.get_by_role("region", name="In time")).to_have_count(0)
    field = wide.get_by_label("Gain of the presence, dB", exact=True)
    field.fill("99")
    expect(wide.get_by_role("alert")).to_have_text("−12 to 15")
    field.fill("-9")
    field.press("Enter")
    expect(wide.get_by_text(re.compile("The presence is .* dB under the rest of your library"))).to_be_visible()
    wide.get_by_label("Bare signal mixed in", exact=True).check()
    expect(wide.get_by_label("Low-pass of the bare signal, Hz")).to_have_value("7500")
    slider = wide.get_by_role("slider", name="Low-pass", exact=True)
    before = slider.get_attribute("aria-valuetext")
    slider.press("ArrowLeft")
    expect(slider).not_to_have_attribute("aria-valuetext", before or "")
    wide.get_by_role("button", name="Bring it near").click()
    expect(wide.get_by_text(re.compile(r"^0\.\d dB off the rest of your library"))).to_be_visible()
    expect(wide.get_by_text("It is like the rest of your library")).to_be_visible()
    wide.keyboard.press("u")
    expect(field).to_have_value("−9.0")
    wide.get_by_role("button", name="Impulse responses instead").click()
    expect(wide.get_by_text("Turned over it would make")).to_be_visible()


def test_a_blend_and_a_filter_are_heard_without_knowing(wide: Page) -> None:
    wide.evaluate(GAINS)
    wide.get_by_role("button", name="blind …").click()
    wide.get_by_label("Which is better?").check()
    wide.get_by_label("Other", exact=True).select_option(label="Solo, under the deck")
    wide.get_by_label("Trials").fill("4")
    wide.get_by_role("button", name="Begin").click()
    wide.get_by_role("button", name="Hear the first").click()
    until(wide, "window.sounds.length === 2")
    for trial in range(1, 5):
        expect(wide.get_by_text(f"Trial {trial} of 4")).to_be_visible()
        wide.get_by_role("button", name="the first", exact=True).click()
    told = wide.get_by_role("dialog").get_by_role("status")
    expect(told).to_contain_text("preferred")
    said = told.inner_text()
    wide.get_by_role("button", name="Done").click()
    expect(wide.get_by_role("list", name="Blind, so far")).to_have_text(said)


def test_a_solo_is_brought_out_of_the_mix(wide: Page, tmp_path: Path) -> None:
    wide.get_by_label("Blend", exact=True).select_option(label="Solo, under the deck")
    wide.get_by_role("link", name="In the mix").click()
    told = wide.get_by_role("region", name="What comes through").get_by_role("status")
    expect(told).to_contain_text("Heard in 7 of 24 bands, none over 2 kHz: brighter.")
    foretold = re.search(r"3 dB more would be heard in (\d+)", told.inner_text())
    assert foretold
    field = wide.get_by_role("textbox", name="Guitar over the backing, LU")
    field.fill("-5")
    field.press("Enter")
    expect(told).to_contain_text(f"Heard in {foretold[1]} of 24 bands")
    told.click()
    wide.keyboard.press("u")
    expect(told).to_contain_text("Heard in 7 of 24 bands")
    # The drums leave it room above.
    wide.get_by_role("button", name="Mute built-in drums").click()
    expect(told).not_to_contain_text("Heard in 7 of 24 bands")
    wide.keyboard.press("u")
    wide.keyboard.press("1")
    ranked = wide.get_by_role("list", name="Speakers by how they are heard").get_by_role("listitem")
    expect(ranked).to_have_count(9)
    ranked.first.get_by_role("button").click()
    expect(wide.get_by_text(re.compile("“Solo, under the deck” is .* alone now"))).to_be_visible()
    expect(told).to_contain_text("none under 800 Hz: it has no body here")
    wide.get_by_role("button", name="Undo it").click()
    expect(told).to_contain_text("none over 2 kHz")
    wide.evaluate(GAINS)
    wide.keyboard.press(" ")
    until(wide, "window.sounds.length === 1")
    wide.keyboard.press("b")
    until(wide, "window.sounds.length === 2")
    # Guitar alone takes over from both where they are.
    until(wide, "window.heard.length >= 3")
    assert wide.evaluate("window.heard.slice(1)") == [0, 1]


def test_a_mix_is_found_and_opened(bench: Page) -> None:
    bench.keyboard.press("/")
    bench.keyboard.type("cue 3 signal")
    bench.get_by_role("option", name=re.compile("Fog Signal, cue 3")).click()
    expect(bench).to_have_url(re.compile(r"/cab/\d+/mix\?mix=1$"))
    expect(bench.get_by_role("list", name="Tracks of the backing").get_by_role("listitem")).to_have_count(4)


def test_stems_and_takes_join_a_mix_and_leave_it(wide: Page, tmp_path: Path) -> None:
    wide.get_by_role("link", name="In the mix").click()
    wide.get_by_role("button", name="New", exact=True).click()
    wide.get_by_label("Name").fill("Cue 4")
    wide.keyboard.press("Enter")
    expect(wide.get_by_text("Nothing to hear it against yet")).to_be_visible()
    stem, text = tmp_path / "buoy, far.wav", tmp_path / "notes.wav"
    stem.write_bytes(write_wav(0.1 * np.random.default_rng(2).standard_normal(2 * 48_000), 48_000))
    text.write_text("no sound", encoding="utf-8")
    wide.get_by_label("Files for the mix").set_input_files([stem, text])
    expect(wide.get_by_text("This is not a WAV, FLAC or AIFF file")).to_be_visible()
    tracks = wide.get_by_role("list", name="Tracks of the backing").get_by_role("listitem")
    expect(tracks).to_have_count(1)
    wide.get_by_role("button", name="Takes, files …").click()
    wide.get_by_role("checkbox").first.check()
    wide.get_by_role("button", name="Add 1").click()
    expect(tracks).to_have_count(2)
    begins = wide.get_by_role("textbox", name="buoy, far begins at, s")
    begins.fill("40")
    begins.press("Enter")
    expect(begins).to_have_value("40.00")
    wide.get_by_label("Played to, s").fill("0.5")
    wide.get_by_label("Played to, s").press("Enter")
    expect(wide.get_by_text("1 to 30 s long.")).to_be_visible()
    wide.keyboard.press("Escape")
    for _ in range(2):
        tracks.first.get_by_role("button", name=re.compile("^Take .* out$")).click()
    expect(wide.get_by_text("Nothing to hear it against yet")).to_be_visible()
    wide.keyboard.press("u")
    wide.keyboard.press("u")
    expect(tracks).to_have_count(2)
    wide.get_by_role("button", name="Delete").click()
    wide.get_by_role("button", name="Delete it").click()
    expect(wide.get_by_label("Mix", exact=True).locator("option")).to_have_text(["Fog Signal, cue 3"])


def test_several_are_named_at_once_and_undone(screen: Page, server: Server) -> None:
    screen.goto(f"{server.url}cab/library")
    screen.get_by_label("Search the library").fill("ribbon")
    screen.get_by_role("button", name=re.compile(r"^Mark all \d")).click()
    form = screen.get_by_role("form", name="Several at once")
    expect(form.get_by_label("Microphone")).to_have_attribute("placeholder", "ribbon")
    expect(form.get_by_label("Cabinet")).to_have_attribute("placeholder", "they differ")
    form.get_by_label("Distance").fill("5000")
    form.get_by_role("button", name=re.compile("^Say it of")).click()
    expect(screen.get_by_text("Distance: 5000 cm is over the most allowed, 1000 cm.").first).to_be_visible()
    form.get_by_label("Distance").fill("")
    form.get_by_label("More tags").fill("deck")
    form.get_by_role("button", name=re.compile("^Say it of")).click()
    expect(form.get_by_role("button", name="Saved")).to_be_visible()
    expect(screen.get_by_text("deck")).not_to_have_count(0)
    form.get_by_role("button", name="Saved").focus()
    screen.keyboard.press("u")
    expect(screen.get_by_text("deck", exact=True)).to_have_count(0)
    form.get_by_role("button", name=re.compile("^Delete")).click()
    expect(screen.get_by_role("dialog")).to_contain_text("cannot be undone")
    screen.get_by_role("button", name="Delete them").click()
    expect(screen.get_by_text("None has these words")).to_be_visible()


def test_what_nobody_answered_is_not_lost(wide: Page) -> None:
    """An edit while the server is away stays as it was typed, and goes out when it is back."""

    def away(route: Route) -> None:
        if route.request.method == "PUT":
            route.abort("internetdisconnected")
        else:
            route.continue_()

    wide.route("**/api/blends/*", away)
    field = wide.get_by_label("Gain of B, dB")
    field.fill("-7")
    field.press("Enter")
    expect(wide.get_by_text("The server does not answer")).to_be_visible()
    expect(field).to_have_value("−7.0")
    wide.get_by_role("button", name="Try again").click()
    expect(wide.get_by_text("The server does not answer")).to_be_visible()
    expect(field).to_have_value("−7.0")
    wide.unroute("**/api/blends/*")
    wide.get_by_role("button", name="Try again").click()
    expect(wide.get_by_text("The server does not answer")).to_have_count(0)
    wide.reload()
    expect(wide.get_by_label("Gain of B, dB")).to_have_value("−7.0")


def test_a_copy_is_made_and_held_against_the_first(wide: Page) -> None:
    wide.get_by_role("button", name="More").click()
    wide.get_by_role("menuitem", name="Copy …").click()
    expect(wide.get_by_label("Name")).to_have_value("Fog, wide, once more")
    wide.keyboard.press("Enter")
    expect(wide.get_by_role("heading", name="Blend “Fog, wide, once more”")).to_be_visible()
    wide.get_by_label("Held against").select_option(label="blend “Fog, wide”")
    expect(wide.get_by_text("It is like “Fog, wide”: no band is 2 dB off.")).to_be_visible()
