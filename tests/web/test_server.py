"""The real server, and those who connect to it for no good."""

from __future__ import annotations

import contextlib
import socket
import time
import urllib.request
from collections.abc import Iterator
from urllib.parse import urlsplit

import pytest

from tests.conftest import Server

MANY = 200
SAID = {
    "nothing": b"",
    "half a heading": b"GET /api/about HTTP/1.1\r\nHost: 127",
    "a heading without an end": b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\nX: " + b"x" * 8000,
    "a body that does not come": b"POST /api/lines HTTP/1.1\r\nHost: 127.0.0.1\r\nContent-Length: 60000000\r\n\r\n{",
}


@contextlib.contextmanager
def connected(server: Server, said: bytes, count: int) -> Iterator[list[socket.socket]]:
    """So many connections that each say this and go on no further."""
    at = urlsplit(server.url)
    with contextlib.ExitStack() as held:
        sockets = []
        for _ in range(count):
            each = held.enter_context(socket.create_connection((str(at.hostname), int(at.port or 0)), timeout=5))
            each.sendall(said)
            sockets.append(each)
        yield sockets


@pytest.mark.parametrize("said", SAID.values(), ids=list(SAID))
def test_those_who_connect_and_go_no_further_stop_nobody(server: Server, said: bytes) -> None:
    with connected(server, said, MANY):
        time.sleep(0.5)
        for _ in range(5):
            with urllib.request.urlopen(server.url + "api/about", timeout=5) as answer:
                assert answer.status == 200


def test_a_reader_who_stops_reading_stops_nobody(server: Server) -> None:
    ask = b"GET /api/log.json HTTP/1.1\r\nHost: 127.0.0.1:%d\r\n\r\n" % (urlsplit(server.url).port or 0)
    with connected(server, ask, 20) as sockets:
        time.sleep(0.5)
        with urllib.request.urlopen(server.url + "api/takes", timeout=5) as answer:
            assert answer.status == 200
        first = [each.recv(12) for each in sockets]
        assert b"HTTP/1.1 200" in first
        assert set(first) <= {b"HTTP/1.1 200", b"HTTP/1.1 429"}


def test_a_heading_that_is_too_long_is_refused(server: Server) -> None:
    with connected(server, b"GET / HTTP/1.1\r\nX: " + b"x" * 70_000, 1) as (one,):
        assert b"431" in one.recv(200)
