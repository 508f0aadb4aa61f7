"""What may be asked of the server by other pages, and what a page of its own may load."""

from __future__ import annotations

import secrets
from typing import Any
from urllib.parse import urlsplit

from flask import Flask, Request, Response, abort, g, request

from low_tide.formats.documents import read_json
from low_tide.formats.sentences import FormatError

BODY_LIMIT = 64 * 1024 * 1024
LIMITS = {
    "threads": 24,
    "connection_limit": 400,
    "channel_timeout": 20,
    "cleanup_interval": 5,
    "asyncore_use_poll": True,
    "max_request_header_size": 32 * 1024,
    "max_request_body_size": BODY_LIMIT + 1024,
}
"""What the server lends to any one who connects. Hundreds who connect and say nothing hold no thread, only a place, and
lose it after so many seconds; places stay under what a system lends a process."""
SAFE = {"GET", "HEAD", "OPTIONS"}


LOOPBACK = {"127.0.0.1", "localhost", "[::1]"}


def is_loopback(host: str) -> bool:
    """Whether a host, with its port or without, is a name of this machine for itself."""
    return (host if host.endswith("]") else host.rsplit(":", 1)[0]) in LOOPBACK


class BoundedRequest(Request):
    """A request whose JSON is read by the same bounds as any file; FormatError where it is not within them."""

    def get_json(self, force: bool = False, silent: bool = False, cache: bool = True) -> Any:
        if not (force or self.is_json):
            return super().get_json(force, silent, cache)
        if not hasattr(self, "_plain"):
            self._plain = read_json(self.get_data(cache=True))
            if isinstance(self._plain, str):
                raise FormatError(["A JSON object is wanted; this is a text."])
        return self._plain


def guard(app: Flask) -> None:
    """Same origin only, a Content-Security-Policy without any outside source, bounded JSON."""
    app.request_class = BoundedRequest

    @app.before_request
    def same_origin() -> None:
        g.nonce = secrets.token_urlsafe(16)
        origin = request.headers.get("Origin")
        if origin is not None and urlsplit(origin)[:2] != (request.scheme, request.host):
            abort(403, "This request comes from another site.")
        # Reading counts too: some answers take seconds to work out, which is enough to keep a server busy.
        costs = request.method not in SAFE or request.path.startswith("/api/")
        site = request.headers.get("Sec-Fetch-Site", "same-origin")
        if costs and site not in ("same-origin", "none"):
            abort(403, "This request comes from another site.")

    @app.after_request
    def harden(response: Response) -> Response:
        style = f"'self' 'nonce-{g.nonce}'" if "nonce" in g else "'self'"
        response.headers.setdefault(
            "Content-Security-Policy",
            f"default-src 'none'; script-src 'self'; style-src {style}; img-src 'self' data:; font-src 'self'; "
            "connect-src 'self'; media-src 'self' blob:; base-uri 'none'; form-action 'self'; "
            "frame-ancestors 'none'; manifest-src 'self'; worker-src 'self'",
        )
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        if request.is_secure or is_loopback(request.host):  # elsewhere browsers ignore it, and say so in the console
            response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        if request.path.startswith("/api/"):
            response.headers["Cache-Control"] = "no-store"
        return response
