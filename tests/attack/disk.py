"""The disk fills up under the server, at any point of any deed: what is refused says so and has saved nothing."""

from __future__ import annotations

import contextlib
import json
import os
import random
import shutil
import subprocess
import urllib.error
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from tests.attack.studio import DEEDS, Studio, picture, unsound
from tests.conftest import Server

SIZE_MB = 120
WORDS = ("disk that holds the data is full", "are free on that disk", "it may be full")


@dataclass
class Figures:
    """What came of it: deeds tried on a disk that was nearly full, those refused, and what was wrong after them."""

    tried: int = 0
    refused: int = 0
    wrong: list[str] = field(default_factory=list)


@contextlib.contextmanager
def small_disk(at: Path) -> Iterator[bool]:
    """A disk of its own mounted there; False where this machine does not let one mount it."""
    at.mkdir()
    mount = ["mount", "-t", "tmpfs", "-o", f"size={SIZE_MB}m", "tmpfs", str(at)]
    if os.geteuid() or shutil.which("mount") is None or subprocess.run(mount, capture_output=True).returncode:
        yield False
        return
    try:
        yield True
    finally:
        subprocess.run(["umount", str(at)], check=True)


def run(filled: Path, disk: Path, deeds: int, seed: int) -> Figures:
    """Do so many deeds on a small disk that has a few kilobytes left, a few more each time."""
    folder, filler, by_lot, figures = disk / "home", disk / "filler", random.Random(seed), Figures()
    shutil.copytree(filled, folder)
    server = Server(folder)
    studio = Studio(server.url, folder, seed)
    names = list(DEEDS)
    try:
        for n in range(deeds):
            name = names[n % len(names)]
            for each in folder.glob("backups/*.zip"):
                each.unlink()
            studio.kept.clear()
            if name == "restore a copy":
                studio.do(DEEDS["keep a copy"])
            _fill(disk, filler, by_lot.choice((0, 4, 16, 64, 256, 1024, 4096)) * 1024)
            figures.tried += 1
            try:
                studio.do(DEEDS[name])
            except urllib.error.HTTPError as error:
                said = json.load(error)["detail"]
                figures.refused += 1
                if not any(words in said for words in WORDS):
                    figures.wrong.append(f"{name}: {said}")
            except (KeyError, TypeError):  # the answer's last line was a problem
                figures.refused += 1
            filler.unlink(missing_ok=True)
            found = picture(folder)
            if found != studio.now:
                figures.wrong.append(f"{name}: refused and yet saved, or half")
                studio.now = found
        server.kill()
        server.start()
        figures.wrong += unsound(folder)
    finally:
        server.kill()
    return figures


def _fill(disk: Path, filler: Path, leave: int) -> None:
    with contextlib.suppress(OSError), filler.open("wb") as out:
        out.write(b"\0" * max(0, shutil.disk_usage(disk).free - leave))
