"""Who may talk to the server, and what a page may load."""

from __future__ import annotations

import secrets
from urllib.parse import urlsplit

from flask import Flask, Response, abort, g, request

BODY_LIMIT = 64 * 1024 * 1024
LOOPBACK = {"127.0.0.1", "localhost", "[::1]"}
SAFE = {"GET", "HEAD", "OPTIONS"}


def _host(netloc: str) -> str:
    """The host without its port, brackets of an IPv6 address kept."""
    return netloc.rsplit(":", 1)[0] if netloc.count(":") == 1 or netloc.startswith("[") else netloc


def guard(app: Flask) -> None:
    """Loopback names only, same origin only, a Content-Security-Policy without any outside source."""

    @app.before_request
    def only_here() -> None:
        g.nonce = secrets.token_urlsafe(16)
        if _host(request.host) not in LOOPBACK and request.host not in LOOPBACK:
            abort(403, "This server answers to this machine's own name only.")
        origin = request.headers.get("Origin")
        if origin is not None and urlsplit(origin).netloc != request.host:
            abort(403, "This request comes from another site.")
        site = request.headers.get("Sec-Fetch-Site", "same-origin")
        if request.method not in SAFE and site not in ("same-origin", "none"):
            abort(403, "This request comes from another site.")

    @app.after_request
    def harden(response: Response) -> Response:
        style = f"'self' 'nonce-{g.nonce}'" if "nonce" in g else "'self'"
        response.headers.setdefault(
            "Content-Security-Policy",
            f"default-src 'none'; script-src 'self'; style-src {style}; img-src 'self' data:; font-src 'self'; "
            "connect-src 'self'; media-src 'self' blob:; base-uri 'none'; form-action 'self'; "
            "frame-ancestors 'none'; manifest-src 'self'",
        )
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        if request.path.startswith("/api/"):
            response.headers["Cache-Control"] = "no-store"
        return response
