"""A wished level as people say it: a level, so far down, watts, or a part of the whole."""

from __future__ import annotations

import re
from dataclasses import dataclass
from math import log2, log10
from typing import Literal

_NUMBER = r"(\d+(?:\.\d+)?)"
_PARTS = {
    "half": 1 / 2,
    "third": 1 / 3,
    "quarter": 1 / 4,
    "fifth": 1 / 5,
    "sixth": 1 / 6,
    "eighth": 1 / 8,
    "tenth": 1 / 10,
    "twentieth": 1 / 20,
    "hundredth": 1 / 100,
    "thousandth": 1 / 1000,
}
_TIMES = {"a": 1, "an": 1, "one": 1, "two": 2, "three": 3, "four": 4, "nine": 9, "": 1}
MOST_DBA = 140.0
MOST_WATTS = 10_000.0

HELP = (
    "Say a level (72 dBA), how far down (12 dB down), watts into the speaker (0.5 W), or a part (half the power, a"
    " quarter of the volts, half as loud)."
)


@dataclass(frozen=True)
class Wish:
    """What is wished for: a `level` in dBA, so many dB `down` from nothing between, or `watts` at the speaker."""

    kind: Literal["level", "down", "watts"]
    value: float


def read_wish(text: str) -> Wish:
    """A wish from words; a bare number is dBA. ValueError says what is understood.

    A part is of the power unless it says otherwise: dB down = −10·log10 of a part of the power, −20·log10 of the
    volts, −10·log2 of the loudness.
    """
    said = " ".join(text.lower().replace("−", "-").replace(",", ".").replace("½", "1/2").replace("¼", "1/4").split())
    found = _level(said) or _down(said) or _watts(said) or _part(said)
    if found is None:
        raise ValueError(f"Wanted: “{text.strip()}” is not understood. {HELP}")
    return found


MOST_DOWN_DB = 60.0


def read_down(text: str) -> float:
    """How many dB down a wish in words asks for, without a place: a bare number is dB. ValueError says what is wrong.

    A level or watts want a hook-up that they are of.
    """
    said = text.strip().replace("−", "-").replace(",", ".")
    if re.fullmatch(_NUMBER + "( ?db)?", said.lower()):
        said = f"{said.lower().removesuffix('db')} db down"
    try:
        wish = read_wish(said)
    except ValueError as error:
        raise ValueError(str(error).replace("Wanted", "Down by", 1)) from None
    if wish.kind == "down" and wish.value > MOST_DOWN_DB:
        raise ValueError(f"Down by: {wish.value:g} dB is over the most allowed, {MOST_DOWN_DB:g} dB.")
    if wish.kind != "down" or wish.value < 0:
        raise ValueError(f"Down by: 0 to {MOST_DOWN_DB:g} dB, or a part (half the power, half as loud) is wanted.")
    return wish.value


def _level(said: str) -> Wish | None:
    match = re.fullmatch(rf"{_NUMBER} ?(?:dba|db\(a\)|db a)?", said)
    if match is None:
        return None
    if float(match[1]) > MOST_DBA:
        raise ValueError(f"Wanted: {match[1]} dBA is more than {MOST_DBA:g}.")
    return Wish("level", float(match[1]))


def _down(said: str) -> Wish | None:
    match = re.fullmatch(rf"([-+]?) ?{_NUMBER} ?db( down| up| less| more)?", said)
    if match is None:
        return None
    sign, number, way = match[1], float(match[2]), (match[3] or "").strip()
    if not sign and not way:
        raise ValueError(f"Wanted: is “{match[2]} dB” a level (dBA), or how far down (−{match[2]} dB)? Say which.")
    if number > MOST_DBA:
        raise ValueError(f"Wanted: {match[2]} dB is more than {MOST_DBA:g}.")
    return Wish("down", -number if sign == "+" or way in ("up", "more") else number)


def _watts(said: str) -> Wish | None:
    match = re.fullmatch(rf"{_NUMBER} ?(m|k)?w(?:atts?)?", said)
    if match is None:
        return None
    watts = float(match[1]) * {"m": 1e-3, "k": 1e3}.get(match[2], 1.0)
    if not 0 < watts <= MOST_WATTS:
        raise ValueError(f"Wanted: watts from just over 0 to {MOST_WATTS:,.0f} are understood.")
    return Wish("watts", watts)


def _part(said: str) -> Wish | None:
    if said in ("full", "all of it", "nothing between"):
        return Wish("down", 0.0)
    match = re.fullmatch(
        r"(?P<part>.+?)(?: (?:of )?(?:the )?(?P<of>power|watts|volts|voltage|loudness)| (?P<as>as loud))?", said
    )
    part = _fraction(match["part"]) if match else None
    if match is None or part is None:
        return None
    if not 0 < part <= 1:
        raise ValueError("Wanted: a part is more than nothing and at most all of it.")
    if match["as"] or match["of"] == "loudness":
        return Wish("down", -10 * log2(part))
    return Wish("down", (-20 if match["of"] in ("volts", "voltage") else -10) * log10(part))


def _fraction(words: str) -> float | None:
    if match := re.fullmatch(rf"{_NUMBER} ?%", words):
        return float(match[1]) / 100
    if match := re.fullmatch(r"(\d{1,4})/(\d{1,4})", words):
        return int(match[1]) / int(match[2]) if int(match[2]) else None
    *before, last = words.split()
    part = _PARTS.get(last) or _PARTS.get(last.removesuffix("s"))
    times = _TIMES.get(" ".join(before))
    return None if part is None or times is None else times * part
