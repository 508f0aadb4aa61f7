"""When a page has everything it asked for: the stream of changes, which never ends, aside."""

from __future__ import annotations

from playwright.sync_api import Page, Request

QUIET_MS = 250
PATIENCE_MS = 60_000


class Rest:
    """Counts what a page has asked for and not got; made before the page goes anywhere."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._open: set[Request] = set()
        page.on("request", lambda request: "/api/live" in request.url or self._open.add(request))
        page.on("requestfinished", self._open.discard)
        page.on("requestfailed", self._open.discard)

    def wait(self) -> None:
        """Until nothing was open for a while."""
        quiet = waited = 0
        while quiet < QUIET_MS:
            self._page.wait_for_timeout(50)
            waited += 50
            quiet = 0 if self._open else quiet + 50
            assert waited < PATIENCE_MS, [request.url for request in self._open]
