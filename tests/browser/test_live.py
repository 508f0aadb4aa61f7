"""How a page hears of what others change."""

from __future__ import annotations

import re

from playwright.sync_api import Page, Route, expect

from tests.conftest import Server


def test_a_page_that_only_asked_hears_as_it_happens_once_the_server_was_away(screen: Page, server: Server) -> None:
    streams: list[str] = []

    def stream(route: Route) -> None:
        streams.append(route.request.url)
        if len(streams) == 1:
            route.fulfill(body="")  # ended from the other side: from now on it asks
        else:
            route.continue_()

    screen.route("**/api/live/stream*", stream)
    screen.route(re.compile(r"/api/live(\?|$)"), lambda route: route.abort(), times=1)
    screen.goto(server.url + "log")
    expect(screen.get_by_text("server does not answer")).to_be_visible()
    expect(screen.get_by_text("server does not answer")).to_have_count(0)
    assert len(streams) == 2
