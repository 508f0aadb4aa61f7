"""Drills in the real interface: every kind by keyboard, pointing, mending, listening, hints, two windows, the score."""

from __future__ import annotations

import json
import re
import sqlite3
from typing import Any

from playwright.sync_api import Page, expect

from low_tide.app.drill_documents import Question, read
from low_tide.core.rig.changes import SetControl
from low_tide.demo.drills import right
from low_tide.formats.documents import dump
from tests.browser.axe import wrong
from tests.browser.rest import deaf
from tests.conftest import Server

BEGIN = """async ([source, kinds]) => {
  const body = JSON.stringify({ source, kinds });
  const headers = { "content-type": "application/json" };
  return (await fetch("/api/drills/sittings", { method: "POST", headers, body })).json();
}"""


ANSWER = """async ([sitting, body]) => {
  const { at } = await (await fetch(`/api/drills/sittings/${sitting}`)).json();
  const headers = { "content-type": "application/json" };
  await fetch(`/api/drills/questions/${at}/answer`, { method: "POST", headers, body });
}"""


GO_ON = """async ([sitting, body]) => {
  const { at } = await (await fetch(`/api/drills/sittings/${sitting}`)).json();
  const headers = { "content-type": "application/json" };
  await fetch(`/api/drills/questions/${at}/answer`, { method: "POST", headers, body });
  await fetch(`/api/drills/sittings/${sitting}/next`, { method: "POST" });
}"""


def begin(page: Page, server: Server, *kinds: str) -> None:
    """A sitting of certain kinds, from the lightship, and its first question."""
    page.goto(server.url + "drills")
    made = page.evaluate(BEGIN, ["lightship", list(kinds)])
    page.goto(f"{server.url}drills/{made['id']}")
    page.get_by_role("button", name=re.compile("^Hint")).wait_for()


def asked(server: Server) -> Question:
    """The question that is open, with its truth, from where it is kept."""
    path = next(server.folder.rglob("low-tide.db"))
    with sqlite3.connect(f"file:{path}?mode=ro", uri=True) as found:
        kind, card, level, doc = found.execute("SELECT kind, card, level, doc FROM drill ORDER BY id DESC").fetchone()
    return read(kind, card, level, json.loads(doc))


def told(page: Page) -> None:
    expect(page.get_by_role("heading", name="Right", exact=True)).to_be_visible()


def answer_by_keys(page: Page, question: Question) -> None:
    """Answer as it is right, or, where that takes many keys, by whatever comes first."""
    given: Any = right(question)
    keys = page.keyboard
    match question.kind:
        case "number":
            keys.type(f"{given.value:.4f}")
            keys.press("Enter")
        case "order":
            assert question.ordering
            dealt = [step.id for step in question.ordering.steps]
            for step in given.steps:
                keys.press(str(dealt.index(step) + 1))
            page.get_by_role("button", name="In this order").press("Enter")
        case "ear":
            page.get_by_role("button", name="It is A").wait_for()
            keys.press("b")
            expect(page.get_by_role("button", name=re.compile("^B"))).to_have_attribute("aria-pressed", "true")
            keys.press("a")
            expect(page.get_by_role("button", name=re.compile("^A"))).to_have_attribute("aria-pressed", "true")
            keys.press(" ")
            keys.press({"a": "1", "b": "2"}[given.letter])
        case "may":
            keys.press({"clear": "1", "caution": "2", "stop": "3"}[given.verdict])
            if given.verdict != "clear":
                expect(page.get_by_role("heading", name="Why?")).to_be_visible()
                reasons = [r.check for r in question.hookup.reasons] if question.hookup else []
                keys.press(str(reasons.index(given.reason) + 1))
        case "spot":
            assert question.hookup
            page.get_by_role("list", name="To point at").wait_for()
            for _ in range(30):
                keys.press("j")
                if page.evaluate("document.activeElement?.dataset.target") == given.at:
                    break
            keys.press("Enter")


def test_every_kind_by_keyboard_and_the_way_there(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + "bench/quiet-hold")
    page.locator("[data-unit]").first.wait_for()
    page.keyboard.press("g")
    page.keyboard.press("i")
    expect(page.get_by_role("region", name="A sitting")).to_be_visible()
    before = page.get_by_role("region", name="Right, sitting by sitting").locator("circle").count()
    problems: dict[str, list[str]] = {}
    for kind in ("number", "order", "ear", "may", "spot"):
        begin(page, server, kind)
        question = asked(server)
        problems[f"{kind} asked"] = wrong(page)
        answer_by_keys(page, question)
        told(page)
        problems[f"{kind} told"] = wrong(page)
        expect(page.get_by_role("button", name=re.compile("^Next"))).to_be_focused()
        page.keyboard.press("n")
        expect(page.get_by_text(re.compile("^2 of 10"))).to_be_visible()
    assert not {name: found for name, found in problems.items() if found}
    page.goto(server.url + "drills")
    circles = page.get_by_role("region", name="Right, sitting by sitting").locator("circle")
    expect(circles).to_have_count(before + 5)


def test_pointing_in_the_picture(screen: Page, server: Server) -> None:
    page = screen
    begin(page, server, "spot")
    question = asked(server)
    assert question.hookup
    rig = question.hookup.rig
    away = next(unit for unit, _ in rig.units() if unit not in question.hookup.at)
    page.locator(f'[data-unit="{away}"]').click(position={"x": 20, "y": 8})
    expect(page.get_by_role("button", name=f"It is {rig.name(away)}")).to_be_enabled()
    expect(page.locator(f'[data-unit="{away}"]')).to_have_class(re.compile("ring-4"))
    page.get_by_role("button", name=f"It is {rig.name(away)}").click()
    expect(page.get_by_role("heading", name="Not right")).to_be_visible()
    expect(page.get_by_role("complementary", name="What it was")).to_contain_text("What was wrong")
    page.get_by_role("link", name="How it comes about").click()
    expect(page).to_have_url(re.compile("help/physics#"))
    page.go_back()
    expect(page.get_by_role("heading", name="Not right")).to_be_visible()


def test_mending_with_one_change(screen: Page, server: Server) -> None:
    page = screen
    begin(page, server, "mend")
    for tried in range(45):
        question = asked(server)
        assert question.hookup
        undo, rig = question.hookup.undo, question.hookup.rig
        back = undo[0]
        control = rig.control(back.unit, back.control) if isinstance(back, SetControl) else None
        once = control is not None and "." not in control.id
        if control and once and control.kind in ("choice", "switch") and not control.folded and len(undo) == 1:
            break
        page.evaluate(GO_ON, [page.url.split("/")[-1], json.dumps({"answer": dump(right(question))})])
        if tried % 9 == 8:
            begin(page, server, "mend")
        page.reload()
        page.get_by_role("button", name=re.compile("^Hint")).wait_for()
    else:
        raise AssertionError("no mistake that one control mends was drawn")
    assert isinstance(back, SetControl)
    # A socket says what may be done there, and not what comes of it.
    page.locator("[data-socket]").first.click()
    expect(page.get_by_text("what may be done here")).to_be_visible()
    assert wrong(page) == []
    page.keyboard.press("Escape")
    page.locator(f'[data-unit="{back.unit}"]').click(position={"x": 20, "y": 8})
    card = page.locator(f'[data-unit="{back.unit}"]')
    name = re.compile(f", {re.escape(control.label)}$")
    if control.kind == "switch":
        knob = card.get_by_role("switch", name=name)
    else:
        label = next(o.label for o in control.options if o.value == back.value)
        knob = card.get_by_role("radiogroup", name=name).get_by_role("radio", name=label, exact=True)
    knob.click()
    expect(page.get_by_role("heading", name="Your change")).to_be_visible()
    page.keyboard.press("u")
    expect(page.get_by_role("button", name="Change something first")).to_be_disabled()
    knob.click()
    page.get_by_role("button", name="This makes it sound").click()
    told(page)


def test_setting_a_level(screen: Page, server: Server) -> None:
    page = screen
    begin(page, server, "level")
    expect(page.get_by_text(re.compile("^Peaks on the line to ")).first).to_be_visible()
    aside = page.get_by_role("complementary", name="Answer")
    knob = aside.get_by_role("spinbutton").first
    knob.focus()
    before = knob.get_attribute("aria-valuenow")
    page.keyboard.press("]" if before != knob.get_attribute("aria-valuemax") else "[")
    expect(knob).not_to_have_attribute("aria-valuenow", before or "")
    aside.get_by_role("button", name=re.compile("^As it was")).click()
    expect(knob).to_have_attribute("aria-valuenow", before or "")
    assert wrong(page) == []
    page.keyboard.press("h")
    expect(page.get_by_text("Hint:")).to_be_visible()


def test_a_hint_the_same_again_and_the_end(screen: Page, server: Server) -> None:
    page = screen
    begin(page, server, "number")
    page.get_by_role("button", name=re.compile("^Hint")).click()
    expect(page.get_by_text("Hint:")).to_be_visible()
    field = page.get_by_label("Your answer")
    field.fill("a lot")
    expect(page.get_by_role("alert")).to_contain_text("a number is wanted")
    field.fill(str(right(asked(server)).value))  # type: ignore[union-attr]
    page.keyboard.press("Enter")
    told(page)
    expect(page.get_by_text("It counts as hard.")).to_be_visible()
    page.keyboard.press("m")
    expect(page.get_by_text(re.compile("^once more"))).to_be_visible()
    page.get_by_role("button", name="End the sitting").click()
    page.get_by_role("button", name="Go on").click()
    expect(page.get_by_label("Your answer")).to_be_visible()
    page.get_by_role("button", name="End the sitting").click()
    page.get_by_role("dialog").get_by_role("button", name="End it").click()
    expect(page.get_by_role("region", name="A sitting")).to_be_visible()


def test_two_windows_on_one_sitting(screen: Page, server: Server) -> None:
    page = screen
    deaf(page)
    begin(page, server, "number")
    answer = json.dumps({"answer": dump(right(asked(server)))})
    page.evaluate(ANSWER, [page.url.split("/")[-1], answer])
    page.get_by_label("Your answer").fill("1")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("answered in another window")
    told(page)


def test_what_a_locker_lacks_is_said_and_the_score_is_forgotten(screen: Page, server: Server) -> None:
    page = screen
    page.goto(server.url + "drills")
    expect(page.get_by_role("checkbox", name=re.compile("^By ear"))).to_be_checked()
    page.get_by_role("checkbox", name=re.compile("^By ear")).uncheck()
    page.get_by_role("region", name="Right, sitting by sitting").get_by_role("button", name="Table").click()
    expect(page.get_by_role("columnheader", name="Median time, s").first).to_be_visible()
    with page.expect_download() as download:
        page.get_by_role("link", name="Answers as CSV").click()
    assert download.value.suggested_filename == "drills.csv"
    page.get_by_role("button", name="Forget all answers").click()
    page.get_by_role("button", name="Keep it as it is").click()
    page.get_by_role("button", name="Forget all answers").click()
    page.get_by_role("button", name="Forget them").click()
    expect(page.get_by_text("No answers yet")).to_be_visible()
