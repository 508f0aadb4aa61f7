"""Who may ask for what: by where he asks from, by the name he asks for, by what he was let in for."""

from __future__ import annotations

import errno
import json
import re
import stat
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import pytest
from flask import Flask
from flask.testing import FlaskClient

from low_tide.app import sharing as app_sharing
from low_tide.app.errors import Conflict, Invalid
from low_tide.app.live import Live
from low_tide.app.sharing import SEEN_EVERY_S, Address, CodeRefused, Sharing, own_addresses
from low_tide.store.files import open_home
from low_tide.store.home import PAIRINGS, Home, StoreError
from low_tide.web.access import WINDOW
from low_tide.web.server import create_app
from tests.web.test_finding import refused

HERE, ELSEWHERE, HOST = "10.9.0.1", "10.9.0.2", "10.9.0.1:8170"
TABLE = Path(__file__).with_name("who_may.txt")
SCOPES = ("anybody", "run", "all", "desk")


@dataclass
class FakeDoor:
    """A door that is drawn on the wall."""

    address: str
    closed: bool = False
    url: str = field(init=False)

    def __post_init__(self) -> None:
        self.url = f"http://{self.address}:8170/"

    @property
    def hosts(self) -> frozenset[str]:
        return frozenset({f"{self.address}:8170"})

    def close(self) -> None:
        self.closed = True


class Clock:
    def __init__(self) -> None:
        self.now = 1_800_000_000.0

    def __call__(self) -> float:
        return self.now


def made(home: Home, clock: Clock | None = None, own: tuple[str, ...] = (HERE,)) -> Sharing:
    addresses = tuple(Address(each, "eth0", True) for each in own)
    return Sharing(home, Live(), FakeDoor, clock=clock or Clock(), addresses=lambda: addresses)


@pytest.fixture
def shared(lightship: Home) -> Flask:
    """The application, shared on an address that nobody listens at."""
    app = create_app(lightship)
    app.config["SHARING"] = made(lightship)
    app.config["SHARING"].begin([HERE])
    return app


def device(app: Flask, scope: str | None, peer: str = ELSEWHERE, host: str = HOST) -> FlaskClient:
    """A client on the network: let in for something, or None for not at all."""
    client = app.test_client()
    client.environ_base.update(
        REMOTE_ADDR=peer, HTTP_HOST=host, **{"HTTP_LOW_TIDE_WINDOW": "w", "HTTP_ORIGIN": f"http://{host}"}
    )
    if scope:
        sharing: Sharing = app.config["SHARING"]
        sharing.open_pairing(scope)  # type: ignore[arg-type]
        code = sharing.state().pairing
        assert code
        answer = client.post("/api/pair", json={"code": code.code, "name": scope}, base_url=f"http://{host}")
        assert answer.status_code == 201, answer.data
    return client


def table() -> list[tuple[str, str, str]]:
    return [tuple(line.split(" ")) for line in TABLE.read_text(encoding="utf-8").splitlines()]  # type: ignore[misc]


def filled_in(rule: str) -> str:
    """An address of a rule, of things that are not there."""
    for part, value in {"<path:name>": "x.js", "<path:_>": "bench", "<string:date>": "2026-01-02"}.items():
        rule = rule.replace(part, value)
    return re.sub("<[a-z_]+>", "x", re.sub("<int:[a-z_]+>", "999999", rule))


def test_the_table_names_every_route(shared: Flask) -> None:
    routes = {
        (m, rule.rule) for rule in shared.url_map.iter_rules() for m in (rule.methods or set()) - {"HEAD", "OPTIONS"}
    }
    assert {(method, rule) for _, method, rule in table()} == routes


@pytest.mark.parametrize("scope", [None, "run", "all"])
def test_every_route_keeps_to_the_table(shared: Flask, scope: str | None) -> None:
    client = device(shared, scope)
    allowed = SCOPES[: SCOPES.index(scope) + 1] if scope else ("anybody",)
    found = {}
    for who, method, rule in table():
        if rule == "/api/pair" and method == "POST":
            continue
        # Without a body: what may be asked for is refused for that, and changes nothing.
        answer = client.open(filled_in(rule), method=method, base_url=f"http://{HOST}", buffered=False)
        answer.close()
        let = answer.status_code not in (401, 403) and answer.location != "/pair"
        if let != (who in allowed):
            found[f"{method} {rule}"] = answer.status_code
        if not let and scope is None:
            assert answer.status_code == (401 if rule.startswith("/api/") else 302)
        if not let and scope:
            assert answer.status_code == 403
    assert found == {}


def test_nobody_who_is_not_known_is_told_a_name(shared: Flask) -> None:
    client = device(shared, None)
    names = [entry["name"] for entry in shared.test_client().get("/api/hookups").json["entries"]]
    for path in ("/", "/bench/split-fog", "/api/hookups", "/api/find?search=a", "/api/pair", "/pair", "/api/nothing"):
        answer = client.get(path, base_url=f"http://{HOST}")
        assert not any(name in answer.get_data(as_text=True) for name in (*names, "Lightship", "Godwit"))
    assert client.get("/api/nothing", base_url=f"http://{HOST}").status_code == 401


@pytest.mark.parametrize(
    ("peer", "host", "status"),
    [
        ("127.0.0.1", "localhost:8170", 200),
        ("127.8.9.10", "127.0.0.1", 200),
        ("::1", "[::1]:8170", 200),
        (ELSEWHERE, "localhost:8170", 403),
        (ELSEWHERE, "127.0.0.1:8170", 403),
        ("", "localhost", 403),
        ("127.0.0.1", HOST, 401),
        (ELSEWHERE, HOST, 401),
        (ELSEWHERE, "10.9.0.1", 403),
        (ELSEWHERE, "10.9.0.1:80", 403),
        (ELSEWHERE, "evil.example:8170", 403),
        (ELSEWHERE, "studio.local:8170", 403),
        ("127.0.0.1", "localhost.evil.example", 403),
    ],
)
def test_the_desk_is_who_asks_at_this_machine_by_its_own_name(shared: Flask, peer: str, host: str, status: int) -> None:
    client = device(shared, None, peer, host)
    for forged in ({}, {"X-Forwarded-For": "127.0.0.1", "X-Forwarded-Host": "localhost", "Forwarded": "for=127.0.0.1"}):
        answer = client.get("/api/gear", base_url=f"http://{host}", headers=forged)
        assert answer.status_code == status


def test_a_device_says_which_page_it_asks_from(shared: Flask) -> None:
    client = device(shared, "all")
    base = f"http://{HOST}"
    assert client.get("/api/gear", base_url=base).status_code == 200
    del client.environ_base["HTTP_LOW_TIDE_WINDOW"]
    refused(client.get("/api/gear", base_url=base), "does not come from a page of Low Tide", 403)
    assert client.get("/api/attachments/1", base_url=base).status_code == 404
    refused(client.delete("/api/attachments/1", base_url=base), "does not come from a page", 403)
    client.environ_base[f"HTTP_{WINDOW.upper().replace('-', '_')}"] = "w"
    body: dict[str, Any] = {"json": {"head": ["a"], "rows": [[1]]}, "base_url": base}
    assert client.post("/api/tools/csv", **body).status_code == 200
    for origin in ("http://10.9.0.1:9999", "https://10.9.0.1:8170", "http://evil.example", "null"):
        client.environ_base["HTTP_ORIGIN"] = origin
        refused(client.post("/api/tools/csv", **body), "another site", 403)
    del client.environ_base["HTTP_ORIGIN"]
    refused(client.post("/api/tools/csv", **body), "does not say which page", 403)


def test_a_cookie_lets_in_where_it_was_given_alone(shared: Flask, tmp_path: Path) -> None:
    client = device(shared, "all")
    base = f"http://{HOST}"
    (cookie,) = client._cookies.values()
    assert (cookie.http_only, cookie.same_site, cookie.path, cookie.secure) == (True, "Strict", "/", False)
    kept = (shared.config["HOME_FOLDER"].folder / PAIRINGS).read_text(encoding="utf-8")
    assert cookie.value not in kept
    assert stat.S_IMODE((shared.config["HOME_FOLDER"].folder / PAIRINGS).stat().st_mode) == 0o600
    other_home = open_home(tmp_path / "other")
    other = create_app(other_home)
    other.config["SHARING"] = made(other_home)
    other.config["SHARING"].begin([HERE])
    stranger = device(other, None)
    stranger.set_cookie(cookie.key, cookie.value, domain=HERE)
    assert stranger.get("/api/gear", base_url=base).status_code == 401
    mine = device(other, "run")
    (own,) = mine._cookies.values()
    assert own.key != cookie.key
    mine.set_cookie(own.key, cookie.value, domain=HERE)
    answer = mine.get("/api/takes", base_url=base)
    assert answer.status_code == 401
    assert f"{own.key}=;" in answer.headers["Set-Cookie"]


def test_under_tls_the_cookie_is_of_this_host_and_secure(shared: Flask) -> None:
    client = device(shared, None)
    client.environ_base["HTTP_ORIGIN"] = f"https://{HOST}"
    sharing: Sharing = shared.config["SHARING"]
    sharing.open_pairing("run")
    code = sharing.state().pairing
    assert code
    answer = client.post("/api/pair", json={"code": code.code, "name": "T"}, base_url=f"https://{HOST}")
    said = answer.headers["Set-Cookie"]
    assert said.startswith("__Host-low-tide-")
    assert {"Secure", "HttpOnly", "Path=/", "SameSite=Strict"} <= {part.strip() for part in said.split(";")}
    assert "Domain" not in said


def pair(sharing: Sharing, code: str, address: str = ELSEWHERE) -> str:
    return sharing.pair(code, "Tablet", address)


def open_code(sharing: Sharing) -> str:
    sharing.open_pairing("run")
    found = sharing.state().pairing
    assert found
    return found.code


def wrong_of(code: str) -> str:
    return ("A" if code[0] != "A" else "B") + code[1:]


def test_a_code_lets_one_in_once_and_for_two_minutes(home: Home) -> None:
    clock = Clock()
    sharing = made(home, clock)
    with pytest.raises(Conflict, match="Sharing is off"):
        sharing.open_pairing("run")
    sharing.begin([HERE])
    code = open_code(sharing)
    assert sharing.device_of(pair(sharing, f" {code[:4].lower()}-{code[4:]} "), ELSEWHERE)
    with pytest.raises(CodeRefused, match="No pairing is open"):
        pair(sharing, code)
    late = open_code(sharing)
    clock.now += 119
    assert sharing.state().pairing
    clock.now += 2
    with pytest.raises(CodeRefused, match="No pairing is open"):
        pair(sharing, late)
    assert "Two minutes are over" in sharing.state().ended
    first, second = open_code(sharing), open_code(sharing)
    with pytest.raises(CodeRefused, match="not the code"):
        pair(sharing, first)
    assert pair(sharing, second)
    assert [each.name for each in sharing.state().devices] == ["Tablet", "Tablet 2"]


def test_five_wrong_codes_from_an_address_and_thirty_from_all(home: Home) -> None:
    sharing = made(home)
    sharing.begin([HERE])
    code = open_code(sharing)
    for _ in range(5):
        with pytest.raises(CodeRefused, match="not the code"):
            pair(sharing, wrong_of(code))
    with pytest.raises(CodeRefused, match="5 wrong codes"):
        pair(sharing, code)
    assert pair(sharing, code, "10.9.0.3")
    code = open_code(sharing)
    tried = 0
    for device in range(200):
        for _ in range(5):
            with pytest.raises(CodeRefused) as caught:
                pair(sharing, wrong_of(code), f"10.9.1.{device}")
            tried += "not the code" in str(caught.value)
    assert tried == 30
    with pytest.raises(CodeRefused, match="No pairing is open"):
        pair(sharing, code, "10.9.0.4")
    assert "somebody is guessing" in sharing.state().ended


def test_nothing_is_kept_of_a_device_but_what_is_needed(home: Home) -> None:
    sharing = made(home)
    sharing.begin([HERE])
    token = sharing.pair(open_code(sharing), "  Ta\nb\x00let\u202e " + "x" * 200, ELSEWHERE)
    (record,) = json.loads((home.folder / PAIRINGS).read_text(encoding="utf-8"))
    assert set(record) == {"id", "name", "scope", "hash", "paired", "seen"}
    assert record["name"] == ("Ta b let " + "x" * 200)[: app_sharing.MOST_NAME]
    assert len(token) >= 43
    found = sharing.device_of(token, ELSEWHERE)
    assert found
    assert found.here


def test_a_full_disk_lets_nobody_in_half_and_keeps_nobody_in(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    clock = Clock()
    sharing = made(home, clock)
    sharing.begin([HERE])
    doors = dict(sharing._doors)
    known = pair(sharing, open_code(sharing))
    clock.now += SEEN_EVERY_S + 1

    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr("low_tide.store.pairings.sync", full)
        device = sharing.device_of(known, ELSEWHERE)
        assert device is not None
        code = open_code(sharing)
        with pytest.raises(OSError, match="No space"):
            pair(sharing, code)
        assert [each.id for each in sharing.state().devices] == [device.id]
        with pytest.raises(OSError, match="No space"):
            sharing.shut_out(device.id)
        assert sharing.device_of(known, ELSEWHERE) is None
        assert sharing.state().devices == ()
        sharing.end()
    assert not sharing.on
    assert all(isinstance(door, FakeDoor) and door.closed for door in doors.values())


def test_a_device_comes_in_only_while_it_is_shared_and_within_thirty_days(home: Home) -> None:
    clock = Clock()
    sharing = made(home, clock)
    sharing.begin([HERE])
    token = pair(sharing, open_code(sharing))
    sharing.end()
    assert sharing.device_of(token, ELSEWHERE) is None
    again = made(home, clock)
    assert not again.on
    assert again.device_of(token, ELSEWHERE) is None
    assert [each.name for each in again.state().devices] == ["Tablet"]
    again.begin([HERE])
    clock.now += 29 * 86400
    assert again.device_of(token, ELSEWHERE)
    clock.now += 29 * 86400
    assert again.device_of(token, ELSEWHERE)
    again.end()
    clock.now += 31 * 86400
    again.begin([HERE])
    assert again.device_of(token, ELSEWHERE) is None
    assert again.state().devices == ()


def test_what_cannot_be_shared_is_said(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    sharing = made(home)
    with pytest.raises(Invalid, match="Addresses: choose one"):
        sharing.begin([])
    with pytest.raises(Invalid, match=r"8\.8\.8\.8 is none of this machine"):
        sharing.begin([HERE, "8.8.8.8"])
    assert not sharing.on
    opened: list[FakeDoor] = []

    def second_fails(address: str) -> FakeDoor:
        if opened:
            raise Conflict("taken")
        opened.append(FakeDoor(address))
        return opened[-1]

    two = made(home, own=(HERE, "10.9.0.7"))
    two.open_door = second_fails
    with pytest.raises(Conflict):
        two.begin([HERE, "10.9.0.7"])
    assert opened[0].closed
    assert not two.on
    (home.folder / PAIRINGS).write_text("{", encoding="utf-8")
    with pytest.raises(StoreError, match="cannot be read"):
        sharing.begin([HERE])
    assert not sharing.on


def test_an_address_that_is_gone_is_told(home: Home) -> None:
    own = [Address(HERE, "eth0", True)]
    sharing = Sharing(home, Live(), FakeDoor, clock=Clock(), addresses=lambda: tuple(own))
    sharing.begin([HERE])
    assert [each.gone for each in sharing.state().listening] == [False]
    own[0] = Address("10.9.0.9", "eth0", True)
    assert [each.gone for each in sharing.state().listening] == [True]
    sharing.begin(["10.9.0.9"])
    assert [each.address for each in sharing.state().listening] == ["10.9.0.9"]
    assert sharing.hosts == {"10.9.0.9:8170"}


def test_own_addresses_are_such_as_a_device_can_reach() -> None:
    assert all(not each.address.startswith(("127.", "fe80")) and each.address != "::1" for each in own_addresses())


def test_the_last_devices_of_all_have_no_place(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(app_sharing, "MOST_DEVICES", 2)
    sharing = made(home)
    sharing.begin([HERE])
    tokens = [pair(sharing, open_code(sharing)) for _ in range(2)]
    with pytest.raises(app_sharing.Busy, match="2 devices are paired"):
        sharing.open_pairing("run")
    sharing.shut_out(sharing.state().devices[0].id)
    assert sharing.device_of(tokens[0], ELSEWHERE) is None
    assert sharing.device_of(tokens[1], ELSEWHERE)
    sharing.open_pairing("run")
