"""Compare in a real browser: the lightship's four loads, files dropped, heard side by side, blind, and undone."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import APIResponse, Page, Route, expect

from tests.browser.test_capture import until
from tests.conftest import Server
from tests.core.pieces import piece, taken
from tests.web.test_capture import encoded

GAINS = """() => {
  window.heard = [];
  const ramp = AudioParam.prototype.linearRampToValueAtTime;
  AudioParam.prototype.linearRampToValueAtTime = function (value, at) {
    window.heard.push(value);
    return ramp.call(this, value, at);
  };
  window.sounds = [];
  const start = AudioBufferSourceNode.prototype.start;
  AudioBufferSourceNode.prototype.start = function (...args) {
    window.sounds.push([this.buffer.duration, this.loop, args[0]]);
    return start.apply(this, args);
  };
}"""


def go(page: Page, server: Server) -> None:
    page.goto(f"{server.url}compare")
    page.get_by_role("button", name="Play", exact=True).wait_for()
    expect(page.get_by_role("status").filter(has_text="Turnstone 2×12 is")).to_be_visible()


def test_four_loads_are_worked_out_and_heard_side_by_side(screen: Page, server: Server) -> None:
    go(screen, server)
    said = screen.get_by_role("status").filter(has_text="An equaliser can give")
    expect(said).to_contain_text("Turnstone 2×12 is")
    expect(screen.get_by_role("radio", name=re.compile("Turnstone 2×12"))).to_be_enabled()
    screen.evaluate(GAINS)
    screen.keyboard.press("c")
    until(screen, "window.sounds.length === 4")
    sounds = screen.evaluate("window.sounds")
    # All four at once, as long as each other, over and over: what changes is which is let through.
    assert len({tuple(s) for s in sounds}) == 1
    assert sounds[0][1] is True
    expect(screen.get_by_role("status").filter(has_text="Revetment 16 is")).to_be_visible()
    assert screen.evaluate("window.heard") == [0, 0, 1, 0]
    screen.keyboard.press("a")
    until(screen, "window.heard.length === 8")
    assert screen.evaluate("window.heard.slice(4)") == [1, 0, 0, 0]
    assert screen.evaluate("window.sounds.length") == 4
    screen.keyboard.press(" ")
    expect(screen.get_by_role("button", name="Play", exact=True)).to_be_visible()
    # The strips by keyboard: which recording, and the part that is played.
    strips = screen.get_by_role("slider", name="The part that is played")
    strips.focus()
    before = strips.get_attribute("aria-valuetext")
    screen.keyboard.press("ArrowRight")
    expect(strips).not_to_have_attribute("aria-valuetext", before or "")
    for view, text in (
        ("Dynamics", "LUFS, three seconds at a time"),
        ("What a filter can do", "Over all 9"),
        ("Matching filter", "make"),
    ):
        screen.get_by_role("tab", name=view).click()
        expect(screen.get_by_text(re.compile(text)).first).to_be_visible()
    screen.get_by_role("tab", name="Level by band").click()
    expect(screen.get_by_role("img", name="Difference from the reference over frequency")).to_be_visible()
    screen.get_by_role("button", name="Table").click()
    expect(screen.get_by_role("columnheader", name="Gabion 40, dB")).to_be_visible()


def test_sections_are_kept_and_everything_can_be_undone(screen: Page, server: Server) -> None:
    go(screen, server)
    screen.get_by_role("slider", name="The part that is played").focus()
    screen.keyboard.press("ArrowRight")
    screen.get_by_role("button", name="Keep this part").click()
    expect(screen.get_by_role("button", name="Forget this one")).to_be_visible()
    screen.get_by_role("button", name="What to do with Gabion 40").click()
    screen.get_by_role("menuitem", name="Take it off the list").click()
    expect(screen.get_by_role("radio")).to_have_count(3)
    screen.get_by_role("button", name="What to do with Turnstone 2×12").click()
    screen.get_by_role("menuitem", name="Make it the reference").click()
    expect(screen.get_by_role("radio").first).to_have_accessible_name(re.compile("Turnstone"))
    expect(screen.get_by_role("status").filter(has_text="Groyne R8 is")).to_be_visible()
    screen.keyboard.press("u")
    expect(screen.get_by_role("radio").first).to_have_accessible_name(re.compile("Groyne"))
    screen.keyboard.press("u")
    expect(screen.get_by_role("radio")).to_have_count(4)
    screen.keyboard.press("u")
    expect(screen.get_by_role("button", name="Keep this part")).to_be_visible()
    screen.keyboard.press("U")
    expect(screen.get_by_role("button", name="Forget this one")).to_be_visible()


def test_files_from_elsewhere_blind_and_into_the_log(screen: Page, server: Server, tmp_path: Path) -> None:
    played = np.tanh(4 * piece(8, 1))
    for name, gain in (("Bell straight", 1.0), ("Bell softer", 0.5)):
        (tmp_path / f"{name}.wav").write_bytes(encoded(taken(gain * played, len(name))))
    (tmp_path / "no sound.wav").write_text("this is a letter")
    screen.goto(f"{server.url}compare/new")
    screen.get_by_label("Name").fill("Bells")
    screen.get_by_role("button", name="Begin with files").click()
    expect(screen.get_by_text("Nothing to compare yet")).to_be_visible()
    files = screen.get_by_label("Files to compare")
    files.set_input_files(tmp_path / "no sound.wav")
    expect(screen.get_by_role("alert")).to_contain_text("not a WAV, FLAC or AIFF file")
    files.set_input_files([tmp_path / "Bell straight.wav", tmp_path / "Bell softer.wav"])
    expect(screen.get_by_role("status").filter(has_text="Bell softer is 6 dB quieter.")).to_be_visible()
    screen.get_by_role("button", name="Blind …").click()
    dialog = screen.get_by_role("dialog")
    dialog.get_by_label("Trials").fill("3")
    expect(dialog.get_by_role("button", name="Begin")).to_be_disabled()
    dialog.get_by_label("Trials").fill("4")
    dialog.get_by_role("button", name="Begin").click()
    for trial in range(1, 5):
        expect(dialog.get_by_text(f"Trial {trial} of 4")).to_be_visible()
        dialog.get_by_role("button", name="Hear X").click()
        expect(dialog.get_by_role("button", name="Hear X")).to_have_attribute("aria-pressed", "true")
        dialog.get_by_role("button", name="A", exact=True).click()
    expect(dialog.get_by_role("status")).to_contain_text("of 4 right. By guessing so many or more happen")
    dialog.get_by_role("button", name="Done").click()
    expect(screen.get_by_role("region", name="Blind, so far")).to_contain_text("of 4 right")
    screen.get_by_role("button", name="Take one, and say why …").click()
    dialog.get_by_label("Why").fill("It rings on.")
    dialog.get_by_role("button", name="Into the log").click()
    expect(dialog).to_have_count(0)
    screen.goto(f"{server.url}log")
    expect(screen.get_by_text("Bells: picked Bell softer. It rings on. (Over Bell straight.)")).to_be_visible()
    screen.goto(f"{server.url}compare")
    screen.get_by_role("button", name="Delete").click()
    screen.get_by_role("button", name="Delete it").click()
    screen.wait_for_url(re.compile(r"compare/1$"))


def test_takes_are_chosen_from_the_log_in_their_order(screen: Page, server: Server) -> None:
    screen.goto(f"{server.url}compare/new")
    screen.get_by_label("Name").fill("Two of them")
    screen.get_by_role("button", name="Choose takes …").click()
    dialog = screen.get_by_role("dialog")
    dialog.get_by_label("Search takes").fill("dry track")
    expect(dialog.get_by_role("listitem")).to_have_count(4)
    compare = dialog.get_by_role("button", name=re.compile("^Compare"))
    expect(compare).to_be_disabled()
    for hookup in ("Gabion 40", "Groyne R8"):
        dialog.get_by_role("checkbox", name=re.compile(hookup)).check()
    compare.click()
    expect(screen.get_by_role("status").filter(has_text="Groyne R8 is")).to_be_visible()
    expect(screen.get_by_role("radio").first).to_have_accessible_name(re.compile("Gabion"))


def test_a_shoot_out_is_written_recorded_and_compared(screen: Page, server: Server) -> None:
    screen.goto(f"{server.url}compare/shoot-out?hookup=dry-revetment")
    screen.get_by_label("Name").fill("Curves")
    screen.get_by_label("Length").fill("4")
    screen.get_by_label("or every position of").select_option(label="Curve of Revetment 16")
    screen.get_by_role("button", name=re.compile("^4 hook-ups: closed 4×12, open back")).click()
    expect(screen.get_by_role("group", name="Hook-ups, 4 chosen")).to_be_visible()
    screen.get_by_label("The amp’s controls were set on").select_option(label="Dry track into Revetment 16, bright")
    screen.get_by_role("button", name="Write the list").click()
    shown = screen.get_by_role("region", name="Shoot-out list")
    expect(shown).to_contain_text("4 recordings, no speaker lead moved.")
    expect(shown).to_contain_text("Revetment 16: curve soft")
    screen.get_by_role("button", name="Record what is missing, simulated").click()
    expect(shown.get_by_text("recorded", exact=True)).to_have_count(4, timeout=90_000)
    screen.get_by_role("button", name="Shoot-out list").click()
    expect(screen.get_by_role("status").filter(has_text="which favours it")).to_be_visible()
    expect(screen.get_by_role("radio").first).to_have_accessible_name(re.compile("bright"))


def test_a_list_asked_for_before_a_write_is_asked_for_again(screen: Page, server: Server) -> None:
    """The first list of hook-ups comes late, as it was before hook-ups were made: it is not taken for what is there."""
    held: list[tuple[Route, APIResponse]] = []
    asked: list[Route] = []

    def hold(route: Route) -> None:
        asked.append(route)
        if len(asked) > 1:
            route.continue_()
        else:
            held.append((route, route.fetch()))

    screen.route(re.compile(r"/api/hookups\?search=$"), hold)
    screen.goto(f"{server.url}compare/shoot-out?hookup=dry-revetment")
    screen.get_by_label("or every position of").select_option(label="Curve of Revetment 16")
    while not held:
        screen.wait_for_timeout(50)
    screen.get_by_role("button", name=re.compile("^4 hook-ups: closed 4×12, open back")).click()
    expect(screen.get_by_role("group", name="Hook-ups, 4 chosen")).to_be_visible()
    route, response = held[0]
    route.fulfill(response=response)
    options = screen.get_by_label("The amp’s controls were set on").locator("option")
    expect(options.filter(has_text="Dry track into Revetment 16, bright")).to_have_count(1)


def test_a_path_is_measured(screen: Page, server: Server, tmp_path: Path) -> None:
    screen.goto(f"{server.url}compare/sweep")
    with screen.expect_download() as download:
        screen.get_by_role("link", name="Save it").click()
    kept = tmp_path / "test.wav"
    download.value.save_as(kept)
    recording = screen.get_by_label("Recording of the test file")
    recording.set_input_files(kept)
    said = screen.get_by_role("table", name="What the recording says")
    expect(said).to_contain_text("0.0 samples at 48 kHz")
    expect(said).to_contain_text("kept")
    (tmp_path / "short.wav").write_bytes(kept.read_bytes()[: 44 + 48_000 * 3 * 4])
    recording.set_input_files(tmp_path / "short.wav")
    expect(screen.get_by_role("alert")).to_contain_text("cut off")
    screen.get_by_label("Or through the simulated interface").select_option("dry-gabion")
    screen.get_by_role("button", name="Measure it").click()
    expect(screen.get_by_text("Simulated: made by the program, not measured.")).to_be_visible()
    screen.get_by_label("cut after").fill("20")
    with screen.expect_download() as download:
        screen.get_by_role("link", name="Save as WAV").click()
    assert Path(download.value.path()).stat().st_size > 1000
