"""How a page hears of what others change."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, Route

from tests.conftest import Server


@pytest.mark.parametrize("away", ["refused", "silent"])
def test_a_page_that_only_asked_hears_as_it_happens_once_the_server_was_away(
    screen: Page, server: Server, away: str
) -> None:
    streams: list[str] = []

    def stream(route: Route) -> None:
        streams.append(route.request.url)
        if len(streams) == 1:
            route.fulfill(body="")  # ended from the other side: from now on it asks
        else:
            route.continue_()

    screen.route("**/api/live/stream*", stream)
    asked: list[str] = []

    def unheard(route: Route) -> None:
        asked.append(route.request.url)
        if away == "refused":
            route.abort()  # else nothing is ever said, and the page gives it up

    screen.route(re.compile(r"/api/live(\?|$)"), unheard)
    screen.goto(server.url + "log")
    for _ in range(600):
        if len(streams) > 1:
            break
        screen.wait_for_timeout(100)
    assert (len(asked), len(streams)) == (1, 2)
