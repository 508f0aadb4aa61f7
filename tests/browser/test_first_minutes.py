"""From an empty start to a verdict on one's own gear: within forty clicks and fields, by mouse and by keyboard."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Locator, Page, expect

from low_tide.core.judging.checks import REGISTRY
from tests.conftest import Server

MOST_ACTS = 40
OWNED = (
    "50 W valve head",
    "8 Ω reactive load with line out",
    "Interface, 2 inputs",
    "Speaker lead, 1.5 m",
    "Line lead, balanced jack to XLR, 3 m",
)


@pytest.fixture
def ashore(tmp_path: Path, port: int) -> Iterator[Server]:
    """A server over an empty folder."""
    server = Server(tmp_path / "own", port=port)
    yield server
    server.kill()


class Counted:
    """Clicks and fields, counted as they are made; by keyboard each is a focus and a key."""

    def __init__(self, page: Page, keyboard: bool) -> None:
        self.page, self.keyboard, self.acts = page, keyboard, 0

    def press(self, what: Locator) -> None:
        self.acts += 1
        what.wait_for()
        if not self.keyboard:
            what.click()
            return
        what.focus()
        expect(what).to_be_focused()
        self.page.keyboard.press("Space" if what.get_attribute("type") == "checkbox" else "Enter")

    def choose(self, label: str, value: str) -> None:
        self.acts += 1
        self.page.get_by_label(label, exact=False).first.select_option(value)


@pytest.mark.parametrize("by", ["mouse", "keyboard"])
def test_from_nothing_to_a_verdict_on_ones_own(page: Page, ashore: Server, by: str) -> None:
    hand = Counted(page, by == "keyboard")
    page.goto(ashore.url)
    for name in OWNED:
        hand.press(page.get_by_role("checkbox", name=name))
    hand.press(page.get_by_role("button", name="Put these 5 into the locker"))
    page.get_by_role("heading", name="50 W valve head").wait_for()
    hand.press(page.get_by_role("button", name="every figure here is as on mine"))
    hand.choose("Jacks of a tap are", "parallel")
    hand.choose("Has mains earth", "yes")
    expect(page.get_by_text("5 of 5 known")).to_be_visible()
    hand.press(page.get_by_role("button", name="Save changes"))
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    hand.press(page.get_by_role("link", name=re.compile("^8 Ω reactive load")))
    page.get_by_role("heading", name="8 Ω reactive load").wait_for()
    hand.press(page.get_by_role("button", name="every figure here is as on mine"))
    for label, value in (("Rating counts", "continuous"), ("Through socket", "switching"), ("Thermal cut-out", "none")):
        hand.choose(label, value)
    expect(page.get_by_text("6 of 6 known")).to_be_visible()
    hand.press(page.get_by_role("button", name="Save changes"))
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    hand.press(page.get_by_role("link", name="Bench"))
    hand.press(page.get_by_role("button", name="Start with 50 W valve head"))
    for jack, where in (("speaker 1", "8 Ω reactive load with line out, amp in"), ("line out", "input 1")):
        hand.press(page.get_by_role("button", name=re.compile(f"^{jack},")))
        hand.press(page.locator("[data-choice]", has_text=where).first)
        page.get_by_role("list", name="Findings").wait_for()
    verdict = page.get_by_label("Verdict")
    expect(verdict).to_contain_text("8 Ω")
    expect(verdict).to_contain_text(re.compile("Check first|Clear to switch on"))
    expect(page.get_by_text("8 Ω reactive load with line out has 1.2 dB to spare", exact=False)).to_be_visible()
    assert hand.acts <= MOST_ACTS, hand.acts


def test_a_lead_that_is_missing_is_named_and_added(page: Page, ashore: Server) -> None:
    page.goto(ashore.url)
    for name in OWNED[:2]:
        page.get_by_role("checkbox", name=name).check()
    page.get_by_role("button", name="Put these 2 into the locker").click()
    page.get_by_role("heading", name="50 W valve head").wait_for()
    page.get_by_role("link", name="Bench").click()
    page.get_by_role("button", name="Start with 50 W valve head").click()
    page.get_by_role("button", name=re.compile("^speaker 1,")).click()
    choice = page.locator("[data-choice]", has_text="8 Ω reactive load with line out, amp in").first
    expect(choice).to_contain_text("No such lead is free. This puts one into the locker: Speaker lead, 6.35 mm jack to")
    choice.click()
    expect(page.get_by_role("article", name="8 Ω reactive load with line out")).to_be_visible()
    page.get_by_role("link", name="Locker", exact=True).click()
    expect(page.get_by_role("link", name=re.compile("^Speaker lead, 6.35 mm jack"))).to_be_visible()


def test_the_lightship_and_back(page: Page, ashore: Server) -> None:
    page.goto(ashore.url)
    look = page.get_by_role("button", name="Look around the lightship")
    look.click()
    laid_out = page.get_by_role("progressbar", name="Laying out the lightship")
    expect(laid_out).to_be_visible()
    expect(page.get_by_text(re.compile(r"Laying out the lightship, [1-9]\d* %"))).to_be_visible()
    page.get_by_role("button", name="Stop").click()
    expect(laid_out).to_have_count(0)
    page.reload()
    expect(page.get_by_role("heading", name="What do you own?")).to_be_visible()
    look.click()
    aboard = page.get_by_role("region", name="Lightship")
    # A whole ship is filled: recordings and their inspections among it.
    expect(aboard).to_contain_text("Nothing here touches your own data", timeout=60_000)
    expect(page.get_by_label("Verdict")).to_be_visible()
    aboard.get_by_role("button", name="Back to my own").click()
    expect(page.get_by_role("heading", name="What do you own?")).to_be_visible()
    expect(aboard).to_have_count(0)


def test_an_empty_locker_leads_on_from_wherever_one_is(page: Page, ashore: Server) -> None:
    for path in ("bench", "locker"):
        page.goto(ashore.url + path)
        expect(page.get_by_role("heading", name="What do you own?")).to_be_visible()
    for path in ("loudness", "feel", "run"):
        page.goto(ashore.url + path)
        page.get_by_role("link", name="Make one on the Bench first").click()
        expect(page.get_by_role("heading", name="What do you own?")).to_be_visible()


def test_a_finding_leads_to_the_field_it_asks_for_and_back(page: Page, server: Server) -> None:
    page.goto(server.url + "locker/gabion-40")
    page.get_by_role("textbox", name="Rating").fill("")
    page.get_by_role("button", name="Save changes").click()
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    page.goto(server.url + "bench/split-fog")
    page.get_by_role("list", name="Findings").wait_for()
    asks = page.get_by_role("link", name="Say it in the Locker: Rating of Gabion 40")
    expect(asks).to_have_count(2)  # how much it stands, and how hot it gets
    while not asks.first.locator("xpath=ancestor::li").evaluate("e => e.contains(document.activeElement)"):
        page.keyboard.press("j")
    page.keyboard.press("e")
    field = page.get_by_role("textbox", name="Rating")
    expect(field).to_be_focused()
    field.fill("40")
    page.get_by_role("button", name="Save changes").click()
    expect(page.get_by_text("Saved.", exact=True)).to_be_visible()
    page.keyboard.press("Escape")
    page.wait_for_url("**/bench/split-fog")
    expect(asks).to_have_count(0)
    # A unit at hand, and a typical value, lead there too.
    page.locator('[data-socket="gabion-40/in"]').focus()
    page.keyboard.press("e")
    page.wait_for_url("**/locker/gabion-40?**")
    page.get_by_role("button", name="Back to the Bench").click()
    page.get_by_text("typical or estimated, not measured").click()
    page.get_by_role("link", name=re.compile("typical, not measured|taken as")).first.click()
    page.wait_for_url("**/locker/**")


def test_find_leads_to_screens_settings_rules_and_help(page: Page, server: Server) -> None:
    page.goto(server.url + "bench/split-fog")
    page.get_by_role("list", name="Findings").wait_for()
    found = page.get_by_role("dialog").get_by_role("option")
    for words, kind, name in (
        ("load feel", "Screen", "Load feel"),
        ("schools of match", "Setting", "Preferences"),
        ("mismatch", "Check", "mismatch"),
        ("minimum phase", "Help", "Other ways into the network"),
        ("groyne", "Gear", "Groyne R8"),
    ):
        page.keyboard.press("/")
        page.get_by_role("combobox").last.fill(words)
        hit = found.filter(has_text=kind).filter(has_text=name).first
        expect(hit).to_be_visible()
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    page.keyboard.press("/")
    page.get_by_role("combobox").last.fill("groyne")
    expect(found.filter(has_text="in Cue 1, silent after 21:00").first).to_be_visible()
    page.get_by_role("combobox").last.fill("schools of match")
    found.filter(has_text="Preferences").first.click()
    expect(page.get_by_role("dialog", name="Preferences")).to_be_visible()


def test_every_finding_leads_to_its_rule_and_that_to_the_physics(page: Page, server: Server) -> None:
    page.goto(server.url + "bench/split-fog")
    page.get_by_role("link", name=re.compile("^The rule behind it: Godwit 45 sees 4 Ω")).click()
    page.wait_for_url("**/help/checks#mismatch")
    expect(page.locator("td#mismatch")).to_be_in_viewport()
    ids = page.locator("td[id]").evaluate_all("all => all.map((e) => e.id)")
    assert set(ids) >= set(REGISTRY)
    page.get_by_role("link", name="The amp").first.click()
    page.wait_for_url("**/help/physics#the-amp")
    expect(page.get_by_role("heading", name="The amp")).to_be_in_viewport()
    # Every link of every page leads somewhere.
    for name in ("user-guide", "physics", "checks"):
        page.goto(f"{server.url}help/{name}")
        page.get_by_role("heading", level=3).first.wait_for()
        for to in page.locator("article a").evaluate_all("all => all.map((a) => a.getAttribute('href'))"):
            page.goto(server.url + to.removeprefix("/"))
            page.get_by_role("heading", level=3).first.wait_for()
            assert "#" not in to or page.locator(f"[id='{to.split('#')[1]}']").count() == 1, to
    page.get_by_label("Search the help").fill("damping factor")
    expect(page.get_by_role("navigation", name="Help").get_by_role("link").first).to_be_visible()
    page.get_by_label("Search the help").fill("gannet gannet")
    expect(page.get_by_text("Nothing has all of these words in it.")).to_be_visible()
