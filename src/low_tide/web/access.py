"""Who asks, and what he may ask for: the desk, a device that was let in, or nobody that is known."""

from __future__ import annotations

from collections.abc import Mapping
from ipaddress import ip_address
from typing import Any

from flask import Flask, Response, abort, current_app, g, redirect, request
from werkzeug.http import parse_cookie
from werkzeug.wrappers import Response as AnyResponse

from low_tide.app import live
from low_tide.app.sharing import Device, NotPaired, Scope, Sharing
from low_tide.store.home import Home, installation
from low_tide.web.security import SAFE, is_loopback

WINDOW = "Low-Tide-Window"
"""The header that names the open page; only a page of the program's own can send it."""
PAIR = "/pair"

DESK_ONLY = (
    "/api/data",
    "/api/backups",
    "/api/uploads/<upload>/contents",
    "/api/restore",
    "/api/sharing",
    "/api/lightship",
)
"""What only the desk may, and with it everything beneath: it takes all data away, or puts others in their place."""
ANYBODY = (PAIR, "/api/pair", "/assets/<path:name>", "/icon.svg", "/robots.txt", "/sw.js")
"""What nobody needs to be known for. None of it holds a word of anybody's data."""
WITHOUT_WINDOW = ("/api/attachments/<int:attachment_id>",)
"""Pictures, which a page cannot ask for with a header: kept as they are, and worth no work."""

_LOG = (
    "/api/sessions",
    "/api/takes",
    "/api/lines",
    "/api/log",
    "/api/attachments",
    "/api/recordings",
    "/api/uploads",
    "/api/neighbours",
)
_RUN = ("/api/timers", "/api/kit", "/api/run", "/api/faults", "/api/suspects", "/api/live", "/api/readings")
RUN_SHEET_AND_LOG = (*_LOG, *_RUN)
"""What a device for the run sheet and the log may, and everything beneath."""
OF_A_HOOKUP = ("run", "faults", "readings", "meter", "thermometer", "loudness", "notice")
"""The same, of a hook-up: what follows `/api/hookups/<hookup_id>/`."""
BUT_NOT = {
    ("DELETE", "/api/sessions/<int:session_id>"),
    ("DELETE", "/api/takes/<int:take_id>"),
    ("POST", "/api/sessions/contents"),
    ("POST", "/api/sessions/open"),
    ("POST", "/api/takes/<int:take_id>/recall"),
    ("POST", "/api/neighbours/limits/<place_id>"),
}
"""Of that, what takes a record away, or reaches into hook-ups and gear."""
TO_READ = ("/api/hookups", "/api/hookups/<hookup_id>", "/api/about", "/api/preferences", "/api/kinds", "/api/ears")
"""What it may read besides."""


def may(scope: Scope | None, method: str, rule: str) -> bool:
    """Whether a device may ask for a route, by its rule as it is registered; None: one that is not known."""
    if rule in ANYBODY:
        return True
    if scope is None or _beneath(rule, DESK_ONLY):
        return False
    if scope == "all" or not rule.startswith("/api/"):
        return True
    of_hookup = rule.removeprefix("/api/hookups/<hookup_id>/")
    if of_hookup != rule:
        return of_hookup.split("/")[0].split(".")[0] in OF_A_HOOKUP
    mine = _beneath(rule, RUN_SHEET_AND_LOG) and (method, rule) not in BUT_NOT
    return mine or (method in SAFE and rule in TO_READ)


def _beneath(rule: str, tops: tuple[str, ...]) -> bool:
    return any(rule == top or rule.startswith((f"{top}/", f"{top}.")) for top in tops)


def sharing() -> Sharing:
    found: Sharing = current_app.config["SHARING"]
    return found


def cookie() -> str:
    """The name of the cookie that holds a device's token."""
    return _cookie(current_app.config, request.is_secure)


def _cookie(config: Mapping[str, Any], is_secure: bool) -> str:
    """Another in every data folder, since cookies know no ports."""
    home: Home = config["OWN"] or config["HOME_FOLDER"]
    return f"{'__Host-' if is_secure else ''}low-tide-{installation(home)}"


def is_let_in(app: Flask, cookies: str, is_secure: bool) -> bool:
    """Whether a Cookie header is that of a device that is let in, before anything else of its request is read."""
    sharing: Sharing = app.config["SHARING"]
    return sharing.knows(parse_cookie(cookies).get(_cookie(app.config, is_secure), ""))


def device() -> Device | None:
    """The device that asks; None for the desk."""
    found: Device | None = g.get("device")
    return found


def _is_desk() -> bool:
    """At this machine: by the address it comes from and by the name it asks for; no page elsewhere has both."""
    if not is_loopback(request.host):
        return False
    try:
        peer = ip_address(request.remote_addr or "")
    except ValueError:
        peer = None
    if peer is None or not peer.is_loopback:
        abort(403, "This server answers to this machine's own name at this machine only.")
    return True


def _not_paired() -> AnyResponse:
    """For who is not known: the page to pair at, or a refusal."""
    if request.path.startswith("/api/"):
        raise NotPaired("This device is not paired, or not any more. Pair it again at the desk.")
    return redirect(PAIR, 302)


def _refused_from_network() -> str | None:
    """What is wrong with how a device asks, before it is asked who it is."""
    if not request.path.startswith("/api/"):
        return None
    if request.method not in SAFE and request.headers.get("Origin") is None:
        return "This request does not say which page it comes from."
    rule = str(request.url_rule) if request.url_rule else ""
    if WINDOW not in request.headers and not (request.method in SAFE and rule in WITHOUT_WINDOW):
        return "This request does not come from a page of Low Tide."
    return None


def guard(app: Flask) -> None:
    """The desk may do everything; a device on the network what it was paired for; nobody else anything."""

    @app.before_request
    def who_asks() -> AnyResponse | Response | None:
        live.window.set(request.headers.get(WINDOW, "")[:64])
        g.device, g.known = None, _is_desk()
        if g.known:
            return None
        if request.host.lower() not in sharing().hosts:
            abort(403, "This server answers to this machine's own name only.")
        wrong = _refused_from_network()
        if wrong:
            abort(403, wrong)
        token = request.cookies.get(cookie(), "")
        g.device = sharing().device_of(token, request.remote_addr or "") if token else None
        g.known = g.device is not None
        rule = str(request.url_rule) if request.url_rule else "/"
        if may(g.device.scope if g.device else None, request.method, rule):
            return None
        if g.device is None:
            return _not_paired()
        if _beneath(rule, DESK_ONLY):
            abort(403, "This can be done at the desk only.")
        abort(403, "This device may not do that: it was let in for the run sheet and the log.")

    @app.after_request
    def take_away(response: Response) -> Response:
        """From who is not known any more, what he was known by."""
        if response.status_code == 401 and cookie() in request.cookies:
            response.delete_cookie(cookie(), httponly=True, samesite="Strict", secure=request.is_secure)
        return response
