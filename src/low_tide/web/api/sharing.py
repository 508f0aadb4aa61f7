"""Sharing with devices on the network, over HTTP: at the desk, and at the device that wants to be let in."""

from __future__ import annotations

from typing import Annotated

import segno
from flask import Response, request
from pydantic import Field

from low_tide.app.sharing import CODE_LENGTH, IDLE_DAYS, MOST_NAME, Device, Scope, SharingState
from low_tide.web.access import PAIR, cookie, device, sharing
from low_tide.web.api.base import Model, Strict, Whole, api, reply, reply_root

COOKIE_S = IDLE_DAYS * 24 * 3600


class ShareBody(Strict):
    """Addresses of this machine to share on; none ends it."""

    addresses: Annotated[list[Annotated[str, Field(max_length=64)]], Field(max_length=32)]


class PairingBody(Strict):
    scope: Scope


class PairBody(Strict):
    """The code as it is shown at the desk, and what the device is to be called."""

    code: Annotated[str, Field(max_length=2 * CODE_LENGTH)]
    name: Annotated[str, Field(max_length=4 * MOST_NAME)]


class DevicePath(Model):
    device_id: Annotated[str, Field(max_length=32)]


class SharingOut(Whole[SharingState]):
    pass


class QrCode(Model):
    """A square of dark (1) and light (0) modules, row by row, without the quiet zone; `says` is what it holds."""

    says: str
    size: int
    rows: list[str]


class QrCodes(Model):
    codes: list[QrCode]


class Paired(Model):
    """Whether this device is paired; whether what it sends can be listened to."""

    paired: bool
    device: Device | None
    encrypted: bool


@api.get("/sharing", responses={200: SharingOut})
def sharing_get() -> Response:
    return reply_root(SharingOut, sharing().state())


@api.put("/sharing", responses={200: SharingOut})
def sharing_put(body: ShareBody) -> Response:
    """Share on these addresses and no others; on none, sharing ends."""
    if body.addresses:
        sharing().begin(body.addresses)
    else:
        sharing().end()
    return sharing_get()


@api.post("/sharing/pairing", responses={200: SharingOut})
def sharing_pairing(body: PairingBody) -> Response:
    sharing().open_pairing(body.scope)
    return sharing_get()


@api.delete("/sharing/pairing", responses={200: SharingOut})
def sharing_close() -> Response:
    sharing().close_pairing()
    return sharing_get()


@api.get("/sharing/pairing/qr", responses={200: QrCodes})
def sharing_qr() -> Response:
    """The open pairing as QR codes, one for every address: its page, with the code where no server sees it."""
    state = sharing().state()
    codes = []
    for each in state.listening if state.pairing else ():
        says = f"{each.url.rstrip('/')}{PAIR}#{state.pairing.code if state.pairing else ''}"
        rows = ["".join(map(str, row)) for row in segno.make_qr(says, error="m").matrix]
        codes.append(QrCode(says=says, size=len(rows), rows=rows))
    return reply(QrCodes, {"codes": codes})


@api.delete("/sharing/devices/<device_id>", responses={200: SharingOut})
def sharing_shut_out(path: DevicePath) -> Response:
    sharing().shut_out(path.device_id)
    return sharing_get()


@api.get("/pair", responses={200: Paired})
def pair_get() -> Response:
    return reply(Paired, {"paired": device() is not None, "device": device(), "encrypted": request.is_secure})


@api.post("/pair", responses={201: Paired})
def pair(body: PairBody) -> Response:
    """Let this device in by the code; from then on it is known by a cookie."""
    address = request.remote_addr or ""
    token = sharing().pair(body.code, body.name, address)
    found = sharing().device_of(token, address)
    answer = reply(Paired, {"paired": True, "device": found, "encrypted": request.is_secure}, 201)
    answer.set_cookie(
        cookie(), token, max_age=COOKIE_S, path="/", secure=request.is_secure, httponly=True, samesite="Strict"
    )
    return answer
