"""All of the attacks, at length, with figures: python -m tests.attack [part …]."""

from __future__ import annotations

import os
import re
import subprocess
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path

from tests import lightship
from tests.attack import contract, disk, kills
from tests.conftest import Server

KILLS = 220
DEEDS = 300
ROUNDS = 340
EXAMPLES = 60


def killed(work: Path, filled: Path) -> list[str]:
    found = kills.run(filled, work / "killed", KILLS, seed=1)
    each = ", ".join(f"{name} {n}" for name, n in sorted(found.deeds.items()))
    print(f"{found.kills} kills: {found.done} found done, {found.undone} undone, {len(found.wrong)} wrong ({each})")
    return found.wrong


def raced(_: Path, __: Path) -> list[str]:
    run = subprocess.run(
        [sys.executable, "-m", "pytest", "-q", "tests/store/test_races.py"],
        env={**os.environ, "ROUNDS": str(ROUNDS)},
        capture_output=True,
        text=True,
    )
    said = re.findall(r"^(?:\d+ \w+.*|FAILED.*)$", run.stdout, re.MULTILINE)
    loops = (Path("tests/store/test_races.py").read_text(encoding="utf-8")).count("range(ROUNDS)")
    print(f"{loops * ROUNDS} races: {'nothing lost' if run.returncode == 0 else said}")
    return said if run.returncode else []


def filled_up(work: Path, filled: Path) -> list[str]:
    with disk.small_disk(work / "disk") as mounted:
        if not mounted:
            print("a full disk: not tried, no disk can be mounted here")
            return []
        found = disk.run(filled, work / "disk", DEEDS, seed=1)
    print(f"{found.tried} deeds on a nearly full disk: {found.refused} refused, {len(found.wrong)} wrong")
    return found.wrong


def held(work: Path, filled: Path) -> list[str]:
    server = Server(filled)
    try:
        wrong = [f"{where}: {said}" for where, said in contract.failures(server.url, EXAMPLES)]
    finally:
        server.kill()
    print(f"{contract.operations()} operations of the API, {EXAMPLES} requests each: {len(wrong)} answers untrue")
    return wrong


PARTS: dict[str, Callable[[Path, Path], list[str]]] = {
    "kills": killed,
    "races": raced,
    "disk": filled_up,
    "contract": held,
}


def main(chosen: list[str]) -> int:
    wrong: list[str] = []
    with tempfile.TemporaryDirectory() as folder:
        os.environ[lightship.PLACE] = folder
        filled = lightship.filled()
        for name in chosen or PARTS:
            wrong += PARTS[name](Path(folder), filled)
    for each in wrong:
        print(each, file=sys.stderr)
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
