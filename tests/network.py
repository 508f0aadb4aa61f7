"""A second machine on a network of its own: a network namespace, made for the test and removed by it."""

from __future__ import annotations

import ctypes
import http.client
import itertools
import os
import shutil
import socket
import ssl
import subprocess
import threading
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any, TypeVar

import pytest

CLONE_NEWNET = 0x40000000
_numbers = itertools.count()
Made = TypeVar("Made")


def _run(*words: str) -> None:
    subprocess.run(words, check=True, capture_output=True)


class Network:
    """`here`: this machine's address on it; `there`: those of the second machine, 250 of them."""

    def __init__(self) -> None:
        number = next(_numbers) % 250
        self.name = f"tide{os.getpid() % 100_000}x{number}"
        # Of its own in every process, however many run at one time.
        self._net = f"10.{50 + os.getpid() % 200}.{number}"
        self.here = f"{self._net}.1"
        self.there = [f"{self._net}.{n}" for n in range(2, 252)]
        self._link = f"td{os.getpid() % 100_000}x{number}"
        _run("ip", "netns", "add", self.name)
        _run("ip", "link", "add", self._link, "type", "veth", "peer", "name", "eth0", "netns", self.name)
        _run("ip", "addr", "add", f"{self.here}/24", "dev", self._link)
        _run("ip", "link", "set", self._link, "up")
        _run("ip", "-n", self.name, "link", "set", "lo", "up")
        _run("ip", "-n", self.name, "link", "set", "eth0", "up")
        self._there("addr", "add", f"{self.there[0]}/24", "dev", "eth0")

    def _there(self, *words: str) -> None:
        _run("ip", "-n", self.name, *words)

    def many(self, count: int) -> list[str]:
        """So many addresses of the second machine, as if they were as many devices."""
        for address in self.there[1:count]:
            self._there("addr", "add", f"{address}/24", "dev", "eth0")
        return self.there[:count]

    def cut(self) -> None:
        """The second machine is out of reach."""
        self._there("link", "set", "eth0", "down")

    def mend(self) -> None:
        self._there("link", "set", "eth0", "up")

    def lose_address(self) -> None:
        """This machine's address is another from now on."""
        _run("ip", "addr", "del", f"{self.here}/24", "dev", self._link)

    def remove(self) -> None:
        for words in (("link", "del", self._link), ("netns", "del", self.name)):
            subprocess.run(("ip", *words), check=False, capture_output=True)

    def inside(self, do: Callable[[], Made]) -> Made:
        """What a function gives that runs at the second machine: sockets it makes are that machine's."""
        found: list[Made] = []
        failed: list[BaseException] = []

        def there() -> None:
            try:
                with Path(f"/run/netns/{self.name}").open() as name:
                    if ctypes.CDLL(None, use_errno=True).setns(name.fileno(), CLONE_NEWNET):
                        raise OSError(ctypes.get_errno(), "setns")
                found.append(do())
            except BaseException as error:
                failed.append(error)

        thread = threading.Thread(target=there)
        thread.start()
        thread.join()
        if failed:
            raise failed[0]
        return found[0]

    def socket(self, port: int, source: str = "") -> socket.socket:
        """A connection from the second machine to a port of this one."""
        return self.inside(lambda: socket.create_connection((self.here, port), 10, (source, 0) if source else None))

    def connection(self, port: int, source: str = "", tls: ssl.SSLContext | None = None) -> http.client.HTTPConnection:
        found = http.client.HTTPConnection(self.here, port, timeout=30)
        found.sock = self.socket(port, source)
        if tls:
            found.sock = tls.wrap_socket(found.sock, server_hostname=self.here)
        return found

    def chromium(self, folder: Path) -> str:
        """A command that starts Chromium at the second machine."""
        path = folder / "chromium-there"
        path.write_text(f'#!/bin/sh\nexec ip netns exec {self.name} {shutil.which("chromium")} "$@"\n')
        path.chmod(0o755)
        return str(path)


@pytest.fixture
def network() -> Iterator[Network]:
    """A second machine; the test is skipped where none may be made."""
    made: Any = None
    try:
        made = Network()
    except (OSError, subprocess.CalledProcessError) as error:
        pytest.skip(f"no network namespace can be made on this machine: {error}")
    try:
        yield made
    finally:
        made.remove()
