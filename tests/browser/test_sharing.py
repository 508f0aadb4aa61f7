"""A tablet by the amp, in a real browser at a second machine: let in, told, out of reach and back, shut out."""

from __future__ import annotations

import base64
import hashlib
import os
import re
import subprocess
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import pytest
from playwright.sync_api import BrowserType, Page, expect

from tests.browser.axe import wrong
from tests.browser.conftest import PATIENCE_MS, QUIET
from tests.browser.rest import Rest
from tests.conftest import Server
from tests.network import Machine, Network, network
from tests.web.test_on_the_network import Shared, at_desk, certificate, encrypted

__all__ = ["at_desk", "certificate", "encrypted", "network"]

TABLET = {"viewport": {"width": 1024, "height": 768}, "has_touch": True, "is_mobile": True}

TOO_SMALL = """() => [...document.querySelectorAll('.at-arm :is(button, a, summary, select, textarea, input)')]
  .filter((e) => {
    const target = (e.matches('input') && e.closest('label')) || e;
    const { width, height } = target.getBoundingClientRect();
    const look = getComputedStyle(e);
    if (!width || look.visibility === 'hidden' || look.display === 'inline' || e.matches('.as-drawn')) return false;
    return height < 43.5 || width < 43.5;
  })
  .map((e) => e.getAttribute('aria-label') || e.textContent || e.outerHTML)"""
"""Names of what a finger is to hit that is under 44 px; links in the middle of a sentence aside."""


def browsed(kind: BrowserType, machine: Machine, folder: Path, **look: Any) -> Iterator[Page]:
    """A browser at one of the machines; any error on its page fails the test."""
    root = ["--no-sandbox"] if os.geteuid() == 0 else []
    browser = kind.launch(executable_path=machine.chromium(folder), args=[*QUIET, *root])
    page = browser.new_context(locale="en-GB", **look).new_page()
    problems: list[str] = []
    page.on("pageerror", lambda error: problems.append(str(error)))
    page.set_default_timeout(PATIENCE_MS)
    yield page
    browser.close()
    assert problems == []


@pytest.fixture
def screen(at_desk: Server, network: Network, browser_type: BrowserType, tmp_path: Path) -> Iterator[Page]:
    """The screen at the desk."""
    yield from browsed(browser_type, network.desk, tmp_path, viewport={"width": 1280, "height": 800})


@pytest.fixture
def tablet(at_desk: Server, network: Network, browser_type: BrowserType, tmp_path: Path) -> Iterator[Page]:
    """The tablet by the amp."""
    yield from browsed(browser_type, network.away, tmp_path, **TABLET)


@pytest.fixture
def let_in(screen: Page, tablet: Page, at_desk: Server, network: Network) -> Callable[..., str]:
    """Shares at the desk and lets the tablet in; the address of the server as the tablet knows it."""

    def pair(everything: bool = False) -> str:
        screen.goto(at_desk.url + "run/silent-night")
        screen.get_by_role("button", name="Share", exact=True).click()
        sheet = screen.get_by_role("dialog")
        mine = re.compile(re.escape(network.here))
        sheet.get_by_role("checkbox", name=mine).wait_for()
        for box in sheet.get_by_role("checkbox").all():
            box.set_checked(False)
        sheet.get_by_role("checkbox", name=mine).check()
        sheet.get_by_role("button", name="Share", exact=True).click()
        expect(sheet.get_by_text("Not encrypted.")).to_be_visible()
        if everything:
            sheet.get_by_role("radio", name="Everything but").check()
        sheet.get_by_role("button", name="Pair a device").click()
        code = sheet.locator(".font-mono").inner_text()
        base = f"http://{network.here}:{at_desk.url.rstrip('/').rsplit(':', 1)[1]}/"
        tablet.goto(base + "bench/silent-night")
        expect(tablet).to_have_url(base + "pair")
        tablet.get_by_label("Code").fill(code.lower())
        tablet.get_by_label("What this device is called").fill("By the amp")
        tablet.get_by_role("button", name="Pair", exact=True).tap()
        tablet.wait_for_url("**/run/**" if not everything else "**/run**")
        screen.keyboard.press("Escape")
        expect(screen.get_by_text("By the amp has come in from")).to_be_visible()
        screen.get_by_role("button", name="That is mine").click()
        return base

    return pair


def tick(page: Page, name: str) -> Any:
    return page.get_by_role("checkbox", name=re.compile(f"^{re.escape(name)}"))


FIRST, SECOND = "Godwit 45 is off", "Set Groyne R8"


def test_what_one_ticks_the_other_sees(screen: Page, tablet: Page, let_in: Callable[..., str]) -> None:
    tablet.wait_for_function("() => navigator.onLine")
    base = let_in()
    assert not tablet.evaluate("window.isSecureContext")
    tablet.goto(base + "bench/silent-night")
    expect(tablet).to_have_url(base + "run/silent-night")
    sections = tablet.get_by_role("navigation", name="Sections").get_by_role("link")
    expect(sections).to_have_text(["Run sheet", "Log"])
    tick(tablet, FIRST).tap()
    expect(tick(screen, FIRST)).to_be_checked(timeout=3000)
    began = time.monotonic()
    tick(screen, SECOND).click()
    expect(tick(tablet, SECOND)).to_be_checked(timeout=3000)
    assert time.monotonic() - began < 3
    # What makes a pause on the tablet is nothing it could not ask for.
    for path in ("log", "log/1", "run/silent-night/kit", "run/silent-night/wrong"):
        tablet.goto(base + path)
        tablet.locator("main h1").wait_for(state="attached")
        tablet.wait_for_timeout(700)
        expect(tablet.get_by_text("it was let in for")).to_have_count(0)
    tablet.goto(base + "log/1")
    # Nor is it offered what it may not do.
    expect(tablet.get_by_role("button", name="Edit")).to_be_visible()
    for name in ("Recall this hook-up", "Delete"):
        expect(tablet.get_by_role("button", name=name)).to_have_count(0)
    expect(tablet.get_by_role("link", name="What it says, in Capture")).to_have_count(0)
    with tablet.expect_download() as saved:
        tablet.get_by_role("link", name="Save the file").tap()
    assert saved.value.suggested_filename.endswith(".wav")


def test_without_the_network_ticks_are_held(
    screen: Page, tablet: Page, let_in: Callable[..., str], network: Network
) -> None:
    base = let_in()
    tablet.goto(base + "run/silent-night")
    tick(tablet, FIRST).wait_for()
    network.cut()
    expect(tablet.get_by_text("out of reach")).to_be_visible()
    tick(tablet, FIRST).tap()
    tick(tablet, SECOND).tap()
    expect(tablet.get_by_text("2 ticks held on this device")).to_be_visible()
    expect(tick(tablet, FIRST)).to_be_checked()
    expect(tick(screen, FIRST)).not_to_be_checked()
    measured = tablet.get_by_role("button", name=re.compile("^Amp off: pull Speaker lead A")).last
    measured.tap()
    tablet.get_by_label(re.compile("ohms|Resistance", re.IGNORECASE)).fill("0.2")
    tablet.get_by_role("button", name="Hold it against this").tap()
    expect(tablet.get_by_text("Not judged yet: 0.2 Ω")).to_be_visible()
    expect(tablet.get_by_text("2 ticks and 1 reading held")).to_be_visible()
    expect(tablet.get_by_role("button", name="Mark as switched on")).to_be_disabled()
    network.mend()
    expect(tablet.get_by_text("held on this device")).to_have_count(0)
    expect(tick(screen, FIRST)).to_be_checked()
    expect(tick(screen, SECOND)).to_be_checked()
    # What a meter said at the amp keeps it off at the desk.
    expect(screen.get_by_role("region", name="Verdict")).to_contain_text("Do not switch on")


def test_what_was_held_for_another_state_is_shown_and_not_put_in(
    screen: Page, tablet: Page, let_in: Callable[..., str], network: Network
) -> None:
    base = let_in()
    tablet.goto(base + "run/silent-night")
    tick(tablet, FIRST).wait_for()
    network.cut()
    tick(tablet, FIRST).tap()
    expect(tablet.get_by_text("1 tick held")).to_be_visible()
    tablet.get_by_role("button", name=re.compile("^Amp off: pull Speaker lead A")).last.tap()
    tablet.get_by_label(re.compile("ohms|Resistance", re.IGNORECASE)).fill("6.7")
    tablet.get_by_role("button", name="Hold it against this").tap()
    expect(tablet.get_by_text("1 tick and 1 reading held")).to_be_visible()
    changed = screen.evaluate(
        """async () => {
          const state = await (await fetch('/api/hookups/silent-night')).json();
          const changes = [{ op: 'set', unit: 'groyne-r8', control: 'line.pot', value: -6 }];
          const body = JSON.stringify({ changes, saves: state.saves });
          const headers = { 'content-type': 'application/json' };
          const answer = await fetch("/api/hookups/silent-night/changes", { method: "POST", headers, body });
          return answer.ok || answer.text();
        }"""
    )
    assert changed is True
    network.mend()
    note = tablet.get_by_role("alert", name="Held, and not put in")
    expect(note).to_contain_text("It was ticked on another state of the hook-up")
    expect(tick(screen, FIRST)).not_to_be_checked()
    tablet.reload()
    expect(note).to_contain_text(f"{FIRST}, its volume and master are down: done.")
    expect(note).to_contain_text(": 6.7 Ω. It was read on another state of the hook-up")
    note.get_by_role("button", name="I have seen it").tap()
    expect(note).to_have_count(0)


def test_a_device_that_is_shut_out_keeps_nothing(screen: Page, tablet: Page, let_in: Callable[..., str]) -> None:
    base = let_in(everything=True)
    tablet.goto(base + "bench/silent-night")
    tablet.get_by_role("list", name="Findings").wait_for()
    assert tablet.evaluate("localStorage.length")
    screen.get_by_role("button", name="Share", exact=True).click()
    screen.get_by_role("button", name="Shut out By the amp").click()
    screen.get_by_role("button", name="Shut it out").click()
    expect(screen.get_by_text("None yet.")).to_be_visible()
    expect(tablet).to_have_url(base + "pair?out")
    expect(tablet.get_by_text("not let in any more")).to_be_visible()
    assert tablet.evaluate("localStorage.length") == 0
    assert "Silent" not in tablet.content()
    assert wrong(tablet) == []


def test_everything_at_arms_length_is_large_enough(screen: Page, tablet: Page, let_in: Callable[..., str]) -> None:
    base, rest = let_in(), Rest(tablet)
    for path in ("run/silent-night", "run/silent-night/wrong", "run/silent-night/kit", "log", "log/1", "log?take=new"):
        tablet.goto(base + path)
        tablet.locator("main h1").wait_for(state="attached")
        rest.wait()
        for width, height in ((1024, 768), (800, 1280), (390, 844)):
            tablet.set_viewport_size({"width": width, "height": height})
            tablet.wait_for_timeout(300)
            assert tablet.evaluate("document.documentElement.scrollWidth") <= width, path
            assert tablet.evaluate(TOO_SMALL) == [], (path, width)
            assert wrong(tablet) == [], (path, width)


def trusted(certificate: Path) -> str:
    """What tells Chromium to trust this certificate: the hash of its key, as it is asked for."""
    key = ["openssl", "x509", "-in", str(certificate), "-pubkey", "-noout"]
    pem = subprocess.run(key, check=True, capture_output=True).stdout
    der = subprocess.run(["openssl", "pkey", "-pubin", "-outform", "der"], input=pem, check=True, capture_output=True)
    return base64.b64encode(hashlib.sha256(der.stdout).digest()).decode()


def test_under_a_certificate_a_reload_wants_no_network(
    encrypted: Shared, certificate: tuple[Path, Path], browser_type: BrowserType, tmp_path: Path
) -> None:
    network = encrypted.network
    root = ["--no-sandbox"] if os.geteuid() == 0 else []
    trust = f"--ignore-certificate-errors-spki-list={trusted(certificate[0])}"
    path = network.away.chromium(tmp_path)
    profile = tmp_path / "profile"
    context = browser_type.launch_persistent_context(
        profile, executable_path=path, args=[*QUIET, *root, trust], **TABLET
    )
    page = context.new_page()
    page.set_default_timeout(PATIENCE_MS)
    page.goto(f"{encrypted.origin}/pair#{encrypted.code('run')}")
    page.wait_for_function("() => !window.location.hash")
    page.get_by_role("button", name="Pair", exact=True).tap()
    page.wait_for_url("**/run/**")
    assert page.evaluate("window.isSecureContext")
    page.goto(f"{encrypted.origin}/run/silent-night")
    page.evaluate("navigator.serviceWorker.ready.then(() => 1)")
    page.reload()
    tick(page, FIRST).wait_for()
    page.wait_for_timeout(500)
    network.cut()
    page.reload()
    expect(page.get_by_text("out of reach")).to_be_visible()
    expect(page.get_by_text("Keep this page open")).to_have_count(0)
    tick(page, FIRST).tap()
    expect(page.get_by_text("1 tick held on this device")).to_be_visible()
    page.reload()
    expect(tick(page, FIRST)).to_be_checked()
    network.mend()
    expect(page.get_by_text("held on this device")).to_have_count(0)
    state = encrypted.desk("GET", "api/hookups/silent-night/run")
    assert state["steps"][0]["done"]
    (known,) = encrypted.desk("GET", "api/sharing")["devices"]
    encrypted.desk("DELETE", f"api/sharing/devices/{known['id']}")
    page.wait_for_url("**/pair?out")
    page.wait_for_function("async () => (await caches.keys()).length === 0")
    context.close()
