"""What was changed, told to every open page: by tables, in the order of their commits."""

from __future__ import annotations

import contextlib
import threading
from collections import deque
from collections.abc import Iterator
from contextvars import ContextVar
from dataclasses import dataclass

from low_tide.app.errors import Busy
from low_tide.store.database import database

HEARTBEAT_S = 4.0
"""A stream says something at least so often: one whose other end is gone is known by that."""
MOST_STREAMS = 16
"""At one time, all devices together; each holds a thread. Beyond them a page asks every two seconds."""
MOST_KEPT = 400

window: ContextVar[str] = ContextVar("window", default="")
"""The open page that the work at hand was asked for by; it knows already what it changed."""


@dataclass(frozen=True)
class Change:
    """A commit: its number, the tables it wrote, and the open page it was asked for by, empty for none."""

    at: int
    tables: tuple[str, ...]
    window: str


@dataclass(frozen=True)
class Changes:
    """What came after a number, up to `at`; `missed`: more than is remembered, so that everything is read anew."""

    at: int
    changes: tuple[Change, ...]
    missed: bool


class Live:
    """The changes of late, and the streams that wait for more."""

    def __init__(self) -> None:
        self._more = threading.Condition()
        self._kept: deque[Change] = deque(maxlen=MOST_KEPT)
        self._at = 0
        self._streams: dict[str, Stream] = {}
        self._over = False

    def follow(self) -> None:
        """From now on, hear of every commit of the database."""
        database.heard_by(self.tell)

    def tell(self, tables: tuple[str, ...]) -> None:
        """These were changed."""
        with self._more:
            self._at += 1
            self._kept.append(Change(self._at, tables, window.get()))
            self._more.notify_all()

    def since(self, at: int | None) -> Changes:
        """What came after a number, nothing for none. One that is yet to come is of an earlier run: all is missed."""
        with self._more:
            return self._since(self._at if at is None else at)

    def _since(self, at: int) -> Changes:
        oldest = self._kept[0].at if self._kept else self._at + 1
        missed = at > self._at or at < oldest - 1
        return Changes(self._at, () if missed else tuple(c for c in self._kept if c.at > at), missed)

    def stream(self, device: str, at: int | None) -> Stream:
        """What is changed after a number, as it is. A device has one stream: the newest ends the one before.

        Busy where there are as many as there may be.
        """
        with self._more:
            if device not in self._streams and len(self._streams) >= MOST_STREAMS:
                raise Busy(f"{MOST_STREAMS} devices follow already; this one asks every two seconds instead.")
            stream = self._streams[device] = Stream(self, device, at)
            self._more.notify_all()
            return stream

    def more(self, stream: Stream, at: int) -> Changes | None:
        """What came after a number, waited for; nothing where nothing came. EndOfStream where the stream has ended."""
        with self._more:
            self._more.wait_for(lambda: self._ended(stream) or self._at != at, HEARTBEAT_S)
            if self._ended(stream):
                raise EndOfStream
            return self._since(at) if self._at != at else None

    def _ended(self, stream: Stream) -> bool:
        return self._over or self._streams.get(stream.device) is not stream

    def close(self, stream: Stream) -> None:
        """Nobody reads it any more."""
        with self._more:
            if not self._ended(stream):
                del self._streams[stream.device]

    def stop(self) -> None:
        """The program ends: nobody is kept waiting for a stream."""
        with self._more:
            self._over = True
            self._more.notify_all()

    def end(self, *devices: str) -> None:
        """End the streams of these devices."""
        with self._more:
            for device in devices:
                self._streams.pop(device, None)
            self._more.notify_all()


class EndOfStream(Exception):
    """It was ended from this side."""


@dataclass(frozen=True, eq=False)
class Stream:
    """What one device hears of: changes, and None where there were none for a while. It has ended once it is closed."""

    live: Live
    device: str
    at: int | None

    def __iter__(self) -> Iterator[Changes | None]:
        first = self.live.since(self.at)
        at = first.at
        yield first
        with contextlib.suppress(EndOfStream):
            while True:
                found = self.live.more(self, at)
                at = found.at if found else at
                yield found

    def close(self) -> None:
        self.live.close(self)
