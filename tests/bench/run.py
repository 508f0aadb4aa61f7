"""Timings, printed and not asserted: python -m tests.bench.run (make bench)."""

from __future__ import annotations

import json
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np

from low_tide.core.audio.correction import fit_bands
from low_tide.core.audio.rendering import cab_filter, coloured, power_stage, riff
from low_tide.core.finder import Wish, search
from low_tide.core.finder.candidates import amps_and_taps, screen
from low_tide.core.finder.level_plan import level_plan
from low_tide.core.finder.socket_options import choices
from low_tide.core.finder.ways import candidates_of
from low_tide.core.inventory import Attenuator, Load, Place, ReAmp, Unit
from low_tide.core.judging.judge import judge
from low_tide.core.power.load_feel import contenders, feel_set, jack_response
from low_tide.core.preferences import Preferences
from low_tide.core.presentation.analysis import analyse
from low_tide.core.rig.changes import Disconnect, SetControl, SetOccasion, changed
from low_tide.core.rig.hookup import End, Hookup, Occasion
from low_tide.core.rig.networks import separate_networks
from low_tide.core.rig.validation import checked
from low_tide.demo.gear import GEAR
from low_tide.demo.hookups import HOOKUPS
from low_tide.formats.spice import write_netlist
from tests.bench.cab import cab
from tests.bench.capture import capture
from tests.bench.compare import compare
from tests.bench.drills import drills
from tests.bench.faults import faults
from tests.bench.log import log
from tests.bench.paint import chromium, click_to_paint, first_page_kb, page_memory, put_on_bench
from tests.bench.plan import plan
from tests.bench.sharing import sharing
from tests.core.test_loudness import under_the_edge


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


def spice_ms(hookup: Hookup) -> float:
    """A whole ngspice process on the netlist of a hook-up; not a number where it is not installed."""
    if shutil.which("ngspice") is None:
        return float("nan")
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / "hookup.cir").write_text(write_netlist(checked(hookup, GEAR)))
        run = lambda: subprocess.run(["ngspice", "-b", "hookup.cir"], cwd=folder, capture_output=True)  # noqa: E731
        return median_ms(run, 5)


def planner() -> None:
    """Candidates a second, and a whole answer from a locker of 12 amps, 12 loads, 12 cabinets and 30 leads."""
    gear: dict[str, Unit] = {}
    kinds = {"amp": 12, "load": 12, "attenuator": 6, "cabinet": 12, "lead": 30, "interface": 2, "tap_box": 2}
    for kind, count in kinds.items():
        some = [g for g in GEAR.values() if g.kind == kind and not getattr(g, "own_lead", None)]
        for i in range(count):
            unit = replace(some[i % len(some)], id=f"{kind}-{i}", name=f"{some[i % len(some)].name} {i}")
            gear[unit.id] = unit
    base = list(amps_and_taps(tuple(gear.values()), ""))
    start, looked = time.perf_counter(), 0
    wish = Wish("down", 12.0)
    for each in base:
        for way in ("load", "attenuator", "split"):
            for candidate in candidates_of(way, each, tuple(gear.values()), wish):
                screen(candidate, Preferences())
                looked += 1
    line("planner: candidates screened a second", looked / (time.perf_counter() - start), "/s", "aim ≥ 2000 /s")
    for goal in ("silent", "down", "about_3"):
        start = time.perf_counter()
        *_, answer = search(Wish(goal, 12.0), gear)
        spent = 1000 * (time.perf_counter() - start)
        line(f"planner: answer to “{goal}”, {answer.looked_at} candidates", spent, "ms", "aim ≤ 3000 ms")


def spread_holds() -> None:
    """Part of the truths under the upper edge, over many plausible rooms and walls."""
    for place, part in under_the_edge(4000, seed=2).items():
        line(f"loudness: truths under the upper edge, {place}", 100 * part, "%", "88 to 97 %")


def loudness_table() -> None:
    """Every step of 12 attenuators with 12 steps each, at 8 places."""
    gear = dict(GEAR)
    pads = [g for g in GEAR.values() if isinstance(g, Attenuator) and g.steps]
    for each in (g for g in GEAR.values() if isinstance(g, Attenuator | ReAmp | Load | Place)):
        gear[each.id] = replace(each, archived=True)
    for i in range(12):
        steps = tuple(3.0 * s + i / 12 for s in range(1, 13))
        gear[f"pad-{i}"] = replace(pads[0], id=f"pad-{i}", name=f"Pad {i}", steps=steps, archived=False)
    places = [g for g in GEAR.values() if isinstance(g, Place) and g.room != "harbour-hall"]
    for i in range(8):
        gear[f"place-{i}"] = replace(places[i % len(places)], id=f"place-{i}", name=f"Place {i}", archived=False)
    hookup = HOOKUPS["in-the-loop"]

    def run() -> int:
        ladders = level_plan(checked(hookup, gear), Preferences(), "place-0", 60.0).ladders
        return sum(len(ladder.steps) for ladder in ladders)

    what = f"loudness: {run()} steps of 12 attenuators at 8 places, nearest judged"
    line(what, median_ms(run, 8), "ms", "aim ≤ 100 ms")


def load_feel() -> None:
    """Curves of 12 loads in 4 modes, and a take of 10 s through 6 choices."""
    box = next(g for g in GEAR.values() if isinstance(g, Load) and g.modes)
    one = replace(box, impedances=(8.0,), modes=box.modes[:4])
    loads = {f"load-{i}": replace(one, id=f"load-{i}", name=f"Load {i}") for i in range(12)}
    run = lambda: feel_set(contenders(loads), (4.0, 8.0, 16.0), 0.6)  # noqa: E731
    line(f"load feel: curves of {len(run().feels) - 1} loads and modes", median_ms(run, 30), "ms", "aim ≤ 50 ms")
    target = np.array(run().feels[3].difference)
    line("load feel: six bands fitted to a difference", median_ms(lambda: fit_bands(target), 5), "ms")
    dry = riff(10.0)
    stage = median_ms(lambda: power_stage(dry, 12.0), 3) / 1000
    line("rendering 10 s: the amp, once for all choices", 10 / stage, "× real")
    driven = power_stage(dry, 12.0)
    choices_ = contenders(GEAR)[:6]
    spent = []
    for each in choices_:
        response = lambda f, c=each: jack_response(c, 8.0, 0.6, f) * cab_filter(f)  # noqa: E731
        spent.append(median_ms(lambda r=response: coloured(driven, r), 3) / 1000)  # type: ignore[misc]
    line("rendering 10 s: through each of 6 choices, the slowest", 10 / max(spent), "× real", "aim ≥ 50 ×")


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


def edits_in_the_core(hookup: Hookup) -> None:
    """Verdict and findings after one edit of a hook-up that was judged, by kinds of edits."""
    rig = checked(hookup, GEAR)
    judge(rig)
    kinds = {
        "a step": SetControl("caisson-120", "step", 6.0),
        "a line level": SetControl("caisson-120", "line.pot", -20.0),
        "a gain": SetControl("skerry-4", "in1.gain", 12.0),
        "a lead pulled": Disconnect(hookup.links[-1].lead),
        "the hour": SetOccasion(Occasion("23:30")),
    }
    for what, change in kinds.items():
        spent = median_ms(lambda c=change: judge(changed(rig, (c,))), 40)  # type: ignore[misc]
        line(f"  verdict of {len(hookup.units)} units after an edit, core: {what}", spent, "ms", "aim ≤ 10 ms")


STEP = ("Caisson 120, Down by down", "Caisson 120, Down by up")


def in_a_browser(url: str, ten: Hookup, whole: Hookup) -> None:
    """From a click on a step to what it leads to on the screen, and a page's memory over 500 edits."""
    if shutil.which("chromium") is None:
        print("no chromium here: nothing is measured on the screen")
        return
    with chromium() as page:
        script = first_page_kb(page, url, put_on_bench(url, ten))
        line("script on the first page, as it is sent, until it can be used", script, "kB", "aim ≤ 250 kB")
        for hookup, aim in ((whole, "aim ≤ 150 ms"), (ten, "aim ≤ 100 ms")):
            moved, told, fixed = click_to_paint(page, url, put_on_bench(url, hookup), STEP, 26)
            count = len(hookup.units)
            line(f"click to paint, {count} units: the control has moved", moved, "ms")
            line(f"click to paint, {count} units: the verdict is there", told, "ms", aim)
            line(f"click to paint, {count} units: the fixes are there", fixed, "ms", "aim ≤ 150 ms more")
        for edits, megabytes in zip((0, 166, 332, 498), page_memory(page, STEP, 498), strict=True):
            line(f"memory of a page after {edits} edits", megabytes, "MB", "aim: flat")


def main() -> None:
    whole = HOOKUPS["whole-ship"]
    ten = max(separate_networks(checked(whole, GEAR)), key=lambda part: len(part.hookup.units)).hookup
    for hookup in (HOOKUPS["processor-around"], ten, whole):
        # A rig keeps what was worked out for it, so each run gets a new one.
        spent = median_ms(lambda h=hookup: analyse(checked(h, GEAR)), 30)  # type: ignore[misc]
        line(f"analysis of {len(hookup.units)} units, 481 points, every fix tried, core", spent, "ms")
        line("  verdict and findings, from nothing", median_ms(lambda h=hookup: judge(checked(h, GEAR)), 30), "ms")  # type: ignore[misc]
        line("  ngspice on its netlist, as a whole process", spice_ms(hookup), "ms")
    edits_in_the_core(ten)
    split = HOOKUPS["split-fog"]
    line(
        "choices for one socket",
        median_ms(lambda: choices(checked(split, GEAR), End("gabion-40", "through")), 10),
        "ms",
        "aim ≤ 60 ms",
    )
    planner()
    loudness_table()
    spread_holds()
    load_feel()

    with tempfile.TemporaryDirectory() as folder:
        from low_tide.demo.fill import fill
        from low_tide.store.database import database
        from low_tide.store.files import open_home

        fill(open_home(Path(folder)))
        database.close()
        server, url, seconds = started(folder)
        try:
            line("server start to first answer", 1000 * seconds, "ms", "aim ≤ 1200 ms")
            for name in ("quiet-hold", "whole-ship"):
                at = f"{url}api/hookups/{name}"
                count = len(HOOKUPS[name].units)
                spent = median_ms(lambda at=at: urllib.request.urlopen(at).read(), 30)  # type: ignore[misc]
                line(f"analysis of {count} units over HTTP", spent, "ms")
            at = f"{url}api/hookups/{put_on_bench(url, ten)}"
            saves = [json.load(urllib.request.urlopen(at))["saves"]]

            def edit() -> None:
                control = {"op": "set", "unit": "caisson-120", "control": "step", "value": 3.0 + saves[0] % 27}
                body = json.dumps({"saves": saves[0], "changes": [control]}).encode()
                request = urllib.request.Request(
                    f"{at}/changes", body, {"content-type": "application/json"}, method="POST"
                )
                saves[0] = json.load(urllib.request.urlopen(request))["saves"]

            for what in ("loudness", "feel"):
                spent = median_ms(lambda w=what: urllib.request.urlopen(f"{at}/{w}").read(), 15)  # type: ignore[misc]
                line(f"{what} of a hook-up over HTTP", spent, "ms")
            line("an edit of 10 units over HTTP, saved and judged", median_ms(edit), "ms", "aim ≤ 30 ms")
            in_a_browser(url, ten, whole)
            sharing(line, url)
        finally:
            server.kill()
    capture(median_ms, line)
    compare(median_ms, line)
    cab(median_ms, line)
    faults(median_ms, line)
    drills(line)
    plan(line)
    log(median_ms, line)


if __name__ == "__main__":
    main()
