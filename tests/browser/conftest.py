"""A real browser: Debian's Chromium, the built front end, a real server with the lightship."""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import Any

import pytest
from playwright.sync_api import ConsoleMessage, Page, expect

from tests.chromium import chromium
from tests.conftest import Server

PATIENCE_MS = 60_000
"""A machine that is busy with something else is no defect of the interface."""

expect.set_options(timeout=PATIENCE_MS)

QUIET = ["--disable-background-networking", "--disable-component-update", "--disable-sync", "--no-first-run"]


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict[str, Any]) -> dict[str, Any]:
    root = ["--no-sandbox"] if os.geteuid() == 0 else []
    return {**browser_type_launch_args, "executable_path": chromium(), "args": [*QUIET, *root]}


@pytest.fixture(scope="session")
def browser_context_args(browser_context_args: dict[str, Any]) -> dict[str, Any]:
    return {**browser_context_args, "viewport": {"width": 1280, "height": 800}, "locale": "en-GB"}


@pytest.fixture
def screen(server: Server, page: Page) -> Iterator[Page]:
    """A page that is nowhere yet; the test fails on any error in its console, the policy's included, until the server
    goes."""
    problems: list[str] = []

    def heard(message: ConsoleMessage) -> None:
        refusal = "the server responded with a status of 4" in message.text
        # A test that takes the server away says so by this error, which nothing else brings about.
        refusal |= "ERR_INTERNET_DISCONNECTED" in message.text
        # The stream of changes never ends by itself: a test that kills the server cuts it off.
        refusal |= "/api/live" in message.location.get("url", "")
        if message.type == "error" and not refusal:
            problems.append(message.text)

    page.on("console", heard)
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.set_default_timeout(PATIENCE_MS)
    yield page
    assert problems == []


@pytest.fixture
def bench(screen: Page, server: Server) -> Page:
    """The same at the Bench, as one who starts the program finds it."""
    screen.goto(server.url)
    screen.wait_for_url("**/bench/**")
    screen.get_by_role("list", name="Findings").wait_for()
    return screen
