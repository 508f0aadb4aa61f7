"""A real server, shared, from a second machine: what is open, who stops whom, what is told and how soon."""

from __future__ import annotations

import http.client
import json
import os
import shutil
import signal
import socket
import ssl
import subprocess
import threading
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from low_tide.app.live import MOST_STREAMS
from tests.conftest import Server
from tests.network import Network, network
from tests.serving import command

__all__ = ["network"]

SOON_S = 5.0
"""A busy machine is no defect of the server; who is stopped by another waits far longer."""


class Shared:
    """A server that is shared, and how it is asked: at the desk, and from the second machine."""

    def __init__(self, server: Server, network: Network, tls: ssl.SSLContext | None = None) -> None:
        self.server, self.network, self.tls = server, network, tls
        self.port = int(server.url.rstrip("/").rsplit(":", 1)[1])
        self.origin = f"{'https' if tls else 'http'}://{network.here}:{self.port}"

    def desk(self, method: str, path: str, body: Any = None) -> Any:
        connection = self.network.desk.connection("127.0.0.1", self.port)
        data = None if body is None else json.dumps(body)
        connection.request(method, f"/{path}", data, {"Content-Type": "application/json"})
        with connection.getresponse() as answer:
            said = answer.read()
            assert answer.status < 300, said
            return json.loads(said or b"null")

    def share(self) -> Shared:
        self.desk("PUT", "api/sharing", {"addresses": [self.network.here]})
        return self

    def code(self, scope: str = "all") -> str:
        found: str = self.desk("POST", "api/sharing/pairing", {"scope": scope})["pairing"]["code"]
        return found

    def device(self, source: str = "", scope: str | None = "all") -> Device:
        made = Device(self, source)
        if scope:
            status, headers, body = made.ask("POST", "/api/pair", {"code": self.code(scope), "name": "Device"})
            assert status == 201, body
            made.cookie = headers["Set-Cookie"].split(";")[0]
        return made


class Device:
    def __init__(self, shared: Shared, source: str) -> None:
        self.shared, self.source, self.cookie = shared, source, ""
        self.headers = {"Low-Tide-Window": os.urandom(8).hex(), "Origin": shared.origin}

    def open(self, method: str, path: str, body: Any = None, **more: str) -> http.client.HTTPResponse:
        shared = self.shared
        connection = shared.network.away.connection(shared.network.here, shared.port, self.source, shared.tls)
        headers = {**self.headers, "Content-Type": "application/json", "Cookie": self.cookie, **more}
        connection.request(method, path, None if body is None else json.dumps(body), headers)
        return connection.getresponse()

    def ask(self, method: str, path: str, body: Any = None, **more: str) -> tuple[int, dict[str, str], bytes]:
        with self.open(method, path, body, **more) as answer:
            return answer.status, dict(answer.getheaders()), answer.read()

    def stream(self) -> Iterator[dict[str, Any]]:
        """What is told of, as it comes; ends where it is ended."""
        answer = self.open("GET", "/api/live/stream")
        assert answer.status == 200, answer.read()
        for line in answer:
            if line.startswith(b"data: "):
                yield json.loads(line.removeprefix(b"data: "))


@pytest.fixture
def at_desk(filled: Path, tmp_path: Path, network: Network) -> Iterator[Server]:
    """A server at the desk's machine, not shared yet."""
    server = Server(Path(shutil.copytree(filled, tmp_path / "served")), at=network.desk.name)
    yield server
    server.kill()


@pytest.fixture
def shared(at_desk: Server, network: Network) -> Shared:
    return Shared(at_desk, network).share()


def change_something(shared: Shared, name: str) -> None:
    preferences = shared.desk("GET", "api/preferences")["preferences"]
    shared.desk("PUT", "api/preferences", {**preferences, "session_name": name})


def test_nothing_listens_unless_it_is_shared(at_desk: Server, network: Network) -> None:
    off = Shared(at_desk, network)
    with pytest.raises(ConnectionRefusedError):
        network.away.socket(network.here, off.port)
    assert off.desk("GET", "api/sharing")["on"] is False
    on = off.share()
    device = on.device()
    assert device.ask("GET", "/api/gear")[0] == 200
    off.desk("PUT", "api/sharing", {"addresses": []})
    with pytest.raises(ConnectionRefusedError):
        network.away.socket(network.here, off.port)
    off.share()
    assert device.ask("GET", "/api/gear")[0] == 200
    # And off again at every start, with nobody let in until it is on.
    at_desk.kill()
    at_desk.start()
    assert Shared(at_desk, network).desk("GET", "api/sharing")["on"] is False


def test_two_hundred_devices_that_guess_come_to_thirty_guesses(shared: Shared) -> None:
    code = shared.code()
    wrong = ("A" if code[0] != "A" else "B") + code[1:]
    sources = shared.network.many(200)
    said: list[str] = []

    def guess(some: list[str]) -> None:
        for source in some:
            status, _, body = Device(shared, source).ask("POST", "/api/pair", {"code": wrong, "name": "x"})
            assert status == 403
            said.append(json.loads(body)["detail"])

    threads = [threading.Thread(target=guess, args=(sources[n::8],)) for n in range(8)]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    assert len(said) == 200
    assert sum("not the code" in each for each in said) == 30
    assert sum("No pairing is open" in each for each in said) == 170
    state = shared.desk("GET", "api/sharing")
    assert "guessing" in state["ended"]
    assert state["devices"] == []


def test_a_code_is_of_use_once(shared: Shared) -> None:
    code = shared.code("run")
    answers = []

    def try_it() -> None:
        answers.append(Device(shared, "").ask("POST", "/api/pair", {"code": code, "name": "x"})[0])

    threads = [threading.Thread(target=try_it) for _ in range(12)]
    for each in threads:
        each.start()
    for each in threads:
        each.join()
    assert sorted(answers) == [201] + 11 * [403]


def test_sixteen_follow_and_twenty_ask_while_the_desk_works(shared: Shared) -> None:
    devices = [shared.device() for _ in range(MOST_STREAMS)]
    asking = [shared.device() for _ in range(4)]
    heard: list[list[str]] = [[] for _ in devices]
    ready = threading.Barrier(len(devices) + 1)

    def follow(device: Device, found: list[str]) -> None:
        for n, told in enumerate(device.stream()):
            if n == 0:
                ready.wait(30)
            found += [table for change in told["changes"] for table in change["tables"]]
            if found.count("preference") >= 10:
                return

    threads = [threading.Thread(target=follow, args=pair) for pair in zip(devices, heard, strict=True)]
    for each in threads:
        each.start()
    ready.wait(30)
    status, _, body = asking[0].ask("GET", "/api/live/stream")
    assert status == 429, body
    before = [json.loads(each.ask("GET", "/api/live")[2])["at"] for each in asking]
    began = time.monotonic()
    for n in range(10):
        change_something(shared, f"Watch {n}")
        for each in asking:
            assert each.ask("GET", "/api/hookups/silent-night/run")[0] == 200
    for each in threads:
        each.join(30)
        assert not each.is_alive()
    assert time.monotonic() - began < 60
    assert all(found.count("preference") == 10 for found in heard)
    for each, at in zip(asking, before, strict=True):
        told = json.loads(each.ask("GET", f"/api/live?at={at}")[2])
        assert sum("preference" in change["tables"] for change in told["changes"]) == 10
        assert told["missed"] is False
    assert json.loads(asking[0].ask("GET", "/api/live?at=999999")[2])["missed"] is True


def test_a_device_has_one_stream_and_none_once_it_is_shut_out(shared: Shared) -> None:
    device = shared.device()
    first = device.stream()
    next(first)
    second = device.stream()
    next(second)
    assert list(first) == []
    (known,) = shared.desk("GET", "api/sharing")["devices"]
    began = time.monotonic()
    shared.desk("DELETE", f"api/sharing/devices/{known['id']}")
    assert list(second) == []
    assert time.monotonic() - began < SOON_S
    status, headers, _ = device.ask("GET", "/api/gear")
    assert (status, headers["Set-Cookie"].split("=")[1].split(";")[0]) == (401, "")
    assert device.ask("GET", "/bench")[1]["Location"] == "/pair"


def test_a_page_knows_its_own_changes_from_those_of_others(shared: Shared) -> None:
    device = shared.device()
    told = device.stream()
    next(told)
    tick = shared.desk("GET", "api/hookups/silent-night/run")["steps"][0]["step"]["id"]
    assert device.ask("POST", "/api/hookups/silent-night/run/tick", {"step": tick, "done": True})[0] == 200
    (mine,) = next(told)["changes"]
    assert mine["window"] == device.headers["Low-Tide-Window"]
    assert "hookup" in mine["tables"]
    change_something(shared, "Another")
    (theirs,) = next(told)["changes"]
    assert theirs["window"] == ""


def test_an_address_that_changes_meanwhile_is_told(shared: Shared) -> None:
    assert [each["gone"] for each in shared.desk("GET", "api/sharing")["listening"]] == [False]
    shared.network.lose_address()
    assert [each["gone"] for each in shared.desk("GET", "api/sharing")["listening"]] == [True]
    assert shared.desk("PUT", "api/sharing", {"addresses": []})["on"] is False


def test_an_address_of_the_newer_kind_is_shared_too(at_desk: Server, network: Network) -> None:
    network.desk.ip("addr", "add", "fd12::1/64", "dev", "eth0", "nodad")
    network.away.ip("addr", "add", "fd12::2/64", "dev", "eth0", "nodad")
    network.here = "fd12::1"
    newer = Shared(at_desk, network)
    newer.origin = f"http://[fd12::1]:{newer.port}"
    found = newer.share().desk("GET", "api/sharing")
    assert [each["url"] for each in found["listening"]] == [f"{newer.origin}/"]
    device = newer.device()
    assert device.ask("GET", "/api/gear")[0] == 200
    assert device.ask("GET", "/api/gear", Host=f"fd12::1:{newer.port}")[0] == 403
    (known,) = newer.desk("GET", "api/sharing")["devices"]
    assert known["address"] == "fd12::2"


def test_whoever_stops_the_program_waits_for_no_page_that_follows(shared: Shared) -> None:
    told = shared.device().stream()
    next(told)
    process = shared.server.process
    assert process.pid
    os.kill(process.pid, signal.SIGINT)
    process.join(4)
    assert process.exitcode == 0
    assert list(told) == []


# Encrypted


@pytest.fixture
def certificate(network: Network, tmp_path: Path) -> tuple[Path, Path]:
    cert, key = tmp_path / "cert.pem", tmp_path / "key.pem"
    made = ["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes"]
    named = ["-subj", "/CN=harbour", "-addext", f"subjectAltName=IP:{network.here}", "-days", "2"]
    subprocess.run([*made, *named, "-keyout", key, "-out", cert], check=True, capture_output=True)
    return cert, key


@pytest.fixture
def encrypted(filled: Path, tmp_path: Path, network: Network, certificate: tuple[Path, Path]) -> Iterator[Shared]:
    folder = Path(shutil.copytree(filled, tmp_path / "served"))
    cert, key = certificate
    words = ("--share", network.here, "--cert", str(cert), "--key", str(key))
    server = Server(folder, *words, at=network.desk.name)
    yield Shared(server, network, ssl.create_default_context(cafile=str(cert)))
    server.kill()


def test_it_is_the_same_over_tls(encrypted: Shared) -> None:
    state = encrypted.desk("GET", "api/sharing")
    assert (state["on"], state["encrypted"], state["listening"][0]["url"]) == (True, True, f"{encrypted.origin}/")
    device = encrypted.device()
    assert device.cookie.startswith("__Host-")
    whole = json.loads(device.ask("GET", "/api/locker.json")[2])
    assert whole == encrypted.desk("GET", "api/locker.json")
    audio = next(encrypted.server.folder.rglob("audio/*.wav"))
    take = next(t for t in encrypted.desk("GET", "api/takes")["takes"] if t["audio_name"])
    sound = device.ask("GET", f"/api/takes/{take['id']}/audio")[2]
    assert len(sound) > 500_000
    assert sound[:4] == audio.read_bytes()[:4]
    told = device.stream()
    next(told)
    change_something(encrypted, "Over TLS")
    assert next(told)["changes"][0]["tables"] == ["preference"]
    big = {"head": ["a"], "rows": [["x" * 900] for _ in range(3000)]}
    status, _, body = device.ask("POST", "/api/tools/csv", big)
    assert status == 200
    assert len(body) > 2_000_000


def test_plain_http_gets_nothing_where_it_is_encrypted(encrypted: Shared) -> None:
    plain = encrypted.network.away.connection(encrypted.network.here, encrypted.port)
    plain.request("GET", "/pair")
    with pytest.raises((http.client.HTTPException, ConnectionError)):
        plain.getresponse()
    old = ssl.SSLContext(ssl.PROTOCOL_TLS_CLIENT)
    old.check_hostname, old.verify_mode = False, ssl.CERT_NONE
    old.maximum_version = ssl.TLSVersion.TLSv1_1
    with pytest.raises((ssl.SSLError, ConnectionError)):
        old.wrap_socket(encrypted.network.away.socket(encrypted.network.here, encrypted.port))


@pytest.mark.parametrize("forged", ["", "low-tide-0123456789abcdef=x", "__Host-low-tide-0123456789abcdef=x"])
@pytest.mark.parametrize("over", ["http", "tls"])
def test_nobody_who_is_not_let_in_sends_much(over: str, forged: str, request: pytest.FixtureRequest) -> None:
    at: Shared = request.getfixturevalue("encrypted" if over == "tls" else "shared")
    stranger, known = Device(at, ""), at.device()
    stranger.cookie = forged or "x=y"
    for headers in ({"Content-Length": "60000000"}, {"Transfer-Encoding": "chunked"}):
        said = "".join(f"{name}: {value}\r\n" for name, value in {**stranger.headers, **headers}.items())
        connection = at.network.away.connection(at.network.here, at.port, "", at.tls)
        host = at.origin.split("//")[1]
        connection.sock.sendall(
            f"POST /api/pair HTTP/1.1\r\nHost: {host}\r\nCookie: {stranger.cookie}\r\n{said}\r\n".encode()
        )
        assert b" 400 " in connection.sock.recv(100)
    big = {"head": ["a"], "rows": [["x" * 900] for _ in range(50)]}
    assert known.ask("POST", "/api/tools/csv", big)[0] == 200


SILENT = {
    "nothing": b"",
    "half a greeting": bytes([22, 3, 1, 2, 0, 1, 0]),
    "no greeting at all": b"GET / HTTP/1.1\r\n",
}


@pytest.mark.parametrize("said", SILENT.values(), ids=list(SILENT))
def test_those_who_say_nothing_stop_nobody(encrypted: Shared, said: bytes) -> None:
    device = encrypted.device()
    held: list[socket.socket] = []
    for _ in range(200):
        one = encrypted.network.away.socket(encrypted.network.here, encrypted.port)
        one.sendall(said)
        held.append(one)
    time.sleep(0.3)
    for _ in range(5):
        began = time.monotonic()
        assert device.ask("GET", "/api/gear")[0] == 200
        assert time.monotonic() - began < SOON_S
    for each in held:
        each.close()


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("--cert", "nowhere.pem", "--key", "nowhere.key"), "there is no such file"),
        (("--cert", "nowhere.pem"), "--cert and --key belong together"),
        (("--share", "8.8.8.8"), "8.8.8.8 is none of this machine"),
    ],
)
def test_what_the_command_line_asks_for_and_cannot_be(tmp_path: Path, words: tuple[str, ...], said: str) -> None:
    told = tmp_path / "told"
    assert command("serve", *words, said=told, LOW_TIDE_PORT="0", LOW_TIDE_HOME=str(tmp_path / "home")) == 1
    assert said in told.read_text()
