"""Each section as a person uses it: lists, forms, confirmations, empty states, themes."""

from __future__ import annotations

import json
import re
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, expect

from low_tide.core.inventory import KINDS
from low_tide.demo.fill import TAKES_IN_ALL
from low_tide.demo.gear import GEAR
from low_tide.store.files import open_home
from tests.conftest import Server


def save(page: Page) -> None:
    page.get_by_role("button", name="Save changes").click()
    expect(page.get_by_text("Saved.")).to_be_visible()


def more(page: Page, item: str) -> None:
    """An item of the menu of the hook-up on the bench."""
    page.get_by_role("button", name="More for this hook-up").click()
    page.get_by_role("menuitem", name=item).click()


def test_each_kind_has_a_form_that_works(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker")
    for kind in KINDS:
        screen.get_by_role("button", name="Add", exact=True).click()
        screen.get_by_role("menuitem", name=KINDS[kind][1], exact=True).click()
        screen.get_by_role("button", name="Add to the locker").click()
        expect(screen.get_by_text("Not saved: Name: it must not be empty.")).to_be_visible()
        screen.get_by_role("textbox", name="Name", exact=True).fill(f"Saltmarsh {kind}")
        screen.get_by_role("button", name="Add to the locker").click()
        expect(screen.get_by_role("heading", name=f"Saltmarsh {kind}", exact=True)).to_be_visible()
        expect(screen.get_by_role("link", name=re.compile(f"^Saltmarsh {kind}"))).to_be_visible()


def test_the_locker_searches_filters_and_says_when_nothing_is_there(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker")
    expect(screen.get_by_text(f"{len(GEAR)} units")).to_be_visible()
    screen.get_by_label("Kind").select_option("lead")
    expect(screen.get_by_text(f"{sum(g.kind == 'lead' for g in GEAR.values())} units")).to_be_visible()
    screen.get_by_label("Search the locker").fill("looks just like")
    expect(screen.get_by_role("link", name=re.compile("^Black lead 1"))).to_be_visible()
    expect(screen.get_by_text("1 unit", exact=True)).to_be_visible()
    screen.get_by_label("Search the locker").fill("nothing of the kind")
    expect(screen.get_by_text("Nothing like that here")).to_be_visible()


def test_duplicate_archive_and_back(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/gabion-40")
    screen.get_by_role("button", name="Duplicate").click()
    expect(screen.get_by_role("heading", name="Gabion 40 (copy)")).to_be_visible()
    screen.get_by_role("button", name="Archive", exact=True).click()
    expect(screen.get_by_role("button", name="Take out of the archive")).to_be_visible()
    expect(screen.get_by_role("link", name=re.compile("copy"))).to_have_count(0)
    screen.get_by_label("archived").check()
    expect(screen.get_by_role("link", name=re.compile("copy"))).to_be_visible()
    screen.get_by_role("button", name="Take out of the archive").click()
    screen.get_by_role("button", name="Delete").click()
    expect(screen.get_by_role("dialog")).to_contain_text("for good")
    screen.get_by_role("button", name="Delete it").click()
    screen.wait_for_url("**/locker")
    screen.get_by_label("archived").uncheck()
    expect(screen.get_by_text(f"{len(GEAR)} units")).to_be_visible()


def test_lists_inside_a_form(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/redshank-100")
    screen.get_by_role("button", name="Add to power modes").click()
    modes = screen.get_by_role("textbox", name="Mode", exact=True)
    expect(modes).to_have_count(4)
    modes.nth(3).fill("whisper")
    screen.get_by_role("textbox", name="Label power").nth(3).fill("1")
    save(screen)
    screen.goto(server.url + "bench/tap-on-lead")
    expect(screen.get_by_role("radio", name="whisper, 1 W")).to_be_visible()
    screen.goto(server.url + "locker/redshank-100")
    screen.get_by_role("textbox", name="Mode", exact=True).nth(3).wait_for()
    screen.get_by_role("button", name="Remove").nth(3).click()
    save(screen)
    expect(screen.get_by_role("textbox", name="Mode", exact=True)).to_have_count(3)


def test_a_rating_changed_in_the_locker_changes_the_bench(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/groyne-r8")
    screen.get_by_role("textbox", name="Rating").fill("20")
    save(screen)
    screen.goto(server.url + "bench/silent-night")
    expect(screen.get_by_text("Groyne R8 would get 45 W, over its 20 W.")).to_be_visible()


def test_two_windows_on_one_unit(screen: Page, server: Server) -> None:
    screen.goto(server.url + "locker/gabion-40")
    rating = screen.get_by_role("textbox", name="Rating")
    rating.fill("50")
    other = screen.context.new_page()
    other.goto(server.url + "locker/gabion-40")
    other.get_by_role("textbox", name="Rating").fill("60")
    save(other)
    screen.get_by_role("button", name="Save changes").click()
    expect(screen.get_by_role("alert")).to_contain_text("changed in another window")
    expect(rating).to_have_value("50")


def test_hookups_are_found_made_and_put_away(bench: Page, server: Server) -> None:
    bench.keyboard.press("o")
    dialog = bench.get_by_role("dialog")
    dialog.get_by_label("Search hook-ups").fill("combo beside")
    expect(dialog.get_by_role("listitem")).to_have_count(1)
    dialog.get_by_role("button", name=re.compile("Cue 6")).click()
    expect(bench.get_by_text("The lead of Dunlin 18 speaker is only 0.4 m long.")).to_be_visible()
    more(bench, "Put away …")
    expect(bench.get_by_role("dialog")).to_contain_text("Takes made with it stay in the log")
    bench.get_by_role("button", name="Put it away").click()
    bench.wait_for_url(re.compile("bench/(?!combo)"))
    bench.keyboard.press("o")
    expect(bench.get_by_role("dialog").get_by_role("button", name=re.compile("combo beside"))).to_have_count(0)


def test_a_hookup_goes_out_as_a_file_and_comes_back(screen: Page, server: Server, tmp_path: Path) -> None:
    screen.goto(server.url + "bench/quiet-hold")
    with screen.expect_download() as download:
        more(screen, "Save as a file")
    path = tmp_path / "hookup.json"
    download.value.save_as(path)
    document = json.loads(path.read_text(encoding="utf-8"))
    document["hookup"]["name"] = "From a friend"
    next(g for g in document["gear"] if g["id"] == "caisson-120")["rating"] = 30
    path.write_text(json.dumps(document), encoding="utf-8")
    screen.keyboard.press("o")
    screen.get_by_label("Hook-up file").set_input_files(path)
    expect(screen.get_by_role("button", name=re.compile("Hook-up: From a friend"))).to_be_visible()
    expect(screen.get_by_label("Verdict")).to_contain_text("Do not switch on")
    expect(screen.get_by_text("1 unit is kept as in the take or file")).to_be_visible()
    screen.get_by_role("button", name="Use the locker’s from now on").click()
    expect(screen.get_by_label("Verdict")).to_contain_text("Clear to switch on")


def test_a_hookup_is_renamed_and_copied(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/quiet-hold")
    more(screen, "Name and notes, or a copy …")
    dialog = screen.get_by_role("dialog")
    dialog.get_by_label("Name").fill("Cue 2, by lamplight")
    dialog.get_by_role("button", name="Save", exact=True).click()
    expect(screen.get_by_role("button", name=re.compile("Hook-up: Cue 2, by lamplight"))).to_be_visible()
    expect(screen.get_by_role("button", name="Undo name and notes")).to_be_enabled()
    more(screen, "Name and notes, or a copy …")
    dialog.get_by_label("Name").fill("Cue 2, another way")
    dialog.get_by_role("button", name="Save as a copy").click()
    expect(screen.get_by_role("button", name=re.compile("Hook-up: Cue 2, another way"))).to_be_visible()
    assert "quiet-hold" not in screen.url


def test_undo_after_a_restart(page: Page, server: Server) -> None:
    page.goto(server.url + "bench/split-fog")
    page.get_by_role("radio", name="4", exact=True).click()
    expect(page.get_by_role("button", name="Undo Godwit 45: tap 4 Ω")).to_be_enabled()
    server.kill()
    server.start()
    page.goto(server.url + "bench/split-fog")
    page.get_by_role("button", name="Undo Godwit 45: tap 4 Ω").click()
    expect(page.get_by_text("Godwit 45 sees 4 Ω on its 8 Ω tap.")).to_be_visible()


def test_taking_a_unit_out(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/quiet-hold")
    screen.get_by_role("button", name="Take Turnstone 2×12 out of the hook-up").click()
    expect(screen.locator('[data-unit="turnstone-212"]')).to_have_count(0)
    # With nothing behind it, its bypass would leave the amp without a load.
    expect(screen.get_by_text("One movement from a stop: bypass of Caisson 120.")).to_be_visible()
    screen.keyboard.press("u")
    expect(screen.locator('[data-unit="turnstone-212"]')).to_be_visible()


def test_folded_inputs_open(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/quiet-hold")
    expect(screen.locator('[data-socket="skerry-4/in1"]')).to_have_count(0)
    screen.get_by_role("article", name="Skerry 4").click()
    screen.get_by_role("button", name="6 more sockets").click()
    expect(screen.locator('[data-socket="skerry-4/in1"]')).to_be_visible()


def test_another_lead_for_a_socket(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/silent-night")
    screen.locator('[data-socket="groyne-r8/in"]').click()
    screen.locator("[data-choice]", has_text="Black lead 1").click()
    expect(screen.get_by_text("Black lead 1 is a screened lead at speaker level.")).to_be_visible()
    expect(screen.get_by_label("Verdict")).to_contain_text("Do not switch on")
    screen.get_by_role("button", name=re.compile("^Use Speaker lead A instead")).click()
    expect(screen.get_by_label("Verdict")).to_contain_text("Clear to switch on")


def test_escape_leads_back_to_the_socket(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/silent-night")
    socket = screen.locator('[data-socket="godwit-45/out2"]')
    socket.click()
    screen.locator("[data-choice]").first.wait_for()
    screen.keyboard.press("Escape")
    expect(screen.get_by_role("list", name="Findings")).to_be_visible()
    expect(socket).to_be_focused()


def test_schools_are_chosen_in_the_preferences(screen: Page, server: Server) -> None:
    screen.goto(server.url + "bench/split-fog")
    expect(screen.get_by_label("Verdict")).to_contain_text("Do not switch on")
    screen.get_by_role("button", name="Preferences").click()
    screen.get_by_label("one step either way is accepted").check()
    screen.get_by_label("Session shown above").fill("Night two")
    screen.get_by_role("button", name="Save preferences").click()
    expect(screen.get_by_label("Verdict")).to_contain_text("Check first")
    expect(screen.get_by_text("Night two")).to_be_visible()
    expect(screen.get_by_text("Your school: one step either way is accepted")).to_be_visible()


def test_night_watch_is_kept(bench: Page) -> None:
    bench.get_by_role("button", name="Preferences").click()
    bench.get_by_label("night watch").check()
    assert bench.evaluate("document.documentElement.dataset.theme") == "night"
    bench.reload()
    assert bench.evaluate("document.documentElement.dataset.theme") == "night"


@pytest.mark.parametrize(("scheme", "theme"), [("dark", "night"), ("light", "day")])
def test_the_theme_follows_the_system(page: Page, server: Server, scheme: str, theme: str) -> None:
    page.emulate_media(color_scheme=scheme)  # type: ignore[arg-type]
    page.goto(server.url)
    assert page.evaluate("document.documentElement.dataset.theme") == theme


def test_a_stop_holds_the_run_sheet(screen: Page, server: Server) -> None:
    screen.goto(server.url + "run/split-fog")
    expect(screen.get_by_text("A stop is not accepted, it is mended")).to_be_visible()
    expect(screen.get_by_role("button", name="Mark as switched on")).to_be_disabled()
    screen.get_by_role("link", name="go to the Bench").click()
    screen.wait_for_url("**/bench/split-fog")


def test_a_caution_is_accepted_with_a_word_and_taken_back(screen: Page, server: Server) -> None:
    screen.goto(server.url + "run/combo-bunks")
    word = screen.get_by_label(re.compile("^Your word on"))
    expect(screen.get_by_text("2 cautions to look at and accept with a word.")).to_be_visible()
    expect(screen.get_by_role("button", name="Accept").first).to_be_disabled()
    word.first.fill("box stands beside it")
    screen.get_by_role("button", name="Accept").first.click()
    expect(screen.get_by_text("Accepted: “box stands beside it”")).to_be_visible()
    expect(screen.get_by_text("1 caution to look at and accept with a word.")).to_be_visible()
    screen.get_by_role("button", name="take that back").click()
    expect(word).to_have_count(2)


def test_steps_can_be_ticked_out_of_order(screen: Page, server: Server) -> None:
    screen.goto(server.url + "run/silent-night")
    boxes = screen.get_by_role("checkbox")
    boxes.nth(2).click()
    expect(boxes.nth(2)).to_be_checked()
    boxes.nth(2).click()
    expect(boxes.nth(2)).not_to_be_checked()
    screen.keyboard.press("j")
    expect(screen.get_by_role("heading", name=re.compile("Speaker lead A"))).to_be_visible()
    screen.keyboard.press("k")
    expect(screen.get_by_role("heading", name=re.compile("is off"))).to_be_visible()


def test_a_take_is_edited_and_deleted(screen: Page, server: Server) -> None:
    screen.goto(server.url + "log/2")
    screen.get_by_role("button", name="Edit").click()
    screen.get_by_label("Notes").fill("Less drive for the double.")
    screen.get_by_role("button", name="Another control").click()
    screen.get_by_role("textbox", name="Control 6, name").fill("Presence")
    screen.get_by_role("button", name="Save").click()
    article = screen.get_by_role("article")
    expect(article).to_contain_text("Less drive for the double.")
    expect(article).to_contain_text("Presence")
    article.get_by_role("button", name="Delete").click()
    screen.get_by_role("button", name="Delete it").click()
    expect(screen.get_by_role("link", name=re.compile("doubled"))).to_have_count(0)


def test_the_log_filters_and_exports(screen: Page, server: Server) -> None:
    screen.goto(server.url + "log")
    expect(screen.get_by_role("row")).to_have_count(1 + TAKES_IN_ALL)
    screen.get_by_label("with audio").check()
    expect(screen.get_by_role("row")).to_have_count(TAKES_IN_ALL)
    words = screen.get_by_label("Words to find")
    words.fill("bell")
    expect(screen.get_by_role("row")).to_have_count(3)
    words.fill("bell bridge middle sanderling")
    expect(screen.get_by_role("row")).to_have_count(2)
    words.press("Home")
    words.press_sequentially("the ")
    expect(words).to_have_value("the bell bridge middle sanderling")
    words.fill("no such words")
    expect(screen.get_by_text("No take is like that")).to_be_visible()
    screen.get_by_role("button", name="Show all").first.click()
    expect(screen.get_by_role("row")).to_have_count(1 + TAKES_IN_ALL)
    screen.get_by_label("clipped").check()
    expect(screen.get_by_role("row")).to_have_count(2)
    with screen.expect_download() as download:
        screen.get_by_role("link", name="CSV").click()
    assert len(Path(download.value.path()).read_text(encoding="utf-8-sig").splitlines()) == 1 + TAKES_IN_ALL


def test_a_new_session_starts_empty(screen: Page, server: Server) -> None:
    screen.goto(server.url + "log")
    # What stands before the button is as wide as the names in it: once they are there, it stands still.
    expect(screen.get_by_label("Session", exact=True).get_by_role("option")).to_have_count(2)
    screen.get_by_role("button", name="Session", exact=True).click()
    screen.get_by_label("Name").fill("Second night")
    screen.get_by_role("button", name="Begin it").click()
    expect(screen.get_by_text("No takes yet")).to_be_visible()
    screen.get_by_role("button", name="Log the first take").click()
    expect(screen.get_by_role("heading", name="New take in “Second night”")).to_be_visible()
    screen.get_by_role("button", name="Log the take").click()
    expect(screen.get_by_text("Take: it must not be empty.")).to_be_visible()
    screen.get_by_role("textbox", name="Take", exact=True).fill("First")
    screen.get_by_role("textbox", name="Measured peak").fill("4")
    screen.get_by_role("button", name="Log the take").click()
    expect(screen.get_by_text("Measured peak: 4 dBFS is over the most allowed, 0 dBFS.")).to_be_visible()
    screen.get_by_role("textbox", name="Measured peak").fill("−9,5")
    screen.get_by_role("button", name="Log the take").click()
    expect(screen.get_by_role("article")).to_contain_text("−9.5 dBFS")


def test_an_empty_house_says_what_to_do(page: Page, tmp_path: Path, port: int) -> None:
    folder = tmp_path / "empty"
    open_home(folder)
    server = Server(folder, port=port)
    page.goto(server.url + "locker")
    expect(page.get_by_text("The locker is empty")).to_be_visible()
    page.goto(server.url + "run")
    expect(page.get_by_text("No hook-up yet")).to_be_visible()
    page.goto(server.url + "log")
    expect(page.get_by_text("The log is empty")).to_be_visible()
    page.get_by_role("button", name="Begin a session").click()
    page.get_by_role("dialog").get_by_role("textbox").fill("First night")
    page.get_by_role("button", name="Begin it").click()
    expect(page.get_by_label("Session", exact=True)).to_contain_text("First night")
    expect(page.get_by_role("button", name="Log the take")).to_be_visible()
    page.goto(server.url + "bench")
    page.get_by_role("checkbox", name="Guitar", exact=True).check()
    page.get_by_role("button", name="Put it into the locker").click()
    page.get_by_role("heading", name="Guitar", exact=True).wait_for()
    page.goto(server.url + "bench")
    page.get_by_role("button", name="Start an empty one").click()
    expect(page.get_by_text("An empty hook-up")).to_be_visible()
    expect(page.get_by_text("There is no amp in this hook-up yet.")).to_be_visible()
    server.kill()


@pytest.mark.parametrize("path", ["bench/nowhere", "run/nowhere", "locker/nowhere", "log/999"])
def test_addresses_of_things_that_are_gone(page: Page, server: Server, path: str) -> None:
    page.goto(server.url + path)
    expect(page.get_by_role("alert").first).to_contain_text(re.compile("There is no"))


def test_a_step_is_carried_out_by_a_key_and_painted_at_once(screen: Page, server: Server) -> None:
    screen.goto(server.url + "run/quiet-hold")
    at_hand = screen.get_by_role("region", name="The step at hand")
    at_hand.wait_for()
    # The step at hand comes before the list of all steps.
    order = screen.locator("main").get_by_role("button").evaluate_all("all => all.map(b => b.innerText.trim())")
    steps = screen.locator("[data-step]").evaluate_all("all => all.map(b => b.innerText.trim())")
    assert order.index("Done, next") < order.index(steps[0])
    # The server is held up: what is ticked shows all the same, and no older answer takes a later tick back.
    waiting: list[Route] = []
    screen.route("**/run/tick", lambda route: waiting.append(route))
    boxes = screen.get_by_role("region", name="Steps").get_by_role("checkbox")
    first = at_hand.get_by_role("heading", level=2).first.inner_text()
    screen.locator("main").focus()
    screen.keyboard.press("x")
    expect(at_hand.get_by_role("heading", name=first, exact=True)).to_have_count(0)
    second = at_hand.get_by_role("heading", level=2).first.inner_text()
    screen.keyboard.press("Space")
    expect(boxes.nth(1)).to_be_checked()
    expect(at_hand.get_by_role("status").last).not_to_contain_text(second)
    for _ in range(2):
        while not waiting:
            screen.wait_for_timeout(20)
        with screen.expect_response("**/run/tick"):
            waiting.pop().continue_()
        expect(boxes.nth(1)).to_be_checked()
    screen.reload()
    expect(boxes.nth(0)).to_be_checked()
    expect(boxes.nth(1)).to_be_checked()
    expect(boxes.nth(2)).not_to_be_checked()
