"""Two machines on a network of their own: two network namespaces and a wire between them, made for the test and removed
by it. This machine's own network is left alone: a browser drops what is under way where that changes."""

from __future__ import annotations

import ctypes
import http.client
import itertools
import os
import socket
import ssl
import subprocess
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import TypeVar

import pytest

from tests.chromium import chromium

CLONE_NEWNET = 0x40000000
_numbers = itertools.count()
Made = TypeVar("Made")


def _run(*words: str) -> None:
    subprocess.run(words, check=True, capture_output=True)


def enter(namespace: str) -> None:
    """From now on this thread, and those it starts, are at the machine of that name."""
    with Path(f"/run/netns/{namespace}").open() as name:
        if ctypes.CDLL(None, use_errno=True).setns(name.fileno(), CLONE_NEWNET):
            raise OSError(ctypes.get_errno(), "setns")


class Machine:
    """One of them, by its name."""

    def __init__(self, name: str) -> None:
        self.name = name

    def ip(self, *words: str) -> None:
        _run("ip", "-n", self.name, *words)

    def do(self, what: Callable[[], Made]) -> Made:
        """What a function gives that runs at this machine: sockets it makes are this machine's."""
        found: list[Made] = []
        failed: list[BaseException] = []

        def there() -> None:
            try:
                enter(self.name)
                found.append(what())
            except BaseException as error:
                failed.append(error)

        thread = threading.Thread(target=there)
        thread.start()
        thread.join()
        if failed:
            raise failed[0]
        return found[0]

    def socket(self, host: str, port: int, source: str = "") -> socket.socket:
        """A connection that this machine opens."""
        return self.do(lambda: socket.create_connection((host, port), 10, (source, 0) if source else None))

    def connection(
        self, host: str, port: int, source: str = "", tls: ssl.SSLContext | None = None
    ) -> http.client.HTTPConnection:
        """The same to speak HTTP over, encrypted or not."""
        found = http.client.HTTPConnection(host, port, timeout=30)
        found.sock = self.socket(host, port, source)
        if tls:
            found.sock = tls.wrap_socket(found.sock, server_hostname=host)
        return found

    def chromium(self, folder: Path) -> str:
        """A command that starts Chromium at this machine."""
        path = folder / f"chromium-{self.name}"
        path.write_text(f'#!/bin/sh\nexec ip netns exec {self.name} {chromium()} "$@"\n')
        path.chmod(0o755)
        return str(path)


class Network:
    """`desk`: the machine that serves, at `here` on the wire. `away`: the other, at any of `there`."""

    def __init__(self) -> None:
        mine = f"tide-{os.getpid()}-{next(_numbers)}"
        self.desk, self.away = Machine(f"{mine}-a"), Machine(f"{mine}-b")
        self.here = "10.9.8.1"
        self.there = [f"10.9.8.{n}" for n in range(2, 252)]
        for machine in (self.desk, self.away):
            _run("ip", "netns", "add", machine.name)
            machine.ip("link", "set", "lo", "up")
        ends = ("name", "eth0", "netns", self.desk.name, "type", "veth", "peer", "name", "eth0")
        _run("ip", "link", "add", *ends, "netns", self.away.name)
        for machine in (self.desk, self.away):
            # An address of its own choosing would come seconds later, and a browser drops what is under way then.
            machine.ip("link", "set", "eth0", "addrgenmode", "none")
        self.desk.ip("addr", "add", f"{self.here}/24", "dev", "eth0")
        self.away.ip("addr", "add", f"{self.there[0]}/24", "dev", "eth0")
        self.desk.ip("link", "set", "eth0", "up")
        self.away.ip("link", "set", "eth0", "up")

    def many(self, count: int) -> list[str]:
        """So many addresses of the other machine, as if they were as many devices."""
        for address in self.there[1:count]:
            self.away.ip("addr", "add", f"{address}/24", "dev", "eth0")
        return self.there[:count]

    def cut(self) -> None:
        """The other machine is out of reach."""
        self.away.ip("link", "set", "eth0", "down")

    def mend(self) -> None:
        self.away.ip("link", "set", "eth0", "up")

    def lose_address(self) -> None:
        """The desk's address is its own no more."""
        self.desk.ip("addr", "del", f"{self.here}/24", "dev", "eth0")

    def remove(self) -> None:
        for machine in (self.desk, self.away):
            subprocess.run(("ip", "netns", "del", machine.name), check=False, capture_output=True)


@pytest.fixture
def network() -> Iterator[Network]:
    """The two machines; the test is skipped where none may be made."""
    try:
        made = Network()
    except (OSError, subprocess.CalledProcessError) as error:
        pytest.skip(f"no network namespace can be made on this machine: {error}")
    try:
        yield made
    finally:
        made.remove()
