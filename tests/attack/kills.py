"""The server is killed, again and again, at any moment of any deed and at every step of a restore; nothing that was
acknowledged is lost, nothing is half there, nothing is left over."""

from __future__ import annotations

import contextlib
import random
import shutil
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path

from tests.attack.studio import DEEDS, Studio, picture, unsound
from tests.conftest import Server

AUDIO = ("keep_audio", "remove_audio", "remove_mark", "replace")
RESTORE = ("sync", "replace", "remove", "_unpack", "_check", "_bring_up_to_date", "_put_by", "clear_leftovers")
WHEN = ("before", "after")
STEPS = {"attach audio": AUDIO, "delete a take": AUDIO, "restore a copy": RESTORE, "keep a copy": ("replace",)}
"""Places of a deed, beside its commit, at which a server is killed (tests/attack/dying.py)."""


@dataclass
class Figures:
    """What came of it: kills, those that met a deed that was not done yet, and what was wrong after them."""

    kills: int = 0
    undone: int = 0
    done: int = 0
    deeds: dict[str, int] = field(default_factory=dict)
    wrong: list[str] = field(default_factory=list)


def run(filled: Path, folder: Path, kills: int, seed: int) -> Figures:
    """Kill a server so many times while a person works, from a copy of a filled data folder."""
    shutil.copytree(filled, folder)
    by_lot, figures = random.Random(seed), Figures()
    server = Server(folder)
    studio = Studio(server.url, folder, seed)
    lasting: dict[str, float] = {}
    names = list(DEEDS)
    try:
        while figures.kills < kills:
            for _ in range(by_lot.randrange(2)):
                name = by_lot.choice(names)
                began = time.perf_counter()
                studio.do(DEEDS[name])
                lasting[name] = time.perf_counter() - began
            # Every deed in its turn, once at a place it comes to and once at any moment.
            name, step = names[figures.kills // 2 % len(names)], ""
            if figures.kills % 2:
                place = by_lot.choice((*STEPS.get(name, ()), "commit"))
                step = f"{place}:{by_lot.randrange(6) if name == 'restore a copy' else 0}:{by_lot.choice(WHEN)}"
                server.kill()
                server.start(step)
                studio.url = server.url
            else:
                wait = by_lot.uniform(0, 1.1 * lasting.get(name, 0.1))
                threading.Timer(wait, server.process.kill).start()
            with contextlib.suppress(OSError, ValueError):  # the kill is what makes the call fail
                studio.do(DEEDS[name])
            server.kill()
            figures.kills += 1
            figures.deeds[name] = figures.deeds.get(name, 0) + 1
            server.start()
            studio.url = server.url
            _settle(studio, figures, f"{name} {step}")
    finally:
        server.kill()
    return figures


def _settle(studio: Studio, figures: Figures, what: str) -> None:
    """Hold what is there against what must be, and go on from there."""
    found = picture(studio.folder)
    if studio.then is None:
        figures.done += 1
        if found != studio.now:
            figures.wrong.append(f"{what}: acknowledged, and not there: {_difference(studio.now, found)}")
    elif found == studio.then:
        figures.done += 1
    elif found == studio.now:
        figures.undone += 1
    else:
        figures.wrong.append(f"{what}: half there: {_difference(studio.now, found)}")
    figures.wrong += [f"{what}: {each}" for each in unsound(studio.folder)]
    studio.now, studio.then = found, None


def _difference(a: dict[str, object], b: dict[str, object]) -> str:
    return "; ".join(f"{key}: {str(a[key])[:300]} → {str(b[key])[:300]}" for key in a if a[key] != b[key])
