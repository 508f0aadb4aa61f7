"""Real servers for the tests, each a process of its own: forked from one that has imported everything once."""

from __future__ import annotations

import multiprocessing
import os
import re
import sys
from multiprocessing.connection import Connection
from pathlib import Path

FORKS = multiprocessing.get_context("forkserver")
# With what the program imports when it is first asked for: one server has a second for it, two hundred have not.
LATER = ("waitress.server", "pyloudnorm", "soundfile", "soxr", "scipy.signal", "scipy.cluster.hierarchy", "scipy.stats")
FORKS.set_forkserver_preload(["low_tide.cli", "low_tide.app.kept_audio", *LATER, "tests.warm"])


def _serve(folder: str, port: int, at: str, words: tuple[str, ...], die_at: str, out: Connection) -> None:
    """Serve a folder as the command does; what it prints goes to `out`."""
    from low_tide import cli
    from low_tide.web import server
    from tests import warm

    server.create_app = warm.create_app  # type: ignore[assignment]
    if at:
        from tests import network

        network.enter(at)

    os.dup2(out.fileno(), 1)
    out.close()
    sys.stdout = os.fdopen(1, "w", closefd=False)
    os.environ.update(LOW_TIDE_PORT=str(port), LOW_TIDE_HOME=folder)
    if die_at:
        from tests.attack import dying

        dying.die_at(die_at)
    sys.exit(cli.main(["serve", *words]))


def _command(args: tuple[str, ...], env: dict[str, str], said: str) -> None:
    from low_tide import cli

    os.environ.update(env)
    with open(os.devnull, "w") as nothing, open(said, "w") as out:
        os.dup2(nothing.fileno(), 1)
        os.dup2(out.fileno(), 2)
    sys.exit(cli.main(list(args)))


def command(*args: str, said: Path, **env: str) -> int:
    """The exit code of a command in a process of its own; what it says on its error output goes to the file `said`."""
    process = FORKS.Process(target=_command, args=(args, env, str(said)), daemon=True)
    process.start()
    process.join(60)
    assert process.exitcode is not None, f"{args} does not end"
    return process.exitcode


class Server:
    """A real server process over a folder; it can be killed and started again."""

    def __init__(self, folder: Path, *words: str, port: int = 0, at: str = "") -> None:
        """`words`: what the command is told besides; `port`: 0 for any that is free; `at`: the machine it runs at
        (tests/network.py)."""
        self.folder, self.words, self.port, self.at = folder, words, port, at
        self.url = ""
        self.start()

    def start(self, die_at: str = "") -> None:
        """Start it; `die_at` says at which step it is to be gone (tests/attack/dying.py)."""
        printed, out = FORKS.Pipe(duplex=False)
        self.process = FORKS.Process(
            target=_serve, args=(str(self.folder), self.port, self.at, self.words, die_at, out), daemon=True
        )
        self.process.start()
        out.close()
        with os.fdopen(os.dup(printed.fileno())) as lines:
            line = lines.readline()
        found = re.search(r"http://[\d.]+:\d+/", line)
        assert found, f"the server did not start: {line!r}"
        self.url = found.group(0)

    def kill(self) -> None:
        self.process.kill()
        self.process.join()
