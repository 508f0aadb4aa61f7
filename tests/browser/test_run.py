"""The Run sheet at the amp: readings, from one hook-up to the next, timers, kit list; and what is wrong."""

from __future__ import annotations

import re
from collections.abc import Callable

import pytest
from playwright.sync_api import Locator, Page, Route, expect

from tests.browser.axe import wrong
from tests.conftest import Server

Going = Callable[[str], Page]


@pytest.fixture
def at(screen: Page, server: Server) -> Going:
    def going(path: str) -> Page:
        screen.goto(server.url + path)
        return screen

    return going


def at_hand(page: Page) -> Locator:
    return page.get_by_role("region", name="The step at hand")


def do_all_first(page: Page) -> None:
    """Accept what wants a word, and tick every step before switching on."""
    expect(page.get_by_role("button", name="Mark as switched on")).to_be_visible()
    while page.get_by_placeholder("Why this is all right, in a word").count():
        field = page.get_by_placeholder("Why this is all right, in a word").first
        label = field.get_attribute("aria-label") or ""
        field.fill("seen")
        field.press("Enter")
        expect(page.get_by_label(label, exact=True)).to_have_count(0)
    left = page.get_by_text("before switching on to tick")
    while left.count():
        told = left.inner_text()
        at_hand(page).get_by_role("button", name="Done, next").click()
        expect(page.get_by_text(told, exact=True)).to_have_count(0)


def test_a_meter_that_says_stop_keeps_it_off(at: Going) -> None:
    page = at("run/quiet-hold")
    do_all_first(page)
    expect(page.get_by_role("button", name="Mark as switched on")).to_be_enabled()
    page.get_by_role("region", name="Steps").get_by_role("button", name=re.compile("^Amp off: pull")).click()
    field = page.get_by_role("textbox", name="Ohms at the plug, Ω")
    field.fill("a lot")
    field.press("Enter")
    expect(page.get_by_text("Ohms at the plug: a number in Ω is wanted.")).to_be_visible()
    field.fill("13,4")
    field.press("Enter")
    expect(page.get_by_text("Stop: 13.4 Ω")).to_be_visible()
    assert wrong(page) == []
    expect(page.get_by_role("region", name="Verdict")).to_contain_text("Do not switch on")
    expect(page.get_by_role("button", name="Mark as switched on")).to_be_disabled()
    page.get_by_role("button", name="It shows no end").click()
    expect(page.get_by_text("Stop: no end of ohms")).to_be_visible()
    field.fill("6.6")
    field.press("Enter")
    expect(page.get_by_text("As it should be: 6.6 Ω")).to_be_visible()
    expect(page.get_by_role("region", name="Verdict")).to_contain_text("Clear to switch on")
    page.get_by_role("button", name="Mark as switched on").click()
    expect(page.get_by_text(re.compile("^Switched on since"))).to_be_visible()


def test_from_one_hookup_to_the_next_with_its_timers(at: Going) -> None:
    page = at("run/silent-night")
    do_all_first(page)
    page.get_by_role("button", name="Mark as switched on").click()
    page.get_by_role("region", name="Steps").get_by_role("button", name=re.compile("let the valves warm")).click()
    at_hand(page).get_by_role("button", name="Done, next").click()
    clock = page.get_by_role("region", name="By the clock")
    warm = clock.get_by_role("timer", name="Godwit 45 is warm: standby off, volume still down")
    expect(warm).to_have_text(re.compile(r"^0:5\d|1:00$"))
    page = at("run/quiet-hold")
    # The timer is the server's: it is there wherever a run sheet is, with the name of its own hook-up.
    expect(clock).to_contain_text("Cue 1, silent after 21:00")
    page.get_by_role("button", name="Go on from it").click()
    expect(page.get_by_text("4 plugs to move")).to_be_visible()
    expect(at_hand(page)).to_contain_text("Leave what stands")
    do_all_first(page)
    dark = clock.get_by_role("timer", name="Godwit 45 dark: then its speaker leads may be moved")
    expect(dark).to_be_visible()
    clock.get_by_role("button", name="Take away: Godwit 45 dark: then its speaker leads may be moved").click()
    expect(dark).to_have_count(0)
    page.get_by_role("button", name="Mark as switched on").click()
    expect(page.get_by_text(re.compile("^Switched on since"))).to_be_visible()
    page = at("run/silent-night")
    expect(page.get_by_text("Cue 2, quiet in the hold is on")).to_be_visible()
    expect(page.get_by_role("button", name="Mark as switched on")).to_be_visible()


def test_two_windows_of_one_sheet_are_in_step(at: Going) -> None:
    page = at("run/quiet-hold")
    other = page.context.new_page()
    other.goto(page.url)
    box = other.get_by_role("region", name="Steps").get_by_role("checkbox").first
    expect(box).not_to_be_checked()
    page.get_by_role("region", name="Steps").get_by_role("checkbox").first.click()
    expect(box).to_be_checked(timeout=5_000)


def test_what_was_packed_while_another_list_is_chosen_stays_with_its_own(at: Going) -> None:
    page = at("run/quiet-hold/kit")
    held: list[Route] = []
    page.route("**/api/kit/pack", lambda route: held.append(route), times=1)
    page.get_by_role("checkbox", name="Godwit 45: packed").click()
    page.get_by_label("One more hook-up").select_option(label="Guide track, transistor")
    expect(page.get_by_role("checkbox", name="Dotterel 60: packed")).to_be_visible()
    expect(page.get_by_role("checkbox", name="Godwit 45: packed")).not_to_be_checked()
    with page.expect_response("**/api/kit/pack"):
        held.pop().continue_()
    page.get_by_role("checkbox", name="Dotterel 60: packed").click()
    expect(page.get_by_role("checkbox", name="Dotterel 60: packed")).to_be_checked()
    expect(page.get_by_role("checkbox", name="Godwit 45: packed")).not_to_be_checked()
    page.get_by_role("button", name="Leave out Guide track, transistor").click()
    expect(page.get_by_role("checkbox", name="Dotterel 60: packed")).to_have_count(0)
    expect(page.get_by_role("checkbox", name="Godwit 45: packed")).to_be_checked()


def test_what_was_not_packed_after_all_is_not_left_ticked_in_its_own_list(at: Going) -> None:
    page = at("run/quiet-hold/kit")
    held: list[Route] = []
    page.route("**/api/kit/pack", lambda route: held.append(route), times=1)
    page.get_by_role("checkbox", name="Godwit 45: packed").click()
    expect(page.get_by_role("checkbox", name="Godwit 45: packed")).to_be_checked()
    page.get_by_label("One more hook-up").select_option(label="Guide track, transistor")
    expect(page.get_by_role("checkbox", name="Dotterel 60: packed")).to_be_visible()
    held.pop().fulfill(status=409, content_type="application/problem+json", json={"problems": ["Not now."]})
    page.get_by_role("button", name="Leave out Guide track, transistor").click()
    expect(page.get_by_role("checkbox", name="Dotterel 60: packed")).to_have_count(0)
    expect(page.get_by_role("checkbox", name="Godwit 45: packed")).not_to_be_checked(timeout=3_000)


def test_the_kit_list(at: Going) -> None:
    page = at("run/quiet-hold/kit")
    expect(page.get_by_role("status")).to_contain_text("of 1")
    page.get_by_role("checkbox", name="Godwit 45: packed").click()
    expect(page.get_by_role("checkbox", name="Godwit 45: packed")).to_be_checked()
    page.get_by_label("One more hook-up").select_option(label="Guide track, transistor")
    expect(page.get_by_role("checkbox", name="Dotterel 60: packed")).to_be_visible()
    page.get_by_label("It goes to another place").check()
    expect(page.get_by_text("A torch")).to_be_visible()
    own = page.get_by_role("textbox", name="A line of your own")
    own.fill("The green rug")
    own.press("Enter")
    expect(page.get_by_role("checkbox", name="The green rug: packed")).to_be_visible()
    expect(own).to_have_value("")
    page.get_by_role("button", name="Remove The green rug").click()
    expect(page.get_by_role("checkbox", name="The green rug: packed")).to_have_count(0)
    expect(page.get_by_role("region", name="Tags")).to_contain_text("STAYS EMPTY")


def test_what_is_wrong_by_keys(at: Going) -> None:
    page = at("run/quiet-hold")
    at_hand(page).get_by_role("button", name="Done, next").wait_for()
    page.keyboard.press("w")
    page.get_by_role("button", name=re.compile("^Hum")).click()
    now = page.get_by_role("region", name="What to do now")
    left = page.get_by_role("region", name="What is left")
    first = now.get_by_role("heading", level=3).inner_text()
    assert wrong(page) == []
    page.keyboard.press("n")
    expect(left).to_contain_text(first)
    expect(now.get_by_role("heading", level=3)).not_to_have_text(first)
    page.keyboard.press("c")
    expect(left).to_contain_text("cannot tell")
    page.keyboard.press("u")
    expect(left).not_to_contain_text("cannot tell")
    left.get_by_role("button", name="Mend it …").first.click()
    cause = now.get_by_role("paragraph").first.inner_text()
    now.get_by_role("button", name="Still there").click()
    expect(left).to_contain_text("it was not that")
    left.get_by_role("button", name="Mend it …").first.click()
    expect(now).not_to_contain_text(cause)
    now.get_by_role("button", name="It is gone").click()
    expect(now).to_contain_text("It is in the log")
    page.keyboard.press("g")
    page.keyboard.press("t")
    expect(page.get_by_text(re.compile("“Cue 2, quiet in the hold”. Hum: "))).to_be_visible()


def test_what_is_wrong_is_found_by_what_is_heard(at: Going) -> None:
    page = at("run/quiet-hold")
    at_hand(page).get_by_role("button", name="Done, next").wait_for()
    page.keyboard.press("/")
    page.keyboard.type("crackle")
    page.get_by_role("option", name=re.compile("What is wrong")).click()
    page.wait_for_url("**/run/quiet-hold/wrong")


def test_danger_stands_alone_and_makes_suspects(at: Going) -> None:
    page = at("run/quiet-hold/wrong")
    page.get_by_role("button", name=re.compile("^A smell")).click()
    expect(page.get_by_text("Off at the mains. Now.")).to_be_visible()
    expect(page.get_by_role("region", name="What is left")).to_have_count(0)
    assert wrong(page) == []
    page.get_by_role("button", name="It is off").click()
    page = at("locker/godwit-45")
    suspect = page.get_by_role("region", name="Godwit 45 is suspect")
    suspect.get_by_role("textbox", name="Your word").fill("bench-tested on Friday")
    suspect.get_by_role("textbox", name="Your word").press("Enter")
    expect(suspect).to_have_count(0)


@pytest.mark.parametrize("path", ["run/quiet-hold", "run/quiet-hold/kit", "run/quiet-hold/wrong"])
@pytest.mark.parametrize("size", [(1280, 800), (1024, 768), (390, 844)])
def test_it_reads_on_every_device(at: Going, path: str, size: tuple[int, int]) -> None:
    page = at(path)
    page.set_viewport_size({"width": size[0], "height": size[1]})
    page.locator("main h2").first.wait_for()
    page.wait_for_timeout(300)
    wide = page.evaluate("document.documentElement.scrollWidth")
    assert wide <= size[0]
    small = page.locator("main button:visible, main a:visible").evaluate_all(
        "all => all.filter(b => b.getBoundingClientRect().height < 24 && getComputedStyle(b).display !== 'inline')"
        ".map(b => b.innerText || b.ariaLabel)"
    )
    assert small == []


def test_a_tick_that_is_refused_is_not_left_standing(at: Going) -> None:
    page = at("run/silent-night")
    left = page.get_by_text("before switching on to tick")
    told = left.inner_text()
    problem = {"title": "Not now", "status": 409, "problems": ["There is no room left."], "fields": []}
    page.route("**/run/tick", lambda route: route.fulfill(status=409, json=problem))
    at_hand(page).get_by_role("button", name="Done, next").click()
    expect(page.get_by_role("alert").filter(has_text="There is no room left.")).to_be_visible()
    expect(page.get_by_role("checkbox", checked=True)).to_have_count(0)
    expect(left).to_have_text(told)
    page.unroute("**/run/tick")
    at_hand(page).get_by_role("button", name="Done, next").click()
    expect(left).not_to_have_text(told)


def test_what_is_held_is_put_in_after_a_reload(screen: Page, server: Server) -> None:
    unheard = re.compile("/run/(tick|held)$")
    screen.route(unheard, lambda route: route.abort("internetdisconnected"))
    screen.goto(server.url + "run/silent-night")
    screen.get_by_role("checkbox").first.click()
    expect(screen.get_by_text("1 tick held on this device")).to_be_visible()
    screen.unroute(unheard)
    with screen.expect_response("**/run/held") as put_in:
        screen.reload()
    assert put_in.value.json()["left_out"] == []
    expect(screen.get_by_role("checkbox").first).to_be_checked()
    expect(screen.get_by_role("alert", name="Held, and not put in")).to_have_count(0)


def test_a_tick_whose_answer_is_lost_is_held_and_done_once(screen: Page, server: Server) -> None:
    lost: list[Route] = []

    def silent(route: Route) -> None:
        route.fetch()
        lost.append(route)

    screen.route("**/run/tick", silent)
    screen.goto(server.url + "run/silent-night")
    screen.get_by_role("checkbox").first.click()
    with screen.expect_response("**/run/held") as put_in:
        pass
    assert put_in.value.json()["left_out"] == []
    assert len(lost) == 1
    expect(screen.get_by_text("held on this device")).to_have_count(0)
    expect(screen.get_by_role("checkbox").first).to_be_checked()


HELD = """() => new Promise((found) => {
  const opened = indexedDB.open("low-tide-held");
  opened.onupgradeneeded = () => opened.transaction.abort(); // not made yet: that is the page's to do
  opened.onerror = () => found(undefined);
  opened.onsuccess = () => {
    const asked = opened.result.transaction("held").objectStore("held").count();
    asked.onsuccess = () => (opened.result.close(), found(asked.result));
  };
})"""
"""How many ticks and readings this device holds, shown or not."""


def test_ticks_on_their_way_outlive_a_reload(screen: Page, server: Server) -> None:
    """The second waits for the first, whose answer never comes."""
    screen.goto(server.url + "run/silent-night")
    screen.get_by_role("checkbox").first.wait_for()
    screen.route("**/run/tick", lambda _: None)
    for n in (0, 1):
        screen.get_by_role("checkbox").nth(n).click()
    screen.wait_for_function(f"async () => await ({HELD})() === 2")
    expect(screen.get_by_text("held on this device")).to_have_count(0)
    screen.unroute_all(behavior="ignoreErrors")
    with screen.expect_response("**/run/held") as put_in:
        screen.reload()
    assert put_in.value.json()["left_out"] == []
    for n in (0, 1):
        expect(screen.get_by_role("checkbox").nth(n)).to_be_checked()
    screen.wait_for_function(f"async () => await ({HELD})() === 0")


def test_what_was_sent_is_not_held(at: Going) -> None:
    page = at("run/silent-night")
    page.get_by_role("checkbox").first.click()
    expect(page.get_by_role("checkbox").first).to_be_checked()
    page.wait_for_function(f"async () => await ({HELD})() === 0")
    problem = {"title": "Not now", "status": 409, "problems": ["There is no room left."], "fields": []}
    page.route("**/run/tick", lambda route: route.fulfill(status=409, json=problem))
    page.get_by_role("checkbox").nth(1).click()
    expect(page.get_by_role("alert").filter(has_text="There is no room left.")).to_be_visible()
    page.wait_for_function(f"async () => await ({HELD})() === 0")


def test_a_tick_without_the_server_is_held(at: Going) -> None:
    page = at("run/silent-night")
    left = page.get_by_text("before switching on to tick")
    told = left.inner_text()
    page.context.set_offline(True)
    at_hand(page).get_by_role("button", name="Done, next").click()
    expect(page.get_by_text("1 tick held on this device")).to_be_visible()
    expect(page.get_by_role("checkbox", checked=True)).to_have_count(1)
    expect(page.get_by_role("button", name="Mark as switched on")).to_be_disabled()
    # The server's count would be one too many.
    expect(left).to_have_count(0)
    page.context.set_offline(False)
    expect(page.get_by_text("held on this device")).to_have_count(0)
    expect(left).not_to_have_text(told)
    page.reload()
    expect(page.get_by_role("checkbox", checked=True)).to_have_count(1)
