"""What a speaker's sound is like against a reference, in words."""

from __future__ import annotations

from dataclasses import asdict

from low_tide.core.cab.impulse import ToneBands
from low_tide.core.units import figure

TOLD_DB, STRONG_DB = 2.0, 4.0
NAMES = {"low": "low end", "low_mid": "low middle", "presence": "presence", "top": "top"}
MEANS = {
    ("low", False): ("lean: room for the bass", "thin: the weight is gone"),
    ("low", True): ("round", "boomy: it fights the bass"),
    ("low_mid", False): ("clear", "hollow"),
    ("low_mid", True): ("warm", "boxy: it muddies a chord"),
    ("presence", False): ("it stands back", "it sits behind everything else"),
    ("presence", True): ("it comes forward", "it cuts, and may be harsh"),
    ("top", False): ("smooth", "no sizzle"),
    ("top", True): ("airy", "fizzy"),
}
"""What a band that stands under or over the reference sounds like: a little, and much."""


def band_report(tone: ToneBands, reference: ToneBands, called: str) -> tuple[str, ...]:
    """'The top is 5 dB under the rest of your library: no sizzle.', the farthest off first; one sentence where nothing
    is 2 dB off. Both with their programme at 0 dB; `called`: the reference in words."""
    there = asdict(reference)
    apart = sorted(((value - there[name], name) for name, value in asdict(tone).items()), key=lambda d: -abs(d[0]))
    said = []
    for by, name in apart:
        if abs(by) < TOLD_DB:
            continue
        means = MEANS[name, by > 0][abs(by) >= STRONG_DB]
        said.append(f"The {NAMES[name]} is {figure(abs(by), 2)} dB {'over' if by > 0 else 'under'} {called}: {means}.")
    return tuple(said) or (f"It is like {called}: no band is {TOLD_DB:g} dB off.",)
