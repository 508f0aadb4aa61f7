"""Load feel in a real browser: curves, pads, corrections; renders that really sound, openly and blind."""

from __future__ import annotations

import io
import re
from pathlib import Path

import numpy as np
import pytest
import soundfile
from playwright.sync_api import Page, expect

from tests.conftest import Server

MEASURE = """async (file) => {
  const data = await (await fetch(`/api/renders/${file}`)).arrayBuffer();
  const sound = await new OfflineAudioContext(1, 1, 48000).decodeAudioData(data);
  const samples = sound.getChannelData(0);
  let sum = 0, peak = 0;
  for (const s of samples) { sum += s * s; peak = Math.max(peak, Math.abs(s)); }
  return { seconds: sound.duration, rms: Math.sqrt(sum / samples.length), peak };
}"""


def go(page: Page, server: Server, hookup: str = "silent-night") -> None:
    page.goto(f"{server.url}feel/{hookup}")
    page.get_by_label("Search loads and cabinets").wait_for()


def rendered(page: Page) -> list[str]:
    """Renders what is picked and returns the files that are heard."""
    page.get_by_role("tab", name="Hear it").click()
    page.get_by_role("button", name=re.compile("^Render it through")).click()
    expect(page.get_by_role("button", name="Play", exact=True)).to_be_enabled()
    files: list[str] = page.locator("[data-file]").evaluate_all("all => all.map((e) => e.dataset.file)")
    return files


def test_curves_are_picked_compared_and_read_off(screen: Page, server: Server) -> None:
    go(screen, server)
    lines = screen.locator(".recharts-line-curve")
    expect(lines).to_have_count(3)
    expect(
        screen.get_by_text(re.compile("Groyne R8. Against the 8 Ω resistor: .* dB more at the bass peak"))
    ).to_be_visible()
    screen.get_by_label("Search loads and cabinets").fill("bright")
    screen.get_by_role("checkbox", name=re.compile("Revetment 16, 8 Ω, bright")).check()
    expect(lines).to_have_count(4)
    screen.get_by_label("Search loads and cabinets").fill("nobody")
    expect(screen.get_by_text("None has these words in its name.")).to_be_visible()
    screen.get_by_label("against").select_option("groyne-r8|8|")
    screen.get_by_label("Search loads and cabinets").fill("groyne")
    expect(screen.get_by_role("row", name=re.compile("Groyne R8 .* 0.0 0.0 0.0"))).to_be_visible()
    screen.get_by_label("Damping factor").select_option("50")
    screen.get_by_label("Search loads and cabinets").fill("Gabion")
    expect(screen.get_by_role("row", name=re.compile(r"Gabion 40 .* −0\.\d "))).to_be_visible()
    screen.get_by_role("button", name="Table").click()
    expect(screen.get_by_role("columnheader", name="8 Ω resistor, dB")).to_be_visible()


def test_loads_are_sorted_and_one_is_picked_for_the_amp(screen: Page, server: Server) -> None:
    go(screen, server)
    table = screen.get_by_role("table", name="Loads and cabinets")
    table.get_by_role("button", name="2–5 kHz").click()
    expect(table.get_by_role("columnheader", name="2–5 kHz")).to_have_attribute("aria-sort", "descending")
    cells = table.locator("tbody tr td:nth-child(4)").all_inner_texts()
    levels = [float(text.replace("−", "-").replace("+", "")) for text in cells]
    assert levels == sorted(levels, reverse=True)
    table.get_by_role("button", name="2–5 kHz").click()
    expect(table.get_by_role("columnheader", name="2–5 kHz")).to_have_attribute("aria-sort", "ascending")
    expect(screen.get_by_text("nothing yet")).to_be_visible()
    table.get_by_role("button", name="pick it: Groyne R8").click()
    expect(table.get_by_role("row", name=re.compile("Groyne R8"))).to_contain_text("picked")
    screen.get_by_role("button", name="take it back").click()
    expect(screen.get_by_text("nothing yet")).to_be_visible()


def test_a_damping_factor_may_be_typed(screen: Page, server: Server) -> None:
    go(screen, server)
    screen.get_by_label("Damping factor").select_option("own")
    field = screen.get_by_label("Damping factor, typed")
    field.fill("0,15")
    expect(screen.get_by_text(re.compile("Against the 8 Ω resistor: 1[0-9]"))).to_be_visible()
    field.fill("5000")
    expect(screen.get_by_role("alert")).to_contain_text("Damping factor: 5000 is over the most allowed, 2000.")
    field.fill("abc")
    expect(screen.get_by_role("alert")).to_contain_text("Damping factor: “abc” is not a number.")
    # What was told last stays in view, and the field with it.
    expect(screen.get_by_text(re.compile("Against the 8 Ω resistor"))).to_be_visible()
    screen.get_by_role("tab", name="With attenuation").click()
    expect(screen.get_by_text(re.compile("^Straight on, "))).to_be_visible()
    expect(screen.get_by_role("alert")).to_have_count(1)
    field.fill("1.5")
    expect(screen.get_by_role("alert")).to_have_count(0)


def test_a_pad_leaves_less_and_less(screen: Page, server: Server) -> None:
    go(screen, server, "quiet-hold")
    screen.get_by_role("tab", name="With attenuation").click()
    steps = screen.get_by_role("region", name="Steps").get_by_role("row")
    expect(steps).to_have_count(8)
    expect(steps.last).to_contain_text("30 dB down")
    screen.get_by_label("the cabinet").select_option("sanderling-112")
    expect(screen.get_by_text(re.compile("Straight on, Sanderling 1×12 has"))).to_be_visible()


def test_a_correction_is_saved_as_csv_and_wav(screen: Page, server: Server) -> None:
    go(screen, server)
    screen.get_by_role("tab", name="Correction").click()
    expect(screen.get_by_text(re.compile("bands? make Groyne R8 sound like"))).to_be_visible()
    with screen.expect_download() as csv:
        screen.get_by_role("link", name="Settings as CSV").click()
    assert csv.value.suggested_filename == "correction.csv"
    screen.get_by_label("in a session at").select_option("96000")
    with screen.expect_download() as wav:
        screen.get_by_role("link", name="Filter as WAV, 96 kHz").click()
    assert soundfile.info(wav.value.path()).samplerate == 96_000
    screen.get_by_label("sound like").select_option("groyne-r8|8|")
    expect(screen.get_by_role("alert")).to_contain_text("choose another")


def test_a_render_sounds_and_is_switched_without_a_gap(screen: Page, server: Server) -> None:
    go(screen, server)
    files = rendered(screen)
    assert len(files) == 3
    measured = [screen.evaluate(MEASURE, file) for file in files]
    for each in measured:
        assert each["seconds"] == pytest.approx(10.5, abs=0.01)
        assert 0.02 < each["rms"] < each["peak"] < 1.0
    levels = [20 * np.log10(m["rms"]) for m in measured]
    assert max(levels) - min(levels) < 3  # alike in loudness, not in RMS
    screen.get_by_role("button", name="Play", exact=True).click()
    place = screen.get_by_role("timer")
    expect(place).to_have_text(re.compile(r"^[1-9]\.\d of 10\.5 s"))
    choices = screen.get_by_role("radiogroup", name="Heard through").get_by_role("radio")
    before = float((place.text_content() or "").split()[0])
    choices.nth(2).click()
    expect(choices.nth(2)).to_have_attribute("aria-checked", "true")
    # It goes on where it was: changing over does not begin again.
    assert float((place.text_content() or "").split()[0]) >= before
    screen.get_by_role("button", name="Stop", exact=True).click()
    expect(place).to_have_text("0.0 of 10.5 s")


def test_a_pick_made_blind_goes_into_the_log(screen: Page, server: Server) -> None:
    go(screen, server)
    rendered(screen)
    screen.get_by_label("blind").check()
    hidden = screen.get_by_role("radiogroup", name="Hidden takes")
    expect(hidden).not_to_contain_text("Groyne")
    marked = hidden.locator('[aria-checked="true"]')
    expect(marked).to_have_count(0)
    hidden.get_by_role("radio", name="B").click()
    expect(marked).to_have_text("B")
    screen.get_by_role("button", name="Play me one of them").click()
    # What is asked for by its name marks no letter: that would tell which is which.
    screen.get_by_role("list", name="Guesses").get_by_role("button", name="Groyne R8").first.click()
    expect(marked).to_have_count(0)
    screen.get_by_role("button", name=re.compile("^It is ")).first.click()
    expect(screen.get_by_role("status").filter(has_text="right")).to_contain_text(re.compile("[01] of 1 right"))
    screen.get_by_role("button", name="Pick B").click()
    expect(hidden).to_contain_text("Groyne")
    expect(hidden).to_contain_text("your pick")
    screen.get_by_role("button", name="Note it in the log").click()
    expect(screen.get_by_role("button", name="It is in the log")).to_be_visible()
    screen.get_by_role("link", name="Log").click()
    notes = screen.get_by_role("region", name="Lines")
    expect(notes).to_contain_text(re.compile("Load feel, blind: picked .* over .*; told apart [01] of 1 times"))
    notes.get_by_role("button", name="Delete this note").click()
    screen.get_by_role("button", name="Delete it").click()
    expect(notes.get_by_role("listitem")).to_have_count(0)
    notes.get_by_label("A note for the log").fill("Tide turns at four")
    notes.get_by_role("button", name="Note it").click()
    expect(notes.get_by_role("listitem")).to_contain_text("Tide turns at four")


def test_a_direct_track_is_brought_and_bad_ones_are_refused(screen: Page, server: Server, tmp_path: Path) -> None:
    go(screen, server)
    screen.get_by_role("tab", name="Hear it").click()
    silence = tmp_path / "silence.wav"
    soundfile.write(silence, np.zeros(48_000), 48_000)
    screen.get_by_label("Direct track").set_input_files(silence)
    expect(screen.get_by_role("alert")).to_contain_text("it is silent")
    out = io.BytesIO()
    soundfile.write(out, 0.3 * np.sin(np.arange(72_000) / 20), 48_000, format="WAV")
    screen.get_by_label("Direct track").set_input_files(
        {"name": "fog horn.wav", "mimeType": "audio/wav", "buffer": out.getvalue()}
    )
    expect(screen.get_by_text("fog horn.wav, 1.5 s")).to_be_visible()
    first = rendered(screen)[0]
    assert screen.evaluate(MEASURE, first)["seconds"] == pytest.approx(1.5, abs=0.01)


def test_a_long_render_is_stopped(screen: Page, server: Server) -> None:
    go(screen, server)
    for name in ("Gabion 40", "Revetment 16, 8 Ω, bright", "Sanderling 1×12"):
        screen.get_by_role("checkbox", name=re.compile(name)).check()
    screen.get_by_role("tab", name="Hear it").click()
    screen.get_by_role("button", name="Render it through all 6").click()
    expect(screen.get_by_role("status").filter(has_text="…")).to_be_visible()
    screen.get_by_role("button", name="Stop", exact=True).click()
    expect(screen.get_by_role("progressbar")).to_have_count(0)
    expect(screen.get_by_role("button", name="Play", exact=True)).to_have_count(0)
    expect(screen.get_by_role("button", name="Render it through all 6")).to_be_enabled()
