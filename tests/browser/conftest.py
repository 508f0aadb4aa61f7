"""A real browser: Debian's Chromium, the built front end, a real server with the lightship."""

from __future__ import annotations

import os
import shutil
import socket
import threading
from collections.abc import Iterator
from dataclasses import dataclass
from http.server import BaseHTTPRequestHandler, HTTPServer
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, ConsoleMessage, Page, expect

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


@pytest.fixture(scope="session")
def port() -> Iterator[int]:
    """One port for all servers of this process, below those that are given to who asks for any: for a browser scripts
    from another port are other scripts, which it reads anew."""
    for port in range(18_170, 18_370):
        with socket.socket() as probe, socket.socket(type=socket.SOCK_DGRAM) as claim:
            try:
                # Between two servers nobody listens there: who has it is seen by its twin for datagrams.
                claim.bind(("127.0.0.1", port))
            except OSError:
                continue
            if probe.connect_ex(("127.0.0.1", port)):
                yield port
                return
    raise RuntimeError("All ports from 18170 to 18369 are taken.")


@pytest.fixture
def server(filled: Path, tmp_path: Path, port: int) -> Iterator[Server]:
    running = Server(Path(shutil.copytree(filled, tmp_path / "served")), port=port)
    yield running
    running.kill()


@dataclass(frozen=True)
class House:
    """A context with a page that stays: what it opens is read by the same process, which knows the scripts already. To
    read them anew takes longer than many a test."""

    context: BrowserContext
    stays: Page

    def opened(self) -> Page:
        with self.context.expect_page() as got:
            self.stays.evaluate("() => void window.open('about:blank')")
        return got.value

    def cleared(self) -> None:
        """Without anything that the last test left: pages, what they kept, a network that is gone."""
        for page in self.context.pages:
            if page is not self.stays:
                page.close()
        self.context.set_offline(False)
        self.context.unroute_all()
        origin = {"origin": self.stays.url.rpartition("/")[0], "storageTypes": "all"}
        session = self.context.new_cdp_session(self.stays)
        session.send("Storage.clearDataForOrigin", origin)
        session.detach()


class Nothing(BaseHTTPRequestHandler):
    """Answers with an empty page."""

    def do_GET(self) -> None:
        self.send_response(200)
        self.end_headers()

    def log_message(self, format: str, *args: Any) -> None:
        pass


@pytest.fixture(scope="session")
def house(browser: Browser, browser_context_args: dict[str, Any], port: int) -> Iterator[House]:
    context = browser.new_context(**browser_context_args)
    stays = context.new_page()
    # What it shows is of no matter, but where it is from. A route would do for that, but where there is one nothing is
    # kept of what was read.
    with HTTPServer(("127.0.0.1", port), Nothing) as once:
        threading.Thread(target=once.handle_request).start()
        stays.goto(f"http://127.0.0.1:{port}/nothing")
    yield House(context, stays)
    context.close()


@pytest.fixture
def page(house: House) -> Iterator[Page]:
    """A page like one of a browser just begun."""
    yield house.opened()
    house.cleared()


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
