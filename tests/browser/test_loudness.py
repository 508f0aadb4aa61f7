"""Loudness in a real browser: from a wish to the bench, meter, ears, heat, knobs."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.pointer import drag
from tests.conftest import Server

WISH = "Wanted level at Wheelhouse desk"


def go(page: Page, server: Server, hookup: str = "quiet-hold") -> None:
    page.goto(f"{server.url}loudness/{hookup}")
    page.get_by_role("group", name=re.compile("Tide staff")).wait_for()


def test_the_waterline_is_moved_and_a_step_put_on_the_bench(bench: Page, server: Server) -> None:
    go(bench, server)
    line = bench.get_by_role("slider", name=WISH)
    expect(line).to_have_attribute("aria-valuenow", "62")
    line.focus()
    for _ in range(2):
        bench.keyboard.press("PageDown")
    bench.keyboard.press("ArrowUp")
    expect(line).to_have_attribute("aria-valuenow", "53")
    nearest = bench.get_by_role("list", name="Nearest settings").get_by_role("listitem")
    expect(nearest.first).to_contain_text("−0.1 dB off the wish")
    nearest.filter(has_text="Caisson 120").get_by_role("button", name="Put it on the Bench").click()
    expect(bench.get_by_label("Verdict")).to_contain_text("29 dB down")
    expect(bench.get_by_role("button", name=re.compile("Caisson 120 −29 dB: .* as it stands"))).to_be_visible()
    bench.get_by_role("button", name=re.compile("^Undo")).click()
    expect(bench.get_by_label("Verdict")).to_contain_text("18 dB down")


def test_the_waterline_follows_the_pointer_and_goes_from_rung_to_rung(bench: Page, server: Server) -> None:
    go(bench, server)
    line = bench.get_by_role("slider", name=WISH)
    drag(line, start=(300, 9), by=(0, 81))
    expect(line).to_have_attribute("aria-valuenow", re.compile(r"^(4[6-9]|5\d)$"))
    moved = line.get_attribute("aria-valuenow") or ""
    line.focus()
    bench.keyboard.press("]")
    expect(line).not_to_have_attribute("aria-valuenow", moved)
    bench.get_by_role("button", name="Keep this wish with the hook-up").click()
    expect(bench.get_by_role("button", name="Undo when and how loud")).to_be_enabled()
    bench.reload()
    expect(line).not_to_have_attribute("aria-valuenow", "62")


def test_a_rung_shows_what_it_leads_to_before_it_is_put_on(bench: Page, server: Server) -> None:
    go(bench, server)
    rung = bench.get_by_role("button", name=re.compile("Riprap 50 −24 dB"))
    rung.focus()
    bench.keyboard.press("Enter")
    chosen = bench.get_by_role("region", name="Chosen step")
    expect(chosen).to_contain_text("24 dB down")
    chosen.get_by_role("button").focus()
    expect(chosen).to_contain_text("Godwit 45 then sees")


def test_rungs_are_reached_with_tab_and_the_arrows(bench: Page, server: Server) -> None:
    go(bench, server)
    box = bench.get_by_role("group", name="Caisson 120")
    expect(box.locator("[tabindex='0']")).to_have_count(1)
    box.get_by_role("button", name=re.compile("−19 dB")).focus()
    bench.keyboard.press("ArrowDown")
    expect(box.get_by_role("button", name=re.compile("−20 dB"))).to_be_focused()
    bench.keyboard.press("ArrowUp")
    bench.keyboard.press("ArrowUp")
    expect(box.get_by_role("button", name=re.compile("−18 dB: .* as it stands"))).to_be_focused()
    bench.keyboard.press("Enter")
    expect(bench.get_by_role("region", name="Chosen step")).to_contain_text("As it stands now.")


def test_the_hour_changes_the_verdict_and_bad_ones_are_named(bench: Page, server: Server) -> None:
    go(bench, server)
    verdict, hour = bench.get_by_label("Verdict"), bench.get_by_label("Hour of the day")
    expect(verdict).to_contain_text("Clear to switch on")
    hour.fill("22:30")
    hour.press("Enter")
    expect(verdict).to_contain_text("Check first")
    bench.get_by_role("tab", name="Places").click()
    bunks = bench.get_by_role("region", name="What is heard").get_by_role("listitem").filter(has_text="Bunks")
    expect(bunks).to_contain_text("over 35 dBA, 21:00 to 07:00")
    expect(bunks).to_contain_text("its solid door decides")
    hour.fill("25:00")
    hour.press("Enter")
    expect(bench.get_by_role("alert")).to_contain_text("“25:00” is no time of day")
    bench.get_by_role("button", name="Understood").click()
    hours = bench.get_by_label("Length of the session, hours")
    hours.fill("99")
    hours.press("Enter")
    expect(bench.get_by_role("alert")).to_contain_text("99 h is over the most allowed, 16 h")


def test_places_and_mounts_are_said_in_place(bench: Page, server: Server) -> None:
    go(bench, server)
    bench.get_by_role("tab", name="Places").click()
    bench.get_by_label("Turnstone 2×12 stands on").select_option("spring-feet")
    expect(bench.get_by_role("button", name="Undo Turnstone 2×12: on Spring feet")).to_be_enabled()
    bench.get_by_label("Turnstone 2×12 stands in").select_option("")
    heard = bench.get_by_role("region", name="What is heard")
    expect(heard).to_contain_text("not told: it is not said in which room Turnstone 2×12 stands")
    expect(bench.get_by_label("Verdict")).to_contain_text("Check first")
    bench.get_by_role("button", name="Table").click()
    expect(bench.get_by_role("columnheader", name="Nothing between, dBA")).to_be_visible()


def test_the_meter_teaches_and_a_reading_can_be_left_out(bench: Page, server: Server) -> None:
    go(bench, server)
    setting = bench.get_by_role("tabpanel", name="Setting")
    expect(setting).to_contain_text("an estimate")
    bench.get_by_role("tab", name="Readings").click()
    for _ in range(2):
        bench.get_by_role("button", name="Read the simulated meter").click()
        expect(bench.get_by_role("textbox", name="Reading")).not_to_have_value("")
        bench.get_by_role("button", name="Keep this reading").click()
        expect(bench.get_by_role("textbox", name="Reading")).to_have_value("")
    readings = bench.get_by_role("list", name="Readings").get_by_role("listitem")
    expect(readings).to_have_count(2)
    expect(readings.first).to_contain_text("simulated meter")
    bench.get_by_role("tab", name="Setting").click()
    expect(setting).to_contain_text("2 readings")
    bench.get_by_role("tab", name="Readings").click()
    readings.first.get_by_label("counts").click()
    bench.get_by_role("tab", name="Setting").click()
    expect(setting).to_contain_text("1 reading")
    bench.get_by_role("tab", name="Readings").click()
    bench.get_by_role("textbox", name="Reading").fill("300")
    bench.get_by_role("button", name="Keep this reading").click()
    expect(bench.get_by_role("alert")).to_contain_text("Reading: 300 dB is over the most allowed, 150 dB.")
    expect(bench.get_by_role("textbox", name="Reading")).to_have_value("300")
    readings.first.get_by_role("button", name="Delete this reading").click()
    bench.get_by_role("button", name="Delete it").click()
    expect(readings).to_have_count(1)


def test_the_dose_fills_and_warns(bench: Page, server: Server) -> None:
    go(bench, server)
    bench.get_by_role("tab", name="Ears").click()
    ears = bench.get_by_role("tabpanel", name="Ears")
    expect(ears).to_contain_text("At Wheelhouse desk about 71 dBA, at the edge of what is predicted")
    bench.get_by_label("Where").select_option("mussel-64")
    bench.get_by_role("textbox", name="Level dBA").fill("100")
    bench.get_by_role("textbox", name="Listened").fill("15")
    bench.get_by_role("button", name="Log it").click()
    expect(ears).to_contain_text("100 %")
    expect(ears).to_contain_text("All of what the day allows is used")
    expect(bench.get_by_label("Verdict")).to_contain_text("Check first")
    ears.get_by_role("button", name="Delete Mussel 64").click()
    bench.get_by_role("button", name="Delete it").click()
    expect(ears).to_contain_text("Nothing yet.")
    expect(bench.get_by_label("Verdict")).to_contain_text("Clear to switch on")


def test_a_box_is_fitted_from_two_readings(bench: Page, server: Server) -> None:
    go(bench, server)
    bench.get_by_role("tab", name="Heat").click()
    box = bench.get_by_role("region", name="Caisson 120")
    expect(box).to_contain_text("Estimated: 60 K at its rating")
    box.get_by_text("Fit it from two readings of the case").click()
    for n in (1, 2):
        box.get_by_role("button", name=f"Read the simulated thermometer for reading {n}").click()
        expect(box.get_by_label(f"Reading {n}, °C")).not_to_have_value("")
    box.get_by_role("button", name="Work it out").click()
    found = re.compile(r"K/W \(.*\), time constant .* min \(.*\), for readings that are right to 1 K")
    expect(box.get_by_text(found)).to_be_visible()
    box.get_by_role("button", name="Keep it with Caisson 120").click()
    expect(box).to_contain_text("Estimated: limit 70 °C.")


def test_a_knob_is_calibrated_from_volts(bench: Page, server: Server) -> None:
    go(bench, server)
    bench.get_by_role("tab", name="Knobs").click()
    bench.get_by_label("Attenuator", exact=True).select_option("sandbag-30")
    for n, volts in ((1, "10"), (2, "4"), (3, "0,4")):
        bench.get_by_label(f"Reading {n}").fill(volts)
    bench.get_by_role("button", name="Make the table").click()
    table = bench.get_by_role("region", name="Table of positions")
    expect(table.get_by_role("row").nth(3)).to_contain_text("28 dB")
    # A table never outlives the readings it was made from, nor goes to another box.
    bench.get_by_label("Attenuator", exact=True).select_option("riprap-50")
    expect(table).to_have_count(0)
    # A box with steps is read at those it has.
    expect(bench.get_by_label("Position 1").locator("option")).to_have_text(["8", "16", "24"])
    bench.get_by_label("Attenuator", exact=True).select_option("sandbag-30")
    for n, volts in ((1, "10"), (2, "4"), (3, "40")):
        bench.get_by_label(f"Reading {n}").fill(volts)
    bench.get_by_role("button", name="Make the table").click()
    expect(bench.get_by_role("alert")).to_contain_text("it is louder than at “0”")
    bench.get_by_label("Reading 3").fill("0,4")
    bench.get_by_role("button", name="Make the table").click()
    expect(table).to_contain_text("It replaces the table of 4 positions that Sandbag 30 has.")
    table.get_by_role("button", name="Keep it with Sandbag 30").click()
    expect(table).to_have_count(0)
    bench.goto(server.url + "locker/sandbag-30")
    expect(bench.get_by_role("textbox", name="Down by").nth(2)).to_have_value("27.96")


def test_a_wish_is_typed_heard_and_refused_in_a_sentence(bench: Page, server: Server) -> None:
    go(bench, server, "combo-bunks")
    wish, staff = bench.get_by_label("Wanted level", exact=True), bench.get_by_role("slider")
    wish.fill("half as loud")
    wish.press("Enter")
    expect(staff).to_have_attribute("aria-valuetext", re.compile(r"−10\.0 dB against nothing between"))
    whole = wish.input_value()
    wish.fill("rather loud")
    wish.press("Enter")
    expect(bench.get_by_role("alert")).to_contain_text("“rather loud” is not understood")
    expect(staff).to_have_attribute("aria-valuetext", re.compile(re.escape(whole)))
    wish.press("Escape")
    expect(bench.get_by_role("alert")).to_have_count(0)
    expect(wish).to_have_value(whole)
    # A step between whole dB is kept as exact as it is.
    staff.press("]")
    expect(wish).to_have_value(re.compile(r"\d\.\d dBA"))
    hear = bench.get_by_role("region", name="Hear it")
    hear.get_by_role("button", name="−6 dB").click()
    expect(hear).to_contain_text("6 dB less than at full: about two thirds as loud.")
    hear.get_by_role("button", name="Stop").click()
    expect(hear.get_by_role("button", name="−6 dB")).to_have_attribute("aria-pressed", "false")


def test_a_mark_of_ones_own_is_added_and_removed(bench: Page, server: Server) -> None:
    go(bench, server, "combo-bunks")
    bench.locator("summary", has_text="Marks of daily life").click()
    bench.get_by_label("Name of a mark of your own").fill("the bilge pump")
    bench.get_by_label("Its level, dBA").fill("500")
    bench.get_by_role("button", name="Add", exact=True).click()
    expect(bench.get_by_role("alert")).to_contain_text("500 dBA is over the most allowed")
    bench.get_by_label("Its level, dBA").fill("66")
    bench.get_by_role("button", name="Add", exact=True).click()
    expect(bench.get_by_role("group", name="Tide staff").get_by_text("the bilge pump")).to_be_visible()
    bench.get_by_role("button", name="Remove the bilge pump").click()
    expect(bench.get_by_text("the bilge pump")).to_have_count(0)


def test_steps_and_thin_have_their_numbers(bench: Page, server: Server) -> None:
    go(bench, server, "combo-bunks")
    bench.get_by_role("tab", name="Steps").click()
    expect(bench.get_by_text("Hatched: levels that no step of Riprap 50 comes within 3 dB of.")).to_be_visible()
    bench.get_by_role("button", name="Table").click()
    expect(bench.get_by_role("row", name=re.compile("Riprap 50 −16 dB, as it stands 16"))).to_be_visible()
    bench.get_by_role("tab", name="Thin when quiet").click()
    expect(bench.get_by_text("For the monitors only: never for the take.")).to_be_visible()
    bench.get_by_label("Loud, dB").fill("90")
    bench.get_by_label("Quiet, dB").fill("95")
    expect(bench.get_by_role("alert")).to_contain_text("Quiet: 95 dB is over the loud level of 90 dB.")


def test_a_silent_hookup_says_that_nothing_is_to_be_set(screen: Page, server: Server) -> None:
    screen.goto(server.url + "loudness/silent-night")
    expect(screen.get_by_text("A silent hook-up needs no setting", exact=False)).to_be_visible()


def test_the_keys_lead_to_both_sections(bench: Page) -> None:
    bench.keyboard.press("g")
    bench.keyboard.press("d")
    bench.wait_for_url("**/loudness/**")
    bench.keyboard.press("g")
    bench.keyboard.press("e")
    bench.wait_for_url("**/feel/**")
    expect(bench.get_by_label("Verdict")).to_be_visible()
