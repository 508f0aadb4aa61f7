"""The Log: two takes held against each other."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.test_screens import wrong
from tests.conftest import Server


def test_what_differs_between_two_takes(bench: Page, server: Server) -> None:
    page = bench
    page.goto(server.url + "log/1")
    page.get_by_label("What differs from another take").select_option(label="3, Bell answer")
    told = page.get_by_role("article")
    expect(told.get_by_role("row", name=re.compile("^Caisson 120"))).to_contain_text("in it")
    expect(told).to_contain_text("Godwit 45, speaker 1 → Caisson 120, amp in")
    expect(told).not_to_contain_text("Gain")
    assert wrong(page) == []
    order = told.get_by_role("columnheader").all_inner_texts()
    told.get_by_role("button", name="Turn round").click()
    expect(told.get_by_role("columnheader").first).to_have_text(order[1])
    told.get_by_role("link", name="back to the take").click()
    expect(page.get_by_role("article", name="Take 3")).to_be_visible()
