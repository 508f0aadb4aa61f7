"""How soon a device hears of what another did, while sixteen follow; through a real server."""

from __future__ import annotations

import http.client
import json
import statistics
import threading
import time
from collections.abc import Callable

from low_tide.app.live import MOST_STREAMS

TICKS = 40


def sharing(line: Callable[..., None], url: str) -> None:
    """From the tick that one page makes to when the last of sixteen has heard of it, median and worst."""
    at = url.split("//")[1].rstrip("/")
    heard: list[float] = []
    all_heard = threading.Barrier(MOST_STREAMS + 1)

    def opened(number: int) -> http.client.HTTPResponse:
        """A stream; a page that was closed before holds its own until the server next has something to tell it."""
        connection = http.client.HTTPConnection(at)
        while True:
            connection.request("GET", "/api/live/stream", headers={"Low-Tide-Window": f"page {number}"})
            answer = connection.getresponse()
            if answer.status == http.HTTPStatus.OK:
                return answer
            answer.read()
            time.sleep(0.5)

    def follow(number: int) -> None:
        with opened(number) as answer:
            for told in answer:
                if told.startswith(b"data: "):
                    heard.append(time.perf_counter())
                    all_heard.wait(30)

    for number in range(MOST_STREAMS):
        threading.Thread(target=follow, args=(number,), daemon=True).start()
    all_heard.wait(30)
    desk = http.client.HTTPConnection(at)

    def ask(method: str, path: str, body: object = None) -> dict:
        desk.request(method, path, body and json.dumps(body), {"Content-Type": "application/json"})
        with desk.getresponse() as answer:
            found: dict = json.loads(answer.read())
            return found

    step = ask("GET", "/api/hookups/silent-night/run")["steps"][0]["step"]["id"]
    spent = []
    for n in range(TICKS):
        heard.clear()
        began = time.perf_counter()
        ask("POST", "/api/hookups/silent-night/run/tick", {"step": step, "done": n % 2 == 0})
        all_heard.wait(30)
        spent.append(1000 * (max(heard) - began))
    line(
        "a tick heard of by the last of 16",
        statistics.median(spent),
        "ms",
        f"aim ≤ 1000; the worst {max(spent):.0f} ms",
    )
