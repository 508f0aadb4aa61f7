"""Sharing with devices on the local network: where it is listened, who is let in by a code, and what each may do."""

from __future__ import annotations

import contextlib
import hashlib
import secrets
import threading
import time
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from ipaddress import ip_address
from typing import Literal, Protocol

import psutil

from low_tide.app.errors import Busy, Conflict, Invalid, NotFound, Refusal
from low_tide.app.live import Live
from low_tide.store import pairings
from low_tide.store.home import Home
from low_tide.store.pairings import PairingRecord

Scope = Literal["run", "all"]
"""What a device is let in for: the run sheet and the log, or everything but backup, restore and sharing."""

LETTERS = "ABCDEFGHJKMNPQRSTUVWXYZ23456789"
CODE_LENGTH = 8
"""Of letters that are not taken for each other: 31⁸ codes, of which 30 may be tried."""
OPEN_S = 120.0
WRONG_HERE, WRONG_IN_ALL = 5, 30
"""Wrong codes from one address, and from all together, that end a pairing for it and for everybody."""
IDLE_DAYS = 30
MOST_DEVICES = 32
MOST_NAME = 40
TOKEN_BYTES = 32
SEEN_EVERY_S = 600.0
"""When a device was seen last is written down no more often."""
HERE_S = 10.0


class CodeRefused(Refusal):
    """A code that does not let in."""

    title = "Not paired"


class NotPaired(Refusal):
    """Somebody who is not known, or not any more."""

    title = "Not paired"


class Door(Protocol):
    """Where it is listened on the network."""

    @property
    def url(self) -> str: ...
    @property
    def hosts(self) -> frozenset[str]: ...
    def close(self) -> None: ...


@dataclass(frozen=True)
class Address:
    """An address of this machine that could be shared on; `private`: from outside of its network nobody reaches it."""

    address: str
    interface: str
    private: bool


@dataclass(frozen=True)
class Listening:
    """An address that is shared on; `gone`: this machine has it no more."""

    address: str
    url: str
    gone: bool


@dataclass(frozen=True)
class OpenPairing:
    """A pairing that is open: its code, what the device will be allowed, and for how many s more."""

    code: str
    scope: Scope
    seconds: float


@dataclass(frozen=True)
class Device:
    """A device that was let in; `here`: it was heard of in the last seconds, from `address`."""

    id: str
    name: str
    scope: Scope
    paired: str
    seen: str
    address: str
    here: bool


@dataclass(frozen=True)
class SharingState:
    """`ended`: why the last pairing is open no more. `newest`: the device that it let in."""

    on: bool
    encrypted: bool
    addresses: tuple[Address, ...]
    listening: tuple[Listening, ...]
    pairing: OpenPairing | None
    ended: str
    newest: Device | None
    devices: tuple[Device, ...]


@dataclass
class _Pairing:
    code: str
    scope: Scope
    until: float
    wrong: Counter[str]


def own_addresses() -> tuple[Address, ...]:
    """The addresses that other devices may reach this machine by, those of private networks first."""
    up = {name for name, stats in psutil.net_if_stats().items() if stats.isup}
    found = []
    for name, entries in psutil.net_if_addrs().items():
        for entry in entries if name in up else ():
            try:
                address = ip_address(entry.address.split("%")[0])
            except ValueError:
                continue  # an address of the hardware
            # One that is local to a link needs the link's name beside it, which no browser takes.
            if not address.is_loopback and not (address.version == 6 and address.is_link_local):
                found.append(Address(str(address), name, address.is_private))
    return tuple(sorted(found, key=lambda a: (not a.private, ip_address(a.address).version, a.interface, a.address)))


def typed(code: str) -> str:
    """A code as somebody types it, without what was put in to read it by."""
    return "".join(code.upper().split()).replace("-", "")


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()


def _stamp(at: float) -> str:
    return datetime.fromtimestamp(at, UTC).isoformat(timespec="seconds")


class Sharing:
    """Off until it is asked for. All of it but the devices is forgotten at the end of the program."""

    def __init__(
        self,
        home: Home,
        live: Live,
        open_door: Callable[[str], Door] | None = None,
        encrypted: bool = False,
        clock: Callable[[], float] = time.time,
        addresses: Callable[[], tuple[Address, ...]] = own_addresses,
    ) -> None:
        self._home, self._live, self._clock, self._addresses = home, live, clock, addresses
        self.open_door, self.encrypted = open_door, encrypted
        self._lock = threading.RLock()
        self._doors: dict[str, Door] = {}
        self._pairing: _Pairing | None = None
        self._ended = ""
        self._newest = ""
        self._let_in: dict[str, PairingRecord] = {}
        self._heard: dict[str, tuple[float, str]] = {}

    # Where it is listened

    @property
    def on(self) -> bool:
        return bool(self._doors)

    @property
    def hosts(self) -> frozenset[str]:
        """What a request may name as its host, port and all."""
        return frozenset().union(*(door.hosts for door in self._doors.values()))

    def begin(self, chosen: Sequence[str]) -> None:
        """Share on these addresses, all or none. Invalid for one that is not this machine's."""
        with self._lock:
            if self.open_door is None:
                raise Conflict("Sharing: this server cannot listen on a network.")
            own = {each.address for each in self._addresses()}
            if not chosen:
                raise Invalid("Addresses: choose one at least.", fields=[("addresses",)])
            for address in chosen:
                if address not in own:
                    raise Invalid(f"Addresses: {address} is none of this machine’s.", fields=[("addresses",)])
            self._let_in = self._kept()
            opened: dict[str, Door] = {}
            try:
                for address in dict.fromkeys(chosen):
                    opened[address] = self._doors.get(address) or self.open_door(address)
            except BaseException:
                for address in opened.keys() - self._doors.keys():
                    opened[address].close()
                raise
            for address in self._doors.keys() - opened.keys():
                self._doors[address].close()
            self._doors = opened

    def end(self) -> None:
        """Nothing listens on the network any more, and nobody is let in."""
        with self._lock:
            doors, self._doors = self._doors, {}
            self._close_pairing("")
            self._write_down()
            self._live.end(*self._let_in)
            for door in doors.values():
                door.close()

    # Pairing

    def open_pairing(self, scope: Scope) -> None:
        """Let one device in by a code, for two minutes."""
        with self._lock:
            self._must_be_on()
            if len(self._let_in) >= MOST_DEVICES:
                raise Busy(f"{MOST_DEVICES} devices are paired, the most there may be. Shut one out first.")
            code = "".join(secrets.choice(LETTERS) for _ in range(CODE_LENGTH))
            self._pairing = _Pairing(code, scope, self._clock() + OPEN_S, Counter())
            self._ended, self._newest = "", ""

    def close_pairing(self) -> None:
        """Let nobody in after all."""
        with self._lock:
            self._close_pairing("")

    def pair(self, code: str, name: str, address: str) -> str:
        """Let a device in by the code that is shown; its token. CodeRefused where the code does not let in."""
        with self._lock:
            self._must_be_on()
            pairing = self._open()
            if pairing is None:
                raise CodeRefused("No pairing is open. Open one at the desk: Share, Pair a device.")
            if pairing.wrong[address] >= WRONG_HERE:
                raise CodeRefused(f"{WRONG_HERE} wrong codes came from this device’s address: it is not let in.")
            if not secrets.compare_digest(typed(code).encode(), pairing.code.encode()):
                pairing.wrong[address] += 1
                if pairing.wrong.total() >= WRONG_IN_ALL:
                    self._close_pairing(f"{WRONG_IN_ALL} wrong codes came in, so it was closed: somebody is guessing.")
                raise CodeRefused("This is not the code that is shown at the desk.")
            return self._let(name, pairing.scope, address)

    def _let(self, name: str, scope: Scope, address: str) -> str:
        plain = " ".join("".join(c if c.isprintable() else " " for c in name).split())[:MOST_NAME] or "A device"
        taken = {each.name for each in self._let_in.values()}
        number = next(n for n in range(1, MOST_DEVICES + 2) if (plain if n == 1 else f"{plain} {n}") not in taken)
        token, id, at = secrets.token_urlsafe(TOKEN_BYTES), secrets.token_hex(8), self._clock()
        named = plain if number == 1 else f"{plain} {number}"
        record = PairingRecord(id, named, scope, _hash(token), _stamp(at), _stamp(at))
        pairings.save(self._home, (*self._let_in.values(), record))
        self._let_in[id] = record
        self._heard[id] = at, address
        self._close_pairing("")
        self._newest = id
        return token

    def _open(self) -> _Pairing | None:
        if self._pairing is not None and self._clock() >= self._pairing.until:
            self._close_pairing("Two minutes are over, so it was closed.")
        return self._pairing

    def _close_pairing(self, why: str) -> None:
        self._pairing, self._ended = None, why

    def _must_be_on(self) -> None:
        if not self.on:
            raise Conflict("Sharing is off.")

    # Devices

    def device_of(self, token: str, address: str) -> Device | None:
        """The device that a token was given to; None where there is none, or where sharing is off."""
        with self._lock:
            at, record = self._clock(), self._record(token)
            if record is None:
                return None
            self._heard[record.id] = at, address
            if at - datetime.fromisoformat(record.seen).timestamp() > SEEN_EVERY_S:
                self._write_down()
            return self._device(record, at)

    def knows(self, token: str) -> bool:
        """Whether a device was given this token, and is still let in; it is not heard of by that."""
        with self._lock:
            return self._record(token) is not None

    def _record(self, token: str) -> PairingRecord | None:
        found = _hash(token) if self.on and token else ""
        record = next((each for each in self._let_in.values() if each.hash == found), None)
        return None if record is None or self._idle(record, self._clock()) else record

    def shut_out(self, id: str) -> None:
        """This device is let in no more, and what it follows ends."""
        with self._lock:
            if id not in self._let_in:
                raise NotFound("This device is not paired any more.")
            # Out at once, also where that cannot be written down for the next time.
            self._let_in = {each.id: each for each in self._let_in.values() if each.id != id}
            self._newest = "" if self._newest == id else self._newest
            self._live.end(id)
            pairings.save(self._home, tuple(self._let_in.values()))

    def _idle(self, record: PairingRecord, at: float) -> bool:
        return at - datetime.fromisoformat(record.seen).timestamp() > timedelta(days=IDLE_DAYS).total_seconds()

    def _kept(self) -> dict[str, PairingRecord]:
        """The devices of before, without those that were not seen for too long."""
        at = self._clock()
        return {each.id: each for each in pairings.load(self._home) if not self._idle(each, at)}

    def _write_down(self) -> None:
        """When each was seen last, where the disk takes it: it is no reason to turn anybody away, or to stay open."""
        if self._let_in and self._heard:
            seen = {id: _stamp(at) for id, (at, _) in self._heard.items()}
            self._let_in = {id: replace(each, seen=seen.get(id, each.seen)) for id, each in self._let_in.items()}
            with contextlib.suppress(OSError):
                pairings.save(self._home, tuple(self._let_in.values()))

    def _device(self, record: PairingRecord, at: float) -> Device:
        heard, address = self._heard.get(record.id, (0.0, ""))
        seen = _stamp(heard) if heard else record.seen
        scope: Scope = "all" if record.scope == "all" else "run"
        return Device(record.id, record.name, scope, record.paired, seen, address, at - heard < HERE_S)

    def state(self) -> SharingState:
        """All of it, for the desk."""
        with self._lock:
            at = self._clock()
            addresses = self._addresses()
            own = {each.address for each in addresses}
            listening = tuple(Listening(a, door.url, a not in own) for a, door in self._doors.items())
            pairing = self._open()
            known = self._let_in.values() if self.on else self._kept().values()
            devices = tuple(self._device(each, at) for each in known)
            return SharingState(
                self.on,
                self.encrypted,
                addresses,
                listening,
                OpenPairing(pairing.code, pairing.scope, pairing.until - at) if pairing else None,
                self._ended,
                next((each for each in devices if each.id == self._newest), None),
                devices,
            )
