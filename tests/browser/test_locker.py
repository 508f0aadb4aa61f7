"""The Locker shows a unit's back: sockets and what a plug does, what is needed first, what a change leads to."""

from __future__ import annotations

from playwright.sync_api import Page, expect

from tests.conftest import Server


def test_a_socket_is_gone_into_and_its_wiring_changed(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/groyne-r8")
    expect(screen.get_by_text("opens when through has a plug")).to_be_visible()
    screen.locator('[data-jack="through"]').click()
    panel = screen.get_by_role("region", name="Fields of through")
    expect(panel).to_contain_text("Takes the load out: only what hangs on it counts.")
    panel.get_by_role("radio", name="in parallel with the load").click()
    expect(screen.get_by_text("opens when through has a plug")).to_have_count(0)
    expect(panel).to_contain_text("Stands beside the load")
    panel.get_by_role("radio", name="there, but what it does is not known").click()
    expect(screen.get_by_text("5 of 6 known")).to_be_visible()
    screen.get_by_role("button", name="Discard changes").click()
    expect(screen.get_by_text("6 of 6 known")).to_be_visible()
    # A second press leaves it; the inside has its own fields.
    screen.locator('[data-jack="through"]').click()
    expect(panel).to_have_count(0)
    screen.get_by_role("button", name="Inside", exact=False).first.click()
    expect(screen.get_by_role("region", name="Fields of Inside").get_by_label("Impedance")).to_have_value("8")


def test_what_a_change_leads_to_is_said_before_it_is_saved(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/groyne-r8")
    leads = screen.get_by_role("region", name="What that leads to")
    expect(leads).to_contain_text("7 hook-ups use it")
    screen.get_by_role("textbox", name="Rating").fill("20")
    expect(leads).to_contain_text("Cue 1, silent after 21:00")
    expect(leads).to_contain_text("from “Clear to switch on” to “Do not switch on”: Groyne R8 would get 45 W")
    screen.get_by_role("textbox", name="Rating").fill("0,001")
    expect(leads).to_contain_text("It cannot be worked out yet: Rating")
    # Nothing was kept of it.
    screen.get_by_role("button", name="Discard changes").click()
    expect(leads).to_contain_text("What a change would do to them is told here")
    screen.goto(server.url + "bench/silent-night")
    expect(screen.get_by_label("Verdict")).to_contain_text("Clear to switch on")


def test_a_new_unit_claims_nothing_it_was_not_told(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/new?kind=amp")
    expect(screen.get_by_text("of 4 known")).to_be_visible()
    # Watts and taps that came with the form are marked until somebody says that they are known.
    for label in ("Label power W", "Tap Ω"):
        field = screen.get_by_role("textbox", name=label, exact=True)
        marked = field.locator("xpath=..").get_by_text("typical, not measured")
        expect(marked).to_be_visible()
        field.fill(field.input_value() + "0")
        expect(marked).to_have_count(0)
    screen.goto(server.url + "locker/new?kind=attenuator")
    expect(
        screen.get_by_role("textbox", name="Fixed steps").locator("xpath=..").get_by_text("typical, not measured")
    ).to_be_visible()


def test_another_like_it_counts_on(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/new?kind=interface")
    screen.get_by_role("button", name="Another like it").first.click()
    screen.get_by_role("button", name="Another like it").first.click()
    names = screen.get_by_role("textbox", name="Input", exact=True)
    expect(names).to_have_count(3)
    assert sorted(names.nth(i).input_value() for i in range(3)) == ["input 1", "input 2", "input 3"]


def test_taps_stand_in_order_however_they_were_typed(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/new?kind=amp")
    screen.get_by_role("textbox", name="Name", exact=True).fill("Phantom tide 30")
    screen.get_by_role("textbox", name="Tap Ω", exact=True).fill("16")
    screen.get_by_role("button", name="Add to taps").click()
    screen.get_by_role("textbox", name="Tap Ω", exact=True).nth(1).fill("4")
    screen.get_by_role("button", name="Add to the locker").click()
    expect(screen.get_by_role("heading", name="Phantom tide 30")).to_be_visible()
    expect(screen.get_by_role("textbox", name="Tap Ω", exact=True).first).to_have_value("4")


def test_the_locker_says_which_amp_goes_into_what(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker")
    table = screen.get_by_role("region", name="Which amp into what")
    row = table.get_by_role("row", name="Gabion 40")
    expect(row).to_contain_text("8 Ω tap")
    expect(row).to_contain_text("27.5 W over")
    expect(table.get_by_role("columnheader", name="Godwit 45")).to_be_visible()
    # It stands whatever the list is narrowed to.
    screen.get_by_label("Search the locker").fill("nothing of the kind")
    expect(table).to_be_visible()
