"""When a page has everything it asked for: the stream of changes, which never ends, aside."""

from __future__ import annotations

from playwright.sync_api import Page, Request

QUIET_MS = 250
PATIENCE_MS = 60_000


def deaf(page: Page) -> None:
    """A page that hears nothing of what others change, as one whose network is slow."""
    page.add_init_script("BroadcastChannel.prototype.postMessage = () => {}")
    page.route("**/api/live*", lambda route: route.fulfill(json={"at": 0, "changes": [], "missed": False}))
    page.route("**/api/live/stream*", lambda route: route.fulfill(body=""))


class Rest:
    """Counts what a page has asked for and not got; made before the page goes anywhere."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._open: set[Request] = set()
        page.on("request", lambda request: None if "/api/live" in request.url else self._open.add(request))
        page.on("requestfinished", lambda request: self._open.discard(request))
        page.on("requestfailed", lambda request: self._open.discard(request))

    def wait(self) -> None:
        """Until nothing was open for a while."""
        quiet = waited = 0
        while quiet < QUIET_MS:
            self._page.wait_for_timeout(50)
            waited += 50
            quiet = 0 if self._open else quiet + 50
            assert waited < PATIENCE_MS, [request.url for request in self._open]
