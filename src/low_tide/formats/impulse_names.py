"""What the name of an impulse response's file says of cabinet, microphone and distance."""

from __future__ import annotations

import re
from dataclasses import dataclass

from low_tide.formats.file_names import LONGEST

INCH_CM = 2.54
KINDS = (
    ("moving coil", r"moving[ -]?coil|dynamic|dyn"),
    ("ribbon", r"ribbon|rib"),
    ("condenser", r"condenser|cond|ldc|sdc"),
    ("measurement", r"measurement|meas|omni"),
)
AXES = (
    ("off axis", r"off[ -]?axis|off"),
    ("on axis", r"on[ -]?axis|axis"),
    ("edge", r"cap[ -]?edge|edge"),
    ("cone", r"cone"),
    ("cap", r"dust[ -]?cap|cap|centre|center"),
    ("rear", r"rear|back"),
)
ROOMS = (("room", r"room|amb|ambient|far"), ("dead", r"anechoic|dead"))
CABINET = re.compile(r"(?<!\d)([1-8])\s*[x×]\s*(8|10|12|15)(?!\d)", re.IGNORECASE)
BACK = (("open", r"open"), ("closed", r"closed"))
DISTANCE = re.compile(r"(?<![\w.])(\d+(?:[.,]\d+)?)\s*(cm|mm|m|in|inch|\"|ft)(?![\w])", re.IGNORECASE)
CENTIMETRES = {"cm": 1.0, "mm": 0.1, "m": 100.0, "in": INCH_CM, "inch": INCH_CM, '"': INCH_CM, "ft": 12 * INCH_CM}
DEGREES = re.compile(r"(?<!\d)(\d{1,2})\s*(?:deg|°)", re.IGNORECASE)


@dataclass(frozen=True)
class NamedImpulse:
    """What a name says; empty, or None, where it says nothing. `distance` in cm."""

    name: str
    cabinet: str
    microphone: str
    distance: float | None
    axis: str
    room: str


def _which(words: str, among: tuple[tuple[str, str], ...]) -> str:
    found = (name for name, pattern in among if re.search(rf"(?<![a-z])(?:{pattern})(?![a-z])", words, re.IGNORECASE))
    return next(found, "")


def named(file_name: str) -> NamedImpulse:
    """What a file's name says of an impulse response, its folders with it: closed 4x12, ribbon, 15 cm, on axis."""
    path = file_name.replace("\\", "/")
    base = re.sub(r"\.[A-Za-z0-9]{1,5}$", "", path.rsplit("/", 1)[-1])
    name = (re.sub(r"[_\s]+", " ", base).strip(" -") or "impulse response")[:LONGEST].strip()
    here = re.sub(r"[_\-]+", " ", base)
    words = re.sub(r"[_\-/]+", " ", f"{path.rpartition('/')[0]} {base}")
    size, back = CABINET.search(here) or CABINET.search(words), _which(words, BACK)
    first = here[: size.start()].rsplit(",", 1)[-1].split()[-2:] if size and size[0] in here else []
    maker = [w for w in first if w.lower() not in ("open", "closed", "back")]
    distance, degrees = DISTANCE.search(words), DEGREES.search(words)
    return NamedImpulse(
        name=name,
        cabinet=" ".join(w for w in (*maker, back, f"{size[1]}×{size[2]}") if w) if size else "",
        microphone=_which(words, KINDS),
        distance=_centimetres(distance) if distance else None,
        axis=f"{degrees[1]}°" if degrees else _which(words, AXES),
        room=_which(words, ROOMS),
    )


def _centimetres(found: re.Match[str]) -> float | None:
    value = float(found[1].replace(",", ".")) * CENTIMETRES[found[2].lower()]
    return round(value, 2) if 0 < value <= 1000 else None
