"""Timings, printed and not asserted: python -m tests.bench.run (make bench)."""

from __future__ import annotations

import gzip
import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from pathlib import Path

import numpy as np
import soundfile

from low_tide.core.analysis import analyse
from low_tide.core.choices import choices
from low_tide.core.hookup import End, checked
from low_tide.core.judge import judge
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.recording import measure

STATIC = Path(__file__).parents[2] / "src" / "low_tide" / "web" / "static"


def median_ms(run: Callable[[], object], times: int = 60) -> float:
    run()
    spent = []
    for _ in range(times):
        start = time.perf_counter()
        run()
        spent.append(time.perf_counter() - start)
    return 1000 * statistics.median(spent)


def line(what: str, value: float, unit: str, aim: str = "") -> None:
    print(f"{what:62} {value:9.1f} {unit:8} {aim}")


def first_page_kb() -> float:
    """Compressed script of the Bench: what its page asks for before it can be used."""
    names = [p for p in (STATIC / "assets").glob("*.js") if not p.name.startswith(("Locker", "Log", "RunSheet"))]
    return sum(len(gzip.compress(p.read_bytes())) for p in names) / 1000


def started(folder: str) -> tuple[subprocess.Popen[str], str, float]:
    env = {**os.environ, "LOW_TIDE_PORT": "0", "LOW_TIDE_HOME": folder}
    start = time.perf_counter()
    server = subprocess.Popen(
        [sys.executable, "-m", "low_tide.cli", "serve"], env=env, stdout=subprocess.PIPE, text=True
    )
    assert server.stdout
    url = server.stdout.readline().split()[4]
    urllib.request.urlopen(url + "api/about").read()
    return server, url, time.perf_counter() - start


def main() -> None:
    largest = max(HOOKUPS.values(), key=lambda h: (len(h.units) + len(h.links), len(h.units)))
    rig = checked(largest, GEAR)
    print(f"largest demo hook-up: {largest.name}, {len(largest.units)} units, {len(largest.links)} leads")
    line("analysis, 481 points, with every fix tried, core", median_ms(lambda: analyse(rig)), "ms", "aim ≤ 10 ms")
    line("judgement alone (a what-if), core", median_ms(lambda: judge(rig)), "ms")
    for name in HOOKUPS:
        each = checked(HOOKUPS[name], GEAR)
        line(f"  analysis of {name}", median_ms(lambda each=each: analyse(each), 20), "ms")  # type: ignore[misc]
    split = checked(HOOKUPS["split-fog"], GEAR)
    line("choices for one socket", median_ms(lambda: choices(split, End("gabion-40", "through")), 10), "ms")

    with tempfile.TemporaryDirectory() as folder:
        from low_tide.demo.fill import fill
        from low_tide.store.files import open_home
        from low_tide.store.models import database

        fill(open_home(Path(folder)))
        database.close()
        server, url, seconds = started(folder)
        try:
            line("server start to first answer", 1000 * seconds, "ms", "aim ≤ 1500 ms")
            at = f"{url}api/hookups/quiet-hold"
            line("analysis over HTTP", median_ms(lambda: urllib.request.urlopen(at).read()), "ms", "aim ≤ 40 ms")
            state = json.load(urllib.request.urlopen(at))
            saves = [state["saves"]]

            def edit() -> None:
                control = {"op": "set", "unit": "caisson-120", "control": "line.pot", "value": -(saves[0] % 30)}
                body = json.dumps({"saves": saves[0], "changes": [control]}).encode()
                request = urllib.request.Request(
                    f"{at}/changes", body, {"content-type": "application/json"}, method="POST"
                )
                saves[0] = json.load(urllib.request.urlopen(request))["saves"]

            line("an edit over HTTP, saved and judged", median_ms(edit), "ms")
        finally:
            server.kill()

        path = Path(folder) / "three-minutes.wav"
        noise = np.random.default_rng(1).normal(0, 0.1, (180 * 48_000, 1))
        soundfile.write(path, noise, 48_000, subtype="PCM_24")
        seconds = median_ms(lambda: measure(path), 3) / 1000
        line("measuring a 3-minute 48 kHz WAV", 180 / seconds, "× real", "aim ≥ 100 ×")
    line("script on the first page, compressed", first_page_kb(), "kB", "aim ≤ 250 kB")


if __name__ == "__main__":
    main()
