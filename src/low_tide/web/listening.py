"""Servers of the same application: on this machine alone, and, where it is shared, on an address of the network."""

from __future__ import annotations

import ssl
import threading
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any, TypeAlias

from waitress import wasyncore
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser, ParsingError
from waitress.server import create_server

from low_tide.app.errors import Conflict
from low_tide.web.access import is_let_in
from low_tide.web.security import LIMITS

MOST_OF_STRANGERS = 4096
"""Bytes of a body that are read before it is asked who sends them: a code and a name."""
IsLetIn: TypeAlias = Callable[[str, bool], bool]
"""Whether what a Cookie header says, over TLS or not, is known."""
DEFAULT_PORTS = {"http": 80, "https": 443}


class CertificateError(RuntimeError):
    """A certificate or key that cannot be used; the message says why."""


def encrypting(cert: Path, key: Path) -> ssl.SSLContext:
    """What TLS is spoken by, 1.2 or later. CertificateError where the files are not what they should be."""
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.minimum_version = ssl.TLSVersion.TLSv1_2
    for path in (cert, key):
        if not path.is_file():
            raise CertificateError(f"{path}: there is no such file.")
    try:
        # A key with a password would be asked for at a terminal that may not be there.
        context.load_cert_chain(cert, key, password=lambda: "")
    except (OSError, ValueError) as error:
        raise CertificateError(f"{cert} and {key} are no certificate and its key, unencrypted: {error}.") from None
    return context


class NetworkParser(HTTPRequestParser):  # type: ignore[misc]
    """Reads a request, but no large body of who is not let in: it would lie on the disk before he is refused."""

    def __init__(self, is_let_in: IsLetIn, adj: Any) -> None:
        super().__init__(adj)
        self._is_let_in = is_let_in

    def parse_header(self, header_plus: bytes) -> None:
        super().parse_header(header_plus)
        large = self.chunked or self.content_length > MOST_OF_STRANGERS
        if large and not self._is_let_in(self.headers.get("COOKIE", ""), self.url_scheme == "https"):
            raise ParsingError(f"who is not let in sends {MOST_OF_STRANGERS} bytes at most")


class NetworkChannel(HTTPChannel):  # type: ignore[misc]
    """A connection from the network."""

    def __init__(self, is_let_in: IsLetIn, *args: Any, **options: Any) -> None:
        self.parser_class = partial(NetworkParser, is_let_in)
        super().__init__(*args, **options)


class EncryptedChannel(NetworkChannel):
    """One that speaks TLS. The handshake comes with the first bytes that are read, so that who connects and says
    nothing holds no thread, and loses his place as any other does."""

    def __init__(self, *args: Any, **options: Any) -> None:
        # Read by the thread that listens and written by those that answer: OpenSSL wants one at a time.
        self._speaking = threading.Lock()
        super().__init__(*args, **options)

    def handle_read(self) -> None:
        try:
            with self._speaking:
                data = self.socket.recv(self.adj.recv_bytes)
                # What was read along with it and decrypted already would wake nobody.
                while waiting := self.socket.pending():
                    data += self.socket.recv(waiting)
        except (ssl.SSLWantReadError, ssl.SSLWantWriteError):
            return
        except OSError:
            data = b""
        if not data:
            self.handle_close()
            return
        self.last_activity = time.time()
        self.received(data)

    def send(self, data: bytes, do_close: bool = True) -> int:
        try:
            with self._speaking:
                sent: int = self.socket.send(data)
                return sent
        except (ssl.SSLWantReadError, ssl.SSLWantWriteError):
            return 0
        except OSError:
            if do_close:
                self.handle_close()
            return 0


def _accepted(
    tls: ssl.SSLContext | None, is_let_in: IsLetIn, server: Any, sock: Any, addr: Any, adj: Any, map: Any
) -> None:
    """A connection that was accepted, from now on in TLS where that is spoken; one that is gone already is let go."""
    if tls is None:
        NetworkChannel(is_let_in, server, sock, addr, adj, map=map)
        return
    try:
        sock.setblocking(False)
        wrapped = tls.wrap_socket(sock, server_side=True, do_handshake_on_connect=False)
    except OSError:
        sock.close()
        return
    EncryptedChannel(is_let_in, server, wrapped, addr, adj, map=map)


class NetworkDoor:
    """A server on one address, in threads of its own, until it is closed."""

    def __init__(self, app: Any, address: str, port: int, names: frozenset[str], tls: ssl.SSLContext | None) -> None:
        scheme = "https" if tls else "http"
        host = f"[{address}]" if ":" in address else address
        self._map: dict[int, Any] = {}
        try:
            self._server = create_server(app, map=self._map, host=host, port=port, url_scheme=scheme, **LIMITS)
        except OSError as error:
            raise Conflict(f"{address}, port {port}: {error.strerror or error}.") from None
        self._server.channel_class = partial(_accepted, tls, partial(is_let_in, app))
        port = self._server.effective_port
        plain = port == DEFAULT_PORTS[scheme]
        self.url = f"{scheme}://{host}{'' if plain else f':{port}'}/"
        self.hosts = frozenset(h if plain else f"{h}:{port}" for h in (host, *names))
        self._thread = threading.Thread(target=self._run, name=f"share {address}", daemon=True)
        self._thread.start()

    def _run(self) -> None:
        self._server.run()
        self._server.task_dispatcher.shutdown(timeout=1)

    def close(self) -> None:
        """Nothing listens there when this comes back; answers that are being sent are cut off."""
        self._server.trigger.pull_trigger(partial(wasyncore.close_all, self._map, True))
        self._thread.join(timeout=5)


def doors(
    app: Any, port: int, names: frozenset[str] = frozenset(), tls: ssl.SSLContext | None = None
) -> Callable[[str], NetworkDoor]:
    """What opens a door of an application at an address, under these names too."""
    return partial(_open, app, port, names, tls)


def _open(app: Any, port: int, names: frozenset[str], tls: ssl.SSLContext | None, address: str) -> NetworkDoor:
    return NetworkDoor(app, address, port, names, tls)


def local_server(app: Any, port: int) -> Any:
    """The server on this machine's own address. OSError where the port is taken."""
    return create_server(app, host="127.0.0.1", port=port, **LIMITS)
